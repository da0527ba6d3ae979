"""What a capture shows, to the half cycle: dips, breaks, how it ends, its distortion; on waves made so that the truth is known."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.errors import OutOfRange
from muster.core.quantities import Bound
from muster.core.sessions import Place
from muster.core.timeline.captures import Capture, read_capture
from muster.core.timeline.captures.cycles import cycles_of
from muster.core.timeline.captures.events import ending, volt_events
from muster.core.timeline.captures.waveform import Shape, waveform_of
from muster.core.timeline.traces import Channel
from muster.twin.waves import Waveshape, samples
from tests.examples import examples

from ..build import SINGLE

RATE = 10_000
ODD = (3, 5, 7, 11)


def wave(
    seed: int, hz: float, seconds: float, harmonics: bool = True, noise: float = 0.0
) -> tuple[np.ndarray, np.ndarray]:
    """Volts of RMS 230 with harmonics, a drift of hertz and noise; and their times."""
    rng = np.random.default_rng(seed)
    t = np.arange(round(seconds * RATE)) / RATE
    phase = 2 * np.pi * (hz * t + rng.uniform(-0.5, 0.5) * t**2) + rng.uniform(0, 7)
    x = np.sin(phase)
    for order in ODD if harmonics else ():
        x = x + rng.uniform(0, 0.04) * np.sin(order * phase + rng.uniform(0, 7))
    return t, 230 * x / np.sqrt(np.mean(x**2)) + rng.normal(0, noise * 230, t.size)


@settings(max_examples=examples(60))
@given(
    st.integers(0, 10**6),
    st.sampled_from([50.0, 60.0]),
    st.floats(0.97, 1.03),
    st.floats(0.12, 0.85),
    st.floats(2.0, 20.0),
    st.floats(0.0, 0.004),
)
def test_a_dip_is_read_to_half_a_percent_and_half_a_cycle(
    seed: int, nominal: float, off: float, left: float, cycles: float, noise: float
) -> None:
    t, volts = wave(seed, nominal * off, 1.2, noise=noise)
    begin, length = 0.41, cycles / nominal
    inside = (t >= begin) & (t < begin + length)
    (dip,) = volt_events(np.where(inside, volts * left, volts), 1 / RATE, 0.0, Place.LEG1, 230.0, nominal)
    assert dip.kind == "dip"
    assert abs(dip.extreme_v - 230 * left) <= 0.005 * 230
    assert abs(dip.duration_s - length) <= 0.5 / nominal
    assert abs(dip.t0_s - begin) <= 0.5 / nominal


def test_a_break_is_no_dip_and_a_short_dip_is_a_bound() -> None:
    t, volts = wave(1, 50.0, 1.0)
    gone = np.where((t > 0.4) & (t < 0.5), 0.0, volts)
    (event,) = volt_events(gone, 1 / RATE, 0.0, Place.LEG1, 230.0, 50.0)
    assert event.kind == "interruption"
    short = np.where((t > 0.4) & (t < 0.415), 0.5 * volts, volts)
    (event,) = volt_events(short, 1 / RATE, 0.0, Place.LEG1, 230.0, 50.0)
    assert event.bound is Bound.AT_MOST


def test_a_rise_is_told_as_one() -> None:
    t, volts = wave(2, 50.0, 1.0)
    (event,) = volt_events(np.where((t > 0.4) & (t < 0.6), 1.2 * volts, volts), 1 / RATE, 0.0, Place.LEG1, 230.0, 50.0)
    assert event.kind == "rise"
    assert event.extreme_v == pytest.approx(276, abs=1.2)


def test_the_phase_is_followed_through_a_break() -> None:
    t, volts = wave(3, 50.0, 1.0, harmonics=False)
    gone = np.where((t > 0.4) & (t < 0.5), 0.0, volts)
    crossings = cycles_of(gone, 1 / RATE, 50.0).crossing_s
    assert np.diff(crossings)[2:-2] == pytest.approx(0.01, abs=0.0008)


@settings(max_examples=examples(60))
@given(
    st.integers(0, 10**6),
    st.sampled_from([50.0, 60.0]),
    st.floats(0.97, 1.03),
    st.lists(
        st.tuples(st.integers(2, 38), st.floats(0.002, 0.06)), min_size=1, max_size=5, unique_by=lambda pair: pair[0]
    ),
)
def test_known_distortion_is_found_to_a_tenth_of_a_point(
    seed: int, nominal: float, off: float, harmonics: list[tuple[int, float]]
) -> None:
    rng = np.random.default_rng(seed)
    volts = samples(Waveshape(harmonics=tuple(harmonics)), 230, nominal * off, RATE, 0.3, rng, noise_v=0.5)
    found = waveform_of(volts, 1 / RATE, nominal)
    assert found.thd_pct == pytest.approx(100 * np.sqrt(sum(share**2 for _, share in harmonics)), abs=0.1)


def test_an_end_is_clean_or_ragged() -> None:
    rng = np.random.default_rng(4)
    volts = samples(Waveshape(), 230, 50, RATE, 1.6, rng)
    cut = volts.copy()
    cut[8000:] = 0.0
    clean = ending(cut, 1 / RATE, 0.0, 50.0)
    assert clean is not None
    assert not clean.ragged
    assert clean.t_s == pytest.approx(0.8, abs=0.02)
    ragged = ending(samples(Waveshape(), 230, 50, RATE, 1.6, rng, dies_at_s=0.6), 1 / RATE, 0.0, 50.0)
    assert ragged is not None
    assert ragged.ragged
    assert ending(volts, 1 / RATE, 0.0, 50.0) is None


def shot(volts: np.ndarray, name: str = "a capture", amps: np.ndarray | None = None) -> Capture:
    channels = (Channel("v", Place.LEG1),) if amps is None else (Channel("v", Place.LEG1), Channel("a", Place.LEG1))
    rows = [volts] if amps is None else [volts, amps]
    return Capture(name, "scope", 100.0, 1 / RATE, channels, np.stack(rows).astype(np.float32))


def test_a_clipped_capture_is_refused_with_its_reason_and_nothing_else_is_lost() -> None:
    _, volts = wave(5, 50.0, 0.5, harmonics=False)
    features = read_capture(shot(np.clip(volts, -300, 300)), SINGLE)
    assert features.waves == ()
    assert "wider range" in features.refused[0]


def test_two_cycles_are_too_few_to_judge() -> None:
    _, volts = wave(6, 50.0, 0.045)
    with pytest.raises(OutOfRange, match="whole cycles"):
        waveform_of(volts, 1 / RATE, 50.0)
    assert read_capture(shot(volts), SINGLE).waves == ()


def test_a_start_in_a_capture_is_read_cycle_by_cycle() -> None:
    t, volts = wave(7, 50.0, 2.0, harmonics=False)
    on = t > 0.6
    sag = np.where(on & (t < 1.0), 0.82, np.where(on, 0.98, 1.0))
    amps = np.where(on & (t < 1.0), 30.0, np.where(on, 6.0, 2.0)) * np.sqrt(2) * np.sin(2 * np.pi * 50 * t)
    (start,) = read_capture(shot(volts * sag, amps=amps), SINGLE).starts
    assert start.before_v == pytest.approx(230, abs=1.5)
    assert start.lowest_v == pytest.approx(0.82 * 230, abs=1.5)
    assert start.highest_a == pytest.approx(30, rel=0.02)
    assert start.t_s == pytest.approx(100.6, abs=0.02)


def test_a_stepped_wave_is_known_by_its_steps() -> None:
    rng = np.random.default_rng(8)
    features = read_capture(shot(samples(Waveshape("stepped", conduction=2 / 3), 230, 50, RATE, 0.3, rng, 0.3)), SINGLE)
    assert features.waves[0].wave.shape is Shape.STEPPED
    assert features.waves[0].wave.thd_pct == pytest.approx(29.7, abs=0.4)
