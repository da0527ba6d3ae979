"""The live bench as it ships: the demo's own server, its stand-ins, the recorder's process, and two browsers."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from .conftest import PATIENCE_MS, Watch, see_to_gates


class Demo:
    """``muster demo`` in a folder of its own."""

    def __init__(self, folder: Path) -> None:
        environment = {**os.environ, "MUSTER_DATA": str(folder)}
        environment.pop("DJANGO_SETTINGS_MODULE", None)
        self.process = subprocess.Popen(
            [sys.executable, "-m", "muster", "demo", "--port", "0"],
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
            env=environment,
        )
        assert self.process.stdout is not None
        found = None
        for line in self.process.stdout:
            found = re.search(r"http://[\d.:]+", line)
            if found:
                break
        assert found, "it never said where it is"
        self.url = found[0]

    def stop(self) -> int:
        """End it as Ctrl-C does; what it exits with."""
        self.process.send_signal(signal.SIGINT)
        self.process.communicate(timeout=60)
        return self.process.returncode


@pytest.fixture(scope="module")
def muster(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Demo]:
    demo = Demo(tmp_path_factory.mktemp("demo"))
    yield demo
    assert demo.stop() == 0


def page_of(browser: Browser, demo: Demo, **options: object) -> tuple[Page, Watch]:
    watch = Watch()
    context = browser.new_context(base_url=demo.url, **options)  # type: ignore[arg-type]
    context.set_default_timeout(PATIENCE_MS)
    watch.attach(context)
    return context.new_page(), watch


@pytest.fixture
def desk(browser: Browser, muster: Demo) -> Iterator[Page]:
    page, watch = page_of(browser, muster, viewport={"width": 1280, "height": 800})
    yield page
    page.context.close()
    assert watch.wrong == []


@pytest.fixture
def phone(browser: Browser, muster: Demo) -> Iterator[Page]:
    page, watch = page_of(browser, muster, viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)
    yield page
    page.context.close()
    assert watch.wrong == []


def recording_ladder(page: Page, hold_s: str = "1") -> None:
    """A ladder on the Ferry House's hybrid, its instruments recorded, every load on the outlet strip."""
    page.goto("/")
    page.get_by_role("link", name="The Ferry House").first.click()
    page.get_by_role("link", name=re.compile("Bench")).click()
    page.get_by_label("Source", exact=True).select_option(label="the hybrid inverter")
    expect(page).to_have_url(re.compile("source="))
    see_to_gates(page)
    page.get_by_role("button", name="Start the ladder").click()
    page.get_by_role("link", name="Record from instruments").click()
    page.get_by_role("button", name="Begin recording").click()
    expect(page.locator("#livestrip canvas").first).to_be_visible()


def readout(page: Page, heading: str) -> str:
    return f'[data-readout="{heading}"] .fig'


def switch_on_until_its_start_is_drawn(page: Page, key: str, told: str) -> None:
    """A load on, and off and on again where this machine was too busy to hear the meter just then."""
    pressed, drawn = page.locator(f'[data-call="{key}"]'), page.locator(".starttrace").filter(has_text=told)
    for tries_left in (3, 2, 1, 0):
        page.keyboard.press(key)
        expect(pressed).to_have_attribute("aria-pressed", "true")
        try:
            expect(drawn).to_be_visible(timeout=PATIENCE_MS / 3)
        except AssertionError:
            if not tries_left:
                raise
            page.keyboard.press(key)
            expect(pressed).to_have_attribute("aria-pressed", "false")
        else:
            return


def test_a_ladder_run_by_muster_itself_reaches_the_verdict(desk: Page, phone: Page) -> None:
    recording_ladder(desk)
    expect(desk.locator(readout(desk, "l1_v"))).to_have_text(re.compile(r"1[12]\d\.\d"))
    phone.goto(desk.url)
    expect(phone.locator(readout(phone, "f_hz"))).to_have_text("60.0")

    desk.get_by_role("link", name="Run the plan").click()
    for name, value in (("between_s", "1"), ("settle_s", "1"), ("hold_s", "1")):
        desk.locator(f"[name={name}]").fill(value)
    desk.get_by_role("button", name="Begin the run").click()
    expect(desk.locator(".stopkey")).to_be_visible()
    expect(phone.locator(".stopkey")).to_be_visible()
    expect(phone.locator('[data-call][aria-pressed="true"]').first).to_be_visible()
    expect(desk.locator("[data-now-leg]").first).to_have_attribute("visibility", "visible")
    # It gets through, or the source trips under the pump, or this machine is too busy to hear the meter: it ends by itself.
    ended = desk.get_by_text(re.compile("The run is (done, all off|stopped, all off: )"))
    expect(ended).to_be_visible(timeout=5 * PATIENCE_MS)
    expect(phone.locator('[data-call][aria-pressed="true"]')).to_have_count(0)

    desk.reload()
    expect(desk.locator("#livestrip canvas").first).to_be_visible()
    expect(desk.locator(".record")).to_contain_text("run by Muster")
    desk.locator(".recording").get_by_role("button", name="Stop recording").click()
    expect(desk.locator(".recording")).to_have_count(0)
    desk.get_by_role("button", name="Close and seal this session").click()
    expect(desk.get_by_text("Closed and sealed.")).to_be_visible()
    desk.get_by_role("link", name=re.compile("Verdict")).click()
    expect(desk.locator(".headline")).to_be_visible()


def test_figures_of_a_server_that_is_silent_grow_old_on_the_page_and_come_back(desk: Page, muster: Demo) -> None:
    recording_ladder(desk)
    expect(desk.locator(readout(desk, "l1_v"))).to_have_text(re.compile(r"1[12]\d\.\d"))
    expect(desk.locator("#silence")).to_be_hidden()
    muster.process.send_signal(signal.SIGSTOP)
    try:
        expect(desk.locator("[data-readout].old").first).to_contain_text("s old")
        expect(desk.locator("#silence")).to_contain_text("No word from Muster")
    finally:
        muster.process.send_signal(signal.SIGCONT)
    expect(desk.locator("[data-readout].old")).to_have_count(0)
    expect(desk.locator("#silence")).to_be_hidden()

    desk.goto("/help/")
    desk.go_back()
    expect(desk.locator("body[data-streaming]")).to_have_count(1)
    expect(desk.locator("#livestrip canvas").first).to_be_visible()
    desk.locator(".recording").get_by_role("button", name="Stop recording").click()
    expect(desk.locator(".recording")).to_have_count(0)


def test_the_stop_key_and_an_instrument_that_is_gone(desk: Page, muster: Demo) -> None:
    recording_ladder(desk)
    session = desk.url
    switch_on_until_its_start_is_drawn(desk, "6", "House lights, start")
    expect(desk.locator(readout(desk, "total_w"))).to_have_text("90")

    desk.get_by_role("link", name="Run the plan").click()
    desk.locator("[name=between_s]").fill("0.3")
    desk.get_by_role("button", name="Begin the run").click()
    expect(desk.locator(".stopkey")).to_be_visible()
    desk.keyboard.press("x")
    expect(desk.get_by_text("your stop key")).to_have_count(2)
    expect(desk.locator('[data-call][aria-pressed="true"]')).to_have_count(0)

    # The stand-ins die: every instrument is said to be gone, on the page as it is now.
    subprocess.run(["pkill", "-P", str(muster.process.pid), "-f", "muster standins"], check=True)
    expect(desk.locator(".gone").first).to_contain_text("is gone")
    assert desk.url == session
    desk.locator(".recording").get_by_role("button", name="Stop recording").click()
    expect(desk.locator(".recording")).to_have_count(0)
