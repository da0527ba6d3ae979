"""A case typed into an empty folder through the bench, line by line."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from zoneinfo import ZoneInfo

from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.brief import Brief
from muster.core.quantities import THIN
from muster.core.sessions import Conditions
from muster.core.sessions.log_line import tell
from muster.core.sources import Source
from muster.core.supply import SYSTEMS
from muster.records import bridge
from muster.records.actions import jobs, loads, sessions
from muster.records.actions.sources import add_source
from muster.records.models import SessionRow

from .cases import FieldCase


def typed(case: FieldCase, client: Client, who: AbstractUser) -> list[SessionRow]:
    """The sessions of a case, each begun as a write-up and typed at the bench."""
    job = jobs.create_job(case.name, Brief(system=SYSTEMS[case.supply]), who)
    for line in case.loads:
        loads.add_line(job, line, who)
    source = add_source(job, Source("source", case.kind, case.claims, wires=case.wires), who)
    rows = []
    for sitting in case.sittings:
        row = sessions.start_session(source, sitting.protocol, Conditions(), who, confirmed=(), written_up=True)
        for line in sitting.lines:
            answer = client.post(
                reverse("session-line", args=[job.pk, row.pk]), {"line": line}, headers={"HX-Request": "true"}
            )
            assert answer.status_code == 200, (line, answer.status_code)
        row.refresh_from_db()
        rows.append(row)
    return rows


def told(row: SessionRow) -> Iterator[tuple[str, str, str]]:
    """Each line typed, the day and the time it was put at, and what was understood by it."""
    home = bridge.home_of(row.source.job)
    names = {load.key: load.name for load in home.loads}
    zone, kit = ZoneInfo(home.brief.zone), bridge.session_data(row).kit_on()
    session = bridge.session_of(row)
    first = row.started_at.astimezone(zone).date()
    items = {entry.seq: entry.items for entry in session.entries}
    for entry in row.entry_rows.filter(seq__gt=1):
        at: datetime = entry.at.astimezone(zone)
        day = (at.date() - first).days + 1
        said = " · ".join(tell(item, names, home.brief.system, kit) for item in items[entry.seq])
        yield entry.raw, f"day {day} {at:%H:%M:%S}", said.replace(THIN, " ")
