"""An inspection by thumb: each point with its answers, a note, and photos at what was answered."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.core.sessions.inspection import POINTS, answered, inspected, text_of
from muster.records import bridge
from muster.records.actions import sessions as actions
from muster.records.models import SessionRow
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import stage_page

from .find import find_session


def inspect(request: HttpRequest, job_id: int, session_id: int, error: str = "") -> HttpResponse:
    """Every point, with what was answered of it."""
    row = find_session(job_id, session_id)
    context = {**_context(row), "error": error}
    if request.headers.get("HX-Request"):
        return render(request, "bench/inspection_points.html", {**context, "job": row.source.job})
    return stage_page(request, row.source.job, "bench", "bench/inspection.html", context, 422 if error else 200)


def _context(row: SessionRow) -> dict[str, object]:
    session = bridge.session_of(row)
    said = {item.point.slug: item for item in inspected(session.effective)}
    rows = {entry.seq: entry for entry in bridge.entry_rows_of(row)}
    points = [
        {"point": point, "said": item, "entry": rows[item.seq] if item is not None else None}
        for point in POINTS
        for item in (said.get(point.slug),)
    ]
    return {
        "session": row,
        "points": points,
        "open": row.closed_at is None,
        "cautions": [item for item in said.values() if item.answer.caution],
        "left": len(POINTS) - len(said),
    }


@require_POST
def answer(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Keep an answer; a later one of the same point counts in the place of the earlier."""
    row = find_session(job_id, session_id)
    try:
        looked = answered(request.POST.get("point", ""), request.POST.get("answer", ""), request.POST.get("note", ""))
        actions.log_items(row, (looked,), text_of(looked), request.user)
    except MusterError as failed:
        return inspect(request, job_id, session_id, error_sentence(failed))
    if request.headers.get("HX-Request"):
        return inspect(request, job_id, session_id)
    return redirect("session-inspect", job_id, row.pk)
