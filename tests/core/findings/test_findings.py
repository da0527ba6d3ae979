"""What readings carry: lines, starts, holds, trips, sound; and what they do not."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.findings.holds import lowest_trip
from muster.core.quantities import Bound, Grade
from muster.core.sessions import Place, Stat
from muster.core.sessions.replay import replay

from ..build import SINGLE, SPLIT, found, load, session

OVEN = load("1", "bread oven", run_w=2000, leg="both")
PUMP = load("2", "sump pump", "motor", 400, pf=0.7, start_va=2400)
FREEZER = load("3", "chest freezer", "motor", 130, pf=0.7)
ALL = (OVEN, PUMP, FREEZER)


# The bench replayed


def test_switches_cut_the_record_and_readings_fall_into_their_stretch() -> None:
    record = replay(session([(0, "123v"), (10, "+1"), (20, "l1 118v 1000w l2 118v 990w")], ALL), 2)
    assert [segment.on for segment in record.segments] == [(), ("1",)]
    assert record.segments[1].total_w(2) == pytest.approx(1990)


def test_volts_times_amps_stand_in_for_watts_not_read() -> None:
    record = replay(session([(0, "230v 10a 0.9pf")], (), SINGLE), 1)
    assert record.segments[0].total_w(1) == pytest.approx(2070)


def test_one_leg_alone_is_not_the_whole_source() -> None:
    record = replay(session([(0, "l1 118v 1000w")], ()), 2)
    assert record.segments[0].total_w(2) is None


def test_an_entry_from_before_is_replayed_at_its_time() -> None:
    record = replay(session([(0, "+1"), (100, "-1"), (50, "l1 1000w l2 1000w")], ALL), 2)
    assert record.segments[1].on == ("1",)
    assert record.segments[1].total_w(2) == 2000


def test_a_trip_keeps_the_readings_of_its_own_entry_and_stands_until_live_again() -> None:
    record = replay(session([(0, "+1"), (5, "2000w"), (46, "2100w !trip display dead")], ALL), 2)
    assert record.tripped
    assert record.segments[1].ended_by == "trip"
    assert record.segments[1].total_w(2) == 2100
    assert not replay(session([(0, "!trip"), (9, "!reset")], ()), 2).tripped


def test_a_start_that_held_leaves_its_load_on() -> None:
    record = replay(session([(0, "pump start 118v before 104v min 117v settled")], ALL), 2)
    assert record.on == ("2",)
    assert record.starts[0].outcome == "held"


def test_a_start_that_stalled_does_not() -> None:
    assert replay(session([(0, "pump start 92v min !stall")], ALL), 2).on == ()


# Holds and trips


def test_a_hold_counts_from_the_first_power_reading_to_the_last() -> None:
    held = found([(0, "+1"), (30, "2000w"), (700, "2010w"), (760, "-1")], ALL).holds
    assert [(h.w, h.held_s, h.counts) for h in held] == [(2000, 670, True)], "the low figure"
    assert held[0].finding.value.grade is Grade.B
    assert held[0].finding.value.bound is Bound.AT_LEAST


def test_a_short_hold_does_not_count() -> None:
    assert not found([(0, "+1"), (30, "2000w"), (290, "2000w"), (300, "-1")], ALL).holds[0].counts


@pytest.mark.parametrize("after", ["-1", "note: all quiet", "231v", "64db@7m", "plug warm"])
def test_a_switch_a_note_or_a_reading_of_something_else_prolongs_nothing(after: str) -> None:
    assert found([(0, "+1"), (30, "2000w"), (3600, after)], ALL).holds == ()


@pytest.mark.parametrize(
    ("lines", "held_s"),
    [
        (((30, "2000w"), (900, "held fine")), 870),
        (((30, "2000w, 12 min"), (900, "-1")), 720),
        (((30, "2000w"), (40, "!hold"), (940, "-1")), 910),
        (((30, "2000w"), (90, "!trip")), 60),
    ],
)
def test_the_word_that_it_stood_a_length_the_hold_clock_and_a_trip_do(
    lines: tuple[tuple[float, str], ...], held_s: float
) -> None:
    assert found([(0, "+1"), *lines], ALL).holds[0].held_s == held_s


def test_where_it_let_go_and_after_how_long() -> None:
    result = found([(0, "+1"), (10, "3500w"), (51, "!trip")], ALL)
    trip = result.holds[0]
    assert (trip.w, trip.held_s, trip.tripped) == (3500, 41, True)
    assert trip.finding.sentence.replace("\u202f", " ") == "Tripped at 3 500 W after 41 s, at most 51 s."


def test_time_after_the_last_entry_is_not_counted_as_held() -> None:
    assert found([(0, "+1"), (30, "2000w")], ALL).holds == ()


def test_a_trip_whose_watts_nobody_read_is_told_with_the_planned_sum_and_limits_nothing() -> None:
    result = found([(0, "+1 +2"), (9, "!trip")], ALL)
    trip = result.holds[0]
    assert (trip.w, trip.finding.value.grade) == (2400, Grade.D)
    assert "not read" in trip.finding.sentence
    assert lowest_trip(result.holds, Place.TOTAL) is None


# Regulation and droop


def test_regulation_and_droop_by_hand() -> None:
    lines = [
        (0, "l1 124v 0w l2 124v 0w 62hz"),
        (10, "+1"),
        (20, "l1 122v 1000w l2 122v 1000w 61hz"),
        (30, "+2"),
        (40, "l1 120v 2000w l2 120v 2000w 60hz"),
    ]
    result = found(lines, ALL)
    leg1 = result.regulation[0]
    assert leg1.place is Place.LEG1
    assert leg1.finding.value.value == pytest.approx((124 - 120) / 120 * 100)
    assert result.droop is not None
    assert result.droop.finding.value.value == pytest.approx(2 / 60 * 100)
    assert result.droop.line.at(4000) == pytest.approx(60)


def test_one_load_gives_no_line() -> None:
    result = found([(0, "l1 124v 0w 62hz")], ALL)
    assert result.regulation == ()
    assert result.droop is None


def test_no_load_needs_no_watts() -> None:
    result = found([(0, "230v 50.5hz"), (5, "+1"), (9, "224v 2000w 49hz")], ALL, SINGLE)
    assert result.regulation[0].line.x_low == 0


# Starts and dips


def test_a_dip_is_measured_against_before_and_against_nominal() -> None:
    seen = found([(0, "pump start l1 @multimeter 118v before 104v min 117v settled")], ALL).starts[0]
    depth, residual = seen.finding.workings[0], seen.finding.workings[1]
    assert "11.9" in depth.result
    assert "86.7" in residual.result
    assert seen.lowest is not None
    assert (seen.lowest.bound, seen.lowest.grade) == (None, Grade.A)


def test_a_meter_slower_than_the_dip_gives_a_bound() -> None:
    seen = found([(0, "pump start 118v before 104v min 117v settled")], ALL).starts[0]
    assert seen.lowest is not None
    assert (seen.lowest.bound, seen.lowest.grade) == (Bound.AT_MOST, Grade.B)
    assert "min/max hold" in seen.finding.needs
    assert seen.finding.workings[-1].result.startswith("0\u202fs of it")


def test_the_voltage_before_is_the_last_one_read_when_the_line_does_not_say() -> None:
    seen = found([(0, "l1 119v"), (9, "pump start l1 @multimeter 104v min !held")], ALL).starts[0]
    assert seen.before_v == 119


def test_the_base_of_a_start_is_what_was_read_with_those_loads_on() -> None:
    lines = [(0, "+1"), (5, "l1 1000w l2 990w"), (20, "pump start l1 @multimeter 104v min !held")]
    seen = found(lines, ALL).starts[0]
    assert (seen.base_w, seen.base_grade) == (1990, Grade.A)


def test_a_base_never_read_is_summed_from_the_loads_and_says_so() -> None:
    seen = found([(0, "+1"), (20, "pump start l1 104v min !held")], ALL).starts[0]
    assert (seen.base_w, seen.base_grade) == (2000, Grade.B)
    guessed = (replace(OVEN, run_grade=Grade.D), PUMP)
    seen = found([(0, "+1"), (20, "pump start l1 104v min !held")], guessed).starts[0]
    assert seen.base_grade is Grade.D


def test_across_both_legs_the_threshold_is_of_the_whole_voltage() -> None:
    well = load("4", "borehole pump", "motor_loaded", 1150, pf=0.8, leg="both")
    seen = found([(0, "borehole pump start total @multimeter 178v min !stall")], (well,)).starts[0]
    assert seen.floor_v == pytest.approx(0.75 * 240)


def test_a_dip_logged_without_a_start_is_a_bound_for_nobody_knows_how_long_it_was() -> None:
    seen = found([(0, "l1 118v"), (9, "!dip l1 104v min")], ALL).dips[0]
    assert seen.counts
    assert seen.before_v == 118
    assert seen.lowest.bound is Bound.AT_MOST
    assert "11.9" in seen.finding.sentence


def test_a_dip_begins_below_ninety_percent_of_nominal() -> None:
    assert not found([(0, "l1 108.1v min")], ALL).dips[0].counts
    assert found([(0, "l1 107.9v min")], ALL).dips[0].counts


def test_a_start_with_nothing_read_shows_no_figure_and_not_a_zero() -> None:
    seen = found([(0, "pump start !held")], ALL).starts[0]
    assert str(seen.finding.value).startswith("–")
    assert seen.finding.needs == "the lowest voltage at the start"


def test_the_lowest_of_a_start_is_not_told_twice() -> None:
    assert found([(0, "pump start l1 104v min !held")], ALL).dips == ()


# Sound


def test_a_walk_takes_the_background_off_and_predicts_the_ear() -> None:
    lines = [(0, "background 46db"), (5, "52db@20m"), (9, "74db@2m")]
    seen = found(lines, ALL, neighbour_m=40).noise[0]
    assert [spot.dba for spot in seen.spots] == [pytest.approx(50.7, abs=0.05), 74]
    assert seen.n == pytest.approx(74 - 50.7, abs=0.1)
    assert seen.neighbour.value == pytest.approx(50.7 - 20 * 0.30103, abs=0.1), (
        "beyond the spots the louder of fit and open"
    )


def test_several_backgrounds_are_averaged_by_energy() -> None:
    seen = found([(0, "background 40db"), (2, "background 46db"), (5, "66db@7m")], ALL).noise[0]
    assert seen.background_dba == pytest.approx(43.96, abs=0.01)


def test_one_distance_is_carried_by_the_open_field() -> None:
    seen = found([(0, "background 30db"), (5, "66db@7m")], ALL, neighbour_m=23).noise[0]
    assert not seen.fitted
    assert seen.neighbour.value == pytest.approx(55.7, abs=0.05)


def test_without_a_background_the_level_is_at_most_that() -> None:
    seen = found([(5, "66db@7m")], ALL).noise[0]
    assert seen.neighbour.bound is Bound.AT_MOST
    assert "at most" in seen.finding.sentence
    assert "background" in seen.finding.needs


def test_a_stretch_of_seconds_is_kept_but_not_worth_a_sentence() -> None:
    result = found([(0, "+1"), (2, "2000w"), (6, "2000w"), (7, "-1")], ALL)
    assert [h.held_s for h in result.holds] == [4]
    assert result.findings == ()


def test_loaded_and_unloaded_are_kept_apart() -> None:
    lines = [(0, "background 40db"), (5, "66db@7m"), (9, "+1"), (12, "70db@7m")]
    assert [seen.state for seen in found(lines, ALL).noise] == ["no load", "loaded"]


@given(st.permutations(list(range(4))))
def test_the_order_in_which_loads_are_climbed_changes_no_line(order: list[int]) -> None:
    ladder_steps = [("+1", 124 - 2, 1000), ("+2", 124 - 3, 1500), ("-1", 124 - 4, 2000), ("+3", 124 - 5, 2500)]
    lines = [
        (float(i * 10 + j), text)
        for i, k in enumerate(order)
        for j, text in enumerate((ladder_steps[k][0], f"l1 {ladder_steps[k][1]}v {ladder_steps[k][2]}w"))
    ]
    fits = found(lines, ALL).regulation
    points = {(round(point.w), point.y) for point in fits[0].points} if fits else set()
    assert points <= {(w, v) for _, v, w in ladder_steps}


def test_a_settled_reading_is_not_taken_for_the_lowest() -> None:
    record = replay(session([(0, "pump start 118v before 117v settled")], ALL), 2)
    assert all(reading.stat is not Stat.LOWEST for reading in record.starts[0].readings)
    assert SPLIT.legs == 2


def test_a_level_beneath_a_start_that_took_the_source_down_did_not_trip() -> None:
    """Lights ran, a pump was started and it tripped: of the lights alone nothing is told but that they were on."""
    lines = [
        (0.0, "+4"),
        (10.0, "260w"),
        (700.0, "260w"),
        (720.0, "pump start 230v before 150v min !trip overload"),
        (760.0, "!reset"),
        (800.0, "pump start 230v before 152v min !trip"),
    ]
    seen = found(lines, (PUMP, load("4", "lights", "electronic", 260)), SINGLE)
    assert [held for held in seen.holds if held.tripped] == []
    assert [round(held.w) for held in seen.holds if held.counts] == [260]
    assert [start.outcome.failed for start in seen.starts] == [True, True]


def test_what_has_no_start_of_its_own_tripped_it_by_its_level() -> None:
    """An oven switched on with the words of a start is no motor: what ran beneath it is the last level that was read."""
    seen = found([(0.0, "1000w"), (700.0, "1000w"), (720.0, "bread oven start 230v !trip")], ALL, SINGLE)
    assert [round(held.w) for held in seen.holds if held.tripped] == [1000]


def test_a_run_to_empty_is_told_once_as_held_and_its_limit_is_a_bound() -> None:
    lines = [(0.0, "+1"), (10.0, "1000w"), (4000.0, "1000w"), (4010.0, "!trip empty")]
    seen = found(lines, ALL, SINGLE)
    assert [round(held.held_s) for held in seen.holds if held.counts] == [4000]
    assert len({finding.key for finding in seen.findings}) == len(seen.findings)
