"""A tracker that sticks: panel volts that fall and stay down though the battery is not full."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...sessions import Place
from .energy import parts_of
from .trace import Floats, Trace

FALL_PCT, STUCK_S = 35.0, 120.0
"""Panel volts down by more than so much for longer than this (docs/method/energy.md#panels)."""
FULL_PCT = 98.0
USUAL_SHARE = 0.5
"""Panels are at work above so much of the highest volts of the log."""
BACK_PCT = 15.0


@dataclass(frozen=True)
class Stuck:
    """A stretch in which the tracker stood at the wrong volts; ``back`` whether they came back at once, not with the sun."""

    t0_s: float
    t1_s: float
    usual_v: float
    stuck_v: float
    lost_w: float | None
    back: bool


@dataclass(frozen=True)
class PanelsSeen:
    """What a log says of panels: energy taken in [Wh], most watts, and stretches of a stuck tracker."""

    wh: float | None
    most_w: float | None
    stuck: tuple[Stuck, ...]
    parts: tuple[tuple[float, float], ...] = ()
    """Hours and mean watts of parts of like length: what the energy is re-done from."""


def panels(trace: Trace) -> PanelsSeen | None:
    """Look for a tracker that stuck; None where no panel volts were logged.

    The usual volts are the median of what stood before, while at work. Stuck
    is further below them than a passing cloud takes volts (which fall little
    as the light does), for over two minutes, with the battery not full.
    """
    volts = trace.of("v", Place.PANELS)
    if volts is None or np.isnan(volts).all():
        return None
    watts = trace.place_w(Place.PANELS)
    stood = trace.durations_s()
    wh = None if watts is None else float(np.nansum(watts * stood) / 3600)
    most = None if watts is None else float(np.nanmax(watts))
    read = np.zeros(0, dtype=bool) if watts is None else ~np.isnan(watts)
    parts = () if watts is None else parts_of(watts[read], stood[read])
    return PanelsSeen(wh, most, _stuck(trace, volts, watts), parts)


def _stuck(trace: Trace, volts: Floats, watts: Floats | None) -> tuple[Stuck, ...]:
    charge = trace.of("soc_pct")
    full = np.zeros(volts.size, dtype=bool) if charge is None else np.nan_to_num(charge) >= FULL_PCT
    high = float(np.nanpercentile(volts, 95))
    at_work = np.nan_to_num(volts) > USUAL_SHARE * high
    if not at_work.any():
        return ()
    usual = float(np.nanmedian(volts[at_work]))
    low = (np.nan_to_num(volts) < usual * (1 - FALL_PCT / 100)) & (np.nan_to_num(volts) > 0.1 * usual) & ~full
    edges = np.flatnonzero(np.diff(np.concatenate([[False], low, [False]]).astype(np.int8)))
    stucks = []
    for first, last in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        t0, t1 = float(trace.t_s[first]), float(trace.t_s[last - 1])
        if t1 - t0 < STUCK_S or first == 0:
            continue
        back = last < volts.size and float(volts[last]) > usual * (1 - BACK_PCT / 100)
        lost = None
        if watts is not None:
            before, during = watts[max(0, first - 30) : first], watts[first:last]
            lost = float(np.nanmedian(before) - np.nanmedian(during)) if before.size else None
        stucks.append(
            Stuck(
                t0_s=t0, t1_s=t1, usual_v=usual, stuck_v=float(np.nanmedian(volts[first:last])), lost_w=lost, back=back
            )
        )
    return tuple(stucks)
