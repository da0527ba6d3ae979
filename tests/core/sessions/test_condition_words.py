"""The conditions of a test, said in a few words and said again."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.sessions import Conditions
from muster.core.sessions.condition_words import FUELS, read_conditions, say_conditions


@pytest.mark.parametrize(
    ("words", "wanted", "left"),
    [
        ("at sea level on petrol, 10 °C", Conditions(10.0, 0.0, "petrol"), ""),
        ("14 nov, on propane, 8200 ft up, 50F", Conditions(10.0, 2499.36, "propane"), "14 nov"),
        ("warm, eco idle on, altitude 650 m", Conditions(None, 650.0, "", warm=True, eco=True), ""),
        ("cold start at −4 °C", Conditions(-4.0), "at"),
        ("the big heater", Conditions(), "the big heater"),
        ("at 90000 m up", Conditions(), "at 90000 m up"),
    ],
)
def test_conditions_are_read_and_what_is_of_something_else_is_left(words: str, wanted: Conditions, left: str) -> None:
    conditions, besides = read_conditions(words)
    assert conditions.temp_c == (None if wanted.temp_c is None else pytest.approx(wanted.temp_c))
    assert conditions.altitude_m == (None if wanted.altitude_m is None else pytest.approx(wanted.altitude_m))
    assert (conditions.fuel, conditions.warm, conditions.eco) == (wanted.fuel, wanted.warm, wanted.eco)
    assert besides == left


CONDITIONS = st.builds(
    Conditions,
    st.none() | st.integers(-40, 50).map(float),
    st.none() | st.integers(-300, 5000).map(float),
    st.sampled_from(["", *FUELS]),
    st.booleans(),
    st.booleans(),
)


@given(CONDITIONS)
def test_what_is_said_reads_the_same(conditions: Conditions) -> None:
    assert read_conditions(say_conditions(conditions)) == (conditions, "")
