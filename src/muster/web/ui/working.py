"""Pages that wait for long work: what is missing and how far it is, filled in when it is there."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.records import background
from muster.records.actions import files
from muster.records.background import NotReady, Waiting
from muster.records.models import WorkRow

from .downloads import download
from .frame import get_job, stage_page
from .stages import STAGES

LOOK_AGAIN_S = 2
"""Without script a page that waits is fetched again so often."""


class StillWorking:
    """Answers for a page of which nothing can be shown before long work is done."""

    def __init__(self, respond: object) -> None:
        self._respond = respond

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Respond as ever."""
        return self._respond(request)  # type: ignore[operator]

    def process_exception(self, request: HttpRequest, exception: Exception) -> HttpResponse | None:
        """The frame of the page, and what it waits for."""
        if not isinstance(exception, NotReady):
            return None
        response = _waiting_page(request, Waiting(exception.rows))
        response.headers["Refresh"] = str(LOOK_AGAIN_S) if not any(row.over for row in exception.rows) else "3600"
        return response


def _waiting_page(request: HttpRequest, waiting: Waiting) -> HttpResponse:
    context = {"waiting": waiting}
    match = request.resolver_match
    parts = match.route.split("/") if match else []
    stage = next((stage.slug for stage in STAGES if len(parts) > 2 and stage.slug == parts[2]), None)
    if match is None or stage is None or "job_id" not in match.kwargs:
        return render(request, "ui/working.html", {**context, "frame_of": "ui/base.html"}, status=202)
    job = get_job(match.kwargs["job_id"])
    return stage_page(request, job, stage, "ui/working.html", {**context, "frame_of": "ui/frame.html"}, 202)


def look(request: HttpRequest) -> HttpResponse:
    """How far the work is that a page waits for; when all of it is done, the page is fetched again."""
    wanted = [int(part) for part in request.GET.get("id", "").split(",") if part.isdigit()]
    rows = list(WorkRow.objects.filter(pk__in=wanted))
    if all(row.state == WorkRow.State.DONE for row in rows):
        response = HttpResponse()
        response["HX-Refresh"] = "true"
        return response
    return render(request, "ui/waiting.html", {"waiting": Waiting(rows)})


def _row(work_id: int) -> WorkRow:
    return get_object_or_404(WorkRow, pk=work_id)


@require_POST
def stop(request: HttpRequest, work_id: int) -> HttpResponse:
    """Stop a piece of work: nothing of it is kept."""
    background.ask_stop(_row(work_id))
    return _back(request)


@require_POST
def again(request: HttpRequest, work_id: int) -> HttpResponse:
    """Try once more what failed or was stopped."""
    row = _row(work_id)
    if row.state in (WorkRow.State.FAILED, WorkRow.State.STOPPED):
        background.again(row)
    return _back(request)


def _back(request: HttpRequest) -> HttpResponse:
    back = request.POST.get("next", "/")
    return redirect(back if back.startswith("/") and not back.startswith("//") else "/")


ENDS: dict[str, Callable[[dict[str, Any]], tuple[Any, ...]]] = {
    "read-in": lambda result: ("brief", result["job"]),
    "capture-in": lambda result: ("capture", *result["at"]),
}
"""Where a finished piece of work leads, by its task, when it made something to look at."""


def on_to(row: WorkRow) -> HttpResponse:
    """To what a piece of work made, or to the page that waits for it."""
    if row.state == WorkRow.State.DONE and row.task in ENDS:
        return redirect(*ENDS[row.task](row.result))
    return redirect("work", row.pk)


def work(request: HttpRequest, work_id: int) -> HttpResponse:
    """A piece of work that has a page of its own: a job file read or written."""
    row = _row(work_id)
    if row.state == WorkRow.State.DONE and row.task in ENDS:
        return on_to(row)
    if row.state == WorkRow.State.DONE:
        return render(request, "ui/written.html", {"row": row})
    return render(request, "ui/working.html", {"waiting": Waiting([row]), "frame_of": "ui/base.html"})


def fetch(request: HttpRequest, work_id: int) -> HttpResponse:
    """The file that a piece of work wrote."""
    row = _row(work_id)
    try:
        return download(files.fetched(row), row.result.get("name", "job.muster.zip"))
    except MusterError as error:
        return render(request, "ui/written.html", {"row": row, "error": str(error)}, status=422)


def written(row: WorkRow) -> HttpResponse:
    """The file at once where it is written already, else the page that waits for it."""
    if row.state == WorkRow.State.DONE:
        return download(files.fetched(row), row.result["name"])
    return redirect("work", row.pk)
