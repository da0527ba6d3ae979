"""The household's rules as the outage page lists them: those accepted, and those that a search found."""

from __future__ import annotations

from dataclasses import dataclass

from muster.core.brief import Home
from muster.core.loads import Tier
from muster.core.outage.household import HouseholdRule, why_not
from muster.core.verdict.rule_search import RulesFound
from muster.formats.codec import canonical, dump
from muster.records import bridge
from muster.records.models import SourceRow
from muster.web.figures.played_ribbon import share_words


@dataclass(frozen=True)
class RuleLine:
    """A rule on the page: its words, its value as it is posted, what it buys and costs, what to mind; ``reason`` why it cannot be kept."""

    text: str
    value: str
    caution: str
    buys: tuple[str, ...] = ()
    costs: tuple[str, ...] = ()
    reason: str = ""
    accepted: bool = False


@dataclass(frozen=True)
class Household:
    """Rules accepted for a source, and those found and not accepted yet."""

    accepted: tuple[RuleLine, ...]
    proposed: tuple[RuleLine, ...]
    cautions: tuple[str, ...]


def household_of(source: SourceRow, home: Home, proposal: RulesFound | None) -> Household:
    """The rules of a source, each in words.

    Parameters
    ----------
    source
        The row.
    home
        Whose loads the rules name.
    proposal
        What a search ended with; None where none was asked for.
    """
    kept = bridge.rules_of(source)
    by_key = {load.key: load for load in home.within(Tier.COULD)}

    def line(rule: HouseholdRule, buys: tuple[str, ...] = (), costs: tuple[str, ...] = ()) -> RuleLine:
        return RuleLine(
            text=rule.described(home.by_key),
            value=canonical(dump(rule)),
            caution=rule.kind.caution,
            buys=buys,
            costs=costs or (rule.kind.asks,),
            reason=why_not(rule, by_key, home.brief),
            accepted=rule in kept,
        )

    worth = proposal.worth if proposal else ()
    lines = tuple(
        line(item.rule, tuple(_bought(label, share) for label, share in item.buys), item.costs) for item in worth
    )
    accepted = tuple(line(rule) for rule in kept)
    cautions = tuple(dict.fromkeys(item.caution for item in (*accepted, *lines)))
    return Household(accepted=accepted, proposed=lines, cautions=cautions)


def _bought(label: str, share: float | None) -> str:
    """A line that is open without the rule, and in how many outages it then fails."""
    return label if share is None else f"{label}: without it {share_words(share)} outages fail"
