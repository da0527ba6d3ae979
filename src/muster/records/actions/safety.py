"""Safety checks confirmed, withdrawn, and asked before a session starts."""

from __future__ import annotations

from collections.abc import Collection
from datetime import timedelta
from zoneinfo import ZoneInfo

from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.errors import Refused, UnknownChoice
from muster.core.kit import Kit
from muster.core.safety.checks import HOLDS_H, KNOWN, Confirmed, SafetyCheck, checks_for, not_passed
from muster.core.sessions import Step
from muster.records import bridge
from muster.records.models import SafetyCheckRow, SourceRow

from .history import changing
from .kit import kit_at_hand


def effective(source: SourceRow) -> dict[str, SafetyCheckRow]:
    """The confirmations of a source that still hold, by check."""
    day = timezone.now() - timedelta(hours=HOLDS_H)
    rows = source.safety_rows.filter(withdrawn_at=None).order_by("pk")
    return {row.slug: row for row in rows if row.slug in KNOWN and (KNOWN[row.slug].lasts or row.at > day)}


def safety_checks_of(
    source: SourceRow, protocol: str, steps: tuple[Step, ...], who: AbstractUser
) -> tuple[SafetyCheck, ...]:
    """Every check of a protocol on a source as it is now."""
    home = bridge.home_of(source.job)
    zone = ZoneInfo(home.brief.zone)
    confirmed = {
        slug: Confirmed(row.by, row.at.astimezone(zone).strftime("%d %b %H:%M"))
        for slug, row in effective(source).items()
    }
    value = bridge.source_of(source)
    return checks_for(protocol, home, value, steps, Kit(kit_at_hand(who), value.claims.wave), confirmed)


def confirm_check(source: SourceRow, slug: str, who: AbstractUser, note: str = "") -> SafetyCheckRow:
    """Confirm a check.

    Raises
    ------
    UnknownChoice
        If there is no such check to confirm: a computed one opens with the plan.
    """
    if slug not in KNOWN:
        raise UnknownChoice(f"got “{slug}”", where="check", want="a check that is confirmed by name")
    row = SafetyCheckRow(
        source=source, slug=slug, note=note.strip()[:200], created_by=who, by=bridge.shown_name(who), at=timezone.now()
    )
    with changing(row, f"{KNOWN[slug].title.lower()} confirmed on {source.name}", who):
        row.save()
    return row


def withdraw_check(row: SafetyCheckRow, who: AbstractUser) -> SafetyCheckRow:
    """Say that a check no longer holds."""
    with changing(row, f"{KNOWN[row.slug].title.lower()} to be confirmed again on {row.source.name}", who):
        row.withdrawn_at = timezone.now()
        row.save(update_fields=["withdrawn_at"])
    return row


def confirm_checks(
    source: SourceRow, protocol: str, steps: tuple[Step, ...], confirmed: Collection[str], who: AbstractUser
) -> None:
    """Confirm what was ticked, and let nothing start while a check has not passed.

    Raises
    ------
    Refused
        With each check that has not passed, its reason, and what would make it pass.
    """
    for check in not_passed(safety_checks_of(source, protocol, steps, who)):
        if not check.computed and check.slug in confirmed:
            confirm_check(source, check.slug, who)
    left = not_passed(safety_checks_of(source, protocol, steps, who))
    if left:
        details = "; ".join(f"{check.title.lower()}: {check.reason}; to pass: {check.passes_by}" for check in left[:3])
        more = f"; and {len(left) - 3} more" if len(left) > 3 else ""
        raise Refused(
            f"{len(left)} safety check{'s have' if len(left) > 1 else ' has'} not passed. {details}{more}",
            where="safety",
        )


def not_confirmed(
    source: SourceRow, protocol: str, steps: tuple[Step, ...], confirmed: Collection[str], who: AbstractUser
) -> str:
    """What was not confirmed of a test that was run already, in words; empty if all of it was.

    What is ticked for a past test confirms nothing for the next one.
    """
    checks = not_passed(safety_checks_of(source, protocol, steps, who))
    titles = [check.title.lower() for check in checks if check.computed or check.slug not in confirmed]
    return f"not confirmed: {', '.join(titles)}" if titles else ""


def passed(source: SourceRow) -> frozenset[str]:
    """The checks of a source that were confirmed and not reopened.

    For the verdict a confirmation counts once made: the checks of a day are
    asked again before each session.
    """
    return frozenset(source.safety_rows.filter(withdrawn_at=None).values_list("slug", flat=True))
