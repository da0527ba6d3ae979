"""Steady capacity, starting, legs and neutral, endurance."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from ..brief import BringUp
from ..character import Prediction, predictions
from ..character.evidence import COUNTS_AS_HELD_S, HeatSeen, Held, StartSeen, best_held, lowest_trip
from ..character.known_limits import RECKONED
from ..loads import Load, Tier, short_name
from ..loads.kinds import MOST_UNKNOWN_X
from ..outage import StartDemand
from ..quantities import Bound, Grade, Value, duration, number, plain, worst_grade
from ..sessions import Place
from ..sessions.replay import Outcome
from ..sources.limits import binding
from ..supply import Leg
from ..trade.rise import LONG_ENOUGH_X
from ..trade.schools import SurgeFrom
from ..working import Working
from .by_chance import by_chance
from .inputs import VerdictInputs
from .requirement import ORDER, Evidence, Margin, Requirement, Status, not_required, ratio, room, status_of, unproven
from .steady_va import tightest
from .together import surge_room, together_rows

HEAT_SHARE = 0.9
"""A temperature counts for a hold at a load no more than a tenth above the one it was read under."""
PASSES = (Status.CARRIES, Status.WITH_RULES, Status.TIGHT)
ONE_BY_ONE = "bring the loads up one by one, in the start order"
STARTS_WANTED = 3
"""Starts that must hold, a hot one among them (docs/method/verdict.md#starting)."""
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


def _asked(case: VerdictInputs) -> list[_Needed]:
    upper, planned, legs = case.demand, case.planned, case.home.brief.system.legs
    label = "Steady capacity" if legs == 1 else "Steady, whole source"
    whole = _Needed(Place.TOTAL, label, upper.peak_w, planned.peak_w, upper.peak_va, planned.peak_va)
    return [whole] + [
        _Needed(
            place=Place(str(leg + 1)),
            label=f"Steady, leg {leg + 1}",
            upper_w=upper.leg_w[leg],
            planned_w=planned.leg_w[leg],
            upper_va=upper.leg_va[leg],
            planned_va=planned.leg_va[leg],
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
        f"demand = highest minute of {case.demand.draws} simulated outages{raised}",
        f"planned {plain(asked.planned_w, 'w')}",
        plain(asked.upper_w, "w"),
        DEMAND_WORKING_SOURCE,
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
            _margin_working(asked.upper_w, capability_w),
            *(working for h in (held, trip) if h and h.measured_w is not None for working in h.finding.workings[-1:]),
        ),
        seqs=tuple(h.seq for h in (held, trip, against) if h and h.seq),
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


def _margin_working(demand: float, capability: float, unit: str = "w") -> Working:
    return Working(
        "margin = (capability − demand) ÷ demand",
        f"({number(capability, unit)} − {number(demand, unit)}) ÷ {number(demand, unit)}",
        plain((capability - demand) / demand * 100 if demand else 0.0, "pct"),
    )


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
        workings=(_demand_working(case, asked), _margin_working(asked.upper_w, limit.w)),
    )


def starting(case: VerdictInputs) -> Requirement:
    """Starting: every load with a start, on its worst base; the line shows the one that stands worst.

    Of several that stand alike the one with the larger start is shown.
    """
    alone, together = _alone_rows(case), together_rows(case)
    if not alone:
        return not_required("starting", "No load of this home has a start of a cycle or more.")
    start_va = {short_name(load): load.start_total_va for load in case.home.loads}
    worst = min(alone, key=lambda row: (*_how_bad(row), -start_va.get(row.load, 0.0)))
    both = min(together, key=_how_bad, default=worst)
    return both if ORDER.index(both.status) < ORDER.index(worst.status) else worst


def _how_bad(row: Requirement) -> tuple[int, bool, float]:
    """Status first; then volts that were measured before shares that were planned; then the margin."""
    measured = row.margin is not None and row.margin.unit == "v"
    return ORDER.index(row.status), not measured, row.margin.value if row.margin else -math.inf


def start_rows(case: VerdictInputs) -> list[Requirement]:
    """The starting line of each load with a start, and of each two that start together, for the page behind the verdict."""
    return [*_alone_rows(case), *together_rows(case)]


def _alone_rows(case: VerdictInputs) -> list[Requirement]:
    """The line of each load on what runs beneath it; and of each that has a start and no hours."""
    judged = [_starting(case, demand) for demand in case.demand.starts if demand.load in case.loads]
    rows = [by_chance(row, case) for row in judged]
    hz = case.home.brief.system.hz
    return [*rows, *(_no_hours(load) for load in unscheduled(case) if load.start_unknown or load.has_start(hz))]


def unscheduled(case: VerdictInputs) -> list[Load]:
    """Loads that must or should run, of which nobody said in which hours: they are in no figure of the verdict."""
    return [load for load in case.home.loads if not load.hours and load.tier in (Tier.MUST, Tier.SHOULD)]


def _no_hours(load: Load) -> Requirement:
    name = short_name(load)
    return unproven(
        "starting",
        plain(load.start_total_va, "va"),
        f"Nobody said in which hours the {name} runs, so it is in no figure here: say them, or that it is left off.",
        label=_start_label(load),
        load=name,
    )


def _starting(case: VerdictInputs, demand: StartDemand) -> Requirement:
    load = case.loads[demand.load]
    seen = [
        start
        for start in case.seen.starts
        if start.run.load == demand.load
        and start.outcome is not Outcome.UNKNOWN
        and not (start.leg is Leg.TWO and load.leg is Leg.ONE)
        and (load.eased or not start.run.eased)
    ]
    failed = [start for start in seen if start.outcome.failed and start.base_w <= demand.base_w * 1.05]
    if failed:
        return _start_failed(load, demand, failed)
    on_base = [start for start in seen if start.outcome is Outcome.HELD and start.base_w >= demand.base_w * 0.95]
    if on_base:
        return _start_held(case, load, demand, on_base)
    if load.start_unknown:
        return unproven(
            "starting",
            f"1 to {MOST_UNKNOWN_X:g} times {plain(load.run_va, 'va')}",
            f"Nobody said what kind of load the {short_name(load)} is: say it, or start it once and read it.",
            label=_start_label(load),
            load=short_name(load),
        )
    if case.home.brief.schools.surge_from is SurgeFrom.MEASURED and not load.start_grade.is_measured:
        return unproven(
            "starting",
            "a start that was measured",
            f"By this job's rule only a measured start counts: read that of the {short_name(load)}, on the mains or here.",
            label=_start_label(load),
            load=short_name(load),
        )
    predicted = _predicted(case, demand)
    if predicted is not None and predicted.lowest is not None and predicted.lowest.grade is not Grade.D:
        return _start_predicted(load, demand, predicted, predicted.lowest, seen)
    return _start_by_nameplate(case, load, demand, seen)


def _predicted(case: VerdictInputs, demand: StartDemand) -> Prediction | None:
    """What the character predicts of a start on its worst base, where starts of others were measured."""
    if not case.character.start_models:
        return None
    load = case.loads[demand.load]
    (prediction,) = predictions(
        case.character, [load], case.home.brief.system, {load.key: demand.base_w}, case.seen.starts
    )
    return prediction if prediction.floor_v > 0 else None


def _start_predicted(
    load: Load, demand: StartDemand, predicted: Prediction, lowest: Value, seen: list[StartSeen]
) -> Requirement:
    """A start not tried on that base, predicted from those that were: grade B, for it is indirect.

    Predicted alone it does not carry: three starts must hold (docs/method/verdict.md#starting). Well below what it needs it falls short.
    """
    margin = room(predicted.floor_v, lowest.value, lowest.u, "v", below=False)
    tried = [start for start in seen if start.outcome is Outcome.HELD]
    status = status_of(margin, Evidence(lowest.grade, missing=margin.high >= 0 or bool(tried)))
    on_lighter = f" It started on {plain(max(s.base_w for s in tried), 'w')}." if tried else ""
    verb = {True: "It should start", False: "It should not start", None: "It may or may not start"}[predicted.starts]
    return Requirement(
        key="starting",
        label=_start_label(load),
        demand=f"≥ {plain(predicted.floor_v, 'v')}",
        capability=f"predicted {plain(lowest.value, 'v')}",
        margin=margin,
        grade=lowest.grade,
        status=status,
        sentence=f"{verb} on its worst base of {plain(demand.base_w, 'w')}: {plain(lowest.value, 'v')} ± {number(lowest.u or 0, 'v')} "
        f"predicted from the starts that were read, {plain(predicted.floor_v, 'v')} needed.{on_lighter}",
        workings=(
            _base_working(demand),
            Working(
                "lowest = volts before ÷ (1 + Z × standstill amps ÷ nominal), or where the amps meet the limit",
                f"{plain(load.start_total_va, 'va')} at the start, grade {load.start_grade}",
                str(lowest),
                "character of the source, see Findings",
            ),
        ),
        seqs=tuple(start.run.seq for start in tried),
        load=short_name(load),
    )


def _start_label(load: Load) -> str:
    return f"Starting, {short_name(load)}"


def _start_failed(load: Load, demand: StartDemand, failed: list[StartSeen]) -> Requirement:
    worst = min(failed, key=lambda start: start.lowest.value if start.lowest else math.inf)
    lowest = worst.lowest.value if worst.lowest else None
    times = {1: "once", 2: "twice"}.get(len(failed), f"{len(failed)} times")
    how = "stalled" if worst.outcome is Outcome.STALLED else "took the source down"
    on_top = f"on {plain(worst.base_w, 'w')}" if worst.base_w else "alone"
    below = lowest is not None and lowest < worst.floor_v
    gap = lowest - worst.floor_v if lowest is not None and below else None
    margin = None if gap is None else Margin(gap, gap, gap, "v")
    said = (
        f"Dipped to {plain(lowest, 'v')} and {how}, {times}" if lowest is not None else f"{how.capitalize()}, {times}"
    )
    need = f"{plain(worst.floor_v, 'v')} is what its kind needs"
    sentence = f"{said}; {need}." if below else f"{said}, though {need}: this one needs more."
    return Requirement(
        key="starting",
        label=_start_label(load),
        demand=f"≥ {plain(worst.floor_v, 'v')}",
        capability=f"not started, {on_top}",
        margin=margin,
        grade=Grade.A,
        status=Status.FALLS_SHORT,
        sentence=sentence,
        workings=(
            _base_working(demand),
            Working(
                "needed = volts on its own nameplate × the share its kind needs",
                f"{load.kind_figures.floor_pct:g} % of {'nominal' if load.plate_v is None else plain(load.plate_v, 'v')}",
                plain(worst.floor_v, "v"),
                "stall threshold of its kind, a trade figure",
            ),
        ),
        seqs=tuple(start.run.seq for start in failed),
        load=short_name(load),
    )


def _base_working(demand: StartDemand) -> Working:
    return Working(
        "worst base = load already running when it starts, 99th percentile of each outage's worst",
        "from the simulated outages, unmeasured loads raised by 25 %",
        f"{plain(demand.base_w, 'w')}, {plain(demand.moment_va, 'va')} with its start",
        "simulated outages, see Day",
    )


def _start_held(case: VerdictInputs, load: Load, demand: StartDemand, held: list[StartSeen]) -> Requirement:
    hot = any(start.run.hot for start in held)
    with_v = [start for start in held if start.lowest is not None]
    worst = min(with_v, key=lambda s: s.lowest.value - s.floor_v if s.lowest else 0.0, default=None)
    lowest = worst.lowest if worst else None
    enough = len(held) >= STARTS_WANTED and hot
    margin = room(worst.floor_v, lowest.value, lowest.u, "v", below=False) if worst and lowest is not None else None
    grade = worst_grade(lowest.grade if lowest else Grade.B, *(start.base_grade for start in held))
    evidence = Evidence(
        grade,
        flatters=bool(lowest and lowest.bound is Bound.AT_MOST),
        missing=not enough or lowest is None,
        with_rules=case.home.brief.bring_up is BringUp.ONE_BY_ONE and load.calls_at_once,
    )
    if margin is not None and margin.value < 0:
        # It started below the planning threshold of its kind: the start itself is the better evidence.
        margin = Margin(0.0, 0.0, 0.0, "v")
    status = status_of(margin, evidence)
    return Requirement(
        key="starting",
        label=_start_label(load),
        evidence=evidence,
        chance_key=f"starting:{load.key}",
        rules=(ONE_BY_ONE,) if evidence.with_rules else (),
        demand=f"on {plain(demand.base_w, 'w')}",
        capability=f"{len(held)} of {STARTS_WANTED} held" if len(held) <= STARTS_WANTED else f"{len(held)} held",
        margin=margin,
        grade=grade,
        status=status,
        sentence=_held_sentence(demand, held, lowest, hot=hot),
        workings=(_base_working(demand),),
        seqs=tuple(start.run.seq for start in held),
        load=short_name(load),
    )


def _held_sentence(demand: StartDemand, held: list[StartSeen], lowest: Value | None, *, hot: bool) -> str:
    times = f"{len(held)} of {STARTS_WANTED}" if len(held) <= STARTS_WANTED else f"{len(held)} times"
    said = f"Held {times} on its worst base of {plain(demand.base_w, 'w')}"
    if lowest is not None:
        said += f", lowest {lowest}"
    wants = []
    if not all(start.base_grade.is_measured for start in held):
        wants.append("the watts of its base")
    if len(held) < STARTS_WANTED:
        wants.append("more starts")
    if not hot:
        wants.append("a hot restart")
    if lowest is None:
        wants.append("the lowest voltage")
    elif lowest.bound:
        wants.append("a meter fast enough for the dip")
    return f"{said}; still wants {', '.join(wants)}." if wants else f"{said}, a hot restart among them."


def _start_by_nameplate(case: VerdictInputs, load: Load, demand: StartDemand, seen: list[StartSeen]) -> Requirement:
    label = _start_label(load)
    tight = surge_room(case, load, demand.moment_va, demand.leg_moment_va)
    if tight is None:
        return unproven(
            "starting",
            plain(demand.moment_va, "va"),
            "The nameplate names no surge.",
            label=label,
            load=short_name(load),
        )
    limit, needed_va = tight
    planned = next((s for s in case.planned.starts if s.load == demand.load), demand)
    planned_va = planned.moment_va if limit.leg is None else planned.leg_moment_va
    margin = ratio(needed_va, limit.w, None, planned_va)
    tried = [start for start in seen if start.outcome is Outcome.HELD]
    ran = load.key in case.seen.ran
    evidence = None if tried or ran else Evidence(limit.grade)
    status = status_of(margin, Evidence(limit.grade))
    where = f" on {limit.leg.label}" if limit.leg else ""
    if tried:
        # A start that held on a lighter base outranks the nameplate: what is open is the heavier base.
        status = Status.NOT_PROVEN
        most = max(start.base_w for start in tried)
        sentence = f"Started on {plain(most, 'w')}; its worst base is {plain(demand.base_w, 'w')}: start it on that."
    elif ran:
        # It was seen to run: by what is planned of its start alone it is not condemned.
        status = Status.NOT_PROVEN
        sentence = (
            f"It ran here, and nobody read its start: read it, on {plain(demand.base_w, 'w')}. By what is planned of it, it "
            f"wants {plain(needed_va, 'va')}{where}; {limit.basis}: {plain(limit.w, 'va')}."
        )
    else:
        sentence = f"Wants {plain(needed_va, 'va')}{where} on its worst base; {limit.basis}: {plain(limit.w, 'va')}."
    return Requirement(
        key="starting",
        label=label,
        evidence=evidence,
        chance_key=f"starting:{load.key}",
        demand=plain(needed_va, "va"),
        capability=plain(limit.w, "va"),
        margin=margin if not tried else None,
        grade=limit.grade,
        status=status,
        sentence=sentence,
        workings=(_base_working(demand), _margin_working(needed_va, limit.w, "va")),
        seqs=tuple(start.run.seq for start in tried),
        load=short_name(load),
    )


def legs(case: VerdictInputs) -> Requirement:
    """Legs and neutral of a split-phase supply: the neutral's amps against the leg's rating."""
    system = case.home.brief.system
    if system.legs == 1:
        return not_required("legs", "One leg only.")
    limit = binding(case.limits, Leg.ONE)
    needed_a = case.demand.neutral_a
    if needed_a <= 0:
        return not_required("legs", "Nothing runs from one leg to the neutral: it carries nothing.")
    read = _neutral_read(case, needed_a)
    if read is not None:
        return read
    if limit is None:
        return unproven("legs", plain(needed_a, "a"), "The nameplate does not say.")
    limit_a = limit.w / system.v_nominal
    margin = ratio(needed_a, limit_a, None, case.planned.neutral_a)
    status = status_of(margin, Evidence(limit.grade))
    return Requirement(
        key="legs",
        demand=f"neutral {plain(needed_a, 'a')}",
        capability=plain(limit_a, "a"),
        margin=margin,
        grade=limit.grade,
        status=status,
        sentence=f"The neutral carries up to {plain(needed_a, 'a')}; a leg is good for {plain(limit_a, 'a')} ({limit.basis}).",
        workings=(
            Working(
                "neutral = |leg 1 amps − leg 2 amps|",
                "highest of each simulated outage",
                plain(needed_a, "a"),
                "Kirchhoff's current law, like power factors",
            ),
            _margin_working(needed_a, limit_a, "a"),
        ),
    )


def _neutral_read(case: VerdictInputs, needed_a: float) -> Requirement | None:
    """What the neutral was read to carry with its legs unlike, where that is no less than the home needs and nothing was amiss."""
    held = [
        seen
        for seen in case.seen.legs
        if seen.neutral_a is not None and seen.held_s >= COUNTS_AS_HELD_S and seen.is_sound
    ]
    best = max(held, key=lambda seen: seen.neutral_a or 0.0, default=None)
    if best is None or best.neutral_a is None or best.neutral_a < needed_a:
        return None
    margin = ratio(needed_a, best.neutral_a, best.u_neutral_a, case.planned.neutral_a)
    return Requirement(
        key="legs",
        demand=f"neutral {plain(needed_a, 'a')}",
        capability=plain(best.neutral_a, "a"),
        margin=margin,
        grade=Grade.B,
        status=status_of(margin, Evidence(Grade.B)),
        sentence=f"With {plain(best.leg_w[0], 'w')} on leg 1 and {plain(best.leg_w[1], 'w')} on leg 2 its neutral was read at "
        f"{plain(best.neutral_a, 'a')} for {duration(best.held_s)}; the home asks {plain(needed_a, 'a')} of it.",
        workings=(_margin_working(needed_a, best.neutral_a, "a"),),
        seqs=best.findings[0].seqs,
    )


def endurance(case: VerdictInputs) -> Requirement:
    """Endurance and heat: the longest stretch near the peak, against the longest hold at what its busiest hour draws.

    Heat follows the mean over about an hour: a hold at four fifths of a load that stands for hours has settled at too little.
    """
    stretch_s, level_w = case.demand.stretch_s, case.demand.longest_hour_w
    held = [h for h in case.seen.holds if h.place is Place.TOTAL and not h.tripped and h.w >= level_w]
    longest = max(held, key=lambda h: h.held_s, default=None)
    demand = f"{duration(stretch_s)} at {plain(level_w, 'w')}"
    if longest is None:
        return unproven("endurance", demand, "No hold at that level yet.")
    settled = _settled(case, longest)
    settles_s = LONG_ENOUGH_X * settled.rise.tau_s if settled else case.source.kind.settles_s
    long_enough = longest.held_s >= case.source.kind.settles_s
    # Once its heat has settled it bears the level for as long as it is fed.
    spare_s = longest.held_s - min(stretch_s, settles_s)
    margin = Margin(spare_s, spare_s, math.inf, "s")
    heat = "heat not known to have settled"
    if settled:
        heat = f"heat settled at {plain(round(settled.rise.end_c), 'c')}"
    elif long_enough:
        heat = f"after {duration(case.source.kind.settles_s)} the heat of its kind has settled"
    grade = Grade.A if settled else Grade.B
    status = status_of(margin, Evidence(grade, missing=settled is None and not long_enough))
    return Requirement(
        key="endurance",
        demand=demand,
        capability=f"held {duration(longest.held_s)}",
        margin=margin if settled or long_enough else None,
        grade=grade,
        status=status,
        sentence=f"Held {plain(longest.w, 'w')} for {duration(longest.held_s)}; {heat}.",
        workings=settled.finding.workings if settled else (),
        seqs=(longest.seq,),
    )


def _settled(case: VerdictInputs, held: Held) -> HeatSeen | None:
    """The warmest spot whose end temperature is known under nearly such a load; the hold must last three time constants."""
    seen = [
        heat
        for heat in case.seen.heats
        if heat.rise.long_enough and heat.w is not None and heat.w >= HEAT_SHARE * held.w
    ]
    slowest = max(seen, key=lambda heat: heat.rise.tau_s, default=None)
    if slowest is None or held.held_s < LONG_ENOUGH_X * slowest.rise.tau_s:
        return None
    return max(seen, key=lambda heat: heat.rise.end_c)
