"""Energy and fuel: what tank or battery hold, measured where it was, against the outage and its reserve."""

from __future__ import annotations

import math
from calendar import month_name
from dataclasses import dataclass, replace

from ..quantities import Grade, Value, duration, number, plain, worst_grade
from ..sources import Chemistry, FuelUse, fuel_use
from ..trade.batteries import COLD_FROM_C, PEUKERT_LEAD, USE_TO_PCT, cold_share, faster_share
from ..trade.schools import CapacityTest, UsableOf
from ..working import Working
from .inputs import VerdictInputs
from .requirement import Evidence, Margin, Requirement, Status, ratio, status_of, unproven

TOLD_RUN = {
    CapacityTest.BOTH: "the nearest to what is needed",
    CapacityTest.SLOW: "the slowest, as the job has it",
    CapacityTest.FAST: "the fastest, as the job has it",
}
IDLE_USUAL_SHARE = 0.01
"""Of its rating an inverter draws for itself, where nobody read it: planning figure, from nothing to twice as much."""
LASTED_X = 2.0
"""A run of the home's own loads that lasted so many times what is needed contradicts what is planned of them, whatever the
weather of either. Ours."""
P1_USUAL = 0.08
"""Load-dependent loss where no loss curve was read: planning figure of inverters."""


def energy(case: VerdictInputs) -> Requirement:
    """Energy or fuel: the outage and its reserve against what tank and store, or battery, hold."""
    wanted_h = case.home.brief.outage_h * (1 + case.home.brief.reserve_pct / 100)
    if case.source.kind.has_engine:
        return _fuel(case, wanted_h)
    return _held_against_runs(case, _battery(case, wanted_h), wanted_h)


def _held_against_runs(case: VerdictInputs, row: Requirement, wanted_h: float) -> Requirement:
    """A line that the home's own loads contradict by having run on it for far longer: their duty is not as it is planned.

    It then neither carries nor falls short: their duty is to be read.
    """
    home = {load.key for load in case.home.loads}
    longest_h = max((hours for hours, on in case.seen.lasted if on >= home), default=0.0)
    if not home or longest_h < LASTED_X * wanted_h or row.margin is None or row.margin.value >= 0:
        return row
    return replace(
        row,
        status=Status.NOT_PROVEN,
        evidence=Evidence(row.grade, missing=True),
        sentence=f"{row.sentence} Yet a run with all of it on lasted {duration(longest_h * 3600)}: "
        "the loads run for less of the time than is planned; read their duty.",
    )


def _at_kw(a_lph: float, b_lph_per_w: float, kw: float) -> str:
    """A line of fuel at a load, its numbers in their places."""
    return f"{number(a_lph, 'lph')} + {number(b_lph_per_w * 1000, 'lph')} × {kw:.3f}"


def _use(case: VerdictInputs) -> tuple[FuelUse, Grade, str, Working] | None:
    """Litres an hour against load: the line through measured stretches, else that through the booklet's two figures."""
    a, b = case.character.get("idle_lph"), case.character.get("lph_per_kw")
    if a is not None and b is not None:
        told = Working(
            "litres an hour = a + b × load, at 1 kW",
            _at_kw(a.value, b.value / 1000, 1.0),
            plain(a.value + b.value, "lph"),
            f"least squares, Willans line: {case.character.by_key['idle_lph'].rests_on}",
        )
        return FuelUse(a.value, b.value / 1000), worst_grade(a.grade, b.grade), "as measured", told
    claimed = fuel_use(case.source.claims)
    if claimed is None:
        return None
    told = Working(
        "litres an hour = a + b × load, at 1 kW",
        _at_kw(claimed.a_lph, claimed.b_lph_per_w, 1.0),
        plain(claimed.lph(1000.0), "lph"),
        "straight line through the booklet's half and full load",
    )
    return claimed, Grade.C, "by the booklet", told


def _u_lph(case: VerdictInputs, w: float) -> float:
    """Half-width of what is burnt at a load, by the line between the lightest and the heaviest at which its use was seen. [L/h]"""
    points = sorted(case.seen.fuel_points, key=lambda point: point.w)
    if len(points) < 2 or points[0].w == points[-1].w:
        idle = case.character.get("idle_lph")
        return (idle.u or 0.0) if idle else 0.0
    low, high = points[0], points[-1]
    x = (w - low.w) / (high.w - low.w)
    return math.hypot((1 - x) * low.u_lph, x * high.u_lph)


@dataclass(frozen=True)
class _FuelBounds:
    """What is burnt at the home's mean load at the most and at the least [L/h], by one load at which it was seen."""

    most_lph: float
    least_lph: float
    u_share: float
    working: Working
    seqs: tuple[int, ...]


def _one_load(case: VerdictInputs) -> _FuelBounds | None:
    """Bounds by the use seen nearest to the home's mean load; None where none was seen.

    An engine burns something at no load: towards a heavier load its use rises by less than the load, towards a lighter
    one it falls by less.
    """
    mean_w = case.demand.total_wh / case.home.brief.outage_h
    points = [point for point in case.seen.fuel_points if point.w > 0]
    point = min(points, key=lambda point: abs(point.w - mean_w), default=None)
    if point is None or point.lph <= 0:
        return None
    x = mean_w / point.w
    most, least = point.lph * max(1.0, x), point.lph * min(1.0, x) if x < 1 else point.lph
    working = Working(
        "litres an hour lie between those of the load that was seen, and those in proportion to the load",
        f"{plain(point.lph, 'lph')} at {plain(point.w, 'w')}, the home's mean is {plain(mean_w, 'w')}",
        f"{plain(least, 'lph')} to {plain(most, 'lph')}",
        "an engine burns something at no load (Willans line)",
    )
    return _FuelBounds(most, least, point.u_lph / point.lph, working, point.seqs)


def _fuel_by_one_load(case: VerdictInputs, bounds: _FuelBounds, at_hand_l: float, wanted_h: float) -> Requirement:
    """The fuel at hand by one load at which its use was seen: it carries by the most, and falls short by the least."""
    hours, most_h = at_hand_l / bounds.most_lph, at_hand_l / bounds.least_lph
    margin = ratio(wanted_h, hours, hours * bounds.u_share, wanted_h)
    margin = replace(margin, high=(most_h * (1 + bounds.u_share) - wanted_h) / wanted_h)
    status = status_of(margin, Evidence(Grade.B, missing=margin.value < 0 <= margin.high))
    return Requirement(
        key="energy",
        label="Fuel",
        demand=duration(wanted_h * 3600),
        capability=f"≥ {duration(hours * 3600)}",
        margin=margin,
        grade=Grade.B,
        status=status,
        sentence=f"At least {duration(hours * 3600)}, at most {duration(most_h * 3600)} on the {plain(at_hand_l, 'l')} at hand, "
        "by the one load at which its use was seen.",
        workings=(bounds.working,),
        seqs=bounds.seqs,
    )


def _fuel(case: VerdictInputs, wanted_h: float) -> Requirement:
    claims, brief = case.source.claims, case.home.brief
    result = _use(case)
    demand = duration(wanted_h * 3600)
    bounds = _one_load(case) if result is None or not result[1].is_measured else None
    if bounds is not None and claims.tank_l is not None:
        return _fuel_by_one_load(case, bounds, claims.tank_l + (claims.stored_fuel_l or 0.0), wanted_h)
    if result is None or claims.tank_l is None:
        asked = ["its tank on the source page"] if claims.tank_l is None else []
        asked += ["what it uses at half and full load, or measure it at two loads"] if result is None else []
        return unproven("energy", demand, f"Say {', and '.join(asked)}.", capability="not said", label="Fuel")
    use, grade, basis, told = result
    mean_w = case.demand.total_wh / brief.outage_h
    at_hand_l = claims.tank_l + (claims.stored_fuel_l or 0.0)
    lph, planned_lph = use.lph(mean_w), use.lph(case.planned.total_wh / brief.outage_h)
    hours, tank_h = at_hand_l / lph, claims.tank_l / lph
    u_h = hours * _u_lph(case, mean_w) / lph if grade.is_measured else None
    margin = ratio(wanted_h, hours, u_h, wanted_h * planned_lph / lph)
    status = status_of(margin, Evidence(grade))
    return Requirement(
        key="energy",
        evidence=Evidence(grade),
        label="Fuel",
        demand=demand,
        capability=f"{duration(tank_h * 3600)} a tank",
        margin=margin,
        grade=grade,
        status=status,
        sentence=f"About {plain(lph, 'lph')} {basis}: {duration(hours * 3600)} on the {plain(at_hand_l, 'l')} at hand, "
        f"{number(brief.outage_h / tank_h, 'n')} tanks for the outage.",
        workings=(
            told,
            Working(
                "a + b × load, at the mean load", _at_kw(use.a_lph, use.b_lph_per_w, mean_w / 1000), plain(lph, "lph")
            ),
            Working(
                "hours = fuel at hand ÷ litres an hour",
                f"{plain(at_hand_l, 'l')} ÷ {plain(lph, 'lph')}",
                plain(hours, "h"),
            ),
            Working(
                "asked = outage × (1 + reserve)",
                f"{brief.outage_h:g} h × {1 + brief.reserve_pct / 100:g}",
                plain(wanted_h, "h"),
            ),
        ),
    )


def _needs_sun(case: VerdictInputs, margin: Margin) -> Grade | None:
    """How well the sun is known that the line needs, for the battery alone does not last; None where it needs none."""
    if not case.character.panels or margin.low > 0:
        return None
    most = case.character.get("pv_most_w")
    return most.grade if most is not None else Grade.C


def _share_told(case: VerdictInputs) -> str:
    """What share the measured delivery is, of the rating or of what recharging took, as the job's school has it."""
    rated_wh, run = (
        case.source.claims.battery_wh,
        max(case.seen.runs, key=lambda down: down.run.ac_wh or 0.0, default=None),
    )
    if run is None or run.run.ac_wh is None:
        return ""
    if case.home.brief.schools.usable_of is UsableOf.RECHARGE:
        trip = case.character.get("round_trip_pct")
        if trip is None:
            return " What recharging takes was not read, so its usable share is not told (Recharge)."
        return f" That is {plain(trip.value, 'pct')} of what recharging took."
    return f" A run gave {plain(run.run.ac_wh / rated_wh * 100, 'pct')} of its rating." if rated_wh else ""


NO_SUN_SAID = " No sun is counted: its place or the month is not said."


def _sun_told(case: VerdictInputs) -> str:
    """What the sun gives over the outage as it was played, in a sentence; that it is left out where nothing was played."""
    if not case.character.panels:
        return ""
    if case.played is None or not math.isfinite(case.played.sun_wh.p50):
        return " Sun left out."
    sun, month = case.played.sun_wh, case.home.brief.month
    when = f" in {month_name[month]}" if month else ""
    if sun.p90 <= 0:
        said = month and case.home.brief.place is not None
        return f" No sun shines on the panels in these hours{when}." if said else NO_SUN_SAID
    return f" The panels{when} give {plain(sun.p10, 'wh')} to {plain(sun.p90, 'wh')} beside it."


@dataclass(frozen=True)
class _Gives:
    """What reaches the loads over so many hours [Wh], and how that is known."""

    wh: Value
    basis: str
    workings: tuple[Working, ...]


def _measured(case: VerdictInputs, hours: float) -> _Gives | None:
    """From the run to empty nearest in load: the battery's energy from what it delivered, less the idle draw of the hours asked for.

    ``E_u = (1 + p₁)e + P₀t`` gives the energy of the run that was made, and
    the same line the delivery of the outage.
    """
    character, wanted_w = case.character, case.demand.total_wh / case.home.brief.outage_h
    runs = sorted(case.seen.runs, key=lambda down: down.run.mean_w)
    if not runs:
        return None
    school = case.home.brief.schools.capacity_test
    nearest = min(runs, key=lambda down: abs(down.run.mean_w - wanted_w))
    if school is not CapacityTest.BOTH:
        nearest = runs[0] if school is CapacityTest.SLOW else runs[-1]
    run, run_c = nearest.run, nearest.air_c
    assert run.ac_wh is not None
    idle, p1 = character.get("idle_w"), character.get("loss_p1_pct")
    idle_w, u_idle_w = _idle(case, longer=hours > run.hours)
    x = 1 + (p1.value / 100 if p1 else P1_USUAL)
    left, why = _under_the_brief(case, run.mean_w, wanted_w, run_c, lead=case.source.claims.chemistry is Chemistry.LEAD)
    battery_wh = left * (x * run.ac_wh + idle_w * run.hours)
    given_wh = max(0.0, (battery_wh - idle_w * hours) / x)
    u = run.u_ac_wh + u_idle_w * abs(hours - run.hours) / x
    if case.source.claims.chemistry is None:  # it may be lead-acid: that is in the half-width, and condemns nothing
        least, why = _under_the_brief(case, run.mean_w, wanted_w, run_c, lead=True)
        u += given_wh * (1 - least / left) if left > 0 else 0.0
    surely = idle is not None and idle.grade.is_measured and not run.no_counter
    grade = Grade.A if surely else Grade.B
    return _Gives(
        Value(given_wh, "wh", u, None, grade),
        "measured from full to empty",
        (
            Working(
                "battery = (1 + p₁) × delivered + idle × hours of the run" + (", × what is left" if left < 1 else ""),
                f"({x:.3f} × {number(run.ac_wh)} + {number(idle_w)} × {number(run.hours)}) × {left:.3f}",
                plain(battery_wh, "wh"),
                f"a run of {duration(run.hours * 3600)} at {plain(run.mean_w, 'w')}, {TOLD_RUN[school]}",
            ),
            *why,
            Working(
                "given = (battery − idle × hours asked) ÷ (1 + p₁)",
                f"({number(battery_wh)} − {number(idle_w)} × {number(hours)}) ÷ {x:.3f}",
                plain(given_wh, "wh"),
            ),
        ),
    )


def _idle(case: VerdictInputs, *, longer: bool) -> tuple[float, float]:
    """What it draws for itself, and half-width: as measured, else claimed, else as its kind usually does. [W]

    Where nobody read it the usual counts against an outage longer than the run, and in favour of none that is shorter.
    """
    idle, claimed_w = case.character.get("idle_w"), case.source.claims.idle_w
    if idle is not None:
        return idle.value, idle.u or 0.0
    if claimed_w is not None:
        return claimed_w, 0.1 * claimed_w
    usual_w = IDLE_USUAL_SHARE * case.source.claims.cont_w
    return (usual_w, usual_w) if longer else (0.0, 0.0)


def _under_the_brief(
    case: VerdictInputs, run_w: float, wanted_w: float, run_c: float | None, *, lead: bool
) -> tuple[float, tuple[Working, ...]]:
    """What is left of a measured run's energy at the outage's rate and in its air: never more than was measured."""
    chemistry, site_c = case.source.claims.chemistry, case.home.brief.site.temp_c
    by_rate = faster_share(run_w, wanted_w) if lead else 1.0
    there = cold_share(site_c if run_c is None else run_c, lead=lead)
    here = cold_share(site_c, lead=lead)
    by_cold = min(1.0, here / there) if there > 0 else 1.0
    name = chemistry.label if chemistry else "chemistry not said: in the half-width, as lead-acid would"
    told = []
    if by_rate < 1:
        told.append(
            Working(
                "emptied faster: (watts of the run ÷ watts asked)^(k − 1)",
                f"({plain(run_w, 'w')} ÷ {plain(wanted_w, 'w')})^{PEUKERT_LEAD - 1:.1f}",
                f"× {by_rate:.2f}",
                f"Peukert; {name}",
            )
        )
    if by_cold < 1:
        told.append(
            Working(
                f"what is left in the cold at {plain(site_c, 'c')} ÷ what was left at {plain(COLD_FROM_C if run_c is None else run_c, 'c')}",
                f"{here:.3f} ÷ {there:.3f}",
                f"× {by_cold:.2f}",
                name,
            )
        )
    return by_rate * by_cold, tuple(told)


def _claimed(case: VerdictInputs, hours: float) -> _Gives | None:
    claims = case.source.claims
    if claims.battery_wh is None:
        return None
    idle = case.character.get("idle_w")
    idle_w = idle.value if idle else claims.idle_w or 0.0
    lead = claims.chemistry is Chemistry.LEAD
    usable_pct = claims.usable_pct or (USE_TO_PCT if lead else 100.0)
    given_wh = max(0.0, claims.battery_wh * usable_pct / 100 - idle_w * hours)
    working = Working(
        "given = capacity × usable share − idle × hours",
        f"{number(claims.battery_wh)} × {usable_pct:g} % − {number(idle_w)} W × {number(hours)}",
        plain(given_wh, "wh"),
        "lead-acid is used to its half, to last" if lead and claims.usable_pct is None else "",
    )
    return _Gives(Value(given_wh, "wh", None, None, Grade.C), "by the booklet", (working,))


def _battery(case: VerdictInputs, wanted_h: float) -> Requirement:
    scale = wanted_h / case.home.brief.outage_h
    needed_wh, planned_wh = case.demand.total_wh * scale, case.planned.total_wh * scale
    demand = plain(needed_wh, "wh")
    gives = _measured(case, wanted_h) or _claimed(case, wanted_h)
    if gives is None:
        return unproven(
            "energy",
            demand,
            "Say the battery's capacity on the source page, or run it from full to empty.",
            capability="not said",
        )
    margin = ratio(needed_wh, gives.wh.value, gives.wh.u, planned_wh)
    status = status_of(margin, Evidence(gives.wh.grade))
    by_sun = _needs_sun(case, margin)
    return Requirement(
        key="energy",
        evidence=Evidence(worst_grade(gives.wh.grade, by_sun) if by_sun else gives.wh.grade),
        demand=demand,
        capability=plain(gives.wh.value, "wh"),
        margin=margin,
        grade=gives.wh.grade,
        status=status,
        sentence=f"{gives.basis[0].upper()}{gives.basis[1:]}, {plain(gives.wh.value, 'wh')} reaches the loads; the outage and its reserve ask "
        f"{plain(needed_wh, 'wh')}.{_share_told(case)}{_sun_told(case)}",
        workings=(
            *gives.workings,
            Working(
                "margin = (capability − demand) ÷ demand",
                f"({number(gives.wh.value, 'wh')} − {number(needed_wh, 'wh')}) ÷ {number(needed_wh, 'wh')}",
                plain((gives.wh.value - needed_wh) / needed_wh * 100 if needed_wh else 0.0, "pct"),
            ),
        ),
    )
