"""The kit: what an instrument reads, how truly, and what it must have missed."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.findings import findings_of
from muster.core.kit import (
    AVERAGE_ON_STEPPED_PCT,
    USUAL_KIT,
    Instrument,
    Kit,
    Measure,
    bound_of,
    sees_whole,
    sure_held_s,
)
from muster.core.loads import Wave
from muster.core.quantities import Bound, Grade
from muster.core.sessions import Reading
from muster.core.sessions.log_line import read_line

from ..build import SINGLE, load, session

KIT = Kit()
PUMP = load("1", "sump pump", "motor", 380, pf=0.7)


# What a meter can see (docs/method/events.md)


def test_a_meter_slower_than_the_dip_may_miss_it_whole() -> None:
    assert sure_held_s(window_s=0.2, refresh_s=1, event_s=0.5) == 0


def test_a_meter_slower_than_the_dip_gives_a_bound() -> None:
    slow = KIT.instrument_for("v", "meter")
    assert bound_of(slow, 0.4, lowest=True) is Bound.AT_MOST
    assert bound_of(slow, 0.4, lowest=False) is Bound.AT_LEAST


def test_a_fast_hold_sees_the_dip_whole() -> None:
    assert bound_of(KIT.instrument_for("v", "multimeter"), 0.4, lowest=True) is None


def test_an_event_of_unknown_length_is_never_surely_seen() -> None:
    assert not sees_whole(KIT.instrument_for("v", "scope"), None)


@given(st.floats(0.01, 5), st.floats(0.01, 5), st.floats(0, 20))
def test_a_window_holds_all_it_can_once_the_event_outlasts_window_and_refresh(
    window: float, refresh: float, event: float
) -> None:
    held = sure_held_s(window, refresh, event)
    assert 0 <= held <= min(window, event) + 1e-9
    if event >= window + refresh:
        assert held == pytest.approx(window)


@given(st.floats(0.05, 2), st.floats(0.05, 2), st.floats(0.01, 3), st.integers(0, 40))
def test_no_placing_of_the_event_gives_the_best_window_less_than_the_formula(
    window: float, refresh: float, event: float, place: int
) -> None:
    """Slide the event over one refresh: the fullest window never holds less than was promised."""
    start = refresh * place / 40
    best = max(min(k * refresh, start + event) - max(k * refresh - window, start) for k in range(-40, 120))
    assert max(0.0, best) >= sure_held_s(window, refresh, event) - 1e-6


def test_uncertainty_is_of_reading_and_of_the_last_digit() -> None:
    assert Measure("v", 0, 300, accuracy_pct=1).u(200, 0.1) == pytest.approx(2.05)


# Which instrument a reading is from


def test_every_reading_names_its_instrument_the_usual_one_when_nobody_says() -> None:
    items = read_line("118v 31a 72db dc 51.2v 63a 41c", {}, SINGLE).items
    named = {item.measured: item.instrument for item in items if isinstance(item, Reading)}
    assert named == {
        "v": "meter",
        "a": "meter",
        "dba": "sound",
        "dc_v": "multimeter",
        "dc_a": "clamp",
        "temp_c": "thermometer",
    }


def test_the_order_of_the_kit_decides_whose_reading_it_is() -> None:
    mine = Instrument("bench", "bench meter", (Measure("v", 0, 300, 0.1),))
    items = read_line("231v", {}, SINGLE, kit=Kit((mine, *USUAL_KIT))).items
    assert isinstance(items[0], Reading)
    assert items[0].instrument == "bench"


def test_an_instrument_named_but_not_described_is_a_stranger_and_less_sure() -> None:
    stranger = KIT.instrument_for("v", "borrowed")
    assert "not in the kit" in stranger.name
    assert KIT.u("v", "borrowed", 230) > KIT.u("v", "meter", 230)


def test_a_better_meter_makes_a_narrower_regulation() -> None:
    lines = [(0, "231v 0w"), (50, "!step"), (60, "226v 1000w"), (100, "!step"), (120, "221v 2000w")]
    plain = session([(t, text if text[0] == "!" else f"@meter {text}") for t, text in lines], (PUMP,), SINGLE)
    fine = Instrument("meter", "reference meter", (Measure("v", 0, 300, 0.05), Measure("w", 0, 9000, 0.1)))
    u = [findings_of(replace(plain, kit=kit), {"1": PUMP}, SINGLE, 20).regulation[0].u_reading for kit in ((), (fine,))]
    assert u[1] < u[0] / 4


def test_a_hold_of_the_meters_own_sees_what_its_display_would_miss() -> None:
    """The same refresh and window: only the one that holds by itself between refreshes sees a 0.4 s start whole."""
    shown = Instrument("m", "meter", (Measure("v", 0, 300, 1),), 1.0, 0.1)
    holding = replace(shown, max_hold=True)
    assert bound_of(shown, 0.4, lowest=True) is Bound.AT_MOST
    assert bound_of(holding, 0.4, lowest=True) is None


def test_an_average_responding_meter_on_a_stepped_wave_reads_nine_percent_low() -> None:
    """Three levels with 2/3 conduction: RMS √(2/3), average 2/3, read as a sine by π/2√2."""
    reads = (math.pi / (2 * math.sqrt(2))) * (2 / 3)
    assert (1 - reads / math.sqrt(2 / 3)) * 100 == pytest.approx(AVERAGE_ON_STEPPED_PCT, abs=0.05)
    cheap = Instrument("cheap", "cheap meter", (Measure("v", 0, 300, 1),), 0.1, 0.1, max_hold=True, true_rms=False)
    sine, stepped = Kit((cheap,), Wave.SINE), Kit((cheap,), Wave.STEPPED)
    assert stepped.u("v", "cheap", 200) == pytest.approx(sine.u("v", "cheap", 200) + 18.6)


def test_a_start_read_by_an_average_responding_meter_on_a_stepped_wave_is_grade_b() -> None:
    cheap = Instrument(
        "multimeter",
        "cheap meter",
        (Measure("v", 0, 300, 1), Measure("w", 0, 9000)),
        0.1,
        0.1,
        max_hold=True,
        true_rms=False,
    )
    run = session(
        [(5, "sump pump start @multimeter 225v before 201v min 224v settled !held")], (PUMP,), SINGLE, "starts"
    )
    run = replace(run, kit=(cheap,))
    grades = [
        findings_of(run, {"1": PUMP}, SINGLE, 20, wave).starts[0].lowest.grade  # type: ignore[union-attr]
        for wave in (Wave.SINE, Wave.STEPPED)
    ]
    assert grades == [Grade.A, Grade.B]


@pytest.mark.parametrize(
    ("change", "where"),
    [
        ({"slug": "Two Words"}, "slug"),
        ({"name": " "}, "name"),
        ({"refresh_s": 0}, "refresh_s"),
        ({"window_s": -1}, "window_s"),
        ({"crest": 0.5}, "crest"),
        ({"safe_a": -1}, "safe_a"),
    ],
)
def test_an_instrument_that_cannot_be_is_refused_where_it_is_wrong(change: dict[str, object], where: str) -> None:
    with pytest.raises(MusterError) as wrong:
        replace(USUAL_KIT[0], **change)  # type: ignore[arg-type]
    assert wrong.value.where == where


def test_a_measure_that_cannot_be_is_refused() -> None:
    for quantity, low, high in (("colour", 0, 1), ("v", 300, 0)):
        with pytest.raises(MusterError):
            Measure(quantity, low, high)
