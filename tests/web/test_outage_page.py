"""The outage page: what a source makes of the night, for each source, with its numbers as a table."""

from __future__ import annotations

import csv
import io
import re
from html import unescape

import pytest
from django.test import Client
from django.urls import reverse

from muster.core.brief import Brief
from muster.core.character import Character
from muster.core.character.claimed import claims_of
from muster.core.character.hold_curve import HoldPoint, fit_hold
from muster.core.loads import Duty, Load, Tier
from muster.core.outage.household import HouseholdRule, RuleKind
from muster.core.outage.layout import Happening
from muster.core.outage.play import play_outage, ready
from muster.core.outage.played import OutagePlayed
from muster.core.quantities import Grade
from muster.core.sources import Claims, Site, Source, SourceKind
from muster.core.sources.limits import Limit
from muster.core.supply import SYSTEMS
from muster.formats.codec import canonical, dump
from muster.records.models import Job, ResultRow
from muster.web.figures.played_ribbon import (
    LEFT,
    RIGHT,
    SHORT,
    STORE_BOTTOM,
    STORE_TOP,
    TOP,
    draw_played,
    lead_words,
    share_words,
)
from tests.core.outage.building import known, parameter

BRIEF = Brief(system=SYSTEMS["single-230-50"], outage_h=12, outage_from_hour=18)


def page_of(client: Client, job: Job, name: str = "") -> str:
    source = job.source_rows.get(name=name).pk if name else ""
    return client.get(reverse("outage", args=[job.pk]), {"source": source} if source else {}).content.decode()


def test_an_outage_is_told_for_each_source_of_its_own(client: Client, island: list[Job]) -> None:
    demo = next(job for job in island if job.name == "The Ferry House")
    hybrid = page_of(client, demo, "the hybrid inverter").replace("\u202f", " ")
    assert "it runs out in all of them" in hybrid
    assert "the battery is empty" in hybrid
    assert "battery, kWh" in hybrid
    set_ = page_of(client, demo, "the open-frame set")
    assert "fuel, gal" in set_
    assert "Refuel a cold engine only" in set_
    assert "Whoever lives by a medical device" in set_


def test_what_was_played_is_kept_and_played_again_only_when_something_changed(client: Client, demo: Job) -> None:
    page_of(client, demo)
    kept = ResultRow.objects.count()
    page_of(client, demo)
    assert ResultRow.objects.count() == kept
    load = demo.load_rows.filter(removed_at=None).first()
    assert load is not None
    data = {**load.data, "run_w": load.data["run_w"] + 50, "figures": []}
    type(load).objects.filter(pk=load.pk).update(data=data)
    page_of(client, demo)
    assert ResultRow.objects.count() > kept


def test_the_played_hours_come_as_a_table(client: Client, demo: Job) -> None:
    response = client.get(reverse("outage-played-csv", args=[demo.pk]))
    rows = list(csv.DictReader(io.StringIO(response.content.decode("utf-8-sig"))))
    assert len(rows) == 18
    left = [float(row["left_l_p50"]) for row in rows]
    assert left == sorted(left, reverse=True), "fuel is burnt, and none is made"
    assert left[-1] > 0


@pytest.mark.django_db
def test_without_a_source_it_says_what_to_do_and_still_shows_what_the_home_needs(client: Client) -> None:
    client.post(reverse("new-job"), {"name": "Weir cottage", "system": "single-230-50", "outage_h": "6"})
    job = Job.objects.get()
    client.post(reverse("loads", args=[job.pk]), {"line": "fridge 130w must"})
    page = page_of(client, job)
    assert "Describe a source" in page
    assert "What the home needs" in page


def played(*, wh: float = 2000.0) -> tuple[OutagePlayed, Character]:
    """Twelve hours of 300 W on a battery that lasts six, or on one that lasts."""
    source = known(
        kind="station",
        limits=(Limit(key="continuous", name="continuous", w=2000.0, leg=None, basis="", grade=Grade.C),),
        parameters=(parameter("two_runs_wh_dc", wh, "wh", 1.0), parameter("idle_w", 10, "w", 0.1)),
    )
    load = Load(
        key="1", name="heater", kind="heater", run_w=300, pf=1.0, duty=Duty(60, 0), tier=Tier.MUST, run_grade=Grade.A
    )
    return play_outage(ready((load,), BRIEF, source), 20), source


def test_the_ribbon_stands_within_its_frame_and_marks_where_the_power_went() -> None:
    result, source = played()
    drawn = draw_played(result, source, BRIEF)
    (mark,) = drawn.marks
    empty_h = next(event.at_s for event in result.typical_night.events if event.kind is Happening.EMPTY) / 3600
    assert mark.x == pytest.approx(LEFT + (RIGHT - LEFT) * empty_h / 12, abs=0.1)
    assert mark.label == "empty"
    points = [float(y) for pair in drawn.store_middle[1:].split("L") for y in pair.split()[1:]]
    assert points[0] == pytest.approx(STORE_TOP + (STORE_BOTTOM - STORE_TOP) * (1 - 1 / 1.05), abs=1)
    assert points[-1] == pytest.approx(STORE_BOTTOM)
    assert len(drawn.rows) == 12
    assert drawn.quiet
    assert all(shade.x >= LEFT for shade in drawn.quiet)


def test_a_night_in_which_nothing_goes_wrong_is_told_so() -> None:
    result, _ = played(wh=20_000.0)
    assert lead_words(result) == "nothing goes wrong in more than 1 of 100."
    assert draw_played(result, known(), BRIEF).marks == ()


@pytest.mark.parametrize(
    ("share", "words"),
    [(0.0, "none"), (1.0, "all"), (0.004, "fewer than 1 of 100"), (0.33, "33 of 100"), (0.996, "nearly all")],
)
def test_a_share_is_said_as_a_person_says_it(share: float, words: str) -> None:
    assert share_words(share) == words


def test_limits_are_what_was_held_else_what_is_claimed() -> None:
    result, _ = played()
    assert draw_played(result, known(), BRIEF).limits == ()
    named = known(claims=claims_of(Source("s", SourceKind.STATION, Claims(1000)), Site()))
    (line,) = draw_played(result, named, BRIEF).limits
    assert (line.label, line.css) == ("claimed 1\u202f000\u202fW", "claimed")


def test_many_trips_are_short_marks_with_their_number_and_few_run_through() -> None:
    weak = known(kind="inverter", hold=fit_hold([HoldPoint(200.0, 60.0, tripped=True)], 100.0))
    load = Load(key="1", name="heater", kind="heater", run_w=300, pf=1.0, duty=Duty(60, 0), run_grade=Grade.A)
    result = play_outage(ready((load,), BRIEF, weak), 20)
    marks = draw_played(result, weak, BRIEF).marks
    assert len(marks) > 6
    assert {mark.until for mark in marks} == {TOP + SHORT}
    trips = sum(event.kind in (Happening.TRIP, Happening.TRIP_AT_START) for event in result.typical_night.events)
    assert trips >= len(marks)
    assert f"without power {trips} times" in marks[0].label


def test_another_month_is_played_without_changing_the_job(client: Client, island: list[Job]) -> None:
    job = next(job for job in island if job.name == "The Ferry House")
    hybrid = job.source_rows.get(name="the hybrid inverter")
    before = job.brief

    def told(**more: str) -> str:
        asked = {"source": str(hybrid.pk), "outage_from_hour": "4", "outage_h": "14", "sky": "clear", **more}
        return client.get(reverse("outage", args=[job.pk]), asked).content.decode()

    june, december = told(month="6"), told(month="12")
    assert "Played otherwise than the brief says" in june
    assert "nothing goes wrong in more than 1 of 100" in june
    assert "it runs out in" in december
    job.refresh_from_db()
    assert job.brief == before


def test_the_table_is_of_the_day_that_is_shown(client: Client, demo: Job) -> None:
    page = client.get(reverse("outage", args=[demo.pk]), {"outage_h": "30", "outage_from_hour": "6"}).content.decode()
    address = re.search(r'href="([^"]*played/csv[^"]*)"', page)
    assert address is not None
    rows = list(csv.DictReader(io.StringIO(client.get(unescape(address[1])).content.decode("utf-8-sig"))))
    assert (len(rows), rows[0]["hour"]) == (30, "6")


def test_what_nobody_said_takes_the_sureness_out_of_the_first_sentence() -> None:
    load = Load(key="1", name="heater", kind="heater", run_w=300, pf=1.0, duty=Duty(60, 0), run_grade=Grade.A)
    assert lead_words(play_outage(ready((load,), BRIEF, known()), 20)).endswith("as far as it is known.")


def test_what_happens_all_night_is_told_once_with_how_often(client: Client, island: list[Job]) -> None:
    job = next(job for job in island if job.name == "The Ferry House")
    page = page_of(client, job, "the two inverter sets in parallel")
    assert re.search(r"the first of \d+ times", page)


def test_what_was_seen_to_stall_at_the_bench_does_not_start_in_the_outage(client: Client, demo: Job) -> None:
    """The verdict says that this set will not start the borehole pump: the outage may not say that it does."""
    assert "a start fails in all" in page_of(client, demo)
    assert "the borehole pump does not start" in page_of(client, demo)


def test_a_rule_of_the_household_is_played_where_it_fits_the_source(client: Client, demo: Job) -> None:
    source = demo.source_rows.first()
    assert source is not None
    source.rules = [dump(HouseholdRule(kind=RuleKind.REFUEL))]
    source.save()
    page = client.get(
        reverse("outage", args=[demo.pk]),
        {"outage_h": "30", "rule": canonical(dump(HouseholdRule(kind=RuleKind.REFUEL)))},
    ).content.decode()
    assert "fill the tank before bed, cooled down first" in page
    assert "checked" in page
    assert "Month" not in page, "no panels on it, so no month is asked"


def test_a_day_that_cannot_be_is_told_beside_its_field_and_the_brief_is_played(client: Client, demo: Job) -> None:
    page = client.get(reverse("outage", args=[demo.pk]), {"outage_h": "-3"}).content.decode()
    assert "above 0" in page
    assert "What may go wrong" in page
