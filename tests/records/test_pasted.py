"""Notes jotted elsewhere, pasted into a session: told back line by line, then taken."""

from __future__ import annotations

import itertools

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.errors import MusterError
from muster.core.sessions import Conditions
from muster.records.actions import pasting, sessions
from muster.records.models import SessionRow, SourceRow
from tests.field.typing import told

NOTES = """
- 22:50 100% started
- 23:40 86% 0.21kwh

* 00:30 71%
torch went dark
00:41 went off, overload light
"""


@pytest.fixture
def run(source: SourceRow, who: AbstractUser) -> SessionRow:
    return sessions.start_session(source, "endurance", Conditions(), who, confirmed=(), written_up=True)


def test_what_is_told_back_is_what_is_taken_and_nothing_before(run: SessionRow, who: AbstractUser) -> None:
    began = run.started_at
    shown = pasting.look_at_pasted(run, NOTES, who)
    run.refresh_from_db()
    assert (run.entry_rows.count(), run.started_at) == (1, began), "a look keeps nothing and moves nothing"
    taken = pasting.log_pasted(run, NOTES, who)
    assert [(line.raw, line.jotting, line.at) for line in shown] == [(x.raw, x.jotting, x.at) for x in taken]
    run.refresh_from_db()
    assert [(when, said) for _, when, said in told(run)][-1] == ("day 2 00:41:00", "it tripped · code overload light")


def test_a_doubt_is_shown_beside_its_line(run: SessionRow, client: Client) -> None:
    url = reverse("paste", args=[run.source.job_id, run.pk])
    page = client.post(url, {"text": NOTES, "do": "look"}).content.decode()
    assert "Was it the source that went off" in page
    assert "Take 5 lines" in page
    assert run.entry_rows.count() == 1
    assert client.post(url, {"text": NOTES, "do": "take"}).status_code == 302
    assert run.entry_rows.count() == 6


def test_nothing_pasted_is_said(run: SessionRow, client: Client, who: AbstractUser) -> None:
    url = reverse("paste", args=[run.source.job_id, run.pk])
    assert client.get(url).status_code == 200
    assert "nothing was pasted" in client.post(url, {"text": " ", "do": "take"}).content.decode().lower()
    with pytest.raises(MusterError, match="at most"):
        pasting.log_pasted(run, "1v\n" * 501, who)


def test_a_line_of_several_times_is_as_many_entries(run: SessionRow, who: AbstractUser) -> None:
    taken = pasting.log_pasted(run, "20:00 100%, 22:00 88%, 01:00 69%", who)
    hours = [round((b.at - a.at).total_seconds() / 3600, 3) for a, b in itertools.pairwise(taken)]
    assert ([line.raw for line in taken], hours) == (["20:00 100%", "22:00 88%", "01:00 69%"], [2.0, 3.0])
