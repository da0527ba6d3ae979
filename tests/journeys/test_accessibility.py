"""Every page in every theme before axe-core: nothing serious, nothing critical."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from playwright.sync_api import Page

from muster.core.plan.series import SeriesPlan, distances_of
from muster.core.safety.checks import KNOWN
from muster.core.sessions import Conditions, Place
from muster.core.sessions.inspection import answered
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Channel
from muster.instruments.link import Link
from muster.records.actions import measured, series
from muster.records.actions.captures import keep_capture
from muster.records.actions.imports import receive
from muster.records.actions.kit import add_strip, kit_rows, set_link
from muster.records.actions.recordings import begin
from muster.records.actions.sessions import log_items, log_line, set_checkin, start_session
from muster.records.models import ImportRow, InstrumentRow, Job, SessionRow

pytestmark = pytest.mark.browser
AXE = (Path(__file__).parents[1] / "vendor/axe.min.js").read_text(encoding="utf-8")
SERIOUS = {"serious", "critical"}
ASIDE = (
    "/",
    "/jobs/new/",
    "/kit/",
    "/kit/new/",
    "/shelf/",
    "/shelf/new/",
    "/calculators/",
    "/calculators/lead-drop/",
    "/calculators/string-layout/",
    "/help/",
)
STAGES = (
    "brief",
    "loads",
    "source",
    "plan",
    "safety",
    "bench",
    "findings",
    "findings/character",
    "findings/set-point",
    "findings/noise-plan",
    "findings/waves",
    "outage",
    "verdict",
    "verdict/card",
    "verdict/report",
    "compare",
)


EVERY_RULE = "['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']"
COLOURS = "{type: 'rule', values: ['color-contrast']}"
"""All that a theme can change: the other rules are looked at in one of them."""
BUT_COLOURS = "rules: {'color-contrast': {enabled: false}}, "
"""Of pages whose every component stands on another page as well: what takes longest is looked at there."""
FOCUS = """() => {
  const wrong = [], alike = new Set();
  for (const el of document.querySelectorAll('a[href], button, input:not([type=hidden]), select, textarea, summary, [tabindex="0"]')) {
    if (el.disabled || !el.checkVisibility({checkOpacity: false, checkVisibilityCSS: true})) continue;
    const kind = [el.tagName, el.type, el.className, el.parentElement.tagName, el.parentElement.className].join(' ');
    if (alike.has(kind)) continue;
    alike.add(kind);
    el.focus({focusVisible: true, preventScroll: true});
    if (document.activeElement !== el) continue;
    const shown = [el, el.nextElementSibling, el.closest('label')].filter(Boolean).map((one) => getComputedStyle(one));
    const seen = shown.some((style) => style.outlineStyle !== 'none' && parseFloat(style.outlineWidth) >= 2);
    if (!seen) wrong.push(`${el.tagName} ${el.className} ${el.name ?? ''} “${el.textContent.trim().slice(0, 20)}” shows no focus`);
  }
  document.activeElement?.blur();
  return [...new Set(wrong)].slice(0, 5);
}"""
"""Every kind of control in turn is given the focus as a key gives it: it, its label or what it paints must bear an outline."""


IN_EACH_THEME = ("/", "/calculators/lead-drop/")
STAGES_IN_EACH_THEME = ("loads", "findings", "outage", "verdict", "compare")
"""With these stages and two benches: every component is on one of them."""


def complaints(page: Page, rules: str = EVERY_RULE, more: str = "") -> list[str]:
    """What axe finds serious, with the element it means."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(f"(() => {{ {AXE} }})()")  # what an evaluation gives back is copied: never axe itself
    result: dict[str, Any] = page.evaluate(
        f"axe.run(document, {{runOnly: {rules}, {more}resultTypes: ['violations'], elementRef: false}})"
    )
    return [
        f"{rule['id']}: {node['target']} {node['failureSummary'][:160]}"
        for rule in result["violations"]
        if rule["impact"] in SERIOUS
        for node in rule["nodes"][:3]
    ]


def _open_session(demo: Job) -> SessionRow:
    source = demo.source_rows.get()
    row = start_session(source, "ladder", Conditions(9, 40), demo.created_by, confirmed=KNOWN)
    for line in ("l1 123v 0w l2 123v 0w 62hz", "+5 +6", "!hold", "l1 12v", "!trip", "@plug 19a", "odd smell"):
        log_line(row, line, demo.created_by)
    return row


def _mapping(row: SessionRow) -> ImportRow:
    """A log that waits to be mapped."""
    return receive(row, "shed.csv", [b"time;U;P\n0;230,1;1,2\n1;230,2;1,3\n"], row.created_by)


def _recorded(row: SessionRow) -> list[str]:
    """A session being recorded, an instrument gone, a plan run by itself, a capture taken; the pages around it."""
    t = np.arange(2000) / 5000
    waves = np.array([170 * np.sin(2 * np.pi * 60 * t), np.sin(2 * np.pi * 60 * t)], np.float32)
    channels = (Channel("v", Place.LEG1), Channel("a", Place.LEG1))
    capture = keep_capture(row, Capture("start of the pump", "scope", 1.0, 1 / 5000, channels, waves), row.created_by)
    kit_rows(row.created_by)
    meter = set_link(InstrumentRow.objects.get(slug="meter"), Link("scpi", "127.0.0.1", 1))
    strip = add_strip(Link("strip", "127.0.0.1", 1), row.created_by)
    recording = begin(row, [meter], row.created_by, strip=strip, outlets={"5": 0, "6": 1})
    recording.gone = {"meter": "nothing there"}
    recording.auto = {"state": "running", "doing": "holding", "step": 2, "of": 5, "why": ""}
    recording.save()
    bench = f"/jobs/{row.source.job_id}/bench/{row.pk}"
    aside = [f"/kit/{meter.pk}/reach/", f"/kit/strip/{strip.pk}/", "/kit/find/"]
    pages = ["record/", "run/", "captures/", f"captures/{capture.pk}/", f"captures/{capture.pk}/?at=1.1", ""]
    return [*aside, *(f"{bench}/{page}" for page in pages)]


def _many_units(demo: Job) -> list[str]:
    """A series being typed, an inspection with something to mind, two measurements beside one another."""
    who, source = demo.created_by, demo.source_rows.get()
    plan = SeriesPlan(distances_of("3 20 ft"), demo.load_rows.order_by("pk")[0].key)
    row = series.begin_series(demo, [source], plan, who)
    series.begin_unit(row, source, KNOWN, who)
    looked = start_session(source, "inspection", Conditions(), who, confirmed=KNOWN)
    log_items(looked, (answered("leads", "clad"),), "leads: copper-clad aluminium", who)
    first = measured.put_on_shelf(source, who)
    log_line(looked, "note more", who)
    second = measured.put_on_shelf(source, who)
    job = f"/jobs/{demo.pk}"
    return [
        f"{job}/series/",
        f"{job}/series/{row.pk}/",
        f"{job}/bench/{looked.pk}/inspect/",
        f"/shelf/measured/{first.pk}/beside/{second.pk}/",
    ]


def _pages(demo: Job) -> tuple[list[str], set[str]]:
    """Every page, and those that bear every component there is."""
    running = _open_session(demo)
    sealed = demo.source_rows.get().session_rows.exclude(closed_at=None).first()
    load, source = demo.load_rows.first(), demo.source_rows.get()
    assert sealed is not None
    assert load is not None
    job = f"/jobs/{demo.pk}"
    stages = [f"{job}/{stage}/" for stage in STAGES]
    stages += [f"{job}/bench/{running.pk}/", f"{job}/bench/{sealed.pk}/"]
    in_themes = [f"{job}/{stage}/" for stage in STAGES_IN_EACH_THEME] + stages[-2:]
    inside = [f"{job}/history/", f"{job}/bench/{running.pk}/checks/"]
    inside += [f"{job}/bench/{sealed.pk}/logs/", f"{job}/bench/{sealed.pk}/strip/"]
    inside += [f"{job}/bench/{running.pk}/logs/{_mapping(running).pk}/"]
    inside += [f"{job}/plan/stacks/", f"{job}/bench/{running.pk}/clipboard/"]
    set_checkin(running, "60")
    inside += [f"{job}/loads/{load.pk}/", f"{job}/source/{source.pk}/edit/"]
    inside += _many_units(demo)
    return [*ASIDE, *stages, *inside, *_recorded(running)], {*IN_EACH_THEME, *in_themes}


def test_nothing_serious_is_found_on_any_page_and_every_control_shows_its_focus(desk: Page, demo: Job) -> None:
    found = {}
    pages, in_each_theme = _pages(demo)
    for path in pages:
        desk.goto(path)
        desk.add_style_tag(content="* { transition: none !important; }")  # a colour half way to another theme is none
        wrong = desk.evaluate(FOCUS) + complaints(desk, more="" if path in in_each_theme else BUT_COLOURS)
        for theme in ("sun", "night") if path in in_each_theme else ():
            desk.evaluate(f"document.documentElement.dataset.theme = '{theme}'")
            wrong += [f"{theme}: {one}" for one in complaints(desk, COLOURS)]
        if wrong:
            found[path] = wrong
    assert found == {}


def test_the_list_of_keys_is_a_dialog_with_a_name(desk: Page, demo: Job) -> None:
    desk.goto(f"/jobs/{demo.pk}/brief/")
    desk.keyboard.press("?")
    assert complaints(desk) == []
    assert desk.get_by_role("dialog", name="Keys").is_visible()
