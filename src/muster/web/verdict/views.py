"""Stage 9: the verdict."""

from __future__ import annotations

import json

from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.text import slugify

from muster.core.loads import TIERS
from muster.core.sessions import PROTOCOLS, Protocol
from muster.core.verdict import Verdict
from muster.formats.reports import verdict_report
from muster.formats.tables import verdict_table
from muster.records.background import Waiting, filling
from muster.records.judged import verdict_of
from muster.records.judging import judge_and_keep
from muster.records.models import SourceRow
from muster.records.playing import case_of
from muster.web.figures.tally import draw_tally
from muster.web.outage.views import scope_of
from muster.web.plan.desk import desk_of
from muster.web.ui.downloads import csv_file, download
from muster.web.ui.frame import chosen_source, get_job, has_home_loads, live_sources, of_units, stage_page, to_findings


def verdict(request: HttpRequest, job_id: int) -> HttpResponse:
    """The verdict on a source, for the loads of a tier and above."""
    job = get_job(job_id)
    if of_units(job):
        return to_findings(request, job)
    source, scope = chosen_source(request, job), scope_of(request)
    has_loads = has_home_loads(job)
    case, playing = None, Waiting()
    with filling() as waiting:
        case = case_of(source, scope, playing) if source is not None and has_loads else None
    verdict_found = None
    if source is not None and case is not None:
        verdict_found = judge_and_keep(source, case, scope, desk_of(request, source).minutes)
    context = {
        "source": source,
        "waiting": waiting,
        "playing": playing,
        "sources": live_sources(job),
        "scope": scope,
        "tiers": TIERS,
        "verdict": verdict_found,
        "case": case,
        "tally": draw_tally(verdict_found.requirements) if verdict_found else (),
        "start_tally": draw_tally(verdict_found.start_rows) if verdict_found else (),
        "after": _after_change(verdict_found),
        "next": PROTOCOLS.get(verdict_found.next_protocol) if verdict_found else None,
        "next_minutes": verdict_found.tests[0].minutes if verdict_found and verdict_found.tests else None,
        "now": timezone.now(),
    }
    return stage_page(request, job, "verdict", "verdict/verdict.html", context)


def _after_change(verdict: Verdict | None) -> Protocol | None:
    """The test to run first once what must change was changed; None where a test comes first."""
    if verdict is None or not verdict.past_testing or not verdict.tests:
        return None
    return PROTOCOLS.get(verdict.tests[0].protocol)


def _judged(request: HttpRequest, job_id: int) -> tuple[SourceRow, Verdict]:
    source = chosen_source(request, get_job(job_id))
    if source is None or not has_home_loads(source.job):
        raise Http404("nothing is judged here yet")
    return source, verdict_of(case_of(source, scope_of(request)))


def as_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """The verdict as a table."""
    source, http_response = _judged(request, job_id)
    return csv_file(verdict_table(http_response), f"{source.job.name} {source.name} verdict")


def as_json(request: HttpRequest, job_id: int) -> HttpResponse:
    """The verdict as the command line gives it."""
    source, result = _judged(request, job_id)
    report = {"source": source.name, "scope": scope_of(request).value, **verdict_report(result)}
    data = json.dumps(report, indent=1, ensure_ascii=False).encode()
    return download(data, f"{slugify(source.name) or 'source'}-verdict.json")
