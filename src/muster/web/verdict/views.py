"""Stage 9: the verdict."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from muster.core.loads import TIERS
from muster.core.sessions import PROTOCOLS, RUNNABLE
from muster.core.verdict import judge
from muster.records.judging import case_of
from muster.web.day.views import scope_of
from muster.web.figures.tally import draw_tally
from muster.web.ui.frame import chosen_source, get_job, live_sources, stage_page


def verdict(request: HttpRequest, job_id: int) -> HttpResponse:
    """The verdict on a source, for the loads of a tier and above."""
    job = get_job(job_id)
    source, scope = chosen_source(request, job), scope_of(request)
    has_loads = job.load_rows.filter(removed_at=None).exists()
    case = case_of(source, scope) if source is not None and has_loads else None
    found = judge(case) if case is not None else None
    context = {
        "source": source,
        "sources": live_sources(job),
        "scope": scope,
        "tiers": TIERS,
        "verdict": found,
        "case": case,
        "tally": draw_tally(found.requirements) if found else (),
        "start_tally": draw_tally(found.start_rows) if found else (),
        "next": PROTOCOLS.get(found.next_protocol) if found else None,
        "runnable": RUNNABLE,
        "now": timezone.now(),
    }
    return stage_page(request, job, "verdict", "verdict/verdict.html", context)
