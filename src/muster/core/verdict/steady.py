"""Steady capacity, whole and on each leg: what was held, what tripped, else the nameplate."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from ..character.evidence import Held, best_held, lowest_trip
from ..character.known_limits import RECKONED
from ..loads import short_name
from ..outage.demand import HighestDraws
from ..quantities import Grade, duration, plain
from ..sessions import Place
from ..sources.limits import binding
from ..supply import Leg
from ..working import Working
from .by_chance import by_chance
from .inputs import VerdictInputs, unscheduled
from .requirement import PASSES, Evidence, Margin, Requirement, Status, not_required, ratio, status_of, unproven
from .steady_va import tightest
from .workings import margin_working

DEMAND_WORKING_SOURCE = "99th percentile over draws of the highest 60 s mean"


@dataclass(frozen=True)
class _Needed:
    """Watts and VA asked at a place: raised for what is unmeasured, and as planned."""

    place: Place
    label: str
    upper_w: float
    planned_w: float
    upper_va: float
    planned_va: float
    tail_w: HighestDraws
    tail_va: HighestDraws


def _asked(case: VerdictInputs) -> list[_Needed]:
    upper, planned, legs = case.demand, case.planned, case.home.brief.system.legs
    label = "Steady capacity" if legs == 1 else "Steady, whole source"
    whole = _Needed(
        Place.TOTAL,
        label,
        upper.peak_w,
        planned.peak_w,
        upper.peak_va,
        planned.peak_va,
        upper.peak_tail_w,
        upper.peak_tail_va,
    )
    return [whole] + [
        _Needed(
            place=Place(str(leg + 1)),
            label=f"Steady, leg {leg + 1}",
            upper_w=upper.leg_w[leg],
            planned_w=planned.leg_w[leg],
            upper_va=upper.leg_va[leg],
            planned_va=planned.leg_va[leg],
            tail_w=upper.leg_tail_w[leg],
            tail_va=upper.leg_tail_va[leg],
        )
        for leg in range(2 if legs == 2 else 0)
    ]


def steady(case: VerdictInputs) -> list[Requirement]:
    """Steady capacity of the whole source and of each leg, in watts, in VA and by its breakers: the tightest decides.

    Proven by nothing while a load has no hours.
    """
    rows = [tightest(by_chance(_steady(case, asked), case), case, asked) for asked in _asked(case)]
    left_out = unscheduled(case)
    if not left_out:
        return rows
    names = ", ".join(short_name(load) for load in left_out)
    said = f" Without the {names}: nobody said in which hours it runs."
    return [
        replace(row, status=Status.NOT_PROVEN, sentence=row.sentence + said) if row.status in PASSES else row
        for row in rows
    ]


def _demand_working(case: VerdictInputs, asked: _Needed) -> Working:
    raised = "" if math.isclose(asked.upper_w, asked.planned_w) else ", unmeasured loads raised by 25 %"
    return Working(
        f"demand = highest minute of {case.demand.draws} simulated outages, 99th percentile{raised}",
        f"the highest of {case.demand.draws} outages; planned {plain(asked.planned_w, 'w')}",
        plain(asked.upper_w, "w"),
        DEMAND_WORKING_SOURCE,
        asked.tail_w.rows("W in the highest minute"),
    )


def _steady(case: VerdictInputs, asked: _Needed) -> Requirement:
    held, trip = best_held(case.seen.holds, asked.place), lowest_trip(case.seen.holds, asked.place)
    key = f"steady-{asked.place.value}"
    if asked.place is not Place.TOTAL and asked.upper_w <= 0:
        return replace(not_required(key, f"Nothing runs on {asked.place.label} in this outage."), label=asked.label)
    if held is None and trip is None:
        return _steady_by_nameplate(case, asked, key)
    capability_w = held.w if held else 0.0
    ceiling_w = trip.w + trip.u_w if trip else math.inf
    margin = ratio(asked.upper_w, capability_w, held.u_w if held else None, asked.planned_w)
    high = (ceiling_w - asked.planned_w) / asked.planned_w if asked.planned_w else math.inf
    margin = Margin(margin.value, margin.low, high)
    against = _against(case, asked, trip)
    open_still = held is None or held.taken or against is not None
    evidence = Evidence(Grade.B, missing=open_still and margin.high >= 0)
    status = status_of(margin, evidence)
    return Requirement(
        key=key,
        label=asked.label,
        evidence=replace(evidence, grade=Grade.C) if open_still else evidence,
        demand=plain(asked.upper_w, "w"),
        capability=plain(held.w, "w") if held else f"tripped at {plain(trip.w, 'w')}" if trip else "–",
        margin=margin if held else None,
        grade=held.finding.value.grade if held else Grade.A,
        status=status,
        sentence=_steady_sentence(asked, held, trip, status, against) + _kinder(case, asked, held) + _waits(case),
        workings=(
            _demand_working(case, asked),
            margin_working(asked.upper_w, capability_w),
            *(working for h in (held, trip) if h and h.measured_w is not None for working in h.finding.workings[-1:]),
        ),
        seqs=tuple(h.seq for h in (held, trip, against) if h and h.seq),
        findings=tuple(h.finding for h in (held, trip, against) if h),
    )


def _against(case: VerdictInputs, asked: _Needed, trip: Held | None) -> Held | None:
    """What speaks against a level that was held: a trip, read or not, or a bog, at no more than the home may ask.

    An unread trip under loads that nobody named may have been at any power.
    """
    if trip is not None and trip.w - trip.u_w <= asked.upper_w:
        return trip
    unsure = (
        h
        for h in case.seen.holds
        if h.place is Place.TOTAL and not h.ran_out and ((h.tripped and h.planned) or h.bogged)
    )
    return min((h for h in unsure if h.w - h.u_w <= asked.upper_w), key=lambda h: h.w, default=None)


def _steady_sentence(asked: _Needed, held: Held | None, trip: Held | None, status: Status, against: Held | None) -> str:
    parts = []
    if held:
        parts.append(f"Held {_told_w(held)} for {duration(held.held_s)}")
    if trip:
        after = f" after {duration(trip.held_s)}" if trip.held_s else ""
        parts.append(f"tripped at {_told_w(trip)}{after}")
    said = "; ".join(parts)
    if held and trip and trip.w + trip.u_w < held.w:
        said = (
            f"{parts[1]}, though it bore {_told_w(held)} for {duration(held.held_s)} another time: until it is known why "
            "(heat, the other leg, a low battery, other air), the lower counts"
        )
    said = said[0].upper() + said[1:] if said else ""
    asked_words = f"the home's worst minute is {plain(asked.upper_w, 'w')}"
    if status is Status.NOT_PROVEN and against is not None and held is not None:
        if against is not trip:
            said = f"{said}; {against.finding.sentence[0].lower()}{against.finding.sentence[1:-1]}"
        return f"{said}; {asked_words}. These do not agree until it is known why: run Overload."
    if status is Status.NOT_PROVEN and held is not None and held.taken:
        return (
            f"{said} if its power factor was 1, for amps were read; {asked_words}: read the watts, and it is settled."
        )
    if status is Status.NOT_PROVEN and held and held.w < asked.upper_w:
        return f"{said}; {asked_words}: hold that, and it is settled."
    return f"{said}; {asked_words}."


def _kinder(case: VerdictInputs, asked: _Needed, held: Held | None) -> str:
    """What a hold would be under the brief's kinder conditions, where that is what the home asks."""
    if held is None or held.w >= asked.upper_w:
        return ""
    leg = _leg_of(asked.place)
    here = next((limit for limit in case.character.limits if limit.key == RECKONED and limit.leg == leg), None)
    if here is None:
        return ""
    return f" Under the brief's conditions that would be {plain(here.w, 'w')}, reckoned and not seen (grade {here.grade.value})."


def _too_short(case: VerdictInputs, asked: _Needed) -> str:
    """The most that was held at a place for less time than counts, in a sentence."""
    held = [h for h in case.seen.holds if h.place is asked.place and not (h.tripped or h.bogged) and h.held_s > 0]
    most = max(held, key=lambda h: h.w, default=None)
    return "" if most is None else f" Held {_told_w(most)} for {duration(most.held_s)}, which is too short to count."


def _waits(case: VerdictInputs) -> str:
    """Which entries were left out of what was held, until somebody confirms them."""
    return f" Flagged, and left out until confirmed: {case.seen.waiting}." if case.seen.waiting else ""


def _told_w(held: Held) -> str:
    """A power as it was read, and what is left of it here."""
    if held.measured_w is None:
        return plain(held.w, "w")
    return f"{plain(held.measured_w, 'w')}, {plain(held.w, 'w')} under the brief's conditions,"


def _leg_of(place: Place) -> Leg | None:
    return {Place.LEG1: Leg.ONE, Place.LEG2: Leg.TWO}.get(place)


def _steady_by_nameplate(case: VerdictInputs, asked: _Needed, key: str) -> Requirement:
    limit = binding(case.limits, _leg_of(asked.place))
    if limit is None:
        return unproven(key, plain(asked.upper_w, "w"), "The nameplate does not say.", label=asked.label)
    margin = ratio(asked.upper_w, limit.w, None, asked.planned_w)
    evidence = Evidence(limit.grade)
    status = status_of(margin, evidence)
    verb = "leaves too little for" if status is Status.FALLS_SHORT else "against"
    return Requirement(
        key=key,
        label=asked.label,
        evidence=evidence,
        demand=plain(asked.upper_w, "w"),
        capability=plain(limit.w, "w"),
        margin=margin,
        grade=limit.grade,
        status=status,
        sentence=f"{limit.name.capitalize()} limit {plain(limit.w, 'w')} ({limit.basis}) {verb} a worst minute of {plain(asked.upper_w, 'w')}."
        + _too_short(case, asked)
        + _waits(case),
        workings=(_demand_working(case, asked), margin_working(asked.upper_w, limit.w)),
    )
