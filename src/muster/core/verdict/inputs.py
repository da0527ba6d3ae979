"""What a verdict is judged on: the home, the source, the demand, and what was seen of the source."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property

from ..brief import Home
from ..character import Character, Given, character_of
from ..character.evidence import SeenSoFar
from ..loads import Load, Tier
from ..outage import OutageDemand, Simulate, upper
from ..outage.played import OutagePlayed
from ..sources import Source
from ..sources.limits import Limit, limits_of


@dataclass(frozen=True)
class VerdictInputs:
    """All that a verdict needs; ``demand`` at upper figures, ``planned`` as planned; ``passed`` the safety checks confirmed."""

    home: Home
    source: Source
    demand: OutageDemand
    planned: OutageDemand
    given: Given
    passed: frozenset[str] = frozenset()
    left_out: tuple[Load, ...] = ()
    """The loads of lesser tiers, which are not judged."""
    played: OutagePlayed | None = None
    """The outage played through on the source; lines are judged by their margins where it was not."""

    @property
    def loads(self) -> dict[str, Load]:
        """The loads by their key."""
        return self.home.by_key

    @property
    def limits(self) -> tuple[Limit, ...]:
        """The nameplate's limits at this site."""
        return limits_of(self.source, self.home.brief.system, self.home.brief.site)

    @cached_property
    def seen(self) -> SeenSoFar:
        """What was seen of the source since it was last set or serviced, under the conditions of the brief."""
        return SeenSoFar(self.given)

    @cached_property
    def character(self) -> Character:
        """What the source was measured to be, by all its sessions."""
        given = self.given
        return character_of(given.source, given.system, given.site, given.sessions)


def gather_inputs(
    home: Home, given: Given, scope: Tier, demand_of: Simulate, passed: Iterable[str] = ()
) -> VerdictInputs:
    """All that a verdict is judged on, for the loads of a tier and above.

    ``given`` is the source with its sessions; ``demand_of`` simulates, or finds what was simulated before; ``passed``
    are the safety checks that were confirmed.
    """
    loads = home.within(scope)
    return VerdictInputs(
        home=Home(home.brief, loads),
        source=given.source,
        demand=demand_of(upper(loads), home.brief),
        planned=demand_of(loads, home.brief),
        given=given,
        passed=frozenset(passed),
        left_out=tuple(load for load in home.loads if load.key not in {own.key for own in loads}),
    )


def unscheduled(case: VerdictInputs) -> list[Load]:
    """Loads that must or should run, of which nobody said in which hours: they are in no figure of the verdict."""
    return [load for load in case.home.loads if not load.hours and load.tier in (Tier.MUST, Tier.SHOULD)]
