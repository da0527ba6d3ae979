"""Posts that change what is kept, page by page, without script."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import AbstractUser
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse

from muster.core.safety.checks import KNOWN
from muster.records import bridge
from muster.records.actions.demo import load_demo
from muster.records.models import Job, LoadRow, SessionRow, SourceRow


def test_the_demo_is_read_in_once_and_what_was_changed_in_it_stays(who: AbstractUser) -> None:
    first = load_demo(who)
    assert [job.name for job in first] == [
        "The Net Loft",
        "Signal Cottage",
        "The Ferry House",
        "the lamp store",
        "Six small sets",
    ]
    LoadRow.objects.filter(name="bread oven").update(name="big kettle")
    assert load_demo(who) == []
    assert LoadRow.objects.filter(name="big kettle").count() == 1


def test_a_job_is_copied_archived_and_restored_by_its_addresses(client: Client, job: Job) -> None:
    client.post(reverse("copy-job", args=[job.pk]))
    assert Job.objects.count() == 2
    page = client.post(reverse("archive-job", args=[job.pk]), follow=True).content.decode()
    assert "is archived" in page
    assert "1 archived" in page
    assert "archived" in client.get(reverse("brief", args=[job.pk])).content.decode()
    client.post(reverse("restore-job", args=[job.pk]))
    assert Job.objects.filter(archived_at=None).count() == 2


@pytest.mark.parametrize("name", ["copy-job", "archive-job", "restore-job"])
def test_a_link_followed_changes_nothing(client: Client, job: Job, name: str) -> None:
    assert client.get(reverse(name, args=[job.pk])).status_code == 405
    assert Job.objects.count() == 1


def test_a_post_without_its_token_is_refused(job: Job) -> None:
    strict = Client(enforce_csrf_checks=True)
    assert strict.post(reverse("archive-job", args=[job.pk])).status_code == 403
    assert Job.objects.get().archived_at is None


def test_a_source_is_edited_archived_and_restored(client: Client, source: SourceRow) -> None:
    job = source.job
    url = reverse("source-edit", args=[job.pk, source.pk])
    form = client.get(url).context["form"]
    data = {name: form[name].value() if form[name].value() is not None else "" for name in form.fields}
    assert data["cont_w"] == "2000"
    assert client.post(url, {**data, "thd_pct": "140"}).status_code == 422
    assert client.post(url, {**data, "thd_pct": "3,5"}).status_code == 302
    source.refresh_from_db()
    assert bridge.source_of(source).claims.thd_pct == 3.5
    page = client.post(reverse("source-archive", args=[job.pk, source.pk]), follow=True).content.decode()
    assert "archived with its sessions" in page
    assert "Undo" in page
    client.post(reverse("source-restore", args=[job.pk, source.pk]))
    source.refresh_from_db()
    assert source.archived_at is None


def test_a_source_archived_is_no_longer_judged(client: Client, ladder: SessionRow) -> None:
    job, source = ladder.source.job, ladder.source
    client.post(reverse("source-archive", args=[job.pk, source.pk]))
    assert client.get(reverse("verdict", args=[job.pk])).context["verdict"] is None
    assert client.get(reverse("bench", args=[job.pk])).context["sessions"].count() == 0


def test_of_two_sources_the_one_asked_for_is_shown(client: Client, source: SourceRow, who: AbstractUser) -> None:
    from muster.core.sources import Claims, Source, SourceKind
    from muster.records.actions import sources

    other = sources.add_source(source.job, Source("the box", SourceKind.STATION, Claims(cont_w=900)), who)
    url = reverse("verdict", args=[source.job.pk])
    assert client.get(url).context["source"] == source
    assert client.get(url, {"source": other.pk}).context["source"] == other
    assert client.get(url, {"source": "nonsense"}).context["source"] == source
    assert b"pick-source" in client.get(url).content


def test_a_session_of_a_home_without_motors_says_why_it_has_no_starts(client: Client, source: SourceRow) -> None:
    source.job.load_rows.filter(name="sump pump").delete()
    page = client.get(reverse("bench", args=[source.job.pk]), {"protocol": "starts"}).content.decode()
    assert "start to test" in page
    assert "Start the starts" not in page
    assert "checked" in page.split('name="written_up"')[1].split(">")[0], (
        "what can only be written up is ticked as such"
    )


def test_a_protocol_nobody_knows_is_answered_in_words(client: Client, source: SourceRow) -> None:
    page = client.get(reverse("bench", args=[source.job.pk]), {"protocol": "dance"})
    assert page.status_code == 200
    assert "There is no “dance”" in page.content.decode()


def test_a_conditions_slip_keeps_the_form(client: Client, source: SourceRow) -> None:
    url = reverse("bench", args=[source.job.pk])
    data = {"protocol": "ladder", "source": source.pk, "confirmed": list(KNOWN), "temp_c": "cold"}
    page = client.post(url, data)
    assert page.status_code == 422
    assert b'value="cold"' in page.content
    assert SessionRow.objects.count() == 0


def test_conditions_stand_beside_the_record(client: Client, source: SourceRow) -> None:
    url = reverse("bench", args=[source.job.pk])
    data = {
        "protocol": "ladder",
        "source": source.pk,
        "confirmed": list(KNOWN),
        "temp_c": "9",
        "fuel": "petrol",
        "eco": "on",
    }
    page = client.post(url, data, follow=True).content.decode().replace("\u202f", " ")
    assert "9 °C" in page
    assert "cold at the start" in page
    assert "eco idle" in page


def test_closing_twice_is_answered_and_the_seal_stays(client: Client, ladder: SessionRow) -> None:
    url = reverse("session-close", args=[ladder.source.job.pk, ladder.pk])
    client.post(url)
    ladder.refresh_from_db()
    seal = ladder.sha256
    page = client.post(url, follow=True)
    assert b"closed" in page.content
    ladder.refresh_from_db()
    assert ladder.sha256 == seal


def test_a_refusal_without_script_is_said_on_the_next_page(client: Client, ladder: SessionRow) -> None:
    url = reverse("session-line", args=[ladder.source.job.pk, ladder.pk])
    page = client.post(url, {"line": ""}, follow=True)
    assert b"Nothing was typed" in page.content


def test_findings_lead_to_the_entries_they_came_from(client: Client, demo: Job) -> None:
    page = client.get(reverse("findings", args=[demo.pk])).content.decode()
    ladder = SessionRow.objects.get(protocol="ladder")
    assert f"/bench/{ladder.pk}/?all=1#entry-" in page
    record = client.get(reverse("session", args=[demo.pk, ladder.pk])).content.decode()
    assert 'id="entry-3"' in record


def test_the_day_of_each_tier_is_told_apart(client: Client, demo: Job) -> None:
    url = reverse("outage", args=[demo.pk])
    must, everything = (client.get(url, {"scope": scope}).context["demand"] for scope in ("must", "could"))
    assert must.total_wh < everything.total_wh
    assert "bread oven" not in client.get(url).content.decode()
    assert "bread oven" in client.get(url, {"scope": "should"}).content.decode()


def test_a_job_is_saved_as_a_file_and_imported_again_whole(client: Client, demo: Job) -> None:
    saved = client.get(reverse("job-file", args=[demo.pk]))
    assert saved["Content-Disposition"] == 'attachment; filename="the-ferry-house.muster.zip"'
    upload = SimpleUploadedFile("x.muster.zip", saved.content)
    page = client.post(reverse("import-job"), {"file": upload}, follow=True)
    assert b"imported whole" in page.content
    copy = Job.objects.exclude(pk=demo.pk).get()
    assert client.get(reverse("job-file", args=[copy.pk])).content == saved.content


@pytest.mark.parametrize(
    ("content", "says"),
    [(None, "no file was chosen"), (b"{", "not JSON"), (b'{"version": 3}', "reads versions up to 2")],
)
def test_a_bad_job_file_is_answered_beside_it_and_nothing_is_made(
    client: Client, db: None, content: bytes | None, says: str
) -> None:
    data = {} if content is None else {"file": SimpleUploadedFile("x.json", content)}
    page = client.post(reverse("import-job"), data)
    assert page.status_code == 422
    assert says in page.content.decode()
    assert Job.objects.count() == 0
