"""A job in feet: its pages, its forms, what is typed on its bench, its file."""

from __future__ import annotations

from dataclasses import replace

from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.measures import METRIC, US, Measures, showing_in
from muster.records import bridge, judging
from muster.records.actions import jobs, sessions, sources
from muster.records.models import Job, SessionRow
from muster.web.brief.forms import BriefForm, initial_of


def in_feet(job: Job, who: AbstractUser) -> Job:
    brief = replace(bridge.brief_of(job), measures=Measures("ft", "f", "gal", "awg", "lb"), neighbour_m=24.9936)
    return jobs.edit_brief(job, job.name, brief, who)


def test_every_page_of_the_job_speaks_feet_and_the_next_job_does_not(
    client: Client, job: Job, ladder: SessionRow, who: AbstractUser
) -> None:
    client.force_login(who)
    sessions.log_line(ladder, "72db@7m", who)
    metric = client.get(reverse("session", args=[job.pk, ladder.pk])).content.decode()
    assert "72.0\u202fdBA at 7\u202fm" in metric
    in_feet(job, who)
    page = client.get(reverse("session", args=[job.pk, ladder.pk])).content.decode()
    assert "72.0\u202fdBA at 23\u202fft" in page
    other = jobs.create_job("The other", bridge.brief_of(job), who)
    jobs.edit_brief(other, "The other", replace(bridge.brief_of(job), measures=Measures()), who)
    assert "[m]" in client.get(reverse("brief", args=[other.pk])).content.decode()


def test_the_brief_is_typed_in_feet_and_kept_in_metres(client: Client, job: Job, who: AbstractUser) -> None:
    client.force_login(who)
    in_feet(job, who)
    page = client.get(reverse("brief", args=[job.pk])).content.decode()
    assert 'name="neighbour_m" value="82"' in page
    assert "Nearest neighbour [ft]" in page
    assert "Air temperature [°F]" in page
    before = bridge.brief_of(job)
    form = {
        name: value
        for name, value in initial_of(job.name, before).items()
        if name in BriefForm.base_fields and value is not None and value is not False
    }
    typed = {**form, "neighbour_m": "100", "temp_c": "77", "altitude_m": "1000"}
    assert client.post(reverse("brief", args=[job.pk]), typed).status_code == 302
    job.refresh_from_db()
    after = bridge.brief_of(job)
    assert (after.neighbour_m, after.site.temp_c, after.site.altitude_m) == (30.48, 25.0, 304.8)


def test_what_is_typed_first_is_what_is_shown(job: Job, ladder: SessionRow, who: AbstractUser) -> None:
    sessions.log_line(ladder, "72db@20ft", who)
    sessions.log_line(ladder, "70db@12m", who)
    job.refresh_from_db()
    assert bridge.brief_of(job).measures == Measures(length="ft")


def test_a_source_is_typed_in_pounds_and_gallons(client: Client, job: Job, source: object, who: AbstractUser) -> None:
    client.force_login(who)
    in_feet(job, who)
    (row,) = job.source_rows.all()
    sources.edit_source(
        row, replace(bridge.source_of(row), claims=replace(bridge.source_of(row).claims, tank_l=11.356235352)), who
    )
    page = client.get(reverse("source-edit", args=[job.pk, row.pk])).content.decode()
    assert 'name="tank_l" value="3"' in page
    assert "Tank [gal]" in page


def test_findings_are_told_in_the_units_of_whoever_asks_though_another_asked_before(
    ladder: SessionRow, who: AbstractUser
) -> None:
    sessions.log_line(ladder, "1000w 63db@7m", who)
    for close in (False, True):
        if close:
            sessions.close_session(ladder)
        told = {}
        for name, measures in (("metric", METRIC), ("us", US), ("metric again", METRIC)):
            with showing_in(measures):
                told[name] = " ".join(f.sentence for f in judging.session_findings(ladder).findings)
        assert " at 7\u202fm" in told["metric"]
        assert " at 23\u202fft" in told["us"]
        assert told["metric again"] == told["metric"]
