"""Lines that carry by the household's rules alone: judged with the rules and without, and told apart."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import replace

from ..loads import Load, Tier, short_name
from ..outage.household import HouseholdRule
from ..quantities import plain
from .inputs import VerdictInputs
from .requirement import PASSES, Requirement, Status

KEPT_SHARE = 0.95
"""What must run keeps at least so much of its energy under rules: what waits is shifted, and loses a little at the end. Ours."""


def starved(case: VerdictInputs) -> tuple[tuple[Load, float], ...]:
    """What must run and gets less than it needs by the rules of the household, with the share that is left to it.

    Parameters
    ----------
    case
        With its rules; without any nothing is starved.

    Returns
    -------
    tuple
        No rule takes energy from what must run: what two loads kept apart cannot both have, no verdict rests on.
    """
    if case.without is None:
        return ()
    had, has = case.without.planned.load_wh, case.planned.load_wh
    shares = ((load, has.get(load.key, 0.0) / had[load.key]) for load in _must(case) if had.get(load.key, 0.0) > 0)
    return tuple((load, share) for load, share in shares if share < KEPT_SHARE)


def _must(case: VerdictInputs) -> Iterable[Load]:
    without = case.without or case
    return (load for load in without.home.loads if load.tier is Tier.MUST)


def by_rules(ruled: Sequence[Requirement], bare: Sequence[Requirement], case: VerdictInputs) -> tuple[Requirement, ...]:
    """Lines as they are judged with the rules, each that does not carry without them saying so.

    Parameters
    ----------
    ruled, bare
        The same lines with the rules of the household and without.
    case
        With its rules.

    Returns
    -------
    tuple of Requirement
        What carries with rules alone names those that bear on it, all of them where none is known to; what carries without
        them stays as it is.
    """
    if starving := starved(case):
        return tuple(_starving(row, starving) for row in bare)
    before = {(row.key, row.load): row for row in bare}
    keys = Counter(row.key for row in bare)
    by_key = {row.key: row for row in bare if keys[row.key] == 1}  # of several starts none stands for another
    return tuple(_told(row, before.get((row.key, row.load), by_key.get(row.key)), case) for row in ruled)


def _told(row: Requirement, before: Requirement | None, case: VerdictInputs) -> Requirement:
    carried = before is not None and (not before.must or before.status is Status.CARRIES)
    if row.status not in PASSES or carried or (before is not None and before.status is row.status):
        return row
    bearing = described([rule for rule in case.rules if rule.bears_on(row.chance_key or row.key)] or case.rules, case)
    rules = tuple(dict.fromkeys((*row.rules, *bearing)))
    said = f" By the rule: {'; '.join(bearing)}."
    status = Status.WITH_RULES if row.status is Status.CARRIES else row.status
    return replace(row, status=status, rules=rules, sentence=row.sentence + said)


def _starving(row: Requirement, starving: Sequence[tuple[Load, float]]) -> Requirement:
    """A line as it is without the rules, for they take from what must run."""
    if row.status in PASSES or not row.must:
        return row
    names = " and ".join(f"the {short_name(load)} {plain(share * 100, 'pct')}" for load, share in starving)
    return replace(row, sentence=f"{row.sentence} The rules do not count: they leave {names} of what it needs.")


def described(rules: Iterable[HouseholdRule], case: VerdictInputs) -> tuple[str, ...]:
    """Rules as the household reads them, by the names of all the home's loads: those that a rule leaves off too."""
    names = case.without.home.by_key if case.without is not None else case.home.by_key
    return tuple(rule.described(names) for rule in rules)
