"""What was measured, as it would be under the conditions of the brief."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..findings.holds import Held
from ..findings.starts import StartSeen
from ..quantities import plain
from ..sessions import Conditions
from ..sources import Site, Source, derate
from ..working import Working

LOWEST_M, HIGHEST_M, COLDEST_C, HOTTEST_C = -400.0, 6000.0, -50.0, 60.0
"""What a site may be: what an old file says beyond is taken as the nearest. [m], [°C]"""
LEAST = 0.005
"""A smaller difference is none."""


@dataclass(frozen=True)
class Correction:
    """By how much a power measured then is another here, and why; ``working`` is None where nothing differs."""

    factor: float = 1.0
    working: Working | None = None


def correction(source: Source, site: Site, conditions: Conditions) -> Correction:
    """What of a measured power is left under the conditions of the brief: altitude, heat and fuel, for engines alone.

    Parameters
    ----------
    source
        With the fuel that it is used on, and its ratings by fuel.
    site
        The brief's altitude and temperature.
    conditions
        Those of the test; what nobody said is as the brief has it.

    Returns
    -------
    Correction
        Above 1 where the brief is kinder than the test was.

    References
    ----------
    physics §10: by the same factors as a nameplate; a rating by fuel takes the place of the fuel's loss.
    """
    claims = source.claims
    height_m, air_c = conditions.altitude_m, conditions.temp_c
    then = Site(
        site.altitude_m if height_m is None else min(max(height_m, LOWEST_M), HIGHEST_M),
        site.temp_c if air_c is None else min(max(air_c, COLDEST_C), HOTTEST_C),
    )
    fuel_then = conditions.fuel or claims.fuel
    rated = {rating.fuel: rating.cont_w for rating in claims.on_fuels}
    if claims.fuel in rated and fuel_then in rated:
        by_fuel, fuels = rated[claims.fuel] / rated[fuel_then], ("", "")
    else:
        by_fuel, fuels = 1.0, (claims.fuel, fuel_then)
    here, there = derate(source.kind, fuels[0], site), derate(source.kind, fuels[1], then)
    factor = by_fuel * here.share / there.share if source.kind.has_engine else 1.0
    if abs(factor - 1.0) < LEAST:
        return Correction()
    told = f"{plain(then.altitude_m, 'm')}, {plain(then.temp_c, 'c')}, {fuel_then}"
    now = f"{plain(site.altitude_m, 'm')}, {plain(site.temp_c, 'c')}, {claims.fuel}"
    return Correction(
        factor,
        Working(
            f"measured at {told}; asked for at {now}",
            "what is left here ÷ what was left there",
            f"× {factor:.3f}",
            "as a nameplate is derated",
        ),
    )


def corrected(held: Held, by: Correction) -> Held:
    """A level as it would be under the brief's conditions: a hold freely downward, upward as a figure beside it, a trip both ways.

    Parameters
    ----------
    held
        A level as it was measured.
    by
        What its session's conditions come to here.

    Returns
    -------
    Held
        Itself where nothing differs; else ``measured_w`` is what was read. A hold on a mountain is no
        hold of more at the sea, and what it would be there is told beside it (``here_w``); a trip there
        is moved whole.

    References
    ----------
    physics §10.
    """
    if by.working is None:
        return held
    if by.factor > 1 and not held.tripped:
        return replace(held, here_w=held.w * by.factor)
    finding = replace(held.finding, workings=(*held.finding.workings, by.working))
    x = by.factor
    return replace(held, w=held.w * x, va=held.va * x, u_w=held.u_w * x, finding=finding, measured_w=held.w)


def corrected_start(start: StartSeen, by: Correction) -> StartSeen:
    """A start as it speaks of the brief's conditions: what base it was seen on there, all of the moment counted.

    Parameters
    ----------
    start
        As it was seen.
    by
        What its session's conditions come to here.

    Returns
    -------
    StartSeen
        One that held is moved downward alone, one that failed both ways: ``base_w`` is what would be left for the base
        after the start itself has had its watts; below nothing where not even that is left.

    References
    ----------
    physics §10: a measured capability is corrected before it is compared.
    """
    if by.working is None or (by.factor > 1 and not start.outcome.failed):
        return start
    own_w = start.load.start_total_va * start.load.start_pf
    return replace(start, base_w=(start.base_w + own_w) * by.factor - own_w)
