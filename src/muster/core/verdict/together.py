"""Two loads whose starts fall together: an event of its own with a chance, both named, never one load's appetite."""

from __future__ import annotations

from dataclasses import replace

from ..character import predictions
from ..character.evidence import StartSeen
from ..loads import Load, short_name
from ..outage import StartsTogether
from ..outage.played import pair_key
from ..quantities import Grade, plain
from ..sessions.replay import Outcome
from ..sources.limits import Limit, binding
from ..supply import Leg
from ..working import Working
from .by_chance import by_chance
from .inputs import VerdictInputs
from .requirement import NO_HEAVIER, NO_LIGHTER, Evidence, Requirement, Status, ratio, room, status_of, unproven

WANTED = 3
"""Starts of both together that must hold, as for one (docs/method/verdict.md#starting)."""


def together_rows(case: VerdictInputs) -> list[Requirement]:
    """A line for each pair whose starts fall together in more than 1 % of the outages, the heaviest first.

    Parameters
    ----------
    case
        What is judged on.

    Returns
    -------
    list of Requirement
        By both started together, else predicted from the starts that were read, else held against the nameplate.

    References
    ----------
    physics §10: coincident starts are both named, and judged at 1 % of outages.
    """
    rows = [
        _row(case, pair, case.loads[pair.load], case.loads[pair.other])
        for pair in case.demand.together
        if pair.load in case.loads and pair.other in case.loads
    ]
    return [by_chance(row, case) for row in rows]


def _row(case: VerdictInputs, pair: StartsTogether, load: Load, other: Load) -> Requirement:
    both = [
        start for start in case.seen.started_together if {start.run.load, *start.run.together} >= {load.key, other.key}
    ]
    base_w = _base_w(case, load, other)
    failed = [start for start in both if start.outcome.failed and start.base_w <= base_w * NO_HEAVIER]
    held = [start for start in both if start.outcome is Outcome.HELD and start.base_w >= base_w * NO_LIGHTER]
    if failed or len(held) >= WANTED:
        return _seen(case, pair, load, other, failed or held, Status.FALLS_SHORT if failed else Status.CARRIES)
    return _predicted(case, pair, load, other) or _by_nameplate(case, pair, load, other)


def _base_w(case: VerdictInputs, load: Load, other: Load) -> float:
    """What runs beneath both at the worst start of either, neither of them in it. [W]"""
    beneath = [start.base_w for start in case.demand.starts if start.load in (load.key, other.key)]
    return max(0.0, max(beneath, default=0.0) - max(load.run_w, other.run_w))


def _names(load: Load, other: Load) -> str:
    return f"{short_name(load)} and the {short_name(other)} together"


def _label(load: Load, other: Load) -> str:
    return f"Starting together, {short_name(load)} and {short_name(other)}"


def _chance(pair: StartsTogether) -> str:
    return f"They start at the same moment in {plain(pair.share * 100, 'pct')} of the outages"


def _working(case: VerdictInputs, pair: StartsTogether) -> Working:
    return Working(
        "moment of both = what runs beneath them + both starts, 99th percentile of the outages in which they coincide",
        f"{plain(pair.share * 100, 'pct')} of {case.demand.draws} outages, at least {plain(pair.share_low * 100, 'pct')}",
        plain(pair.moment_va, "va"),
        "simulated outages, see Outage; asked of a source from 1 % on",
        pair.moment_tail_va.rows("VA of that moment"),
    )


def _seen(
    case: VerdictInputs, pair: StartsTogether, load: Load, other: Load, starts: list[StartSeen], status: Status
) -> Requirement:
    verb = "it failed" if status is Status.FALLS_SHORT else "it held"
    return Requirement(
        key="starting",
        label=_label(load, other),
        demand="both at once",
        capability=f"{verb}, {len(starts)} of {WANTED}",
        margin=None,
        grade=Grade.A,
        status=status,
        sentence=f"{_chance(pair)}; started so {len(starts)} times, {verb}.",
        workings=(_working(case, pair),),
        seqs=tuple(start.run.seq for start in starts),
        findings=tuple(start.finding for start in starts),
        load=_names(load, other),
    )


def _predicted(case: VerdictInputs, pair: StartsTogether, load: Load, other: Load) -> Requirement | None:
    """From the starts that were read, where each of the two was started alone and held; None where that does not reach."""
    alone = {start.run.load for start in case.seen.starts if start.outcome is Outcome.HELD and not start.run.together}
    if not case.character.start_models or not {load.key, other.key} <= alone or load.leg is not other.leg:
        return None
    base_w = next((start.base_w for start in case.demand.starts if start.load == load.key), 0.0)
    both = replace(load, start_va=load.start_total_va + other.start_total_va)
    (prediction,) = predictions(case.character, [both], case.home.brief.system, {load.key: base_w})
    lowest = prediction.lowest
    if lowest is None or lowest.grade is Grade.D or prediction.floor_v <= 0:
        return None
    across = 2 if load.leg is Leg.BOTH else 1
    floor_v = max(prediction.floor_v, across * other.floor_v(case.home.brief.system.v_nominal))
    margin = room(floor_v, lowest.value, lowest.u, "v", below=False)
    return Requirement(
        key="starting",
        label=_label(load, other),
        demand=f"≥ {plain(floor_v, 'v')}",
        capability=f"predicted {plain(lowest.value, 'v')}",
        margin=margin,
        grade=lowest.grade,
        evidence=Evidence(lowest.grade),
        chance_key=pair_key(load.key, other.key),
        status=status_of(margin, Evidence(lowest.grade)),
        sentence=f"{_chance(pair)}: volts down to {lowest} by the starts that were read, {plain(floor_v, 'v')} needed.",
        workings=(_working(case, pair),),
        load=_names(load, other),
    )


def _by_nameplate(case: VerdictInputs, pair: StartsTogether, load: Load, other: Load) -> Requirement:
    label, names = _label(load, other), _names(load, other)
    tightest = surge_room(case, load, pair.moment_va, pair.leg_moment_va, other)
    if tightest is None:
        return unproven(
            "starting", plain(pair.moment_va, "va"), "The nameplate names no surge.", label=label, load=names
        )
    limit, needed_va = tightest
    planned = next((p for p in case.planned.together if {p.load, p.other} == {pair.load, pair.other}), pair)
    planned_va = planned.moment_va if limit.leg is None else planned.leg_moment_va
    margin = ratio(needed_va, limit.w, None, planned_va)
    where = f" on {limit.leg.label}" if limit.leg else ""
    disproved = _disproved(case, load, other)
    return Requirement(
        key="starting",
        label=label,
        demand=plain(needed_va, "va"),
        capability=plain(limit.w, "va"),
        margin=margin,
        grade=limit.grade,
        evidence=Evidence(limit.grade, missing=bool(disproved)),
        chance_key=pair_key(load.key, other.key),
        status=status_of(margin, Evidence(limit.grade, missing=bool(disproved))),
        sentence=f"{_chance(pair)} and then want {plain(needed_va, 'va')}{where}; {limit.basis}: {plain(limit.w, 'va')}. "
        f"{disproved or 'Started apart, it does not come to that; started together once, it is known.'}",
        workings=(_working(case, pair),),
        load=names,
    )


def _disproved(case: VerdictInputs, *loads: Load) -> str:
    """That a load which by what is planned of it were too much alone was seen to start: the plan says nothing then."""
    started = {start.run.load for start in case.seen.starts if start.outcome is Outcome.HELD}
    hz = case.home.brief.system.hz
    for load in loads:
        own_va = load.moment_va(hz)
        alone = surge_room(case, load, own_va, own_va * max(load.share_on(leg) for leg in (Leg.ONE, Leg.TWO)))
        too_much = alone is not None and alone[1] > alone[0].w
        if load.key in started and not load.grade_of_start.is_measured and too_much:
            return (
                f"But the {short_name(load)} started here, and by what is planned of its start it would be too much "
                "alone: read the amps of its start, or start both together."
            )
    return ""


def surge_room(
    case: VerdictInputs, load: Load, moment_va: float, leg_moment_va: float, other: Load | None = None
) -> tuple[Limit, float] | None:
    """The surge limit with least room for a moment, and what is needed of it [VA]; None where the nameplate names none.

    Parameters
    ----------
    case
        What is judged on.
    load
        What starts: the legs that it is on are looked at.
    other
        What starts with it: then the legs that both are on.
    moment_va, leg_moment_va
        What the moment asks of the whole source, and of the worst of its legs. [VA]

    Returns
    -------
    tuple or None
        The limit, and what it must give. [VA]
    """
    whole = binding(case.limits, None, surge=True)
    rooms = [(whole, moment_va)] if whole else []
    if case.home.brief.system.legs == 2:
        for leg in (Leg.ONE, Leg.TWO):
            limit = binding(case.limits, leg, surge=True)
            here = load.share_on(leg) > 0 and (other is None or other.share_on(leg) > 0)
            if limit is not None and here:
                rooms.append((limit, leg_moment_va))
    return min(rooms, key=lambda found_room: found_room[0].w - found_room[1], default=None)
