"""Dips, rises and starts in a trace of a second or faster."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ...kit import Instrument, Kit, bound_of
from ...quantities import Bound, Grade, Value
from ...sessions import Place
from ...supply import System
from ...trade.ride_through import VoltEventKind
from .steady import edges, least_step_w
from .trace import Floats, Trace

DIP_STARTS_PCT, DIP_ENDS_PCT = 90.0, 92.0
RISE_STARTS_PCT, RISE_ENDS_PCT = 110.0, 108.0
"""Thresholds against nominal, with hysteresis (IEC 61000-4-30; EN 50160)."""
BEFORE_S = 5.0
"""The voltage before an event is the median of so many seconds before it."""
LOOK_S = 4.0
"""A start's lowest volts and highest amps are looked for so long after the step."""
MOST_EVENTS = 500
"""Of more dips (or rises) on a leg than this, the deepest are kept: such a log is of another supply, or of none."""
STEP_PLACES = (Place.LEG1, Place.LEG2, Place.TOTAL)
OFF_PCT = 10.0
"""Below this the supply is off: an interruption, not a dip (IEC 61000-4-30 gives 10 %)."""


@dataclass(frozen=True)
class VoltEvent:
    """A dip (``kind`` dip), rise or interruption on a leg, ``extreme`` its lowest or highest volts."""

    kind: VoltEventKind
    place: Place
    t0_s: float
    t1_s: float
    before_v: float | None
    extreme: Value
    nominal_v: float

    @property
    def duration_s(self) -> float:
        """How long it lasted as sampled."""
        return self.t1_s - self.t0_s

    @property
    def residual_pct(self) -> float:
        """The extreme against nominal."""
        return self.extreme.value / self.nominal_v * 100


@dataclass(frozen=True)
class StepUp:
    """Power stepping up at ``t_s``: what it stepped to, how deep volts fell, how high amps rose (by place)."""

    t_s: float
    before_w: float
    settled_w: float
    before_v: dict[Place, float]
    lowest_v: dict[Place, float]
    settled_v: dict[Place, float]
    highest_a: dict[Place, float]

    @property
    def step_w(self) -> float:
        """How much was added."""
        return self.settled_w - self.before_w


def graded(value: float, unit: str, u: float, bound: Bound | None) -> Value:
    """An extreme at grade A where the instrument saw it whole, at B where it is a bound."""
    return Value(value, unit, u, bound, Grade.B if bound else Grade.A)


def sampler(trace: Trace, kit: Kit, quantity: str) -> Instrument:
    """The instrument as it samples here: no faster than the log's own step."""
    instrument = kit.instrument_for(quantity, trace.instrument)
    step_s = max(round(trace.step_s, 3), 1e-3)
    if instrument.refresh_s >= step_s:
        return instrument
    return replace(instrument, refresh_s=step_s, max_hold=False)


def volt_events(trace: Trace, kit: Kit, system: System) -> tuple[VoltEvent, ...]:
    """Every dip, rise and interruption against nominal, with hysteresis; a bound where the log is too slow."""
    volt_events_found: list[VoltEvent] = []
    for place in (Place.LEG1, Place.LEG2, Place.TOTAL):
        volts = trace.of("v", place)
        if volts is None:
            continue
        nominal = system.v_nominal * (2 if place is Place.TOTAL and system.legs == 2 else 1)
        volt_events_found += _crossings(trace, volts, place, nominal, kit, low=True)
        volt_events_found += _crossings(trace, volts, place, nominal, kit, low=False)
    return tuple(sorted(volt_events_found, key=lambda event: event.t0_s))


def spans(beyond: NDArray[np.bool_], within: NDArray[np.bool_]) -> NDArray[np.int64]:
    """First and last sample (excluded) of each stretch that begins beyond and ends within, in order (n, 2)."""
    begins, ends = np.flatnonzero(beyond), np.append(np.flatnonzero(within), within.size)
    lasts = ends[np.searchsorted(ends, begins, side="right")]
    result = []
    at = 0
    while at < begins.size:
        result.append((begins[at], lasts[at]))
        at = int(np.searchsorted(begins, lasts[at]))
    return np.array(result, dtype=np.int64).reshape(-1, 2)


def _crossings(trace: Trace, volts: Floats, place: Place, nominal: float, kit: Kit, *, low: bool) -> list[VoltEvent]:
    start, end = (DIP_STARTS_PCT, DIP_ENDS_PCT) if low else (RISE_STARTS_PCT, RISE_ENDS_PCT)
    pct = volts / nominal * 100
    beyond = pct < start if low else pct > start
    within = pct > end if low else pct < end
    within[1:] |= np.diff(trace.t_s) > trace.gap_s
    stretches = spans(beyond, within)
    if not stretches.size:
        return []
    firsts = stretches[:, 0]
    # Within a stretch, what is not beyond cannot be its extreme, nor can what was not read.
    filled = np.where(beyond, volts, np.inf if low else -np.inf)
    worst = np.minimum.reduceat(filled, firsts) if low else np.maximum.reduceat(filled, firsts)
    if len(stretches) > MOST_EVENTS:
        deepest = np.sort(np.argsort(worst if low else -worst, kind="stable")[:MOST_EVENTS])
        stretches, worst = stretches[deepest], worst[deepest]
    stood, meter = trace.durations_s(), sampler(trace, kit, "v")
    return [
        _event(
            trace,
            volts,
            place,
            nominal,
            kit,
            meter,
            (int(first), int(last)),
            float(stood[last - 1]),
            float(extreme),
            low=low,
        )
        for (first, last), extreme in zip(stretches, worst, strict=True)
    ]


def _event(
    trace: Trace,
    volts: Floats,
    place: Place,
    nominal: float,
    kit: Kit,
    meter: Instrument,
    span: tuple[int, int],
    last_stood_s: float,
    worst: float,
    *,
    low: bool,
) -> VoltEvent:
    """One dip, rise or interruption, with the volts before it."""
    first, last = span
    t0_s, t1_s = float(trace.t_s[first]), float(trace.t_s[last - 1]) + last_stood_s
    before = volts[int(np.searchsorted(trace.t_s, t0_s - BEFORE_S)) : first]
    off = low and worst / nominal * 100 < OFF_PCT
    kind = VoltEventKind.INTERRUPTION if off else VoltEventKind.DIP if low else VoltEventKind.RISE
    bound = None if off else bound_of(meter, t1_s - t0_s if last - first > 1 else None, lowest=low)
    extreme = graded(worst, "v", kit.u("v", trace.instrument, worst), bound)
    before_v = float(np.nanmedian(before)) if before.size and not np.isnan(before).all() else None
    return VoltEvent(
        kind=kind, place=place, t0_s=t0_s, t1_s=t1_s, before_v=before_v, extreme=extreme, nominal_v=nominal
    )


def steps_up(trace: Trace, watts: Floats) -> tuple[StepUp, ...]:
    """Every step up of power, with the lowest volts and highest amps in the seconds around it."""
    least = least_step_w(watts)
    cuts = edges(trace, watts)
    bounds = [0, *cuts, trace.t_s.size]
    step_ups: list[StepUp] = []
    read = {(q, place): x for q in ("v", "a") for place in STEP_PLACES if (x := trace.of(q, place)) is not None}
    for index, at in enumerate(cuts, 1):
        t_s = float(trace.t_s[at])
        if t_s - float(trace.t_s[at - 1]) > trace.gap_s:
            continue
        before = watts[max(bounds[index - 1], at - 10) : max(at - 1, bounds[index - 1] + 1)]
        begin = int(np.searchsorted(trace.t_s, t_s + LOOK_S))
        # The surge of a long start ends in a change of its own: the level meant is the one that follows it.
        after = slice(begin, next((bound for bound in bounds[index + 1 :] if bound > begin), begin))
        settled = (watts[after] if after.stop - after.start >= 2 else watts[at : bounds[index + 1]])[:60]
        if not before.size or not settled.size or np.isnan(before).all() or np.isnan(settled).all():
            continue
        before_w, settled_w = float(np.nanmedian(before)), float(np.nanmedian(settled))
        if settled_w - before_w < least or (step_ups and t_s - step_ups[-1].t_s < LOOK_S):
            continue
        step_ups.append(_step(trace, read, at, t_s, before_w, settled_w, after))
    return tuple(step_ups)


def _step(
    trace: Trace,
    read: dict[tuple[str, Place], Floats],
    at: int,
    t_s: float,
    before_w: float,
    settled_w: float,
    after: slice,
) -> StepUp:
    around = slice(
        int(np.searchsorted(trace.t_s, t_s - 2 * max(trace.step_s, 0.5))),
        int(np.searchsorted(trace.t_s, t_s + LOOK_S, side="right")),
    )
    ahead = slice(max(0, int(np.searchsorted(trace.t_s, t_s - BEFORE_S))), max(1, at - 1))
    settled = slice(after.start, min(after.stop, after.start + 60))

    def each(quantity: str, part: slice, how: str) -> dict[Place, float]:
        step_up = {}
        for place in STEP_PLACES:
            samples = read.get((quantity, place))
            picked = samples[part] if samples is not None else None
            if picked is not None and picked.size and not np.isnan(picked).all():
                step_up[place] = float(getattr(np, how)(picked))
        return step_up

    return StepUp(
        t_s=t_s,
        before_w=before_w,
        settled_w=settled_w,
        before_v=each("v", ahead, "nanmedian"),
        lowest_v=each("v", around, "nanmin"),
        settled_v=each("v", settled, "nanmedian"),
        highest_a=each("a", around, "nanmax"),
    )
