"""The chain of limits: each from what it rests on, the lowest named for every question."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.sources import Claims, Site, Source, SourceKind, Wires
from muster.core.sources.limits import binding, binding_words, drawn, limits_of
from muster.core.stacking.what_if import what_if
from muster.core.supply import Leg

from ..build import SINGLE, SPLIT, load, set_of

HERE = Site(0, 20)
HYBRID = Source(
    "hybrid",
    SourceKind.HYBRID,
    Claims(6000, surge_w=12000, surge_s=5, battery_only_w=5000, battery_a=120, battery_low_v=48, conversion_pct=90),
    wires=Wires(dc_lead="wall_75:1/0", dc_lead_m=1.2, dc_fuse_a=175),
)


def by_key(source: Source = HYBRID, **how: bool) -> dict[str, float]:
    return {limit.key: limit.w for limit in limits_of(source, SINGLE, HERE, **how) if limit.leg in (None, Leg.ONE)}


def test_the_battery_side_is_counted_at_its_lowest_volts() -> None:
    found = by_key()
    assert found["battery"] == pytest.approx(120 * 48 * 0.9)
    assert found["dc_fuse"] == pytest.approx(175 * 48 * 0.9)
    assert found["dc_lead"] == pytest.approx(150 * 48 * 0.9)


def test_without_sun_a_hybrid_has_its_battery_alone() -> None:
    assert by_key()["battery_only"] == 5000
    assert "battery_only" not in by_key(sun=True)
    at_night = binding(limits_of(HYBRID, SINGLE, HERE), None)
    by_day = binding(limits_of(HYBRID, SINGLE, HERE, sun=True), None)
    assert (at_night and at_night.key, by_day and by_day.key) == ("battery_only", "battery")


def test_a_battery_protection_binds_a_start_too_and_a_lead_does_not() -> None:
    limits = limits_of(HYBRID, SINGLE, HERE, sun=True)
    start = binding(limits, None, surge=True)
    assert start is not None
    assert start.key == "battery"
    thin = set_of(5000, surge_w=9000)
    wired = limits_of(replace(thin, wires=Wires(lead="cord_mm2:1.5", lead_m=5)), SINGLE, HERE)
    steady, start = binding(wired, Leg.ONE), binding(wired, Leg.ONE, surge=True)
    assert steady is not None
    assert steady.key == "lead"
    assert start is None


def test_an_inlet_a_lead_and_a_breaker_bind_each_leg() -> None:
    wired = replace(set_of(7200, breaker_a=30), wires=Wires(inlet_a=20, lead="cord_awg:12", lead_m=8))
    for leg in (Leg.ONE, Leg.TWO):
        lowest = binding(limits_of(wired, SPLIT, HERE), leg)
        assert lowest is not None
        assert (lowest.key, lowest.w) == ("inlet", 2400)


def test_what_binds_first_is_said_in_words() -> None:
    said = binding_words(limits_of(HYBRID, SINGLE, HERE), SINGLE)
    assert (
        said[0].replace("\u202f", " ")
        == "Steady 5 000 W, by the battery alone claim; a start 5 184 W, by the battery protection."
    )
    assert len(binding_words(limits_of(HYBRID, SPLIT, HERE), SPLIT)) == 3


def test_a_start_over_the_battery_protection_does_not_fit_now() -> None:
    pump = load("1", "pump", "motor", 900, pf=0.8)
    limits = limits_of(HYBRID, SINGLE, HERE, sun=True)
    assert what_if(pump, [], limits, SINGLE).answer == "never"
    assert what_if(replace(pump, run_w=500), [], limits, SINGLE).answer == "fits"


@given(st.floats(100, 9000), st.floats(100, 400), st.floats(10, 60), st.booleans())
def test_the_one_that_binds_is_the_lowest_and_is_drawn(
    cont: float, battery_a: float, breaker_a: float, sun: bool
) -> None:
    source = Source(
        "x",
        SourceKind.HYBRID,
        Claims(cont, battery_a=battery_a, battery_low_v=48, breaker_a=breaker_a, battery_only_w=cont * 0.8),
    )
    limits = limits_of(source, SINGLE, HERE, sun=sun)
    for place in (None, Leg.ONE):
        lowest = binding(limits, place)
        here = [limit.w for limit in limits if limit.leg == place and limit.hold_s is None]
        assert (lowest.w if lowest else None) == (min(here) if here else None)
        assert lowest is None or lowest in drawn(limits)


@pytest.mark.parametrize("wires", [{"lead": "rope:3"}, {"lead": "cord_mm2:3"}, {"inlet_a": 0}, {"dc_fuse_a": -5}])
def test_wires_that_cannot_be_are_refused(wires: dict[str, object]) -> None:
    with pytest.raises(MusterError):
        Wires(**wires)  # type: ignore[arg-type]
