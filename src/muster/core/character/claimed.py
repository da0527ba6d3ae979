"""What is claimed of a source, by the keys of what is measured, so that one question has one answer."""

from __future__ import annotations

from ..quantities import Value
from ..sources import Site, Source, derate, fuel_use
from .character import Parameter, SessionEstimate

CLAIMED = (
    ("surge_s", "surge_s", "Surge lasts", "s"),
    ("breaker_a", "breaker_a", "Breaker", "a"),
    ("thd_pct", "thd_pct_loaded", "Distortion, loaded", "pct"),
    ("noise_dba_7m", "dba_7m_loaded", "Level at 7 m, loaded", "dba"),
    ("tank_l", "tank_l", "Tank", "l"),
    ("battery_wh", "battery_wh_dc", "The battery gives", "wh"),
    ("usable_pct", "usable_pct", "Usable share of the rating", "pct"),
    ("battery_v", "battery_v", "Battery volts", "v"),
    ("stored_fuel_l", "stored_fuel_l", "Fuel beside the tank", "l"),
    ("idle_w", "idle_w", "Idle draw", "w"),
    ("transfer_ms", "gap_ms", "Transfer gap", "ms"),
    ("conversion_pct", "conversion_pct", "Conversion at the top", "pct"),
    ("charge_w", "charge_w", "Draws while charging", "w"),
    ("battery_low_v", "cut_low_v", "Low cut-off", "v"),
)
"""Of each claim: its field, the key of what measures it, its name and its unit."""
DERATED = (
    ("cont_w", "cont_w", "Carries continuously"),
    ("surge_w", "surge_w", "Carries for a moment"),
    ("per_leg_w", "per_leg_w", "Carries on each leg"),
)
"""Powers of which altitude, heat and fuel leave less."""


def claims_of(source: Source, site: Site) -> tuple[Parameter, ...]:
    """What nameplate and booklet claim, each at the grade of its basis: C of the unit itself, D of one like it.

    Parameters
    ----------
    source
        With its claims, and whether they are its own or the shelf's.
    site
        Where it is asked to work: powers are derated to it.

    Returns
    -------
    tuple of Parameter
        With no half-width: nobody claims one.
    """
    claims, grade = source.claims, source.claim_grade
    share = derate(source.kind, claims.derated_fuel, site).share

    def claim(key: str, name: str, value: float, unit: str) -> Parameter:
        said = Value(value, unit, None, None, grade)
        return Parameter(
            key=key,
            name=name,
            value=said,
            estimates=(SessionEstimate(value=said, session="Claim", at="", basis=source.basis),),
        )

    result = [
        claim(key, name, value * share, "w")
        for field, key, name in DERATED
        if (value := getattr(claims, field)) is not None
    ]
    result += [
        claim(key, name, value, unit)
        for field, key, name, unit in CLAIMED
        if (value := getattr(claims, field)) is not None
    ]
    inputs = [port.most_w for port in claims.pv_ports if port.most_w is not None]
    if inputs and len(inputs) == len(claims.pv_ports):
        result.append(claim("pv_most_w", "Takes from panels at most", sum(inputs), "w"))
    by_booklet = fuel_use(claims)
    if by_booklet is not None:
        result.append(claim("idle_lph", "Litres an hour, no load", by_booklet.a_lph, "lph"))
        result.append(claim("lph_per_kw", "Litres an hour with load", by_booklet.b_lph_per_w * 1000, "lph_kw"))
    return tuple(result)
