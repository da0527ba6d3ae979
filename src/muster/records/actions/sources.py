"""Sources of a job: add, edit, put away, bring back."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.errors import MusterError
from muster.core.sources import Source
from muster.records import bridge
from muster.records.models import Job, SourceRow


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
    row.save()
    job.save(update_fields=["changed_at"])
    return row


def edit_source(row: SourceRow, source: Source) -> SourceRow:
    """Change a source.

    Raises
    ------
    MusterError
        If it has no name.
    """
    bridge.fill_source(row, _checked(source)).save()
    row.job.save(update_fields=["changed_at"])
    return row


def archive_source(row: SourceRow) -> SourceRow:
    """Put a source away with its sessions; nothing is deleted."""
    row.archived_at = timezone.now()
    row.save(update_fields=["archived_at"])
    return row


def restore_source(row: SourceRow) -> SourceRow:
    """Bring a source back."""
    row.archived_at = None
    row.save(update_fields=["archived_at"])
    return row
