"""Captures: RMS by the cycle, and a start read off it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.errors import MusterError, OutOfRange
from muster.core.kit import USUAL_KIT
from muster.core.quantities import Bound
from muster.core.sessions import Place
from muster.core.timeline.captures import Capture, start_in, track_of
from muster.core.timeline.captures.start import bound_by
from muster.core.timeline.traces import Channel

V1 = Channel("v", Place.LEG1)


def sine(rms: float, hz: float, rate: float, seconds: float, phase: float = 0.0) -> np.ndarray:
    t = np.arange(round(rate * seconds)) / rate
    return rms * np.sqrt(2) * np.sin(2 * np.pi * hz * t + phase)


@given(st.floats(1, 300), st.floats(45, 65), st.floats(2_000, 20_000), st.floats(0, 6.3))
def test_the_rms_of_a_sine_is_that_of_each_of_its_cycles(rms: float, hz: float, rate: float, phase: float) -> None:
    track = track_of(sine(rms, hz, rate, 0.3, phase), 1 / rate, 5.0, hz)
    assert track.rms == pytest.approx(rms, rel=0.005)
    assert np.diff(track.t_s) == pytest.approx(0.5 / hz)
    assert track.t_s[0] == pytest.approx(5.0 + 0.5 / hz, abs=1 / rate)


def test_a_dip_of_half_a_second_is_as_deep_and_as_long_as_it_was() -> None:
    rate, hz = 5000.0, 60.0
    wave = np.concatenate([sine(120, hz, rate, 1), sine(90, hz, rate, 0.5), sine(120, hz, rate, 1)])
    track = track_of(wave, 1 / rate, 0.0, hz)
    assert track.rms.min() == pytest.approx(90, rel=0.005)
    low = track.t_s[track.rms < 0.9 * 120]
    assert low[-1] - low[0] == pytest.approx(0.5, abs=0.5 / hz + 0.5 / hz)


def test_too_few_samples_give_no_rms() -> None:
    with pytest.raises(OutOfRange, match="a cycle"):
        track_of(np.ones(100), 0.005, 0.0, 50)
    with pytest.raises(OutOfRange):
        track_of(np.ones(50), 1e-4, 0.0, 50)


def motor(base_a: float = 5.0, add_a: float = 8.0, inrush_a: float = 40.0) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A motor switched on at 2 s: 0.4 s of inrush behind 0.8 Ω."""
    t = np.arange(0, 6, 0.01)
    amps = base_a + np.where(t < 2, 0, np.where(t < 2.4, inrush_a, add_a))
    return t, 120 - 0.8 * (amps - base_a), amps


def test_a_start_is_read_off_before_lowest_settled_and_recovery() -> None:
    t, volts, amps = motor()
    seen = start_in(t, volts, amps, near_s=1.8)
    assert seen is not None
    assert seen.at_s == pytest.approx(2.0)
    assert (seen.before_v, seen.lowest_v) == (pytest.approx(120), pytest.approx(88))
    assert seen.settled_v == pytest.approx(113.6)
    assert seen.dip_pct == pytest.approx(26.7, abs=0.1)
    assert seen.inrush_x == pytest.approx(5.0)
    assert seen.back_s == pytest.approx(0.4, abs=0.02)


def test_a_small_load_on_a_large_base_is_a_start_too() -> None:
    seen = start_in(*motor(base_a=30, add_a=1.2, inrush_a=1.2), near_s=2.0)
    assert seen is not None
    assert seen.settled_a - seen.before_a == pytest.approx(1.2)


def test_what_went_off_before_is_not_taken_for_what_stood_before_the_start() -> None:
    t, volts, amps = motor(base_a=1.0)
    amps = amps + np.where(t < 1.3, 13.0, 0.0)
    seen = start_in(t, volts, amps, near_s=1.9)
    assert seen is not None
    assert seen.before_a == pytest.approx(1.0)


def test_where_nothing_steps_up_there_is_no_start() -> None:
    t, volts, amps = motor(add_a=0, inrush_a=0)
    assert start_in(t, volts, amps, near_s=2.0) is None
    assert start_in(t[:3], volts[:3], amps[:3], near_s=0.0) is None
    assert start_in(t, np.full_like(t, np.nan), amps, near_s=2.0) is None


def test_a_start_that_does_not_come_back_says_so() -> None:
    t, volts, amps = motor()
    volts = np.where(t > 5.8, 90.0, volts)
    seen = start_in(t, volts, amps, near_s=2.0)
    assert seen is not None
    assert seen.back_s is None


def test_a_log_slower_than_the_start_gives_a_bound() -> None:
    meter = next(i for i in USUAL_KIT if i.slug == "meter")
    assert bound_by(meter, 0.1, 0.25) is Bound.AT_MOST
    assert bound_by(meter, 0.1, 0.4) is None


def test_a_capture_is_cut_to_a_stretch() -> None:
    capture = Capture("x", "scope", 10.0, 0.001, (V1,), np.arange(1000, dtype=np.float32)[None, :])
    part = capture.between(10.2, 10.3)
    assert part is not None
    assert (part.t_s, part.end_s) == (pytest.approx(10.2), pytest.approx(10.3))
    assert part.values[0][0] == 200
    assert capture.between(12, 13) is None
    assert capture.of(Channel("hz")) is None


@pytest.mark.parametrize(
    ("channels", "shape", "step_s"),
    [((V1,), (2, 5), 0.1), ((V1, V1), (2, 5), 0.1), ((V1,), (1, 1), 0.1), ((V1,), (1, 5), 0.0), ((), (0, 5), 0.1)],
)
def test_a_capture_that_cannot_be_is_refused(
    channels: tuple[Channel, ...], shape: tuple[int, int], step_s: float
) -> None:
    with pytest.raises(MusterError):
        Capture("x", "scope", 0.0, step_s, channels, np.zeros(shape, np.float32))
