"""From a home, a source and its sessions to the verdict, in one call."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import cache

from ..brief import Brief, Home
from ..day import DRAWS, SEED, DayDemand, simulate, upper
from ..findings import SessionFindings, findings_of
from ..loads import TIERS, Load, Tier
from ..sessions import Session
from ..sources import Source
from ..traces import TraceFacts
from .case import Case

Simulate = Callable[[tuple[Load, ...], Brief], DayDemand]


def in_scope(loads: Iterable[Load], scope: Tier) -> tuple[Load, ...]:
    """The loads of a tier and of those above it."""
    wanted = TIERS[: TIERS.index(scope) + 1]
    return tuple(load for load in loads if load.tier in wanted)


def session_findings(home: Home, source: Source, session: Session, logs: Sequence[TraceFacts] = ()) -> SessionFindings:
    """Every finding of one session on a source, in its home, with what was read off its recorded logs."""
    return findings_of(session, home.by_key, home.brief.system, home.brief.ear_m, source.claims.wave, logs)


def draws_of(draws: int = DRAWS, seed: int = SEED) -> Simulate:
    """A simulation of so many draws with this seed; the same question is answered once."""
    return cache(lambda loads, brief: simulate(loads, brief, draws, seed))


def build_case(
    home: Home,
    source: Source,
    found: Iterable[SessionFindings],
    scope: Tier = Tier.MUST,
    demand_of: Simulate | None = None,
) -> Case:
    """All that a verdict is judged on, for the loads of a tier and above.

    ``demand_of`` simulates, or finds what was simulated before.
    """
    demand_of = demand_of or draws_of()
    loads = in_scope(home.loads, scope)
    return Case(
        home=Home(home.brief, loads),
        source=source,
        demand=demand_of(upper(loads), home.brief),
        planned=demand_of(loads, home.brief),
        sessions=tuple(found),
    )
