"""The smallest set of rules that leaves no line open: every set weighed, the lightest on the household first."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations

from .candidates import EXACT_TO
from .household import HouseholdRule

MOST_TOGETHER = 3
"""A household keeps so many rules at most. Ours."""
MOST_PROVED = 12
"""So many sets that look right on few draws are proved on many; beyond, the search says that it was bounded. Ours."""

RuleSet = tuple[HouseholdRule, ...]
Open = frozenset[str]
"""Keys of the lines that do not carry."""
Stage = Callable[[RuleSet], Open]
"""Says which lines a set leaves open."""


@dataclass(frozen=True)
class SearchResult:
    """What a search ended with.

    ``rules`` are the smallest set that leaves nothing of what rules can change open, else the one that leaves least;
    ``still_open`` what it leaves. ``exact``: every set of at most three was weighed. ``weighed`` and ``proved`` say how
    many sets were looked at on few draws and on many.
    """

    rules: RuleSet
    still_open: Open
    exact: bool
    weighed: int
    proved: int

    @property
    def carries(self) -> bool:
        """Whether it leaves nothing open."""
        return not self.still_open


@dataclass
class Weighing:
    """What is known of the sets weighed so far: a stage at a time, the cheap one first, each once.

    ``seen`` is told how many sets are weighed, of how many at most.
    """

    stages: Sequence[Stage]
    most: int
    seen: Callable[[int, int], None] | None = None
    known: list[dict[RuleSet, Open]] = field(init=False)

    def __post_init__(self) -> None:
        self.known = [{} for _ in self.stages]

    def at(self, stage: int, rules: RuleSet) -> Open:
        """Which lines a stage says that a set leaves open."""
        if rules not in self.known[stage]:
            self.known[stage][rules] = self.stages[stage](rules)
            if self.seen is not None:
                self.seen(self.weighed, self.most)
        return self.known[stage][rules]

    @property
    def weighed(self) -> int:
        """How many sets were looked at."""
        return len(self.known[0]) if self.known else 0

    def closes_all(self, rules: RuleSet) -> bool:
        """Whether no stage leaves anything open; it ends with the first that does."""
        return not any(self.at(stage, rules) for stage in range(len(self.stages)))

    def left(self, rules: RuleSet) -> Open:
        """What all stages leave open."""
        return frozenset().union(*(self.at(stage, rules) for stage in range(len(self.stages))))


def smallest_set(
    proposals: Sequence[HouseholdRule],
    open_lines: Collection[str],
    stages: Sequence[Stage],
    proper: Stage,
    seen: Callable[[int, int], None] | None = None,
) -> SearchResult:
    """Search the smallest set of rules after which no line is open.

    Parameters
    ----------
    proposals
        Rules to choose from, the lightest first.
    open_lines
        Keys of the lines that rules may bring to carry.
    stages
        Each says which lines stay open with a set, on few draws, the cheap one first.
    proper
        Says it on all; what it says counts.
    seen
        Told how many sets are weighed, of how many at most.

    Returns
    -------
    SearchResult
        Of the smallest size at which any set leaves nothing open, the lightest on the household. Sets that no rule of
        bears on an open line cannot close it and are passed over. Of more than ``EXACT_TO`` proposals those that alone
        close most are chosen from, and ``exact`` says that it was so.
    """
    wanted, bounded = frozenset(open_lines), len(proposals) > EXACT_TO
    weighing = Weighing(stages, sets_of(min(len(proposals), EXACT_TO)), seen)
    chosen = _those_that_do_most(proposals, weighing) if bounded else list(proposals)
    proved: dict[RuleSet, Open] = {}
    for rules in _by_size(chosen, wanted):
        if not weighing.closes_all(rules):
            continue
        if len(proved) >= MOST_PROVED:
            bounded = True
            break
        proved[rules] = proper(rules)
        if not proved[rules]:
            return SearchResult(rules, frozenset(), exact=not bounded, weighed=weighing.weighed, proved=len(proved))
    best = _leaving_least(chosen, wanted, weighing, proved)
    open_ = proved[best] if best in proved else proper(best) if best else wanted
    best, open_ = _without_what_does_nothing(best, open_, proper)
    if len(open_) >= len(wanted):
        best, open_ = (), wanted
    return SearchResult(best, open_, exact=not bounded, weighed=weighing.weighed, proved=len(proved) + bool(best))


def _without_what_does_nothing(rules: RuleSet, open_: Open, proper: Stage) -> tuple[RuleSet, Open]:
    """A set less every rule without which, judged in full, no more is open; the heaviest on the household is tried first."""
    for rule in sorted(rules, key=lambda rule: -rule.burden):
        others = tuple(other for other in rules if other != rule)
        left = proper(others) if others else None
        if left is not None and len(left) <= len(open_):
            rules, open_ = others, left
    return rules, open_


def _those_that_do_most(proposals: Sequence[HouseholdRule], weighing: Weighing) -> list[HouseholdRule]:
    """The ``EXACT_TO`` rules that alone leave least open, the lightest on the household first again."""
    most = sorted(proposals, key=lambda rule: (len(weighing.left((rule,))), rule.burden))[:EXACT_TO]
    return sorted(most, key=lambda rule: (rule.burden, proposals.index(rule)))


def _leaving_least(
    proposals: Sequence[HouseholdRule], wanted: Open, weighing: Weighing, proved: Mapping[RuleSet, Open]
) -> RuleSet:
    """The set that leaves least open, of those the smallest, of those the lightest; none where every set leaves all.

    What the first stage leaves is least that a set leaves: a set that cannot come below the best is not looked at further.
    """
    best: tuple[tuple[int, int, int], RuleSet] = ((len(wanted), 0, 0), ())
    for rules in sorted(_by_size(proposals), key=lambda rules: len(weighing.at(0, rules))):
        size = (len(rules), burden_of(rules))
        if (len(weighing.at(0, rules)), *size) < best[0]:
            left = proved[rules] if rules in proved else weighing.left(rules)
            best = min(best, ((len(left), *size), rules), key=lambda item: item[0])
    return best[1]


def burden_of(rules: RuleSet) -> int:
    """What a set asks of a household: the sum of its burdens."""
    return sum(rule.burden for rule in rules)


def _by_size(proposals: Sequence[HouseholdRule], lines: Collection[str] = ()) -> Iterator[RuleSet]:
    """The sets with a rule that bears on each of the lines, the smallest first, of a size the lightest."""
    for size in range(1, MOST_TOGETHER + 1):
        sets = [rules for rules in combinations(proposals, size) if _bears(rules, lines)]
        yield from sorted(sets, key=burden_of)


def _bears(rules: RuleSet, lines: Collection[str]) -> bool:
    return all(any(rule.bears_on(line) for rule in rules) for line in lines)


def sets_of(proposals: int) -> int:
    """How many sets of at most three there are of so many proposals."""
    return sum(math.comb(proposals, size) for size in range(1, MOST_TOGETHER + 1))
