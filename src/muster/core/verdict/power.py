"""Steady capacity, starting, legs and neutral, endurance."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..brief import BringUp
from ..day import StartDemand
from ..findings.holds import Held, best_held, lowest_trip
from ..findings.starts import StartSeen
from ..limits import Limit, binding
from ..loads import Load, short_name
from ..quantities import Bound, Grade, Value, duration, number, plain, worst_grade
from ..sessions import Place
from ..sources import fuel_use
from ..supply import Leg
from ..working import Working
from .case import Case
from .requirement import ORDER, Evidence, Margin, Requirement, Status, not_asked, ratio, room, status_of, unproven

STARTS_WANTED = 3
"""Starts that must hold, a hot one among them (physics.md section 10)."""
DEMAND_WORKING_SOURCE = "99th percentile over draws of the highest 60 s mean"


@dataclass(frozen=True)
class _Asked:
    """Watts asked at a place: raised for what is unmeasured, and as planned."""

    place: Place
    label: str
    upper_w: float
    planned_w: float


def _asked(case: Case) -> list[_Asked]:
    legs = case.home.brief.system.legs
    if legs == 1:
        return [_Asked(Place.TOTAL, "Steady capacity", case.demand.peak_w, case.planned.peak_w)]
    whole = _Asked(Place.TOTAL, "Steady, whole source", case.demand.peak_w, case.planned.peak_w)
    return [whole] + [
        _Asked(Place(str(leg + 1)), f"Steady, leg {leg + 1}", case.demand.leg_w[leg], case.planned.leg_w[leg])
        for leg in range(2)
    ]


def steady(case: Case) -> list[Requirement]:
    """Steady capacity of the whole source and of each leg."""
    return [_steady(case, asked) for asked in _asked(case)]


def _demand_working(case: Case, asked: _Asked) -> Working:
    raised = "" if math.isclose(asked.upper_w, asked.planned_w) else ", unmeasured loads raised by 25 %"
    return Working(
        f"demand = highest minute of {case.demand.draws} simulated outages{raised}",
        f"planned {plain(asked.planned_w, 'w')}",
        plain(asked.upper_w, "w"),
        DEMAND_WORKING_SOURCE,
    )


def _steady(case: Case, asked: _Asked) -> Requirement:
    held, trip = best_held(case.holds, asked.place), lowest_trip(case.holds, asked.place)
    key = f"steady-{asked.place.value}"
    if held is None and trip is None:
        return _steady_by_plate(case, asked, key)
    capability_w = held.w if held else 0.0
    ceiling_w = trip.w + trip.u_w if trip else math.inf
    margin = ratio(asked.upper_w, capability_w, held.u_w if held else None, asked.planned_w)
    high = (ceiling_w - asked.planned_w) / asked.planned_w if asked.planned_w else math.inf
    margin = Margin(margin.value, margin.low, high)
    status = status_of(margin, Evidence(Grade.B, missing=held is None and margin.high >= 0))
    return Requirement(
        key,
        asked.label,
        plain(asked.upper_w, "w"),
        plain(held.w, "w") if held else f"let go at {plain(trip.w, 'w')}" if trip else "–",
        margin if held else None,
        held.finding.value.grade if held else Grade.A,
        status,
        _steady_sentence(asked, held, trip, status),
        "ladder" if status is Status.NOT_PROVEN else "",
        (_demand_working(case, asked), _margin_working(asked.upper_w, capability_w)),
        tuple(h.seq for h in (held, trip) if h),
    )


def _margin_working(demand: float, capability: float, unit: str = "w") -> Working:
    return Working(
        "margin = (capability − demand) ÷ demand",
        f"({number(capability, unit)} − {number(demand, unit)}) ÷ {number(demand, unit)}",
        plain((capability - demand) / demand * 100 if demand else 0.0, "pct"),
    )


def _steady_sentence(asked: _Asked, held: Held | None, trip: Held | None, status: Status) -> str:
    parts = []
    if held:
        parts.append(f"Held {plain(held.w, 'w')} for {duration(held.held_s)}")
    if trip:
        after = f" after {duration(trip.held_s)}" if trip.held_s else ""
        parts.append(f"let go at {plain(trip.w, 'w')}{after}")
    said = "; ".join(parts)
    said = said[0].upper() + said[1:] if said else ""
    asked_words = f"the home's worst minute is {plain(asked.upper_w, 'w')}"
    if status is Status.NOT_PROVEN and held and held.w < asked.upper_w:
        return f"{said}; {asked_words}: hold that, and it is settled."
    return f"{said}; {asked_words}."


def _leg_of(place: Place) -> Leg | None:
    return {Place.LEG1: Leg.ONE, Place.LEG2: Leg.TWO}.get(place)


def _steady_by_plate(case: Case, asked: _Asked, key: str) -> Requirement:
    limit = binding(case.limits, _leg_of(asked.place))
    if limit is None:
        return unproven(key, asked.label, plain(asked.upper_w, "w"), "The plate does not say.", "ladder")
    margin = ratio(asked.upper_w, limit.w, None, asked.planned_w)
    status = status_of(margin, Evidence(limit.grade))
    verb = "leaves too little for" if status is Status.FALLS_SHORT else "against"
    return Requirement(
        key,
        asked.label,
        plain(asked.upper_w, "w"),
        plain(limit.w, "w"),
        margin,
        limit.grade,
        status,
        f"By the {limit.basis}, {plain(limit.w, 'w')} {verb} a worst minute of {plain(asked.upper_w, 'w')}.",
        "ladder" if status is Status.NOT_PROVEN else "",
        (_demand_working(case, asked), _margin_working(asked.upper_w, limit.w)),
    )


def starting(case: Case) -> Requirement:
    """Starting: every load with a start, on its worst base; the line shows the one that stands worst.

    Of several that stand alike the one with the larger start is shown.
    """
    rows = start_rows(case)
    if not rows:
        return not_asked("starting", "Starting", "Nothing in the roll has a start of a cycle or more.")
    start_va = {_start_label(load): load.start_total_va for load in case.home.loads}
    return min(rows, key=lambda row: (*_how_bad(row), -start_va.get(row.label, 0.0)))


def _how_bad(row: Requirement) -> tuple[int, bool, float]:
    """Status first; then volts that were measured before shares that were planned; then the margin."""
    measured = row.margin is not None and row.margin.unit == "v"
    return ORDER.index(row.status), not measured, row.margin.value if row.margin else -math.inf


def start_rows(case: Case) -> list[Requirement]:
    """The starting line of each load with a start, for the page behind the verdict."""
    return [_starting(case, demand) for demand in case.demand.starts if demand.load in case.loads]


def _starting(case: Case, demand: StartDemand) -> Requirement:
    load = case.loads[demand.load]
    seen = [start for start in case.starts if start.run.load == demand.load and start.outcome != "unknown"]
    failed = [
        start for start in seen if start.outcome in ("stalled", "tripped") and start.base_w <= demand.base_w * 1.05
    ]
    if failed:
        return _start_failed(load, demand, failed)
    on_base = [start for start in seen if start.outcome == "held" and start.base_w >= demand.base_w * 0.95]
    if on_base:
        return _start_held(case, load, demand, on_base)
    return _start_by_plate(case, load, demand, seen)


def _start_label(load: Load) -> str:
    return f"Starting, {short_name(load)}"


def _start_failed(load: Load, demand: StartDemand, failed: list[StartSeen]) -> Requirement:
    worst = min(failed, key=lambda start: start.lowest.value if start.lowest else math.inf)
    lowest = worst.lowest.value if worst.lowest else None
    times = {1: "once", 2: "twice"}.get(len(failed), f"{len(failed)} times")
    how = "stalled" if worst.outcome == "stalled" else "took the source down"
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
        "starting",
        _start_label(load),
        f"≥ {plain(worst.floor_v, 'v')}",
        f"not started, {on_top}",
        margin,
        Grade.A,
        Status.FALLS_SHORT,
        sentence,
        "",
        (
            _base_working(demand),
            Working(
                "needed = nominal × the share its kind needs",
                f"{load.kind_figures.floor_pct:g} % of nominal",
                plain(worst.floor_v, "v"),
                "stall threshold of its kind, a trade figure",
            ),
        ),
        tuple(start.run.seq for start in failed),
    )


def _base_working(demand: StartDemand) -> Working:
    return Working(
        "worst base = load already running when it starts, 99th percentile of each outage's worst",
        "from the simulated outages, unmeasured loads raised by 25 %",
        f"{plain(demand.base_w, 'w')}, {plain(demand.moment_va, 'va')} with its start",
        "simulated outages, see Day",
    )


def _start_held(case: Case, load: Load, demand: StartDemand, held: list[StartSeen]) -> Requirement:
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
        "starting",
        _start_label(load),
        f"on {plain(demand.base_w, 'w')}",
        f"{len(held)} of {STARTS_WANTED} held",
        margin,
        grade,
        status,
        _held_sentence(demand, held, lowest, hot=hot),
        "starts" if status is Status.NOT_PROVEN else "",
        (_base_working(demand),),
        tuple(start.run.seq for start in held),
    )


def _held_sentence(demand: StartDemand, held: list[StartSeen], lowest: Value | None, *, hot: bool) -> str:
    said = f"Held {len(held)} of {STARTS_WANTED} on its worst base of {plain(demand.base_w, 'w')}"
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


def _surge_room(case: Case, demand: StartDemand, load: Load) -> tuple[Limit, float] | None:
    """The surge limit with least room for this start, and what is asked of it [VA]."""
    whole = binding(case.limits, None, surge=True)
    found = [(whole, demand.moment_va)] if whole else []
    if case.home.brief.system.legs == 2:
        for leg in (Leg.ONE, Leg.TWO):
            limit = binding(case.limits, leg, surge=True)
            if limit is not None and load.share_on(leg) > 0:
                found.append((limit, demand.leg_moment_va))
    return min(found, key=lambda pair: pair[0].w - pair[1], default=None)


def _start_by_plate(case: Case, load: Load, demand: StartDemand, seen: list[StartSeen]) -> Requirement:
    label = _start_label(load)
    tight = _surge_room(case, demand, load)
    if tight is None:
        return unproven("starting", label, plain(demand.moment_va, "va"), "The plate names no surge.", "starts")
    limit, asked_va = tight
    planned = next((s for s in case.planned.starts if s.load == demand.load), demand)
    planned_va = planned.moment_va if limit.leg is None else planned.leg_moment_va
    margin = ratio(asked_va, limit.w, None, planned_va)
    tried = [start for start in seen if start.outcome == "held"]
    status = status_of(margin, Evidence(limit.grade))
    where = f" on {limit.leg.words}" if limit.leg else ""
    if tried:
        # A start that held on a lighter base outranks the plate: what is open is the heavier base.
        status = Status.NOT_PROVEN
        most = max(start.base_w for start in tried)
        sentence = f"Started on {plain(most, 'w')}; its worst base is {plain(demand.base_w, 'w')}: start it on that."
    else:
        sentence = f"Wants {plain(asked_va, 'va')}{where} on its worst base; {limit.basis}: {plain(limit.w, 'va')}."
    return Requirement(
        "starting",
        label,
        plain(asked_va, "va"),
        plain(limit.w, "va"),
        margin if not tried else None,
        limit.grade,
        status,
        sentence,
        "starts" if status is Status.NOT_PROVEN else "",
        (_base_working(demand), _margin_working(asked_va, limit.w, "va")),
        tuple(start.run.seq for start in tried),
    )


def legs(case: Case) -> Requirement:
    """Legs and neutral of a split-phase supply: the neutral's amps against the leg's rating."""
    system = case.home.brief.system
    if system.legs == 1:
        return not_asked("legs", "Legs and neutral", "One leg only.")
    limit = binding(case.limits, Leg.ONE)
    asked_a = case.demand.neutral_a
    if limit is None:
        return unproven("legs", "Legs and neutral", plain(asked_a, "a"), "The plate does not say.", "legs")
    limit_a = limit.w / system.v_nominal
    margin = ratio(asked_a, limit_a, None, case.planned.neutral_a)
    status = status_of(margin, Evidence(limit.grade))
    return Requirement(
        "legs",
        "Legs and neutral",
        f"neutral {plain(asked_a, 'a')}",
        plain(limit_a, "a"),
        margin,
        limit.grade,
        status,
        f"The neutral carries up to {plain(asked_a, 'a')}; a leg is good for {plain(limit_a, 'a')} by the {limit.basis}.",
        "legs" if status is Status.NOT_PROVEN else "",
        (
            Working(
                "neutral = |leg 1 amps − leg 2 amps|",
                "highest of each simulated outage",
                plain(asked_a, "a"),
                "Kirchhoff's current law, like power factors",
            ),
            _margin_working(asked_a, limit_a, "a"),
        ),
    )


def endurance(case: Case) -> Requirement:
    """Endurance and heat: the longest stretch near the peak, against the longest hold at that level."""
    spell_s, level_w = case.demand.spell_s, 0.8 * case.demand.peak_w
    held = [h for h in case.holds if h.place is Place.TOTAL and not h.tripped and h.w >= level_w]
    longest = max(held, key=lambda h: h.held_s, default=None)
    demand = f"{duration(spell_s)} at {plain(level_w, 'w')}"
    if longest is None:
        return unproven("endurance", "Endurance and heat", demand, "No hold at that level yet.", "endurance")
    margin = Margin(longest.held_s - spell_s, longest.held_s - spell_s, math.inf, "s")
    return Requirement(
        "endurance",
        "Endurance and heat",
        demand,
        f"held {duration(longest.held_s)}",
        None,
        Grade.B,
        status_of(margin, Evidence(Grade.B, missing=True)),
        f"Held {plain(longest.w, 'w')} for {duration(longest.held_s)}; heat not known to have settled.",
        "endurance",
        (),
        (longest.seq,),
    )


def energy(case: Case) -> Requirement:
    """Energy or fuel: the outage and its reserve against what tank and store, or battery, hold."""
    wanted_h = case.home.brief.outage_h * (1 + case.home.brief.reserve_pct / 100)
    if case.source.kind.has_engine:
        return _fuel(case, wanted_h)
    return _battery(case, wanted_h)


def _fuel(case: Case, wanted_h: float) -> Requirement:
    claims, brief = case.source.claims, case.home.brief
    use = fuel_use(claims)
    demand = duration(wanted_h * 3600)
    if use is None or claims.tank_l is None:
        return unproven(
            "energy", "Fuel", demand, "Say the tank and the use at half and full load on the source page.",
            "endurance", "not said",
        )  # fmt: skip
    mean_w = case.demand.total_wh / brief.outage_h
    at_hand_l = claims.tank_l + (claims.stored_fuel_l or 0.0)
    lph = use.lph(mean_w)
    planned_lph = use.lph(case.planned.total_wh / brief.outage_h)
    hours = at_hand_l / lph
    margin = ratio(wanted_h, hours, None, wanted_h * planned_lph / lph)
    status = status_of(margin, Evidence(Grade.C))
    tank_h = claims.tank_l / lph
    tanks = f"{number(brief.outage_h / tank_h, 'n')} tanks for the outage"
    return Requirement(
        "energy",
        "Fuel",
        demand,
        f"{duration(tank_h * 3600)} a tank",
        margin,
        Grade.C,
        status,
        f"About {plain(lph, 'lph')} by the booklet: {duration(hours * 3600)} on the {plain(at_hand_l, 'l')} at hand, {tanks}.",
        "endurance" if status is Status.NOT_PROVEN else "",
        (
            Working(
                "litres an hour = a + b × mean load, through the booklet's half and full load",
                f"{use.a_lph:.2f} + {use.b_lph_per_w * 1000:.2f} per kW × {mean_w / 1000:.2f} kW",
                plain(lph, "lph"),
                "straight line through two claims",
            ),
            Working("hours = fuel at hand ÷ litres an hour", f"{number(at_hand_l)} ÷ {number(lph)}", plain(hours, "h")),
            Working(
                "asked = outage × (1 + reserve)",
                f"{brief.outage_h:g} h × {1 + brief.reserve_pct / 100:g}",
                plain(wanted_h, "h"),
            ),
        ),
    )


def _battery(case: Case, wanted_h: float) -> Requirement:
    claims, brief = case.source.claims, case.home.brief
    scale = wanted_h / brief.outage_h
    idle_wh = (claims.idle_w or 0.0) * wanted_h
    asked_wh, planned_wh = case.demand.total_wh * scale, case.planned.total_wh * scale
    demand = plain(asked_wh, "wh")
    if claims.battery_wh is None:
        return unproven(
            "energy", "Energy", demand, "Say the battery's capacity on the source page.", "endurance", "not said"
        )
    usable_wh = claims.battery_wh * (claims.usable_pct or 100.0) / 100
    given_wh = max(0.0, usable_wh - idle_wh)
    margin = ratio(asked_wh, given_wh, None, planned_wh)
    status = status_of(margin, Evidence(Grade.C))
    return Requirement(
        "energy",
        "Energy",
        demand,
        plain(given_wh, "wh"),
        margin,
        Grade.C,
        status,
        f"By the booklet {plain(given_wh, 'wh')} reaches the loads; the outage and its reserve ask {plain(asked_wh, 'wh')}. "
        "Sun left out.",
        "endurance" if status is Status.NOT_PROVEN else "",
        (
            Working(
                "given = capacity × usable share − idle × hours",
                f"{number(claims.battery_wh)} × {claims.usable_pct or 100:g} % − {claims.idle_w or 0:g} W × {number(wanted_h)} h",
                plain(given_wh, "wh"),
            ),
            _margin_working(asked_wh, given_wh, "wh"),
        ),
    )
