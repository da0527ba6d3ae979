"""The findings read as an owner reads them, and worked on as an assessor does: by key, by drag, by thumb."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from muster.core.measures import FT_M
from muster.records import bridge
from muster.records.models import Job, SourceRow

pytestmark = pytest.mark.browser


def stands_at(source: SourceRow) -> tuple[float, float]:
    """Where the nearest neighbour was kept."""
    layout = bridge.source_of(SourceRow.objects.get(pk=source.pk)).layout
    assert layout is not None
    return layout.neighbour_x, layout.neighbour_y


def test_a_sentence_leads_to_its_working_and_the_character_is_saved(desk: Page, demo: Job) -> None:
    source = demo.source_rows.get()
    desk.goto(f"/jobs/{demo.pk}/findings/?source={source.pk}")
    line = desk.locator(".answers li").filter(has_text="does not start the borehole pump")
    line.get_by_role("link", name="working").click()
    finding = desk.locator("details.finding[open]").first
    expect(finding).to_contain_text("179.4")
    expect(finding.locator(".workings")).to_be_visible()

    desk.get_by_role("link", name="Character", exact=True).click()
    expect(desk.get_by_text("each predicted from the others")).to_be_visible()
    desk.get_by_label("Save it as it is now").fill("before winter")
    desk.get_by_role("button", name="Save").click()
    expect(desk.get_by_text("Saved: what is measured later")).to_be_visible()
    desk.get_by_role("link", name="set beside").click()
    expect(desk.locator("table.character thead")).to_contain_text("saved")


def test_the_slider_moves_the_governor(desk: Page, demo: Job) -> None:
    source = demo.source_rows.get()
    desk.goto(f"/jobs/{demo.pk}/findings/set-point/?source={source.pk}")
    slider = desk.get_by_label("At no load, set it to")
    slider.fill("62.9")
    expect(desk.locator("#moves")).to_contain_text(re.compile(r"62\.9\W+Hz at no load"))
    slider.press("ArrowRight")
    slider.press("ArrowRight")
    expect(desk.locator("#moves")).to_contain_text("Not so: 63.1")


def test_the_ear_is_moved_by_keys_and_by_drag_and_a_wall_is_put_between(desk: Page, demo: Job) -> None:
    source = demo.source_rows.get()
    before = stands_at(source)
    desk.goto(f"/jobs/{demo.pk}/findings/noise-plan/?source={source.pk}")
    neighbour = desk.get_by_role("button", name=re.compile("nearest neighbour: drag"))
    neighbour.focus()
    with desk.expect_navigation():
        desk.keyboard.press("ArrowRight")
        desk.keyboard.press("ArrowRight")
    assert stands_at(source) == pytest.approx((before[0] + 2 * FT_M, before[1]), abs=FT_M / 2), (
        "a key is a foot, to the foot"
    )
    box = neighbour.locator("circle").first.bounding_box()
    assert box is not None
    with desk.expect_navigation():
        desk.mouse.move(box["x"] + 8, box["y"] + 8)
        desk.mouse.down()
        desk.mouse.move(box["x"] + 8, box["y"] + 90, steps=4)
        desk.mouse.up()
    assert stands_at(source)[1] < before[1]
    desk.get_by_role("button", name="Put a wall between").click()
    expect(desk.locator("p.lead")).to_contain_text("The wall takes off")


def test_a_phone_reads_the_findings(phone: Page, demo: Job) -> None:
    phone.goto(f"/jobs/{demo.pk}/findings/")
    expect(phone.locator(".answers li").first).to_be_visible()
    assert phone.evaluate("document.documentElement.scrollWidth <= innerWidth + 1")
    phone.goto(f"/jobs/{demo.pk}/findings/character/")
    assert phone.evaluate("document.documentElement.scrollWidth <= innerWidth + 1")
