"""Where the load stood still, and where it stepped up."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.ndimage import median_filter, minimum_filter1d

from .trace import Floats, Trace

STEP_LEAST_W = 40.0
"""A smaller change of power is not called a step."""
STEP_SHARE = 0.02
"""Nor is one below this share of the highest power in the log."""
SETTLING_S = 3.0
"""After a step so long is left out of the steady stretch."""
STEADY_LEAST_S = 8.0
HELD_S = 600.0
"""A level counts as held after 10 min (docs/method/verdict.md#held-levels)."""


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


@dataclass(frozen=True)
class HeldLevel:
    """The highest level that power never left downward for ``held_s`` seconds, from ``t0_s``."""

    w: float
    t0_s: float
    t1_s: float

    @property
    def held_s(self) -> float:
        """How long it stood."""
        return self.t1_s - self.t0_s


def held_level(trace: Trace, watts: Floats) -> HeldLevel | None:
    """The highest power that stood at least 10 min without a gap, None if the log is shorter.

    The lowest of each 10 min window of smoothed power; the highest of these.
    """
    if trace.step_s <= 0 or trace.t_s.size < 3:
        return None
    width = round(HELD_S / trace.step_s)
    if width < 2 or trace.t_s.size <= width:
        return None
    level = np.where(np.isnan(watts), 0.0, smoothed(trace, watts))
    lows = minimum_filter1d(level, width + 1, mode="nearest", origin=-((width + 1) // 2))[: trace.t_s.size - width]
    spans = trace.t_s[width:] - trace.t_s[:-width]
    broken = np.concatenate([[0], np.cumsum(np.diff(trace.t_s) > trace.gap_s)])
    whole = (broken[width:] == broken[:-width]) & (spans >= 0.98 * HELD_S)
    if not whole.any():
        return None
    best = int(np.argmax(np.where(whole, lows, -np.inf)))
    w = float(lows[best])
    if w <= 0:
        return None
    tolerance = least_step_w(watts)
    mean_w = float(np.nanmean(watts[best : best + width]))
    floor = min(w, mean_w) - tolerance
    first, last = best, best + width
    while first > 0 and level[first - 1] >= floor and broken[first - 1] == broken[best]:
        first -= 1
    while last < trace.t_s.size - 1 and level[last + 1] >= floor and broken[last + 1] == broken[best]:
        last += 1
    stood = watts[first : last + 1]
    own = stood[level[first : last + 1] <= w + tolerance]
    return HeldLevel(float(np.nanmean(own)), float(trace.t_s[first]), float(trace.t_s[last]))
