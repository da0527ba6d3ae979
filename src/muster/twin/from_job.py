"""A bench twin of a job's own source and loads, from its claims: the source as its nameplate has it."""

from __future__ import annotations

from dataclasses import replace

from muster.core.brief import Home
from muster.core.loads import Wave
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import System

from .battery import Battery, BatteryClaims
from .bench import Bench, Faults
from .engine import Engine, EngineClaims
from .inverter import Inverter, InverterClaims
from .pair import TwinPair
from .sets import EnginePair

HALF, FULL = 0.5, 1.0
EMPTY_SHARE, FULL_SHARE = 0.94, 1.09
"""Open-circuit volts of a lithium battery empty and full, as shares of its nominal volts (16 cells: 48 V and 55.8 V of 51.2 V)."""
BATTERY_OHM_WH = 120.0
"""Inner resistance of a 51.2 V battery times its watt-hours: 12 mΩ at 10 kWh."""
CHARGE_AT_START = 0.86
ONE_METRE_FROM_SEVEN_DB = 16.9
"""20·log10(7): what a source claims at 7 m is so much louder at 1 m, in the open."""
LEAST_LIMIT_X = 1.2
RISE_AT_RATING_K = 38.0
"""An inverter that is what its nameplate says holds its rating for ever: so much warmer than the air."""


def bench_of(home: Home, source: Source, seed: int = 1911, faults: Faults | None = None) -> Bench:
    """The home's loads on the source, as its claims describe it; what they leave open is the twin's own default."""
    system = home.brief.system
    return Bench(source=_source(source, system), system=system, loads=home.loads, faults=faults or Faults(), seed=seed)


def _source(source: Source, system: System) -> Engine | Inverter | TwinPair | EnginePair:
    if source.kind is SourceKind.OPEN_FRAME and len(source.units) == 2:
        sets = (replace(source.claims, cont_w=u.cont_w, surge_w=u.surge_w, breaker_a=None) for u in source.units)
        item, other = (Engine(claims=_engine(claims, system)) for claims in sets)
        return EnginePair(item, other)
    if source.kind is SourceKind.OPEN_FRAME:
        return Engine(claims=_engine(source.claims, system))
    if source.kind is SourceKind.INVERTER_SET and len(source.units) == 2:
        first, second = (
            Inverter(claims=_inverter(source.claims, system, unit.cont_w, unit.surge_w, engine=True))
            for unit in source.units
        )
        return TwinPair(first, second)
    engine = source.kind is SourceKind.INVERTER_SET
    inverter = _inverter(source.claims, system, source.claims.cont_w, source.claims.surge_w, engine=engine)
    return Inverter(claims=inverter, battery=None if engine else _battery(source.claims))


def _fuel(claims: Claims, cont_w: float) -> tuple[float, float] | None:
    """Litres an hour at idle, and more for each watt, through half and full load; None where the booklet is silent."""
    if claims.half_load_lph is None or claims.full_load_lph is None:
        return None
    per_w = (claims.full_load_lph - claims.half_load_lph) / (cont_w * (FULL - HALF))
    return max(0.0, claims.half_load_lph - per_w * cont_w * HALF), per_w


def _engine(claims: Claims, system: System) -> EngineClaims:
    given: dict[str, float] = {}
    if claims.surge_w is not None:
        given["surge_x"] = claims.surge_w / claims.cont_w
    if claims.breaker_a is not None:
        given["breaker_a"] = claims.breaker_a
    if claims.tank_l is not None:
        given["tank_l"] = claims.tank_l
    if fuel := _fuel(claims, claims.cont_w):
        given["idle_lph"], given["lph_per_w"] = fuel
    if claims.noise_dba_7m is not None:
        given["dba_1m"] = claims.noise_dba_7m + ONE_METRE_FROM_SEVEN_DB
    return EngineClaims(cont_w=claims.cont_w, v_nominal=system.v_nominal, hz=system.hz, legs=system.legs, **given)


def _inverter(claims: Claims, system: System, cont_w: float, surge_w: float | None, *, engine: bool) -> InverterClaims:
    given: dict[str, float] = {"limit_x": max(LEAST_LIMIT_X, (surge_w or 1.5 * cont_w) / cont_w)}
    if surge_w and claims.surge_s and surge_w > cont_w:
        given["k_s"] = claims.surge_s * (surge_w / cont_w - 1) ** InverterClaims.n
    if claims.idle_w is not None:
        given["p0_w"] = claims.idle_w
    if system.legs == 2 and claims.per_leg_w is not None:
        given["leg_w"] = claims.per_leg_w * cont_w / claims.cont_w
    lost_w = given.get("p0_w", InverterClaims.p0_w) + InverterClaims.p1 * cont_w + InverterClaims.p2_per_w * cont_w**2
    given["heat_k_per_w"] = RISE_AT_RATING_K / lost_w
    if claims.noise_dba_7m is not None:
        given["dba_1m"] = claims.noise_dba_7m + ONE_METRE_FROM_SEVEN_DB - (8.0 if engine else 0.0)
    if engine:
        given |= {"engine_w": cont_w * 1.1, "tank_l": claims.tank_l or 10.0}
        if fuel := _fuel(claims, claims.cont_w):
            given["idle_lph"], given["lph_per_w"] = fuel
    return InverterClaims(cont_w=cont_w, v_nominal=system.v_nominal, hz=system.hz, legs=system.legs, **given)


def _battery(claims: Claims) -> Battery:
    wh = claims.battery_wh or 2.0 * claims.cont_w
    nominal_v = 51.2 if wh > 3000 else 25.6 if claims.wave is Wave.SINE else 12.8
    ohm = BATTERY_OHM_WH / wh * (nominal_v / 51.2) ** 2
    given = {} if claims.battery_a is None else {"protect_a": claims.battery_a}
    return Battery(
        BatteryClaims(wh=wh, empty_v=EMPTY_SHARE * nominal_v, full_v=FULL_SHARE * nominal_v, ohm=ohm, **given),
        CHARGE_AT_START,
    )
