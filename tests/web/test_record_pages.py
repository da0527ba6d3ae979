"""The pages beside the record: checks, history, kit, sessions written up and archived."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest
import time_machine
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from muster.core.safety.checks import KNOWN
from muster.core.sessions import Conditions, Reading
from muster.records import bridge
from muster.records.actions import kit, sessions
from muster.records.actions import loads as roll
from muster.records.judging import session_findings
from muster.records.models import InstrumentRow, Job, SessionRow, SourceRow
from muster.web.bench.page_context import MOST_LINES


def understood(client: Client, row: SessionRow, line: str) -> str:
    url = reverse("session-understood", args=[row.source.job_id, row.pk])
    return client.get(url, {"line": line}).content.decode()


def test_a_check_stands_beside_the_line_before_it_is_kept_and_beside_the_entry_after(
    client: Client, ladder: SessionRow, who: AbstractUser
) -> None:
    sessions.log_line(ladder, "0.62kwh", who)
    assert 'data-check="energy-backwards"' in understood(client, ladder, "0.26kwh")
    assert "data-check" not in understood(client, ladder, "0.66kwh")
    sessions.log_line(ladder, "0.26kwh", who)
    page = client.get(reverse("session", args=[ladder.source.job_id, ladder.pk])).content.decode()
    assert 'data-check="energy-backwards"' in page
    assert "1 to look at" in page


def test_the_checks_of_a_session_stand_in_one_place_with_what_was_corrected(
    client: Client, ladder: SessionRow, who: AbstractUser
) -> None:
    url = reverse("session-checks", args=[ladder.source.job_id, ladder.pk])
    assert "Nothing looks odd" in client.get(url).content.decode()
    wrong = sessions.log_line(ladder, "@plug 19a", who)
    sessions.log_line(ladder, "230v 95w", who)
    sessions.correct(ladder.entry_rows.last(), "230v 950w", who)  # type: ignore[arg-type]
    page = client.get(url).content.decode()
    assert "more than the 16" in page
    assert "<s>230.0\u202fV · 95\u202fW</s>" in page
    client.post(reverse("session-confirm", args=[ladder.source.job_id, ladder.pk, wrong.pk]))
    page = client.get(url).content.decode()
    assert "Confirmed by" in page
    assert ladder.entry_rows.get(pk=wrong.pk).raw == "@plug 19a"


def test_a_sealed_session_is_not_confirmed_into(client: Client, ladder: SessionRow, who: AbstractUser) -> None:
    wrong = sessions.log_line(ladder, "@plug 19a", who)
    sessions.close_session(ladder)
    client.post(reverse("session-confirm", args=[ladder.source.job_id, ladder.pk, wrong.pk]))
    assert ladder.entry_rows.count() == 2


def test_a_session_is_written_up_at_the_hour_it_was_run(client: Client, source: SourceRow) -> None:
    job = source.job
    url = reverse("bench", args=[job.pk])
    data = {"source": source.pk, "protocol": "ladder", "confirmed": list(KNOWN), "began": "2026-01-05T09:30"}
    client.post(url, data)
    row = SessionRow.objects.get()
    assert row.started_at == datetime(2026, 1, 5, 9, 30, tzinfo=UTC)
    who = row.created_by
    for line in ("9:40 231v 0w", "10:05: 228v 950w", "227v"):
        sessions.log_line(row, line, who)
    times = [bridge.seconds_since(row.started_at, entry.at) for entry in row.entry_rows.all()][1:]
    assert times == [600, 2100, 2100]
    response = client.post(url, {**data, "began": "2199-01-05T09:30"})
    assert response.status_code == 422
    assert "still to come" in response.content.decode()


@pytest.mark.parametrize(
    ("hour", "minute"), [*((hour, 31) for hour in range(24)), (7, 30), (10, 30), (7, 29), (10, 29)]
)
def test_a_test_is_written_up_alike_at_whatever_hour_of_the_day(
    source: SourceRow, who: AbstractUser, hour: int, minute: int
) -> None:
    with time_machine.travel(datetime(2026, 5, 4, hour, minute, 40, tzinfo=UTC)):
        row = sessions.start_session(source, "endurance", Conditions(), who, confirmed=(), written_up=True)
        for line in ("07:30 100%", "10:30 88%", "next day 01:30 30%", "07:29 12%"):
            sessions.log_line(row, line, who)
        row.refresh_from_db()
        record = bridge.session_of(row)
        assert [entry.t_s / 60 for entry in record.entries[1:]] == [0, 180, 18 * 60, 24 * 60 - 1]
        assert max(entry.at for entry in row.entry_rows.all()) <= timezone.now()


@pytest.mark.parametrize("second", [0, 1, 3])
def test_a_time_said_within_a_second_of_now_is_the_first_of_a_write_up(
    source: SourceRow, who: AbstractUser, second: int
) -> None:
    with time_machine.travel(datetime(2026, 5, 4, 7, 30, second, tzinfo=UTC)):
        row = sessions.start_session(source, "endurance", Conditions(), who, confirmed=(), written_up=True)
        for line in ("07:30 100%", "10:30 88%"):
            sessions.log_line(row, line, who)
        row.refresh_from_db()
        assert [entry.t_s / 60 for entry in bridge.session_of(row).entries[1:]] == [0, 180]


def test_a_session_archived_stands_apart_and_comes_back(client: Client, ladder: SessionRow) -> None:
    job_id, url = ladder.source.job_id, reverse("session-archive", args=[ladder.source.job_id, ladder.pk])
    page = client.post(url, follow=True).content.decode()
    assert "1 archived" in page
    assert "Undo" in page
    client.post(url)
    assert "1 archived" not in client.get(reverse("bench", args=[job_id])).content.decode()


# History


def test_the_history_tells_each_change_and_undoes_it(client: Client, job: Job) -> None:
    client.post(reverse("loads", args=[job.pk]), {"line": "kettle"})
    page = client.get(reverse("loads", args=[job.pk])).content.decode()
    assert "Undo: kettle added" in page
    change = job.change_rows.first()
    assert change is not None
    undo = reverse("undo-change", args=[job.pk, change.pk])
    response = client.post(undo, {"next": reverse("loads", args=[job.pk])}, follow=True)
    assert response.redirect_chain[-1][0] == reverse("loads", args=[job.pk])
    assert "kettle" not in [load.name for load in bridge.loads_of(job)]
    page = client.get(reverse("history", args=[job.pk])).content.decode()
    assert "Do again" in page
    client.post(reverse("redo-change", args=[job.pk, change.pk]))
    assert "kettle" in [load.name for load in bridge.loads_of(job)]
    assert (
        "is not undone" in client.post(reverse("redo-change", args=[job.pk, change.pk]), follow=True).content.decode()
    )


def test_an_undo_does_not_lead_elsewhere(client: Client, job: Job) -> None:
    change = job.change_rows.first()
    assert change is not None
    response = client.post(reverse("undo-change", args=[job.pk, change.pk]), {"next": "//elsewhere.example/"})
    assert response["Location"] == reverse("history", args=[job.pk])


# Kit


def test_an_instrument_is_described_and_read_with(client: Client, ladder: SessionRow, who: AbstractUser) -> None:
    data = {
        "name": "loft logger",
        "slug": "@Logger",
        "refresh_s": "10",
        "window_s": "10",
        "v_high": "300",
        "v_pct": "0,5",
    }
    assert client.post(reverse("kit-new"), data).status_code == 302
    made = kit.instrument_of(InstrumentRow.objects.get(slug="logger"))
    assert (made.refresh_s, made.reads[0].accuracy_pct) == (10, 0.5)
    ladder.refresh_from_db()
    reading = sessions.understand(ladder, "@logger 230v").items[0]
    assert isinstance(reading, Reading)
    assert reading.instrument == "logger"
    assert "loft logger" in client.get(reverse("kit")).content.decode()


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"slug": "two words"}, "slug"),
        ({"slug": "clamp"}, "slug"),
        ({"name": ""}, "name"),
        ({"refresh_s": "0"}, "refresh_s"),
        ({"v_high": "", "v_low": "3"}, "v_high"),
        ({"v_high": "-5"}, "v_high"),
        ({"v_pct": "200"}, "v_pct"),
        ({"crest": "0.5"}, "crest"),
        ({"v_high": ""}, "__all__"),
    ],
)
def test_a_slip_in_an_instrument_is_answered_beside_its_field(
    client: Client, who: AbstractUser, change: dict[str, str], field: str
) -> None:
    kit.kit_rows(who)
    data = {"name": "loft logger", "slug": "logger", "refresh_s": "10", "window_s": "10", "v_high": "300"}
    response = client.post(reverse("kit-new"), {**data, **change})
    assert response.status_code == 422
    assert field in response.context["form"].errors


def test_the_kit_is_put_in_order_taken_out_and_put_back(client: Client, who: AbstractUser) -> None:
    rows = kit.kit_rows(who)
    client.post(reverse("kit-up", args=[rows[1].pk]))
    assert kit.kit_rows(who)[0].pk == rows[1].pk
    page = client.post(reverse("kit-take-out", args=[rows[1].pk]), follow=True).content.decode()
    assert "1 taken out" in page
    client.post(reverse("kit-put-back", args=[rows[1].pk]))
    assert kit.kit_rows(who)[0].pk == rows[1].pk
    url = reverse("kit-edit", args=[rows[1].pk])
    form = client.get(url).context["form"]
    data = {name: form[name].value() if form[name].value() is not None else "" for name in form.fields}
    assert client.post(url, {**data, "safe_a": "13"}).status_code == 302
    assert kit.instrument_of(InstrumentRow.objects.get(pk=rows[1].pk)).safe_a == 13


# Sheet


@pytest.mark.parametrize("protocol", ["ladder", "baseline", "overload", "legs", "waveform", "heating_check"])
def test_a_sheet_stands_for_each_protocol_or_says_why_not(client: Client, demo: Job, protocol: str) -> None:
    page = client.get(reverse("plan", args=[demo.pk]), {"protocol": protocol}).content.decode()
    assert "Stop at" in page
    assert "smell, smoke" in page


def test_a_sheet_says_what_the_loads_lacks(client: Client, source: SourceRow) -> None:
    page = client.get(reverse("plan", args=[source.job_id]), {"protocol": "legs"}).content.decode()
    assert "This home has one leg" in page


def test_an_overload_is_run_and_its_trip_found(client: Client, source: SourceRow, who: AbstractUser) -> None:
    roll.add_line(source.job, "kettle 1800w", who)
    row = sessions.start_session(source, "overload", Conditions(), who, confirmed=KNOWN)
    for line in ("+1 +4", "228v 2790w", "!trip overload lamp"):
        sessions.log_line(row, line, who)
    assert any(finding.topic == "trips" for finding in session_findings(row).findings)


def test_a_long_running_session_shows_its_latest_entries_and_all_of_them_a_link_away(
    client: Client, ladder: SessionRow, who: AbstractUser
) -> None:
    sessions.log_line(ladder, "@plug 19a", who)
    for i in range(MOST_LINES + 4):
        sessions.log_line(ladder, f"note: {i} of many", who)
    url = reverse("session", args=[ladder.source.job_id, ladder.pk])
    page = client.get(url).content.decode()
    assert ">note: 3 of many<" not in page
    assert "2 to look at" in page
    assert f"All {MOST_LINES + 6} entries" in page
    assert ">note: 3 of many<" in client.get(url, {"all": "1"}).content.decode()
    sessions.close_session(ladder)
    assert ">note: 3 of many<" in client.get(url).content.decode()


def test_a_long_session_says_when_to_look_in_and_for_how_long_it_goes_on(
    client: Client, source: SourceRow, who: AbstractUser
) -> None:
    row = sessions.start_session(source, "endurance", Conditions(), who, confirmed=KNOWN)
    args = (source.job_id, row.pk)
    url = reverse("session", args=args)
    assert "Look in every" in client.get(url).content.decode()
    client.post(reverse("session-checkins", args=args), {"minutes": "30"})
    assert "Next look at" in client.get(url).content.decode()
    assert b"INTERVAL=30" in client.get(reverse("session-calendar", args=args)).content
    client.post(reverse("session-event", args=args), {"event": "pause"})
    page = client.get(url).content.decode()
    assert "Paused." in page
    assert "Go on" in page
    assert client.get(reverse("session-calendar", args=args)).status_code == 302
    client.post(reverse("session-event", args=args), {"event": "resume"})
    assert "Next look at" in client.get(url).content.decode()
    wrong = client.post(reverse("session-checkins", args=args), {"minutes": "often"}, follow=True).content.decode()
    assert "minutes from 1 to 1440" in wrong
