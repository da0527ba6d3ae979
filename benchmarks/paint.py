"""From the key pressed to the line painted: a real server, a real browser, a record of many entries."""

from __future__ import annotations

import os
import re
import shutil
import signal
import statistics
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from urllib.error import HTTPError
from urllib.request import urlopen

from playwright.sync_api import Page, sync_playwright

from muster.records.models import SessionRow

from .measuring import Row, ms
from .pages import filled

FEW, MANY = 30, 1000
LINES = 25
AIM_S, FIRST_AIM_S = 0.1, 0.4
COMES_S = 60
WATCH = """() => {
  window.painted = null;
  let from = null;
  document.addEventListener('keydown', (event) => {
    if (event.key === 'Enter' && event.target.matches('[data-line]')) {
      from = performance.now();
      window.before = document.querySelector('ol.record li[data-entry]')?.dataset.entry;
    }
  }, true);
  new MutationObserver(() => {
    const first = document.querySelector('ol.record li[data-entry]')?.dataset.entry;
    if (from === null || first === window.before) return;
    const began = from;
    from = null;
    requestAnimationFrame(() => { const after = new MessageChannel(); after.port1.onmessage = () => { window.painted = performance.now() - began; }; after.port2.postMessage(0); });
  }).observe(document.body, { childList: true, subtree: true, characterData: true });
}"""
"""Tells when the frame that shows a new first entry has been drawn, from the moment Enter went down."""


@contextmanager
def _server(folder: Path, port: int) -> Iterator[str]:
    """Muster serving a folder; its address with the key that lets a browser in. Killed with all that it started."""
    told = folder / "up.txt"
    with told.open("w") as out:
        command = [sys.executable, "-m", "muster", "up", "--port", str(port), "--data", str(folder)]
        process = subprocess.Popen(command, stdout=out, stderr=out, stdin=subprocess.DEVNULL, start_new_session=True)
    try:
        until = time.monotonic() + COMES_S
        while not (found := re.search(r"http://\S+", told.read_text())):
            if time.monotonic() > until:
                raise RuntimeError(told.read_text())
            time.sleep(0.1)
        with suppress(HTTPError):  # a browser that was not let in is told so: by a server that is there
            urlopen(f"http://127.0.0.1:{port}/", timeout=COMES_S)
        yield found.group()
    finally:
        os.killpg(process.pid, signal.SIGINT)
        try:
            process.wait(COMES_S)
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, signal.SIGKILL)


def _typed_s(page: Page, line: str) -> float:
    """One line typed and sent, until it is painted [s]."""
    page.evaluate("window.painted = null")
    with page.expect_response("**/understood/**"):  # what is understood is told while one types, before Enter
        page.locator("[data-line]").fill(line)
    page.locator("[data-line]").press("Enter")
    page.wait_for_function("window.painted !== null", timeout=COMES_S * 1000)
    return float(page.evaluate("window.painted")) / 1000


def rows(session: SessionRow, folder: Path, port: int = 8461) -> list[Row]:
    """A line typed on a record of few and of many entries, and the first after a restart."""
    took_s: dict[int, list[float]] = {}
    benches = {count: filled(session, count) for count in (FEW, MANY)}
    with sync_playwright() as driver:
        path = shutil.which("chromium-headless-shell") or shutil.which("chromium")
        browser = driver.chromium.launch(executable_path=path, args=["--no-sandbox", "--disable-gpu"])
        page = browser.new_page(viewport={"width": 1280, "height": 800}, bypass_csp=True)
        with _server(folder, port) as address:
            page.goto(address)
            for count, bench in benches.items():
                page.goto(f"http://127.0.0.1:{port}/jobs/{session.source.job_id}/bench/{bench.pk}/")
                page.evaluate(WATCH)
                _typed_s(page, "l1 118v 901w")
                took_s[count] = [_typed_s(page, f"l1 118v {900 + at}w") for at in range(LINES)]
        with _server(folder, port):
            first_s = _typed_s(page, "l1 119v 950w")
        browser.close()
    middle_s = {count: statistics.median(values) for count, values in took_s.items()}
    return [
        Row(
            f"key to paint: a record of {MANY:,} entries",
            f"of {FEW}",
            ms(middle_s[FEW]),
            ms(middle_s[MANY]),
            middle_s[FEW] / middle_s[MANY],
            f"< {AIM_S * 1000:.0f} ms",
            middle_s[MANY] < AIM_S,
        ),
        Row(
            "key to paint: the first after a restart",
            "–",
            "–",
            ms(first_s),
            None,
            f"< {FIRST_AIM_S * 1000:.0f} ms",
            first_s < FIRST_AIM_S,
        ),
    ]
