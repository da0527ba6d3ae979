"""SI inside; on screen as the job and what was typed have it."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.brief import Brief
from muster.core.errors import UnknownChoice
from muster.core.measures import METRIC, OTHERWISE, US, Measures, showing_in, typed_measures
from muster.core.quantities import Value, plain, unit_word
from muster.core.supply import SYSTEMS
from muster.core.trade.leads import AMPACITY, Laid, lead_choices

SCALES = [scale for units in OTHERWISE.values() for scale in units.values()]


@given(st.sampled_from(SCALES), st.integers(-4000, 400_000))
def test_a_typed_figure_comes_back_as_it_was_typed(scale, hundredths: int) -> None:  # type: ignore[no-untyped-def]
    typed = hundredths / 100
    assert round(scale.shown(scale.si(typed)), 4) == typed


@given(st.sampled_from(SCALES), st.integers(-400, 100_000))
def test_a_figure_in_si_that_is_shown_and_saved_again_does_not_move(scale, tenths: int) -> None:  # type: ignore[no-untyped-def]
    si = tenths / 10
    assert scale.si(round(scale.shown(si), 4)) == si


@pytest.mark.parametrize(
    ("si", "unit", "metric", "us"),
    [
        (24.9936, "m", "25 m", "82 ft"),
        (20.0, "c", "20 °C", "68 °F"),
        (-40.0, "c", "−40 °C", "−40 °F"),
        (10.0, "k", "10 K", "18 °F"),
        (11.356, "l", "11.4 L", "3 gal"),
        (1.0, "lph", "1 L/h", "0.264 gal/h"),
        (25.0, "kg", "25 kg", "55.1 lb"),
        (230.0, "v", "230.0 V", "230.0 V"),
    ],
)
def test_each_thing_is_shown_in_the_units_chosen(si: float, unit: str, metric: str, us: str) -> None:
    assert plain(si, unit).replace("\u202f", " ") == metric
    with showing_in(US):
        assert plain(si, unit).replace("\u202f", " ") == us
    assert unit_word("m") == "m"


def test_a_half_width_is_scaled_and_not_moved() -> None:
    with showing_in(US):
        assert str(Value(60.0, "c", 2.0)).replace("\u202f", " ") == "140 ± 3.6 °F"


def test_units_go_by_what_was_chosen_then_typed_then_by_the_supply() -> None:
    assert Brief(system=SYSTEMS["single-230-50"]).shown_in == METRIC
    assert Brief(system=SYSTEMS["split-120-240-60"]).shown_in == US
    shown = Brief(system=SYSTEMS["single-230-50"], measures=Measures(length="ft")).shown_in
    assert (shown.length, shown.temperature) == ("ft", "c")
    with pytest.raises(UnknownChoice, match="m or ft"):
        Measures(length="yards")


@pytest.mark.parametrize(
    ("text", "measures"),
    [
        ("72db@20ft", Measures(length="ft")),
        ("72 dba at 7 m", Measures(length="m")),
        ("3.1kw held 5 m", Measures()),
        ("54 C case", Measures(temperature="c")),
        ("case 130F", Measures(temperature="f")),
        ("0.8 gal used, 64f", Measures(volume="gal", temperature="f")),
        ("0.8l fuel", Measures(volume="l")),
        ("12 awg cord, 55 lb", Measures(wire="awg", mass="lb")),
        ("2x35mm2 leads", Measures(wire="mm2")),
        ("120v 60hz 12.4a 2.9kw", Measures()),
    ],
)
def test_what_a_line_was_typed_in(text: str, measures: Measures) -> None:
    assert typed_measures(text) == measures


def test_leads_are_offered_in_the_gauge_of_the_job_first() -> None:
    with showing_in(US):
        assert "AWG" in lead_choices()[0][1]
    with showing_in(METRIC):
        assert "mm²" in lead_choices()[0][1]
    with showing_in(US):
        assert {name for name, _ in lead_choices()} == {f"{laid.value}:{s}" for laid in Laid for s in AMPACITY[laid]}
