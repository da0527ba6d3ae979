"""Gates confirmed, reopened, and asked before a session starts."""

from __future__ import annotations

from collections.abc import Collection
from datetime import timedelta
from zoneinfo import ZoneInfo

from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.errors import Refused, UnknownChoice
from muster.core.kit import Kit
from muster.core.safety.checks import HOLDS_H, KNOWN, Confirmed, Gate, gates_for, shut
from muster.core.sessions import Step
from muster.records import bridge
from muster.records.models import GateRow, SourceRow

from .history import changing
from .kit import kit_at_hand


def standing(source: SourceRow) -> dict[str, GateRow]:
    """The confirmations of a source that still hold, by gate."""
    day = timezone.now() - timedelta(hours=HOLDS_H)
    rows = source.gate_rows.filter(reopened_at=None).order_by("pk")
    return {row.slug: row for row in rows if row.slug in KNOWN and (KNOWN[row.slug].lasts or row.at > day)}


def gates_of(source: SourceRow, protocol: str, steps: tuple[Step, ...], who: AbstractUser) -> tuple[Gate, ...]:
    """Every gate of a protocol on a source as it stands now."""
    home = bridge.home_of(source.job)
    zone = ZoneInfo(home.brief.zone)
    confirmed = {
        slug: Confirmed(row.by, row.at.astimezone(zone).strftime("%d %b %H:%M"))
        for slug, row in standing(source).items()
    }
    value = bridge.source_of(source)
    return gates_for(protocol, home, value, steps, Kit(kit_at_hand(who), value.claims.wave), confirmed)


def confirm_gate(source: SourceRow, slug: str, who: AbstractUser, note: str = "") -> GateRow:
    """Say that a gate was seen to.

    Raises
    ------
    UnknownChoice
        If there is no such gate to confirm: a computed one opens with the plan.
    """
    if slug not in KNOWN:
        raise UnknownChoice(f"got “{slug}”", where="gate", want="a gate that is confirmed by name")
    row = GateRow(
        source=source, slug=slug, note=note.strip()[:200], created_by=who, by=bridge.shown_name(who), at=timezone.now()
    )
    with changing(row, f"{KNOWN[slug].title.lower()} seen to on {source.name}", who):
        row.save()
    return row


def reopen_gate(row: GateRow, who: AbstractUser) -> GateRow:
    """Say that a gate no longer holds."""
    with changing(row, f"{KNOWN[row.slug].title.lower()} to be seen to again on {row.source.name}", who):
        row.reopened_at = timezone.now()
        row.save(update_fields=["reopened_at"])
    return row


def pass_gates(
    source: SourceRow, protocol: str, steps: tuple[Step, ...], seen_to: Collection[str], who: AbstractUser
) -> None:
    """Confirm what was seen to, and let nothing start while a gate is shut.

    Raises
    ------
    Refused
        With each shut gate, its reason, and what would open it.
    """
    for gate in shut(gates_of(source, protocol, steps, who)):
        if not gate.computed and gate.slug in seen_to:
            confirm_gate(source, gate.slug, who)
    left = shut(gates_of(source, protocol, steps, who))
    if left:
        told = "; ".join(f"{gate.title.lower()}: {gate.reason}, opened by: {gate.opens_by}" for gate in left[:3])
        more = f"; and {len(left) - 3} more" if len(left) > 3 else ""
        raise Refused(f"{len(left)} gate{'s are' if len(left) > 1 else ' is'} shut. {told}{more}", where="gates")


def passed(source: SourceRow) -> frozenset[str]:
    """The gates of a source that were confirmed and not reopened.

    For the verdict a confirmation counts once made: the gates of a day are
    asked again before each session.
    """
    return frozenset(source.gate_rows.filter(reopened_at=None).values_list("slug", flat=True))
