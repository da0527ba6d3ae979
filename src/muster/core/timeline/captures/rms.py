"""RMS over one cycle, renewed each half cycle, from instantaneous samples."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...errors import OutOfRange, require_above
from ..traces.trace import Floats

LEAST_SAMPLES_A_CYCLE = 10
"""Fewer samples a cycle than this cannot give its RMS."""


@dataclass(frozen=True, eq=False)
class RmsTrack:
    """RMS values over one cycle each: ``t_s`` (n,) is the middle of each window, ``rms`` (n,) its value."""

    t_s: Floats
    rms: Floats


def track_of(samples: Floats, step_s: float, t0_s: float, hz: float) -> RmsTrack:
    """Urms(1/2): RMS over one cycle of ``hz``, a value each half cycle.

    From the cumulative sum of squares, the ends of each window taken at
    fractions of a sample, so that a cycle that is no whole number of samples
    is still one cycle. ``samples`` is (n,); the first stands at ``t0_s``.

    Raises
    ------
    OutOfRange
        If the samples are too few a cycle, or shorter than one cycle.

    References
    ----------
    IEC 61000-4-30, 5.4.1 (Urms(1/2)); here at a fixed hertz, not synchronised to zero crossings.
    """
    require_above(hz, 0, "hz")
    per_cycle = 1 / (hz * step_s)
    if per_cycle < LEAST_SAMPLES_A_CYCLE:
        raise OutOfRange(f"{per_cycle:.1f} samples a cycle", where="samples", want=f"{LEAST_SAMPLES_A_CYCLE} or more")
    if samples.size < per_cycle + 1:
        raise OutOfRange(f"{samples.size} samples", where="samples", want="at least one whole cycle")
    sums = np.concatenate([[0.0], np.cumsum(samples * samples)])
    starts = np.arange(0.0, samples.size - per_cycle + 1e-9, per_cycle / 2)
    grid = np.arange(samples.size + 1, dtype=np.float64)
    window = np.interp(starts + per_cycle, grid, sums) - np.interp(starts, grid, sums)
    middles = t0_s + (starts + per_cycle / 2 - 0.5) * step_s
    return RmsTrack(middles, np.sqrt(np.maximum(window, 0.0) / per_cycle))
