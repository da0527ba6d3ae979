"""Everything one trace carries, read off once: small, so that it can be kept."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...kit import Kit
from ...sessions import Place
from ...supply import System
from ..power import PowerSample
from .energy import Conversion, DutySeen, Energy, conversion, duty, energy, gauge_points
from .events import StepUp, VoltEvent, steps_up, volt_events
from .solar import PanelsSeen, panels
from .steady import Stretch, power_runs, stretches
from .step_changes import LoadStep, load_steps
from .trace import Floats, Trace

METHOD = 6
"""Raised when what is read off a trace changes, so that what was kept before is read again."""
MOST_POINTS = 40
"""Steady points kept of a line; more are gathered by load."""
MOST_THINNED = 200
FAST_ENOUGH_S = 2.0
"""A slower log shows no dip, step or start."""


@dataclass(frozen=True)
class SteadyPoint:
    """A mean ``y`` at a load of ``w`` watts, its scatter, and when it stood."""

    w: float
    y: float
    scatter: float
    t0_s: float
    t1_s: float


@dataclass(frozen=True)
class TraceFeatures:
    """What a trace says: steady points by leg (``volts``) and of frequency, power as it was held, events, steps, energies."""

    name: str
    instrument: str
    span: tuple[float, float]
    step_s: float
    volts: dict[Place, tuple[SteadyPoint, ...]]
    hertz: tuple[SteadyPoint, ...]
    events: tuple[VoltEvent, ...]
    steps: tuple[StepUp, ...]
    power: dict[Place, tuple[tuple[PowerSample, ...], ...]]
    energies: tuple[Energy, ...]
    duty: DutySeen | None
    conversion: Conversion | None
    gaps: tuple[tuple[float, float], ...]
    warmth: tuple[tuple[float, float], ...] = ()
    gauge: tuple[tuple[float, float], ...] = ()
    charge: tuple[tuple[float, float], ...] = ()
    load_steps: tuple[LoadStep, ...] = ()
    panels: PanelsSeen | None = None


def _points(trace: Trace, steady: tuple[Stretch, ...], watts: Floats, y: Floats) -> tuple[SteadyPoint, ...]:
    steady_points = []
    for stretch in steady:
        part = slice(stretch.first, stretch.last)
        values, load = y[part], watts[part]
        read = ~np.isnan(values) & ~np.isnan(load) & (values > 0)
        if read.sum() < 3:
            continue
        steady_points.append(
            SteadyPoint(
                float(load[read].mean()),
                float(values[read].mean()),
                float(values[read].std()),
                stretch.t0_s,
                stretch.t1_s,
            )
        )
    return _gathered(steady_points)


def _gathered(points: list[SteadyPoint]) -> tuple[SteadyPoint, ...]:
    """At most ``MOST_POINTS``: where there are more, those of like load become their mean."""
    if len(points) <= MOST_POINTS:
        return tuple(points)
    top = max(point.w for point in points)
    groups: dict[int, list[SteadyPoint]] = {}
    for point in points:
        groups.setdefault(round(point.w / max(top, 1.0) * (MOST_POINTS - 1)), []).append(point)
    return tuple(
        SteadyPoint(
            float(np.mean([p.w for p in group])),
            float(np.mean([p.y for p in group])),
            float(max(p.scatter for p in group)),
            group[0].t0_s,
            group[-1].t1_s,
        )
        for _, group in sorted(groups.items())
    )


def _thinned(trace: Trace, quantity: str) -> tuple[tuple[float, float], ...]:
    """Temperatures, or percents of charge, thinned to so few that they can be kept; empty where none was logged."""
    temps = trace.of(quantity)
    if temps is None:
        return ()
    read = np.flatnonzero(~np.isnan(temps))
    if read.size > MOST_THINNED:
        read = read[np.linspace(0, read.size - 1, MOST_THINNED).round().astype(np.int64)]
    return tuple((float(trace.t_s[i]), float(temps[i])) for i in read)


def _power(trace: Trace, system: System, total: Floats | None) -> dict[Place, tuple[tuple[PowerSample, ...], ...]]:
    """Power of the whole source and of each leg, a run for each stretch without a gap."""
    legs = {Place(leg.value): trace.place_w(Place(leg.value)) for leg in system.leg_names} if system.legs == 2 else {}
    read = {Place.TOTAL: total, **legs}
    return {place: power_runs(trace, watts) for place, watts in read.items() if watts is not None}


def extract_features(trace: Trace, kit: Kit, system: System) -> TraceFeatures:
    """Read everything off a trace that its channels carry.

    Dips, steps and starts want a sample every 2 s or faster; energies and
    duty want watts; conversion wants both sides.
    """
    total = trace.total_w(system.legs)
    dc = trace.place_w(Place.DC)
    leading = total if total is not None else dc
    steady = stretches(trace, leading) if leading is not None and trace.t_s.size > 3 else ()
    fast = 0 < trace.step_s <= FAST_ENOUGH_S
    volts = {}
    for leg in system.leg_names:
        place = Place(leg.value)
        y, w = trace.of("v", place), trace.place_w(place)
        if w is None and system.legs == 1:
            w = total
        if y is not None and w is not None:
            volts[place] = _points(trace, steady, w, y)
    hertz = trace.of("hz")
    energies = [energy(trace, Place.TOTAL, total)] if total is not None else []
    energies += [energy(trace, Place.DC, dc)] if dc is not None else []
    return TraceFeatures(
        name=trace.name,
        instrument=trace.instrument,
        span=trace.span,
        step_s=trace.step_s,
        volts=volts,
        hertz=_points(trace, steady, total, hertz) if hertz is not None and total is not None else (),
        events=volt_events(trace, kit, system) if fast else (),
        steps=steps_up(trace, total) if fast and total is not None else (),
        power=_power(trace, system, total),
        energies=tuple(energies),
        duty=duty(trace, total) if total is not None else None,
        conversion=conversion(trace, steady, total, dc) if total is not None and dc is not None else None,
        gaps=trace.gaps(),
        warmth=_thinned(trace, "temp_c"),
        charge=_thinned(trace, "soc_pct"),
        gauge=gauge_points(trace, total if total is not None else dc) if leading is not None else (),  # type: ignore[arg-type]
        load_steps=load_steps(trace, total, system.legs) if fast and total is not None else (),
        panels=panels(trace),
    )
