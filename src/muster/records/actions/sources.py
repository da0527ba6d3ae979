"""Sources of a job: add, edit, archive, restore."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.errors import MusterError, UnknownChoice
from muster.core.plan import Changes
from muster.core.sessions import PROTOCOLS
from muster.core.sources import Source
from muster.formats.codec import dump
from muster.records import bridge
from muster.records.models import Job, SourceRow

from .history import changing


def _checked(source: Source) -> Source:
    if not source.name.strip():
        raise MusterError("a source needs a name", where="name", want="such as “the open-frame set”")
    return source


def add_source(job: Job, source: Source, who: AbstractUser) -> SourceRow:
    """Add a source to a job.

    Raises
    ------
    MusterError
        If it has no name.
    """
    row = bridge.fill_source(SourceRow(job=job, created_by=who), _checked(source))
    with changing(row, f"{source.name} added", who):
        row.save()
    job.save(update_fields=["changed_at"])
    return row


def edit_source(row: SourceRow, source: Source, who: AbstractUser) -> SourceRow:
    """Change a source.

    Raises
    ------
    MusterError
        If it has no name.
    """
    with changing(row, f"claims of {row.name} changed", who):
        bridge.fill_source(row, _checked(source)).save()
    row.job.save(update_fields=["changed_at"])
    return row


def archive_source(row: SourceRow, who: AbstractUser) -> SourceRow:
    """Archive a source with its sessions; nothing is deleted."""
    with changing(row, f"{row.name} archived", who):
        row.archived_at = timezone.now()
        row.save(update_fields=["archived_at"])
    return row


def restore_source(row: SourceRow, who: AbstractUser) -> SourceRow:
    """Bring a source back."""
    with changing(row, f"{row.name} restored", who):
        row.archived_at = None
        row.save(update_fields=["archived_at"])
    return row


def change_plan(row: SourceRow, protocol: str, changes: Changes, who: AbstractUser) -> SourceRow:
    """Change the plan of a protocol for a source: loads locked or dropped, steps moved or left out.

    Raises
    ------
    UnknownChoice
        If there is no such protocol.
    """
    if protocol not in PROTOCOLS:
        raise UnknownChoice(f"got “{protocol}”", where="protocol", want=", ".join(PROTOCOLS))
    others = {slug: kept for slug, kept in row.plans.items() if slug != protocol}
    with changing(row, f"plan of the {PROTOCOLS[protocol].name.lower()} on {row.name} changed", who):
        row.plans = {**others, protocol: dump(changes)} if changes.any else others
        row.save(update_fields=["plans"])
    return row
