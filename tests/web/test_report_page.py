"""The report's page: what is in it is chosen, what is not ready is waited for, the file comes with nothing to fetch."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.brief import Brief
from muster.records.actions.jobs import create_job
from muster.records.models import Job
from muster.web.verdict.papers import POLICY

pytestmark = pytest.mark.django_db


def test_the_page_says_what_it_wants_and_what_it_will_hold(client: Client, demo: Job, who: AbstractUser) -> None:
    bare = create_job("Bare", Brief(), who)
    assert "It wants" in client.get(reverse("report", args=[bare.pk])).content.decode()
    page = client.get(reverse("report", args=[demo.pk])).content.decode()
    assert "the open-frame set" in page
    assert "muster check-report FILE" in page


def test_the_report_comes_as_one_file_with_the_chosen_source_and_paper(client: Client, demo: Job) -> None:
    address = reverse("report-file", args=[demo.pk])
    sent = client.get(address, {"paper": "letter", "save": "1", "source": demo.source_rows.get().pk})
    assert sent["Content-Security-Policy"] == POLICY
    assert "ferry-house-report.html" in sent["Content-Disposition"]
    text = sent.content.decode()
    assert "215.9mm 279.4mm" in text
    assert "The open-frame set" in text
    assert "For the electrician" in text
    assert "by the assessor" in text
    inline = client.get(address, {"scope": "could"})
    assert "Content-Disposition" not in inline
    assert "every load" in inline.content.decode()


def test_the_verdict_leads_to_both_papers(client: Client, demo: Job) -> None:
    page = client.get(reverse("verdict", args=[demo.pk])).content.decode()
    assert reverse("report", args=[demo.pk]) in page
    assert reverse("card", args=[demo.pk]) in page
