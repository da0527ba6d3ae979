"""Make docs/screenshots again from the demo data: one PNG of each main view at 1280 by 800.

``python -m tools.screenshots`` starts a demo of its own in a folder of its
own, looks at each view, and stops it again.
"""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Browser, Page, sync_playwright

TARGET = Path(__file__).parent.parent / "docs/screenshots"
DESK = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}
FLAGS = ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-sync"]
VIEWS = (
    ("brief", "/jobs/3/brief/", "paper"),
    ("loads", "/jobs/3/loads/", "paper"),
    ("source", "/jobs/3/source/", "paper"),
    ("plan", "/jobs/3/plan/", "paper"),
    ("compare", "/jobs/3/compare/", "paper"),
    ("findings", "/jobs/3/findings/", "paper"),
    ("outage", "/jobs/3/outage/", "paper"),
    ("verdict", "/jobs/3/verdict/", "paper"),
    ("card", "/jobs/1/verdict/card/?source=2", "paper"),
    ("character", "/jobs/3/findings/character/?source=7", "paper"),
    ("noise-plan", "/jobs/3/findings/noise-plan/?source=7", "paper"),
    ("kit", "/kit/", "paper"),
    ("safety", "/jobs/2/safety/?source=4", "paper"),
    ("many-units", "/jobs/5/compare/", "paper"),
    ("strip", "/jobs/3/bench/44/strip/", "paper"),
    ("board", "/", "paper"),
)
SETTLED_MS = 600
"""What comes in after a page has loaded; a bench page streams, and so is never idle."""
LINES = ("l1 123.3v 0w l2 123.5v 0w 62.1hz", "+5 +6 +2", "l1 122.4v 410w l2 122.8v 350w 61.6hz", "72.4db@7m")


@contextmanager
def demo() -> Iterator[str]:
    """A demo of its own; gives its address."""
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-m", "muster", "demo", "--port", "0", "--data", folder]
        running = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        try:
            assert running.stdout is not None
            match = re.search(r"http://\S+?:\d+", running.stdout.readline())
            assert match, "the demo did not say where it is"
            yield match.group()
        finally:
            running.terminate()
            running.wait(10)


def _page(browser: Browser, address: str, theme: str, size: dict[str, int]) -> Page:
    context = browser.new_context(viewport=size, base_url=address, reduced_motion="reduce")  # type: ignore[arg-type]
    context.add_cookies([{"name": "muster_theme", "value": theme, "url": address}])
    return context.new_page()


def _shoot(page: Page, name: str) -> None:
    page.locator(".waiting").first.wait_for(state="detached")
    page.evaluate("document.fonts.ready")
    page.wait_for_load_state("load")
    page.wait_for_timeout(SETTLED_MS)
    page.screenshot(path=TARGET / f"{name}.png")
    print(name)


def _run_a_ladder(page: Page) -> str:
    """Start a ladder and log a little; gives its address."""
    page.goto("/jobs/3/bench/?protocol=ladder")
    for box in page.locator("[name=confirmed]").all():
        box.check()
    page.get_by_role("button", name="Start the ladder").click()
    page.locator("#line").wait_for()
    for line in LINES:
        page.locator("#line").fill(line)
        with page.expect_response(lambda response: response.url.endswith("/line/")):
            page.get_by_role("button", name="Log", exact=True).click()
    page.locator('[data-look="4"]').click()
    page.locator("#line").fill("l2 107v min sump pump start @clamp 31a max")
    page.locator("#told .understood").nth(2).wait_for()
    return page.url


def _record_live(page: Page) -> None:
    """A ladder on the hybrid, its stand-ins recorded, a few loads on and a motor just started."""
    page.goto("/jobs/3/bench/?protocol=ladder&source=8")
    for box in page.locator("[name=confirmed]").all():
        box.check()
    page.get_by_role("button", name="Start the ladder").click()
    page.get_by_role("link", name="Record from instruments").click()
    page.get_by_role("button", name="Begin recording").click()
    page.locator("#livestrip canvas").first.wait_for()
    for key in ("6", "8", "9", "3"):
        page.keyboard.press(key)
        page.locator(f'[data-call="{key}"][aria-pressed="true"]').wait_for()
        page.wait_for_timeout(6000)
    page.locator(".starttrace").wait_for()


def main() -> None:
    """Look at every main view."""
    shutil.rmtree(TARGET, ignore_errors=True)
    TARGET.mkdir(parents=True)
    chromium = next(filter(None, map(shutil.which, ("chromium-headless-shell", "chromium", "chromium-browser"))), None)
    with demo() as address, sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=chromium, args=FLAGS)
        for name, path, theme in VIEWS:
            page = _page(browser, address, theme, DESK)
            page.goto(path)
            _shoot(page, name)
        page = _page(browser, address, "paper", DESK)
        bench = _run_a_ladder(page)
        _shoot(page, "bench")
        for name, theme, size in (("bench-phone", "paper", PHONE),):
            page = _page(browser, address, theme, size)
            page.goto(bench)
            _shoot(page, name)
        page = _page(browser, address, "paper", DESK)
        _record_live(page)
        page.screenshot(path=TARGET / "bench-live.png")  # a page that streams is never idle
        browser.close()


if __name__ == "__main__":
    main()
