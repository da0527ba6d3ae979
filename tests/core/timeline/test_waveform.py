"""Waveforms taken apart: known harmonics come back, known shapes are known, what cannot be judged is refused."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.errors import OutOfRange
from muster.core.timeline.captures.waveform import Shape, fundamental_hz, waveform_of
from muster.core.trade.waves import stepped_harmonic, stepped_thd_pct
from muster.twin.waves import Waveshape, samples
from tests.examples import examples

RATE = 20_000.0


def sampled(
    wave: Waveshape, hz: float = 50.0, rms: float = 230.0, noise: float = 0.0, seconds: float = 0.4, rate: float = RATE
) -> np.ndarray:
    return samples(wave, rms, hz, rate, seconds, np.random.default_rng(7), noise)


def limited(conduction: float, hz: float, rate: float = RATE, seconds: float = 0.4) -> np.ndarray:
    """A three-level wave made of its harmonics to the 40th: what a scope with a filter sees."""
    t = np.arange(round(rate * seconds)) / rate
    parts = [
        stepped_harmonic(n, conduction) * np.cos(2 * np.pi * n * (hz * t - 0.1)) * (1 if n % 4 == 1 else -1)
        for n in range(1, 40, 2)
    ]
    return 325 * np.sum(parts, axis=0)


def test_a_clean_sine_is_one() -> None:
    found = waveform_of(sampled(Waveshape()), 1 / RATE, 50)
    assert found.shape is Shape.SINE
    assert found.thd_pct < 0.02
    assert (found.hz, found.cycles) == (pytest.approx(50, abs=1e-3), 10)
    assert found.rms == pytest.approx(230, rel=1e-4)
    assert found.crest == pytest.approx(math.sqrt(2), rel=1e-3)
    assert found.dc == pytest.approx(0, abs=0.01)


@settings(max_examples=examples(80))
@given(st.floats(48, 62), st.floats(0, 0.2), st.floats(0, 0.2), st.floats(0, 0.1), st.floats(0, 0.5))
def test_known_harmonics_come_back_whatever_the_hertz(
    hz: float, third: float, fifth: float, seventh: float, noise: float
) -> None:
    """Within 0.1 point of distortion, with noise of a fifth of a percent and at any speed of the engine."""
    harmonics = ((3, third), (5, fifth), (7, seventh))
    found = waveform_of(sampled(Waveshape(harmonics=harmonics), hz, noise=noise), 1 / RATE, 50 if hz < 55 else 60)
    true = math.sqrt(sum(share**2 for _, share in harmonics)) * 100
    assert found.thd_pct == pytest.approx(true, abs=0.1)
    assert found.hz == pytest.approx(hz, abs=0.01)
    for order, share in harmonics:
        assert found.harmonics[order - 2].pct == pytest.approx(share * 100, abs=0.05)


@pytest.mark.parametrize(("conduction", "thd_pct"), [(1.0, 47.03), (2 / 3, 29.68), (3 / 4, 27.69)])
@pytest.mark.parametrize("hz", [50.0, 49.3, 60.0])
def test_square_and_stepped_waves_have_the_distortion_of_their_series(
    conduction: float, thd_pct: float, hz: float
) -> None:
    assert stepped_thd_pct(conduction) == pytest.approx(thd_pct, abs=0.01)
    found = waveform_of(limited(conduction, hz), 1 / RATE, round(hz, -1))
    assert found.thd_pct == pytest.approx(thd_pct, abs=0.1)


@pytest.mark.parametrize(
    ("wave", "shape"),
    [
        (Waveshape(), Shape.SINE),
        (Waveshape(harmonics=((3, 0.065),)), Shape.ROUGH),
        (Waveshape(harmonics=((3, 0.11), (5, 0.06))), Shape.DISTORTED),
        (Waveshape("flat", flat_at=0.55), Shape.DISTORTED),
        (Waveshape("stepped"), Shape.STEPPED),
        (Waveshape("stepped", conduction=0.75), Shape.STEPPED),
        (Waveshape("square"), Shape.SQUARE),
    ],
)
def test_each_kind_of_wave_is_known_through_its_noise(wave: Waveshape, shape: Shape) -> None:
    for hz in (50.0, 51.7):
        assert waveform_of(sampled(wave, hz, noise=0.8, rate=50_000), 1 / 50_000, 50).shape is shape


def test_a_level_beneath_the_wave_is_told_and_distorts_nothing() -> None:
    found = waveform_of(sampled(Waveshape()) + 12, 1 / RATE, 50)
    assert found.dc == pytest.approx(12, abs=0.05)
    assert found.thd_pct < 0.02


@pytest.mark.parametrize("hz", [44.0, 50.0, 57.3, 66.0])
def test_the_hertz_are_found_from_a_guess_that_is_off(hz: float) -> None:
    assert fundamental_hz(
        sampled(Waveshape(harmonics=((3, 0.2),)), hz), 1 / RATE, 50 if hz < 55 else 60
    ) == pytest.approx(hz, abs=0.01)


def test_what_cannot_be_judged_is_refused_with_its_reason() -> None:
    with pytest.raises(OutOfRange, match="whole cycles"):
        waveform_of(sampled(Waveshape(), seconds=0.05), 1 / RATE, 50)
    with pytest.raises(OutOfRange, match="cuts the wave off"):
        waveform_of(np.clip(sampled(Waveshape()), -250, 250), 1 / RATE, 50)
    with pytest.raises(OutOfRange, match="samples a cycle"):
        waveform_of(sampled(Waveshape(), rate=2000), 1 / 2000, 50)
    with pytest.raises(OutOfRange, match="level"):
        waveform_of(np.ones(5000), 1 / RATE, 50)


def test_a_stepped_wave_without_noise_is_not_taken_for_a_clipped_one() -> None:
    assert waveform_of(sampled(Waveshape("stepped"), 50.1), 1 / RATE, 50).shape is Shape.STEPPED
    assert waveform_of(sampled(Waveshape("square"), 50.1), 1 / RATE, 50).shape is Shape.SQUARE
