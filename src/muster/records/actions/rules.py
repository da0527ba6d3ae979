"""Rules of the household: accepted for a source, and struck again; the history puts either back."""

from __future__ import annotations

from collections.abc import Iterable

from django.contrib.auth.models import AbstractUser

from muster.core.errors import MusterError, Refused
from muster.core.loads import Tier
from muster.core.outage.household import HouseholdRule, why_not
from muster.formats.codec import dump
from muster.records import bridge
from muster.records.models import SourceRow

from .history import changing


def accept_rules(row: SourceRow, rules: Iterable[HouseholdRule], who: AbstractUser) -> SourceRow:
    """Take rules into the job: verdict, card and outage follow them. What is there already is not taken twice.

    Raises
    ------
    Refused
        If a rule cannot be kept in this home, with the reason.
    """
    home, kept = bridge.home_of(row.job), list(bridge.rules_of(row))
    by_key = {load.key: load for load in home.within(Tier.COULD)}
    new = [rule for rule in dict.fromkeys(rules) if rule not in kept]
    for rule in new:
        reason = why_not(rule, by_key, home.brief)
        if reason:
            raise Refused(reason, where=rule.kind.label, want="another rule")
    if not new:
        return row
    names = "; ".join(rule.described(by_key) for rule in new)
    return _write(row, [*kept, *new], f"rule for {row.name}: {names}", who)


def strike_rule(row: SourceRow, rule: HouseholdRule, who: AbstractUser) -> SourceRow:
    """Take a rule out of the job.

    Raises
    ------
    MusterError
        If it is not among the accepted ones.
    """
    kept = list(bridge.rules_of(row))
    if rule not in kept:
        raise MusterError("that rule is not among those accepted", where="rule", want="one of the list")
    words = f"rule struck for {row.name}: {rule.described(bridge.home_of(row.job).by_key)}"
    return _write(row, [other for other in kept if other != rule], words, who)


def _write(row: SourceRow, rules: list[HouseholdRule], words: str, who: AbstractUser) -> SourceRow:
    with changing(row, words, who):
        row.rules = [dump(rule) for rule in rules]
        row.save(update_fields=["rules"])
    row.job.save(update_fields=["changed_at"])
    return row
