"""A series in the job: each unit its own record and seal, what is shared once, what was typed never lost."""

from __future__ import annotations

from dataclasses import replace

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.brief import Brief
from muster.core.errors import MusterError, NotEnoughReadings, Refused
from muster.core.plan.series import SeriesPlan, distances_of
from muster.core.safety.checks import KNOWN
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS
from muster.formats.jobfile import job_text, parse_job, read_job, write_job
from muster.records import bridge
from muster.records.actions import jobs, loads, series, sources
from muster.records.actions.sessions import seal_holds
from muster.records.judging import character_now
from muster.records.models import Job, SeriesRow, SourceRow
from tests.core.build import load

pytestmark = pytest.mark.django_db


@pytest.fixture
def afternoon(who: AbstractUser) -> Job:
    job = jobs.create_job("six small sets", Brief(system=SYSTEMS["single-120-60"], of_units=True), who)
    loads.add_load(job, load("1", "space heater", "heater", 1400), who)
    loads.add_load(job, load("2", "bench saw", "universal", 900, pf=0.9), who)
    return job


@pytest.fixture
def units(afternoon: Job, who: AbstractUser) -> list[SourceRow]:
    return [
        sources.add_source(afternoon, Source(f"set {letter}", SourceKind.INVERTER_SET, Claims(cont_w=2000)), who)
        for letter in "AB"
    ]


@pytest.fixture
def row(afternoon: Job, units: list[SourceRow], who: AbstractUser) -> SeriesRow:
    return series.begin_series(afternoon, units, SeriesPlan(distances_of("3, 20, 35 ft"), "1", "2"), who)


def raws(row: SeriesRow, unit: SourceRow) -> list[str]:
    session = series.session_of(row, unit)
    assert session is not None
    return [entry.raw for entry in session.entry_rows.all()][1:]


def test_shared_checks_are_confirmed_once_and_a_units_own_are_asked_of_each(
    row: SeriesRow, units: list[SourceRow], who: AbstractUser
) -> None:
    first, second = units
    before = series.checks_of(row, first, who)
    assert {check.slug for check in before.shared} >= {"covers", "laptop", "stop"}
    assert {check.slug for check in before.own} >= {"exhaust", "refuelling", "bonding"}
    with pytest.raises(Refused, match="safety"):
        series.begin_unit(row, first, (), who)
    series.confirm_shared(row, KNOWN)
    assert "exhaust" not in row.confirmed, "what is a unit's own is never confirmed for all"
    series.begin_unit(row, first, KNOWN, who)
    after = series.checks_of(row, second, who)
    assert after.shared == ()
    assert {check.slug for check in after.own} >= {"exhaust", "refuelling", "bonding"}


def test_each_figure_is_a_line_of_its_own_units_record_and_a_background_is_one_of_each(
    row: SeriesRow, units: list[SourceRow], who: AbstractUser
) -> None:
    first, second = units
    series.begin_unit(row, first, KNOWN, who)
    series.put_figure(row, first, "background", "46", who)
    series.put_figure(row, first, "v", "123", who)
    series.put_figure(row, first, "dip", "112", who)
    series.put_figure(row, first, "loaded-dba-1", "71", who)
    series.begin_unit(row, second, KNOWN, who)
    assert raws(row, first) == ["background 46db", "123v", "+1 min 112v", "71db@3ft"]
    assert raws(row, second) == ["background 46db"], "the background read before it was begun"
    series.clear_figure(row, second, "background", who)
    assert row.shared == {}
    assert "background" not in row.cells[str(first.pk)]
    series.put_figure(row, first, "background", "46", who)
    series.put_figure(row, second, "background", "47", who)
    assert raws(row, first)[-1] == "background 47db", "corrected in the record of each"
    assert raws(row, second)[-1] == "background 47db"


def test_a_figure_typed_again_corrects_the_first_and_an_emptied_cell_takes_it_back(
    row: SeriesRow, units: list[SourceRow], who: AbstractUser
) -> None:
    unit, _ = units
    series.begin_unit(row, unit, KNOWN, who)
    series.put_figure(row, unit, "dip", "102", who)
    series.put_figure(row, unit, "dip", "112", who)
    session = series.session_of(row, unit)
    assert session is not None
    first, second = bridge.session_of(session).entries[1:]
    assert (first.raw, second.raw, second.supersedes) == ("+1 min 102v", "+1 min 112v", first.seq)
    series.clear_figure(row, unit, "dip", who)
    assert [entry.raw for entry in bridge.session_of(session).effective] == ["safety checks passed"]
    assert row.cells[str(unit.pk)] == {}
    with pytest.raises(Refused, match="empty"):
        series.clear_figure(row, unit, "dip", who)


def test_two_browsers_on_one_grid_lose_nothing_and_a_cell_filled_elsewhere_is_told_before_it_is_corrected(
    row: SeriesRow, units: list[SourceRow], who: AbstractUser
) -> None:
    unit, _ = units
    series.begin_unit(row, unit, KNOWN, who)
    here, there = SeriesRow.objects.get(pk=row.pk), SeriesRow.objects.get(pk=row.pk)
    series.put_figure(here, unit, "v", "121,5", who, was="")
    series.put_figure(there, unit, "hz", "60.1", who, was="")
    assert set(there.cells[str(unit.pk)]) == {"v", "hz"}
    with pytest.raises(Refused, match=r"holds 121\.5 by now"):
        series.put_figure(there, unit, "v", "119", who, was="")
    with pytest.raises(Refused, match="by now"):
        series.clear_figure(there, unit, "v", who, was="119")
    series.put_figure(there, unit, "v", "121.5", who, was="")
    series.put_figure(there, unit, "v", "119", who, was="121,5")
    assert raws(row, unit)[-1] == "119v"


def test_a_series_goes_into_the_jobs_file_and_goes_on_from_it(
    afternoon: Job, row: SeriesRow, units: list[SourceRow], who: AbstractUser
) -> None:
    _, second = units
    series.confirm_shared(row, KNOWN)
    series.begin_unit(row, second, KNOWN, who)
    series.put_figure(row, second, "background", "46", who)
    series.put_figure(row, second, "v", "122", who)
    series.put_figure(row, second, "v", "123", who)
    package = jobs.write_out(afternoon)
    again = jobs.read_in(replace(package, job=parse_job(job_text(package.job))), who)
    kept = again.series_rows.get()
    not_begun, begun = series.units_of(kept)
    assert (not_begun.name, begun.name) == ("set A", "set B")
    assert series.plan_of(kept) == series.plan_of(row)
    assert (kept.shared, kept.confirmed) == (row.shared, row.confirmed)
    assert series.session_of(kept, not_begun) is None
    assert {key: cell["text"] for key, cell in kept.cells[str(begun.pk)].items()} == {"background": "46", "v": "123"}
    series.put_figure(kept, begun, "v", "124", who, was="123")
    assert raws(kept, begun)[-1] == "124v"
    assert jobs.job_file(afternoon) == package.job


@pytest.mark.parametrize(
    ("unit", "where"),
    [
        ({"source": 3}, "series.units.source"),
        ({"source": 1, "session": 1}, "series.units.session"),
        ({"source": 1, "cells": {"v": {"entry": 1, "text": "120"}}}, "series.units.session"),
    ],
)
def test_a_series_of_a_file_that_speaks_of_what_is_not_there_is_refused(
    afternoon: Job, row: SeriesRow, who: AbstractUser, unit: dict[str, object], where: str
) -> None:
    data = write_job(jobs.job_file(afternoon))
    data["series"][0]["units"] = [unit]
    with pytest.raises(MusterError) as refused:
        read_job(data)
    assert where in str(refused.value)


def test_what_is_no_figure_is_refused_and_nothing_is_kept(
    row: SeriesRow, units: list[SourceRow], who: AbstractUser
) -> None:
    unit, other = units
    series.begin_unit(row, unit, KNOWN, who)
    for key, text in (("v", "x"), ("v", "9000"), ("nothing", "1")):
        with pytest.raises(MusterError):
            series.put_figure(row, unit, key, text, who)
    with pytest.raises(Refused, match="was not begun"):
        series.put_figure(row, other, "v", "120", who)
    assert raws(row, unit) == []


def test_closing_seals_each_record_and_what_was_measured_stands_side_by_side(
    row: SeriesRow, units: list[SourceRow], who: AbstractUser
) -> None:
    for at, unit in enumerate(units):
        series.begin_unit(row, unit, KNOWN, who)
        figures = (("v", 123 - at), ("dba-2", 60 + at), ("dba-3", 55 + at), ("dip", 112 - at), ("start", 104 - 8 * at))
        for key, figure in figures:
            series.put_figure(row, unit, key, f"{figure}", who)
    series.close_series(row)
    sessions = [series.session_of(row, unit) for unit in units]
    assert all(session is not None and seal_holds(session) for session in sessions)
    first, second = (character_now(unit) for unit in units)
    assert first.by_key["lowest_v_1"].value.value - second.by_key["lowest_v_1"].value.value == 1
    assert first.by_key["lowest_v_2"].value.value - second.by_key["lowest_v_2"].value.value == 8
    assert second.by_key["dba_7m_no_load"].value.value > first.by_key["dba_7m_no_load"].value.value
    with pytest.raises(Refused, match="closed"):
        series.put_figure(row, units[0], "v", "121", who)


def test_nothing_that_a_life_hangs_on_is_a_load_of_a_series(afternoon: Job, who: AbstractUser) -> None:
    loads.add_load(afternoon, load("3", "oxygen concentrator", "medical", 350), who)
    assert set(series.loads_of(afternoon)) == {"1", "2"}


def test_a_series_wants_a_unit(afternoon: Job, who: AbstractUser) -> None:
    with pytest.raises(NotEnoughReadings):
        series.begin_series(afternoon, [], SeriesPlan(), who)


# The page


def test_the_grid_works_without_scripts_and_tells_what_is_wrong(
    client: Client, afternoon: Job, units: list[SourceRow]
) -> None:
    where = reverse("series-list", args=[afternoon.pk])
    wrong = client.post(where, {"units": [units[0].pk], "distances": "near", "step": "1", "motor": "2"})
    assert wrong.status_code == 422
    assert "list of distances" in wrong.content.decode()
    laid = client.post(where, {"units": [row.pk for row in units], "distances": "3 20 ft", "step": "1", "motor": "2"})
    page = laid["Location"]
    assert "Begin A" in client.get(page).content.decode()
    refused = client.post(f"{page}unit/{units[0].pk}/begin/", {"confirmed": ["covers"]})
    assert "safety check" in refused.content.decode()
    client.post(f"{page}unit/{units[0].pk}/begin/", {"confirmed": list(KNOWN)})
    cell = f"{units[0].pk}:v"
    assert client.post(f"{page}figure/", {"cell": cell, "figure": "12x"}).status_code == 422
    assert client.post(f"{page}figure/", {"cell": cell, "figure": "123"}).status_code == 302
    text = client.get(page).content.decode()
    assert ">123</a>" in text
    assert client.post(f"{page}figure/", {"cell": "999:v", "figure": "1"}).status_code == 404
    part = client.post(f"{page}figure/", {"cell": cell, "figure": ""}, headers={"HX-Request": "true"}).content.decode()
    assert "<html" not in part
    assert ">123</a>" not in part
    client.post(f"{page}close/")
    assert "Closed and sealed" in client.get(page).content.decode()
