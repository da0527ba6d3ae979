"""An inspection by thumb: points answered one by one, a photo at each, cautions told, sealed and side by side."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.brief import Brief
from muster.core.sources import Claims, Source, SourceKind
from muster.records import bridge
from muster.records.actions import jobs, sources
from muster.records.actions.notes import take_notes
from muster.records.models import Job, SessionRow, SourceRow

pytestmark = pytest.mark.django_db


@pytest.fixture
def units(who: AbstractUser) -> list[SourceRow]:
    job = jobs.create_job("two boxes", Brief(of_units=True), who)
    return [sources.add_source(job, Source(name, SourceKind.STATION, Claims(1000)), who) for name in ("box A", "box B")]


def begun(client: Client, unit: SourceRow) -> SessionRow:
    where = reverse("bench", args=[unit.job_id])
    made = client.post(where, {"source": unit.pk, "protocol": "inspection", "confirmed": ["covers"]})
    row = SessionRow.objects.get(source=unit)
    assert made["Location"] == reverse("session-inspect", args=[unit.job_id, row.pk])
    return row


def answer(client: Client, row: SessionRow, **said: str) -> tuple[int, str]:
    reply = client.post(reverse("session-answer", args=[row.source.job_id, row.pk]), said, follow=True)
    return reply.status_code, reply.content.decode()


def test_points_are_answered_and_what_must_be_minded_is_told(client: Client, units: list[SourceRow]) -> None:
    row = begun(client, units[0])
    status, text = answer(client, row, point="leads", answer="clad", note="12 AWG printed")
    assert status == 200
    assert "take it as aluminium" in text
    assert "12 AWG printed" in text
    assert "entry=" in text, "a photo is put at the entry of the point"
    _, text = answer(client, row, point="leads", answer="copper")
    assert "take it as aluminium" not in text, "the last answer counts"
    assert [entry.raw for entry in bridge.session_of(row).entries[1:]] == [
        "leads: copper-clad aluminium, 12 AWG printed",
        "leads: copper",
    ]


def test_what_is_no_answer_is_told_and_nothing_is_kept(client: Client, units: list[SourceRow]) -> None:
    row = begun(client, units[0])
    status, text = answer(client, row, point="leads", answer="gold")
    assert status == 422
    assert "copper, clad, unseen" in text
    assert len(bridge.session_of(row).entries) == 1


def test_what_was_looked_at_stands_side_by_side(client: Client, units: list[SourceRow]) -> None:
    for unit, said in zip(units, ("live", "dead"), strict=True):
        row = begun(client, unit)
        answer(client, row, point="live_off", answer=said)
        client.post(reverse("session-close", args=[unit.job_id, row.pk]))
    job: Job = units[0].job
    text = client.get(reverse("compare", args=[job.pk])).content.decode()
    assert "By hand and eye" in text
    assert "Sockets live when off" in text
    assert "unplugged before anything is touched" in text
    assert "All dead" in text
    found = client.get(reverse("findings", args=[job.pk]), {"source": units[0].pk}).content.decode()
    assert "What it is like by hand and eye" in found


def test_every_page_of_a_test_opens_for_one_that_has_no_figures(client: Client, units: list[SourceRow]) -> None:
    row = begun(client, units[0])
    job = units[0].job_id
    answer(client, row, point="leads", answer="clad")
    for page in (
        f"/jobs/{job}/plan/?protocol=inspection",
        f"/jobs/{job}/bench/?protocol=inspection",
        f"/jobs/{job}/bench/{row.pk}/",
        f"/jobs/{job}/bench/{row.pk}/clipboard/",
        f"/jobs/{job}/bench/{row.pk}/checks/",
        f"/jobs/{job}/bench/{row.pk}/strip/",
        f"/jobs/{job}/findings/character/?source={units[0].pk}",
    ):
        assert client.get(page).status_code == 200, page


def test_an_inspection_jotted_down_comes_out_as_one_with_what_must_be_minded(client: Client, who: AbstractUser) -> None:
    notes = """Units: two boxes
Source: box C: battery station 1000 W

Inspection 3 Nov 2026
14:00 leads: copper-clad aluminium, 12 AWG printed
14:01 fuse: none
14:02 live when off: live, both
covers: closed

Source: box D: battery station 1200 W
"""
    job = take_notes(notes, who)
    row = SessionRow.objects.get(source__job=job)
    assert row.protocol == "inspection"
    page = client.get(f"{reverse('findings', args=[job.pk])}?source={row.source.pk}").content.decode()
    assert "unplugged before anything is touched" in page
    assert "none is run without one" in page
    assert "take it as aluminium" in page
    assert "12 AWG printed" in client.get(reverse("compare", args=[job.pk])).content.decode()
