"""A load as people say it: its start, its heat, its hours, and what nobody said."""

from __future__ import annotations

import pytest

from muster.core.errors import MusterError
from muster.core.loads import ALL_DAY, Caller, Duty, Load, Tier, with_kind
from muster.core.loads.line_parser import parse_load_line
from muster.core.sources import Claims, Site, Source, SourceKind
from muster.core.sources.limits import limits_of
from muster.core.stacking.what_if import what_if

from ..build import SINGLE


def load_of(line: str) -> Load:
    return parse_load_line(line, "1", 230).load


def told(line: str) -> str:
    return parse_load_line(line, "1", 230).understood.replace("\u202f", " ").replace("\u2009", " ")


def test_a_start_of_three_to_seven_times_is_reckoned_with_its_upper_end() -> None:
    fridge = load_of("fridge 0.9a start 3-7x")
    assert fridge.start_total_va == pytest.approx(7 * 207, abs=1)
    assert "start 621 VA to 1 449 VA" in told("fridge 0.9a start 3-7x")


@pytest.mark.parametrize(
    ("line", "start_va"),
    [("pump 1kw start 5 times", 6250), ("pump 1kw start 18a", 4140), ("pump 1kw starts at 4 kva", 4000)],
)
def test_a_start_may_be_said_in_any_unit(line: str, start_va: float) -> None:
    assert load_of(line).start_total_va == pytest.approx(start_va)


def test_the_peak_of_an_oven_counts() -> None:
    assert load_of("oven 2kw peak 3.1kw").run_w == 3100


@pytest.mark.parametrize(
    ("line", "watts"),
    [
        ("5 t air conditioner", 5 * 3516.85 / 2.9),
        ("window air conditioner 8000 btu", 8000 * 0.293071 / 2.9),
        ("3 ton heat pump", 3 * 3516.85 / 1.9),
    ],
)
def test_heat_is_no_input(line: str, watts: float) -> None:
    assert load_of(line).run_w == pytest.approx(watts, abs=1)
    assert "of heat at a COP of" in told(line)


@pytest.mark.parametrize(
    ("line", "hours"),
    [
        ("kettle from 6 to 9", (6, 7, 8)),
        ("kettle 9am to 5pm", tuple(range(9, 17))),
        ("kettle evenings", tuple(range(17, 23))),
        ("kettle all day", ALL_DAY),
        ("kettle overnight", (0, 1, 2, 3, 4, 5, 22, 23)),
    ],
)
def test_hours_are_said_as_people_say_them(line: str, hours: tuple[int, ...]) -> None:
    assert load_of(line).hours == hours


@pytest.mark.parametrize("name", ["circular saw", "hammer drill", "angle grinder", "old circular saw", "jigsaw"])
def test_the_whole_name_decides_the_kind(name: str) -> None:
    """A circular saw is a universal motor, and not the shelf's band saw."""
    assert load_of(f"{name} 1200w").kind == "universal"


def test_a_name_that_tells_nothing_has_no_kind_no_hours_and_is_no_must() -> None:
    lift = load_of("lift 2.1kw")
    assert lift.start_unknown
    assert (lift.tier, lift.hours) == (Tier.SHOULD, ())
    assert "start not known" in told("lift 2.1kw")
    assert load_of("lift 2.1kw must").hours == ALL_DAY, "what must run is not left out for silence"
    said = with_kind(lift, "motor_loaded")
    assert (said.run_w, said.start_unknown) == (2100, False)


@pytest.mark.parametrize("line", ["led lights 60w", "standard lamp 100w", "television 120w"])
def test_a_lamp_or_a_set_has_an_inrush_and_no_start(line: str) -> None:
    load = load_of(line)
    assert load.inrush_va == pytest.approx(10 * load.run_va)
    assert load.start_total_va == load.run_va
    assert not load.has_start(50)
    assert not load.has_start(60)


def test_watts_must_be_said_of_what_the_shelf_does_not_know() -> None:
    with pytest.raises(MusterError, match="not on the shelf"):
        load_of("lift")


def test_what_nobody_knows_the_start_of_is_not_said_to_be_too_much() -> None:
    lift = load_of("lift 2.1kw")
    limits = limits_of(Source("set", SourceKind.OPEN_FRAME, Claims(5000)), SINGLE, Site())
    answer = what_if(lift, (), limits, SINGLE)
    assert answer.answer == "unknown"
    assert "was not said" in answer.sentence
    assert what_if(with_kind(lift, "heater"), (), limits, SINGLE).answer == "fits"
    assert what_if(load_of("lift 6kw"), (), limits, SINGLE).answer == "never", "its running watts alone are too much"


@pytest.mark.parametrize(
    ("line", "watts"), [("toaster 850", 850), ("chest freezer, 200 L", 120), ("kettle 2.2 kW", 2200)]
)
def test_the_one_bare_number_after_a_name_is_watts(line: str, watts: float) -> None:
    assert load_of(line).run_w == watts


@pytest.mark.parametrize(
    ("line", "what", "value"),
    [
        ("stove 1900w 15/45 7,8,18,19 must", "hours", (7, 8, 18, 19)),
        ("kettle 2kw at 7, 12, 18 should", "hours", (7, 12, 18)),
        ("lamp 60w 12,5", "run_w", 60.0),
        ("heater 1,500 w", "run_w", 1500.0),
        ("heater 1,5 kw", "run_w", 1500.0),
        ("heater 0,750 kw", "run_w", 750.0),
        ("pump 2,250va start, 750w", "start_va", 2250.0),
        ("pump 750w start 2,250va", "start_va", 2250.0),
        ("washing machine 1800w program 40 9-17", "duty", Duty(40, 0, Caller.HAND, once=True)),
        ("dishwasher 1.2kw 90 min program at 20, 21, 22", "duty", Duty(90, 0, Caller.HAND, once=True)),
    ],
)
def test_lists_of_hours_thousands_and_programs_are_read_as_they_are_written(
    line: str, what: str, value: object
) -> None:
    assert getattr(parse_load_line(line, "1", 230.0).load, what) == value
