"""Reference tables, each with where it comes from, against what the code does."""

from __future__ import annotations

import math

import pytest
from scipy.special import stdtrit

from muster.core.findings.holds_told import COUNTS_AS_HELD_S
from muster.core.fits import student_t
from muster.core.kit import sure_held_s
from muster.core.loads import COLD_PICKUP_X, KINDS, MICROWAVE_INPUT_PER_COOKING_W, THD_LIMIT_PCT, Wave
from muster.core.loads.kinds import MOTOR_HZ_PCT, MOTOR_V_PCT
from muster.core.sources import Site, SourceKind, derate
from muster.core.supply import SYSTEMS, neutral_a
from muster.core.trade.sound import at_distance, less_background, sum_of_levels
from muster.core.verdict.quality import dip_floor_pct

# ITIC envelope, lower side: (seconds, percent of nominal that must remain).
ITIC_LOWER = ((0.01, 0.0), (0.02, 0.0), (0.021, 70.0), (0.5, 70.0), (0.51, 80.0), (10.0, 80.0), (11.0, 90.0))


@pytest.mark.parametrize(("event_s", "floor_pct"), ITIC_LOWER)
def test_electronics_ride_through_as_the_itic_envelope_says(event_s: float, floor_pct: float) -> None:
    assert dip_floor_pct(event_s) == floor_pct


def test_motors_stand_what_nema_mg_1_says() -> None:
    assert (MOTOR_V_PCT, MOTOR_HZ_PCT) == (10, 5)


def test_thd_limits_are_those_of_the_standards() -> None:
    assert THD_LIMIT_PCT[Wave.ROUGH] == 8
    assert THD_LIMIT_PCT[Wave.SINE] == 5


# Makers' guidance: metres, °C, fuel, share of the claim left. Worked by hand.
DERATING = (
    (0, 25, "petrol", 1.0),
    (300, 25, "petrol", 0.965),
    (1500, 25, "petrol", 0.965**5),
    (0, 36, "petrol", 0.98),
    (0, 20, "propane", 0.90),
    (0, 20, "natural gas", 0.80),
    (1500, 36, "propane", 0.965**5 * 0.98 * 0.9),
)


@pytest.mark.parametrize(("altitude_m", "temp_c", "fuel", "share"), DERATING)
def test_engines_are_derated_as_guidance_says(altitude_m: float, temp_c: float, fuel: str, share: float) -> None:
    result = derate(SourceKind.OPEN_FRAME, fuel, Site(altitude_m, temp_c))
    assert result.share == pytest.approx(share)
    assert len(result.workings) == 4
    assert all(line.result for line in result.workings)


# Window W, refresh T, event d: seconds surely held (docs/method/events.md, worked by hand).
HELD = (
    (0.2, 1.0, 0.5, 0.0),
    (0.2, 1.0, 1.0, 0.1),
    (0.2, 1.0, 1.2, 0.2),
    (0.1, 0.1, 0.4, 0.1),
    (1.0, 1.0, 0.5, 0.25),
    (0.02, 0.01, 0.4, 0.02),
)


@pytest.mark.parametrize(("window_s", "refresh_s", "event_s", "held_s"), HELD)
def test_what_a_meter_surely_holds(window_s: float, refresh_s: float, event_s: float, held_s: float) -> None:
    assert sure_held_s(window_s, refresh_s, event_s) == pytest.approx(held_s)


@pytest.mark.parametrize(
    ("level", "background", "left"), [(52, 46, 50.7), (60, 50, 60), (53, 50, 50.0), (56, 50, 54.7), (50, 49, 50)]
)
def test_background_corrections(level: float, background: float, left: float) -> None:
    assert less_background(level, background).dba == pytest.approx(left, abs=0.06)


def test_worked_examples_of_sound() -> None:
    assert at_distance(66, 7, 23) == pytest.approx(55.67, abs=0.01)
    assert sum_of_levels([63, 60]) == pytest.approx(64.76, abs=0.01)
    assert sum_of_levels([60, 60]) == pytest.approx(63.01, abs=0.01)


@pytest.mark.parametrize(
    ("leg1_a", "leg2_a", "pf1", "pf2", "neutral"),
    [
        (20, 20, 1, 1, 0),
        (20, 5, 1, 1, 15),
        (20, 5, 0.8, 0.8, 15),
        (10, 10, 1, 0, math.nan),
        (10, 10, 1, 0.6, math.sqrt((10 - 6) ** 2 + 8**2)),
        (30, 0, 0.7, 1, 30),
    ],
)
def test_neutral_currents(leg1_a: float, leg2_a: float, pf1: float, pf2: float, neutral: float) -> None:
    if math.isnan(neutral):
        with pytest.raises(ValueError, match="pf"):
            neutral_a(leg1_a, leg2_a, pf1, pf2)
        return
    assert neutral_a(leg1_a, leg2_a, pf1, pf2) == pytest.approx(neutral, abs=1e-9)


def test_trade_constants_are_those_of_the_design() -> None:
    assert (COLD_PICKUP_X, MICROWAVE_INPUT_PER_COOKING_W, COUNTS_AS_HELD_S) == (3, 1.5, 600)
    assert {kind.floor_pct for kind in KINDS.values()} == {0, 70, 75, 85}


@pytest.mark.parametrize(
    ("slug", "v_nominal", "hz", "legs"),
    [("split-120-240-60", 120, 60, 2), ("single-120-60", 120, 60, 1), ("single-230-50", 230, 50, 1)],
)
def test_supply_systems(slug: str, v_nominal: float, hz: float, legs: int) -> None:
    system = SYSTEMS[slug]
    assert (system.v_nominal, system.hz, system.legs, len(system.leg_names)) == (v_nominal, hz, legs, legs)


@pytest.mark.parametrize("freedom", [*range(1, 60), 100, 1000, 10**6])
def test_students_t_is_the_librarys_to_four_decimals(freedom: int) -> None:
    assert student_t(freedom) == pytest.approx(stdtrit(freedom, 0.975), abs=1e-4)
