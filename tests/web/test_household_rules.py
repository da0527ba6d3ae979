"""Rules of the household on the outage page: searched, accepted, tried, struck, added by hand."""

from __future__ import annotations

from datetime import UTC, datetime
from html import unescape

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.loads import Tier
from muster.core.outage.household import HouseholdRule, RuleKind
from muster.core.outage.search import sets_of
from muster.formats.codec import canonical, dump
from muster.formats.jobzip import JobPackage
from muster.formats.notes import read_notes
from muster.records import bridge
from muster.records.actions.jobs import read_in
from muster.records.models import Job, SourceRow

REFUEL = HouseholdRule(RuleKind.REFUEL)


@pytest.fixture
def source(demo: Job) -> SourceRow:
    row = demo.source_rows.first()
    assert row is not None
    return row


def post(client: Client, source: SourceRow, **what: str) -> str:
    address = reverse("outage-rules", args=[source.job_id])
    sent = {"source": str(source.pk), "scope": "must", **what}
    return unescape(client.post(address, sent, follow=True).content.decode())


def page(client: Client, source: SourceRow, **asked: str) -> str:
    address = reverse("outage", args=[source.job_id])
    return unescape(client.get(address, {"source": str(source.pk), **asked}).content.decode())


def test_a_rule_is_added_by_hand_followed_and_struck(client: Client, source: SourceRow) -> None:
    added = post(client, source, do="add", kind="refuel_before_bed")
    assert "Fill the tank before bed" in added
    assert "Refuel a cold engine only" in added
    source.refresh_from_db()
    assert bridge.rules_of(source) == (REFUEL,)
    assert "1 accepted" in added
    struck = post(client, source, do="strike", rule=canonical(dump(REFUEL)))
    assert "none accepted yet" in struck


def test_what_a_rule_lacks_is_said_beside_its_field(client: Client, source: SourceRow) -> None:
    told = post(client, source, do="add", kind="apart")
    assert "a rule “never together” needs it" in told
    assert bridge.rules_of(SourceRow.objects.get(pk=source.pk)) == ()


def test_what_is_medical_cannot_be_put_into_a_rule_and_the_page_says_why(client: Client, source: SourceRow) -> None:
    oxygen = next(load for load in bridge.loads_of(source.job) if load.kind_figures.medical)
    told = post(client, source, do="add", kind="first", load=oxygen.key)
    assert "is medical: no rule touches it" in told


def test_a_broken_rule_is_refused_in_words(client: Client, source: SourceRow) -> None:
    for rule in ("", "{", "[]", '{"kind": "shout"}'):
        assert "household" in post(client, source, do="accept", rule=rule)
    assert bridge.rules_of(SourceRow.objects.get(pk=source.pk)) == ()


def test_a_rule_is_tried_without_changing_the_job(client: Client, source: SourceRow) -> None:
    post(client, source, do="add", kind="refuel_before_bed")
    assert "Played otherwise" not in page(client, source)
    without = page(client, source, outage_h="18", outage_from_hour="16")
    assert "Played otherwise" in without
    with_it = page(client, source, outage_h="18", outage_from_hour="16", rule=canonical(dump(REFUEL)))
    assert "Played otherwise" not in with_it
    first = HouseholdRule(kind=RuleKind.ONE_BY_ONE)
    address = reverse("outage", args=[source.job_id])
    asked = {"source": source.pk, "outage_h": "18", "outage_from_hour": "16", "rule": canonical(dump(first))}
    proposed = client.get(address, asked, headers={"HX-Request": "true"}).content.decode()
    assert "Played otherwise" in proposed, "a rule that is proposed and not accepted is played too"
    assert "bring the loads up one by one" in proposed
    assert client.get(address, {**asked, "rule": "{nonsense"}).status_code == 200


SMALL = """\
Home: Fern Lodge, 230 V 50 Hz, outage 8 h from 16

Loads
stove heater 1.5kw measured 20/40 must
room heater 1.4kw measured 15/30 must

Source: open-frame set 2.4 kW, tank 10 l

Ladder, 20 nov
09:00 +stove heater 1.5kw 230v
09:05 +room heater 2kw 229v
11:00 2kw 229v
11:10 2.6kw went off
"""


def test_a_search_says_what_it_weighed_and_what_is_beyond_rules(client: Client, who: AbstractUser) -> None:
    job = read_in(JobPackage(read_notes(SMALL, datetime(2026, 11, 28, tzinfo=UTC)).job), who)
    told = post(client, job.source_rows.get(), do="search")
    assert "weighed on the same 200 outages" in told
    assert "Never run the stove heater and the room heater together" in told
    assert "without it" in told
    assert "Beyond any rule: Fuel" in told
    assert "No rule takes hours, energy or supply from what must run" in told
    assert sets_of(12) == 298


def test_one_night_is_told_with_its_drawing_and_its_hours(client: Client, source: SourceRow) -> None:
    told = page(client, source)
    assert "The middle one of them" in told
    assert 'class="drawing played strip"' in told
    assert "borehole pump does not start" in told
    assert Tier.MUST.value in told
