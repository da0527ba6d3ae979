"""The search for rules against every set there is."""

from __future__ import annotations

from itertools import combinations

from hypothesis import given
from hypothesis import strategies as st

from muster.core.loads import Tier
from muster.core.outage.candidates import EXACT_TO
from muster.core.outage.household import HouseholdRule, RuleKind
from muster.core.outage.search import MOST_TOGETHER, Open, RuleSet, burden_of, smallest_set

LINES = ("steady-total", "starting:1", "dips", "energy")
POOL = (
    *(HouseholdRule(RuleKind.APART, load="1", other=str(i)) for i in range(2, 6)),
    *(HouseholdRule(RuleKind.FIRST, load=str(i)) for i in range(1, 3)),
    HouseholdRule(RuleKind.REFUEL),
    HouseholdRule(RuleKind.RESERVE, tier=Tier.COULD, share=0.5),
    HouseholdRule(RuleKind.OFF, load="5"),
    HouseholdRule(RuleKind.OFF, load="6"),
    HouseholdRule(RuleKind.SOFT_STARTER, load="1"),
    HouseholdRule(RuleKind.SOFT_STARTER, load="2"),
)
closers = st.dictionaries(
    st.sampled_from(LINES), st.lists(st.frozensets(st.integers(0, 11), min_size=1, max_size=3), max_size=3), min_size=1
)


def world(closed_by: dict[str, list[frozenset[int]]]) -> tuple[Open, list[HouseholdRule]]:
    """Lines that are open, each closed by any of its groups of rules, those left out of it that cannot bear on it."""
    return frozenset(closed_by), sorted(POOL, key=lambda rule: rule.burden)


def left_by(closed_by: dict[str, list[frozenset[int]]], rules: RuleSet, lines: Open) -> Open:
    def closes(line: str) -> bool:
        able = {POOL.index(rule) for rule in rules if rule.bears_on(line)}
        return any(group <= able for group in closed_by[line])

    return frozenset(line for line in lines if not closes(line))


@given(closers)
def test_it_finds_what_weighing_every_set_of_three_finds(closed_by: dict[str, list[frozenset[int]]]) -> None:
    lines, proposals = world(closed_by)
    chance = frozenset({"steady-total", "starting:1", "energy"}) & lines
    stages = (lambda rules: left_by(closed_by, rules, chance), lambda rules: left_by(closed_by, rules, lines - chance))
    result = smallest_set(proposals, lines, stages, lambda rules: left_by(closed_by, rules, lines))
    every = [set_ for size in range(MOST_TOGETHER + 1) for set_ in combinations(proposals, size)]
    best = min(every, key=lambda rules: (len(left_by(closed_by, rules, lines)), len(rules), burden_of(rules)))
    assert len(result.still_open) == len(left_by(closed_by, best, lines))
    assert len(result.rules) == len(best)
    assert burden_of(result.rules) == burden_of(best)
    assert result.exact


def test_what_few_draws_let_through_counts_only_once_it_is_proved_on_all() -> None:
    wanted, proposals = frozenset({"energy"}), sorted(POOL, key=lambda rule: rule.burden)
    right = (HouseholdRule(RuleKind.OFF, load="5"),)
    result = smallest_set(
        proposals, wanted, [lambda rules: frozenset()], lambda rules: frozenset() if rules == right else wanted
    )
    assert result.rules == right
    assert result.proved > 1


def test_of_more_than_it_can_weigh_it_says_that_it_did_not_weigh_all() -> None:
    many = [HouseholdRule(RuleKind.OFF, load=str(i)) for i in range(EXACT_TO + 5)]
    best = many[-1]

    def left(rules: RuleSet) -> Open:
        return frozenset() if best in rules else frozenset({"energy"})

    result = smallest_set(many, {"energy"}, [left], left)
    assert result.rules == (best,)
    assert not result.exact


def test_where_nothing_helps_it_proposes_nothing() -> None:
    wanted = frozenset({"energy"})
    result = smallest_set(POOL, wanted, [lambda rules: wanted], lambda rules: wanted)
    assert (result.rules, result.still_open, result.carries) == ((), wanted, False)


def test_a_rule_that_does_nothing_when_judged_in_full_is_left_out_of_what_is_proposed() -> None:
    """On few draws two rules together leave least; on all of them one alone does as much."""
    wanted = frozenset({"energy", "dips"})
    off = HouseholdRule(kind=RuleKind.OFF, load="5")

    def few(rules: RuleSet) -> Open:
        return wanted - {"energy"} if len(rules) == 2 and off in rules else wanted

    def all_of_them(rules: RuleSet) -> Open:
        return wanted - {"energy"} if off in rules else wanted

    assert smallest_set(POOL, wanted, [few], all_of_them).rules == (off,)
