"""A line of the running record is drawn once of all that it hangs on: it bears this visitor's token and says what is so now."""

from __future__ import annotations

import re

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.brief import Brief
from muster.core.sessions import Conditions
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS
from muster.records.actions import jobs, sessions
from muster.records.actions.sources import add_source
from muster.records.models import SessionRow


@pytest.fixture
def bench(who: AbstractUser) -> SessionRow:
    job = jobs.create_job("a job", Brief(system=SYSTEMS["single-230-50"]), who)
    source = add_source(job, Source("set", SourceKind.OPEN_FRAME, Claims(3000)), who)
    return sessions.start_session(source, "ladder", Conditions(), who, confirmed=(), written_up=True)


def page(client: Client, bench: SessionRow) -> str:
    return client.get(reverse("session", args=[bench.source.job_id, bench.pk])).content.decode()


def entry(html: str, seq: int) -> str:
    found = re.search(rf'<li class="[^"]*" id="entry-{seq}".*?</li>', html, re.S)
    assert found is not None
    return found[0]


@pytest.mark.django_db
def test_a_line_seen_again_says_what_is_so_now(client: Client, bench: SessionRow, who: AbstractUser) -> None:
    sessions.log_line(bench, "2kw 225v", who)
    assert "no longer counts" not in entry(page(client, bench), 2)
    sessions.undo(bench, who)
    assert "no longer counts" in entry(page(client, bench), 2)
    assert "Count it again" in entry(page(client, bench), 2)


@pytest.mark.django_db
def test_a_line_bears_the_token_of_whoever_is_shown_it(bench: SessionRow, who: AbstractUser) -> None:
    sessions.log_line(bench, "2kw 225v", who)
    for _ in range(2):
        client = Client(enforce_csrf_checks=True)
        shown = page(client, bench)
        token = re.search(r'name="csrfmiddlewaretoken" value="(\w+)"', entry(shown, 2))
        assert token is not None
        url = reverse("session-correct", args=[bench.source.job_id, bench.pk, bench.entry_rows.get(seq=2).pk])
        answer = client.post(url, {"line": "2kw 224v", "csrfmiddlewaretoken": token[1]})
        assert answer.status_code != 403
        assert "\N{REPLACEMENT CHARACTER}" not in shown
        sessions.undo(bench, who)
