"""A real outage is evidence of its date, and stands beside what was predicted without it."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.findings.finding import Topic
from muster.core.sessions import Conditions
from muster.records.actions.sessions import log_line, start_session
from muster.records.background import Waiting
from muster.records.foresight import real_outages
from muster.records.judging import character_now, session_findings
from muster.records.models import Job, SessionRow, SourceRow


@pytest.fixture
def outage(demo: Job, who: AbstractUser) -> SessionRow:
    """Six hours on the open-frame set: tripped once, twelve minutes without, four litres burnt."""
    source = demo.source_rows.get()
    began = datetime(2026, 11, 20, 18, 0, tzinfo=UTC)
    row = start_session(source, "outage", Conditions(), who, confirmed=(), began=began)
    for line in (
        "18:00: fuel 20l +2 +3",
        "19:00: 1400w 238v",
        "20:10: !trip",
        "20:22: reset 240v",
        "23:59: fuel 16l 239v",
    ):
        log_line(row, line, who)
    return row


def test_it_is_told_among_the_findings_and_counts_as_evidence_of_its_day(outage: SessionRow) -> None:
    findings = session_findings(outage).findings
    told = next(finding for finding in findings if finding.topic is Topic.OUTAGE)
    assert "Power for 5 h 47 min of 5 h 59 min" in told.sentence.replace("\u202f", " ")
    known = character_now(outage.source)
    assert any(estimate.session == "Real outage" for p in known.parameters for estimate in p.estimates)


def test_it_stands_beside_what_was_predicted_from_what_was_known_before_it(outage: SessionRow) -> None:
    (told,) = real_outages(outage.source, Waiting())
    rows = {row.label: row for row in told.rows}
    assert rows["times tripped"].happened == "1"
    assert rows["fuel burnt"].inside is not None
    assert rows["lowest volts"].inside is None


def test_the_page_shows_it_and_says_how_well_it_was_foreseen(client: Client, outage: SessionRow) -> None:
    source: SourceRow = outage.source
    address = reverse("outage", args=[source.job_id])
    page = client.get(address, {"source": source.pk}).content.decode()
    assert "figures of one outage" in page
    assert "Without power" in page
    SessionRow.objects.filter(pk=outage.pk).update(archived_at=outage.started_at)
    assert "When the mains really fails" in client.get(address, {"source": source.pk}).content.decode()
