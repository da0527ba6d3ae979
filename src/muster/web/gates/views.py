"""Stage 5: the gates; recording them is still to come, the cautions are here."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse

from muster.core.brief import cautions
from muster.records import bridge
from muster.web.ui.frame import get_job, live_sources, stage_page


def gates(request: HttpRequest, job_id: int) -> HttpResponse:
    """The cautions of this job's wiring and sources."""
    job = get_job(job_id)
    brief = bridge.brief_of(job)
    rows = [(row, cautions(brief, bridge.source_of(row))) for row in live_sources(job)]
    return stage_page(request, job, "gates", "gates/gates.html", {"rows": rows})
