"""Long sessions on the bench page: looks that are due, how long it goes on, and a calendar of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_POST

from muster.core.errors import MusterError
from muster.core.loads import Load
from muster.core.sessions import PROTOCOLS, Session
from muster.core.sessions.checkins import USUAL_S, Projection, next_due_s, projections
from muster.core.sessions.replay import BenchRecord, replay
from muster.core.sources import Claims
from muster.formats.calendar import checkins_ics
from muster.records import bridge
from muster.records.actions import sessions as actions
from muster.records.actions.traces import charge_logged
from muster.records.models import SessionRow
from muster.web.ui.downloads import download
from muster.web.ui.error_text import error_sentence

from .find import find_session

CALENDAR_COUNT = 96
"""Check-ins that a calendar holds: four days of one an hour."""


@dataclass(frozen=True)
class UntilWhen:
    """When it ends by one way of reckoning: most likely, at the earliest and at the latest."""

    at: datetime
    early: datetime
    late: datetime
    left: str


@dataclass(frozen=True)
class Checkins:
    """What the bench page says of a long session."""

    every_min: float
    due_at: datetime | None
    paused: bool
    projected: tuple[UntilWhen, ...]


def checkins_of(
    row: SessionRow,
    session: Session,
    record: BenchRecord,
    claims: Claims,
    loads: Mapping[str, Load],
    waiting: frozenset[int],
) -> Checkins | None:
    """The looks of a long session, None where it is not one."""
    if not PROTOCOLS[session.protocol].long and not session.checkin_s and not record.pauses:
        return None
    due_s = next_due_s(session, record)
    due_at = row.started_at + timedelta(seconds=due_s) if due_s is not None else None
    every_s = session.checkin_s or USUAL_S
    ways = projections(session, record, claims, charge_logged(row), loads, waiting)
    return Checkins(every_s / 60, due_at, record.paused, tuple(_until(row, way) for way in ways))


def _until(row: SessionRow, way: Projection) -> UntilWhen:
    at, early, late = (row.started_at + timedelta(seconds=round(s)) for s in way.until_s)
    return UntilWhen(at=at, early=early, late=late, left=way.label)


@require_POST
def every(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Say how often somebody is to look in."""
    row = find_session(job_id, session_id)
    try:
        actions.set_checkin(row, request.POST.get("minutes", ""))
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect("session", job_id, session_id)


def calendar(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """The looks to come as a calendar file."""
    row = find_session(job_id, session_id)
    session = bridge.session_of(row)
    record = replay(session, bridge.brief_of(row.source.job).system.legs)
    due_s = next_due_s(session, record)
    if due_s is None:
        messages.error(request, "Nobody is to look in: say how often first.")
        return redirect("session", job_id, session_id)
    title = f"Look in: {PROTOCOLS[row.protocol].name} on {row.source.name}"
    first = row.started_at + timedelta(seconds=due_s)
    data = checkins_ics(title, first, session.checkin_s, CALENDAR_COUNT, f"session-{row.pk}@muster", timezone.now())
    return download(data, f"{slugify(title)}.ics")
