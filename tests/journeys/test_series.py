"""Two units in one sitting, typed as fast as one reads: digits, and one key a figure."""

from __future__ import annotations

import pytest
from django.contrib.auth.models import AbstractUser
from playwright.sync_api import Page, expect

from muster.core.brief import Brief
from muster.core.plan.series import SeriesPlan, distances_of
from muster.core.safety.checks import KNOWN
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS
from muster.records import bridge
from muster.records.actions import jobs, loads, series, sources
from muster.records.models import SeriesRow
from tests.core.build import load

from .conftest import see_to_gates

pytestmark = pytest.mark.browser
FIRST = ("46", "123", "60.1", "74", "60", "112", "1400", "120", "59.8", "71", "68", "104")
SECOND = ("121", "59.9", "77", "63", "109", "1390", "118", "59.2", "73", "70", "98x")


@pytest.fixture
def row(who: AbstractUser) -> SeriesRow:
    job = jobs.create_job("two sets", Brief(system=SYSTEMS["single-120-60"], of_units=True), who)
    loads.add_load(job, load("1", "space heater", "heater", 1400), who)
    loads.add_load(job, load("2", "bench saw", "universal", 900, pf=0.9), who)
    units = [
        sources.add_source(job, Source(f"set {letter}", SourceKind.INVERTER_SET, Claims(cont_w=2000)), who)
        for letter in "AB"
    ]
    return series.begin_series(job, units, SeriesPlan(distances_of("3, 20 ft"), "1", "2"), who)


def typed(page: Page, figures: tuple[str, ...]) -> None:
    for figure in figures:
        page.keyboard.type(figure)
        page.keyboard.press("Enter")


def test_two_units_are_typed_with_digits_and_one_key_a_figure(desk: Page, row: SeriesRow) -> None:
    desk.goto(f"/jobs/{row.job_id}/series/{row.pk}/")
    see_to_gates(desk)
    desk.get_by_role("button", name="Begin A").click()
    expect(desk.locator("#figure")).to_be_focused()
    typed(desk, FIRST)
    expect(desk.locator("thead")).to_contain_text("11 of 11")
    see_to_gates(desk)
    desk.get_by_role("button", name="Begin B").click()
    expect(desk.locator("#figure")).to_be_focused()
    typed(desk, SECOND)
    expect(desk.locator("thead")).to_contain_text("B set B11 of 11")
    for at, unit in enumerate(series.units_of(row)):
        row.refresh_from_db()
        session = series.session_of(row, unit)
        assert session is not None
        entries = bridge.session_of(session).entries[1:]
        assert len(entries) == 12, "each figure one line, none lost and none twice, however fast"
        assert entries[-1].raw == f"-1 bench saw start min {('104v, held', '98v, stalled')[at]}"


def test_a_cell_is_chosen_by_a_thumb_and_corrected(phone: Page, row: SeriesRow, who: AbstractUser) -> None:
    unit = series.units_of(row)[0]
    series.begin_unit(row, unit, KNOWN, who)
    series.put_figure(row, unit, "v", "213", who)
    phone.goto(f"/jobs/{row.job_id}/series/{row.pk}/")
    phone.locator("[data-cell$=':v']").first.tap()
    expect(phone.locator("#figure")).to_have_value("213")
    phone.locator("#figure").fill("123")
    phone.get_by_role("button", name="Next").tap()
    expect(phone.locator("[data-cell$=':v']").first).to_have_text("123")
