"""What must change comes before what to test; what is said to cure a line does."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest

from muster.core.brief import Brief, BringUp
from muster.core.loads import KINDS, Duty, Load
from muster.core.quantities import Grade
from muster.core.sources import Source
from muster.core.verdict import MustChange, Status, Verdict, judge
from muster.core.verdict.must_change import WAYS, must_change
from muster.core.verdict.rows import ROWS

from ..build import SINGLE, SPLIT, case, found, load, set_of

BRIEF = Brief(system=SINGLE, outage_h=6, outage_from_hour=18, bring_up=BringUp.AT_ONCE, reserve_pct=0)
HEATER, KETTLE = load("1", "heater", run_w=2000), load("3", "kettle", run_w=900)
PUMP = load("2", "pump", "motor_loaded", 800, pf=0.8, duty=Duty(5, 25), start_va=6000, start_grade=Grade.A)


def verdict(*loads: Load, source: Source, lines: tuple[tuple[float, str], ...] = (), brief: Brief = BRIEF) -> Verdict:
    seen = (found(list(lines), loads, brief.system),) if lines else ()
    return judge(case(loads, source, brief, *seen, draws=20))


def change(told: Verdict, key: str) -> MustChange:
    return next(item for item in told.changes if item.key == key)


def status(told: Verdict, key: str) -> Status:
    return next(row.status for row in told.requirements if row.key == key)


def test_every_row_says_what_would_bring_it_round() -> None:
    assert set(WAYS) == {"noise" if row.key.startswith("noise") else row.key for row in ROWS}


TRIPPED = ((0.0, "2000w 230v"), (600.0, "2000w 230v"), (1300.0, "2000w"), (1310.0, "2400w"), (1500.0, "2400w !trip"))


def test_the_load_that_is_said_to_be_left_off_is_enough() -> None:
    """2,900 W asked, tripped at 2,400 W: the kettle off, and 2,000 W held carry."""
    told = verdict(HEATER, KETTLE, source=set_of(2500), lines=TRIPPED)
    assert status(told, "steady-total") is Status.FALLS_SHORT
    assert "the kettle off" in change(told, "steady-total").ways[0]
    assert (
        status(verdict(HEATER, source=set_of(2500), lines=((0.0, "2100w"), (900.0, "2100w"))), "steady-total")
        is Status.CARRIES
    )


def test_the_litres_that_are_said_to_be_missing_are_what_is_missing() -> None:
    lines = ((0.0, "fuel 12.0l"), (5.0, "2000w"), (14400.0, "2000w"), (14405.0, "fuel 7.2l"),
             (14410.0, "1000w"), (28800.0, "1000w"), (28805.0, "fuel 4.0l"))  # fmt: skip
    told = verdict(HEATER, source=set_of(3000, tank_l=4), lines=lines)
    assert status(told, "energy") is Status.FALLS_SHORT
    litres = float(re.search(r"([\d.]+)", change(told, "energy").ways[0])[1])  # type: ignore[index]
    assert litres == pytest.approx(1.2 * 6 - 4, abs=0.1)


def test_a_governor_is_set_within_what_its_own_droop_leaves() -> None:
    motor = replace(PUMP, duty=Duty())
    lines = ((0.0, "0w 230v 53.4hz"), (60.0, "400w 230v 52.6hz"), (120.0, "800w 230v 51.8hz"))
    told = verdict(motor, source=set_of(3000), lines=lines)
    assert status(told, "frequency") is Status.FALLS_SHORT
    low, high = (float(hz) for hz in re.findall(r"([\d.]+)\u202fHz", change(told, "frequency").ways[0]))
    assert (low, high) == (pytest.approx(47.5 + 1.6, abs=0.11), pytest.approx(52.5, abs=0.1))
    lower = tuple(
        (t, line.replace("53.4", "52.0").replace("52.6", "51.2").replace("51.8", "50.4")) for t, line in lines
    )
    assert status(verdict(motor, source=set_of(3000), lines=lower), "frequency") is Status.CARRIES


STALLED = (
    (0.0, "+1"),
    (5.0, "2000w 229v"),
    *((60.0 + 60 * i, "pump start @scope 229v before 150v min !stall") for i in range(3)),
)


def test_a_stalled_pump_is_offered_a_soft_starter_an_empty_source_and_a_stronger_one() -> None:
    ways = change(verdict(HEATER, PUMP, source=set_of(5000), lines=STALLED), "starting").ways
    assert [
        word in way
        for word, way in zip(("soft starter", "start the pump before", "a source that starts it"), ways, strict=True)
    ] == [True] * 3
    eased = change(verdict(HEATER, replace(PUMP, soft_starter=True), source=set_of(5000), lines=(
        *STALLED[:2], (60.0, "pump start soft @scope 229v before 150v min !stall"))), "starting").ways  # fmt: skip
    assert not any("a soft starter" in way for way in eased)


def test_where_no_test_can_cure_it_none_is_offered_first() -> None:
    short = verdict(HEATER, KETTLE, source=set_of(2500), lines=TRIPPED)
    assert short.past_testing
    assert not short.next_protocol
    assert "No test can change that" in short.detail
    on_paper = verdict(HEATER, KETTLE, source=set_of(2000))
    assert on_paper.status is Status.FALLS_SHORT
    assert not on_paper.past_testing
    assert on_paper.next_protocol


def test_what_lasts_on_the_mean_and_not_in_the_outages_played_asks_for_no_negative_litre() -> None:
    inputs = case((HEATER,), set_of(3000, tank_l=30, half_load_lph=1.0, full_load_lph=2.0), BRIEF, draws=5)
    rows = judge(inputs).requirements
    lasts = next(row for row in rows if row.key == "energy")
    assert lasts.margin is not None
    assert lasts.margin.value > 0
    (told,) = must_change(inputs, (replace(lasts, status=Status.FALLS_SHORT),))
    assert told.ways == (
        "more to draw on, or less on it: on the mean it lasts, in too many of the outages played it does not",
    )
    steady = next(row for row in rows if row.key == "steady-total")
    (room,) = must_change(inputs, (replace(steady, status=Status.FALLS_SHORT),))
    assert not any("\u2212" in way or "-" in way for way in (*told.ways, *room.ways))


def test_nobody_is_told_to_leave_a_medical_load_off() -> None:
    kind = next(kind.slug for kind in KINDS.values() if kind.medical)
    life = load("9", "oxygen concentrator", kind, 400, duty=Duty())
    for source, lines in ((set_of(600), ()), (set_of(3000, wave="stepped"), ())):
        told = verdict(life, HEATER, source=source, lines=lines)
        for item in told.changes:
            for way in item.ways:
                assert not re.search(r"(off|without|behind)[^;]*oxygen|oxygen[^;]*(off|behind)", way), way


def test_a_neutral_that_carries_too_much_names_the_load_to_move() -> None:
    heavy = (
        load("1", "heater", run_w=2400, leg="1"),
        load("2", "lamp", run_w=100, leg="2"),
        load("4", "oven", run_w=1100, leg="1"),
    )
    told = verdict(*heavy, source=set_of(2600, per_leg_w=1300), brief=replace(BRIEF, system=SPLIT))
    assert "the oven on the other leg" in change(told, "legs").ways[0]
