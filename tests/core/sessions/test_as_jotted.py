"""Lines as they were jotted in made-up afternoons: settings of a heater, what a trip is blamed on, one load in the place of another."""

from __future__ import annotations

import pytest

from muster.core.sessions import Event, Length, LengthOf, Place, Reading, Start, Stat, Switch
from muster.core.sessions.log_line import Jotting, read_line
from tests.core.build import SINGLE, SPLIT

NAMES = {"1": "fridge", "2": "chest freezer", "3": "well pump", "6": "kettle", "7": "heater low", "8": "heater high"}


def read(line: str, *on: str) -> Jotting:
    return read_line(line, NAMES, SINGLE, on=on)


def watts(line: str) -> list[tuple[Stat, float]]:
    return [(r.stat, r.value) for r in read(line).items if isinstance(r, Reading) and r.quantity == "w"]


@pytest.mark.parametrize(
    "line", ["fan heater low 780w 229v 50.0", "oven on low 780w", "heat gun 780w low, 229v", "kettle low 780w"]
)
def test_the_setting_of_a_heater_is_no_lowest_and_its_watts_stand(line: str) -> None:
    assert watts(line) == [(Stat.STEADY, 780)]


@pytest.mark.parametrize("line", ["low 780w", "power low 780w", "it fell, low of 780w"])
def test_a_low_of_nothing_with_a_setting_is_the_lowest(line: str) -> None:
    assert watts(line) == [(Stat.LOWEST, 780)]


@pytest.mark.parametrize(
    "line",
    [
        "well pump - groaned, overload, tripped straight away",
        "15:06 well pump: overload, dead",
        "tripped at once - well pump",
        "well pump again, tripped again",
    ],
)
def test_what_is_named_of_a_trip_is_the_start_that_did_it(line: str) -> None:
    items = read(line).items
    assert [item.load for item in items if isinstance(item, Start)] == ["3"]
    assert any(isinstance(item, Event) and item.name == "trip" for item in items)
    assert not any(isinstance(item, Start) for item in read(line, "3").items), "one that ran already did not start"


def test_one_that_stood_for_a_while_was_on_and_no_start() -> None:
    items = read("kettle: went off after 6 s").items
    assert items[0] == Switch("6", on=True)
    assert not any(isinstance(item, Start) for item in items)


@pytest.mark.parametrize(
    ("line", "on", "switched"),
    [
        ("heater high instead 1001w", ("7", "1"), [("7", False), ("8", True)]),
        ("kettle instead of the fridge", ("1", "7"), [("1", False), ("6", True)]),
        ("kettle instead, 2.1kw", ("1",), [("1", False), ("6", True)]),
        ("kettle instead, 2.1kw", ("1", "7"), [("6", True)]),
    ],
)
def test_one_instead_of_another_is_two_switches(
    line: str, on: tuple[str, ...], switched: list[tuple[str, bool]]
) -> None:
    assert [(item.load, item.on) for item in read(line, *on).items if isinstance(item, Switch)] == switched


@pytest.mark.parametrize(
    "line",
    [
        "overload light, shut down after 4 sec, 1450w 221v just before",
        "1450w 221v just before it tripped",
        "kettle on, tripped, before that 1450w 221v",
    ],
)
def test_what_was_read_before_a_trip_is_what_it_tripped_at_and_comes_first(line: str) -> None:
    items = read(line).items
    at = next(i for i, item in enumerate(items) if isinstance(item, Event) and item.name == "trip")
    before = [item for item in items[:at] if isinstance(item, Reading)]
    assert {(item.quantity, item.value, item.stat) for item in before} == {
        ("w", 1450, Stat.STEADY),
        ("v", 221, Stat.STEADY),
    }
    assert not any(isinstance(item, Reading) for item in items[at:]), "it would be live again"


def test_what_stood_before_a_start_that_tripped_it_is_the_base_of_the_start() -> None:
    assert watts("well pump start, 300w before, tripped") == [(Stat.BEFORE, 300)]


def test_both_are_loads_where_there_is_one_leg_and_the_dc_side_keeps_its_volts() -> None:
    readings = [item for item in read("both 1480w dc 24.6v 70a").items if isinstance(item, Reading)]
    assert [(item.quantity, item.place) for item in readings] == [("w", Place.LEG1), ("v", Place.DC), ("a", Place.DC)]


@pytest.mark.parametrize("code", ["F07", "overload", "the overload light", "error E3"])
def test_a_time_and_then_a_code_is_a_trip_after_that_time(code: str) -> None:
    items = read(f"5.1kw: 8 sec then {code}").items
    (length,) = [item for item in items if isinstance(item, Length)]
    assert (length.of, length.for_s) == (LengthOf.TRIP, 8)
    assert "trip" in [item.name for item in items if isinstance(item, Event)]
    warned = read(f"5.1kw 8 sec, {code} flickered").items
    assert not any(isinstance(item, Event) and item.name == "trip" for item in warned)


def test_what_is_listed_is_on_and_a_rating_in_the_list_is_no_reading() -> None:
    items = read("heater 2kw + kettle + pump run 3.75kw 236v").items
    assert [(item.load, item.on) for item in items if isinstance(item, Switch)] == [("6", True), ("3", True)]
    assert watts("heater 2kw + kettle + pump run 3.75kw 236v") == [(Stat.STEADY, 3750)]


def test_watts_on_the_display_after_a_start_are_no_base_of_it() -> None:
    assert watts("pump came on, lights dimmed, 1.35kw on the display, min 231v") == [(Stat.STEADY, 1350)]
    assert watts("1.2kw on, pump start") == [(Stat.BEFORE, 1200)]


@pytest.mark.parametrize(
    ("line", "told"),
    [
        ("no load 244/122/122 62.1hz", {("v", Place.TOTAL, 244), ("v", Place.LEG1, 122), ("v", Place.LEG2, 122)}),
        ("L1 2.9k 119v L2 0.1k 123v", {("w", Place.LEG1, 2900), ("w", Place.LEG2, 100)}),
    ],
)
def test_short_hands_of_two_legs(line: str, told: set[tuple[str, Place, float]]) -> None:
    readings = [item for item in read_line(line, NAMES, SPLIT).items if isinstance(item, Reading)]
    assert told <= {(r.quantity, r.place, r.value) for r in readings if r.stat is Stat.STEADY}


def test_volts_around_the_word_min_are_before_and_lowest_and_no_minutes() -> None:
    items = read("fridge start 230 min 214").items
    assert [(r.stat, r.value) for r in items if isinstance(r, Reading)] == [(Stat.BEFORE, 230), (Stat.LOWEST, 214)]
    assert not any(isinstance(item, Length) for item in items)
    assert any(isinstance(item, Length) for item in read("held 237 min 2kw").items)


def test_levels_are_of_the_distance_before_them_and_turning_it_off_is_no_trip() -> None:
    items = read("noise: 1 m 84, 7m 72 , 15 m 66 all at 3kw").items
    assert [(r.distance_m, r.value) for r in items if isinstance(r, Reading) and r.quantity == "dba"] == [
        (1, 84),
        (7, 72),
        (15, 66),
    ]
    by_hand = read("9.1kw bogged to 55hz, turned it off after 10 s").items
    assert not any(isinstance(item, Event) and item.name == "trip" for item in by_hand)


@pytest.mark.parametrize("line", ["3.1kw 40s then beep & off", "3.1kw 40s then alarm and dead"])
def test_a_beep_and_off_is_a_trip(line: str) -> None:
    items = read(line).items
    assert any(isinstance(item, Event) and item.name == "trip" for item in items)
    assert [(item.of, item.for_s) for item in items if isinstance(item, Length)] == [(LengthOf.TRIP, 40)]


def test_a_rating_before_a_colon_is_no_reading() -> None:
    assert watts("+ second heater 1 kW: 3.0 kW alarm") == [(Stat.STEADY, 3000)]


@pytest.mark.parametrize(
    "line", ["5.1kw: 8 sec then F07, 3.0kw ok", "heater 5.1kw: 8 sec, then 3.0kw ok", "5.1kw + kettle 3.0kw"]
)
def test_watts_that_stood_for_a_while_or_have_no_name_are_never_taken_for_a_rating(line: str) -> None:
    assert [value for _, value in watts(line)] == [5100, 3000]
