"""How long an endurance run or a recharge should take, by what is claimed."""

from __future__ import annotations

from dataclasses import dataclass

from ..brief import Home
from ..loads import Tier, in_weather
from ..quantities import number, plain
from ..sources import Source, fuel_use
from ..working import Working

CHARGE_SHARE = 0.90
"""Of what the wall gives a charger, the share that is stored (planning figure)."""


@dataclass(frozen=True)
class TestDuration:
    """Seconds a long test should take, and the working behind it."""

    seconds: float
    working: Working


def mean_w(home: Home) -> float:
    """What the must loads draw on the mean of a day [W], at the site's weather."""
    sited = (in_weather(load, home.brief.site.temp_c, home.brief.room_c) for load in home.within(Tier.MUST))
    return sum(load.day_wh for load in sited if load is not None) / 24


def estimate(protocol: str, home: Home, source: Source) -> TestDuration | None:
    """How long an endurance run on the must loads, or a recharge, should take; None where the claims do not say."""
    if protocol == "recharge":
        return _recharge(source)
    if protocol != "endurance":
        return None
    return _on_fuel(home, source) if source.kind.has_engine else _on_battery(home, source)


def _on_battery(home: Home, source: Source) -> TestDuration | None:
    claims, load_w = source.claims, mean_w(home)
    drawn_w = load_w + (claims.idle_w or 0.0)
    if claims.battery_wh is None or drawn_w <= 0:
        return None
    usable = (claims.usable_pct or 100.0) / 100
    hours = claims.battery_wh * usable / drawn_w
    put_in = f"{number(claims.battery_wh)} Wh × {usable:.0%} ÷ ({number(load_w)} + {number(claims.idle_w or 0)} W)"
    return TestDuration(
        hours * 3600,
        Working("hours = capacity × usable share ÷ (mean of the must loads + idle)", put_in, plain(hours, "h")),
    )


def _on_fuel(home: Home, source: Source) -> TestDuration | None:
    use, load_w = fuel_use(source.claims), mean_w(home)
    if use is None or source.claims.tank_l is None or use.lph(load_w) <= 0:
        return None
    hours = source.claims.tank_l / use.lph(load_w)
    put_in = f"{plain(source.claims.tank_l, 'l')} ÷ {plain(use.lph(load_w), 'lph')} at {plain(load_w, 'w')}"
    return TestDuration(
        hours * 3600, Working("hours = tank ÷ litres an hour at the mean of the must loads", put_in, plain(hours, "h"))
    )


def _recharge(source: Source) -> TestDuration | None:
    claims = source.claims
    if claims.battery_wh is None or claims.charge_w is None:
        return None
    usable = (claims.usable_pct or 100.0) / 100
    hours = claims.battery_wh * usable / (CHARGE_SHARE * claims.charge_w)
    put_in = f"{number(claims.battery_wh)} Wh × {usable:.0%} ÷ ({CHARGE_SHARE:.0%} × {number(claims.charge_w)} W)"
    return TestDuration(
        hours * 3600, Working("hours = usable capacity ÷ (share stored × charger's watts)", put_in, plain(hours, "h"))
    )
