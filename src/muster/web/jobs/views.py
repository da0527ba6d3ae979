"""The board of jobs, help, theme, and the pages for when something is missing."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.records import bridge
from muster.records.actions import files
from muster.records.actions import jobs as actions
from muster.records.actions.people import name_account
from muster.records.models import Job
from muster.web.ui.context import COOKIE, THEMES
from muster.web.ui.frame import get_job, question_of
from muster.web.ui.stages import RailMark, marks
from muster.web.ui.working import on_to, written

from .forms import NewJobForm

YEAR_S = 365 * 24 * 3600


@dataclass(frozen=True)
class BoardRow:
    """A job on the board."""

    job: Job
    question: str
    system: str
    sources: list[str]
    rail: list[RailMark]


def _row(job: Job) -> BoardRow:
    brief = bridge.brief_of(job)
    names = list(job.source_rows.filter(archived_at=None).values_list("name", flat=True))
    return BoardRow(job, question_of(job, brief), brief.system.label, names, marks(job, ""))


def board(request: HttpRequest) -> HttpResponse:
    """All jobs, the archived ones apart."""
    live = [_row(job) for job in Job.objects.filter(archived_at=None)]
    away = list(Job.objects.exclude(archived_at=None))
    return render(request, "jobs/board.html", {"rows": live, "archived": away})


def new(request: HttpRequest) -> HttpResponse:
    """Open a job."""
    form = NewJobForm(request.POST or None, initial={"outage_h": 24})
    if request.method == "POST" and form.is_valid():
        brief = form.brief()
        if brief is not None:
            job = actions.create_job(form.cleaned_data["name"], brief, request.user)
            return redirect("brief", job.pk)
    return render(request, "jobs/new.html", {"form": form}, status=422 if form.errors else 200)


@require_POST
def bring_in(request: HttpRequest) -> HttpResponse:
    """Import a job file: all of it or nothing."""
    given = request.FILES.get("file")
    try:
        if given is None:
            raise MusterError("no file was chosen", where="file", want="a .muster.json or .muster.zip file")
        row = files.receive_job(given.chunks(), request.user)
    except MusterError as error:
        return _not_brought_in(request, str(error))
    if row.state == row.State.FAILED:
        return _not_brought_in(request, row.message)
    if row.state == row.State.DONE:
        messages.info(request, f"{row.result['name']} is imported whole.")
    return on_to(row)


def _not_brought_in(request: HttpRequest, why: str) -> HttpResponse:
    context = {"form": NewJobForm(initial={"outage_h": 24}), "file_error": why}
    return render(request, "jobs/new.html", context, status=422)


def file(request: HttpRequest, job_id: int) -> HttpResponse:
    """The whole job as a file."""
    return written(files.write_job_file(get_job(job_id)))


@require_POST
def copy(request: HttpRequest, job_id: int) -> HttpResponse:
    """Copy a job's brief, loads and sources."""
    job = actions.copy_job(get_job(job_id), request.user)
    messages.info(request, "Copied: the brief, the loads and the sources. Sessions stay with the first.")
    return redirect("brief", job.pk)


def package(request: HttpRequest, job_id: int) -> HttpResponse:
    """Everything measured, as a data package for other programs."""
    return written(files.write_data(get_job(job_id)))


@require_POST
def archive(request: HttpRequest, job_id: int) -> HttpResponse:
    """Archive a job."""
    job = actions.archive_job(get_job(job_id), request.user)
    messages.info(request, f"{job.name} is archived. It is at the foot of this page and can be restored.")
    return redirect("board")


@require_POST
def restore(request: HttpRequest, job_id: int) -> HttpResponse:
    """Bring a job back."""
    job = actions.restore_job(get_job(job_id), request.user)
    messages.info(request, f"{job.name} is back.")
    return redirect("board")


@require_POST
def theme(request: HttpRequest) -> HttpResponse:
    """Remember a theme; without script this is how it is set."""
    back = request.POST.get("next", "/")
    safe = url_has_allowed_host_and_scheme(back, allowed_hosts={request.get_host()})
    response = redirect(back if safe else "/")
    chosen = request.POST.get("theme", "")
    if chosen in THEMES:
        response.set_cookie(COOKIE, chosen, max_age=YEAR_S, samesite="Lax")
    else:
        response.delete_cookie(COOKIE)
    return response


def help_page(request: HttpRequest) -> HttpResponse:
    """Keys, the log line, and the name that records show."""
    error = ""
    if request.method == "POST":
        try:
            name_account(request.user, request.POST.get("name", ""))
            messages.info(request, "Your name is saved; it is shown beside what you log from now on.")
            return redirect("help")
        except MusterError as wrong:
            error = str(wrong)
    return render(request, "jobs/help.html", {"error": error}, status=422 if error else 200)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Nothing is at this address."""
    return render(request, "jobs/missing.html", status=404)


def went_wrong(request: HttpRequest) -> HttpResponse:
    """Something failed inside Muster."""
    return render(request, "jobs/failed.html", status=500)
