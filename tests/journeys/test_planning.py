"""Planning as the assessor does it at the kitchen table: nameplate, plan, what stacks, and a page typed in."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from muster.records import bridge
from muster.records.models import Job, SessionRow

from .conftest import see_to_gates

pytestmark = pytest.mark.browser


def test_from_a_nameplate_to_a_typed_page(desk: Page, demo: Job) -> None:
    """A nameplate is added, a plan changed, a set tried, a page of starts typed in, and its dip found."""
    pump = demo.load_rows.get(key="4")
    desk.goto(f"/jobs/{demo.pk}/loads/{pump.pk}/")
    desk.get_by_text("Add what the nameplate says").click()
    desk.get_by_label("Locked-rotor amps on the nameplate").fill("30")
    desk.get_by_role("button", name="Add", exact=True).click()
    expect(desk.locator("#rests ~ .scroll")).to_contain_text("120 V × 30 A locked rotor")
    assert bridge.load_of(demo.load_rows.get(key="4")).start_va == 2350

    desk.goto(f"/jobs/{demo.pk}/plan/")
    expect(desk.locator(".nexttests")).to_contain_text("Legs")
    desk.locator("#plan > summary").click()
    desk.get_by_role("button", name="Drop heat-pump").click()
    expect(desk.locator(".costs")).to_contain_text("Against the plan as made")
    desk.get_by_role("button", name="Back to the plan as made").click()
    expect(desk.locator(".costs")).to_have_count(0)

    desk.get_by_role("link", name="What stacks, and in which order").click()
    expect(desk.locator("[role=status]").first).to_contain_text("Leave out the borehole pump")
    desk.get_by_role("checkbox", name="borehole pump").uncheck()
    desk.get_by_role("button", name="Try it").click()
    expect(desk.locator("[role=status]").first).to_contain_text("This set holds")
    expect(desk.get_by_text("every order was weighed")).to_be_visible()

    desk.goto(f"/jobs/{demo.pk}/bench/?protocol=starts")
    see_to_gates(desk)
    desk.get_by_role("button", name="Start the starts").click()
    desk.get_by_role("link", name="type in the page, a row a step").click()
    row = desk.locator("tbody tr", has_text="sump pump, alone")
    for name, value in (("before", "123.1"), ("lowest", "104.5"), ("settled", "121")):
        row.get_by_label(f"volts leg 2, {name}").fill(value)
    desk.get_by_role("button", name="Save the page").click()
    expect(desk.locator(".record")).to_contain_text("sump pump start")
    session = SessionRow.objects.get(closed_at=None)
    desk.goto(f"/jobs/{demo.pk}/findings/")
    expect(desk.locator(".chapter").first).to_contain_text("Sump pump, alone")
    assert session.protocol == "starts"


def test_the_plan_is_changed_with_one_thumb(phone: Page, demo: Job) -> None:
    phone.goto(f"/jobs/{demo.pk}/plan/")
    phone.locator("#plan > summary").tap()
    phone.get_by_role("button", name="Leave out 25 %").tap()
    expect(phone.locator(".costs")).to_contain_text("1 step fewer")
    phone.get_by_role("button", name="Take back 25 %").tap()
    expect(phone.locator(".costs")).to_have_count(0)
    wide = phone.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
    assert wide <= 0
