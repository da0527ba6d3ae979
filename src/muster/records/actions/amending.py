"""What is set right in a sealed session: dated, with its reason, and a new seal over both."""

from __future__ import annotations

from datetime import datetime

from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone

from muster.core.errors import MusterError, Refused
from muster.core.sessions import Item
from muster.core.sessions.log_line import When
from muster.core.sessions.moments import moment_of
from muster.formats.seals import NEWEST, seal_of
from muster.records import bridge
from muster.records.models import AmendmentRow, EntryRow, SessionRow

from .sessions import append, before, corrected_time, understand


@transaction.atomic
def amend(row: SessionRow, reason: str, line: str, who: AbstractUser, entry: EntryRow | None = None) -> AmendmentRow:
    """Set something right in a sealed session: a line added, or an ``entry`` as it should read, or struck out.

    What was sealed stays as it is; the amendment has its date and its reason, and
    a new seal goes over both.

    Raises
    ------
    Refused
        If the session is not sealed, or the entry counts no longer.
    MusterError
        If no reason is given, or there is nothing to amend.
    """
    if row.closed_at is None:
        raise Refused("this session is not sealed", where="session", want="correct the entry itself")
    if not reason.strip():
        raise MusterError("no reason was given", where="reason", want="why it is amended")
    if entry is None and not line.strip():
        raise MusterError("nothing was typed", where="line", want="a line to add")
    if entry is not None and bridge.is_superseded(entry):
        raise Refused("this entry counts no longer", where="entry")
    amendment = AmendmentRow.objects.create(
        session=row,
        number=row.amendment_rows.count() + 1,
        at=timezone.now(),
        who=who,
        by=bridge.shown_name(who),
        reason=reason.strip(),
        sealed=row.sha256,
    )
    items: tuple[Item, ...] = ()
    at = entry.at if entry is not None else row.started_at
    raw = f"strike {entry.seq}" if entry is not None else ""
    if line.strip():
        jotting = understand(row, line, before(entry) if entry is not None else None)
        items, raw = jotting.items, line.strip()
        at = corrected_time(entry, jotting.when) if entry is not None else _amended_time(row, jotting.when)
    added = append(row, items, at, raw, who, supersedes=entry)
    added.amendment = amendment
    added.save(update_fields=["amendment"])
    row.sha256 = seal_of(bridge.record_of(row), NEWEST)
    row.save(update_fields=["sha256"])
    return amendment


def _amended_time(row: SessionRow, when: When) -> datetime:
    """The moment of a line added to a sealed session: within it, its last one where the line says none."""
    last = row.entry_rows.order_by("-at").values_list("at", flat=True).first() or row.started_at
    if not when.said:
        return last
    zone = bridge.brief_of(row.source.job).zone
    at = moment_of(when, spoken=last, began=row.started_at, last=row.started_at, zone=zone, written_up=True)
    return max(at, row.started_at)
