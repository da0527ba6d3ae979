"""The board of jobs, help, theme, and the pages for when something is missing."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.records.actions import files
from muster.records.actions import jobs as actions
from muster.records.actions import notes as note_actions
from muster.records.actions.opening import open_job
from muster.records.actions.people import name_account
from muster.records.models import Job
from muster.web.ui.context import COOKIE, THEMES
from muster.web.ui.downloads import file_name, keep_as
from muster.web.ui.frame import get_job, of_units
from muster.web.ui.working import on_to, written

from .board import board_page, rows_of
from .forms import NewJobForm
from .told import told_by_section

YEAR_S = 365 * 24 * 3600
MOST_BYTES = 500_000
MOST_ARCHIVED = 200


def board(request: HttpRequest) -> HttpResponse:
    """All jobs, the archived ones apart."""
    return _board(request)


def _board(request: HttpRequest, asked: str = "", ask_error: str = "") -> HttpResponse:
    words = request.GET.get("find", "").strip()
    page = board_page(words, request.GET.get("page", ""))
    context = {
        "rows": rows_of(list(page.object_list)),
        "page": page,
        "find": words,
        "archived": list(Job.objects.exclude(archived_at=None)[:MOST_ARCHIVED]),
        "any": bool(words) or page.paginator.count > 0,
        "asked": asked,
        "ask_error": ask_error,
    }
    return render(request, "jobs/board.html", context, status=422 if ask_error else 200)


def new(request: HttpRequest) -> HttpResponse:
    """Open a job."""
    form = NewJobForm(request.POST or None, initial={"outage_h": 24})
    if request.method == "POST" and form.is_valid():
        brief = form.brief()
        if brief is not None:
            said = form.cleaned_data
            job = form.build(
                lambda: open_job(said["name"], brief, request.user, loads=said["loads"], source=said["source"])
            )
            if job is not None:
                return redirect("brief", job.pk)
    return render(request, "jobs/new.html", {"form": form}, status=422 if form.errors else 200)


def notes(request: HttpRequest) -> HttpResponse:
    """Make a job of notes, pasted or from a file: every line told back before anything is kept."""
    text, read, error = request.POST.get("text", ""), None, ""
    if request.method == "POST":
        try:
            text = _text_of(request) or text
            if request.POST.get("do") == "take":
                job = note_actions.take_notes(text, request.user)
                messages.info(request, f"{job.name} is made of the notes. Look it through: everything can be changed.")
                judged = job.source_rows.exists() and job.load_rows.exists()
                return redirect("findings" if of_units(job) else "verdict" if judged else "brief", job.pk)
            read = note_actions.look_at_notes(text)
        except MusterError as wrong:
            error = str(wrong)
    context = {"text": text, "notes": read, "parts": told_by_section(read) if read else [], "error": error}
    return render(request, "jobs/notes.html", context, status=422 if error else 200)


def _text_of(request: HttpRequest) -> str:
    """The text of a notes file that was chosen or dropped; empty if there is none."""
    given = request.FILES.get("notes")
    if given is None:
        return ""
    if given.size is not None and given.size > MOST_BYTES:
        raise MusterError("too long for notes", where=given.name or "notes", want="at most 500 kB of text")
    try:
        return given.read().decode("utf-8-sig")
    except UnicodeDecodeError:
        raise MusterError("is no plain UTF-8 text", where=given.name or "notes", want="a .txt or .md file") from None


@require_POST
def ask(request: HttpRequest) -> HttpResponse:
    """Answer a question in one line: a job of it, and its verdict."""
    line = request.POST.get("question", "")
    try:
        job = note_actions.ask(line, request.user)
    except MusterError as wrong:
        return _board(request, asked=line, ask_error=str(wrong))
    return redirect("verdict", job.pk)


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


def as_notes(request: HttpRequest, job_id: int) -> HttpResponse:
    """The job as notes: what notes can hold."""
    job = get_job(job_id)
    answer = HttpResponse(note_actions.notes_of(job), content_type="text/plain; charset=utf-8")
    keep_as(answer, file_name(job.name, "notes", ending=".txt"))
    return answer


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
