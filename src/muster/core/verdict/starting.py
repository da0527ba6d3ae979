"""Starting: every load with a start, on its worst base; the line shows the one that stands worst."""

from __future__ import annotations

import math

from ..brief import BringUp
from ..character import Prediction, predictions
from ..character.evidence import StartSeen
from ..loads import Load, short_name
from ..loads.kinds import MOST_UNKNOWN_X
from ..outage import StartDemand
from ..quantities import Bound, Grade, Value, number, plain, worst_grade
from ..sessions.replay import Outcome
from ..supply import Leg
from ..trade.schools import SurgeFrom
from ..working import Working
from .by_chance import by_chance
from .inputs import VerdictInputs, unscheduled
from .requirement import (
    NO_HEAVIER,
    NO_LIGHTER,
    ORDER,
    Evidence,
    Margin,
    Requirement,
    Status,
    not_required,
    ratio,
    room,
    status_of,
    unproven,
)
from .together import surge_room, together_rows
from .workings import margin_working

ONE_BY_ONE = "bring the loads up one by one, in the start order"
STARTS_WANTED = 3
"""Starts that must hold, a hot one among them (docs/method/verdict.md#starting)."""


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
    bare = case.without.loads.get(demand.load) if case.without is not None else None
    by_rule = (
        load.eased and bare is not None and not bare.eased
    )  # what failed bare condemns no start with a soft starter
    seen = [
        start
        for start in case.seen.starts
        if start.run.load == demand.load
        and start.outcome is not Outcome.UNKNOWN
        and not (start.leg is Leg.TWO and load.leg is Leg.ONE)
        and (load.eased or not start.run.eased)
        and not (by_rule and start.outcome.failed and not start.run.eased)
    ]
    failed = [start for start in seen if start.outcome.failed and start.base_w <= demand.base_w * NO_HEAVIER]
    if failed:
        return _start_failed(load, demand, failed)
    on_base = [start for start in seen if start.outcome is Outcome.HELD and start.base_w >= demand.base_w * NO_LIGHTER]
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
    if case.home.brief.schools.surge_from is SurgeFrom.MEASURED and not load.grade_of_start.is_measured:
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
                "lowest = volts before × (1 + Z × base) ÷ (1 + Z × (base + standstill amps ÷ nominal)), or where the amps meet the limit",
                predicted.put_in,
                str(lowest),
                f"{plain(load.start_total_va, 'va')} at the start, grade {load.grade_of_start}; character of the source",
            ),
        ),
        seqs=tuple(start.run.seq for start in tried),
        findings=tuple(start.finding for start in tried),
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
                f"{load.kind_figures.floor_pct:g} ÷ 100 × {worst.floor_v / load.kind_figures.floor_pct * 100:.0f}",
                plain(worst.floor_v, "v"),
                "stall threshold of its kind, a trade figure",
            ),
        ),
        seqs=tuple(start.run.seq for start in failed),
        findings=tuple(start.finding for start in failed),
        load=short_name(load),
    )


def _base_working(demand: StartDemand) -> Working:
    return Working(
        "worst base = load already running when it starts, 99th percentile of each outage's worst",
        f"the highest of {demand.base_tail_w.of} simulated outages, unmeasured loads raised by 25 %; {plain(demand.moment_va, 'va')} with its start",
        plain(demand.base_w, "w"),
        "simulated outages, see Outage",
        demand.base_tail_w.rows("W running when it starts"),
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
        findings=tuple(start.finding for start in held),
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
        workings=(_base_working(demand), margin_working(needed_va, limit.w, "va")),
        seqs=tuple(start.run.seq for start in tried),
        findings=tuple(start.finding for start in tried),
        load=short_name(load),
    )
