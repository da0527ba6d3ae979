"""The bench and the loads in the browser, a claim at a time."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from muster.records import bridge
from muster.records.models import EntryRow, Job, SessionRow

from .conftest import see_to_gates

pytestmark = pytest.mark.browser


def start(page: Page, job: Job, protocol: str) -> None:
    """Start a session of a protocol."""
    page.goto(f"/jobs/{job.pk}/bench/?protocol={protocol}")
    see_to_gates(page)
    page.get_by_role("button", name="Start the").click()
    page.wait_for_load_state("load")
    expect(page.locator("h1.step")).to_contain_text("step 1 of")


def jot(page: Page, line: str) -> None:
    """Log a line and wait for it."""
    count = page.locator(".record > li").count()
    page.locator("#line").fill(line)
    page.get_by_role("button", name="Log", exact=True).click()
    expect(page.locator(".record > li")).to_have_count(count + 1)


def test_the_next_start_is_drawn_before_it_is_switched_on(desk: Page, demo: Job) -> None:
    start(desk, demo, "ladder")
    desk.locator('[data-look="4"]').click()
    expect(desk.locator(".startname")).to_contain_text("sump pump")
    expect(desk.locator(".whatif")).to_contain_text("it fits")
    desk.locator('[data-look="1"]').click()
    expect(desk.locator(".startname")).to_contain_text("borehole pump")
    expect(desk.locator(".whatif")).to_contain_text("does not fit even alone")
    assert desk.locator(".slab.start rect").count() == 2
    assert EntryRow.objects.filter(session__closed_at=None).count() == 1


def test_a_load_switched_on_stands_on_the_stack_and_off_it_again(desk: Page, demo: Job) -> None:
    start(desk, demo, "ladder")
    desk.locator('[data-call="7"]').click()
    expect(desk.locator(".slabname")).to_have_text(["bread oven"])
    expect(desk.locator(".bench-loads .title-row")).to_contain_text("1 of 11 on")
    desk.keyboard.press("7")
    expect(desk.locator(".slabname")).to_have_count(0)


def test_keys_pressed_faster_than_muster_answers_are_all_kept_and_all_shown(desk: Page, demo: Job) -> None:
    start(desk, demo, "ladder")
    for key in ("5", "ArrowDown", "6", "2", "ArrowUp", "3", "8", "ArrowDown", "."):
        desk.keyboard.press(key)
    for key in "56238":
        expect(desk.locator(f'[data-call="{key}"]')).to_have_attribute("aria-pressed", "true")
    expect(desk.locator("h1.step")).to_contain_text("step 2 of")
    assert EntryRow.objects.filter(session__closed_at=None, raw__startswith="+").count() == 5
    for _ in range(3):
        desk.keyboard.press("7")
    expect(desk.locator('[data-call="7"]')).to_have_attribute("aria-pressed", "true")
    expect(desk.locator(".record > li").nth(2)).to_contain_text("bread oven on")


def test_a_reading_corrected_keeps_the_original_in_sight(desk: Page, demo: Job) -> None:
    start(desk, demo, "ladder")
    jot(desk, "l1 12.3v")
    desk.locator(".record .correct summary").first.click()
    box = desk.locator(".record .correct input[name=line]").first
    box.fill("l1 123v")
    box.press("Enter")
    expect(desk.locator(".readouts")).to_contain_text("123.0")
    expect(desk.locator(".record .superseded")).to_contain_text("12.3")
    expect(desk.locator(".record > li").first).to_contain_text("corrects no. 2")


def test_the_hold_clock_survives_a_reload_and_stops_with_the_load(desk: Page, demo: Job) -> None:
    start(desk, demo, "ladder")
    desk.get_by_role("button", name="Hold clock").click()
    expect(desk.locator(".clock")).to_contain_text("held")
    desk.reload()
    expect(desk.locator(".clock")).to_contain_text("held")
    desk.keyboard.press("5")
    expect(desk.locator(".clock")).to_have_count(0)


def test_a_start_by_the_form_becomes_a_finding_with_its_working(desk: Page, demo: Job) -> None:
    start(desk, demo, "starts")
    desk.locator(".byform summary").click()
    desk.locator("#id_load").select_option("4")
    desk.locator("#id_place").select_option("2")
    for name, value in (("before", "122,4"), ("lowest", "105,9"), ("settled", "121"), ("highest", "17,5")):
        desk.locator(f"#id_{name}").fill(value)
    desk.locator("#id_volts_by").select_option("multimeter")
    desk.get_by_role("button", name="Log these").click()
    expect(desk.locator(".record")).to_contain_text("sump pump start")
    session = SessionRow.objects.get(closed_at=None)
    desk.goto(f"/jobs/{demo.pk}/findings/")
    chapter = desk.locator(".chapter").first
    finding = chapter.locator(".finding", has_text="Sump pump, alone")
    finding.locator("summary").click()
    expect(finding).to_contain_text("(122.4 − 105.9) ÷ 122.4")
    finding.get_by_role("link", name="entry").click()
    desk.wait_for_url(re.compile(rf"/bench/{session.pk}/\?all=1#entry-\d+$"))


def test_a_slip_in_the_form_is_answered_beside_it_and_nothing_is_lost(cut_off: Page, demo: Job) -> None:
    start(cut_off, demo, "noise_walk")
    cut_off.locator(".byform summary").click()
    cut_off.locator("#id_dba").fill("64")
    cut_off.get_by_role("button", name="Log these").click()
    expect(cut_off.locator(".field-distance_m .error")).to_contain_text("metres from the source")
    expect(cut_off.locator("#id_dba")).to_have_value("64")


def test_an_edit_in_place_says_what_is_wrong_in_place(cut_off: Page, demo: Job) -> None:
    row = demo.load_rows.get(key="2")
    cut_off.goto(f"/jobs/{demo.pk}/loads/")
    cut_off.locator(f"#load-{row.pk}").get_by_text("Edit").click()
    box = cut_off.locator("#id_run_w")
    expect(cut_off.locator("#id_name")).to_be_focused()
    box.fill("-3")
    cut_off.get_by_role("button", name="Save").click()
    expect(cut_off.locator(".field-run_w .error")).to_contain_text("above 0")
    expect(box).to_have_value("-3")
    box.fill("340")
    cut_off.get_by_role("button", name="Save").click()
    expect(cut_off.locator(f"#load-{row.pk}")).to_contain_text("340")
    row.refresh_from_db()
    assert bridge.load_of(row).run_w == 340


def test_a_load_taken_off_the_list_comes_back_by_undo(desk: Page, demo: Job) -> None:
    desk.goto(f"/jobs/{demo.pk}/loads/")
    desk.get_by_role("button", name="Remove kettle").click()
    expect(desk.locator("table.loads")).not_to_contain_text("kettle")
    desk.get_by_role("button", name="Undo", exact=True).click()
    expect(desk.locator("table.loads")).to_contain_text("kettle")


def test_a_job_is_copied_archived_and_restored(desk: Page, demo: Job) -> None:
    desk.goto("/")
    desk.locator(".more summary").click()
    desk.get_by_role("button", name="Copy").click()
    expect(desk.locator("h1")).to_have_text("Brief")
    desk.goto("/")
    expect(desk.locator(".board > li")).to_have_count(2)
    desk.locator(".more summary").first.click()
    desk.get_by_role("button", name="Archive").first.click()
    expect(desk.locator(".board > li")).to_have_count(1)
    desk.locator(".archived summary").click()
    desk.get_by_role("button", name="Restore").click()
    expect(desk.locator(".board > li")).to_have_count(2)


def test_a_sealed_session_can_be_read_and_not_written(desk: Page, demo: Job) -> None:
    row = SessionRow.objects.filter(protocol="ladder").get()
    desk.goto(f"/jobs/{demo.pk}/bench/{row.pk}/")
    expect(desk.locator(".seal")).to_contain_text(row.sha256[:16])
    expect(desk.locator("#line")).to_have_count(0)
    assert desk.locator(".call:not([disabled])").count() == 0


def test_every_drawing_says_in_words_what_it_shows(desk: Page, demo: Job) -> None:
    ladder = SessionRow.objects.filter(protocol="ladder").get()
    for path in ("findings/", "day/", "verdict/", "roll/", f"bench/{ladder.pk}/"):
        desk.goto(f"/jobs/{demo.pk}/{path}")
        drawings = desk.locator("main svg[role=img]")
        assert drawings.count() > 0, path
        for drawing in drawings.all():
            named = drawing.get_attribute("aria-label") or drawing.get_attribute("aria-labelledby")
            assert named, path


@pytest.mark.parametrize("theme", ["paper", "sun", "night"])
def test_text_stands_out_from_the_paper_in_every_theme(desk: Page, demo: Job, theme: str) -> None:
    """Contrast of ink, soft ink and every status colour against the paper: at least 4.5 to 1."""
    desk.goto("/")
    desk.evaluate("t => document.documentElement.dataset.theme = t", theme)
    names = ("ink", "soft", "kelp", "gorse", "rust", "heather", "sea", "clay")
    ratios = desk.evaluate(
        """names => {
          const style = getComputedStyle(document.documentElement);
          const lum = hex => {
            const c = [1, 3, 5].map(i => parseInt(hex.trim().slice(i, i + 2), 16) / 255)
              .map(v => v <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
            return 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2];
          };
          const paper = lum(style.getPropertyValue("--paper"));
          return Object.fromEntries(names.map(n => {
            const x = lum(style.getPropertyValue("--" + n));
            return [n, (Math.max(x, paper) + 0.05) / (Math.min(x, paper) + 0.05)];
          }));
        }""",
        list(names),
    )
    assert {name: ratio for name, ratio in ratios.items() if ratio < 4.5} == {}


def test_a_start_chosen_to_look_at_stays_when_the_page_is_drawn_anew_by_itself(desk: Page, demo: Job) -> None:
    start(desk, demo, "ladder")
    desk.locator('[data-look="4"]').click()
    expect(desk.locator('[data-look="4"]')).to_have_attribute("aria-current", "true")
    with desk.expect_response(lambda response: "next=4" in response.url):
        desk.evaluate("document.dispatchEvent(new CustomEvent('bench:stale', {detail: {page: location.pathname}}))")
    expect(desk.locator('[data-look="4"]')).to_have_attribute("aria-current", "true")
