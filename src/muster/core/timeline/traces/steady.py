"""Where the load stood still, and where it stepped up."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.ndimage import median_filter

from ..power import PowerSample
from .trace import Floats, Trace

STEP_LEAST_W = 40.0
"""A smaller change of power is not called a step."""
STEP_SHARE = 0.02
"""Nor is one below this share of the highest power in the log."""
SETTLING_S = 3.0
"""After a step so long is left out of the steady stretch."""
STEADY_LEAST_S = 8.0
LEVEL_SHARE, LEVEL_LEAST_W = 0.02, 10.0
"""Power that moves less than this is told as one level, by its low figure."""
MOST_SAMPLES = 1000


@dataclass(frozen=True)
class Stretch:
    """Samples ``first`` to ``last`` (excluded) in which power stood still."""

    first: int
    last: int
    t0_s: float
    t1_s: float
    w: float


def smoothed(trace: Trace, watts: Floats) -> Floats:
    """Power with single spikes taken out: the median of neighbours over about 3 s (never under 3 samples).

    Where nothing was read the last reading stands on: a cell that is missing is not a load that went off.
    """
    width = max(3, round(3.0 / trace.step_s) | 1) if trace.step_s > 0 else 3
    filled = _last_standing(watts)
    out: Floats = median_filter(filled, size=min(width, 301), mode="nearest")
    return out


def _last_standing(watts: Floats) -> Floats:
    """Each figure, or the last one read before it; the first one read where there is none before."""
    read = ~np.isnan(watts)
    if not read.any():
        return np.zeros(watts.size)
    at = np.maximum.accumulate(np.where(read, np.arange(watts.size), -1))
    filled: Floats = watts[np.where(at < 0, int(np.argmax(read)), at)]
    return filled


def least_step_w(watts: Floats) -> float:
    """The smallest change that counts as a step in this log [W]."""
    top = float(np.nanmax(watts)) if watts.size and not np.isnan(watts).all() else 0.0
    return max(STEP_LEAST_W, STEP_SHARE * top)


def edges(trace: Trace, watts: Floats) -> list[int]:
    """Samples at which power changes to another level, or a gap ends; in order.

    A level ends where the smoothed power leaves the level's running mean by
    more than the least step.
    """
    level = smoothed(trace, watts)
    least = least_step_w(watts)
    jumps = np.abs(np.diff(level)) > least / 4
    gap = np.diff(trace.t_s) > trace.gap_s
    candidates = np.flatnonzero(jumps | gap) + 1
    cuts: list[int] = []
    start = 0
    for at in candidates.tolist():
        before = level[start:at]
        after = level[at : at + 3]
        if gap[at - 1] or abs(_middle(after) - _middle(before[-50:])) > least:
            cuts.append(at)
            start = at
    return cuts


def _middle(values: Floats) -> float:
    """The median of a few figures that are all there, quicker than numpy's own for short arrays."""
    ordered = np.sort(values)
    half = ordered.size // 2
    return float(ordered[half]) if ordered.size % 2 else float(ordered[half - 1] + ordered[half]) / 2


def stretches(trace: Trace, watts: Floats) -> tuple[Stretch, ...]:
    """Every stretch of steady power of at least 8 s, its first 3 s left out."""
    cuts = [0, *edges(trace, watts), trace.t_s.size]
    least = least_step_w(watts)
    stretches_found = []
    for first, last in pairwise(cuts):
        if last - first < 3 or trace.t_s[last - 1] - trace.t_s[first] < STEADY_LEAST_S:
            continue
        begin = int(np.searchsorted(trace.t_s, trace.t_s[first] + SETTLING_S)) if first else 0
        part = watts[begin:last]
        if part.size < 3 or np.isnan(part).mean() > 0.5 or float(np.nanstd(part)) > least:
            continue
        stretches_found.append(
            Stretch(begin, last, float(trace.t_s[begin]), float(trace.t_s[last - 1]), float(np.nanmean(part)))
        )
    return tuple(stretches_found)


def power_runs(trace: Trace, watts: Floats) -> tuple[tuple[PowerSample, ...], ...]:
    """The power of a log as few samples as tell what was held: of each level its low figure, where it begins and where it ends.

    Parameters
    ----------
    trace
        The log.
    watts : ndarray, shape (n,)
        Power at one place. [W]

    Returns
    -------
    tuple
        A run for each stretch without a gap. Single spikes are taken out; a level ends where power leaves it by more
        than ``LEVEL_SHARE`` or ``LEVEL_LEAST_W``, wider in a log that never stands still.
    """
    if trace.step_s <= 0 or trace.t_s.size < 3 or not np.isfinite(watts).any():
        return ()
    read = ~np.isnan(watts)
    t_s, level = trace.t_s[read], smoothed(trace, watts)[read]
    gaps = np.flatnonzero(np.diff(t_s) > trace.gap_s) + 1
    share = LEVEL_SHARE
    while True:
        runs = [
            _levels(t_s[first:last].tolist(), level[first:last].tolist(), share)
            for first, last in pairwise([0, *gaps.tolist(), t_s.size])
        ]
        if sum(len(run) for run in runs) <= MOST_SAMPLES or share > 1:
            return tuple(runs)
        share *= 2


def _levels(t_s: list[float], w: list[float], share: float) -> tuple[PowerSample, ...]:
    samples: list[PowerSample] = []
    first, low, high = 0, w[0], w[0]
    for index in range(1, len(w) + 1):
        if index < len(w):
            lower, higher = min(low, w[index]), max(high, w[index])
            if higher - lower <= max(LEVEL_LEAST_W, share * higher):
                low, high = lower, higher
                continue
        samples.append(PowerSample(t_s[first], low))
        if index - 1 > first:
            samples.append(PowerSample(t_s[index - 1], low))
        if index < len(w):
            first, low, high = index, w[index], w[index]
    return tuple(samples)
