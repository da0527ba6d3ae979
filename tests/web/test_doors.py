"""The doors into Muster: notes, a question in one line, and the board that they stand on."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import AbstractUser
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from pytest_django import DjangoAssertNumQueries

from muster.core.brief import Brief
from muster.core.sessions import Conditions
from muster.records import bridge
from muster.records.actions import jobs, loads, notes, sessions
from muster.records.models import Job, SourceRow
from tests.formats.test_notes import HURRIED, IN_ORDER

pytestmark = pytest.mark.django_db


def test_notes_are_told_back_and_nothing_is_kept(client: Client, who: AbstractUser) -> None:
    page = client.post(reverse("notes"), {"text": IN_ORDER, "do": "look"}).content.decode()
    assert "garden gate motor" in page
    assert "1 question left open" in page
    assert not Job.objects.exists()


def test_notes_make_a_job_with_its_tests_open_for_more(client: Client, who: AbstractUser) -> None:
    answer = client.post(reverse("notes"), {"text": IN_ORDER, "do": "take"})
    job = Job.objects.get()
    assert answer.headers["Location"] == reverse("verdict", args=[job.pk])
    (source,) = job.source_rows.all()
    ladder, _ = source.session_rows.all()
    assert (ladder.closed_at, ladder.entry_rows.count()) == (None, 5)


def test_a_notes_file_is_dropped_and_told_back(client: Client, who: AbstractUser) -> None:
    given = SimpleUploadedFile("phone.txt", HURRIED.encode())
    page = client.post(reverse("notes"), {"notes": given, "do": "look", "text": ""}).content.decode()
    assert "uncle&#x27;s place" in page
    assert "6:05 pm no load 123v 61.8hz" in page, "the text stands in the box, to be put right"


@pytest.mark.parametrize("given", [b"\xff\xfe\x00", b"x" * 500_001])
def test_what_is_no_notes_is_one_clear_line(client: Client, who: AbstractUser, given: bytes) -> None:
    answer = client.post(reverse("notes"), {"notes": SimpleUploadedFile("a.txt", given), "do": "look"})
    assert answer.status_code == 422
    assert "a.txt" in answer.content.decode()


def test_a_question_is_answered_by_a_job_of_it(client: Client, who: AbstractUser) -> None:
    line = "1kVA 24V inverter, 2x100Ah lead-acid: fridge 0.9A, lights 60W"
    answer = client.post(reverse("ask"), {"question": line})
    job = Job.objects.get()
    assert answer.headers["Location"] == reverse("verdict", args=[job.pk])
    assert client.get(reverse("brief", args=[job.pk])).status_code == 200


def test_what_is_no_question_stays_in_its_box_with_what_would_be(client: Client, who: AbstractUser) -> None:
    answer = client.post(reverse("ask"), {"question": "fridge 100w"})
    assert answer.status_code == 422
    page = answer.content.decode()
    assert 'value="fridge 100w"' in page
    assert "such as" in page


def test_the_brief_keeps_the_notes_when_it_is_saved(client: Client, who: AbstractUser) -> None:
    job = notes.take_notes(IN_ORDER, who)
    page = client.get(reverse("brief", args=[job.pk])).content.decode()
    assert "ask again about the pump" in page


def test_a_job_goes_out_as_notes(client: Client, who: AbstractUser) -> None:
    job = notes.take_notes(HURRIED, who)
    answer = client.get(reverse("job-notes", args=[job.pk]))
    assert "attachment" in answer.headers["Content-Disposition"]
    again = notes.look_at_notes(answer.content.decode()).job
    assert [load.name for load in again.loads] == ["fridge", "lights"]


# the board


def judged(source: SourceRow) -> SourceRow:
    from django.utils import timezone

    from muster.core.verdict import Status

    source.judged = {
        "status": Status.TIGHT.value,
        "headline": "Tight: little to spare.",
        "at": timezone.now().isoformat(),
    }
    source.save(update_fields=["judged"])
    return source


def test_the_board_says_the_verdict_as_it_was_kept(client: Client, source: SourceRow) -> None:
    assert "not judged yet" in client.get(reverse("board")).content.decode()
    judged(source)
    page = client.get(reverse("board")).content.decode()
    assert "Tight: little to spare." in page
    assert "stale" not in page


def test_a_verdict_is_stale_once_something_was_changed_or_logged(
    client: Client, source: SourceRow, who: AbstractUser
) -> None:
    judged(source)
    loads.add_line(source.job, "toaster 850w", who)
    assert ">stale<" in client.get(reverse("board")).content.decode()


def test_a_line_logged_makes_it_stale_too(client: Client, ladder: object, source: SourceRow, who: AbstractUser) -> None:
    judged(source)
    sessions.log_line(source.session_rows.get(), "1.2kw 118v", who)
    assert ">stale<" in client.get(reverse("board")).content.decode()


def test_the_board_finds_by_job_and_by_source(client: Client, source: SourceRow, who: AbstractUser) -> None:
    other = jobs.create_job("Beacon barn", Brief(), who)
    found = client.get(reverse("board"), {"find": "beacon"}).content.decode()
    assert other.name in found
    assert source.job.name not in found
    assert source.job.name in client.get(reverse("board"), {"find": source.name}).content.decode()
    assert "No job and no source is called" in client.get(reverse("board"), {"find": "zzz"}).content.decode()


def test_a_page_of_the_board_asks_the_database_no_more_for_many_jobs_than_for_few(
    client: Client, who: AbstractUser, django_assert_max_num_queries: DjangoAssertNumQueries
) -> None:
    Job.objects.bulk_create(Job(name=f"house {i}", brief={}, created_by=who) for i in range(60))
    for job in Job.objects.all():
        job.brief = {}
    with django_assert_max_num_queries(20):
        page = client.get(reverse("board")).content.decode()
    assert page.count("board-main") == 12
    assert "1 to 12 of 60" in page


# the source


LINE = "battery station 2kWh 1800W surge 3600W 5s LFP pv 2x 12-60V 20A charge 1.2kW 25kg 1,300"


def test_a_nameplate_is_told_back_while_it_is_typed(client: Client, job: Job) -> None:
    page = client.get(reverse("source-read", args=[job.pk]), {"line": LINE}).content.decode()
    assert "2 inputs for panels 12 to 60 V 20 A" in page
    assert not job.source_rows.exists()
    assert "names no kind" in client.get(reverse("source-read", args=[job.pk]), {"line": "apples"}).content.decode()


def test_a_source_is_added_by_one_line_and_kept_whole_by_its_form(client: Client, job: Job) -> None:
    client.post(reverse("source-line", args=[job.pk]), {"line": f"{LINE}, codes: E3 battery cold"})
    row = job.source_rows.get()
    was = bridge.source_of(row)
    url = reverse("source-edit", args=[job.pk, row.pk])
    form = client.get(url).context["form"]
    filled = {name: "" if (value := form[name].value()) in (None, False) else value for name in form.fields}
    assert client.post(url, filled).status_code == 302
    assert bridge.source_of(SourceRow.objects.get(pk=row.pk)) == was


def test_a_line_that_names_no_source_stays_with_what_would_be_right(client: Client, job: Job) -> None:
    answer = client.post(reverse("source-line", args=[job.pk]), {"line": "apples"})
    assert answer.status_code == 422
    assert 'value="apples"' in answer.content.decode()


def test_only_the_sections_that_fit_the_kind_are_asked_and_the_rest_is_folded(client: Client, job: Job) -> None:
    form = client.get(reverse("source-new", args=[job.pk]), {"kind": "open_frame"}).context["form"]
    shown = {title: open_ for title, _, open_ in form.sections()}
    assert shown["Nameplate"]
    assert "Battery side" not in shown
    assert not shown["What it costs to own"]


@pytest.mark.parametrize(("field", "words"), [("codes", "F7"), ("ports", "some sun")])
def test_a_line_of_a_box_that_is_not_understood_says_what_would_be(
    client: Client, job: Job, field: str, words: str
) -> None:
    url = reverse("source-new", args=[job.pk]) + "?kind=station"
    answer = client.post(url, {"name": "it", "cont_w": "600", "wave": "sine", field: words})
    assert answer.status_code == 422
    assert "such as" in answer.content.decode()


# units without a home

UNITS = """\
Units: three small sets, 230 V 50 Hz
Test loads: fan heater 2kw
Generator: set one, 2 kW petrol
Noise walk, 3 oct 2026
10:00 background 36
10:05 66 db at 7 m
10:10 fan heater on, 70 db at 7 m
Generator: set two, 2.2 kW petrol
Ladder, 3 oct 2026
11:00 no load 236v 51.9hz
11:05 fan heater on 2.0kw 225v 50.2hz
11:20 2.0kw 225v
"""


def test_units_alone_are_a_job_whose_findings_are_the_result(client: Client, who: AbstractUser) -> None:
    answer = client.post(reverse("notes"), {"text": UNITS, "do": "take"})
    job = Job.objects.get()
    assert answer.headers["Location"] == reverse("findings", args=[job.pk])
    page = client.get(answer.headers["Location"]).content.decode()
    assert "what does three small sets do?" in page
    assert "9 Verdict" not in page
    for stage in ("verdict", "outage"):
        assert client.get(reverse(stage, args=[job.pk])).headers["Location"] == reverse("findings", args=[job.pk])
    for stage in ("brief", "loads", "source", "plan", "safety", "bench"):
        assert client.get(reverse(stage, args=[job.pk])).status_code == 200, stage
    assert ">Findings</a>" in client.get(reverse("board")).content.decode()
    again = notes.look_at_notes(notes.notes_of(job)).job
    assert again.brief.of_units
    assert [source.source.name for source in again.sources] == ["set one", "set two"]


def test_every_bench_works_on_test_loads_alone(client: Client, who: AbstractUser) -> None:
    job = notes.take_notes(UNITS, who)
    source = job.source_rows.order_by("pk").last()
    assert source is not None
    (found,) = bridge.session_of(source.session_rows.get()).effective[-1:]
    assert found.items
    page = client.get(reverse("bench", args=[job.pk]), {"source": source.pk, "protocol": "ladder"}).content.decode()
    assert "fan heater" in page


def test_a_job_of_units_is_opened_by_hand(client: Client, who: AbstractUser) -> None:
    answer = client.post(
        reverse("new-job"), {"name": "six sets", "system": "single-230-50", "outage_h": "24", "of_units": "on"}
    )
    job = Job.objects.get()
    assert answer.status_code == 302
    assert job.brief["of_units"] is True


def test_a_code_is_told_back_with_its_meaning(client: Client, job: Job, who: AbstractUser) -> None:
    client.post(
        reverse("source-line", args=[job.pk]), {"line": "hybrid 5 kW, codes: F7 leg over its rating, E3 battery cold"}
    )
    row = sessions.start_session(job.source_rows.get(), "ladder", Conditions(), who, confirmed=(), written_up=True)
    told = client.get(
        reverse("session-understood", args=[job.pk, row.pk]), {"line": "16:50 code F7 came and went"}
    ).content.decode()
    assert "F7 is: leg over its rating" in told
    unknown = client.get(reverse("session-understood", args=[job.pk, row.pk]), {"line": "code F9"}).content.decode()
    assert " is: " not in unknown
