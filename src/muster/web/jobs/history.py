"""The history of a job: every change with what stood before, undone and done again."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.records import bridge
from muster.records.actions import history as actions
from muster.records.models import ChangeRow
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import get_job, question_of
from muster.web.ui.stages import marks

MOST = 300


@dataclass(frozen=True)
class Change:
    """A change as the page tells it."""

    row: ChangeRow
    who: str
    details: list[str]


def _told(row: ChangeRow) -> Change:
    details = [
        f"{name.replace('_', ' ')} {_value(before)} → {_value(after)}"
        for name, before, after in actions.differences(row)
    ]
    return Change(row, bridge.shown_name(row.who), details)


def _value(value: object) -> str:
    if isinstance(value, list):
        return ", ".join(map(str, value)) or "none"
    return "not said" if value in (None, "") else f"{value:g}" if isinstance(value, float) else str(value)


def history(request: HttpRequest, job_id: int) -> HttpResponse:
    """What was changed, the latest first."""
    job = get_job(job_id)
    brief = bridge.brief_of(job)
    rows = job.change_rows.select_related("who")[:MOST]
    context = {
        "job": job,
        "brief": brief,
        "question": question_of(job, brief),
        "rail": marks(job, ""),
        "changes": [_told(row) for row in rows],
        "most": MOST,
    }
    return render(request, "jobs/history.html", context)


def _do(request: HttpRequest, job_id: int, change: Callable[[], ChangeRow], words: str) -> HttpResponse:
    try:
        row = change()
        messages.info(request, f"{words}: {row.label}.")
    except MusterError as error:
        messages.error(request, error_sentence(error))
    back = request.POST.get("next", "")
    safe = url_has_allowed_host_and_scheme(back, allowed_hosts={request.get_host()})
    return redirect(back if safe else reverse("history", args=[job_id]))


def _row(job_id: int, change_id: int) -> ChangeRow:
    return get_object_or_404(ChangeRow, pk=change_id, job=job_id)


@require_POST
def undo(request: HttpRequest, job_id: int, change_id: int) -> HttpResponse:
    """Put back what stood before a change."""
    return _do(request, job_id, lambda: actions.undo_change(_row(job_id, change_id)), "Undone")


@require_POST
def redo(request: HttpRequest, job_id: int, change_id: int) -> HttpResponse:
    """Do an undone change again."""
    return _do(request, job_id, lambda: actions.redo_change(_row(job_id, change_id)), "Done again")
