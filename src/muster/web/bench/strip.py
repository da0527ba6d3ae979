"""The strip: a session's recorded logs on one time axis, with what happened flagged, zoomed and measured."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.urls import reverse

from muster.core.findings import Finding
from muster.core.sessions import Event, EventName, Start, Switch
from muster.core.sessions.log_line import tell
from muster.records import bridge
from muster.records.actions import traces
from muster.records.judging import session_findings
from muster.records.models import SessionRow, TraceRow
from muster.records.recording.recorder import recording
from muster.web.figures.strip import draw_strip, panel_title, panels_of
from muster.web.ui.frame import stage_page

from .find import find_session

PIXELS = 1200
MOST_PIXELS = 4000
PAPER_PIXELS = 480
LEAST_SPAN_S = 0.5
FLAGGED = (Event, Start, Switch)


@dataclass(frozen=True)
class Flag:
    """Something that happened, on the strip's axis."""

    t_s: float
    label: str
    href: str
    css: str


@dataclass(frozen=True)
class View:
    """A stretch of the strip: seconds after the session began, and as the site's clock reads them."""

    t0_s: float
    t1_s: float
    began: datetime
    zone: ZoneInfo

    def clock(self, t_s: float) -> str:
        """The site's clock at a time of the strip."""
        return (self.began + timedelta(seconds=t_s)).astimezone(self.zone).strftime("%H:%M:%S")

    @property
    def offset_s(self) -> float:
        """The site's zone, seconds ahead of UTC where this stretch begins."""
        offset = (self.began + timedelta(seconds=self.t0_s)).astimezone(self.zone).utcoffset()
        return offset.total_seconds() if offset is not None else 0.0


def _number(text: str | None) -> float | None:
    try:
        value = float(text) if text else None
    except ValueError:
        return None
    return value if value is not None and np.isfinite(value) else None


def _view(request: HttpRequest, row: SessionRow, trace: TraceRow) -> View:
    """The stretch asked for, kept within the log; the whole of it where nothing sensible is asked."""
    asked = _number(request.GET.get("from")), _number(request.GET.get("to"))
    first_s, last_s = traces.span_of(trace)
    t0_s = first_s if asked[0] is None else max(first_s, asked[0])
    t1_s = last_s if asked[1] is None else min(last_s, asked[1])
    if t1_s - t0_s < LEAST_SPAN_S:
        t0_s, t1_s = first_s, max(last_s, first_s + LEAST_SPAN_S)
    return View(t0_s, t1_s, row.started_at, ZoneInfo(bridge.brief_of(row.source.job).zone))


def _trace(request: HttpRequest, row: SessionRow) -> tuple[list[TraceRow], TraceRow | None]:
    """The session's logs, those being recorded last, and the one asked for, else the first."""
    rows = [*traces.live_traces(row), *recording(row)]
    number, name, heading = (request.GET.get(word, "") for word in ("trace", "log", "heading"))
    if heading:
        asked = (row for row in reversed(rows) if heading in row.channels)
    else:
        asked = (row for row in rows if str(row.pk) == number or (not number and row.name == name))
    return rows, next(asked, rows[0] if rows else None)


def strip(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """A log drawn, with its flags, its findings and the stretch measured."""
    row = find_session(job_id, session_id)
    rows, trace = _trace(request, row)
    context: dict[str, Any] = {"session": row, "source": row.source, "traces": rows, "trace": trace}
    if trace is not None:
        context |= _drawn(request, row, trace)
    return stage_page(request, row.source.job, "bench", "bench/strip.html", context)


def _drawn(request: HttpRequest, row: SessionRow, trace: TraceRow) -> dict[str, Any]:
    view, channels = _view(request, row, trace), traces.channels_of(trace)
    flags = flags_of(row, view.t0_s, view.t1_s)
    look = traces.look(trace, view.t0_s, view.t1_s, PAPER_PIXELS)
    figure = draw_strip(look, channels, (view.t0_s, view.t1_s), [(flag.t_s, flag.label) for flag in flags])
    panels = [
        {
            "measured": measured,
            "title": panel_title(measured),
            "channels": [{"at": i, "name": channels[i].label, "place": channels[i].place.value} for i in places],
        }
        for measured, places in panels_of(channels)
    ]
    url = reverse("strip-data", args=[row.source.job_id, row.pk])
    page = {
        "data": url,
        "measure": reverse("strip-measure", args=[row.source.job_id, row.pk]),
        "trace": trace.pk,
        "whole": list(traces.span_of(trace)),
        "shown": [view.t0_s, view.t1_s],
        "panels": panels,
        "epoch": view.began.timestamp() + view.offset_s,
        "flags": [{"t": flag.t_s, "label": flag.label, "css": flag.css} for flag in flags],
    }
    return {
        "view": view,
        "figure": figure,
        "flags": [(flag, view.clock(flag.t_s)) for flag in flags],
        "page": page,
        "from": view.clock(view.t0_s),
        "to": view.clock(view.t1_s),
        "findings": _findings(row, trace),
        **_measured(trace, view),
    }


def _findings(row: SessionRow, trace: TraceRow) -> list[Finding]:
    """The findings that stand on this log."""
    findings_found = [f for f in session_findings(row).findings if f.span is not None]
    return [f for f in findings_found if f.log in ("", trace.name)]


def flags_of(row: SessionRow, t0_s: float, t1_s: float) -> list[Flag]:
    """What was jotted in this stretch: events, starts, loads on and off."""
    session = bridge.session_of(row)
    job = row.source.job
    names = dict(job.load_rows.values_list("key", "name"))
    system = bridge.brief_of(job).system
    page = reverse("session", args=[job.pk, row.pk])
    flags = []
    for entry in session.effective:
        items = [item for item in entry.items if isinstance(item, FLAGGED)]
        items = [
            item
            for item in items
            if not (isinstance(item, Event) and item.name in (EventName.CAUTIONS, EventName.STANDS, EventName.STEP))
        ]
        if items and t0_s <= entry.t_s <= t1_s:
            words = " · ".join(tell(item, names, system) for item in items)
            trip = any(isinstance(item, Event) and item.name == EventName.TRIP for item in items)
            flags.append(Flag(entry.t_s, words, f"{page}?all=1#entry-{entry.seq}", "trip" if trip else ""))
    return flags


def data(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Lowest and highest of each channel, to the pixels asked for."""
    row = find_session(job_id, session_id)
    _, trace = _trace(request, row)
    if trace is None:
        return JsonResponse({"t": [], "low": [], "high": []})
    view = _view(request, row, trace)
    pixels = int(min(MOST_PIXELS, max(50, _number(request.GET.get("px")) or PIXELS)))
    seen = traces.look(trace, view.t0_s, view.t1_s, pixels)
    kept = ~np.isnan(seen.low).all(axis=0)
    gaps = np.diff(np.flatnonzero(kept), prepend=-1) > 1
    return JsonResponse(
        {
            "from": view.t0_s,
            "to": view.t1_s,
            "t": np.round(seen.t_s, 3).tolist(),
            "low": [_plain(line) for line in seen.low],
            "high": [_plain(line) for line in seen.high],
            "holes": bool(gaps.any()),
        }
    )


def _plain(line: Any) -> list[float | None]:
    """Figures as JSON holds them: null where nothing was read."""
    return [None if x != x else round(x, 3) for x in line.tolist()]


def _measured(trace: TraceRow, view: View) -> dict[str, Any]:
    rows = traces.measured(trace, view.t0_s, view.t1_s + 1e-6)
    return {"measured": rows, "length_s": view.t1_s - view.t0_s}


def measured(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """A stretch measured: lowest, mean, highest, energy."""
    row = find_session(job_id, session_id)
    _, trace = _trace(request, row)
    if trace is None:
        return HttpResponse("")
    view = _view(request, row, trace)
    context = {"view": view, "from": view.clock(view.t0_s), "to": view.clock(view.t1_s), **_measured(trace, view)}
    return render(request, "bench/measured.html", context)
