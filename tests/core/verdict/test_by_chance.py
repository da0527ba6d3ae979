"""A verdict by chance: what of a thousand outages decides, and that doubt enters once."""

from __future__ import annotations

from dataclasses import replace

import pytest

from muster.core.brief import Brief, BringUp
from muster.core.loads import Duty, Load
from muster.core.outage.play import play_outage, ready
from muster.core.outage.played import Chance, RowChance
from muster.core.quantities import Grade
from muster.core.sources import Source
from muster.core.verdict import Margin, Requirement, Status, judge
from muster.core.verdict.by_chance import BEFORE_BED, LEAST_DRAWS, by_chance, status_by_chance
from muster.core.verdict.inputs import VerdictInputs
from muster.core.verdict.requirement import Evidence

from ..build import SINGLE, case, found, load, set_of

BRIEF = Brief(system=SINGLE, outage_h=6, outage_from_hour=18, bring_up=BringUp.AT_ONCE, reserve_pct=10)
HEATER = load("1", "heater", run_w=2000)


def chance(fails: int, as_stated: int, **more: object) -> RowChance:
    return RowChance(failed=Chance(fails, 2000), stated=Chance(as_stated, 2000), **more)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("played", "evidence", "status"),
    [
        (chance(0, 0), Evidence(Grade.A, missing=True), Status.NOT_PROVEN),
        (chance(2000, 2000), Evidence(Grade.B, flatters=True), Status.NOT_PROVEN),
        (chance(40, 40), Evidence(Grade.C), Status.FALLS_SHORT),
        (chance(40, 0), Evidence(Grade.B), Status.TIGHT),
        (chance(11, 0), Evidence(Grade.B), Status.CARRIES),
        (chance(12, 0), Evidence(Grade.B), Status.TIGHT),
        (chance(0, 0), Evidence(Grade.C), Status.NOT_PROVEN),
        (chance(0, 0), Evidence(Grade.A, with_rules=True), Status.WITH_RULES),
        (chance(0, 0, stops=0.5), Evidence(Grade.A), Status.WITH_RULES),
        (chance(100, 0), Evidence(Grade.A), Status.NOT_PROVEN),
        (chance(0, 0, leans=True, leans_grade=Grade.D), Evidence(Grade.B), Status.NOT_PROVEN),
        (chance(0, 0, leans=True, leans_grade=Grade.B), Evidence(Grade.B), Status.CARRIES),
    ],
)
def test_the_first_rule_by_chance_that_applies(played: RowChance, evidence: Evidence, status: Status) -> None:
    """11 of 2,000 is the most whose upper Wilson end stays below 1 %."""
    assert status_by_chance(played, evidence) is status


def played(judged: VerdictInputs, draws: int = LEAST_DRAWS) -> VerdictInputs:
    home = judged.home
    return replace(judged, played=play_outage(ready(home.loads, home.brief, judged.character), draws, events=False))


def line(key: str, judged: VerdictInputs) -> Requirement:
    return next(row for row in judge(judged).requirements if row.key == key)


def home_on(
    source: Source, *loads: Load, brief: Brief = BRIEF, lines: tuple[tuple[float, str], ...] = ()
) -> VerdictInputs:
    return case(loads, source, brief, *((found(list(lines), loads, SINGLE),) if lines else ()), draws=20)


HELD = ((0.0, "+1"), (10.0, "2600w 11.3a 230v"), (7200.0, "2600w 11.3a 230v"))


def test_what_no_outage_of_a_thousand_takes_down_carries_and_says_so() -> None:
    row = line("steady-total", played(home_on(set_of(3000), HEATER, lines=HELD)))
    assert row.status is Status.CARRIES
    assert row.chance is not None
    assert row.chance.failed.hits == 0
    assert "none fails" in row.sentence


def test_too_few_outages_decide_nothing() -> None:
    row = line("steady-total", played(home_on(set_of(3000), HEATER, lines=HELD), 200))
    assert (row.status, row.chance) == (Status.CARRIES, None)


def test_a_nameplate_below_the_load_falls_short_in_every_outage_and_above_it_proves_nothing() -> None:
    short = line("steady-total", played(home_on(set_of(1500), HEATER)))
    assert short.status is Status.FALLS_SHORT
    assert short.chance is not None
    assert short.chance.stated.share == 1.0
    assert line("steady-total", played(home_on(set_of(6000), HEATER))).status is Status.NOT_PROVEN


def test_a_guessed_load_is_drawn_and_not_raised_besides() -> None:
    """2,000 W guessed, 2,600 W held and 2,650 W tripped: some of the draws ask more, and the watts are named as the doubt."""
    guessed = replace(HEATER, run_grade=Grade.D)
    lines = (*HELD, (7300.0, "2650w"), (7400.0, "2650w !trip"))
    row = line("steady-total", played(home_on(set_of(2600), guessed, lines=lines)))
    assert row.chance is not None
    assert 0 < row.chance.failed.share < 0.1
    assert row.chance.stated.hits == 0
    assert row.chance.spreads[0].name == "the watts of the heater"
    assert row.status is not Status.CARRIES


def test_above_what_it_holds_for_ever_a_line_is_known_no_better_than_for_how_long() -> None:
    """Two minutes in a half hour at a fifth above what was held: by a claimed surge no outage fails, and that proves nothing."""
    peaks = replace(HEATER, run_w=3000, duty=Duty(2, 28))
    source = set_of(2600, surge_w=4000, surge_s=600)
    row = line("steady-total", played(home_on(source, peaks, lines=HELD)))
    assert row.chance is not None
    assert row.chance.leans
    assert row.status is Status.NOT_PROVEN


TWO_LOADS = (
    (0.0, "fuel 12.0l"), (5.0, "2000w"), (14400.0, "2000w"), (14405.0, "fuel 7.2l"),
    (14410.0, "1000w"), (28800.0, "1000w"), (28805.0, "fuel 4.0l"),
)  # fmt: skip


def test_a_tank_that_lasts_carries_and_one_that_does_not_falls_short() -> None:
    """2 kW burn 1.2 L/h: 7.2 L in six hours, and a tenth more in reserve."""
    rows = [line("energy", played(home_on(set_of(3000, tank_l=litres), HEATER, lines=TWO_LOADS))) for litres in (12, 5)]
    assert [row.status for row in rows] == [Status.CARRIES, Status.FALLS_SHORT]


def test_a_tank_that_runs_dry_while_everybody_sleeps_carries_by_a_rule_that_is_named() -> None:
    night = replace(BRIEF, outage_h=12, outage_from_hour=21)
    source = set_of(3000, tank_l=8, stored_fuel_l=30)
    row = line("energy", played(home_on(source, HEATER, brief=night, lines=TWO_LOADS)))
    assert row.status is Status.WITH_RULES
    assert BEFORE_BED in row.rules
    assert BEFORE_BED in row.sentence


def test_where_something_else_takes_it_down_the_margin_stands_and_the_rules_with_it() -> None:
    row = Requirement(
        "energy", "6 h", "9 h", Margin(0.5, 0.3, 0.7), Grade.A, Status.CARRIES, "Lasts.", evidence=Evidence(Grade.A)
    )
    inputs = played(home_on(set_of(3000), HEATER))
    assert inputs.played is not None
    for stops, status in ((0.0, Status.CARRIES), (0.5, Status.WITH_RULES)):
        down = replace(inputs.played, rows={"energy": chance(0, 0, stops=stops, disturbed=0.3)})
        told = by_chance(row, replace(inputs, played=down))
        assert (told.status, told.chance) == (status, None)


def test_less_than_the_reserve_left_is_a_failure_though_it_never_ran_dry() -> None:
    source = set_of(3000, tank_l=8.6)
    thrifty, careful = (replace(BRIEF, reserve_pct=pct) for pct in (0, 40))
    rows = [
        line("energy", played(home_on(source, HEATER, brief=brief, lines=TWO_LOADS))) for brief in (thrifty, careful)
    ]
    assert rows[0].chance is not None
    assert rows[1].chance is not None
    assert rows[0].chance.stated.share == 0.0
    assert rows[1].chance.stated.share == 1.0


def test_a_motor_fails_under_its_own_name_and_two_at_once_under_both() -> None:
    """Starts of 150 V at 230 V stall; the row of each load is of its own starts."""
    pump = load("2", "pump", "motor_loaded", 800, pf=0.8, duty=Duty(5, 25), start_va=6000, start_grade=Grade.A)
    lines = [(0.0, "0w 230v")]
    lines += [(60.0 + 60 * i, "pump start @scope 230v before 150v min 34a max !stall") for i in range(3)]
    judged = played(home_on(set_of(3000, surge_w=4000, surge_s=5), HEATER, pump, lines=tuple(lines)))
    assert judged.played is not None
    assert judged.played.rows["starting:2"].failed.share == 1.0
    assert judged.played.rows["steady-total"].failed.hits == 0
    assert line("starting", judged).status is Status.FALLS_SHORT


def test_noise_is_judged_hour_by_hour_with_the_doubt_of_the_walk() -> None:
    lines = (
        (0.0, "background 30db"), (5.0, "+1"), (60.0, "2100w 80db@3m"), (120.0, "2100w 72.6db@7m"), (180.0, "2100w 66.6db@14m"),
    )  # fmt: skip
    rows = []
    for limit in (70.0, 55.0):
        brief = replace(BRIEF, neighbour_m=20, noise_night_dba=limit)
        rows.append(line("noise-night", played(home_on(set_of(3000), HEATER, brief=brief, lines=lines))))
    assert [row.status for row in rows] == [Status.CARRIES, Status.FALLS_SHORT]
