"""Derating, limits, sound."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.errors import NotEnoughReadings, OutOfRange
from muster.core.fits import fit_line
from muster.core.quantities import Bound, Grade
from muster.core.sources import Claims, Site, Source, SourceKind, derate, fuel_use
from muster.core.sources.limits import binding, limits_of
from muster.core.supply import Leg
from muster.core.trade.sound import at_distance, fit_distance, less_background, sum_of_levels

from ..build import SINGLE, SPLIT, set_of


def test_altitude_heat_and_fuel_multiply() -> None:
    left = derate(SourceKind.OPEN_FRAME, "propane", Site(600, 36)).share
    assert left == pytest.approx(0.965**2 * (1 - 0.02) * 0.9)


def test_cold_and_low_sites_lose_nothing() -> None:
    assert derate(SourceKind.INVERTER_SET, "petrol", Site(-20, -5)).share == 1


def test_a_battery_does_not_mind_the_altitude() -> None:
    assert derate(SourceKind.STATION, "petrol", Site(3000, 40)).share == 1


def test_without_a_claim_for_the_legs_each_has_half() -> None:
    limits = limits_of(set_of(5000, surge_w=6000, surge_s=5), SPLIT, Site())
    leg = binding(limits, Leg.TWO)
    assert leg is not None
    assert leg.w == 2500
    surge = binding(limits, Leg.ONE, surge=True)
    assert surge is not None
    assert (surge.w, surge.hold_s) == (3000, 5)


def test_a_breaker_binds_when_it_is_lower_than_the_claim() -> None:
    limits = limits_of(set_of(5000, breaker_a=16), SINGLE, Site())
    lowest = binding(limits, Leg.ONE)
    assert lowest is not None
    assert lowest.w == 16 * 230


def test_a_surge_below_the_continuous_claim_is_a_slip() -> None:
    with pytest.raises(OutOfRange, match="surge_w"):
        Claims(cont_w=5000, surge_w=4000)


def test_fuel_is_a_line_through_half_and_full_load() -> None:
    use = fuel_use(Claims(cont_w=5000, half_load_lph=1.9, full_load_lph=3.2))
    assert use is not None
    assert use.lph(2500) == pytest.approx(1.9)
    assert use.lph(0) == pytest.approx(0.6)
    assert fuel_use(Claims(cont_w=5000, half_load_lph=1.9)) is None


def test_a_source_is_described_by_kind() -> None:
    station = Source("box", SourceKind.STATION, Claims(cont_w=2000, battery_wh=2048))
    assert station.kind.has_battery


# Sound


def test_background_within_ten_decibels_is_taken_off() -> None:
    assert less_background(52, 46).dba == pytest.approx(50.7, abs=0.05)


def test_background_far_below_changes_nothing() -> None:
    assert less_background(60, 45).dba == 60


def test_background_too_close_leaves_an_upper_bound() -> None:
    assert less_background(47, 45).bound is Bound.AT_MOST


def test_level_falls_twenty_decibels_a_decade_in_the_open() -> None:
    assert at_distance(66, 7, 23) == pytest.approx(55.7, abs=0.05)


def test_two_units_sum_by_energy() -> None:
    assert sum_of_levels([63, 60]) == pytest.approx(64.8, abs=0.05)
    with pytest.raises(NotEnoughReadings):
        sum_of_levels([])


@given(st.floats(5, 25), st.floats(60, 110))
def test_a_walk_without_scatter_gives_its_decay_back(n: float, at_1m: float) -> None:
    metres = [1, 4, 7, 23]
    line = fit_distance(metres, [at_distance(at_1m, 1, r, n) for r in metres])
    assert -line.b == pytest.approx(n)
    assert line.a == pytest.approx(at_1m)


# Lines


def test_a_line_through_two_points_has_no_band() -> None:
    line = fit_line([0, 100], [120, 118])
    assert line.band(50) is None
    assert line.at(50) == pytest.approx(119)


def test_the_band_of_four_points_by_hand() -> None:
    """x 0 1 2 3, y 0 1 1 2: b 0.6, a 0.1, s² 0.1; half-width at the mean 4.303 · sqrt(0.1 / 4)."""
    line = fit_line([0, 1, 2, 3], [0, 1, 1, 2])
    assert (line.a, line.b) == (pytest.approx(0.1), pytest.approx(0.6))
    assert line.band(1.5) == pytest.approx(4.3027 * (0.1 / 4) ** 0.5, rel=1e-4)


def test_a_line_needs_two_loads() -> None:
    with pytest.raises(NotEnoughReadings, match="two loads"):
        fit_line([100, 100], [118, 119])


def test_a_claim_says_what_it_rests_on_and_what_is_left_of_it() -> None:
    limits = limits_of(set_of(5000, surge_w=6000, surge_s=10), SINGLE, Site(1500, 20))
    assert limits[0].basis.replace("\u202f", " ") == "nameplate, 83.7 % left here"
    assert "10" in limits[1].basis
    assert all(limit.grade is Grade.C for limit in limits)


def test_a_claim_per_leg_is_taken_before_half_the_nameplate() -> None:
    limits = limits_of(set_of(5000, per_leg_w=3000), SPLIT, Site())
    leg = binding(limits, Leg.ONE)
    assert leg is not None
    assert (leg.w, leg.basis) == (3000, "nameplate, each leg")
    assert binding(limits, Leg.ONE, surge=True) is leg
