"""The report's page, and the report itself."""

from __future__ import annotations

from functools import partial

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.urls import reverse
from django.utils import timezone

from muster.core.loads import TIERS, Tier
from muster.core.verdict.inputs import VerdictInputs
from muster.formats.data_digest import data_parts
from muster.records import bridge
from muster.records.actions.jobs import write_out
from muster.records.background import Waiting, every, filling
from muster.records.judged import verdict_of
from muster.records.models import Job, SourceRow
from muster.records.playing import case_of
from muster.web.outage.views import scope_of
from muster.web.ui.downloads import file_name, keep_as
from muster.web.ui.frame import get_job, has_home_loads, live_sources, of_units, stage_page, to_findings

from .papers import POLICY, PaperFacts, PaperSize
from .report import JudgedSource, report_file

FOR_REPORTS = (PaperSize.A4, PaperSize.LETTER)


def _wanted(request: HttpRequest, job: Job) -> list[SourceRow]:
    """The sources that the report is about: those asked for, else all."""
    asked = request.GET.getlist("source")
    sources = live_sources(job)
    return [row for row in sources if str(row.pk) in asked] or sources


def _cases(sources: list[SourceRow], scope: Tier, waiting: Waiting) -> tuple[VerdictInputs, ...]:
    """What each source is judged on; while anything of it is being worked out, none."""
    with filling(waiting):
        return every(partial(case_of, row, scope, waiting) for row in sources)
    return ()


def report(request: HttpRequest, job_id: int) -> HttpResponse:
    """What is to be in the report, and the way to it."""
    job = get_job(job_id)
    if of_units(job):
        return to_findings(request, job)
    sources, scope, waiting = _wanted(request, job), scope_of(request), Waiting()
    has_loads = has_home_loads(job)
    if has_loads:
        _cases(sources, scope, waiting)
    context = {
        "sources": live_sources(job),
        "chosen": {row.pk for row in sources},
        "scope": scope,
        "tiers": TIERS,
        "papers": FOR_REPORTS,
        "waiting": waiting if not waiting.over else None,
        "has_loads": has_loads,
    }
    return stage_page(request, job, "verdict", "verdict/report_page.html", context)


def as_file(request: HttpRequest, job_id: int) -> HttpResponse:
    """The report as one file, to read, to print or to keep."""
    job = get_job(job_id)
    sources, scope, waiting = _wanted(request, job), scope_of(request), Waiting()
    cases = _cases(sources, scope, waiting)
    if not waiting.over or len(cases) < len(sources):
        return redirect(f"{reverse('report', args=[job_id])}?{request.GET.urlencode()}")
    package = write_out(job)
    records = dict(zip([row.pk for row in live_sources(job)], package.job.sources, strict=True))
    judged = [JudgedSource(records[row.pk], case, verdict_of(case)) for row, case in zip(sources, cases, strict=True)]
    facts = PaperFacts(
        kind="report",
        job=job.name,
        at=timezone.now(),
        who=bridge.shown_name(request.user),
        parts=data_parts(package.job),
    )
    paper = PaperSize.LETTER if request.GET.get("paper") == PaperSize.LETTER else PaperSize.A4
    response = HttpResponse(report_file(package, judged, scope, facts, paper), content_type="text/html; charset=utf-8")
    response["Content-Security-Policy"] = POLICY
    if "save" in request.GET:
        keep_as(response, file_name(job.name, "report", ending=".html"))
    return response
