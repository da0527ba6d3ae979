"""What the frame around a job's page needs."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from muster.core.brief import Brief
from muster.core.loads import Tier
from muster.records import bridge
from muster.records.actions.history import last_change
from muster.records.models import Job, SourceRow

from .stages import marks


def get_job(job_id: int) -> Job:
    """The job, or a page that says it is not there."""
    return get_object_or_404(Job, pk=job_id)


def live_sources(job: Job) -> list[SourceRow]:
    """The sources not archived."""
    return list(job.source_rows.filter(archived_at=None))


def chosen_source(request: HttpRequest, job: Job) -> SourceRow | None:
    """The source asked for in the address, else the first; None when there is none."""
    sources = live_sources(job)
    wanted = request.GET.get("source") or request.POST.get("source")
    return next((s for s in sources if str(s.pk) == wanted), sources[0] if sources else None)


def question_of(job: Job, brief: Brief) -> str:
    """The question at the top of every page of a job."""
    if brief.of_units:
        return brief.question or f"what does {job.name} do?"
    return brief.question or f"can it carry {job.name} for {brief.outage_h:g} h?"


def stage_page(
    request: HttpRequest, job: Job, stage: str, template: str, context: dict[str, Any], status: int = 200
) -> HttpResponse:
    """Render a stage's page inside the frame of its job."""
    rail = marks(job, stage)
    at = next(i for i, mark in enumerate(rail) if mark.here)
    brief = bridge.brief_of(job)
    frame = {
        "job": job,
        "brief": brief,
        "question": question_of(job, brief),
        "rail": rail,
        "stage": rail[at].stage,
        "before": rail[at - 1] if at else None,
        "after": rail[at + 1] if at + 1 < len(rail) else None,
        "last_change": last_change(job) if request.method == "GET" and stage != "bench" else None,
    }
    return render(request, template, {**frame, **context}, status=status)


def of_units(job: Job) -> bool:
    """Whether a job is of units alone: no home is judged."""
    return bool(job.brief.get("of_units"))


def has_home_loads(job: Job) -> bool:
    """Whether anything is listed that a home runs; what is there for tests alone asks nothing of a source."""
    return job.load_rows.filter(removed_at=None).exclude(tier=Tier.TEST).exists()


def to_findings(request: HttpRequest, job: Job) -> HttpResponse:
    """To what a job of units alone comes to, from a stage that it does not have."""
    messages.info(request, "This job is of units alone: what was found of each, and its character, are its result.")
    return redirect("findings", job.pk)
