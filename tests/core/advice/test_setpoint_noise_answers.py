"""Where to set a governor, what a neighbour hears, and the sentences that open the findings."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.advice.answers import Weight, answers, wave_advice
from muster.core.advice.noise_layout import NoiseLayout
from muster.core.advice.noise_plan import at_neighbour, rings, screen_db
from muster.core.advice.set_point import Droop, OutageLoads, SetPointSchool, advice, droop_of, set_by_hand
from muster.core.brief import Brief, Home
from muster.core.character import Dated, character_of
from muster.core.character.sound import Sound
from muster.core.findings import findings_of
from muster.core.sources import Claims, Source, SourceKind
from muster.core.timeline.captures.waveform import Shape

from ..build import SINGLE, load, session

DROOP = Droop(62.1, -0.00058, 60.0)
DAY = OutageLoads(5000, 1500, 400, 2600)


def test_each_school_puts_nominal_at_its_own_load() -> None:
    by_school = {one.school: one for one in advice(DROOP, DAY)}
    for school, w in (
        (SetPointSchool.HALF, 2500),
        (SetPointSchool.THREE_QUARTERS, 3750),
        (SetPointSchool.MOST_USED, 1500),
        (SetPointSchool.LEAST_WORST, 1500),
    ):
        assert DROOP.set_to(by_school[school].no_load_hz).at(w) == pytest.approx(60.0)


def test_a_setting_that_leaves_the_window_is_refused_with_its_reason() -> None:
    steep = Droop(62.0, -0.0011, 60.0)
    by_school = {one.school: one for one in advice(steep, DAY)}
    assert "above 63.0" in by_school[SetPointSchool.THREE_QUARTERS].refused
    assert by_school[SetPointSchool.HALF].refused == ""
    assert "below 57.0" in set_by_hand(steep, 60.0, OutageLoads(5000, 1500, 0, 5000)).refused


@given(st.floats(-0.002, -0.00005), st.floats(0, 2000), st.floats(2001, 6000))
def test_least_worst_is_least_worst(slope: float, low: float, high: float) -> None:
    day = OutageLoads(6000, 1000, low, high)
    best = next(one for one in advice(Droop(61, slope, 60), day) if one.school is SetPointSchool.LEAST_WORST)
    for nudge in (-0.3, 0.3):
        moved = set_by_hand(Droop(61, slope, 60), best.no_load_hz + nudge, day)
        assert abs(moved.worst_hz - 60) >= abs(best.worst_hz - 60) - 1e-9


SOUND = Sound(levels_1m=((0.0, 78.0), (3000.0, 83.0)), decay_db=20.0, u_db=1.5, fitted=True)


def test_levels_fall_with_distance_and_rise_with_load() -> None:
    near, far = NoiseLayout(neighbour_x=7), NoiseLayout(neighbour_x=23)
    assert at_neighbour(SOUND, near, 3000).dba == pytest.approx(83 - 16.9, abs=0.05)
    assert at_neighbour(SOUND, near, 3000).dba - at_neighbour(SOUND, far, 3000).dba == pytest.approx(10.33, abs=0.01)
    assert at_neighbour(SOUND, near, 1500).dba == pytest.approx(at_neighbour(SOUND, near, 3000).dba - 2.5)
    assert at_neighbour(SOUND, NoiseLayout(neighbour_x=7, units=2), 3000).dba == pytest.approx(
        at_neighbour(SOUND, near, 3000).dba + 3.01, abs=0.01
    )


def test_a_wall_counts_only_where_it_stands_between() -> None:
    between = NoiseLayout(neighbour_x=20, wall_x1=4, wall_y1=-5, wall_x2=4, wall_y2=5)
    beside = NoiseLayout(neighbour_x=20, wall_x1=4, wall_y1=2, wall_x2=4, wall_y2=9)
    assert 5 < screen_db(between) <= 20
    assert screen_db(beside) == 0
    assert at_neighbour(SOUND, between, 0).screened_dba < at_neighbour(SOUND, between, 0).dba


def test_rings_stand_where_the_level_is_theirs() -> None:
    for level, radius in rings(SOUND, NoiseLayout(), 3000, 100):
        assert at_neighbour(SOUND, NoiseLayout(neighbour_x=radius), 3000).dba == pytest.approx(level, abs=1e-6)


HEATER, PUMP = load("1", "heater", run_w=1000), load("2", "pump", "motor_loaded", 400, pf=0.8)
SET = Source("the set", SourceKind.OPEN_FRAME, Claims(3000))
HOME = Home(Brief(system=SINGLE, noise_night_dba=45), (HEATER, PUMP))


def dated(lines: list[tuple[float, str]], protocol: str) -> Dated:
    run = session(lines, HOME.loads, SINGLE, protocol)
    return Dated(findings_of(run, HOME.by_key, SINGLE, 20, source=SET), protocol.capitalize(), "2026-10-01")


def told(*sessions: Dated) -> tuple:
    return answers(HOME, SET, sessions, character_of(SET, SINGLE, HOME.brief.site, sessions))


def test_what_stops_something_comes_first_and_leads_to_its_finding() -> None:
    ladder = dated([(0.0, "230v 0w 53.4hz"), (10.0, "+1"), (20.0, "228v 1000w 52.8hz"), (700.0, "-1")], "ladder")
    starts = dated([(0.0, "pump start @multimeter 230v before 160v min !stall")], "starts")
    found = told(ladder, starts)
    assert [one.weight for one in found] == sorted(one.weight for one in found)
    assert found[0].weight is Weight.STOPS
    stall = next(one for one in found if "does not start the pump" in one.sentence)
    assert stall.session == 1
    assert stall.key in {f.key for f in starts.findings.findings}
    assert any("governor wants setting" in one.sentence and "Set-point" in one.needs for one in found)


def test_what_nothing_is_known_of_names_the_test() -> None:
    found = told(dated([(0.0, "230v 0w 50hz"), (10.0, "+1"), (20.0, "228v 1000w 49hz"), (700.0, "-1")], "ladder"))
    assert any("Starts" in one.sentence and "Still to be tested" in one.sentence for one in found)


def test_no_session_says_nothing() -> None:
    assert told() == ()


def test_an_inverter_has_no_governor_to_set() -> None:
    flat = dated([(0.0, "230v 0w 50.0hz"), (10.0, "+1"), (20.0, "228v 1000w 50.0hz"), (700.0, "-1")], "ladder")
    assert droop_of(character_of(SET, SINGLE, HOME.brief.site, [flat]), 50.0) is None


def test_a_stepped_wave_is_no_matter_to_plain_heat_and_is_to_a_compressor() -> None:
    assert "no matter" in wave_advice(HEATER, Shape.STEPPED)
    assert "hot" in wave_advice(load("3", "freezer", "compressor", 150), Shape.STEPPED)
    assert wave_advice(HEATER, Shape.SINE) == "as on the mains"
