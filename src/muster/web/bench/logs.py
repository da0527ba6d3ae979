"""Recorded logs of a session: imported, mapped, watched while they are read, archived."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.core.quantities import duration
from muster.core.timeline.traces import Channel, channel_named
from muster.formats.logs.layout import LogLayout
from muster.formats.logs.mapping import Mapping
from muster.formats.logs.writing import trace_csv
from muster.records import bridge
from muster.records.actions import imports, traces
from muster.records.models import ImportRow, SessionRow, TraceRow
from muster.records.recording.recorder import recording
from muster.web.ui.downloads import download
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import stage_page
from muster.web.ui.said import say_undoable

from .find import find_session
from .logforms import MappingForm, initial_of


def logs(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """The logs of a session, and a place to import another."""
    session = find_session(job_id, session_id)
    error = ""
    if request.method == "POST":
        try:
            given = request.FILES.get("file")
            if given is None:
                raise MusterError("no file was chosen", where="file", want="a CSV log")
            row = imports.receive(session, given.name or "log.csv", given.chunks(), request.user)
            return redirect("log-import", job_id, session_id, row.pk)
        except MusterError as wrong:
            error = error_sentence(wrong)
    rows = session.trace_rows.filter(staged=False)
    context = {
        "session": session,
        "error": error,
        "open": session.closed_at is None,
        "traces": [_shown(row) for row in rows.filter(removed_at=None)],
        "away": [_shown(row) for row in rows.exclude(removed_at=None)],
        "recording": [(row, row.live_rows.count()) for row in recording(session)],
        "imports": session.import_rows.exclude(state=ImportRow.State.DONE),
    }
    return stage_page(request, session.source.job, "bench", "bench/logs.html", context, 422 if error else 200)


def _shown(row: TraceRow) -> dict[str, Any]:
    kit = bridge.session_data(row.session).kit_on()
    return {
        "row": row,
        "label": ", ".join(channel_named(h).label for h in row.channels),
        "span_s": row.t1_s - row.t0_s,
        "instrument": next((i.name for i in kit.instruments if i.slug == row.instrument), row.instrument),
    }


def _import(job_id: int, session_id: int, import_id: int) -> ImportRow:
    rows = ImportRow.objects.select_related("session__source__job", "trace")
    return get_object_or_404(rows, pk=import_id, session=session_id, session__source__job=job_id)


def log_import(request: HttpRequest, job_id: int, session_id: int, import_id: int) -> HttpResponse:
    """A file being mapped, being read, or why it was not."""
    row = _import(job_id, session_id, import_id)
    if row.state == ImportRow.State.DONE:
        return _gone(request, reverse("strip", args=[job_id, session_id]) + f"?trace={row.trace_id}")
    if row.state == ImportRow.State.READING:
        context = {"import": row, "session": row.session, "job": row.session.source.job}
        if request.htmx:
            return render(request, "bench/reading.html", context)
        return stage_page(request, row.session.source.job, "bench", "bench/importing.html", context)
    if request.htmx and request.htmx.target == "reading":
        return _gone(request, request.path)
    return _mapping(request, row)


def _gone(request: HttpRequest, url: str) -> HttpResponse:
    """On to another page, from a page or from a part of one."""
    if not request.htmx:
        return redirect(url)
    response = HttpResponse()
    response["HX-Redirect"] = url
    return response


def _mapping(request: HttpRequest, row: ImportRow) -> HttpResponse:
    home = bridge.home_of(row.session.source.job)
    kit = bridge.session_data(row.session).kit_on()
    layout = imports.layout_of(row)
    asked = request.POST if request.method == "POST" else request.GET if "instrument" in request.GET else None
    form = MappingForm(
        asked, initial=_first(row, layout, kit.instruments[0].slug), layout=layout, kit=kit, system=home.brief.system
    )
    chosen = _chosen(row, layout, form, bound=asked is not None)
    if request.method == "POST" and chosen is not None:
        try:
            imports.begin(row, form.cleaned_data["instrument"], chosen)
            imports.read_beside(row)
            return redirect("log-import", row.session.source.job_id, row.session_id, row.pk)
        except MusterError as error:
            form.add_error(None, error_sentence(error))
    seen = imports.preview(row, layout, chosen) if chosen is not None else None
    channels = [c.channel for c in chosen.columns] if chosen else []
    rows = _read_rows(row, seen, channels) if seen else []
    context = {
        "import": row,
        "session": row.session,
        "layout": layout,
        "form": form,
        "preview": seen,
        "channels": channels,
        "preview_rows": rows,
        "far": _far(rows),
        "brief_zone": home.brief.zone,
        "source": row.session.source,
    }
    if request.htmx:
        return render(request, "bench/preview.html", context)
    status = 422 if form.errors else 200
    return stage_page(request, row.session.source.job, "bench", "bench/mapping.html", context, status)


FAR_S = 12 * 3600.0


def _read_rows(row: ImportRow, seen: imports.Preview, channels: list[Channel]) -> list[dict[str, Any]]:
    """The first rows as they will be read, with the time as the site's clock shows it."""
    began = row.session.started_at
    return [
        {
            "t_s": t_s,
            "at": began + timedelta(seconds=t_s),
            "figures": [(x, c.unit) for x, c in zip(figures, channels, strict=True)],
        }
        for t_s, figures in seen.rows
    ]


def _far(rows: list[dict[str, Any]]) -> str:
    """How far the first row lies from the session's beginning, where that is doubtful."""
    t_s = rows[0]["t_s"] if rows else 0.0
    if abs(t_s) < FAR_S:
        return ""
    return f"{duration(abs(t_s))} {'before' if t_s < 0 else 'after'} the session began"


def _first(row: ImportRow, layout: LogLayout, usual: str) -> dict[str, Any]:
    instrument = imports.remembered_instrument(layout) or usual
    return initial_of(imports.suggested(row, layout, instrument), instrument)


def _chosen(row: ImportRow, layout: LogLayout, form: MappingForm, *, bound: bool) -> Mapping | None:
    if bound:
        return form.mapping() if form.is_valid() else None
    return imports.suggested(row, layout, form.initial["instrument"])


@require_POST
def stop_import(request: HttpRequest, job_id: int, session_id: int, import_id: int) -> HttpResponse:
    """Stop a reading: nothing of it is kept."""
    imports.ask_stop(_import(job_id, session_id, import_id))
    return redirect("log-import", job_id, session_id, import_id)


@require_POST
def forget_import(request: HttpRequest, job_id: int, session_id: int, import_id: int) -> HttpResponse:
    """Forget a file that was not read."""
    try:
        imports.give_up(_import(job_id, session_id, import_id))
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect("logs", job_id, session_id)


def find_trace(session: SessionRow, trace_id: int) -> TraceRow:
    """A trace of a session that is whole."""
    return get_object_or_404(session.trace_rows.filter(staged=False), pk=trace_id)


@require_POST
def trace_away(request: HttpRequest, job_id: int, session_id: int, trace_id: int) -> HttpResponse:
    """Archive a log, or restore it."""
    row = find_trace(find_session(job_id, session_id), trace_id)
    try:
        if row.removed_at is None:
            traces.remove_trace(row, request.user)
            say_undoable(request, f"{row.name} is archived.", request.path)
        else:
            traces.put_back_trace(row, request.user)
            messages.info(request, f"{row.name} is back.")
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect("logs", job_id, session_id)


def trace_file(request: HttpRequest, job_id: int, session_id: int, trace_id: int) -> HttpResponse:
    """A log as CSV, in our own headings, times in UTC."""
    session = find_session(job_id, session_id)
    row = find_trace(session, trace_id)
    return download(trace_csv(traces.read_trace(row), session.started_at), f"{slugify(row.name) or 'log'}.csv")
