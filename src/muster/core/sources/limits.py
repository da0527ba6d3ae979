"""The chain of limits a source stands behind, and which of them binds."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..quantities import THIN, Grade, number, plain
from ..sessions.places import Place
from ..supply import Leg, System
from ..trade.leads import ampacity_a, lead_named
from .claims import PairSchool, Site, Source, SourceKind, derate
from .pairs import chosen

LOWEST_V_SHARE = 0.85
"""Volts of a battery at its lowest, as a share of the nominal ones on it, where nobody said: 10.2 of 12 V lead-acid, 43.5 of
51.2 V lithium iron phosphate; amps are highest there."""
CONVERSION_PCT = 88.0
"""Conversion of an inverter at its rating, where nobody said (planning figure)."""


@dataclass(frozen=True)
class Limit:
    """A limit that binds: watts, on one leg or (leg None) on the whole source.

    ``hold_s`` is how long it may be drawn (None: indefinitely); ``basis`` says
    what it rests on, in words. ``at_once`` limits bind starts too: what trips
    within a start.
    """

    key: str
    name: str
    w: float
    leg: Leg | None
    basis: str
    grade: Grade
    hold_s: float | None = None
    at_once: bool = False
    seen_s: float = 0.0
    """How long it was held, or stood until it tripped, where it was measured. [s]"""
    finding: str = ""
    """The key of the finding that it was measured by, empty where it is claimed."""


def limits_of(source: Source, system: System, site: Site, *, sun: bool = False) -> tuple[Limit, ...]:
    """Every limit that nameplate and wiring give, derated to the site, for the whole source and each leg.

    A claim in watts is taken as volt-amperes at unity power factor. Without a
    claim per leg, a two-leg source gives each leg half. A hybrid is taken
    without sun unless ``sun``: at night it has its battery alone.
    """
    claims = source.claims
    share = derate(source.kind, claims.derated_fuel, site).share
    left = "" if share > 0.9995 else f", {number(share * 100)}{THIN}% left here"
    surge = plain(claims.surge_s, "s") if claims.surge_s else "time not said"
    by, grade = source.basis, source.claim_grade
    limits = [
        Limit(key="continuous", name="continuous", w=claims.cont_w * share, leg=None, basis=by + left, grade=grade)
    ]
    if claims.surge_w is not None:
        basis = f"{by}, {surge}{left}"
        limits.append(
            Limit(
                key="surge",
                name="surge",
                w=claims.surge_w * share,
                leg=None,
                basis=basis,
                grade=grade,
                hold_s=claims.surge_s or 0.0,
            )
        )
    limits += _pair(source, system, share)
    if not sun:
        limits += _battery_only(source)
    limits += _dc_limits(source)
    if system.legs == 2:
        limits += _leg_limits(source, system, share, left, surge)
    return (*limits, *_wired_limits(source, system))


def rated_w(source: Source, system: System, fuel: str = "") -> dict[Place, float]:
    """What the nameplate claims of the whole source and of each leg, nothing taken off.

    Parameters
    ----------
    source, system
        What is tested, and its volts, hertz and legs.
    fuel
        What it ran on; empty for the fuel of its claims.

    Returns
    -------
    dict
        Watts by place; a leg without a claim of its own has its half. [W]
    """
    claims = source.claims
    cont_w = next((rating.cont_w for rating in claims.on_fuels if rating.fuel == fuel), claims.cont_w)
    if system.legs == 1:
        return {Place.TOTAL: cont_w}
    leg_w = claims.per_leg_w or cont_w / 2
    return {Place.TOTAL: cont_w, Place.LEG1: leg_w, Place.LEG2: leg_w}


def _battery_only(source: Source) -> list[Limit]:
    """What a hybrid gives when the sun is not on its panels."""
    w = source.claims.battery_only_w
    if w is None or source.kind is not SourceKind.HYBRID:
        return []
    return [
        Limit(
            key="battery_only",
            name="battery alone",
            w=w,
            leg=None,
            basis=f"{source.basis}, without sun",
            grade=source.claim_grade,
        )
    ]


def _dc_limits(source: Source) -> list[Limit]:
    """The battery's protection, the DC fuse and the DC lead, at the lowest battery volts."""
    claims, wires = source.claims, source.wires
    low_v = claims.battery_low_v or (claims.battery_v or 0.0) * LOWEST_V_SHARE
    if not source.kind.has_battery or not low_v:
        return []
    conversion = claims.conversion_pct or CONVERSION_PCT
    w_per_a = low_v * conversion / 100
    at = f"at {low_v:.3g}{THIN}V and {conversion:g}{THIN}% conversion"
    limits = []
    if claims.battery_a is not None:
        basis = f"{claims.battery_a:g}{THIN}A, {at}"
        limits.append(
            Limit(
                key="battery",
                name="battery protection",
                w=claims.battery_a * w_per_a,
                leg=None,
                basis=basis,
                grade=Grade.C,
                at_once=claims.battery_surge_a is None,
            )
        )
    if claims.battery_surge_a is not None:
        seconds = f" for {claims.battery_surge_s:g}{THIN}s" if claims.battery_surge_s else ", time not said"
        limits.append(
            Limit(
                key="battery_surge",
                name="battery protection, for a moment",
                w=claims.battery_surge_a * w_per_a,
                leg=None,
                basis=f"{claims.battery_surge_a:g}{THIN}A{seconds}, {at}",
                grade=Grade.C,
                hold_s=claims.battery_surge_s or 0.0,
            )
        )
    if wires.dc_fuse_a is not None:
        basis = f"{wires.dc_fuse_a:g}{THIN}A, {at}"
        limits.append(
            Limit(key="dc_fuse", name="DC fuse", w=wires.dc_fuse_a * w_per_a, leg=None, basis=basis, grade=Grade.C)
        )
    if wires.dc_lead:
        laid, size = lead_named(wires.dc_lead)
        amps = ampacity_a(size, laid) * wires.dc_leads
        many = f"{wires.dc_leads} × " if wires.dc_leads > 1 else ""
        limits.append(
            Limit(
                key="dc_lead",
                name="DC lead",
                w=amps * w_per_a,
                leg=None,
                basis=f"{many}{size}: {amps:g}{THIN}A, {at}",
                grade=Grade.D,
            )
        )
    return limits


def _pair(source: Source, system: System, share: float) -> list[Limit]:
    """What two units carry together, by the school chosen."""
    pair = chosen(source, system)
    if pair is None or pair.w is None:
        return []
    basis = f"{pair.school.label}: {pair.basis}"
    limits = [Limit(key="pair", name="the pair", w=pair.w * share, leg=None, basis=basis, grade=pair.grade)]
    if pair.surge_w is not None:
        by = "2 × the smaller surge" if pair.school is PairSchool.TWICE_SMALLER else "sum of the surge claims"
        seconds, surge_w = source.claims.surge_s or 0.0, pair.surge_w * share
        limits.append(
            Limit(
                key="pair_surge",
                name="the pair's surge",
                w=surge_w,
                leg=None,
                basis=by,
                grade=source.claim_grade,
                hold_s=seconds,
            )
        )
    return limits


def _leg_limits(source: Source, system: System, share: float, left: str, surge: str) -> list[Limit]:
    """Limits of each leg of a split-phase source."""
    claims, by = source.claims, source.basis
    basis = f"{by}, each leg" if claims.per_leg_w else f"per leg from the {by}"
    per_leg = (claims.per_leg_w or claims.cont_w / 2) * share
    limits = []
    for leg in system.leg_names:
        limits.append(
            Limit(key="continuous", name="continuous", w=per_leg, leg=leg, basis=basis + left, grade=source.claim_grade)
        )
        if claims.surge_w is not None:
            surge_w = per_leg * claims.surge_w / claims.cont_w
            shared = f"{by} share, {surge}{left}"
            limits.append(
                Limit(
                    key="surge",
                    name="surge",
                    w=surge_w,
                    leg=leg,
                    basis=shared,
                    grade=source.claim_grade,
                    hold_s=claims.surge_s or 0.0,
                )
            )
    return limits


def _wired_limits(source: Source, system: System) -> list[Limit]:
    """Breaker, inlet and lead of each leg."""
    claims, wires = source.claims, source.wires
    limits = []
    for leg in system.leg_names:
        if claims.breaker_a is not None:
            basis = f"{claims.breaker_a:g}{THIN}A breaker"
            limits.append(
                Limit(
                    key="breaker",
                    name="breaker",
                    w=claims.breaker_a * system.v_nominal,
                    leg=leg,
                    basis=basis,
                    grade=Grade.C,
                )
            )
        if wires.inlet_a is not None:
            basis = f"{wires.inlet_a:g}{THIN}A inlet"
            limits.append(
                Limit(
                    key="inlet", name="inlet", w=wires.inlet_a * system.v_nominal, leg=leg, basis=basis, grade=Grade.C
                )
            )
        if wires.lead:
            laid, size = lead_named(wires.lead)
            amps = ampacity_a(size, laid)
            basis = f"{size} {laid.unit}: {amps:g}{THIN}A by table"
            limits.append(
                Limit(key="lead", name="lead", w=amps * system.v_nominal, leg=leg, basis=basis, grade=Grade.D)
            )
    return limits


def binding(limits: tuple[Limit, ...], leg: Leg | None, *, surge: bool = False) -> Limit | None:
    """The lowest limit that binds on a leg (None: the whole source), for a steady load or a start.

    A limit held for a time binds starts alone; one that trips at once binds
    both; the others (a breaker, a lead) bind steady loads alone.
    """
    here = [limit for limit in limits if limit.leg == leg]
    held = [limit for limit in here if (limit.hold_s is not None) == surge]
    if surge:
        held = held or [limit for limit in here if limit.key in ("continuous", "battery_only")]
        held = [*held, *(limit for limit in here if limit.at_once)]
    return min(held, key=lambda limit: limit.w, default=None)


def drawn(limits: tuple[Limit, ...]) -> tuple[Limit, ...]:
    """The limits worth a line on the Stack: nameplate and breaker always, another only where it is the lowest of its place."""
    always = ("continuous", "surge", "breaker", "held", "trip")
    lowest = {binding(limits, limit.leg, surge=surge) for limit in limits for surge in (False, True)}
    return tuple(limit for limit in limits if limit.key in always or limit in lowest)


def binding_words(limits: tuple[Limit, ...], system: System) -> tuple[str, ...]:
    """What binds first, steady and at a start, on the whole source and each leg, in words."""
    places: tuple[Leg | None, ...] = (None, *system.leg_names) if system.legs == 2 else (None,)
    said = []
    for place in places:
        here = limits if system.legs == 2 else tuple(_as_whole(limit) for limit in limits)
        steady, start = binding(here, place), binding(here, place, surge=True)
        where = "" if system.legs == 1 else "Whole source: " if place is None else f"{place.label.capitalize()}: "
        parts = [
            f"{word} {plain(limit.w, 'w')}, by the {_called(limit)}"
            for word, limit in (("steady", steady), ("a start", start))
            if limit
        ]
        said.append(where + "; ".join(parts) + ".")
    return tuple(text[0].upper() + text[1:] for text in said)


def _called(limit: Limit) -> str:
    """What binds, as it is called in a sentence."""
    if limit.key == "trip":
        return "level it tripped at"
    return f"{limit.name} claim" if limit.key in ("continuous", "surge", "battery_only") else limit.name


def _as_whole(limit: Limit) -> Limit:
    """On one leg, what limits the leg limits the source."""
    return replace(limit, leg=None)
