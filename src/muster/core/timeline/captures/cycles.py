"""Where the cycles of a capture begin, and how its volts stand from half cycle to half cycle."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from ...errors import OutOfRange
from ..traces.trace import Floats
from .rms import LEAST_SAMPLES_A_CYCLE, RmsTrack
from .waveform import fundamental_hz

FAINT_SHARE = 0.1
"""Below this share of its usual height a fundamental is too faint for its phase to be read: it is carried across."""

EDGE_SHARE = 0.04
"""Where its height changes by more than this share within a cycle, an average over a cycle mixes two waves."""


@dataclass(frozen=True, eq=False)
class Cycles:
    """``crossing_s`` (m,): when the fundamental crosses zero, either way, from the first sample [s]; ``hz`` its mean."""

    crossing_s: Floats
    hz: float


def cycles_of(samples: Floats, step_s: float, near_hz: float) -> Cycles:
    """Follow the phase of the fundamental, and say when it crosses zero.

    The samples are turned back at the mean frequency and averaged over a
    cycle, so that harmonics and noise fall out; the phase that is left, with the
    turning put back, is solved for whole half turns. Through a stretch
    with no fundamental (an interruption) the phase runs on evenly.

    Raises
    ------
    OutOfRange
        If the samples are too few a cycle, or shorter than two cycles.

    References
    ----------
    IEC 61000-4-30, 5.1 and 5.4.1: zero crossings of the fundamental, harmonics filtered out.
    """
    per = 1 / (near_hz * step_s)
    if per < LEAST_SAMPLES_A_CYCLE:
        raise OutOfRange(f"{per:.1f} samples a cycle", where="samples", want=f"{LEAST_SAMPLES_A_CYCLE} or more")
    if samples.size < 2 * per:
        raise OutOfRange(f"{samples.size * step_s * near_hz:.1f} cycles", where="samples", want="two or more")
    level = samples - samples.mean()
    hz = fundamental_hz(level[_loud(level, per)], step_s, near_hz)
    if not 0.8 * near_hz < hz < 1.25 * near_hz:
        hz = near_hz
    t = np.arange(samples.size) * step_s
    turned = level * np.exp(-2j * np.pi * hz * t)
    width = max(3, round(1 / (hz * step_s)))
    slow = uniform_filter1d(turned.real, width) + 1j * uniform_filter1d(turned.imag, width)
    clear = _clear(np.abs(slow), width)
    phase = np.interp(t, t[clear], np.unwrap(np.angle(slow[clear])))
    whole = 2 * np.pi * hz * t + phase + np.pi / 2
    rising = np.maximum.accumulate(whole)
    turns = np.arange(np.ceil(rising[0] / np.pi), np.floor(rising[-1] / np.pi) + 1) * np.pi
    return Cycles(np.interp(turns, rising, t), hz)


def _clear(heights: Floats, width: int) -> NDArray[np.bool_]:
    """Where the phase can be read: the fundamental is there, and not on its way from one height to another."""
    usual = np.percentile(heights, 95)
    ahead, behind = np.roll(heights, -(width // 2)), np.roll(heights, width // 2)
    ahead[-(width // 2) :], behind[: width // 2] = heights[-1], heights[0]
    present = heights > FAINT_SHARE * usual
    still = present & (np.abs(ahead - behind) < EDGE_SHARE * usual)
    return still if still.sum() > width else present


def _loud(level: Floats, per: float) -> slice:
    """From the first to the last sample before the wave goes for good: silence at the end has no frequency."""
    loud = np.flatnonzero(np.abs(level) > 0.5 * np.abs(level).max())
    last = min(level.size, int(loud[-1]) + 1)
    return slice(0, last) if last > 2 * per else slice(0, level.size)


def _sums(samples: Floats) -> tuple[Floats, Floats]:
    """The running sum of squares, and the sample borders it stands at."""
    return np.concatenate([[0.0], np.cumsum(samples * samples)]), np.arange(samples.size + 1, dtype=np.float64)


def urms_half(samples: Floats, step_s: float, cycles: Cycles) -> RmsTrack:
    """Urms(1/2): RMS of each cycle from one zero crossing to the next but one, renewed each half cycle.

    ``t_s`` of the track counts from the first sample.

    References
    ----------
    IEC 61000-4-30, 5.4.1.
    """
    sums, grid = _sums(samples)
    # A sample stands for the step around it: its border lies half a step before it.
    at = np.clip(cycles.crossing_s / step_s + 0.5, 0, samples.size)
    total = np.interp(at, grid, sums)
    width = np.maximum(at[2:] - at[:-2], 1e-9)
    rms = np.sqrt(np.maximum(total[2:] - total[:-2], 0.0) / width)
    return RmsTrack((cycles.crossing_s[2:] + cycles.crossing_s[:-2]) / 2, rms)


def half_cycle_rms(samples: Floats, step_s: float, hz: float) -> Floats:
    """RMS over the half cycle around each sample, (n,): the finest there is for saying when something began.

    Towards either end the window is cut short.
    """
    sums, grid = _sums(samples)
    half = 1 / (4 * hz * step_s)
    middle = np.arange(samples.size) + 0.5
    low, high = np.clip(middle - half, 0, samples.size), np.clip(middle + half, 0, samples.size)
    rms: Floats = np.sqrt(np.maximum(np.interp(high, grid, sums) - np.interp(low, grid, sums), 0.0) / (high - low))
    return rms
