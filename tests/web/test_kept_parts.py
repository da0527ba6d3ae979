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
from muster.web.bench.marks import mark_of


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


@pytest.mark.django_db
def test_a_line_that_the_page_has_is_not_sent_again_and_one_that_changed_is(
    client: Client, bench: SessionRow, who: AbstractUser
) -> None:
    sessions.log_line(bench, "2kw 225v", who)
    has = ",".join(re.findall(r'data-part="(\w+)"', page(client, bench)))
    url = reverse("session-line", args=[bench.source.job_id, bench.pk])
    headers = {"HX-Request": "true", "Muster-Has": has}
    added = client.post(url, {"line": "3kw 221v"}, headers=headers).content.decode()
    assert 'id="entry-2"' not in added
    assert added.count("data-stands=") == 2
    assert 'value="3kw 221v"' in entry(added, 3)
    undone = client.post(url.replace("line", "undo"), headers={**headers, "Muster-Has": has}).content.decode()
    assert "no longer counts" in entry(undone, 3)


@pytest.mark.django_db
def test_what_was_logged_is_marked_as_shown_so_that_the_page_is_not_drawn_twice(
    client: Client, bench: SessionRow
) -> None:
    url = reverse("session-line", args=[bench.source.job_id, bench.pk])
    mark = client.post(url, {"line": "3kw 221v"}, headers={"HX-Request": "true"}).headers["Muster-Mark"]
    assert mark == mark_of(bench, None)
