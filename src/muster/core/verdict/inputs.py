"""What a verdict is judged on: the home, the source, the demand, and what was seen of the source."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

from ..brief import Home
from ..character import Character, Given, character_given
from ..character.evidence import SeenSoFar
from ..loads import Load, Tier
from ..outage import OutageDemand, Simulate, upper
from ..outage.household import HouseholdRule, RuledHome, with_rules
from ..outage.played import OutagePlayed
from ..outage.rules import NO_RULES, Rules
from ..shelf.measured import Elsewhere
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
    rules: tuple[HouseholdRule, ...] = ()
    """Of the household, as far as they fit: the home and its demand are as they are with them."""
    kernel_rules: Rules = NO_RULES
    """What of them the play follows by itself."""
    without: VerdictInputs | None = None
    """The same without its rules, where it has any."""
    elsewhere: Elsewhere | None = None
    """What must be said of evidence that is of another job, None where all of it is of this one."""

    @property
    def loads(self) -> dict[str, Load]:
        """The loads by their key."""
        return self.home.by_key

    @cached_property
    def limits(self) -> tuple[Limit, ...]:
        """The nameplate's limits at this site."""
        return limits_of(self.source, self.home.brief.system, self.home.brief.site)

    @cached_property
    def seen(self) -> SeenSoFar:
        """What was seen of the source since it was last set or serviced, under the conditions of the brief."""
        return SeenSoFar(self.given) if self.without is None else self.without.seen

    @cached_property
    def character(self) -> Character:
        """What the source was measured to be, by all its sessions."""
        return character_given(self.given) if self.without is None else self.without.character


def gather_inputs(
    home: Home,
    given: Given,
    scope: Tier,
    demand_of: Simulate,
    passed: Iterable[str] = (),
    rules: Iterable[HouseholdRule] = (),
    elsewhere: Elsewhere | None = None,
) -> VerdictInputs:
    """All that a verdict is judged on, for the loads of a tier and above.

    ``given`` is the source with its sessions; ``demand_of`` simulates, or finds what was simulated before; ``passed``
    are the safety checks that were confirmed; ``rules`` the household keeps; ``elsewhere`` what must be said of sessions
    that are of another job.
    """
    loads = home.within(scope)
    plain = VerdictInputs(
        home=Home(home.brief, loads),
        source=given.source,
        demand=demand_of(upper(loads), home.brief),
        planned=demand_of(loads, home.brief),
        given=given,
        passed=frozenset(passed),
        left_out=tuple(load for load in home.loads if load.key not in {own.key for own in loads}),
        elsewhere=elsewhere,
    )
    ruled = with_rules(loads, home.brief, rules)
    return under_rules(plain, ruled, demand_of) if ruled.kept else plain


def under_rules(plain: VerdictInputs, ruled: RuledHome, demand_of: Simulate) -> VerdictInputs:
    """What is judged on with the rules of the household: its home and demand as they are with them, nothing played yet."""
    return replace(
        plain,
        home=Home(ruled.brief, ruled.loads),
        demand=demand_of(upper(ruled.loads), ruled.brief, ruled.rules),
        planned=demand_of(ruled.loads, ruled.brief, ruled.rules),
        played=None,
        rules=ruled.kept,
        kernel_rules=ruled.rules,
        without=plain,
    )


def unscheduled(case: VerdictInputs) -> list[Load]:
    """Loads that must or should run, of which nobody said in which hours: they are in no figure of the verdict."""
    return [load for load in case.home.loads if not load.hours and load.tier in (Tier.MUST, Tier.SHOULD)]
