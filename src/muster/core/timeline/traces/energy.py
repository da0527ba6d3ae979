"""Energy, duty and conversion from a trace."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ...fits import not_negative
from ...sessions import Place
from .steady import Stretch, smoothed
from .trace import Floats, Trace

WH_PER_WS = 1 / 3600
DUTY_CONTRAST = 3.0
"""A log swings between on and off when its high level is so many times its low one."""
DUTY_LEAST_CYCLES = 2
IDLE_BELOW_W = 5.0
"""AC power below this is no load."""
CONVERSION_LEAST = 3
MOST_GAUGE_POINTS = 120
"""Loads needed to fit a loss curve."""


@dataclass(frozen=True)
class Energy:
    """Energy at a place over the log: summed watts, and the meter's own count where it was recorded.

    ``squared_w2h`` is ∫P²dt [W²·h], for losses that go with the square.
    """

    place: Place
    wh: float
    covered_s: float
    gap_s: float
    counted_wh: float | None = None
    squared_w2h: float = 0.0
    parts: tuple[tuple[float, float], ...] = ()
    """The log in so many parts of like length, each the hours that were read and the mean watts: what the sum is re-done from."""


def energy(trace: Trace, place: Place, watts: Floats) -> Energy:
    """Sum of watts times how long each stood; gaps are left out, and said."""
    stood = trace.durations_s()
    read = ~np.isnan(watts)
    gap_s = sum(t1 - t0 for t0, t1 in trace.gaps()) + float(stood[~read].sum())
    counter = trace.of("wh") if place is Place.TOTAL else None
    counted = counter[~np.isnan(counter)] if counter is not None else np.zeros(0)
    return Energy(
        place=place,
        wh=float((watts[read] * stood[read]).sum() * WH_PER_WS),
        covered_s=float(stood[read].sum()),
        gap_s=gap_s,
        counted_wh=float(counted[-1] - counted[0]) if counted.size > 1 else None,
        squared_w2h=float((watts[read] ** 2 * stood[read]).sum() * WH_PER_WS),
        parts=parts_of(watts[read], stood[read]),
    )


MOST_PARTS = 24


def parts_of(watts: Floats, stood_s: Floats) -> tuple[tuple[float, float], ...]:
    """Hours and mean watts of each of so many parts of like length."""
    ends_s = np.cumsum(stood_s)
    if not ends_s.size or ends_s[-1] <= 0:
        return ()
    part = np.minimum((ends_s / ends_s[-1] * MOST_PARTS).astype(np.int64), MOST_PARTS - 1)
    hours = np.bincount(part, stood_s, MOST_PARTS) / 3600
    wh = np.bincount(part, watts * stood_s, MOST_PARTS) / 3600
    return tuple((float(h), float(e / h)) for h, e in zip(hours, wh, strict=True) if h > 0)


def gauge_points(trace: Trace, watts: Floats) -> tuple[tuple[float, float], ...]:
    """What the gauge showed each time it changed, and the energy given until then: (shown %, Wh); empty where it was not logged."""
    shown = trace.of("soc_pct")
    if shown is None or np.isnan(shown).all():
        return ()
    given = np.concatenate([[0.0], np.cumsum(np.nan_to_num(watts) * trace.durations_s() * WH_PER_WS)[:-1]])
    read = np.flatnonzero(~np.isnan(shown))
    changes = read[np.concatenate([[True], np.diff(np.round(shown[read])) != 0])]
    picked = np.append(changes, read[-1])
    if picked.size > MOST_GAUGE_POINTS:
        picked = picked[np.linspace(0, picked.size - 1, MOST_GAUGE_POINTS).round().astype(np.int64)]
    return tuple((float(shown[i]), float(given[i])) for i in picked)


@dataclass(frozen=True)
class DutySeen:
    """A load seen to come and go: share of time on, whole cycles, their mean on and off times."""

    share: float
    cycles: int
    on_s: float
    off_s: float
    on_w: float
    off_w: float
    t0_s: float
    t1_s: float


def duty(trace: Trace, watts: Floats) -> DutySeen | None:
    """On and off times of a power that swings between two levels, None where it does not.

    On is above the middle between the 5th and 95th percentile, with hysteresis
    of a tenth of the swing; only whole cycles between two switchings on count.
    """
    if trace.t_s.size < 10 or np.isnan(watts).all():
        return None
    level = smoothed(trace, watts)
    low, high = np.percentile(level, [5, 95])
    if high < 20 or high < DUTY_CONTRAST * max(low, 1.0):
        return None
    middle, play = (low + high) / 2, (high - low) / 10
    on = np.zeros(level.size, dtype=bool)
    state = bool(level[0] > middle)
    for i, w in enumerate(level.tolist()):
        state = w > middle - play if state else w > middle + play
        on[i] = state
    ups = np.flatnonzero(~on[:-1] & on[1:]) + 1
    if ups.size < DUTY_LEAST_CYCLES + 1:
        return None
    stood = trace.durations_s()
    span = slice(int(ups[0]), int(ups[-1]))
    read = ~np.isnan(watts[span])
    ran, rested = on[span] & read, ~on[span] & read
    if not (ran.any() and rested.any()):
        return None
    on_s, off_s = float(stood[span][ran].sum()), float(stood[span][rested].sum())
    cycles = int(ups.size - 1)
    on_w, off_w = float(watts[span][ran].mean()), float(watts[span][rested].mean())
    share = on_s / (on_s + off_s)
    return DutySeen(
        share=share,
        cycles=cycles,
        on_s=on_s / cycles,
        off_s=off_s / cycles,
        on_w=on_w,
        off_w=off_w,
        t0_s=float(trace.t_s[ups[0]]),
        t1_s=float(trace.t_s[ups[-1]]),
    )


@dataclass(frozen=True)
class Conversion:
    """What a conversion from DC costs: ``loss = p0 + p1·P + p2·P²``, with the points it was fitted to.

    ``idle_w`` is the DC draw seen with no load, None if that was not seen; ``u_p0_w`` the scatter of the fit.
    """

    ac_w: tuple[float, ...]
    dc_w: tuple[float, ...]
    p0_w: float
    p1: float
    p2: float
    u_w: float
    idle_w: float | None
    t0_s: float
    t1_s: float

    def loss_w(self, ac_w: float) -> float:
        """Loss at a load [W]."""
        return self.p0_w + self.p1 * ac_w + self.p2 * ac_w**2

    def share_at(self, ac_w: float) -> float:
        """Conversion at a load, idle included: AC ÷ DC."""
        return ac_w / (ac_w + self.loss_w(ac_w))


def conversion(trace: Trace, steady: tuple[Stretch, ...], ac: Floats, dc: Floats) -> Conversion | None:
    """Fit the loss of an inverter from steady stretches with both sides read.

    Non-negative least squares of DC − AC over 1, P and P²; each stretch
    weighs alike. None with fewer than three different loads.
    """
    points = []
    for stretch in steady:
        part = slice(stretch.first, stretch.last)
        pair = ac[part], dc[part]
        if np.isnan(pair[0]).all() or np.isnan(pair[1]).all():
            continue
        ac_w, dc_w = float(np.nanmean(pair[0])), float(np.nanmean(pair[1]))
        if dc_w > 0 and ac_w >= 0:
            points.append((ac_w, dc_w))
    return fit_conversion(points, (steady[0].t0_s, steady[-1].t1_s) if steady else (0.0, 0.0))


def fit_conversion(points: Sequence[tuple[float, float]], span: tuple[float, float]) -> Conversion | None:
    """Fit ``loss = p0 + p1·P + p2·P²`` to pairs of AC and DC watts, no term below zero; None with fewer than three loads.

    References
    ----------
    Loss polynomial of an inverter (standing, proportional and ohmic loss; any text of power electronics).
    """
    points = [point for point in points if point[1] > point[0]]
    top = max((ac_w for ac_w, _ in points), default=0.0)
    distinct = {round(ac_w / max(top, 1.0) * 20) for ac_w, _ in points}
    if len(distinct) < CONVERSION_LEAST:
        return None
    x = np.array([ac_w for ac_w, _ in points]) / top
    loss = np.array([dc_w - ac_w for ac_w, dc_w in points])
    (p0, p1, p2), rest = not_negative(np.stack([np.ones_like(x), x, x**2], axis=1), loss)
    free = max(1, len(points) - 3)
    idle = [dc_w for ac_w, dc_w in points if ac_w < IDLE_BELOW_W]
    return Conversion(
        ac_w=tuple(p[0] for p in points),
        dc_w=tuple(p[1] for p in points),
        p0_w=float(p0),
        p1=float(p1 / top),
        p2=float(p2 / top**2),
        u_w=float(rest / np.sqrt(free)),
        idle_w=float(np.mean(idle)) if idle else None,
        t0_s=span[0],
        t1_s=span[1],
    )
