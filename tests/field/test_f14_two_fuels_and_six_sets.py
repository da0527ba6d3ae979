"""F14: one set with a rating by fuel, neither derated twice; six small sets in one series, in one table and one drawing."""

from __future__ import annotations

import re
from datetime import UTC, datetime

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.loads import Tier
from muster.core.sources import derate
from muster.core.sources.limits import limits_of
from muster.demo import files, package
from muster.formats.notes import read_notes
from muster.records.actions import series
from muster.records.actions.jobs import read_in
from muster.records.models import Job

NOTES = """Home: the smokehouse, 120/240 V 60 Hz, 0 m, 20 °C
must: fan 300 W
Source: the big set: open-frame generator 7.5 kW petrol, 6.75 kW propane, {used}
"""


@pytest.mark.parametrize(("used", "cont_w"), [("run on petrol", 7500), ("run on propane", 6750)])
def test_a_rating_by_fuel_is_taken_as_it_is_and_not_derated_for_the_fuel_again(used: str, cont_w: float) -> None:
    job = read_notes(NOTES.format(used=used), datetime(2026, 11, 29, tzinfo=UTC)).job
    (record,) = job.sources
    claims, brief = record.source.claims, job.brief
    assert {(rating.fuel, rating.cont_w) for rating in claims.on_fuels} == {("petrol", 7500.0), ("propane", 6750.0)}
    assert claims.cont_w == cont_w
    limit = next(
        item
        for item in limits_of(record.source, brief.system, brief.site)
        if item.key == "continuous" and item.leg is None
    )
    assert limit.w == pytest.approx(cont_w)
    assert derate(record.source.kind, claims.derated_fuel, brief.site).share == 1.0


@pytest.fixture
def six_sets(who: AbstractUser) -> Job:
    return read_in(package(next(path for path in files() if "six_sets" in path.name)), who)


@pytest.mark.django_db
def test_six_sets_stand_in_one_table_and_one_drawing(client: Client, six_sets: Job) -> None:
    text = client.get(reverse("compare", args=[six_sets.pk])).content.decode()
    head = text[text.index("As measured") :]
    assert re.findall(r'<span class="letter">(\w)</span>', head)[:6] == list("ABCDEF")
    for row in (
        "Level at 23",
        "Lowest volts as the space heater goes on",
        "Lowest volts as the bench saw starts",
        "Price, as said",
        "Weight",
    ):
        assert row in head, row
    noise = text[text.index("Noise against distance") :]
    drawn = re.findall(r'class="overletter"[^>]*>(\w)</text>', noise[: noise.index("</figure>")])
    assert drawn == list("ABCDEF"), "all six in one drawing"
    assert "Mind: somebody has been inside" in text
    table = client.get(reverse("compare-csv", args=[six_sets.pk])).content.decode()
    assert table.count("Level at 23") == 12, "a row a unit and parameter"


@pytest.mark.django_db
def test_six_sets_are_one_series_with_what_they_share_confirmed_once(six_sets: Job, who: AbstractUser) -> None:
    from muster.core.plan.series import SeriesPlan, distances_of
    from muster.core.safety.checks import KNOWN

    units = list(six_sets.source_rows.all())
    row = series.begin_series(six_sets, units, SeriesPlan(distances_of("3, 20, 35, 60 ft"), "1", "2"), who)
    series.confirm_shared(row, KNOWN)
    open_shared = [len(series.checks_of(row, unit, who).shared) for unit in units]
    assert open_shared == [0] * 6
    for unit in units:
        series.begin_unit(row, unit, KNOWN, who)
        for cell in series.cells(row):
            series.put_figure(
                row, unit, cell.key, {"dba": "60", "v": "118", "hz": "60", "w": "1400"}[cell.kind.unit], who
            )
    assert len({session.pk for unit in units if (session := series.session_of(row, unit)) is not None}) == 6
    assert Tier.TEST in {load.tier for load in series.loads_of(six_sets).values()}
