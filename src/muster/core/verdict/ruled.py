"""Lines that carry by the household's rules alone: judged with the rules and without, and told apart."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import replace

from ..outage.household import HouseholdRule
from .inputs import VerdictInputs
from .requirement import PASSES, Requirement, Status


def by_rules(
    ruled: Sequence[Requirement], plain: Sequence[Requirement], case: VerdictInputs
) -> tuple[Requirement, ...]:
    """Lines as they are judged with the rules, each that does not carry without them saying so.

    Parameters
    ----------
    ruled, plain
        The same lines with the rules of the household and without.
    case
        With its rules.

    Returns
    -------
    tuple of Requirement
        What carries with rules alone names those that bear on it, all of them where none is known to; what carries without
        them stays as it is.
    """
    before = {(row.key, row.load): row for row in plain}
    keys = Counter(row.key for row in plain)
    by_key = {row.key: row for row in plain if keys[row.key] == 1}  # of several starts none stands for another
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


def described(rules: Iterable[HouseholdRule], case: VerdictInputs) -> tuple[str, ...]:
    """Rules as the household reads them, by the names of all the home's loads: those that a rule leaves off too."""
    names = case.without.home.by_key if case.without is not None else case.home.by_key
    return tuple(rule.described(names) for rule in rules)
