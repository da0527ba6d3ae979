"""A source measured on one job and judged in another: at once, as measured elsewhere, and never by its own loads there."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse
from django.utils.html import escape

from muster.core.errors import MusterError, NotEnoughReadings, Refused
from muster.core.quantities import Grade
from muster.core.shelf.measured import ELSEWHERE, TakenSource, elsewhere_of
from muster.core.sources import Claims, Source, SourceKind
from muster.core.verdict import judge
from muster.core.verdict.requirement import PASSES, Requirement, Status
from muster.formats.codec import dump
from muster.formats.jobfile import job_text, parse_job
from muster.records import bridge
from muster.records.actions import jobs, measured, sources
from muster.records.actions.jobs import write_out
from muster.records.actions.notes import take_notes
from muster.records.judging import character_now, dated_elsewhere, verdict_inputs
from muster.records.models import Job, MeasuredRow, SourceRow

pytestmark = pytest.mark.django_db

THERE = """Home: the ferry shed, 230 V 50 Hz, altitude 1000 m, 10 °C, 4 h
must: heater 900 W
must: pump 600 W
Source: the grey set: inverter generator 2200 W, surge 2600 W, price 900

Ladder 3 Nov 2026
10:00 no load 231v 50.0hz
10:05 heater on 228v 0.9kw 49.9hz
10:15 +pump 226v 1.5kw 49.8hz
10:20 2.0kw 224v 49.7hz
10:50 2.0kw 224v 49.7hz
10:52 off

Starts 3 Nov 2026
11:10 pump start before 231v min 205v, max 14a, held
11:14 -pump
11:20 pump start before 231v min 204v, max 14a, held
"""
HERE = """Home: the bait house, 230 V 50 Hz, 0 m, 10 °C, 4 h
must: lamps 300 W heater
must: winch 700 W pump
"""


@pytest.fixture
def there(who: AbstractUser) -> Job:
    return take_notes(THERE, who)


@pytest.fixture
def here(who: AbstractUser) -> Job:
    return take_notes(HERE, who)


@pytest.fixture
def shelved(there: Job, who: AbstractUser) -> MeasuredRow:
    return measured.put_on_shelf(there.source_rows.get(), who)


def line(source: SourceRow, key: str) -> Requirement:
    return next(row for row in judge(verdict_inputs(source)).requirements if row.key == key)


def test_it_is_judged_at_once_as_measured_elsewhere(here: Job, shelved: MeasuredRow, who: AbstractUser) -> None:
    taken = measured.take(here, shelved, who)
    verdict = judge(verdict_inputs(taken))
    assert "Measured elsewhere, for the ferry shed, last on 2026-11-03" in verdict.detail
    steady = line(taken, "steady-total")
    assert steady.status is Status.CARRIES
    assert "easured elsewhere" in steady.sentence
    assert character_now(taken).held is not None


def test_what_it_started_there_is_no_load_of_this_home(
    here: Job, there: Job, shelved: MeasuredRow, who: AbstractUser
) -> None:
    """The pump there and the winch here bear the same number: the pump's starts prove nothing of the winch."""
    assert {load.key for load in bridge.loads_of(there)} & {load.key for load in bridge.loads_of(here)}
    taken = measured.take(here, shelved, who)
    case = verdict_inputs(taken)
    assert all(start.load.key.startswith(ELSEWHERE) for start in case.seen.starts)
    assert set(case.loads).isdisjoint(case.character.started_w)
    winch = next(row for row in judge(case).start_rows if "winch" in row.load)
    assert winch.status not in PASSES
    assert "held" not in winch.capability


def test_conditions_nobody_said_are_those_of_the_job_it_was_measured_on(
    here: Job, there: Job, shelved: MeasuredRow, who: AbstractUser
) -> None:
    """2.0 kW held at 1,000 m is no hold of more at the sea, and at 2,000 m it is less than was held."""
    brief = bridge.brief_of(here)
    jobs.edit_brief(here, here.name, replace(brief, site=replace(brief.site, altitude_m=2000.0)), who)
    taken = measured.take(here, shelved, who)
    held = character_now(taken).held
    own = character_now(there.source_rows.get()).held
    assert held is not None
    assert own is not None
    assert held.w == pytest.approx(own.w * 0.965 ** (1000 / 300), rel=0.01)


def test_a_service_since_takes_a_grade_off_and_what_was_grade_b_is_not_proven(
    here: Job, shelved: MeasuredRow, who: AbstractUser
) -> None:
    taken = measured.take(here, shelved, who)
    before = line(taken, "steady-total")
    measured.say_serviced(taken, who, serviced=True)
    after = line(SourceRow.objects.get(pk=taken.pk), "steady-total")
    assert (before.grade, after.grade) == (Grade.B, Grade.C)
    assert after.status is Status.NOT_PROVEN
    assert "serviced or changed since" in after.sentence


def test_what_is_measured_here_stands_by_itself(here: Job, shelved: MeasuredRow, who: AbstractUser) -> None:
    taken = measured.take(here, shelved, who, serviced=True)
    other = take_notes(THERE.replace("3 Nov", "20 Nov"), who).source_rows.get()
    other.session_rows.update(source=taken)
    steady = line(taken, "steady-total")
    assert steady.grade is Grade.B
    assert "lsewhere" not in steady.sentence


def test_another_supply_says_nothing_here(shelved: MeasuredRow, who: AbstractUser) -> None:
    other = take_notes(HERE.replace("230 V 50 Hz", "120 V 60 Hz"), who)
    with pytest.raises(Refused, match="this job is"):
        measured.take(other, shelved, who)
    assert not other.source_rows.exists()


def test_a_source_that_was_not_measured_is_not_put_there(here: Job, who: AbstractUser) -> None:
    row = sources.add_source(here, Source("new", SourceKind.STATION, Claims(1000)), who)
    with pytest.raises(NotEnoughReadings):
        measured.put_on_shelf(row, who)


def test_the_same_evidence_is_one_entry_and_more_of_it_another(
    there: Job, shelved: MeasuredRow, who: AbstractUser
) -> None:
    source = there.source_rows.get()
    assert measured.put_on_shelf(source, who) == shelved
    from muster.records.actions.sessions import log_line

    log_line(source.session_rows.first(), "2.1kw 223v", who)  # type: ignore[arg-type]
    assert measured.put_on_shelf(source, who) != shelved


# Batteries age


def test_a_battery_measured_years_ago_is_told_to_be_older_and_an_engine_is_not(shelved: MeasuredRow) -> None:
    taken = TakenSource(measured.measured_of(shelved))
    years_on = datetime(2029, 11, 3, 12, tzinfo=UTC)
    assert not elsewhere_of(taken, years_on).ages
    station = replace(taken.measured, source=Source("box", SourceKind.STATION, Claims(1000, battery_wh=1000)))
    old = elsewhere_of(TakenSource(station), years_on)
    assert old.ages
    assert old.fade == pytest.approx(0.30, abs=0.01)
    assert "3 years ago" in old.told
    assert not elsewhere_of(TakenSource(station), years_on - timedelta(days=900)).ages


BOX = """Home: the cabin, 230 V 50 Hz, 15 °C, 8 h from 18:00
must: lamps 60 W heater 18-2
Source: the box: battery station 1000 W 1000 Wh, surge 2000 W
Endurance 1 Nov {year}
08:00 100% 0kwh on lamps
13:00 50% 0.4kwh 80w
18:00 0% 0.8kwh off by itself
Idle 2 Nov {year}
09:00 dc 25v 0.4a idle
"""


@pytest.mark.parametrize(("year", "grade", "told"), [(2026, Grade.A, ""), (2021, Grade.B, "older since")])
def test_the_energy_of_an_old_battery_is_a_grade_lower_with_what_it_has_lost(
    year: int, grade: Grade, told: str, who: AbstractUser, time_machine: object
) -> None:
    time_machine.move_to(datetime(2026, 11, 29, tzinfo=UTC))  # type: ignore[attr-defined]
    made = take_notes(BOX.format(year=year), who)
    shelved = measured.put_on_shelf(made.source_rows.get(), who)
    own = line(made.source_rows.get(), "energy")
    taken = line(measured.take(made, shelved, who), "energy")
    assert own.margin is not None
    assert taken.margin is not None
    assert taken.grade is grade or own.grade is not Grade.A
    assert told in taken.sentence
    if told:
        assert taken.margin.value < own.margin.value
    else:
        assert taken.margin == own.margin


# Files


def test_a_measured_source_goes_out_and_in_as_a_file_and_one_that_was_changed_is_refused(
    shelved: MeasuredRow, who: AbstractUser
) -> None:
    text = measured.write_out(shelved)
    MeasuredRow.objects.all().delete()
    back = measured.bring_in(text, who)
    assert measured.measured_of(back).digest == shelved.digest
    data = json.loads(text)
    data["source"]["claims"]["surge_w"] = 2700.0
    with pytest.raises(MusterError, match="changed after it was written"):
        measured.bring_in(json.dumps(data), who)
    for bad in ("", "[]", '{"form": "other"}', '{"form": "muster-source", "version": 9}'):
        with pytest.raises(MusterError):
            measured.bring_in(bad, who)


def test_a_job_with_a_taken_source_goes_out_and_in_whole(here: Job, shelved: MeasuredRow, who: AbstractUser) -> None:
    measured.take(here, shelved, who, serviced=True)
    package = write_out(here)
    assert parse_job(job_text(package.job)) == package.job
    again = jobs.read_in(package, who)
    taken = bridge.taken_of(again.source_rows.get())
    assert taken is not None
    assert dump(taken) == dump(bridge.taken_of(here.source_rows.get()))


# The pages


def test_from_the_source_to_the_shelf_into_the_next_job_and_beside_another(
    client: Client, there: Job, here: Job, who: AbstractUser
) -> None:
    source = there.source_rows.get()
    put = client.post(reverse("measured-put", args=[there.pk, source.pk]), follow=True).content.decode()
    assert "is on the shelf" in put
    row = MeasuredRow.objects.get()
    shelf = client.get(reverse("shelf")).content.decode()
    assert "the grey set" in shelf
    assert "the ferry shed" in shelf
    taken = client.post(reverse("measured-take", args=[here.pk]), {"measured": row.pk}, follow=True).content.decode()
    assert "easured elsewhere" in taken
    assert client.post(reverse("measured-take", args=[here.pk]), {"measured": "x"}).status_code == 404
    file = client.get(reverse("measured-file", args=[row.pk]))
    assert file.headers["Content-Disposition"].endswith('.muster-source.json"')
    second = put_again(client, there, who)
    beside = client.get(reverse("measured-beside", args=[row.pk, second.pk])).content.decode()
    assert "no difference beyond doubt" in beside
    client.post(reverse("measured-remove", args=[row.pk]))
    assert MeasuredRow.objects.get(pk=row.pk).removed_at is not None
    client.post(reverse("measured-put-back", args=[row.pk]))
    assert MeasuredRow.objects.get(pk=row.pk).removed_at is None


def put_again(client: Client, job: Job, who: AbstractUser) -> MeasuredRow:
    from muster.records.actions.sessions import log_line

    source = job.source_rows.get()
    log_line(source.session_rows.first(), "2.0kw 224v", who)  # type: ignore[arg-type]
    client.post(reverse("measured-put", args=[job.pk, source.pk]))
    return MeasuredRow.objects.latest("pk")


def test_what_was_found_elsewhere_stands_on_the_findings_page_of_the_source_that_was_taken(
    client: Client, here: Job, shelved: MeasuredRow, who: AbstractUser
) -> None:
    measured.take(here, shelved, who)
    page = client.get(reverse("findings", args=[here.pk])).content.decode()
    assert "Measured elsewhere, for the ferry shed" in page
    assert "Run a session" not in page
    found = [finding for dated in dated_elsewhere(here.source_rows.get()) for finding in dated.findings.findings]
    assert found
    assert all(escape(finding.sentence) in page for finding in found)
    table = client.get(reverse("findings-csv", args=[here.pk])).content.decode()
    assert table.count("measured elsewhere") == len(found)
    character = client.get(reverse("character", args=[here.pk])).content.decode()
    assert "easured elsewhere" in character
    assert ", elsewhere of 2026-11-0" in character, "each estimate says that it is from there"
    assert "Weighed together from" in character


def test_a_report_of_a_taken_source_holds_the_record_of_elsewhere(
    client: Client, here: Job, shelved: MeasuredRow, who: AbstractUser
) -> None:
    from muster.web.verdict.report import JudgedSource, report_file
    from tests.papers.test_report import facts_of

    measured.take(here, shelved, who)
    package = write_out(here)
    case = verdict_inputs(here.source_rows.get())
    text = report_file(package, [JudgedSource(package.job.sources[0], case, judge(case))], _must(), facts_of(package))
    assert "min 205v" in text
    assert "easured elsewhere" in text


def _must():  # type: ignore[no-untyped-def]
    from muster.core.loads import Tier

    return Tier.MUST
