"""F13 and its siblings: a clean sine, one that rings, one that stops or comes within the capture, a stepped wave; with and without noise."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.sessions import Place
from muster.core.supply import SYSTEMS
from muster.core.timeline.captures import Capture, CaptureFeatures, read_capture
from muster.core.timeline.captures.waveform import Shape
from muster.core.timeline.traces import Channel
from muster.core.trade.waves import HIGHEST
from tests.examples import examples

SYSTEM, STEP_S, NOMINAL = SYSTEMS["single-230-50"], 1 / 20_000, 230.0
T_S = np.arange(0, 1, STEP_S)
SINE = NOMINAL * np.sqrt(2) * np.sin(2 * np.pi * 50 * T_S)


def read(volts: np.ndarray) -> CaptureFeatures:
    return read_capture(Capture("x", "scope", 0.0, STEP_S, (Channel("v", Place.LEG1),), volts[None].astype(np.float32)), SYSTEM)  # fmt: skip


def test_a_clean_sine_is_clean_and_the_same_with_6_per_cent_at_3_1_khz_rings() -> None:
    (clean,) = read(SINE).waves
    assert (clean.wave.shape, round(clean.wave.residual_pct, 2)) == (Shape.SINE, 0)
    (rings,) = read(SINE + 0.06 * NOMINAL * np.sqrt(2) * np.sin(2 * np.pi * 3100 * T_S)).waves
    assert rings.wave.shape is Shape.RINGING
    assert rings.wave.residual_pct == pytest.approx(6.0, abs=0.01)
    assert rings.wave.thd_pct == pytest.approx(0, abs=0.01)
    assert rings.wave.distortion_pct == pytest.approx(6.0, abs=0.01)


def test_a_sine_that_stops_is_judged_by_the_part_that_runs_and_so_is_one_that_comes() -> None:
    stops = read(np.where(T_S < 0.4, SINE, 0.0))
    assert [(round(at.wave.hz, 2), at.wave.shape) for at in stops.waves] == [(50.0, Shape.SINE)]
    (end,) = stops.ends
    assert end.t_s == pytest.approx(0.4, abs=0.01)
    assert end.rises_pct == pytest.approx(0, abs=0.5)
    comes = read(np.where(T_S > 0.55, SINE, 0.0))
    assert [(round(at.wave.hz, 2), round(at.wave.thd_pct, 1)) for at in comes.waves] == [(50.0, 0.0)]


def test_volts_that_fall_meanwhile_are_no_ringing() -> None:
    (wave,) = [at.wave for at in read(SINE * (1 - 0.08 * T_S)).waves[:1]]
    assert wave.residual_pct < 0.2


@pytest.mark.parametrize("above_pct", [2.5, 3.5])
def test_more_than_3_per_cent_above_the_40th_harmonic_is_no_clean_sine(above_pct: float) -> None:
    (seen,) = read(SINE + above_pct / 100 * NOMINAL * np.sqrt(2) * np.sin(2 * np.pi * 2780 * T_S)).waves
    assert (seen.wave.shape is Shape.RINGING) == (above_pct > 3)


@given(st.integers(2, HIGHEST), st.floats(0.3, 4.5), st.floats(0, 6.28), st.floats(48.5, 51.5))
@settings(max_examples=examples(20), deadline=None)
def test_a_harmonic_to_the_40th_is_distortion_and_never_ringing(
    order: int, pct: float, phase: float, hz: float
) -> None:
    wave = np.sin(2 * np.pi * hz * T_S) + pct / 100 * np.sin(2 * np.pi * order * hz * T_S + phase)
    (seen,) = read(NOMINAL * np.sqrt(2) * wave).waves
    assert seen.wave.thd_pct == pytest.approx(pct, abs=0.05)
    assert seen.wave.residual_pct < 0.05
    assert seen.wave.shape is Shape.SINE
