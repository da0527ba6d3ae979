"""A page is drawn from one look at the records; beside it, and after a change, they are read anew."""

from __future__ import annotations

import re

import pytest
from django.contrib.auth.models import AbstractUser
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from muster.core.brief import Brief
from muster.core.safety.checks import KNOWN
from muster.core.sessions import Conditions
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS
from muster.records import bridge
from muster.records.actions import jobs, loads, sessions
from muster.records.actions.sources import add_source
from muster.records.judging import read_together
from muster.records.looking import looking
from muster.records.models import SessionRow


@pytest.fixture
def bench(who: AbstractUser) -> SessionRow:
    job = jobs.create_job("a job", Brief(system=SYSTEMS["single-230-50"]), who)
    loads.add_line(job, "kettle 2kw", who)
    source = add_source(job, Source("set", SourceKind.OPEN_FRAME, Claims(3000)), who)
    return sessions.start_session(source, "ladder", Conditions(), who, confirmed=(), written_up=True)


@pytest.mark.django_db
def test_within_a_look_a_thing_is_read_once_and_after_it_anew(bench: SessionRow, who: AbstractUser) -> None:
    with looking(), CaptureQueriesContext(connection) as queries:
        before = [bridge.session_of(bench), bridge.home_of(bench.source.job)]
        again = [bridge.session_of(bench), bridge.home_of(bench.source.job)]
        assert all(one is other for one, other in zip(before, again, strict=True))
    assert len(queries) == 2
    sessions.log_line(bench, "2kw 225v", who)
    loads.add_line(bench.source.job, "fridge 120w", who)
    with looking():
        assert len(bridge.session_of(bench).entries) == len(before[0].entries) + 1  # type: ignore[union-attr]
        assert len(bridge.home_of(bench.source.job).every) == 2


@pytest.mark.django_db
def test_sessions_looked_at_together_are_read_as_they_stand(bench: SessionRow, who: AbstractUser) -> None:
    other = sessions.start_session(bench.source, "ladder", Conditions(), who, confirmed=(), written_up=True)
    assert [len(bridge.session_of(row).entries) for row in (bench, other)] == [1, 1]
    sessions.log_line(other, "2kw 225v", who)
    with looking():
        read_together([bench, other])
        assert [len(bridge.session_of(row).entries) for row in (bench, other)] == [1, 2]
    with looking(), CaptureQueriesContext(connection) as queries:
        read_together([bench, other])
        assert [len(bridge.session_of(row).entries) for row in (bench, other)] == [1, 2]
    assert len(queries) == 3, "logs, captures and entries of all, however many sessions"


@pytest.mark.django_db
def test_a_line_costs_no_more_questions_where_others_stand_open_beside_it(
    client: Client, bench: SessionRow, who: AbstractUser
) -> None:
    url = reverse("session-line", args=[bench.source.job_id, bench.pk])

    def questions() -> int:
        client.post(url, {"line": "2kw 225v"}, headers={"HX-Request": "true"})
        with CaptureQueriesContext(connection) as queries:
            assert client.post(url, {"line": "2kw 225v"}, headers={"HX-Request": "true"}).status_code == 200
        return len(queries)

    alone = questions()
    for _ in range(4):
        sessions.start_session(bench.source, "ladder", Conditions(), who, confirmed=(), written_up=True)
    assert questions() == alone


@pytest.mark.django_db
def test_a_step_should_read_what_the_other_sessions_have_shown(client: Client, who: AbstractUser) -> None:
    job = jobs.create_job("a job", Brief(system=SYSTEMS["single-230-50"]), who)
    loads.add_line(job, "heater 900w", who)
    loads.add_line(job, "kettle 1800w", who)
    source = add_source(job, Source("set", SourceKind.OPEN_FRAME, Claims(3000)), who)
    earlier = sessions.start_session(source, "ladder", Conditions(), who, confirmed=(), written_up=True)
    for line in ("9:00 no load 241v 52.4hz", "9:05 1kw 236v 51.5hz", "9:10 2kw 231v 50.6hz", "9:15 2.6kw 228v 50hz"):
        sessions.log_line(earlier, line, who)
    running = sessions.start_session(source, "ladder", Conditions(), who, confirmed=KNOWN)
    shown = client.get(reverse("session", args=[job.pk, running.pk])).content.decode()
    (volts,) = re.findall(r'data-readout="l1_v" data-unit="V" data-low="([\d.]+)" data-high="([\d.]+)"', shown)
    low, high = (float(text) for text in volts)
    assert low < 241 < high
    assert high - low < 10, "by what was read, and not by its kind"
