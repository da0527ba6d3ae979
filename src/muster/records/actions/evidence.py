"""The evidence of measured sources, kept once for every job that takes it."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.shelf.measured import MeasuredSource, TakenSource
from muster.formats.codec import dump
from muster.records.models import MeasuredRow


def keep(measured: MeasuredSource, who: AbstractUser) -> MeasuredRow:
    """Keep a measured source on the shelf; the same evidence again is the same entry."""
    row = keep_evidence(measured, who)
    row.removed_at = None
    row.save(update_fields=["removed_at"])
    return row


def keep_evidence(measured: MeasuredSource, who: AbstractUser) -> MeasuredRow:
    """Keep the evidence of a source that came with a job; it is on the shelf only where it was before."""
    row, _ = MeasuredRow.objects.get_or_create(
        digest=measured.digest,
        defaults={
            "name": measured.source.name,
            "data": dump(measured),
            "created_by": who,
            "removed_at": timezone.now(),
        },
    )
    return row


def taken(source: TakenSource) -> dict[str, Any]:
    """What a source's row says of its evidence: which it is, and whether the source was serviced since."""
    return {"digest": source.measured.digest, "serviced": source.serviced}
