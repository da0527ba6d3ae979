"""Two units side by side where none alone is enough: what they would carry by the careful school, and what would prove it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import chain, combinations

from ..character import given_of
from ..sources import Claims, Owning, Source, SourceKind, Unit
from ..trade.sound import sum_of_levels
from ..verdict import judge
from ..verdict.inputs import VerdictInputs
from ..verdict.requirement import Status
from .comparison import ComparedSource, short_of

RUN_TOGETHER = SourceKind.INVERTER_SET
"""The kind that makers build to run side by side, on their own kit; others are not proposed."""


@dataclass(frozen=True)
class PairTried:
    """Two sources by their places, and the one that they would be together."""

    first: int
    other: int
    source: Source


@dataclass(frozen=True)
class PairJudged:
    """Two together by their nameplates: how that stands, what they would give [W], and the lines that one alone falls short on."""

    tried: PairTried
    status: Status
    cont_w: float
    gains: tuple[str, ...]


def pairs(cases: Sequence[VerdictInputs]) -> Iterator[PairTried]:
    """Every two units that a maker may have built to run side by side.

    Parameters
    ----------
    cases
        One a source, of one home.

    Yields
    ------
    PairTried
        Of inverter sets on one fuel, neither of them a pair already.
    """
    for first, other in combinations(range(len(cases)), 2):
        own, beside = cases[first].source, cases[other].source
        alone = not own.units and not beside.units
        if alone and own.kind is beside.kind is RUN_TOGETHER and own.claims.fuel == beside.claims.fuel:
            yield PairTried(first, other, pair_of(own, beside))


def pair_of(first: Source, other: Source) -> Source:
    """Two units as one source, claimed by twice the smaller; what they burn and hold is that of both.

    Parameters
    ----------
    first, other
        Single units on one fuel.

    Returns
    -------
    Source
        Planned, for nobody has seen the two run together.
    """
    return Source(
        name=f"{first.name} beside {other.name}",
        kind=first.kind,
        claims=_claims(first.claims, other.claims),
        planned=True,
        units=tuple(Unit(unit.name, unit.claims.cont_w, unit.claims.surge_w) for unit in (first, other)),
        layout=first.layout,
        owning=Owning(
            price=_both(first.owning.price, other.owning.price),
            weight_kg=_both(first.owning.weight_kg, other.owning.weight_kg),
        ),
    )


def _claims(first: Claims, other: Claims) -> Claims:
    levels = (first.noise_dba_7m, other.noise_dba_7m)
    return Claims(
        cont_w=2 * min(first.cont_w, other.cont_w),
        surge_w=2 * min(first.surge_w or first.cont_w, other.surge_w or other.cont_w),
        surge_s=min(first.surge_s or 0.0, other.surge_s or 0.0) or None,
        wave=first.wave,
        noise_dba_7m=None if None in levels else sum_of_levels([level for level in levels if level is not None]),
        fuel=first.fuel,
        tank_l=_both(first.tank_l, other.tank_l),
        stored_fuel_l=first.stored_fuel_l or other.stored_fuel_l,
        half_load_lph=_both(first.half_load_lph, other.half_load_lph),
        full_load_lph=_both(first.full_load_lph, other.full_load_lph),
    )


def _both(first: float | None, other: float | None) -> float | None:
    return None if first is None or other is None else first + other


def pair_judged(
    tried: PairTried, cases: Sequence[VerdictInputs], sources: Sequence[ComparedSource]
) -> PairJudged | None:
    """How two would stand to a home together, on their claims alone: never more than something to be tested.

    Parameters
    ----------
    tried
        Which two.
    cases, sources
        One a source, of one home, and how each of them stands.

    Returns
    -------
    PairJudged or None
        None where one of them alone is not short of anything, or both together are short as well.
    """
    case = cases[tried.first].without or cases[tried.first]
    home = case.home
    unread = given_of(tried.source, home.brief.system, home.brief.site, ())
    verdict = judge(replace(case, source=tried.source, given=unread, elsewhere=None, played=None))
    lacks = [sources[place].short for place in (tried.first, tried.other)]
    if not all(lacks) or short_of(verdict):
        return None
    return PairJudged(tried, verdict.status, tried.source.claims.cont_w, tuple(dict.fromkeys(chain(*lacks))))
