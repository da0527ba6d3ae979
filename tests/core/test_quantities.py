"""Values are written as the trade reads them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.quantities import MINUS, THIN, Bound, Grade, Value, duration, number, plain, signed, worst_grade


@pytest.mark.parametrize(
    ("value", "unit", "written"),
    [
        (2750, "w", "2 750 W"),
        (12.444, "a", "12.4 A"),
        (238, "v", "238.0 V"),
        (59.64, "hz", "59.6 Hz"),
        (0.985, "lph", "0.985 L/h"),
        (72, "dba", "72.0 dBA"),
        (0.92, "pf", "0.92"),
        (0, "w", "0 W"),
        (-9.7, "dba", f"{MINUS}9.7 dBA"),
        (1234567, "wh", "1 234 567 Wh"),
    ],
)
def test_three_figures_a_thin_space_and_the_unit(value: float, unit: str, written: str) -> None:
    assert plain(value, unit) == written.replace(" ", THIN)


def test_a_margin_always_shows_its_sign() -> None:
    assert signed(19, "pct").startswith("+")
    assert signed(-0.004, "hz") == f"+0.0{THIN}Hz"


def test_a_bound_says_which_way_it_errs() -> None:
    assert str(Value(5400, "w", bound=Bound.AT_LEAST)).startswith("≥")
    assert str(Value(107, "v", bound=Bound.AT_MOST)).startswith("≤")


def test_uncertainty_is_written_with_the_value_and_one_unit() -> None:
    assert str(Value(114.4, "v", 0.965)) == f"114.4 ±{THIN}1.0{THIN}V"
    assert str(Value(4996, "w", 49.96)) == f"4{THIN}996 ±{THIN}50{THIN}W"


@pytest.mark.parametrize(
    ("seconds", "said"), [(41, "41 s"), (2.4, "2.4 s"), (720, "12 min"), (6000, "1 h 40 min"), (7200, "2 h")]
)
def test_durations_are_said_as_a_person_says_them(seconds: float, said: str) -> None:
    assert duration(seconds).replace(THIN, " ") == said


def test_a_chain_is_as_good_as_its_worst_link() -> None:
    assert worst_grade(Grade.A, Grade.C, Grade.B) is Grade.C


@given(st.floats(-1e7, 1e7, allow_nan=False))
def test_three_figures_are_never_off_by_more_than_half_a_percent(value: float) -> None:
    text = number(value).replace(THIN, "").replace(MINUS, "-")
    assert float(text) == pytest.approx(value, rel=5.1e-3, abs=5.1e-5)


@given(st.text(), st.text(), st.text())
def test_an_error_is_one_line_whatever_it_quotes(what: str, where: str, want: str) -> None:
    error = MusterError(f"got “{what}”", where=where, want=want)
    assert len(str(error).splitlines()) == 1
