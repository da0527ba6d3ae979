"""The verdict: its rules in their order, its rows, and its honesty."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.brief import Brief, BringUp, Wiring
from muster.core.findings import findings_of
from muster.core.loads import Duty, Load, Tier, Tolerance
from muster.core.quantities import Grade
from muster.core.sessions import Conditions, Entry, Event
from muster.core.sources import Claims, FuelRating, Site, Source, SourceKind
from muster.core.verdict import Margin, Requirement, Status, Verdict, judge
from muster.core.verdict.requirement import Evidence, ratio, room, status_of

from ..build import SINGLE, case, found, load, session, set_of

BRIEF = Brief(system=SINGLE, outage_h=4, outage_from_hour=12, bring_up=BringUp.AT_ONCE)
HEATER = load("1", "heater", run_w=2000)
FUSSY = replace(HEATER, tolerance=Tolerance(v_low_pct=10, v_high_pct=10, hz_pct=5, gap_ms=20))
PUMP = load("2", "pump", "motor_loaded", 800, pf=0.8, duty=Duty(3, 27))
A, B, C = Evidence(Grade.A), Evidence(Grade.B), Evidence(Grade.C)


def row(verdict: Verdict, key: str) -> Requirement:
    return next(r for r in verdict.requirements if r.key == key)


# The rules, the first that applies


@pytest.mark.parametrize(
    ("margin", "evidence", "status"),
    [
        (None, A, Status.NOT_PROVEN),
        (Margin(0.5, 0.4, 0.6), Evidence(Grade.A, missing=True), Status.NOT_PROVEN),
        (Margin(0.5, 0.4, 0.6), Evidence(Grade.B, flatters=True), Status.NOT_PROVEN),
        (Margin(-0.3, -0.5, -0.1), C, Status.FALLS_SHORT),
        (Margin(-0.3, -0.5, -0.1), A, Status.FALLS_SHORT),
        (Margin(0.5, 0.4, 0.6), C, Status.NOT_PROVEN),
        (Margin(0.5, 0.4, 0.6), Evidence(Grade.D), Status.NOT_PROVEN),
        (Margin(0.5, 0.4, 0.6), A, Status.CARRIES),
        (Margin(0.5, 0.4, 0.6), B, Status.CARRIES),
        (Margin(0.5, 0.4, 0.6), Evidence(Grade.A, with_rules=True), Status.WITH_RULES),
        (Margin(0.05, -0.1, 0.2), A, Status.TIGHT),
        (Margin(-0.05, -0.1, 0.2), A, Status.NOT_PROVEN),
    ],
)
def test_the_first_rule_that_applies(margin: Margin | None, evidence: Evidence, status: Status) -> None:
    assert status_of(margin, evidence) is status


def test_nothing_asked_comes_before_everything() -> None:
    assert status_of(Margin(-1, -1, -1), A, asked=False) is Status.NOT_REQUIRED


def test_unknown_uncertainty_takes_a_fifth_off_the_low_end_alone() -> None:
    margin = ratio(1000, 1300, None)
    assert (margin.value, margin.low, margin.high) == (pytest.approx(0.3), pytest.approx(0.1), pytest.approx(0.3))


def test_nothing_falls_short_only_because_it_was_not_measured() -> None:
    margin = ratio(1250, 1100, None, 1000)
    assert margin.value < 0 < margin.high
    assert status_of(margin, B) is Status.NOT_PROVEN


@given(st.floats(1, 1e4), st.floats(0, 1e4), st.floats(0, 100))
def test_a_margin_lies_within_its_ends(demand: float, capability: float, u: float) -> None:
    for margin in (ratio(demand, capability, u), room(demand, capability, u, "v", below=True)):
        assert margin.low <= margin.value <= margin.high


# On paper


def test_on_paper_nothing_carries() -> None:
    verdict = judge(case((HEATER, PUMP), set_of(9000, surge_w=12000, surge_s=5), BRIEF))
    assert all(r.status in (Status.NOT_PROVEN, Status.NOT_REQUIRED) for r in verdict.requirements)
    assert verdict.status is Status.NOT_PROVEN
    assert "Not proven" in verdict.headline


def test_a_claim_below_the_demand_falls_short_at_any_grade() -> None:
    verdict = judge(case((HEATER,), set_of(1500), BRIEF))
    assert row(verdict, "steady-total").status is Status.FALLS_SHORT
    assert verdict.status is Status.FALLS_SHORT


def test_a_planned_demand_enters_at_its_upper_figure() -> None:
    guessed = replace(HEATER, run_grade=Grade.D)
    line = row(judge(case((guessed,), set_of(2200), BRIEF)), "steady-total")
    assert "2\u202f500" in line.demand
    assert line.status is Status.NOT_PROVEN


def test_every_line_not_proven_names_what_would_settle_it() -> None:
    verdict = judge(case((HEATER, PUMP), set_of(5000, surge_w=9000), BRIEF))
    for line in verdict.requirements:
        if line.status is Status.NOT_PROVEN:
            assert line.settle_by, line.key


# Measured


def test_a_level_held_ten_minutes_above_the_demand_carries() -> None:
    seen = found([(0, "+1"), (10, "2600w"), (800, "2600w"), (810, "-1")], (HEATER,), SINGLE)
    line = row(judge(case((HEATER,), set_of(3000), BRIEF, seen)), "steady-total")
    assert (line.status, line.grade) == (Status.CARRIES, Grade.B)


def test_a_level_held_below_the_demand_proves_nothing_either_way() -> None:
    seen = found([(0, "+1"), (10, "1500w"), (800, "1500w"), (810, "-1")], (HEATER,), SINGLE)
    line = row(judge(case((HEATER,), set_of(3000), BRIEF, seen)), "steady-total")
    assert line.status is Status.NOT_PROVEN
    assert line.settle_by == "ladder"


def test_a_trip_below_the_demand_falls_short() -> None:
    seen = found([(0, "+1"), (10, "1500w"), (800, "1500w"), (810, "1700w !trip")], (HEATER,), SINGLE)
    line = row(judge(case((HEATER,), set_of(3000), BRIEF, seen)), "steady-total")
    assert line.status is Status.FALLS_SHORT


def _starts(volts: float, *, times: int = 3, hot: bool = True, meter: str = "multimeter", end: str = "!held"):
    lines = [(0.0, "+1"), (5.0, "l1 228v 2000w")]
    for i in range(times):
        word = "hot " if hot and i == times - 1 else ""
        lines += [(20.0 + i * 60, f"{word}pump start @{meter} 228v before {volts}v min {end}"), (40.0 + i * 60, "-2")]
    return found(lines, (HEATER, PUMP), SINGLE)


def _starting(seen: object, brief: Brief = BRIEF) -> Requirement:
    return row(judge(case((HEATER, PUMP), set_of(9000, surge_w=12000), brief, seen)), "starting")  # type: ignore[arg-type]


def test_three_starts_on_the_worst_base_with_a_hot_one_carry() -> None:
    line = _starting(_starts(195))
    assert line.status is Status.CARRIES
    assert line.margin is not None
    assert line.margin.value == pytest.approx(195 - 0.75 * 230)


def test_loads_restored_by_hand_are_a_household_rule() -> None:
    brief = replace(BRIEF, bring_up=BringUp.ONE_BY_ONE)
    assert _starting(_starts(195), brief).status is Status.WITH_RULES


def test_two_starts_are_not_three_and_cold_is_not_hot() -> None:
    assert _starting(_starts(195, times=2)).status is Status.NOT_PROVEN
    cold = _starting(_starts(195, hot=False))
    assert cold.status is Status.NOT_PROVEN
    assert "hot restart" in cold.sentence


def test_starts_on_a_base_that_nobody_measured_prove_nothing() -> None:
    guessed = replace(HEATER, run_grade=Grade.D, run_w=1500)
    lines = [(0.0, "+1")]
    for i in range(3):
        hot = "hot " if i == 2 else ""
        lines += [(20.0 + i * 60, f"{hot}pump start @multimeter 228v before 195v min !held"), (40.0 + i * 60, "-2")]
    pump = replace(PUMP, run_grade=Grade.A)
    seen = found(lines, (replace(guessed, run_w=2500), pump), SINGLE)
    line = row(judge(case((guessed, pump), set_of(9000, surge_w=12000), BRIEF, seen)), "starting")
    assert (line.status, line.grade) == (Status.NOT_PROVEN, Grade.D)
    assert "watts of its base" in line.sentence


def test_a_dip_seen_by_a_slow_meter_flatters_and_proves_nothing() -> None:
    line = _starting(_starts(195, meter="meter"))
    assert line.status is Status.NOT_PROVEN
    assert "fast enough" in line.sentence


def test_a_stall_falls_short_with_its_volts() -> None:
    line = _starting(_starts(160, end="!stall"))
    assert line.status is Status.FALLS_SHORT
    assert line.margin is not None
    assert line.margin.value == pytest.approx(160 - 172.5)


def test_a_stall_above_the_planning_threshold_shows_no_margin_that_it_has_not() -> None:
    line = _starting(_starts(200, end="!stall"))
    assert line.status is Status.FALLS_SHORT
    assert line.margin is None
    assert "this one needs more" in line.sentence


def test_a_start_that_held_below_the_planning_threshold_is_tight() -> None:
    assert _starting(_starts(165)).status is Status.TIGHT


def test_a_start_on_a_lighter_base_leaves_the_worst_one_open() -> None:
    seen = found([(0, "pump start @multimeter 228v before 200v min !held")], (HEATER, PUMP), SINGLE)
    line = _starting(seen)
    assert line.status is Status.NOT_PROVEN
    assert "start it on that" in line.sentence


def test_voltage_and_frequency_are_judged_from_no_load_to_the_peak() -> None:
    lines = [(0, "243v 51.5hz"), (5, "+1"), (10, "236v 1000w 50.5hz"), (20, "+2"), (30, "229v 2000w 49.5hz")]
    verdict = judge(case((FUSSY,), set_of(3000), BRIEF, found(lines, (HEATER, PUMP), SINGLE)))
    volts, hertz = row(verdict, "voltage"), row(verdict, "frequency")
    assert volts.margin is not None
    assert volts.margin.value == pytest.approx(253 - 243, abs=0.01)
    assert hertz.margin is not None
    assert hertz.margin.value == pytest.approx(52.5 - 51.5, abs=0.01)
    assert (volts.status, volts.grade) == (Status.CARRIES, Grade.A)


def test_a_line_drawn_on_past_its_readings_is_grade_b() -> None:
    lines = [(0, "243v 51.5hz"), (5, "+1"), (10, "240v 500w 51hz"), (20, "+2"), (30, "237v 1000w 50.5hz")]
    verdict = judge(case((FUSSY,), set_of(3000), BRIEF, found(lines, (HEATER, PUMP), SINGLE)))
    assert row(verdict, "voltage").grade in (Grade.A, Grade.B)
    assert row(verdict, "frequency").grade is Grade.B


@pytest.mark.parametrize(
    "lines",
    [
        [(0, "243v 51.5hz"), (5, "+1"), (10, "240v 500w 51hz"), (20, "+2"), (30, "239v 600w 50.9hz")],
        [(0, "243v 51.5hz"), (5, "+1"), (10, "232v 2000w 50hz")],
    ],
)
def test_a_line_from_too_few_loads_or_drawn_on_too_far_proves_nothing(lines: list[tuple[float, str]]) -> None:
    """Two volts read below half the home's peak made the row carry."""
    verdict = judge(case((FUSSY,), set_of(3000), BRIEF, found(lines, (HEATER, PUMP), SINGLE)))
    assert row(verdict, "voltage").status is Status.NOT_PROVEN
    assert row(verdict, "frequency").status is Status.NOT_PROVEN
    assert "too little to tell" in row(verdict, "voltage").sentence


def test_a_stepped_wave_falls_short_for_a_load_that_wants_a_sine() -> None:
    from muster.core.loads import Wave

    boiler = load("3", "boiler", "furnace", 300, pf=0.8)
    verdict = judge(case((boiler,), set_of(3000, wave=Wave.STEPPED), BRIEF))
    assert row(verdict, "waveform").status is Status.FALLS_SHORT


def test_what_nothing_in_the_loads_minds_is_not_asked() -> None:
    verdict = judge(case((HEATER,), set_of(), replace(BRIEF, wiring=Wiring.AUTOMATIC)))
    assert row(verdict, "frequency").status is Status.NOT_REQUIRED
    assert row(verdict, "transfer").status is Status.NOT_REQUIRED


def test_the_fussiest_load_sets_the_limit() -> None:
    lines = [(0, "243v 51.5hz"), (5, "+1"), (10, "236v 1000w 50.5hz"), (20, "+2"), (30, "229v 2000w 49.5hz")]
    strict = replace(PUMP, tolerance=Tolerance(v_high_pct=3, hz_pct=2))
    verdict = judge(case((HEATER, strict), set_of(3000), BRIEF, found(lines, (HEATER, PUMP), SINGLE)))
    assert row(verdict, "voltage").status is Status.FALLS_SHORT
    assert row(verdict, "frequency").demand.startswith("49–51")


def test_a_booklets_gap_can_be_too_long_but_never_prove_itself() -> None:
    automatic = replace(BRIEF, wiring=Wiring.AUTOMATIC)
    slow, quick = (judge(case((FUSSY,), set_of(transfer_ms=ms), automatic)) for ms in (60, 10))
    assert row(slow, "transfer").status is Status.FALLS_SHORT
    assert row(quick, "transfer").status is Status.NOT_PROVEN


def test_nobody_asks_about_the_gap_of_a_source_connected_by_hand() -> None:
    assert row(judge(case((HEATER,), set_of(), BRIEF)), "transfer").status is Status.NOT_REQUIRED
    automatic = replace(BRIEF, wiring=Wiring.AUTOMATIC)
    assert row(judge(case((FUSSY,), set_of(), automatic)), "transfer").status is Status.NOT_PROVEN


def test_the_night_limit_is_asked_only_when_the_outage_reaches_the_night() -> None:
    brief = replace(BRIEF, noise_night_dba=45)
    source = set_of(noise_dba_7m=74)
    assert row(judge(case((HEATER,), source, brief)), "noise-night").status is Status.NOT_REQUIRED
    late = replace(brief, outage_from_hour=20)
    line = row(judge(case((HEATER,), source, late)), "noise-night")
    assert line.status is Status.FALLS_SHORT
    assert line.grade is Grade.C


def test_a_walk_unloaded_alone_flatters() -> None:
    brief = replace(BRIEF, noise_day_dba=60)
    seen = found([(0, "background 30db"), (5, "60db@7m")], (HEATER,), SINGLE, neighbour_m=20)
    assert row(judge(case((HEATER,), set_of(), brief, seen)), "noise-day").status is Status.NOT_PROVEN


def test_a_level_with_its_background_untaken_can_show_quiet_but_never_too_loud() -> None:
    brief = replace(BRIEF, noise_day_dba=60)
    lines = [(0, "+1"), (5, "75db@7m")]
    loud = found(lines, (HEATER,), SINGLE, neighbour_m=20)
    assert row(judge(case((HEATER,), set_of(), brief, loud)), "noise-day").status is Status.NOT_PROVEN
    walk = found([(0, "background 30db"), *lines], (HEATER,), SINGLE, neighbour_m=20)
    assert row(judge(case((HEATER,), set_of(), brief, loud, walk)), "noise-day").status is Status.FALLS_SHORT


def test_the_verdict_is_the_worst_of_what_is_asked() -> None:
    verdict = judge(case((HEATER,), set_of(1500), BRIEF))
    statuses = [r.status for r in verdict.requirements if r.must]
    assert Status.NOT_PROVEN in statuses
    assert verdict.status is Status.FALLS_SHORT
    assert verdict.headline.startswith("Falls short")


def test_fuel_is_counted_against_the_outage_and_its_reserve() -> None:
    claims = {"tank_l": 10.0, "half_load_lph": 1.5, "full_load_lph": 2.5}
    line = row(judge(case((HEATER,), set_of(4000, **claims), replace(BRIEF, reserve_pct=50))), "energy")
    assert line.demand.replace("\u202f", " ") == "6 h"
    assert line.margin is not None
    assert line.margin.value == pytest.approx((10 / 1.5 - 6) / 6, rel=1e-3)
    assert Tier.MUST is HEATER.tier


# What was held, and what speaks against it

HELD = ((0, "2600w 228v"), (1800, "2600w 228v"))
KETTLE = load("9", "kettle", run_w=300)


def steady(*lines: tuple[float, str], loads: tuple[Load, ...] = (HEATER,)) -> Requirement:
    seen = found(list(lines), (*loads, KETTLE), SINGLE)
    return row(judge(case(loads, set_of(2800), BRIEF, seen)), "steady-total")


def test_a_level_that_was_held_and_nothing_against_it_carries() -> None:
    assert steady(*HELD).status is Status.CARRIES


@pytest.mark.parametrize(
    "against",
    [
        [(3600, "2000w"), (3640, "tripped")],
        [(3600, "+9"), (3602, "-9"), (3605, "+9"), (3610, "tripped")],
        [(3600, "bogged at 1950w")],
    ],
    ids=["tripped at the demand itself", "tripped and nobody read the watts", "slowed at the demand itself"],
)
def test_what_speaks_against_a_held_level_leaves_it_open_until_it_is_known_why(
    against: list[tuple[float, str]],
) -> None:
    seen = steady(*HELD, *against)
    assert seen.status is Status.NOT_PROVEN
    assert "do not agree" in seen.sentence


def test_a_trip_whose_watts_nobody_read_after_more_was_switched_on_was_above_what_was_read_before() -> None:
    seen = steady(*HELD, (1810, "+9"), (1815, "tripped"))
    assert seen.status is Status.CARRIES


def test_a_trip_well_above_the_demand_speaks_against_nothing() -> None:
    assert steady(*HELD, (3600, "3400w"), (3640, "tripped")).status is Status.CARRIES


def test_a_trip_that_was_an_empty_tank_speaks_against_nothing() -> None:
    assert steady(*HELD, (3600, "2000w"), (9000, "out of fuel, stopped")).status is not Status.FALLS_SHORT


def test_amps_alone_are_no_watts_until_it_is_known_what_was_on() -> None:
    amps = ((0, "11.8a 228v"), (1800, "11.8a 228v"))
    seen = steady(*amps)
    assert seen.status is Status.NOT_PROVEN
    assert "amps were read" in seen.sentence
    assert steady((0, "11.8a 228v pf 1"), (1800, "11.8a 228v pf 1")).status is Status.CARRIES
    motor = load("2", "pump", "motor_loaded", 2000, pf=0.8)
    seen = steady((0, "+2"), *amps, loads=(HEATER, motor))
    assert seen.capability.startswith("2\u202f152"), "the power factor of what was on"


# Measured under other conditions


def under(conditions: Conditions, source: Source, brief: Brief = BRIEF, *, end: str = "2600w 228v") -> Requirement:
    made = replace(session([(0, "2600w 228v"), (1800, end)], (HEATER,), SINGLE), conditions=conditions)
    return row(judge(case((HEATER,), source, brief, findings_of(made, {"1": HEATER}, SINGLE, 20))), "steady-total")


HIGH = replace(BRIEF, site=Site(2500.0, 30.0))


def test_what_was_held_at_the_sea_is_less_on_a_mountain() -> None:
    seen = under(Conditions(altitude_m=0.0, temp_c=20.0), set_of(2800), HIGH)
    assert seen.status is Status.NOT_PROVEN
    assert "2\u202f600\u202fW, 1\u202f915\u202fW under the brief’s conditions".replace("’", "'") in seen.sentence
    assert "measured at 0" in seen.workings[-1].formula
    assert under(Conditions(altitude_m=2500.0, temp_c=30.0), set_of(2800), HIGH).status is Status.CARRIES


def test_what_was_held_on_petrol_is_less_on_propane_and_by_the_ratings_where_there_are_two() -> None:
    propane = Source("set", SourceKind.OPEN_FRAME, Claims(cont_w=2400, fuel="propane"))
    assert "2\u202f340" in under(Conditions(fuel="petrol"), propane).sentence
    rated = replace(
        propane, claims=replace(propane.claims, on_fuels=(FuelRating("propane", 2400), FuelRating("petrol", 3000)))
    )
    assert "2\u202f080" in under(Conditions(fuel="petrol"), rated).sentence
    assert "brief's conditions" not in under(Conditions(fuel="propane"), rated).sentence


def test_what_was_held_on_a_mountain_is_no_hold_of_more_at_the_sea() -> None:
    seen = under(Conditions(altitude_m=2500.0), set_of(2800))
    assert "brief's conditions" not in seen.sentence
    assert seen.capability.startswith("2\u202f600")


def test_a_trip_on_a_mountain_condemns_nothing_at_the_sea_that_it_would_not_have_been() -> None:
    tripped = under(Conditions(altitude_m=2500.0), set_of(5000), end="1900w !trip")
    assert tripped.status is not Status.FALLS_SHORT
    assert "2\u202f557\u202fW under" in tripped.sentence


def test_no_engine_no_correction() -> None:
    station = Source("station", SourceKind.STATION, Claims(cont_w=2800, battery_wh=3000))
    assert "brief's conditions" not in under(Conditions(altitude_m=0.0), station, HIGH).sentence


# Flagged and not confirmed


def test_a_power_that_waits_to_be_confirmed_was_not_held_and_is_named() -> None:
    lines = [(0, "2100w 228v"), (700, "2100w 228v"), (800, "28kw 228v"), (2600, "28kw 228v")]
    made = session(lines, (HEATER,), SINGLE)
    source = set_of(2800)
    seen = findings_of(made, {"1": HEATER}, SINGLE, 20, source=source)
    line = row(judge(case((HEATER,), source, BRIEF, seen)), "steady-total")
    assert line.capability.startswith("2\u202f100")
    assert "left out until confirmed: “28kw 228v”, “28kw 228v”" in line.sentence
    stands = tuple(Entry(5 + n, 3000.0, (Event("stands", str(seq)),), "stands") for n, seq in enumerate((3, 4)))
    sure = findings_of(replace(made, entries=(*made.entries, *stands)), {"1": HEATER}, SINGLE, 20, source=source)
    assert row(judge(case((HEATER,), source, BRIEF, sure)), "steady-total").capability.startswith("28")
