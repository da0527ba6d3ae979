"""Sums: each works out as it is now, says how sure it is, and names the input that does not fit."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.calculators import CALCULATIONS, TOPICS, answer
from muster.core.calculators.inputs import read_input, read_many
from muster.core.errors import MusterError

NOT_LESS_THAN = {
    "lead-drop",
    "dc-amps",
    "rpm-hertz",
    "clock-method",
    "droop-set-point",
    "code-letter",
    "derating",
    "noise-distance",
    "sum-of-levels",
    "heating-check",
    "two-runs",
    "duty-weather",
    "peukert",
    "parallel-pair",
    "string-layout",
    "fuel-hours",
    "split-phase-neutral",
    "stepped-thd",
}


def test_every_small_calculation_is_here() -> None:
    assert set(CALCULATIONS) >= NOT_LESS_THAN
    assert all(any(one.topic == topic for one in CALCULATIONS.values()) for topic in TOPICS)


@pytest.mark.parametrize("slug", sorted(CALCULATIONS))
def test_each_works_out_as_it_first_stands_with_its_lines_and_its_cautions(slug: str) -> None:
    found = answer(CALCULATIONS[slug], {})
    assert found.result.sentence.endswith(".")
    assert all(line.formula and line.result for line in found.result.lines)
    assert found.result.beware
    assert found.values


@pytest.mark.parametrize("slug", sorted(CALCULATIONS))
def test_each_names_the_input_that_is_no_figure(slug: str) -> None:
    for asked in CALCULATIONS[slug].inputs:
        with pytest.raises(MusterError) as told:
            answer(CALCULATIONS[slug], {asked.name: "many"})
        assert told.value.where == asked.name


WORKED = (
    ("lead-drop", "drop_v", 2.69, 2),
    ("clock-method", "hz", 62.0, 1),
    ("two-runs", "battery_wh", 1822.8, 1),
    ("two-runs", "idle_w", 20.5, 1),
    ("parallel-pair", "pair_a", 31.9, 1),
    ("heating-check", "got_w", 690.7, 1),
    ("noise-distance", "there_dba", 55.7, 1),
    ("sum-of-levels", "sum_dba", 64.8, 1),
    ("stepped-thd", "thd_pct", 29.68, 2),
    ("code-letter", "start_va", 6290, 0),
)


@pytest.mark.parametrize(("slug", "key", "expected", "digits"), WORKED)
def test_the_worked_examples_stand_to_the_digits_shown(slug: str, key: str, expected: float, digits: int) -> None:
    found = {result.key: value.value for result, value in answer(CALCULATIONS[slug], {}).values}
    assert round(found[key], digits) == expected


def test_half_a_second_of_reading_in_a_minute_is_half_a_hertz() -> None:
    (result, value) = answer(CALCULATIONS["clock-method"], {"true_s": "60 ± 0"}).values[0]
    assert result.key == "hz"
    assert value.u == pytest.approx(0.5)


def test_the_uncertainty_of_a_product_is_the_root_of_the_squares() -> None:
    values = answer(CALCULATIONS["lead-drop"], {"length_m": "20 ± 3%", "amps": "10 ± 4%"}).values
    drop = next(value for result, value in values if result.key == "drop_v")
    assert drop.u == pytest.approx(drop.value * 0.05, rel=1e-3)


@given(st.floats(-1e5, 1e5).map(lambda x: round(x, 3)), st.integers(0, 3))
def test_a_figure_is_unknown_by_half_its_last_digit(x: float, digits: int) -> None:
    text = f"{x:.{digits}f}"
    found = read_input(text.replace(".", ","), "x")
    assert found.value == pytest.approx(float(text))
    assert found.u == pytest.approx(0.5 * 10**-digits)
    assert read_input(text, "x", exact=True).u == 0


@pytest.mark.parametrize(
    ("text", "value", "u"),
    [
        ("12.4 ± 0.2", 12.4, 0.2),
        ("12,4±0,2", 12.4, 0.2),
        ("230 ±1%", 230, 2.3),
        ("-6 +/- 0.5", -6, 0.5),
        ("12.4 +-0.2 A", 12.4, 0.2),
        ("−5", -5, 0.5),
        ("13 A", 13, 0.5),
        (".5", 0.5, 0.05),
    ],
)
def test_a_figure_may_say_what_is_not_known_of_it(text: str, value: float, u: float) -> None:
    found = read_input(text, "x")
    assert (found.value, found.u) == (pytest.approx(value), pytest.approx(u))


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("49.2 ft", "m", 14.99616),
        ("15 m", "m", 15),
        ("68 °F", "°C", 20),
        ("20C", "°C", 20),
        ("0.5 gal/h", "L/h", 1.892705892),
        ("1.5 kW", "W", 1500),
        ("3 ± 0.5 ft", "m", 0.9144),
    ],
)
def test_a_figure_may_be_typed_in_another_unit_of_the_same_thing(text: str, unit: str, value: float) -> None:
    assert read_input(text, "x", unit=unit).value == pytest.approx(value)


@pytest.mark.parametrize(("text", "unit"), [("49 stone", "m"), ("13 V", "A"), ("5 h", "m"), ("20 K", "°C")])
def test_a_unit_of_something_else_is_refused_and_never_left_out(text: str, unit: str) -> None:
    with pytest.raises(MusterError, match="x: got"):
        read_input(text, "x", unit=unit)


@pytest.mark.parametrize("text", ["", "x", "12..4", "± 3", "1 2", "nan", "1e5"])
def test_what_is_no_figure_is_told_with_its_name(text: str) -> None:
    with pytest.raises(MusterError, match="x: got"):
        read_input(text, "x")


def test_several_figures_stand_with_blanks_between() -> None:
    assert [one.value for one in read_many("9.0 17; 28,5", "x")] == [9, 17, 28.5]
    with pytest.raises(MusterError, match="nothing given"):
        read_many("  ", "x")


@given(st.text(max_size=12), st.sampled_from(sorted(CALCULATIONS)), st.data())
def test_whatever_is_typed_a_sum_answers_or_says_one_thing(text: str, slug: str, data: st.DataObject) -> None:
    asked = data.draw(st.sampled_from(CALCULATIONS[slug].inputs))
    typed = data.draw(st.sampled_from([text, "0", "-1", "1", "99999999", "0.0001", "-0.5 ± 3"]))
    try:
        found = answer(CALCULATIONS[slug], {asked.name: typed})
    except MusterError as error:
        said = str(error)
    else:
        said = found.result.sentence
        assert all(math.isfinite(value.value) for _, value in found.values)
    assert said
