"""Slips made and mended by keyboard: flagged before Enter, corrected, confirmed, undone."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from muster.records.models import Job, SessionRow

from .test_journeys import log, tab_to

pytestmark = pytest.mark.browser


def test_a_slip_is_seen_before_enter_corrected_after_it_and_told_in_the_checks(desk: Page, ladder: SessionRow) -> None:
    desk.goto(f"/jobs/{ladder.source.job_id}/bench/{ladder.pk}/")
    log(desk, "0.62kwh")
    desk.keyboard.press("/")
    desk.keyboard.type("0.26kwh")
    expect(desk.locator('#told [data-check="energy-backwards"]')).to_be_visible()
    desk.keyboard.press("Enter")
    expect(desk.locator('.record [data-check="energy-backwards"]')).to_be_visible()
    desk.keyboard.press("Escape")
    tab_to(desk, ".record > li:first-child .correct summary")
    desk.keyboard.press("Enter")
    desk.keyboard.press("Tab")
    desk.keyboard.press("Control+a")
    desk.keyboard.type("0.66kwh")
    desk.keyboard.press("Enter")
    expect(desk.locator(".record [data-check]")).to_have_count(0)
    expect(desk.locator(".record .superseded")).to_have_count(1)
    log(desk, "@plug 19a")
    tab_to(desk, ".flags button")
    desk.keyboard.press("Enter")
    expect(desk.locator(".record .flagged.settled")).to_have_count(2)
    desk.goto(f"/jobs/{ladder.source.job_id}/bench/{ladder.pk}/checks/")
    expect(desk.locator(".checklist > li")).to_have_count(1)
    expect(desk.locator("s")).to_have_text("260\u202fWh")


def test_z_undoes_the_last_change_to_the_job_and_the_history_does_it_again(desk: Page, job: Job) -> None:
    desk.goto(f"/jobs/{job.pk}/loads/")
    desk.keyboard.press("/")
    desk.keyboard.type("kettle")
    desk.keyboard.press("Enter")
    expect(desk.locator("tr.new")).to_contain_text("kettle")
    desk.keyboard.press("Escape")
    desk.keyboard.press("z")
    expect(desk.locator(".said")).to_contain_text("Undone: kettle added")
    expect(desk.locator(".loads")).not_to_contain_text("kettle")
    desk.goto(f"/jobs/{job.pk}/history/")
    tab_to(desk, ".history tr:first-child button")
    desk.keyboard.press("Enter")
    expect(desk.locator(".history tbody tr").first).to_contain_text("Undo")
    desk.goto(f"/jobs/{job.pk}/loads/")
    expect(desk.locator(".loads")).to_contain_text("kettle")


def test_a_log_is_imported_mapped_and_seen_on_the_strip_by_keyboard(
    desk: Page, ladder: SessionRow, tmp_path: Path
) -> None:
    file = tmp_path / "shed.csv"
    rows = "".join(f"{i};{231 - (i > 60) * 2:.1f};{(i > 60) * 1.2:.2f}\n" for i in range(180)).replace(".", ",")
    file.write_text("t_s;U;P [kW]\n" + rows, encoding="utf-8")
    desk.goto(f"/jobs/{ladder.source.job_id}/bench/{ladder.pk}/logs/")
    desk.locator("#file").set_input_files(file)
    tab_to(desk, "form .btn-ink")
    desk.keyboard.press("Enter")
    expect(desk.locator("h1")).to_contain_text("Which column is what")
    expect(desk.locator("#preview")).to_contain_text("231.0")
    tab_to(desk, "#mapping .btn-ink")
    desk.keyboard.press("Enter")
    expect(desk.locator("h1")).to_contain_text("Strip: shed")
    expect(desk.locator("#strip canvas").first).to_be_visible()
    desk.keyboard.press("+")
    expect(desk.locator("#measured")).to_contain_text("watts")
