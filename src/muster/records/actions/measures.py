"""The units of a job follow what is typed first in it."""

from __future__ import annotations

from dataclasses import replace

from muster.core.measures import typed_measures
from muster.formats.codec import dump
from muster.records import bridge
from muster.records.models import Job


def follow_typed(job: Job, text: str) -> None:
    """Take the units of a typed text for those of the job, where nobody chose or typed any before."""
    brief = bridge.brief_of(job)
    measures = brief.measures.filled(typed_measures(text))
    if measures != brief.measures:
        job.brief = dump(replace(brief, measures=measures))
        job.save(update_fields=["brief", "changed_at"])
