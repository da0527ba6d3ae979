"""A source measured in one home of the demo and judged for another."""

from __future__ import annotations

from dataclasses import replace

from muster.cli.read_out import found_in
from muster.core.brief import Home
from muster.core.shelf.measured import MeasuredSession, MeasuredSource, TakenSource
from muster.formats.jobfile import SourceRecord
from muster.formats.jobzip import JobPackage
from muster.formats.measured_source import digest_of_evidence


def with_taken(here: JobPackage, there: JobPackage, at: int) -> JobPackage:
    """A job with a source of another taken from the shelf, as Ishbel put it there."""
    home, record = Home(there.job.brief, there.job.loads), there.job.sources[at]
    sessions = []
    for kept in record.sessions:
        context = found_in(there, home, record, kept).context
        sessions.append(
            MeasuredSession(kept.session, kept.started_at, kept.sha256, tuple(context.logs), tuple(context.captures))
        )
    measured = MeasuredSource(
        source=record.source,
        brief=there.job.brief,
        loads=there.job.loads,
        sessions=tuple(sessions),
        measured_for=there.job.name,
    )
    dated = replace(measured, put_at="2026-11-05T09:00:00+00:00", put_by="Ishbel", digest=digest_of_evidence(measured))
    taken = SourceRecord(record.source, elsewhere=TakenSource(dated))
    return replace(here, job=replace(here.job, sources=(*here.job.sources, taken)))
