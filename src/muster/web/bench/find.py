"""A session asked for by its address."""

from __future__ import annotations

from django.shortcuts import get_object_or_404

from muster.records.models import SessionRow


def find_session(job_id: int, session_id: int) -> SessionRow:
    """A session of a job, or a page that says it is not there."""
    return get_object_or_404(SessionRow.objects.select_related("source__job"), pk=session_id, source__job=job_id)
