"""Captures of a session: taken around starts and dips, or imported; drawn, downloaded, archived."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

import numpy as np
from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError, OutOfRange
from muster.core.sessions.replay import replay
from muster.core.timeline.captures import Capture
from muster.core.timeline.captures.features import LIVE_SHARE, live_windows, window_size
from muster.core.timeline.captures.waveform import waveform_of
from muster.core.timeline.traces import Channel, channel_named
from muster.core.timeline.traces.view import buckets
from muster.formats.captures import comtrade_cff
from muster.formats.logs.writing import capture_csv
from muster.records import bridge
from muster.records.actions import captures as actions
from muster.records.actions.files import receive_capture
from muster.records.models import CaptureRow, SessionRow
from muster.web.figures.strip import draw_strip
from muster.web.figures.wave import describe, draw_wave
from muster.web.ui.downloads import download
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import stage_page
from muster.web.ui.said import say_undoable
from muster.web.ui.working import on_to

from .find import find_session

PIXELS = 900
CYCLES = 4
"""So many cycles are shown when the wave itself is looked at."""
SCOPE = "scope"


def captures(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """The captures of a session, and a place to import one."""
    row = find_session(job_id, session_id)
    error = ""
    if request.method == "POST":
        try:
            return _brought_in(request, row)
        except MusterError as wrong:
            error = error_sentence(wrong)
    kit = bridge.session_data(row).kit_on()
    names = {i.slug: i.name for i in kit.instruments}
    rows = row.capture_rows.all()
    context = {
        "session": row,
        "source": row.source,
        "error": error,
        "open": row.closed_at is None,
        "kit": kit.instruments,
        "captures": [_shown(row, names) for row in rows if row.removed_at is None],
        "away": [_shown(row, names) for row in rows if row.removed_at is not None],
    }
    return stage_page(request, row.source.job, "bench", "bench/captures.html", context, 422 if error else 200)


def _shown(row: CaptureRow, names: dict[str, str]) -> dict[str, Any]:
    return {
        "row": row,
        "label": ", ".join(channel_named(heading).label for heading in row.channels),
        "rate_hz": 1 / row.step_s,
        "length_s": row.t1_s - row.t0_s,
        "instrument": names.get(row.instrument, row.instrument),
    }


def _brought_in(request: HttpRequest, row: SessionRow) -> HttpResponse:
    given = request.FILES.getlist("file")
    if not given:
        raise MusterError("no file was chosen", where="file", want="a .cff, a .cfg with its .dat, or a .csv")
    files = {item.name or "capture": item.chunks() for item in given}
    work = receive_capture(row, files, request.POST.get("instrument", SCOPE), _when(request), request.user)
    if work.state == work.State.FAILED:
        raise MusterError(work.message)
    if work.result.get("left_out"):
        messages.info(request, f"Left out, being neither volts nor amps: {work.result['left_out']}.")
    return on_to(work)


def _when(request: HttpRequest) -> float | None:
    """When a capture began, seconds after the session, where that was typed."""
    typed = request.POST.get("at_s", "").strip().replace(",", ".")
    try:
        return float(typed) if typed else None
    except ValueError:
        raise MusterError(f"got “{typed[:20]}”", where="at", want="seconds after the session began") from None


def _find(job_id: int, session_id: int, capture_id: int) -> CaptureRow:
    rows = CaptureRow.objects.select_related("session__source__job")
    return get_object_or_404(rows, pk=capture_id, session=session_id, session__source__job=job_id)


def capture(request: HttpRequest, job_id: int, session_id: int, capture_id: int) -> HttpResponse:
    """A capture drawn whole, or a few of its cycles."""
    row = _find(job_id, session_id, capture_id)
    whole = actions.capture_of(row)
    session = row.session
    brief = bridge.brief_of(session.source.job)
    span = _span(request, whole, brief.system.hz)
    part = whole.between(*span) or whole
    seen = buckets(part.times_s, part.values, part.values, part.t_s, part.end_s + part.step_s, PIXELS)
    flags = [(item.t_s, item.load) for item in replay(bridge.session_of(session), brief.system.legs).switched_on]
    context = {
        "session": session,
        "source": session.source,
        "row": row,
        "part": part,
        "length_s": part.end_s - part.t_s,
        "figure": draw_strip(seen, part.channels, (part.t_s, part.end_s), flags),
        "closer": len(request.GET) > 0,
        "cycles": _cycles(whole, brief.system.hz, part),
        "count": CYCLES,
        "rows": _measured(part),
        "began": session.started_at + timedelta(seconds=part.t_s),
        "open": session.closed_at is None,
        "waves": [_wave(part, channel, brief.system.hz) for channel in part.channels],
    }
    return stage_page(request, session.source.job, "bench", "bench/capture.html", context)


def _span(request: HttpRequest, whole: Capture, hz: float) -> tuple[float, float]:
    try:
        at = float(request.GET["at"])
        return at, at + CYCLES / hz
    except (KeyError, ValueError):
        return whole.t_s, whole.end_s


def _cycles(whole: Capture, hz: float, part: Capture) -> dict[str, float]:
    """Where to look closer: the first, the middle and the last cycles, and those on either side of what is shown."""
    length = CYCLES / hz
    return {
        "first": whole.t_s,
        "middle": (whole.t_s + whole.end_s - length) / 2,
        "last": whole.end_s - length,
        "before": max(whole.t_s, part.t_s - length),
        "after": min(whole.end_s - length, part.t_s + length),
    }


def _measured(part: Capture) -> list[dict[str, Any]]:
    values = part.values.astype("float64")
    return [
        {
            "label": channel.label,
            "unit": channel.unit,
            "low": line.min(),
            "rms": (line**2).mean() ** 0.5,
            "high": line.max(),
        }
        for channel, line in zip(part.channels, values, strict=True)
    ]


def _wave(part: Capture, channel: Channel, hz: float) -> dict[str, Any]:
    """A channel's waveform in the first window of what is shown that is live, as Findings has it; or why it cannot be judged."""
    samples = part.of(channel)
    assert samples is not None
    samples = np.nan_to_num(samples)
    level = LIVE_SHARE * float(np.sqrt(np.percentile(samples**2, 90) / 2))
    first = next(iter(live_windows(samples, part.step_s, level)), 0)
    samples = samples[first : first + window_size(samples.size, part.step_s)]
    try:
        waveform = waveform_of(samples, part.step_s, hz)
    except OutOfRange as refused:
        return {"label": channel.label, "refused": f"{refused.what}; {refused.want}"}
    return {
        "label": channel.label,
        "sentence": describe(waveform, channel.unit),
        "drawing": draw_wave(samples, part.step_s, waveform),
        "largest": waveform.largest,
    }


def file(request: HttpRequest, job_id: int, session_id: int, capture_id: int, kind: str) -> HttpResponse:
    """A capture as a file: COMTRADE or CSV."""
    row = _find(job_id, session_id, capture_id)
    whole = actions.capture_of(row)
    name = slugify(f"{row.session.source.name} {row.name}") or "capture"
    if kind not in ("csv", "cff"):
        raise Http404("no such file")
    if kind == "csv":
        return download(capture_csv(whole, own_time=True), f"{name}.csv")
    began: datetime = row.session.started_at + timedelta(seconds=whole.t_s)
    hz = bridge.brief_of(row.session.source.job).system.hz
    return download(comtrade_cff(whole, began, row.session.source.job.name, hz), f"{name}.cff")


@require_POST
def away(request: HttpRequest, job_id: int, session_id: int, capture_id: int) -> HttpResponse:
    """Archive a capture or restore it."""
    row = _find(job_id, session_id, capture_id)
    try:
        actions.put_away_capture(row, request.user)
        if row.removed_at is not None:
            url = reverse("capture-archive", args=[job_id, session_id, capture_id])
            say_undoable(request, f"{row.name} is archived.", url)
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect("captures", job_id, session_id)
