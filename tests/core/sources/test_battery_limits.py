"""What the battery's own protection lets through, for long and for a moment, at its lowest volts."""

from __future__ import annotations

import pytest

from muster.core.sources import Claims, Site, Source, SourceKind
from muster.core.sources.limits import Limit, limits_of
from tests.core.build import SINGLE


def limits(**claims: object) -> dict[str, Limit]:
    source = Source(name="it", kind=SourceKind.HYBRID, claims=Claims(cont_w=5000, conversion_pct=96, **claims))  # type: ignore[arg-type]
    return {limit.key: limit for limit in limits_of(source, SINGLE, Site())}


def test_amps_for_a_moment_bind_the_starts_in_the_place_of_those_for_long() -> None:
    """100 A for long and 200 A for 10 s at 51.2 V and 96 %: 4.9 kW and 9.8 kW."""
    found = limits(battery_a=100, battery_surge_a=200, battery_surge_s=10, battery_low_v=51.2)
    assert found["battery"].w == pytest.approx(4915, abs=1)
    assert not found["battery"].at_once
    assert (found["battery_surge"].w, found["battery_surge"].hold_s) == (pytest.approx(9830, abs=1), 10)


def test_amps_for_long_alone_trip_a_start_too() -> None:
    found = limits(battery_a=100, battery_low_v=48)
    assert found["battery"].at_once
    assert "battery_surge" not in found


def test_without_lowest_volts_those_on_the_battery_less_what_it_sags_are_reckoned_with() -> None:
    assert limits(battery_a=100, battery_v=51.2)["battery"].w == pytest.approx(100 * 51.2 * 0.85 * 0.96)
    assert "battery" not in limits(battery_a=100)
