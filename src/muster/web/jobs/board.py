"""The rows of the board: each job with its sources, what was judged of them, and how far the work has come."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.core.paginator import Page, Paginator
from django.db.models import Q, QuerySet
from django.urls import reverse

from muster.core.verdict import Status
from muster.records import bridge
from muster.records.judging import is_current, worked_on
from muster.records.models import Job, LoadRow, SafetyCheckRow, SessionRow, SourceRow
from muster.web.ui.frame import question_of
from muster.web.ui.stages import JobProgress, RailMark, rail_of

ON_A_PAGE = 12
"""Jobs on a page of the board."""


@dataclass(frozen=True)
class BoardSource:
    """A source on the board: its name, and the verdict on it as it was last worked out; ``stale`` if something changed since."""

    name: str
    status: Status | None
    headline: str
    stale: bool
    url: str


@dataclass(frozen=True)
class BoardRow:
    """A job on the board; ``main`` is what to do next with it."""

    job: Job
    question: str
    system: str
    sources: tuple[BoardSource, ...]
    rail: list[RailMark]
    last: datetime
    main: tuple[str, str]


def board_page(words: str, number: str) -> Page[Job]:
    """A page of the jobs that words are found in: in their names, or those of their sources."""
    return Paginator(_found(words), ON_A_PAGE).get_page(number)


def _found(words: str) -> QuerySet[Job]:
    jobs = Job.objects.filter(archived_at=None)
    for word in words.split():
        jobs = jobs.filter(
            Q(name__icontains=word)
            | Q(pk__in=SourceRow.objects.filter(archived_at=None, name__icontains=word).values("job"))
        )
    return jobs


def rows_of(jobs: Sequence[Job]) -> list[BoardRow]:
    """The rows of some jobs, each table read once for all of them."""
    keys = [job.pk for job in jobs]
    sources: dict[int, list[SourceRow]] = defaultdict(list)
    for row in SourceRow.objects.filter(job__in=keys, archived_at=None):
        sources[row.job_id].append(row)
    loads = Counter(LoadRow.objects.filter(job__in=keys, removed_at=None).values_list("job", flat=True))
    safety = Counter(
        SafetyCheckRow.objects.filter(source__job__in=keys, withdrawn_at=None).values_list("source__job", flat=True)
    )
    sessions: dict[int, list[datetime | None]] = defaultdict(list)
    live = SessionRow.objects.filter(source__job__in=keys, source__archived_at=None, archived_at=None)
    for job, closed_at in live.values_list("source__job", "closed_at"):
        sessions[job].append(closed_at)
    last = worked_on(keys)
    rows = []
    for job in jobs:
        closed = sum(at is not None for at in sessions[job.pk])
        progress = JobProgress(loads[job.pk], len(sources[job.pk]), len(sessions[job.pk]), closed, safety[job.pk])
        rows.append(_row(job, sources[job.pk], progress, last[job.pk]))
    return rows


def _row(job: Job, sources: Sequence[SourceRow], progress: JobProgress, last: datetime) -> BoardRow:
    brief = bridge.brief_of(job)
    shown = tuple(_source(row, last) for row in sources)
    stage = (
        ("findings" if progress.sessions else "source")
        if brief.of_units
        else "verdict"
        if progress.loads and progress.sources
        else "source"
        if progress.loads
        else "loads"
    )
    main = (stage.capitalize(), reverse(stage, args=[job.pk]))
    return BoardRow(
        job=job,
        question=question_of(job, brief),
        system=brief.system.label,
        sources=shown,
        rail=rail_of(job, progress, ""),
        last=last,
        main=main,
    )


def _source(row: SourceRow, last: datetime) -> BoardSource:
    judged = row.judged or {}
    status = Status(judged["status"]) if judged else None
    stale = bool(judged) and not is_current(judged, {row.job_id: last})
    url = f"{reverse('verdict', args=[row.job_id])}?source={row.pk}"
    return BoardSource(row.name, status, judged.get("headline", ""), stale, url)
