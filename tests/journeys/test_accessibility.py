"""Every page in every theme before axe-core: nothing serious, nothing critical."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page

from muster.core.gates import KNOWN
from muster.core.sessions import Conditions
from muster.records.actions.imports import receive
from muster.records.actions.sessions import log_line, start_session
from muster.records.models import ImportRow, Job, SessionRow

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
    "/sums/",
    "/sums/lead-drop/",
    "/sums/string-layout/",
    "/rehearsal/",
    "/help/",
)
STAGES = ("brief", "roll", "source", "sheet", "gates", "bench", "findings", "day", "verdict", "compare")


def complaints(page: Page) -> list[str]:
    """What axe finds serious, with the element it means."""
    page.evaluate(AXE)
    result: dict[str, Any] = page.evaluate(
        "axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']})"
    )
    return [
        f"{rule['id']}: {node['target']} {node['failureSummary'][:160]}"
        for rule in result["violations"]
        if rule["impact"] in SERIOUS
        for node in rule["nodes"][:3]
    ]


def _open_session(demo: Job) -> SessionRow:
    source = demo.source_rows.get()
    row = start_session(source, "ladder", Conditions(9, 40), demo.created_by, seen_to=KNOWN)
    for line in ("l1 123v 0w l2 123v 0w 62hz", "+5 +6", "!hold", "l1 12v", "!trip", "@plug 19a", "odd smell"):
        log_line(row, line, demo.created_by)
    return row


def _mapping(row: SessionRow) -> ImportRow:
    """A log that waits to be mapped."""
    return receive(row, "shed.csv", [b"time;U;P\n0;230,1;1,2\n1;230,2;1,3\n"], row.created_by)


@pytest.mark.parametrize("theme", ["paper", "sun", "night"])
def test_axe_finds_nothing_serious_on_any_page(desk: Page, live_server: Any, demo: Job, theme: str) -> None:
    desk.context.add_cookies([{"name": "muster_theme", "value": theme, "url": live_server.url}])
    running = _open_session(demo)
    sealed = demo.source_rows.get().session_rows.exclude(closed_at=None).first()
    load, source = demo.load_rows.first(), demo.source_rows.get()
    assert sealed is not None
    assert load is not None
    inside = [f"/jobs/{demo.pk}/{stage}/" for stage in STAGES]
    inside += [f"/jobs/{demo.pk}/bench/{running.pk}/", f"/jobs/{demo.pk}/bench/{sealed.pk}/"]
    inside += [f"/jobs/{demo.pk}/history/", f"/jobs/{demo.pk}/bench/{running.pk}/checks/"]
    inside += [f"/jobs/{demo.pk}/bench/{sealed.pk}/logs/", f"/jobs/{demo.pk}/bench/{sealed.pk}/strip/"]
    inside += [f"/jobs/{demo.pk}/bench/{running.pk}/logs/{_mapping(running).pk}/"]
    inside += [f"/jobs/{demo.pk}/sheet/stacks/", f"/jobs/{demo.pk}/bench/{running.pk}/clipboard/"]
    inside += [f"/jobs/{demo.pk}/roll/{load.pk}/", f"/jobs/{demo.pk}/source/{source.pk}/edit/"]
    found = {}
    for path in (*ASIDE, *inside):
        desk.goto(path)
        wrong = complaints(desk)
        if wrong:
            found[path] = wrong
    assert found == {}


def test_the_list_of_keys_is_a_dialog_with_a_name(desk: Page, demo: Job) -> None:
    desk.goto(f"/jobs/{demo.pk}/brief/")
    desk.keyboard.press("?")
    assert complaints(desk) == []
    assert desk.get_by_role("dialog", name="Keys").is_visible()
