"""Stage 6: the bench. Sessions are started here, and run on a page of their own."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.core.plan.fitting import fitting
from muster.core.sessions import PROTOCOLS, Event, Step, Switch
from muster.core.sessions.replay import replay
from muster.formats.tables import stack_table
from muster.records import bridge
from muster.records.actions import amending, loads, pasting
from muster.records.actions import sessions as actions
from muster.records.actions.recordings import current
from muster.records.actions.safety import safety_checks_of
from muster.records.checking import checks_on
from muster.records.looking import looking
from muster.records.models import EntryRow, Job, SessionRow, SourceRow
from muster.web.ui.downloads import csv_file
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import chosen_source, get_job, live_sources, stage_page
from muster.web.ui.said import say_undoable

from .find import find_session
from .forms import StartForm, entry_form
from .marks import mark_of
from .page_context import live_of, record_lines

FIRST = "ladder"
EVENT_KEYS = ("step", "hold", "trip", "dip", "reset", "pause", "resume")


def _steps(request: HttpRequest, source: SourceRow, protocol: str) -> tuple[tuple[Step, ...], str]:
    """The planned steps, or the reason why there are none."""
    try:
        return actions.plan_steps(source, protocol, request.user), ""
    except MusterError as error:
        return (), error_sentence(error)


def bench(request: HttpRequest, job_id: int) -> HttpResponse:
    """The sessions of a job, and the start of another."""
    job = get_job(job_id)
    source = chosen_source(request, job)
    protocol = request.GET.get("protocol", request.POST.get("protocol", FIRST))
    brief = bridge.brief_of(job)
    steps, why_not = _steps(request, source, protocol) if source else ((), "")
    initial = {
        "protocol": protocol,
        "temp_c": brief.site.temp_c,
        "altitude_m": brief.site.altitude_m,
        "written_up": bool(why_not),
    }
    form = StartForm(request.POST or None, initial=initial)
    confirmed = request.POST.getlist("confirmed")
    if request.method == "POST" and source is not None and form.is_valid():
        conditions = form.conditions(brief.site.altitude_m)
        started = form.build(
            lambda: actions.start_session(
                source,
                form.cleaned_data["protocol"],
                conditions,
                request.user,
                confirmed=confirmed,
                began=form.began_at(brief.zone),
                written_up=form.cleaned_data["written_up"],
            )
        )
        if started is not None:
            by_hand = PROTOCOLS[started.protocol].by_hand
            return redirect("session-inspect" if by_hand else "session", job.pk, started.pk)
    context = {
        "form": form,
        "source": source,
        "sources": live_sources(job),
        "protocol": PROTOCOLS.get(protocol),
        "protocols": fitting(bridge.source_of(source), brief.system) if source else (PROTOCOLS.values(), ()),
        "steps": _told_steps(job, steps),
        "why_not": why_not,
        "checks": safety_checks_of(source, protocol, steps, request.user) if source else (),
        "confirmed": confirmed,
        "sessions": _sessions(job).filter(archived_at=None),
        "away": _sessions(job).exclude(archived_at=None),
    }
    return stage_page(request, job, "bench", "bench/bench.html", context, 422 if form.errors else 200)


def _sessions(job: Job) -> QuerySet[SessionRow]:
    return SessionRow.objects.filter(source__job=job, source__archived_at=None).select_related("source")


def _told_steps(job: Job, steps: tuple[Step, ...]) -> list[tuple[Step, str]]:
    names = dict(job.load_rows.values_list("key", "name"))
    return [(step, ", ".join(names[key].split(",")[0] for key in step.loads if key in names)) for step in steps]


@looking()
def live_context(row: SessionRow, wanted: str = "", data: Any = None, *, everything: bool = False) -> dict[str, Any]:
    """What the bench page of a session is drawn from."""
    home = bridge.home_of(row.source.job)
    mark = mark_of(row, current(row))  # before what it stands for is read: at worst the page is drawn once too often
    return {
        "mark": mark,
        "live": live_of(row, wanted, everything=everything),
        "form": entry_form(row.protocol, data, home.brief.system, home.every, bridge.session_data(row).kit_on()),
        "source": row.source,
        "brief": home.brief,
        "job": row.source.job,
        "amendments": row.amendment_rows.all() if row.closed_at is not None else (),
    }


def session(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """A session being run, or read back."""
    row = find_session(job_id, session_id)
    context = live_context(row, request.GET.get("next", ""), everything="all" in request.GET)
    if request.htmx:
        return _live_parts(request, context)
    return stage_page(request, row.source.job, "bench", "bench/session.html", context | _another(row))


def _another(row: SessionRow) -> dict[str, Any]:
    """The start of the next write-up, under the conditions of the one before; nothing beside a session that is being run."""
    if not actions.is_written_up(row):
        return {}
    conditions = bridge.session_data(row).conditions
    home = bridge.home_of(row.source.job)
    return {
        "another": StartForm(
            initial={
                "temp_c": conditions.temp_c,
                "altitude_m": conditions.altitude_m,
                "fuel": conditions.fuel,
                "written_up": True,
            }
        ),
        "sources": live_sources(row.source.job),
        "protocols": fitting(bridge.source_of(row.source), home.brief.system),
        "protocol": PROTOCOLS[row.protocol],
    }


def understood(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """What the line being typed would be taken to say."""
    text = request.GET.get("line", "")
    if not text.strip():
        return HttpResponse("")
    row = find_session(job_id, session_id)
    session = bridge.session_of(row)
    jotting = actions.understand(row, text, session)
    flags = actions.checks_of_line(row, jotting, text, session)
    return render(request, "bench/understood.html", {"jotting": jotting, "flags": flags})


def _do(request: HttpRequest, job_id: int, session_id: int, change: Callable[[SessionRow], Any]) -> HttpResponse:
    """Make a change and show the bench again; what is refused is said beside the line."""
    row = find_session(job_id, session_id)
    try:
        actions.once(row, request.POST.get("once", ""), lambda: change(row))
    except MusterError as error:
        text = error_sentence(error)
        if request.htmx:
            response = HttpResponse(text, status=422)
            response["HX-Retarget"], response["HX-Reswap"] = "#refused", "textContent"
            return response
        messages.error(request, text)
        return redirect("session", job_id, session_id)
    if request.htmx:
        return _live_parts(request, live_context(row))
    return redirect("session", job_id, session_id)


def _live_parts(request: HttpRequest, context: dict[str, Any]) -> HttpResponse:
    """The parts of the bench that change, with the mark of what they were drawn from."""
    response = render(request, "bench/live.html", context)
    response["Muster-Mark"] = context["mark"]
    return response


def _log(request: HttpRequest, row: SessionRow) -> Any:
    text, name = request.POST.get("line", ""), request.POST.get("add", "")
    if name.strip():
        return loads.add_and_log(row, name, text, request.user, ago_s=_ago_s(request))
    return actions.log_line(row, text, request.user, ago_s=_ago_s(request))


@require_POST
def line(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Keep a jotted line."""
    return _do(request, job_id, session_id, lambda row: _log(request, row))


def paste(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Notes pasted into a session: every line told back, and taken when that is said to be right."""
    row = find_session(job_id, session_id)
    text, lines, error = request.POST.get("text", ""), [], ""
    try:
        if request.POST.get("do") == "take":
            count = len(pasting.log_pasted(row, text, request.user))
            messages.info(request, f"{count} lines are in the record; each can be corrected.")
            return redirect("session", job_id, session_id)
        if request.method == "POST":
            lines = pasting.look_at_pasted(row, text, request.user)
    except MusterError as wrong:
        error = error_sentence(wrong)
    context = {"row": row, "source": row.source, "text": text, "lines": lines, "error": error}
    return stage_page(request, row.source.job, "bench", "bench/paste.html", context, 422 if error else 200)


@require_POST
def form(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Keep what the form beside the line holds."""
    row = find_session(job_id, session_id)
    home = bridge.home_of(row.source.job)
    filled = entry_form(row.protocol, request.POST, home.brief.system, home.every, bridge.session_data(row).kit_on())
    if filled.is_valid():
        kept = filled.build(lambda: actions.log_items(row, filled.items(), "by the form", request.user))
        if kept is not None:
            return redirect("session", job_id, session_id)
    context = {**live_context(row), "form": filled}
    return stage_page(request, row.source.job, "bench", "bench/session.html", context, 422)


@require_POST
def switch(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Switch a load on or off."""
    key, on = request.POST.get("load", ""), request.POST.get("on") == "1"
    raw = f"{'+' if on else '-'}{key}"
    return _do(
        request,
        job_id,
        session_id,
        lambda row: actions.log_items(row, [Switch(key, on)], raw, request.user, ago_s=_ago_s(request)),
    )


@require_POST
def event(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Something happened: step done, hold, trip, dip, reset."""
    name = request.POST.get("event", "")
    items = [Event(name)] if name in EVENT_KEYS else []

    def log(row: SessionRow) -> EntryRow | None:
        if _pressed_twice(row, name, request.POST):
            return None
        return actions.log_items(row, items, f"!{name}", request.user, ago_s=_ago_s(request))

    return _do(request, job_id, session_id, log)


def _pressed_twice(row: SessionRow, name: str, said: QueryDict) -> bool:
    """Whether the page had not yet seen its first press: a step is not skipped, a hold not begun again, a trip not doubled."""
    if name not in ("step", "hold", "trip"):
        return False
    record = replay(bridge.session_of(row), bridge.brief_of(row.source.job).system.legs)
    if name == "step":
        return said.get("step", "").isdigit() and int(said["step"]) != record.step + 1
    if name == "hold":
        return said.get("holding") == "" and record.hold_from_s is not None
    return said.get("tripped") == "" and record.tripped


MOST_AGO_S = 7 * 24 * 3600.0


def _ago_s(request: HttpRequest) -> float:
    """How long ago it was pressed or typed: it may have waited in the browser for Muster to be back."""
    try:
        ago_s = float(request.POST.get("ago_s", "0"))
    except ValueError:
        return 0.0
    return ago_s if 0 <= ago_s <= MOST_AGO_S else 0.0


@require_POST
def undo(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Undo the last entry that stands."""
    return _do(request, job_id, session_id, lambda row: actions.undo(row, request.user))


@require_POST
def put_back(request: HttpRequest, job_id: int, session_id: int, entry_id: int) -> HttpResponse:
    """Undo the undo of an entry."""
    entry = get_object_or_404(EntryRow.objects.select_related("session__source__job"), pk=entry_id, session=session_id)
    return _do(request, job_id, session_id, lambda row: actions.put_back(entry, request.user))


@require_POST
def amend(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Set something right in a sealed session."""
    row = find_session(job_id, session_id)
    wanted = request.POST.get("entry", "")
    entry = get_object_or_404(EntryRow, pk=wanted, session=row) if wanted.isdigit() else None
    try:
        amendment = amending.amend(
            row, request.POST.get("reason", ""), request.POST.get("line", ""), request.user, entry
        )
        messages.info(request, f"Amendment {amendment.number} is kept, and sealed with what was sealed before.")
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect("session", job_id, session_id)


@require_POST
def correct(request: HttpRequest, job_id: int, session_id: int, entry_id: int) -> HttpResponse:
    """Supersede an entry."""
    entry = get_object_or_404(EntryRow.objects.select_related("session__source__job"), pk=entry_id, session=session_id)
    text = request.POST.get("line", "")
    return _do(request, job_id, session_id, lambda row: actions.correct(entry, text, request.user))


@require_POST
def confirm(request: HttpRequest, job_id: int, session_id: int, entry_id: int) -> HttpResponse:
    """Say that a flagged entry is right as it was read."""
    entry = get_object_or_404(EntryRow.objects.select_related("session__source__job"), pk=entry_id, session=session_id)
    return _do(request, job_id, session_id, lambda row: actions.confirm(entry, request.user))


def checks(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Everything the checks flag in a session, and what was corrected, in one place."""
    row = find_session(job_id, session_id)
    home = bridge.home_of(row.source.job)
    session = bridge.session_of(row)
    lines = record_lines(row, home, session, checks_on(row, session))[::-1]
    corrected = {line.row.supersedes_id: line for line in lines if line.row.supersedes_id}
    context = {
        "session": row,
        "source": row.source,
        "open": row.closed_at is None,
        "flagged": [line for line in lines if line.checks],
        "superseded": [(line, corrected[line.row.pk]) for line in lines if line.row.pk in corrected],
    }
    return stage_page(request, row.source.job, "bench", "bench/checks.html", context)


@require_POST
def away(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Archive a session or restore it."""
    row = find_session(job_id, session_id)
    if row.archived_at is None:
        actions.archive_session(row, request.user)
        url = reverse("session-archive", args=[job_id, session_id])
        say_undoable(request, "The session is archived; nothing of it counts now.", url)
    else:
        actions.restore_session(row, request.user)
    return redirect("bench", job_id)


def stack_csv(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """What stands on the Stack, as a table."""
    live = live_of(find_session(job_id, session_id), request.GET.get("next", ""))
    on, starting = [call.load for call in live.calls if call.on], [call.load for call in live.calls if call.chosen]
    table = stack_table(on, starting[0] if starting else None, live.limits)
    return csv_file(table, f"{live.row.source.name} stack")


@require_POST
def close(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Close and seal a session."""
    row = find_session(job_id, session_id)
    try:
        actions.close_session(row)
        messages.info(request, "Closed and sealed. Here is what it found.")
    except MusterError as error:
        messages.error(request, str(error))
    return redirect(f"{reverse('findings', args=[job_id])}?source={row.source_id}")
