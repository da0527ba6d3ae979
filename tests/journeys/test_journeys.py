"""Whole journeys, as the assessor makes them."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, Route, expect

from muster.records.models import EntryRow, Job, SessionRow

from .conftest import see_to_gates

pytestmark = pytest.mark.browser

LADDER = ("230.4v 0w 50.9hz", "+1", "228.1v 998w 50.5hz", "!hold", "+2", "225.9v 1950w 50.1hz")


def go_to(page: Page, key: str, heading: str) -> None:
    """Go to a stage by its keys."""
    page.keyboard.press("g")
    page.keyboard.press(key)
    expect(page.locator("h1")).to_have_text(heading)


def tab_to(page: Page, selector: str) -> None:
    """Press Tab until a thing has the focus: nobody touches the mouse here."""
    expect(page.locator(selector).first).to_be_attached()
    for _ in range(120):
        page.keyboard.press("Tab")
        if page.evaluate("s => document.activeElement?.matches(s) ?? false", selector):
            return
    raise AssertionError(f"{selector} is not reached by Tab")


def log(page: Page, line: str) -> None:
    """Jot a line and wait until it stands in the record."""
    count = page.locator(".record > li").count()
    page.keyboard.press("/")
    page.keyboard.type(line)
    page.keyboard.press("Enter")
    expect(page.locator(".record > li")).to_have_count(count + 1)
    page.keyboard.press("Escape")


def _open_a_job(desk: Page) -> None:
    """Open a job from the empty board."""
    desk.goto("/")
    tab_to(desk, "a.btn-ink")
    desk.keyboard.press("Enter")
    tab_to(desk, "#id_name")
    desk.keyboard.type("Signal Cottage")
    desk.keyboard.press("Tab")
    desk.keyboard.type("Will the small set see it through the night?")
    desk.keyboard.press("Tab")
    desk.keyboard.type("230")
    desk.keyboard.press("Tab")
    desk.keyboard.press("Control+a")
    desk.keyboard.type("6")
    desk.keyboard.press("Enter")
    expect(desk.locator("h1")).to_have_text("Brief")


def _call_the_roll(desk: Page) -> None:
    """Add three loads in a line each, and paint an hour."""
    go_to(desk, "2", "Loads")
    for line in ("room heater 1000w", "kettle 900w", "sump pump 380w start2000va"):
        tab_to(desk, "#line")
        desk.keyboard.type(line)
        expect(desk.locator("#told")).to_contain_text("the shelf's")
        desk.keyboard.press("Enter")
        expect(desk.locator("table.loads")).to_contain_text(line.split(" ")[0])

    tab_to(desk, ".hours [type=checkbox]")
    desk.keyboard.press("Space")
    desk.keyboard.press("ArrowRight")
    expect(desk.locator(".hours [type=checkbox]").nth(1)).to_be_focused()


def _describe_a_source(desk: Page) -> None:
    """Describe a set by its plate."""
    go_to(desk, "3", "Source")
    tab_to(desk, ".choices a[href*=inverter_set]")
    desk.keyboard.press("Enter")
    tab_to(desk, "#id_name")
    desk.keyboard.type("the small set")
    desk.keyboard.press("Tab")
    desk.keyboard.type("2200")
    tab_to(desk, "#id_surge_w")
    desk.keyboard.type("3600")
    desk.keyboard.press("Enter")
    expect(desk.locator("main")).to_contain_text("On paper")


def _run_a_ladder(desk: Page) -> None:
    """Run a ladder and a start, slips and a trip included."""
    go_to(desk, "6", "Bench")
    tab_to(desk, "[name=confirmed]")
    for _ in range(desk.locator("[name=confirmed]").count()):
        desk.keyboard.press("Space")
        desk.keyboard.press("Tab")
    desk.keyboard.press("Enter")
    expect(desk.locator("h1.step")).to_contain_text("Ladder, step 1 of 5")
    desk.wait_for_load_state("load")

    desk.keyboard.press("/")
    desk.keyboard.type("230.4v hello")
    expect(desk.locator("#told")).to_contain_text("230.4")
    expect(desk.locator("#told .asnote")).to_contain_text("hello")
    desk.keyboard.press("Control+a")
    desk.keyboard.press("Delete")
    desk.keyboard.press("Escape")

    log(desk, LADDER[0])
    desk.keyboard.press(".")
    expect(desk.locator("h1.step")).to_contain_text("step 2 of 5")
    desk.keyboard.press("1")
    expect(desk.locator('[data-call="1"]')).to_have_attribute("aria-pressed", "true")
    log(desk, LADDER[2])
    desk.keyboard.press("h")
    expect(desk.locator(".clock")).to_contain_text("held")
    desk.keyboard.press("ArrowDown")
    expect(desk.locator(".startname")).to_be_visible()
    desk.keyboard.press("2")
    expect(desk.locator('[data-call="2"]')).to_have_attribute("aria-pressed", "true")
    log(desk, LADDER[5])
    log(desk, "sump pump start 226v before 198v min 224v settled @clamp 9.1a max")
    desk.keyboard.press("d")
    expect(desk.locator(".record")).to_contain_text("it dipped")
    desk.keyboard.press("z")
    expect(desk.locator(".record .superseded")).to_contain_text("it dipped")
    desk.keyboard.press("t")
    expect(desk.locator(".tripped")).to_be_visible()
    desk.keyboard.press("n")
    desk.keyboard.type("breaker stayed up")
    desk.keyboard.press("Enter")
    expect(desk.locator(".record")).to_contain_text("note: breaker stayed up")
    desk.reload()
    expect(desk.locator(".tripped")).to_be_visible()


def test_from_an_empty_database_to_a_printed_verdict_by_keyboard_alone(desk: Page, tmp_path: Path) -> None:
    _open_a_job(desk)
    _call_the_roll(desk)
    _describe_a_source(desk)
    _run_a_ladder(desk)
    tab_to(desk, ".closing button")
    desk.keyboard.press("Enter")
    expect(desk.locator("h1")).to_contain_text("Findings")
    expect(desk.locator(".sayings")).to_contain_text("Tripped with")

    desk.keyboard.press("g")
    desk.keyboard.press("9")
    expect(desk.locator("h1.headline")).to_contain_text(".")
    expect(desk.locator("table.tally").first).to_contain_text("Steady capacity")
    desk.emulate_media(media="print")
    expect(desk.locator(".rail")).to_be_hidden()
    expect(desk.locator(".signing")).to_be_visible()
    desk.pdf(path=tmp_path / "verdict.pdf", format="A4")
    assert (tmp_path / "verdict.pdf").read_bytes().startswith(b"%PDF")
    assert SessionRow.objects.get().sha256
    assert EntryRow.objects.filter(raw="!trip").count() == 1


def test_a_session_on_a_phone_with_one_thumb(phone: Page, demo: Job) -> None:
    phone.goto(f"/jobs/{demo.pk}/bench/?protocol=starts")
    for box in phone.locator("[name=confirmed]").all():
        box.tap()
    phone.get_by_role("button", name="Start the starts").tap()
    expect(phone.locator("h1.step")).to_contain_text("Starts, step 1")
    for selector in (".call", ".big-acts .btn", ".logbar .btn", ".look"):
        box = phone.locator(selector).first.bounding_box()
        assert box is not None
        assert box["height"] >= 44
    phone.locator('[data-call="2"]').tap()
    expect(phone.locator('[data-call="2"]')).to_have_attribute("aria-pressed", "true")
    phone.locator("#line").fill("sump pump start l2 @multimeter 122v before 105v min 121v settled")
    expect(phone.locator("#told")).to_contain_text("sump pump start")
    phone.get_by_role("button", name="Log", exact=True).tap()
    expect(phone.locator(".record")).to_contain_text("sump pump start")
    expect(phone.locator("#line")).to_have_value("")
    phone.get_by_role("button", name="It tripped").tap()
    expect(phone.locator(".tripped")).to_be_visible()
    phone.get_by_role("button", name="Undo").tap()
    expect(phone.locator(".tripped")).to_have_count(0)
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    for stage in ("brief", "loads", "source", "findings", "outage", "verdict"):
        phone.goto(f"/jobs/{demo.pk}/{stage}/")
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390, stage


def test_hours_are_painted_by_dragging_and_kept(desk: Page, demo: Job) -> None:
    desk.goto(f"/jobs/{demo.pk}/loads/")
    band = desk.locator("[data-hours]").nth(8)
    cells = band.locator("label")
    band.scroll_into_view_if_needed()
    first, last = cells.nth(13).bounding_box(), cells.nth(16).bounding_box()
    assert first is not None
    assert last is not None
    with desk.expect_response(lambda response: "/hours/" in response.url):
        desk.mouse.move(first["x"] + 5, first["y"] + 10)
        desk.mouse.down()
        desk.mouse.move(last["x"] + 5, last["y"] + 10, steps=12)
        desk.mouse.up()
    desk.reload()
    checked = desk.locator("[data-hours]").nth(8).locator("input:checked")
    assert [box.get_attribute("value") for box in checked.all()] == ["6", "7", "12", "13", "14", "15", "16", "17", "20"]


def test_themes_change_at_once_and_are_remembered(desk: Page, demo: Job) -> None:
    desk.goto("/")
    for theme in ("sun", "night", "paper"):
        with desk.expect_response(lambda response: "/theme/" in response.url):
            desk.locator("#theme").select_option(theme)
        assert desk.evaluate("document.documentElement.dataset.theme") == theme
        desk.reload()
        assert desk.evaluate("document.documentElement.dataset.theme") == theme


def test_the_list_of_keys_opens_and_single_keys_can_be_switched_off(desk: Page, demo: Job) -> None:
    desk.goto(f"/jobs/{demo.pk}/brief/")
    desk.keyboard.press("?")
    expect(desk.locator("#keys")).to_be_visible()
    desk.get_by_role("button", name="Switch single keys off").click()
    desk.keyboard.press("Escape")
    desk.keyboard.press("?")
    expect(desk.locator("#keys")).to_be_hidden()


def test_a_line_is_not_lost_when_muster_does_not_answer(cut_off: Page, demo: Job) -> None:
    cut_off.goto(f"/jobs/{demo.pk}/bench/")
    see_to_gates(cut_off)
    cut_off.get_by_role("button", name="Start the ladder").click()
    cut_off.wait_for_load_state("load")
    expect(cut_off.locator("#line")).to_be_visible()
    cut_off.route("**/line/", lambda route: route.abort())
    for line in ("118v 950w", "59.8hz"):
        cut_off.locator("#line").fill(line)
        cut_off.get_by_role("button", name="Log", exact=True).click()
    outbox = cut_off.locator("#outbox > li")
    expect(outbox).to_have_count(2)
    expect(outbox.first).to_contain_text("118v 950w")
    expect(outbox.last).to_contain_text("not kept")
    expect(outbox.last).to_contain_text("Muster does not answer")
    expect(cut_off.locator("#line")).to_have_value("")
    cut_off.reload()
    expect(outbox).to_have_count(2)
    cut_off.get_by_role("button", name="Close and seal this session").click()
    expect(cut_off.locator("#refused")).to_contain_text("not kept yet")
    cut_off.unroute("**/line/")
    for _ in range(2):
        cut_off.get_by_role("button", name="Send again").first.click()
    expect(outbox).to_have_count(0)
    expect(cut_off.locator(".record")).to_contain_text("950")
    expect(cut_off.locator(".record")).to_contain_text("59.8")


def test_an_answer_that_never_came_back_is_not_taken_twice(cut_off: Page, demo: Job) -> None:
    """The line was kept, its answer was lost: sent again it is the same line."""
    cut_off.goto(f"/jobs/{demo.pk}/bench/")
    see_to_gates(cut_off)
    cut_off.get_by_role("button", name="Start the ladder").click()
    expect(cut_off.locator("#line")).to_be_visible()

    def taken_but_not_answered(route: Route) -> None:
        route.fetch()
        route.abort()

    cut_off.route("**/line/", taken_but_not_answered)
    cut_off.locator("#line").fill("118v 951w")
    cut_off.get_by_role("button", name="Log", exact=True).click()
    expect(cut_off.locator("#outbox > li")).to_contain_text("not kept")
    cut_off.unroute("**/line/")
    cut_off.get_by_role("button", name="Send again").click()
    expect(cut_off.locator("#outbox > li")).to_have_count(0)
    expect(cut_off.locator(".record")).to_contain_text("951")
    assert EntryRow.objects.filter(raw="118v 951w").count() == 1


def test_what_is_refused_or_asks_to_sign_in_again_keeps_its_text(cut_off: Page, demo: Job) -> None:
    cut_off.goto(f"/jobs/{demo.pk}/bench/")
    see_to_gates(cut_off)
    cut_off.get_by_role("button", name="Start the ladder").click()
    expect(cut_off.locator("#line")).to_be_visible()
    cut_off.route(
        "**/line/",
        lambda route: route.fulfill(status=403, body="Sign in again: open the address that “muster url” prints."),
    )
    cut_off.locator("#line").fill("118v 952w")
    cut_off.get_by_role("button", name="Log", exact=True).click()
    outbox = cut_off.locator("#outbox > li")
    expect(outbox).to_contain_text("Sign in again")
    cut_off.get_by_role("button", name="Change it").click()
    expect(cut_off.locator("#line")).to_have_value("118v 952w")
    expect(outbox).to_have_count(0)


def test_a_double_press_skips_no_step_and_begins_no_hold_again(desk: Page, demo: Job) -> None:
    desk.goto(f"/jobs/{demo.pk}/bench/")
    see_to_gates(desk)
    desk.get_by_role("button", name="Start the ladder").click()
    expect(desk.locator("h1.step")).to_contain_text("step 1 of")
    desk.wait_for_load_state()
    desk.evaluate(
        "for (const key of ['.', '.', 'h', 'h']) document.body.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true}))"
    )
    expect(desk.locator(".clock")).to_contain_text("held")
    expect(desk.locator("h1.step")).to_contain_text("step 2 of")
    expect(desk.locator(".heard")).to_have_count(0)
    session = SessionRow.objects.latest("pk")
    assert [session.entry_rows.filter(raw=raw).count() for raw in ("!step", "!hold")] == [1, 1]


def test_a_key_is_seen_to_be_heard_before_its_answer_comes(desk: Page, demo: Job) -> None:
    desk.goto(f"/jobs/{demo.pk}/bench/")
    see_to_gates(desk)
    desk.get_by_role("button", name="Start the ladder").click()
    expect(desk.locator("#line")).to_be_visible()
    desk.wait_for_load_state()
    held: list[Route] = []
    desk.route("**/switch/", lambda route: held.append(route))
    with desk.expect_request("**/switch/"):
        desk.keyboard.press("6")
    expect(desk.locator('[data-call="6"]')).to_have_class(re.compile("heard"))
    expect(desk.locator('[data-call="6"]')).to_have_attribute("aria-busy", "true")
    held[0].continue_()
    expect(desk.locator('[data-call="6"]')).to_have_attribute("aria-pressed", "true")
    expect(desk.locator(".heard")).to_have_count(0)
    desk.unroute("**/switch/")


def test_what_is_told_of_a_line_is_of_that_line_or_is_not_shown(desk: Page, demo: Job) -> None:
    desk.goto(f"/jobs/{demo.pk}/bench/")
    see_to_gates(desk)
    desk.get_by_role("button", name="Start the ladder").click()
    line, told = desk.locator("#line"), desk.locator("#told")
    line.press_sequentially("118v")
    expect(told).to_contain_text("118")
    held: list[Route] = []
    desk.route("**/understood/**", lambda route: held.append(route))
    line.press_sequentially(" 9")
    expect(told).not_to_contain_text("118")
    line.press_sequentially("50w")
    line.fill("")
    for route in held:
        route.continue_()
    expect(told).not_to_contain_text("950")
    desk.unroute("**/understood/**")


def test_another_month_moves_the_outage_and_the_address_keeps_it(desk: Page, island: list[Job]) -> None:
    job = next(job for job in island if job.name == "The Ferry House")
    hybrid = job.source_rows.get(name="the hybrid inverter")
    desk.goto(f"/jobs/{job.pk}/outage/?source={hybrid.pk}")
    before = desk.locator("#outage .lead").inner_text()
    desk.select_option("select[name=month]", "6")
    expect(desk.locator("#outage .otherwise")).to_contain_text("nothing of the job is changed")
    expect(desk.locator("#outage .lead")).not_to_have_text(before)
    assert "month=6" in desk.url
    desk.get_by_role("link", name="As the brief says").click()
    expect(desk.locator("#outage .lead")).to_have_text(before)
