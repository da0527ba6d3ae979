"""The card's page: worded, given out, and told when the job has moved on since."""

from __future__ import annotations

from pathlib import Path

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.outage.household import HouseholdRule, RuleKind
from muster.formats.jobzip import read_package
from muster.formats.jobzip_out import write_package
from muster.formats.paper_marks import read_marks
from muster.records import bridge
from muster.records.actions.history import last_change, undo_change
from muster.records.actions.jobs import job_file, read_in, write_out
from muster.records.actions.rules import accept_rules
from muster.records.models import Job, SourceRow
from muster.web.verdict.papers import POLICY

pytestmark = pytest.mark.django_db


@pytest.fixture
def row(demo: Job) -> SourceRow:
    return demo.source_rows.get()


def shown(client: Client, job: Job) -> str:
    return client.get(reverse("card", args=[job.pk])).content.decode()


def words(client: Client, job: Job, **fields: object) -> object:
    return client.post(reverse("card-words", args=[job.pk]), {"language": "en", "spoken": "en", **fields})


def test_a_job_without_loads_or_a_source_is_told_what_the_card_wants(client: Client, who: AbstractUser) -> None:
    from muster.core.brief import Brief
    from muster.records.actions.jobs import create_job

    job = create_job("Bare", Brief(), who)
    assert "wants" in shown(client, job)
    assert client.post(reverse("card-file", args=[job.pk])).status_code == 404


def test_the_card_shows_the_start_order_the_limit_and_what_it_rests_on(client: Client, demo: Job) -> None:
    page = shown(client, demo)
    assert page.index("Borehole pump") < page.index("House lights")
    assert "NOT ENOUGH" in page
    assert "Rests on: " in page
    assert "Say a line otherwise" in page


def test_own_words_are_kept_undone_and_travel_in_the_job_file(
    client: Client, demo: Job, row: SourceRow, who: AbstractUser
) -> None:
    told = words(client, demo, **{"own:trips.off": "Everything off, at once.", "call": ["Ishbel, 555 0101", "", ""]})
    assert told.status_code == 302  # type: ignore[attr-defined]
    row.refresh_from_db()
    assert bridge.card_words_of(row).own_text("trips.off", "en") == "Everything off, at once."
    page = shown(client, demo)
    assert "Everything off, at once." in page
    assert "Ishbel, 555 0101" in page
    again = read_in(read_package(write_package(write_out(demo))), who)
    assert bridge.card_words_of(again.source_rows.get()) == bridge.card_words_of(row)
    change = last_change(demo)
    assert change is not None
    undo_change(change)
    row.refresh_from_db()
    assert bridge.card_words_of(row).own == ()


def test_words_that_lose_a_figure_are_told_beside_their_field_and_nothing_is_kept(
    client: Client, demo: Job, row: SourceRow
) -> None:
    told = words(client, demo, **{"own:watch.watts": "Not too much.", "own:trips.off": "Off."})
    assert told.status_code == 422  # type: ignore[attr-defined]
    page = told.content.decode()  # type: ignore[attr-defined]
    assert "Not too much." in page, "what was typed is still there"
    assert "{w}" in page
    row.refresh_from_db()
    assert bridge.card_words_of(row).own == ()
    emptied = words(client, demo, **{"own:trips.off": ""})
    assert emptied.status_code == 302  # type: ignore[attr-defined]


def test_a_language_that_is_not_there_is_refused(client: Client, demo: Job) -> None:
    assert words(client, demo, spoken="xx").status_code == 422  # type: ignore[attr-defined]
    assert words(client, demo, language="xx").status_code == 404  # type: ignore[attr-defined]
    assert 'lang="es"' in client.get(f"{reverse('card', args=[demo.pk])}?language=es").content.decode()


def test_a_home_named_in_another_script_still_gives_its_card_a_file_name(
    client: Client, demo: Job, row: SourceRow
) -> None:
    demo.name = "Дом у парома"
    demo.save()
    sent = client.post(reverse("card-file", args=[demo.pk]), {"do": "save"})
    assert sent["Content-Disposition"].endswith('card.html"')
    assert '"-' not in sent["Content-Disposition"]


def test_the_file_asks_for_nothing_names_its_data_and_is_remembered(
    client: Client, demo: Job, row: SourceRow, who: AbstractUser, tmp_path: Path
) -> None:
    words(client, demo, beside="es")
    sent = client.post(reverse("card-file", args=[demo.pk]), {"do": "save", "paper": "half_letter"})
    assert "attachment" in sent["Content-Disposition"]
    assert sent["Content-Security-Policy"] == POLICY
    text = sent.content.decode()
    assert "http" not in text.replace("http-equiv", "")
    assert "<script src" not in text
    assert "139.7mm 215.9mm" in text
    assert "Cuando se va la luz" in text
    assert len(text) < 300_000
    file = tmp_path / "card.html"
    file.write_text(text, encoding="utf-8")
    marks = read_marks(file)
    assert (marks.kind, marks.job) == ("card", demo.name)
    assert "nothing of it has changed since" in shown(client, demo)
    row.refresh_from_db()
    accept_rules(row, [HouseholdRule(kind=RuleKind.APART, load="1", other="4")], who)
    page = shown(client, demo)
    assert "is older than the job: the open-frame set: rules of the household was changed" in page
    assert job_file(demo).sources[0].card_given is not None
