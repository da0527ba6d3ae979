"""The log line understands what a person jots, and never refuses."""

from __future__ import annotations

import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.quantities import THIN
from muster.core.sessions import Event, Length, LengthOf, Note, Place, Reading, Start, Stat, Switch
from muster.core.sessions.log_line import Jotting, read_line
from muster.core.supply import System
from tests.corpus.reading import CORPORA, HOUSE, jottings
from tests.examples import examples

from ..build import SINGLE, SPLIT, found

NAMES = {"1": "bread oven", "3": "chest freezer, 200 L", "4": "sump pump", "a": "kettle", "b": "heater"}


def say(line: str) -> str:
    return read_line(line, NAMES, SPLIT).sentence.replace(THIN, " ")


@pytest.mark.parametrize(
    ("line", "understood"),
    [
        ("238v 12.4a 2.91kw 59.6hz", "both legs 238.0 V · both legs 12.4 A · both legs 2 910 W · 59.6 Hz"),
        ("l2 118v 31a", "leg 2 118.0 V · leg 2 31 A"),
        ("leg 2 118 volts", "leg 2 118.0 V"),
        ("n 4.2a", "neutral 4.2 A"),
        ("3.1kva 0.92pf", "both legs 3 100 VA · both legs PF 0.92"),
        ("pf 0.92", "both legs PF 0.92"),
        ("72db@7m", "72.0 dBA at 7 m"),
        ("72 db @ 7m", "72.0 dBA at 7 m"),
        ("background 38db", "background 38.0 dBA"),
        ("81% 0.62kwh", "81 % · 620 Wh"),
        ("dc 51.2v 63a", "DC 51.2 V · DC 63 A"),
        ("0.8l fuel", "0.8 L"),
        ("41c cord", "cord 41 °C"),
        ("106f plug", "plug 41.1 °C"),
        ("+kettle -heater", "kettle on · heater off"),
        ("+1 -3", "bread oven on · chest freezer, 200 L off"),
        ("!trip", "it tripped"),
        ("!code F12", "code F12"),
        ("!warm cord", "warm cord"),
        ("@clamp 56.7a max", "leg 1 highest 56.7 A, by the clamp meter with inrush hold"),
        ("l1 107v min freezer start", "leg 1 lowest 107.0 V · chest freezer, 200 L start"),
        ("min 107v", "leg 1 lowest 107.0 V"),
        ("118,5v", "leg 1 118.5 V"),
        ("2m ago: 118v", "2 min ago · leg 1 118.0 V"),
        ("14:05: 118v", "at 14:05 · leg 1 118.0 V"),
        ("note: 12v lamp looks dim", "note: 12v lamp looks dim"),
        ("engine hunted before it let go", "it tripped · note: engine hunted before"),
        ("12345", "note: 12345"),
    ],
)
def test_a_line_is_told_back(line: str, understood: str) -> None:
    assert say(line) == understood


def test_on_a_single_phase_home_everything_is_of_that_leg() -> None:
    items = read_line("231v 1.2kw", {}, SINGLE).items
    assert [item.place for item in items if isinstance(item, Reading)] == [Place.LEG1, Place.LEG1]


def test_a_whole_start_in_one_line() -> None:
    line = "hot sump pump start l2 @multimeter 118.2v before 101v min 117v settled @clamp 22a max !held"
    items = read_line(line, NAMES, SPLIT).items
    assert Start("4", hot=True) in items
    assert Event("held") in items
    stats = [item.stat for item in items if isinstance(item, Reading)]
    assert stats == [Stat.BEFORE, Stat.LOWEST, Stat.SETTLED, Stat.HIGHEST]
    assert {item.instrument for item in items if isinstance(item, Reading)} == {"multimeter", "clamp"}


def test_a_name_that_two_loads_share_is_not_guessed() -> None:
    names = {"1": "sump pump", "2": "borehole pump"}
    assert read_line("+pump", names, SPLIT).items == (Note("+pump"),)


def test_a_key_is_enough_to_switch() -> None:
    assert read_line("+a", NAMES, SPLIT).items == (Switch("a", on=True),)


def test_the_last_digit_typed_is_kept_as_resolution() -> None:
    item = read_line("2.91kw", {}, SPLIT).items[0]
    assert isinstance(item, Reading)
    assert item.resolution == pytest.approx(10)


def test_a_figure_that_cannot_be_is_kept_and_flagged_and_not_used() -> None:
    assert say("3083db@7m") == "3 083.0 dBA at 7 m (cannot be: kept, not used)"
    assert say("pf 9.2") == "both legs PF 9.20 (cannot be: kept, not used)"
    assert found([(0, "background 3083db"), (2, "66db@7m")]).noise[0].background_dba is None


def test_a_start_read_by_a_slow_meter_is_told_as_a_bound_before_it_is_kept() -> None:
    line = "l1 107v min freezer start @clamp 31a max"
    told = read_line(line, NAMES, SPLIT, {"3": 0.4}).told[-1].replace(THIN, " ")
    assert told == "the panel meter is slower than this start: at most 107.0 V"
    assert not any("slower" in phrase for phrase in read_line(line, NAMES, SPLIT, {"3": 5.0}).told)
    assert not any("slower" in phrase for phrase in read_line("l1 107v min", NAMES, SPLIT, {"3": 0.4}).told)


@settings(max_examples=examples(1000))
@given(st.text(max_size=80))
def test_it_never_refuses_and_never_loses_a_line(line: str) -> None:
    jotting = read_line(line, NAMES, SPLIT)
    assert bool(jotting.items) == bool(line.strip())
    assert len(jotting.told) >= len(jotting.items)


words = st.sampled_from(
    [
        "238v",
        "12.4a",
        "l1",
        "l2",
        "min",
        "max",
        "freezer",
        "start",
        "+kettle",
        "-heater",
        "!trip",
        "@clamp",
        "@7m",
        "72db",
        "hot",
        "dc",
        "before",
        "pf",
        "0.9",
        "%",
        "+",
        "-",
        "!",
        "@",
        "note",
        "5m ago:",
        "25:99:",
        "1e9v",
    ]
)


@settings(max_examples=examples(1000))
@given(st.lists(words, max_size=12).map(" ".join))
def test_known_words_in_any_order_are_understood_without_a_stumble(line: str) -> None:
    assert bool(read_line(line, NAMES, SPLIT).items) == bool(line.strip())


@pytest.mark.parametrize(
    "line", ["eased pump start 220v min", "hot soft pump start 220v min", "pump start 220v min eased"]
)
def test_a_start_says_that_it_was_eased(line: str) -> None:
    (start,) = [item for item in read_line(line, {"1": "pump"}, SINGLE).items if isinstance(item, Start)]
    assert start.eased
    assert start.hot == ("hot" in line)


@pytest.mark.parametrize(
    ("line", "clock"),
    [
        ("2:05 pm 238v", (14, 5, 0)),
        ("2:05pm: 238v", (14, 5, 0)),
        ("12:10 am 238v", (0, 10, 0)),
        ("12:10 PM 238v", (12, 10, 0)),
        ("14:05:07 238v", (14, 5, 7)),
    ],
)
def test_a_time_of_twelve_hours_is_of_its_half_of_the_day(line: str, clock: tuple[int, int, int]) -> None:
    jotted = read_line(line, NAMES, SINGLE)
    assert jotted.when.clock == clock
    assert [item.value for item in jotted.items if isinstance(item, Reading)] == [238]


@pytest.mark.parametrize("line", ["1.1% thd", "thd 1.1%", "1.1 % THD", "distortion 4.8%"])
def test_a_percentage_of_distortion_is_no_charge(line: str) -> None:
    (reading,) = read_line(line, NAMES, SINGLE).items
    assert isinstance(reading, Reading)
    assert reading.quantity == "thd_pct"


@pytest.mark.parametrize(
    ("line", "length"),
    [
        ("off after 12 s", Length(12, LengthOf.TRIP, 1)),
        ("held for 40 sec", Length(40, LengthOf.HELD, 1)),
        ("3.6kw, held 2.5 s", Length(2.5, LengthOf.HELD, 0.1)),
        ("came back by itself after 25 s", Length(25, LengthOf.BACK, 1)),
        ("tripped at 4.1kw after 38s", Length(38, LengthOf.TRIP, 1)),
        ("2h15 at 600w", Length(8100, LengthOf.HELD, 60)),
        ("ran 6h22 on a full tank", Length(22920, LengthOf.HELD, 60)),
    ],
)
def test_a_length_is_kept_with_its_tenths_and_what_it_is_of(line: str, length: Length) -> None:
    assert [item for item in read_line(line, NAMES, SINGLE).items if isinstance(item, Length)] == [length]


@pytest.mark.parametrize("line", ["0.8 litres per hour", "1.92 units", "40 mins in", "3 gallons an hour"])
def test_a_note_keeps_the_unit_of_its_figure(line: str) -> None:
    assert [item.text for item in read_line(line, NAMES, SINGLE).items if isinstance(item, Note)] == [line]


@pytest.mark.parametrize(
    ("line", "read"),
    [
        ("24.8v dc", [("v", Place.DC, 24.8)]),
        ("24.8 V DC 0.8 A", [("v", Place.DC, 24.8), ("a", Place.DC, 0.8)]),
        ("12.8v dc 0.82a idle", [("v", Place.DC, 12.8), ("a", Place.DC, 0.82), ("w", Place.LEG1, 0)]),
        ("10.9v dc 262a, 109v out", [("v", Place.DC, 10.9), ("a", Place.DC, 262), ("v", Place.LEG1, 109)]),
        ("dc 24.8v 62a", [("v", Place.DC, 24.8), ("a", Place.DC, 62)]),
        (
            "238v 2.9kw dc 51.2v 63a",
            [("v", Place.LEG1, 238), ("w", Place.LEG1, 2900), ("v", Place.DC, 51.2), ("a", Place.DC, 63)],
        ),
        ("pv 148v 620w out 300w", [("v", Place.PANELS, 148), ("w", Place.PANELS, 620), ("w", Place.LEG1, 300)]),
        ("pv 620w, load 300w", [("w", Place.PANELS, 620), ("w", Place.LEG1, 300)]),
        ("231v dc 62a", [("v", Place.LEG1, 231), ("a", Place.DC, 62)]),
        ("520w dc 26v 22a", [("w", Place.LEG1, 520), ("v", Place.DC, 26), ("a", Place.DC, 22)]),
        ("570w dc 26v 22a", [("w", Place.DC, 570), ("v", Place.DC, 26), ("a", Place.DC, 22)]),
        ("26v 22a 520w dc", [("v", Place.DC, 26), ("a", Place.DC, 22), ("w", Place.DC, 520)]),
    ],
)
def test_a_unit_before_dc_is_of_the_dc_side(line: str, read: list[tuple[str, Place, float]]) -> None:
    items = read_line(line, NAMES, SINGLE).items
    assert [(item.quantity, item.place, item.value) for item in items if isinstance(item, Reading)] == read


@pytest.mark.parametrize(
    ("line", "quantity", "value"),
    [
        ("0.6l water", "water_kg", 0.6),
        ("600 ml of water", "water_kg", 0.6),
        ("600ml", "water_kg", 0.6),
        ("0.8 litres fuel", "fuel_l", 0.8),
    ],
)
def test_litres_of_water_are_no_fuel(line: str, quantity: str, value: float) -> None:
    (reading,) = (item for item in read_line(line, NAMES, SINGLE).items if isinstance(item, Reading))
    assert (reading.quantity, reading.value) == (quantity, value)


def test_minutes_are_not_the_lowest_of_what_follows() -> None:
    readings = [item for item in read_line("4.3kw 5 min, neutral 33a", NAMES, SPLIT).items if isinstance(item, Reading)]
    assert [(item.place, item.stat) for item in readings] == [(Place.TOTAL, Stat.STEADY), (Place.NEUTRAL, Stat.STEADY)]


def test_the_total_of_a_source_with_one_leg_is_that_leg() -> None:
    (reading,) = read_line("total 27a", NAMES, SINGLE).items
    assert isinstance(reading, Reading)
    assert reading.place is Place.LEG1


@pytest.mark.parametrize(
    "line",
    [
        "didn't trip",
        "never tripped",
        "nearly tripped",
        "no smell",
        "lights did not flicker",
        "plug not warm",
        "won't trip",
        "if it trips reset it",
        "should go off at 21v",
        "hasn't come back",
        "did not come back by itself",
        "no warning light",
        "not empty",
        "don't switch the kettle on",
        "rcd test button trips",
        "mains off 12:01, back 12:09",
        "manual says 2.2kw",
        "label says 238v 13a",
        "rated 3kw",
        "tripped over the lead",
        "reset the meter to zero",
        "clouds came back",
        "empty can beside it",
        "it held up the lid",
        "put the meter back on",
        "restarted the phone",
        "tank half empty",
        "£240 paid",
    ],
)
def test_what_did_not_happen_is_a_note_word_for_word(line: str) -> None:
    """A trip that was not, or a claim taken for a reading, would decide a verdict."""
    assert read_line(line, NAMES, SINGLE).items == (Note(line),)


@pytest.mark.parametrize(
    ("line", "watts"),
    [("3.2kw, did not trip", 3200), ("3.4kw 10 min without tripping", 3400), ("2.9kw no smell", 2900)],
)
def test_what_was_read_beside_it_counts(line: str, watts: float) -> None:
    items = read_line(line, NAMES, SINGLE).items
    assert [item.value for item in items if isinstance(item, Reading)] == [watts]
    assert not [item for item in items if isinstance(item, Event)]


def test_a_protective_device_that_tripped_is_no_trip_of_the_source() -> None:
    assert [item.name for item in read_line("rcd tripped", NAMES, SINGLE).items if isinstance(item, Event)] == ["code"]


def test_the_watts_of_a_load_are_asked_and_until_then_no_reading() -> None:
    jotting = read_line("2kw kettle on", NAMES, SINGLE)
    assert not [item for item in jotting.items if isinstance(item, Reading)]
    assert jotting.doubt is not None
    meanings = [read_line(line, NAMES, SINGLE) for _, line in jotting.doubt.choices]
    assert [[i.value for i in m.items if isinstance(i, Reading)] for m in meanings] == [[2000], []]
    assert all(m.doubt is None for m in meanings)


def test_a_start_alone_is_asked_about_while_others_run() -> None:
    names = {"1": "pump", "2": "fridge"}
    jotting = read_line("pump start 198v min", names, SINGLE, on=("2",), alone=("1",))
    assert jotting.doubt is not None
    alone, on_top = (read_line(line, names, SINGLE, on=("2",), alone=("1",)) for _, line in jotting.doubt.choices)
    assert [item.alone for item in alone.items if isinstance(item, Start)] == [True]
    assert [item.alone for item in on_top.items if isinstance(item, Start)] == [False]
    assert alone.doubt is on_top.doubt is None


def test_a_load_that_is_not_on_the_list_is_offered() -> None:
    jotting = read_line("washing machine on 2.1kw", NAMES, SINGLE)
    assert jotting.unknown == "washing machine"
    assert [item.value for item in jotting.items if isinstance(item, Reading)] == [2100]


def _meant(jotting: Jotting) -> list[object]:
    """The items as the told line can say them: a reading's last digit is not told."""
    plain: list[object] = []
    for item in jotting.items:
        if isinstance(item, Reading):
            plain.append((item.quantity, item.place, item.stat, item.instrument, item.spot, approx(item.value)))
        elif isinstance(item, Length):
            plain.append((item.for_s, item.of))
        else:
            plain.append(item)
    return plain


def approx(value: float) -> object:
    return pytest.approx(value, rel=4e-3, abs=1e-3)


def _again(line: str, system: System) -> None:
    names = {name: name for name in HOUSE}
    jotting = read_line(line, names, system)
    again = read_line(jotting.sentence, names, system)
    assert _meant(again) == _meant(jotting), jotting.sentence
    assert again.when == jotting.when


@pytest.mark.parametrize("corpus", CORPORA)
def test_what_was_understood_and_told_back_is_understood_alike(corpus: str) -> None:
    for jotting in jottings(corpus):
        _again(jotting.text, jotting.system)


LINES = sorted({jotting.text for corpus in CORPORA for jotting in jottings(corpus)})


@settings(max_examples=examples(300), deadline=None)
@given(st.lists(st.sampled_from(LINES), min_size=2, max_size=3).map(", ".join))
def test_a_note_holds_the_words_that_were_typed_and_no_others(line: str) -> None:
    jotting = read_line(line, {name: name for name in HOUSE}, SINGLE)
    typed = re.split(r"[\s,;·]+", line)
    for note in (item for item in jotting.items if isinstance(item, Note)):
        assert set(re.split(r"[\s,;·]+", note.text)) <= {*typed, *(word.strip(".:!?-") for word in typed)}


@pytest.mark.parametrize(
    "time", ["14:10 ", "14:10: ", "2m ago: ", "next day 06:00 ", "12 oct 14:10, ", "2:10 pm ", "day 2 14:10 "]
)
@pytest.mark.parametrize(
    "line", ["kettle on 229v", "2kw kettle on", "kettle start 229v to 188", "+kettle", "went off", "kettle off"]
)
def test_a_time_before_a_line_takes_nothing_from_it(time: str, line: str) -> None:
    """A time was marked with the space behind it, and the load after it was lost."""
    assert read_line(time + line, NAMES, SINGLE).items == read_line(line, NAMES, SINGLE).items


@pytest.mark.parametrize("line", ["torch went dark", "phone died", "mains side dead"])
def test_the_end_of_something_else_is_asked_and_no_trip(line: str) -> None:
    jotting = read_line(line, NAMES, SINGLE)
    assert jotting.items == (Note(line),)
    assert jotting.doubt is not None
    tripped, other = (read_line(said, NAMES, SINGLE).items for _, said in jotting.doubt.choices)
    assert Event("trip") in tripped
    assert other == (Note(line),)


@pytest.mark.parametrize("line", ["2.9kw at 10 min", "off 12 min, 2.9kw", "warm-up 5 min, 237v 0w", "2.9kw 40 min in"])
def test_a_length_that_nothing_was_held_for_is_no_hold(line: str) -> None:
    assert not [item for item in read_line(line, NAMES, SINGLE).items if isinstance(item, Length)]


@pytest.mark.parametrize("line", ["0% 1.93kwh off", "07:12 1%, off, beeped", "0%, off"])
def test_a_battery_at_its_end_and_the_bare_word_are_the_end_of_the_run(line: str) -> None:
    events = [item.name for item in read_line(line, NAMES, SINGLE).items if isinstance(item, Event)]
    assert "trip" in events


@pytest.mark.parametrize(
    ("line", "clock"),
    [("at midnight 58%", (0, 0, 0)), ("half past six 22%", (6, 30, 0)), ("quarter to 7 20%", (6, 45, 0))],
)
def test_a_time_may_be_said_in_words(line: str, clock: tuple[int, int, int]) -> None:
    assert read_line(line, NAMES, SINGLE).when.clock == clock


@pytest.mark.parametrize(
    ("line", "tripped"),
    [
        ("ran it until it tripped at 3.9kw", True),
        ("4 min at 2.9kw before it went off", True),
        ("2kw until it trips", False),
        ("wait before it trips", False),
    ],
)
def test_what_is_told_in_the_past_did_happen(line: str, tripped: bool) -> None:
    """A trip that was taken for a plan would leave its watts as held."""
    items = read_line(line, NAMES, SINGLE).items
    assert any(isinstance(item, Event) and item.name == "trip" for item in items) == tripped


@pytest.mark.parametrize(
    ("line", "started"),
    [
        ("pump start on the heater stalled", ["2"]),
        ("hot pump start on the heater 230v to 212v", ["2"]),
        ("pump started on the heater and the kettle, 210v lowest", ["2"]),
        ("pump and heater start together 230v to 205v", ["2", "1"]),
    ],
)
def test_what_a_load_is_started_on_is_no_start_of_its_own(line: str, started: list[str]) -> None:
    items = read_line(line, {"1": "heater", "2": "sump pump", "3": "kettle"}, SINGLE).items
    assert [item.load for item in items if isinstance(item, Start)] == started
