"""The bench as it happens, sent to every browser that watches: gathered once a session, however many watch it."""

from __future__ import annotations

import asyncio
import json
import math
import time
from collections.abc import AsyncIterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np
from asgiref.sync import sync_to_async
from django.core.handlers.asgi import ASGIRequest
from django.db import connection
from django.http import HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse

from muster.core.quantities import number
from muster.core.sessions import Place
from muster.core.timeline.traces import Channel
from muster.core.timeline.traces.latest import Latest
from muster.records import bridge
from muster.records.actions import recordings
from muster.records.actions.traces import DOUBLE, SINGLE, channels_of, read_trace
from muster.records.models import LiveRow, RecordingRow, SessionRow, TraceRow
from muster.records.recording.recorder import recording
from muster.web.figures.strip import PANELS, panel_title

from .find import find_session
from .marks import mark_of
from .strip import flags_of

TICK_S = 0.04
"""So often it is looked whether anything is new: whether the database was written to, which costs microseconds."""
LOOK_S = 1.0
"""And at least so often in any case: that something fell silent is no news by itself."""
BACK_S = 120.0
"""A browser that comes (back) is given so much of what went before."""
MAIN = ("v", "hz", "w")
"""What the strip shows unless all is asked for."""
LEAST = {"v": 4.0, "hz": 1.0, "w": 100.0, "a": 1.0, "dba": 6.0, "temp_c": 4.0, "soc_pct": 2.0, "pf": 0.1}
"""A panel spans at least so much, in the unit of its quantity: a steady figure is a steady line."""
GONE_AFTER = "the recorder is silent"


@dataclass(frozen=True)
class _At:
    """Where a channel's samples stand: a trace, and its place in it."""

    trace: int
    place: int


class Hub:
    """What is new in one session. Its methods run in one thread of their own, so that its connection is one."""

    def __init__(self, session: SessionRow) -> None:
        self.session = session
        self.zero = session.started_at.timestamp()
        self.system = bridge.brief_of(session.source.job).system
        self.kit = bridge.session_data(session).kit_on()
        self.watchers: set[asyncio.Queue[str]] = set()
        self.task: asyncio.Task[None] | None = None
        self._version = -1
        self._looked = 0.0
        self._going: RecordingRow | None = None
        self._last_row = LiveRow.objects.order_by("-pk").values_list("pk", flat=True).first() or 0
        self._last_entry = 0
        self._last_t: dict[int, float] = {}
        self._where: dict[Channel, _At] = {}
        self._latest: dict[Channel, float] = {}
        self._latest_s: dict[Channel, float] = {}

    # in its thread

    def greet(self) -> str:
        """All that a browser needs to begin: the channels, and the last minutes of them."""
        self._going = recordings.current(self.session)
        self._find_channels()
        since = time.time() - self.zero - BACK_S
        data: dict[str, Any] = {}
        for trace in self._traces():
            read = read_trace(trace, since)
            kept = read.t_s >= since
            for channel, at in self._where.items():
                if at.trace == trace.pk:
                    data[channel.heading] = _columns(read.t_s[kept], read.values[at.place][kept])
        return self._message("hello", data) or ""

    def news(self) -> str | None:
        """What is new since the last time, None if nothing is."""
        with connection.cursor() as cursor:
            version = cursor.execute("PRAGMA data_version").fetchone()[0]
        if version == self._version and time.monotonic() - self._looked < LOOK_S:
            return None
        self._version, self._looked = version, time.monotonic()
        self._going = recordings.current(self.session)
        before = set(self._where)
        self._find_channels()
        if set(self._where) != before:
            return self.greet()
        return self._message("news", self._new_samples())

    def _traces(self) -> Sequence[TraceRow]:
        return recording(self.session)

    def _find_channels(self) -> None:
        """Of each channel the first instrument that reads it, in the order of the kit."""
        order = list(self._going.links) if self._going is not None else []
        traces = sorted((t for t in self._traces() if t.instrument in order), key=lambda t: order.index(t.instrument))
        positions: dict[Channel, _At] = {}
        for trace in traces:
            for place, channel in enumerate(channels_of(trace)):
                if self.kit.instrument_for(channel.measured, trace.instrument).measure(channel.measured) is None:
                    continue
                positions.setdefault(channel, _At(trace.pk, place))
        self._where = positions
        self._latest = {channel: value for channel, value in self._latest.items() if channel in positions}
        self._latest_s = {channel: at for channel, at in self._latest_s.items() if channel in positions}

    def _new_samples(self) -> dict[str, Any]:
        data: dict[str, Any] = {}
        traces = {at.trace for at in self._where.values()}
        rows = LiveRow.objects.filter(pk__gt=self._last_row, trace__in=traces).order_by("pk")
        for row_pk, trace, times, samples in rows.values_list("pk", "trace", "times", "samples"):
            self._last_row = row_pk
            t_s = np.frombuffer(times, DOUBLE)
            new = t_s > self._last_t.get(trace, -1e18)
            if not new.any():
                continue
            self._last_t[trace] = float(t_s[-1])
            values = np.frombuffer(samples, SINGLE).reshape(-1, t_s.size)
            for channel, at in self._where.items():
                if at.trace == trace:
                    self._note_latest(channel, t_s, values[at.place])
                    old = data.setdefault(channel.heading, [[], []])
                    new_t, new_v = _columns(t_s[new], values[at.place][new])
                    data[channel.heading] = [old[0] + new_t, old[1] + new_v]
        return data

    def _note_latest(self, channel: Channel, t_s: Any, values: Any) -> None:
        """The last figure of a channel and when it was read; a gap leaves the one before, which grows old."""
        read = np.flatnonzero(np.isfinite(values))
        if read.size:
            self._latest[channel], self._latest_s[channel] = float(values[read[-1]]), float(t_s[read[-1]])

    def _message(self, kind: str, data: Mapping[str, Any]) -> str | None:
        going = self._going
        latest = Latest(self._latest)
        body: dict[str, Any] = {
            "now": round(time.time() - self.zero, 3),
            "data": data,
            "mark": mark_of(self.session, going),
            "readouts": self._readouts(latest),
            "va": latest.leg_va(self.system.legs),
            "gone": self._gone(going),
            "recording": going is not None,
        }
        if kind == "hello" or self._new_entries():
            now_s = time.time() - self.zero
            flags = flags_of(self.session, now_s - BACK_S, now_s + 1)
            body["flags"] = [{"t": round(flag.t_s, 2), "css": flag.css} for flag in flags]
        if kind == "hello":
            body["channels"] = [_told(channel) for channel in self._where]
            body["epoch"] = self.zero
        return f"event: {kind}\ndata: {json.dumps(body, separators=(',', ':'), allow_nan=False)}\n\n"

    def _new_entries(self) -> bool:
        """Whether anything was logged since this was last asked."""
        newest = self.session.entry_rows.order_by("-pk").values_list("pk", flat=True).first() or 0
        before, self._last_entry = self._last_entry, newest
        return bool(newest != before)

    def _readouts(self, latest: Latest) -> dict[str, list[Any]]:
        """Each figure as it is written and as it is, and when it was read; a total is as old as its oldest part."""
        result: dict[str, list[Any]] = {
            channel.heading: [number(value, channel.unit), round(value, 3), self._latest_s[channel]]
            for channel, value in latest.figures.items()
        }
        total = latest.total_w(self.system.legs)
        if total is not None:
            powers = [
                at
                for channel, at in self._latest_s.items()
                if channel.quantity in ("v", "a", "w") and not channel.place.is_dc
            ]
            result["total_w"] = [number(total, "w"), round(total, 1), min(powers)]
        return result

    def _gone(self, going: RecordingRow | None) -> dict[str, str]:
        if going is None:
            return {}
        silent = {GONE_AFTER: "what was kept is safe"} if recordings.cut_off(going) else {}
        return {**going.gone, **silent}


def _columns(t_s: Any, values: Any) -> list[list[float | None]]:
    figures = [round(x, 3) if math.isfinite(x) else None for x in values.tolist()]
    return [np.round(t_s, 3).tolist(), figures]


def _told(channel: Channel) -> dict[str, Any]:
    """A channel as the strip draws it; ``panel`` says from the top down where."""
    return {
        "heading": channel.heading,
        "name": channel.place.label or channel.label,
        "place": channel.place.value,
        "title": panel_title(channel.measured),
        "panel": PANELS.index(channel.measured),
        "measured": channel.measured,
        "main": channel.quantity in MAIN and channel.place in (Place.LEG1, Place.LEG2, Place.NONE),
        "least": LEAST.get(channel.quantity, 0),
    }


_hubs: dict[int, asyncio.Future[Hub]] = {}
_thread = ThreadPoolExecutor(1, thread_name_prefix="live-bench")


async def _gather(hub: Hub) -> None:
    """Tell every watcher what is new, while there are any."""
    loop = asyncio.get_running_loop()
    while hub.watchers:
        news = await loop.run_in_executor(_thread, hub.news)
        if news is not None:
            for watcher in hub.watchers:
                watcher.put_nowait(news)
        await asyncio.sleep(TICK_S)


async def watch(session: SessionRow) -> AsyncIterator[str]:
    """The news of a session for one browser, from a greeting on; however many come at once, one hub gathers for them."""
    loop = asyncio.get_running_loop()
    if session.pk not in _hubs:
        _hubs[session.pk] = loop.run_in_executor(_thread, Hub, session)
    hub = await _hubs[session.pk]
    mine: asyncio.Queue[str] = asyncio.Queue()
    hub.watchers.add(mine)
    try:
        yield await loop.run_in_executor(_thread, hub.greet)
        if hub.task is None or hub.task.done():
            hub.task = asyncio.create_task(_gather(hub))
        while True:
            yield await mine.get()
    finally:
        hub.watchers.discard(mine)
        if not hub.watchers:
            _hubs.pop(session.pk, None)


async def live(request: HttpRequest, job_id: int, session_id: int) -> HttpResponseBase:
    """The bench as it happens; a server that cannot stream says that there is nothing to wait for."""
    session = await sync_to_async(find_session)(job_id, session_id)
    if not isinstance(request, ASGIRequest) or session.closed_at is not None:
        return HttpResponse(status=204)
    answer = StreamingHttpResponse(watch(session), content_type="text/event-stream")
    answer.headers["Cache-Control"] = "no-store"
    return answer
