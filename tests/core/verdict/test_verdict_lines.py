"""The verdict's lines one by one: energy, legs, endurance, dips, noise, and the sentence on top."""

from __future__ import annotations

from dataclasses import replace

import pytest

from muster.core.brief import Brief, BringUp, Home, Wiring
from muster.core.character import given_of
from muster.core.findings import SessionFindings, findings_of
from muster.core.loads import Duty, Load, Tier
from muster.core.outage.household import HouseholdRule, RuleKind, with_rules
from muster.core.outage.simulate import draws_of
from muster.core.quantities import Grade
from muster.core.safety.checks import KNOWN
from muster.core.sessions import PROTOCOLS, Conditions
from muster.core.sources import Chemistry, Claims, Site, Source, SourceKind
from muster.core.supply import Leg
from muster.core.verdict import Margin, Requirement, Status, judge, quality
from muster.core.verdict.inputs import gather_inputs, under_rules
from muster.core.verdict.judge import _headline, requirements
from muster.core.verdict.next_test import bits_of, chance_short, next_tests
from muster.core.verdict.requirement import not_required, unproven
from muster.core.verdict.starting import start_rows

from ..build import SINGLE, SPLIT, case, found, load, session, set_of

BRIEF = Brief(system=SINGLE, outage_h=5, outage_from_hour=12, reserve_pct=20, bring_up=BringUp.AT_ONCE)
HEATER = load("1", "heater", run_w=1000)
PUMP = load("2", "pump", "motor", 400, pf=0.8, duty=Duty(3, 27))


def line(key: str, loads: tuple[Load, ...], source: Source, brief: Brief = BRIEF, *seen: object) -> Requirement:
    verdict = judge(case(loads, source, brief, *seen, draws=8))  # type: ignore[arg-type]
    return next(row for row in verdict.requirements if row.key == key)


def station(**claims: object) -> Source:
    return Source("the station", SourceKind.STATION, Claims(cont_w=2000, **claims))  # type: ignore[arg-type]


# Energy


def test_a_battery_gives_its_usable_share_less_what_standing_by_takes() -> None:
    row = line("energy", (HEATER,), station(battery_wh=10000, usable_pct=90, idle_w=20))
    assert row.label == "Energy"
    assert row.capability.replace("\u202f", "") == f"{10000 * 0.9 - 20 * 6:.0f}Wh"
    assert row.margin is not None
    assert row.margin.value == pytest.approx((8880 - 6000) / 6000)
    assert row.status is Status.NOT_PROVEN
    assert row.settle_by == "endurance"


def test_a_battery_too_small_by_its_own_booklet_falls_short() -> None:
    row = line("energy", (HEATER,), station(battery_wh=2000))
    assert row.status is Status.FALLS_SHORT


def test_a_battery_that_idles_itself_empty_gives_nothing_and_not_less() -> None:
    row = line("energy", (HEATER,), station(battery_wh=100, idle_w=500))
    assert row.capability.startswith("0")


@pytest.mark.parametrize("source", [station(), set_of(2000), set_of(2000, tank_l=10.0)])
def test_what_the_booklet_leaves_out_is_asked_for_and_not_assumed(source: Source) -> None:
    row = line("energy", (HEATER,), source)
    assert row.status is Status.NOT_PROVEN
    assert row.margin is None
    assert row.sentence.startswith("Say ")
    assert ("tank" in row.sentence) == (source.kind.has_engine and source.claims.tank_l is None)


def _run_empty(temp_c: float | None = None, w: float = 500, hours: float = 4) -> SessionFindings:
    lines = [
        (0.0, f"100% {w:.0f}w"),
        (hours * 1800, f"50% {w:.0f}w"),
        (hours * 3600, f"0% {w * hours:.0f}wh went off by itself"),
    ]
    made = replace(session(lines, (), SINGLE, "endurance"), conditions=Conditions(temp_c=temp_c))
    return findings_of(made, {}, SINGLE, 20, source=station(battery_wh=2200))


def _given_wh(row: Requirement) -> float:
    return float(row.capability.replace("\u202f", "").removesuffix("Wh"))


def test_a_battery_measured_in_the_warm_gives_less_in_the_cold_by_its_chemistry() -> None:
    frost = replace(BRIEF, site=Site(0.0, -10.0))
    small = load("1", "lights", run_w=300)
    for chemistry, share in ((Chemistry.LFP, 0.685), (Chemistry.LEAD, 0.72)):
        source = station(battery_wh=2200, chemistry=chemistry, idle_w=0.0)
        cold = line("energy", (small,), source, frost, _run_empty(25.0))
        assert _given_wh(cold) == pytest.approx(2000 * share, abs=1)
        assert any("in the cold" in working.formula for working in cold.workings)
        assert _given_wh(line("energy", (small,), source, frost, _run_empty(-10.0))) == pytest.approx(2000, abs=1)
    warm = line(
        "energy", (small,), station(battery_wh=2200, chemistry=Chemistry.LFP, idle_w=0.0), BRIEF, _run_empty(-10.0)
    )
    assert _given_wh(warm) == pytest.approx(2000, abs=1), "no more than was measured"


def test_a_battery_emptied_faster_than_it_was_measured_gives_less_unless_it_is_lithium() -> None:
    slow = _run_empty(w=100, hours=20)
    lead, unsaid, lfp = (
        line("energy", (HEATER,), station(battery_wh=2200, chemistry=chemistry), BRIEF, slow)
        for chemistry in (Chemistry.LEAD, None, Chemistry.LFP)
    )
    assert _given_wh(lead) == pytest.approx(2000 * (100 / 1000) ** 0.2, abs=1)
    assert _given_wh(unsaid) == pytest.approx(2000, abs=1)
    assert unsaid.margin is not None
    assert lead.margin is not None
    assert unsaid.margin.low <= lead.margin.value + 0.01, "it may be lead-acid"
    assert unsaid.status is not Status.CARRIES
    assert _given_wh(lfp) == pytest.approx(2000, abs=1)
    assert _given_wh(line("energy", (load(run_w=50),), station(battery_wh=2200), BRIEF, slow)) == pytest.approx(
        2000, abs=1
    )


def test_fuel_beside_the_tank_counts_and_the_tanks_are_told() -> None:
    claims = {"half_load_lph": 1.0, "full_load_lph": 1.6, "tank_l": 5.0}
    lean = line("energy", (HEATER,), set_of(2000, **claims))
    stored = line("energy", (HEATER,), set_of(2000, stored_fuel_l=10.0, **claims))
    assert lean.margin is not None
    assert stored.margin is not None
    assert stored.margin.value > lean.margin.value
    assert "tanks for the outage" in lean.sentence
    assert len(lean.workings) == 4


# Legs and neutral


def test_legs_are_asked_of_a_split_phase_home_alone() -> None:
    assert line("legs", (HEATER,), set_of(4000)).status is Status.NOT_REQUIRED
    split = replace(BRIEF, system=SPLIT)
    row = line("legs", (load("1", "heater", run_w=1200, leg=Leg.TWO),), set_of(4000), split)
    assert row.demand.replace("\u202f", " ") == "neutral 10 A"
    assert row.status is Status.NOT_PROVEN
    assert row.settle_by == "legs"


def test_a_neutral_beyond_the_leg_falls_short_on_paper() -> None:
    split = replace(BRIEF, system=SPLIT)
    assert line("legs", (load("1", "heater", run_w=1200),), set_of(1800), split).status is Status.FALLS_SHORT


def test_each_leg_is_judged_alone_while_the_total_is_fine() -> None:
    split = replace(BRIEF, system=SPLIT)
    verdict = judge(case((load("1", "heater", run_w=1500),), set_of(2400), split, draws=3))
    by_key = {row.key: row.status for row in verdict.requirements}
    assert by_key["steady-total"] is Status.NOT_PROVEN
    assert by_key["steady-1"] is Status.FALLS_SHORT
    assert "on leg 1" in verdict.headline


# Endurance and dips


def test_a_hold_says_what_endurance_still_wants() -> None:
    seen = found([(0, "+1"), (5, "1000w"), (990, "1000w"), (1000, "-1")], (HEATER,), SINGLE)
    row = line("endurance", (HEATER,), set_of(2000), BRIEF, seen)
    assert row.status is Status.NOT_PROVEN
    assert row.settle_by == "endurance"
    assert "heat" in row.sentence
    assert line("endurance", (HEATER,), set_of(2000)).sentence.startswith("No hold")


def _dip(meter: str, volts: float) -> Requirement:
    text = f"pump start @{meter} 230v before {volts}v min 228v settled"
    return line("dips", (HEATER, PUMP), set_of(2000), BRIEF, found([(0, text)], (HEATER, PUMP), SINGLE))


def test_a_dip_is_held_against_what_electronics_ride_through() -> None:
    row = _dip("multimeter", 190)
    assert row.margin is not None
    assert row.margin.value == pytest.approx(190 - 0.7 * 230)
    assert (row.status, row.grade) == (Status.CARRIES, Grade.A)
    assert _dip("multimeter", 140).status is Status.FALLS_SHORT


def test_a_dip_seen_by_a_slow_meter_may_have_been_deeper() -> None:
    row = _dip("meter", 190)
    assert row.status is Status.NOT_PROVEN
    assert "deeper" in row.sentence


def _dips(*texts: str) -> Requirement:
    second = replace(PUMP, key="3", name="compressor")
    loads = (HEATER, PUMP, second)
    lines = [(60.0 * number, text) for number, text in enumerate(texts)]
    return line("dips", loads, set_of(2000), BRIEF, found(lines, loads, SINGLE))


def test_a_start_neither_read_nor_predicted_leaves_the_dips_open() -> None:
    row = _dips("pump start @multimeter 230v before 205v min 228v settled")
    assert row.status is Status.NOT_PROVEN
    assert "Neither read nor predicted: the dip of the compressor" in row.sentence


def test_a_start_never_tried_is_predicted_from_one_whose_amps_were_read() -> None:
    row = _dips("0w 230v", "+1 1kw 228v", "-1", "pump start @scope 230v before 205v min 228v settled 20a max held")
    assert "Neither" not in row.sentence


def test_a_dip_read_too_slowly_leaves_the_row_open_though_another_was_read_and_went_deeper() -> None:
    row = _dips(
        "pump start @meter 230v before 215v min 228v settled",
        "compressor start @multimeter 230v before 205v min 228v settled",
    )
    assert row.status is Status.NOT_PROVEN
    assert "slower than the dip of the pump" in row.sentence


def test_a_home_without_motors_asks_nothing_of_starts_and_dips() -> None:
    assert line("starting", (HEATER,), set_of(2000)).status is Status.NOT_REQUIRED
    assert line("dips", (HEATER,), set_of(2000)).status is Status.NOT_REQUIRED


def test_every_load_with_a_start_has_a_line_of_its_own_and_the_worst_stands_in_the_tally() -> None:
    big = load("3", "big pump", "motor_loaded", 1500, pf=0.8, duty=Duty(3, 27))
    judged = case((PUMP, big), set_of(2500, surge_w=5000), BRIEF, draws=5)
    rows = start_rows(judged)
    assert [row.label for row in rows] == [
        "Starting, pump",
        "Starting, big pump",
        "Starting together, pump and big pump",
    ]
    assert line("starting", (PUMP, big), set_of(2500, surge_w=5000)).label == "Starting, big pump"


def test_a_source_that_a_start_took_down_falls_short() -> None:
    seen = found([(0, "pump start @multimeter 150v min !trip")], (PUMP,), SINGLE)
    row = line("starting", (PUMP,), set_of(2000), BRIEF, seen)
    assert row.status is Status.FALLS_SHORT
    assert "took the source down" in row.sentence


def test_a_nameplate_without_a_surge_is_judged_by_its_continuous_claim() -> None:
    row = line("starting", (PUMP,), set_of(1000))
    assert row.status is Status.FALLS_SHORT
    assert row.grade is Grade.C


# The sentence on top


def _row(status: Status, key: str = "steady-total", label: str = "Steady") -> Requirement:
    return Requirement(key, "", "", None, Grade.A, status, "", label=label)


@pytest.mark.parametrize(
    ("status", "rows", "says"),
    [
        (Status.CARRIES, [_row(Status.CARRIES)], "It carries the home."),
        (Status.WITH_RULES, [_row(Status.WITH_RULES)], "keeps its rules"),
        (Status.TIGHT, [_row(Status.TIGHT)], "little to spare"),
        (Status.NOT_PROVEN, [_row(Status.NOT_PROVEN), _row(Status.CARRIES)], "1 of 2 lines"),
        (Status.NOT_REQUIRED, [], "Nothing is required"),
        (Status.FALLS_SHORT, [_row(Status.FALLS_SHORT, "energy")], "runs out"),
        (Status.FALLS_SHORT, [replace(_row(Status.FALLS_SHORT, "starting"), load="pump")], "will not start the pump"),
        (Status.FALLS_SHORT, [_row(Status.FALLS_SHORT, "steady-2")], "more than it can hold on leg 2"),
    ],
)
def test_the_headline_says_it_as_a_person_would(status: Status, rows: list[Requirement], says: str) -> None:
    assert says in _headline(status, rows)


def test_the_next_test_named_is_the_first_of_those_worth_their_minutes() -> None:
    verdict = judge(case((HEATER, PUMP), set_of(5000, surge_w=9000), BRIEF, draws=3))
    assert verdict.next_protocol == verdict.tests[0].protocol
    assert PROTOCOLS[verdict.next_protocol].name in verdict.detail
    rates = [test.per_hour for test in verdict.tests]
    assert rates == sorted(rates, reverse=True)


def open_row(key: str, value: float | None, status: Status = Status.NOT_PROVEN) -> Requirement:
    margin = None if value is None else Margin(value, value, value)
    return Requirement(key, "d", "c", margin, Grade.C, status, "why", label=key)


def test_a_line_near_the_edge_decides_more_than_one_far_from_it() -> None:
    assert chance_short(open_row("steady", 0.0)) == pytest.approx(0.5)
    assert chance_short(open_row("steady", None)) == 0.5
    near, far = (bits_of(chance_short(open_row("steady", x))) for x in (0.05, 1.0))
    assert near > 0.95
    assert far < 0.01
    assert bits_of(0.0) == bits_of(1.0) == 0.0


def test_the_order_of_tests_is_by_what_they_decide_a_minute() -> None:
    rows = [open_row("steady-total", 1.0), open_row("starting", 0.02), open_row("noise-night", None)]
    tests = next_tests(rows, lambda protocol: 25.0 if protocol == "noise_walk" else 60.0)
    assert [test.protocol for test in tests][:2] == ["noise_walk", "starts"]
    assert "could go either way" in tests[1].why
    slower = next_tests(rows, lambda protocol: 600.0 if protocol == "noise_walk" else 60.0)
    assert slower[0].protocol == "starts"


def test_what_is_settled_already_asks_for_no_test() -> None:
    done = [
        open_row("steady-total", 0.3, Status.CARRIES),
        replace(open_row("voltage", -1.0, Status.FALLS_SHORT), grade=Grade.A),
    ]
    assert next_tests(done, lambda protocol: 30.0) == ()
    on_paper = next_tests([open_row("waveform", -0.05, Status.FALLS_SHORT)], lambda protocol: 30.0)
    assert [test.protocol for test in on_paper] == ["waveform"]
    assert "short on paper" in on_paper[0].why


def test_a_baseline_is_worth_it_where_unmeasured_loads_make_the_difference() -> None:
    rows, planned = [open_row("steady-total", -0.1)], [open_row("steady-total", 0.1, Status.TIGHT)]
    tests = next_tests(rows, lambda protocol: 60.0, planned)
    assert "baseline" in [test.protocol for test in tests]
    assert "baseline" not in [test.protocol for test in next_tests(rows, lambda protocol: 60.0, rows)]


def test_a_line_nobody_asked_for_counts_for_nothing() -> None:
    assert not not_required("x", "no").must
    assert unproven("x", "d", "why").must


def test_brief_knows_its_night() -> None:
    brief = Brief(quiet_from_hour=22, quiet_to_hour=7)
    assert brief.quiet_hours == {22, 23, 0, 1, 2, 3, 4, 5, 6}
    assert replace(brief, outage_from_hour=8, outage_h=6).covers_night() is False
    assert replace(brief, outage_from_hour=20, outage_h=3).covers_night() is True
    assert Brief(quiet_from_hour=7, quiet_to_hour=7).quiet_hours == frozenset()


def test_a_connection_is_passed_or_not_and_has_no_margin() -> None:
    wired = replace(BRIEF, wiring=Wiring.INTERLOCK)
    judged = case((HEATER,), set_of(5000), wired, draws=2)
    line = quality.connection(judged)
    assert line.margin is None
    assert line.passed is not None
    assert not line.passed.passed
    assert line.status is Status.NOT_PROVEN
    confirmed = quality.connection(replace(judged, passed=frozenset(KNOWN)))
    assert confirmed.passed is not None
    assert confirmed.passed.passed
    assert str(confirmed.passed) == f"{confirmed.passed.of} of {confirmed.passed.of}"


# Starts that fall together


def test_a_start_is_judged_on_what_runs_beneath_it_and_two_at_once_are_an_event_of_their_own() -> None:
    """Two 3 kVA starts: a source that gives 4 kVA starts each, and both at once only if somebody never tries it."""
    pumps = tuple(replace(PUMP, key=key, name=f"pump {key}") for key in "12")
    brief = replace(BRIEF, bring_up=BringUp.AT_ONCE)
    judged = case(pumps, set_of(2500, surge_w=PUMP.start_total_va * 1.7), brief, draws=100)
    alone, _, both = start_rows(judged)
    assert alone.status is Status.NOT_PROVEN
    assert both.label == "Starting together, pump 1 and pump 2"
    assert both.status is Status.FALLS_SHORT
    assert "100\u202f% of the outages" in both.sentence
    assert requirements(judged)[1].label == both.label


def test_what_is_planned_of_a_start_condemns_no_pair_where_it_was_seen_to_start() -> None:
    """By the plan it draws more than the source gives, alone: and it started there."""
    pumps = tuple(replace(PUMP, key=key, name=f"pump {key}", start_grade=Grade.D) for key in "12")
    brief, source = replace(BRIEF, bring_up=BringUp.AT_ONCE), set_of(1500, surge_w=PUMP.start_total_va * 0.7)
    assert start_rows(case(pumps, source, brief, draws=100))[-1].status is Status.FALLS_SHORT
    seen = found([(0.0, "pump 1 start @multimeter 230v before 200v min, held")], pumps, SINGLE)
    row = start_rows(case(pumps, source, brief, seen, draws=100))[-1]
    assert row.status is Status.NOT_PROVEN
    assert "pump 1 started here" in row.sentence


def test_two_loads_of_unlike_legs_meet_on_the_whole_source_and_on_no_leg() -> None:
    one, two = replace(PUMP, key="1", name="pump 1", leg=Leg.ONE), replace(PUMP, key="2", name="pump 2", leg=Leg.TWO)
    brief = Brief(system=SPLIT, bring_up=BringUp.AT_ONCE)
    row = start_rows(case((one, two), set_of(20000, surge_w=40000, per_leg_w=2500), brief, draws=60))[-1]
    assert row.label == "Starting together, pump 1 and pump 2"
    assert "on leg" not in row.sentence


def test_both_started_together_three_times_settle_it() -> None:
    pumps = tuple(replace(PUMP, key=name, name=name) for name in ("freezer", "compressor"))
    brief = replace(BRIEF, bring_up=BringUp.AT_ONCE)
    lines = [(float(60 * n), "freezer and compressor start, 200v min, 228v settled, held") for n in range(3)]
    held = case(pumps, set_of(2500, surge_w=4000), brief, found(lines, pumps, SINGLE), draws=100)
    assert start_rows(held)[-1].status is Status.CARRIES
    failed = found([(0.0, "freezer and compressor start, 150v min !trip")], pumps, SINGLE)
    assert start_rows(case(pumps, set_of(9000), brief, failed, draws=100))[-1].status is Status.FALLS_SHORT


def test_a_load_that_must_run_at_no_hour_is_asked_about_and_lets_nothing_carry() -> None:
    silent = replace(PUMP, hours=())
    held = found([(0.0, "+1"), (5.0, "5000w"), (900.0, "5000w")], (HEATER, silent), SINGLE)
    rows = requirements(case((HEATER, silent), set_of(6000), BRIEF, held))
    assert rows[0].status is Status.NOT_PROVEN
    assert "nobody said in which hours" in rows[0].sentence
    (start,) = start_rows(case((HEATER, silent), set_of(6000), BRIEF, held))
    assert start.status is Status.NOT_PROVEN


def test_what_is_no_must_is_named_as_not_judged() -> None:
    home = Home(BRIEF, (HEATER, replace(PUMP, tier=Tier.SHOULD)))
    inputs = gather_inputs(home, given_of(set_of(6000), BRIEF.system, BRIEF.site, ()), Tier.MUST, draws_of(5))
    assert judge(inputs).detail.endswith("Not judged, being no must: pump.")


# Endurance by a long hold


@pytest.mark.parametrize(("hours", "status"), [(4.6, Status.CARRIES), (4.4, Status.NOT_PROVEN)])
def test_a_hold_of_three_upper_time_constants_of_its_kind_has_settled_though_no_degrees_were_read(
    hours: float, status: Status
) -> None:
    """A station that carried its load for 4.5 h, three times 90 min, is not *heat not known to have settled*."""
    brief = replace(BRIEF, outage_h=3)
    seen = found([(0.0, "+1"), (5.0, "1000w"), (5 + hours * 3600, "1000w")], (HEATER,), SINGLE)
    row = line("endurance", (HEATER,), station(battery_wh=9000), brief, seen)
    assert row.status is status


@pytest.mark.parametrize(("end", "status"), [("!trip empty", Status.CARRIES), ("!trip overload", Status.NOT_PROVEN)])
def test_a_run_to_empty_was_held_for_all_of_its_time_and_one_that_tripped_was_not(end: str, status: Status) -> None:
    brief = replace(BRIEF, outage_h=3)
    lines = [(0.0, "+1"), (5.0, "1000w"), (8000.0, "1000w"), (5 + 4.6 * 3600, "1000w"), (10 + 4.6 * 3600, end)]
    row = line("endurance", (HEATER,), station(battery_wh=9000), brief, found(lines, (HEATER,), SINGLE))
    assert row.status is status


# Fuel by one load


@pytest.mark.parametrize(
    ("tank_l", "status"), [(40, Status.CARRIES), (9, Status.NOT_PROVEN), (1.5, Status.FALLS_SHORT)]
)
def test_fuel_seen_at_one_load_carries_by_the_most_it_can_burn_and_falls_short_by_the_least(
    tank_l: float, status: Status
) -> None:
    """2 kW burnt 2 L/h; at the home's 1 kW it burns between 1 and 2 L/h for 6 h."""
    lines = [(0.0, "fuel 8.0l"), (5.0, "2000w"), (3600.0, "2000w"), (3605.0, "fuel 6.0l")]
    source = set_of(3000, tank_l=tank_l)
    seen = findings_of(session(lines, (), SINGLE, "endurance"), {}, SINGLE, 20, source=source)
    row = line("energy", (HEATER,), source, BRIEF, seen)
    assert row.label == "Fuel"
    assert row.status is status


def test_watts_said_to_run_already_are_the_base_of_a_start() -> None:
    seen = found([(0.0, "2kw on, pump start 229v before 214v min, held")], (PUMP,), SINGLE)
    (start,) = seen.starts
    assert start.base_w == 2000


# Volts and hertz of a motor


def _motor(hz: float, v: float) -> Requirement:
    lines = [(0.0, f"0w {v + 1}v {hz}hz"), (60.0, f"1kw {v}v {hz}hz"), (120.0, f"2kw {v - 1}v {hz}hz")]
    return line("voltage", (PUMP,), set_of(5000), BRIEF, found(lines, (PUMP,), SINGLE))


def test_volts_and_hertz_off_a_motors_plate_count_together() -> None:
    assert _motor(50.0, 246).status is Status.CARRIES
    both = _motor(52.0, 246)
    assert both.status is not Status.CARRIES, "7 % of volts and 4 % of hertz are more than a motor stands"
    assert any("volts and hertz together" in working.source for working in both.workings)


def test_a_motor_counts_from_the_volts_on_its_own_plate() -> None:
    lines = [(0.0, "0w 231v 50hz"), (60.0, "1kw 230v 50hz"), (120.0, "2kw 229v 50hz")]
    rows = [
        line("voltage", (replace(PUMP, plate_v=plate_v),), set_of(5000), BRIEF, found(lines, (PUMP,), SINGLE))
        for plate_v in (None, 255.0)
    ]
    assert [row.status is Status.CARRIES for row in rows] == [True, False], "10 % below 255 V is 229.5 V"
    assert PUMP.floor_v(230) == pytest.approx(230 * PUMP.kind_figures.floor_pct / 100)
    assert replace(PUMP, plate_v=240.0).floor_v(230) == pytest.approx(240 * PUMP.kind_figures.floor_pct / 100)


def test_a_start_below_the_floor_of_its_own_plate_is_told_against_it() -> None:
    pump = replace(PUMP, plate_v=250.0)
    seen = found([(0.0, "pump start 229v before 180v min, held")], (pump,), SINGLE)
    assert seen.starts[0].floor_v == pytest.approx(pump.floor_v(230))


# Legs and neutral, as they were read


def _legs(*lines: tuple[float, str]) -> Requirement:
    two = (load("1", "heater", "heater", 900, leg="1"), load("2", "fan", "heater", 100, leg="2"))
    source = set_of(6000, per_leg_w=3000)
    return line("legs", two, source, Brief(system=SPLIT), found(list(lines), two))


def test_a_neutral_read_at_more_than_the_home_asks_settles_the_legs() -> None:
    unlike = "l1 2kw 17a 119v l2 0.2kw 1.7a 124v neutral 15.4a"
    row = _legs((0, unlike), (1200, unlike))
    assert (row.status, row.grade) == (Status.CARRIES, Grade.B)
    assert "15.4" in row.sentence
    assert _legs((0, unlike), (60, unlike)).status is Status.NOT_PROVEN, "a minute of it proves nothing"


def test_a_neutral_that_carries_less_than_it_must_settles_nothing() -> None:
    stray = "l1 2kw 17a 119v l2 0.2kw 1.7a 124v neutral 9a"
    assert _legs((0, stray), (1200, stray)).status is not Status.CARRIES


def test_a_load_that_was_seen_to_run_is_not_condemned_by_what_is_planned_of_its_start() -> None:
    """Wants 6 kVA by its kind, and 2 kW are claimed; it ran there for ten minutes with its watts read."""
    hungry = replace(PUMP, start_va=6000, start_grade=Grade.D)
    ran = found([(0.0, "+2"), (10.0, "800w"), (600.0, "800w")], (hungry,), SINGLE)
    rows = [line("starting", (hungry,), set_of(2000), BRIEF, *seen) for seen in ((), (ran,))]
    assert [row.status for row in rows] == [Status.FALLS_SHORT, Status.NOT_PROVEN]
    assert "It ran here, and nobody read its start" in rows[1].sentence


def test_a_hold_that_is_too_short_to_count_is_told_beside_the_nameplate() -> None:
    short = found([(0.0, "1900w"), (200.0, "1900w")], (HEATER,), SINGLE)
    row = line("steady-total", (HEATER,), set_of(2000), BRIEF, short)
    assert "too short to count" in row.sentence


def test_a_neutral_without_a_load_on_it_is_not_asked_about() -> None:
    across = load("1", "heater", "heater", 3000, leg=Leg.BOTH.value)
    assert line("legs", (across,), set_of(6000), Brief(system=SPLIT)).status is Status.NOT_REQUIRED


def test_a_start_that_failed_bare_condemns_none_with_a_soft_starter_by_rule_but_one_that_is_fitted() -> None:
    """Bare it took the source down twice; whether the job has the starter already, or would have it by a rule, is not the same."""
    lines = [
        (0.0, "pump start 230v before 150v min !trip"),
        (60.0, "!reset"),
        *(
            (100.0 + 60 * n, f"{'hot ' if n == 2 else ''}pump soft start 230v before 214v min 228v settled !held")
            for n in range(3)
        ),
    ]
    fitted = replace(PUMP, soft_starter=True)
    seen = found(lines, (PUMP,), SINGLE)
    bare = case((PUMP,), set_of(3000), BRIEF, seen)
    rule = HouseholdRule(kind=RuleKind.SOFT_STARTER, load=PUMP.key)
    ruled = under_rules(bare, with_rules((PUMP,), BRIEF, (rule,)), draws_of(30))
    status = {name: start_rows(made)[0].status for name, made in (("bare", bare), ("by rule", ruled))}
    assert status["bare"] is Status.FALLS_SHORT
    assert status["by rule"] is not Status.FALLS_SHORT
    own = case((fitted,), set_of(3000), BRIEF, found(lines, (fitted,), SINGLE))
    assert start_rows(own)[0].status is Status.FALLS_SHORT
