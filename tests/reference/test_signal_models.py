"""Sags, swells, interruptions, harmonics, ringing and notches by published parametric equations, held against what is read off them.

The equations are those in common use for power-quality signals, e.g. M. H. J. Bollen and I. Y. H. Gu, *Signal Processing
of Power Quality Disturbances*, Wiley-IEEE 2006, and R. Igual et al., "Integral mathematical model of power quality
disturbances", ICHQP 2018: ``v(t) = A·[1 − α·(u(t−t₁) − u(t−t₂))]·sin(ωt)`` for a sag, ``1 + α`` for a swell, ``α`` near 1
for an interruption, sums of ``αₙ·sin(nωt)`` for harmonics, ``α·e^(−(t−t₁)/τ)·sin(ωₙ(t−t₁))`` for an oscillatory transient.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.sessions import Place
from muster.core.supply import SYSTEMS, System
from muster.core.timeline.captures import Capture, CaptureFeatures, read_capture
from muster.core.timeline.captures.waveform import Shape
from muster.core.timeline.traces import Channel
from muster.core.trade.ride_through import VoltEventKind
from tests.examples import examples

RATE_HZ, LENGTH_S, NOISE = 12_800.0, 1.2, 0.001
"""Samples a second as IEC 61000-4-30 class A meters commonly take them, and noise as a share of nominal."""
SUPPLIES = (SYSTEMS["single-230-50"], SYSTEMS["single-120-60"])
RESIDUAL_PCT, LENGTH_CYCLES, THD_PT = 0.2, 0.5, 0.05


def read(system: System, share: np.ndarray, seed: int = 0) -> CaptureFeatures:
    """What is read off a wave given as a share of the nominal peak, with noise."""
    rng = np.random.default_rng(seed)
    volts = system.v_nominal * math.sqrt(2) * (share + NOISE * rng.standard_normal(share.size))
    capture = Capture("x", "scope", 0.0, 1 / RATE_HZ, (Channel("v", Place.LEG1),), volts[None].astype(np.float32))
    return read_capture(capture, system)


def times(system: System) -> tuple[np.ndarray, np.ndarray]:
    t_s = np.arange(0, LENGTH_S, 1 / RATE_HZ)
    return t_s, np.sin(2 * np.pi * system.hz * t_s)


@pytest.mark.parametrize("system", SUPPLIES, ids=lambda s: f"{s.hz:g} Hz")
@pytest.mark.parametrize(
    ("depth", "kind"),
    [(0.15, VoltEventKind.DIP), (0.45, VoltEventKind.DIP), (0.8, VoltEventKind.DIP), (-0.2, VoltEventKind.RISE)],
)
@pytest.mark.parametrize("cycles", [3, 12, 25])
def test_a_sag_or_a_swell_has_its_depth_and_its_length(
    system: System, depth: float, kind: VoltEventKind, cycles: int
) -> None:
    t_s, sine = times(system)
    t0_s = 0.4
    t1_s = t0_s + cycles / system.hz
    share = (1 - depth * ((t_s >= t0_s) & (t_s < t1_s))) * sine
    (event,) = read(system, share).events
    assert event.kind is kind
    assert event.residual_pct == pytest.approx(100 * (1 - depth), abs=RESIDUAL_PCT)
    assert event.duration_s == pytest.approx(t1_s - t0_s, abs=LENGTH_CYCLES / system.hz)


@pytest.mark.parametrize("system", SUPPLIES, ids=lambda s: f"{s.hz:g} Hz")
def test_an_interruption_is_told_from_a_sag(system: System) -> None:
    t_s, sine = times(system)
    share = (1 - 0.99 * ((t_s >= 0.4) & (t_s < 0.7))) * sine
    (event,) = read(system, share).events
    assert event.kind is VoltEventKind.INTERRUPTION
    assert event.duration_s == pytest.approx(0.3, abs=1 / system.hz)


@given(
    st.sampled_from(SUPPLIES),
    st.lists(st.floats(0.003, 0.08), min_size=1, max_size=4),
    st.integers(0, 1000),
    st.floats(-0.6, 0.6),
)
@settings(max_examples=examples(15), deadline=None)
def test_harmonics_come_to_their_distortion_at_any_hertz(
    system: System, shares: list[float], seed: int, off_hz: float
) -> None:
    rng = np.random.default_rng(seed)
    orders = rng.choice(np.arange(2, 40), len(shares), replace=False)
    t_s = np.arange(0, LENGTH_S, 1 / RATE_HZ)
    angle = 2 * np.pi * (system.hz + off_hz) * t_s
    share = np.sin(angle) + sum(a * np.sin(n * angle + rng.uniform(0, 6)) for n, a in zip(orders, shares, strict=True))
    seen = read(system, share, seed).waves[0].wave
    assert seen.hz == pytest.approx(system.hz + off_hz, abs=0.01)
    assert seen.thd_pct == pytest.approx(100 * math.hypot(*shares), abs=THD_PT)


@pytest.mark.parametrize("system", SUPPLIES, ids=lambda s: f"{s.hz:g} Hz")
def test_ringing_after_each_crossing_is_no_clean_sine(system: System) -> None:
    """An oscillatory transient at every half cycle, ``0.25·e^(−(t−t₁)/τ)·sin(ωₙ(t−t₁))``, as a filter that rings leaves it."""
    t_s, sine = times(system)
    since_s = np.mod(t_s, 0.5 / system.hz)
    share = sine + 0.25 * np.exp(-since_s / 0.0012) * np.sin(2 * np.pi * 3300 * since_s)
    seen = read(system, share).waves[0].wave
    assert seen.shape is Shape.RINGING
    assert seen.residual_pct == pytest.approx(
        100 * 0.25 * math.sqrt(0.0012 * 2 * system.hz / 2 / 2) * math.sqrt(2), rel=0.15
    )


@pytest.mark.parametrize("system", SUPPLIES, ids=lambda s: f"{s.hz:g} Hz")
def test_notches_of_a_converter_are_harmonics_by_their_series(system: System) -> None:
    """Six notches a cycle of 40 % of the peak and 1 % of a cycle: distortion as the sum of their own Fourier series gives it."""
    t_s, sine = times(system)
    phase = np.mod(t_s * system.hz, 1 / 6) * 6
    share = sine - 0.4 * np.sign(sine) * ((phase > 0.45) & (phase < 0.45 + 0.06))
    window = share[:2560]  # 200 ms: ten or twelve whole cycles
    lines = np.abs(np.fft.rfft(window))[:: round(0.2 * system.hz)]
    thd_pct = 100 * math.sqrt(float((lines[2:41] ** 2).sum())) / float(lines[1])
    seen = read(system, share).waves[0].wave
    assert seen.thd_pct == pytest.approx(thd_pct, abs=THD_PT)
