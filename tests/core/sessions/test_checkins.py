"""Long sessions: looks due, how long it goes on, and what a pause takes out."""

from __future__ import annotations

import math
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.loads import Duty
from muster.core.sessions import Entry, Event, Place, Reading, Session, Switch
from muster.core.sessions.checkins import Projection, charge_read, next_due_s, projections
from muster.core.sessions.replay import replay
from muster.core.sources import Claims
from muster.formats.calendar import checkins_ics
from tests.core.build import load

STATION = Claims(cont_w=2000, battery_wh=2000, usable_pct=90)


def charge(pct: float) -> Reading:
    return Reading("soc_pct", pct)


def energy(wh: float) -> Reading:
    return Reading("wh", wh, Place.LEG1)


def run(*rows: tuple[float, tuple[object, ...]], protocol: str = "endurance", every_s: float = 3600) -> Session:
    entries = tuple(Entry(seq, hour * 3600, items) for seq, (hour, items) in enumerate(rows, 1))  # type: ignore[arg-type]
    return Session(protocol, entries=entries, checkin_s=every_s)


def told(session: Session, claims: Claims = STATION) -> dict[str, float]:
    return {p.by: p.left_s / 3600 for p in projections(session, replay(session, 1), claims)}


def due_h(session: Session) -> float | None:
    due = next_due_s(session, replay(session, 1))
    return None if due is None else due / 3600


def test_the_next_look_is_due_an_hour_after_the_last_reading() -> None:
    assert due_h(run()) == 1
    assert due_h(run((0.2, (Switch("1", on=True),)), (1.5, (charge(80),)))) == 2.5
    assert due_h(run((0.2, (Switch("1", on=True),)))) == 1, "a switch is no look"
    assert due_h(run((1, (charge(80),)), every_s=0)) is None


def test_nobody_is_to_look_in_while_it_is_paused_and_the_hour_begins_anew_after_it() -> None:
    assert due_h(run((1, (charge(80),)), (1.5, (Event("pause"),)))) is None
    assert due_h(run((1, (charge(80),)), (1.5, (Event("pause"),)), (9, (Event("resume"),)))) == 10


def test_it_goes_on_by_the_last_slope_by_the_whole_run_and_by_the_energy() -> None:
    session = run((0, (charge(100), energy(0))), (1, (charge(90), energy(150))), (2, (charge(70), energy(400))))
    found = told(session)
    assert found["by the charge shown, since the last look"] == pytest.approx(70 / 20)
    assert found["by the charge shown, over the whole run"] == pytest.approx(70 / 15)
    assert found["by the energy counted, of 1\u202f800\u202fWh usable on the nameplate"] == pytest.approx(1400 / 200)


def test_a_recorded_charge_counts_beside_what_is_typed() -> None:
    session = run((0, (charge(100),)))
    found = projections(session, replay(session, 1), STATION, [(1800.0, 95.0), (3600.0, 90.0)])
    assert {p.by: p.left_s / 3600 for p in found}["by the charge shown, over the whole run"] == pytest.approx(9.0)


def test_a_recharge_goes_up_to_full() -> None:
    session = run((0, (charge(20),)), (1, (charge(60),)), protocol="recharge")
    assert told(session) == {"by the charge shown, over the whole run": pytest.approx(1.0)}


def test_a_charge_that_runs_the_wrong_way_promises_nothing() -> None:
    assert told(run((0, (charge(50),)), (1, (charge(60),)))) == {}
    assert told(run((0, (charge(50),)))) == {}
    assert told(run((0, (charge(50),)), (0.005, (charge(49),)))) == {}, "18 s are no slope"


@given(st.floats(0.5, 20), st.floats(0.5, 40))
def test_a_pause_of_any_length_takes_nothing_from_what_is_projected(before_h: float, pause_h: float) -> None:
    plain = run((0, (charge(100),)), (before_h, (charge(90),)), (before_h + 2, (charge(70),)))
    paused = run(
        (0, (charge(100),)),
        (before_h, (charge(90),)),
        (before_h + 1, (Event("pause"),)),
        (before_h + 1 + pause_h, (Event("resume"),)),
        (before_h + 2 + pause_h, (charge(70),)),
    )
    assert told(paused) == {by: pytest.approx(left) for by, left in told(plain).items()}
    assert charge_read(replay(paused, 1))[-1][0] == pytest.approx((before_h + 2) * 3600)


def test_nothing_is_held_across_a_pause() -> None:
    session = run(
        (0, (Switch("1", on=True), Reading("w", 900, Place.LEG1))),
        (1, (Reading("w", 900, Place.LEG1), Event("pause"))),
        (5, (Event("resume"),)),
        (6, (Reading("w", 900, Place.LEG1),)),
    )
    held = [segment.held_s() / 3600 for segment in replay(session, 1).segments]
    assert max(held) == 1
    assert replay(session, 1).segments[-1].on == ("1",)


def test_a_calendar_holds_the_looks_to_come_with_an_alarm_each() -> None:
    at = datetime(2026, 11, 25, 8, 0, tzinfo=UTC)
    text = checkins_ics("Look in: Endurance, the pair; twice", at, 5400, 12, "session-1@muster", at).decode()
    lines = text.split("\r\n")
    assert "DTSTART:20261125T080000Z" in lines
    assert "RRULE:FREQ=MINUTELY;INTERVAL=90;COUNT=12" in lines
    assert "SUMMARY:Look in: Endurance\\, the pair\\; twice" in lines
    assert "BEGIN:VALARM" in lines
    assert lines[-1] == ""
    long = checkins_ics("ü" * 200, at, 60, 1, "x", at).decode()
    assert all(len(line.encode()) <= 75 for line in long.split("\r\n"))


def ways(session: Session, **more: object) -> dict[str, Projection]:
    return {p.by.split(",")[0]: p for p in projections(session, replay(session, 1), STATION, **more)}  # type: ignore[arg-type]


def test_each_projection_is_an_until_when_with_a_band_and_counts_pauses_in() -> None:
    session = run((0, (charge(100),)), (1, (Event("pause"),)), (3, (Event("resume"),)), (4, (charge(80),)))
    way = ways(session)["by the charge shown"]
    likely, early, late = way.until_s
    assert likely == pytest.approx((4 + 8) * 3600)
    assert late - likely == likely - early == pytest.approx(8 * 3600 * math.hypot(math.sqrt(2) * 0.5 / 20, 0.5 / 80))


def test_what_is_left_by_the_gauge_goes_by_the_loads_on_else_by_the_watts_last_read() -> None:
    session = run((0, (Switch("1", on=True), charge(100))), (1, (charge(50),)))
    fridge = load("1", "fridge", "motor", 100, duty=Duty(15, 15))
    by_loads = ways(session, loads={"1": fridge})["by the 50\u202fW that the loads on come to"]
    assert by_loads.left_s / 3600 == pytest.approx(1800 * 0.5 / 50)
    read = run((0, (charge(100),)), (1, (charge(50), Reading("w", 90, Place.LEG1))))
    assert ways(read)["by the 90\u202fW last read"].left_s / 3600 == pytest.approx(10)


def test_an_engine_goes_on_by_its_fuel() -> None:
    session = run((0, (Reading("fuel_l", 4.0),)), (1, (Reading("fuel_l", 3.0),)), (2, (Reading("fuel_l", 1.5),)))
    left_h = sorted(round(p.left_s / 3600, 2) for p in projections(session, replay(session, 1), Claims(cont_w=2000)))
    assert left_h == [1.0, 1.2]


def test_a_count_that_waits_to_be_confirmed_promises_nothing() -> None:
    session = run((0, (charge(100), energy(0))), (1, (charge(90), energy(150))), (2, (charge(80), energy(1500))))
    record = replay(session, 1)
    left_h = {p.by: p.left_s / 3600 for p in projections(session, record, STATION, waiting=frozenset({3}))}
    assert left_h["by the energy counted, of 1\u202f800\u202fWh usable on the nameplate"] == pytest.approx(11)
