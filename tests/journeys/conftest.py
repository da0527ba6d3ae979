"""A real browser against a real server, with every request to elsewhere a failure."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from typing import Any
from urllib.parse import urlsplit

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Playwright, Request, Response, expect, sync_playwright

os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
CHROMIUM = next(filter(None, map(shutil.which, ("chromium-headless-shell", "chromium", "chromium-browser"))), None)
"""The headless shell where it is there: the whole browser draws its own frame too, at half a core."""
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
]


def see_to_gates(page: Page) -> None:
    """Tick every safety check that waits for it."""
    for box in page.locator("[name=confirmed]").all():
        box.check()


HERE = {"127.0.0.1", "localhost", ""}
PATIENCE_MS = 30_000
"""How long a page may take before it counts as not coming: a shared machine can stall for many seconds."""
expect.set_options(timeout=PATIENCE_MS)


@pytest.fixture(scope="session")
def playwright() -> Iterator[Playwright]:
    """The driver."""
    with sync_playwright() as driver:
        yield driver


@pytest.fixture(scope="session")
def browser(playwright: Playwright) -> Iterator[Browser]:
    """Debian's Chromium, headless."""
    assert CHROMIUM, "no Chromium: sh tools/chromium.sh installs it"
    running = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    yield running
    running.close()


class Watch:
    """Collects what must not happen: requests elsewhere, script errors, failed answers."""

    def __init__(self) -> None:
        self.wrong: list[str] = []

    def attach(self, context: BrowserContext) -> None:
        """Watch every page of a context."""
        context.on("request", self.request)
        context.on("response", self.response)
        context.on("weberror", lambda error: self.wrong.append(f"script: {error.error}"))
        context.on("console", lambda line: self.wrong.append(line.text) if line.type == "error" else None)

    def request(self, request: Request) -> None:
        """Any host but this machine is wrong."""
        if urlsplit(request.url).hostname not in HERE and not request.url.startswith(("data:", "blob:")):
            self.wrong.append(f"request to elsewhere: {request.url}")

    def response(self, response: Response) -> None:
        """An error page is wrong, whatever the test does to the network."""
        if response.status >= 500 or response.status == 404:
            self.wrong.append(f"error page: {response.status} at {response.url}")


def _page(browser: Browser, live_server: Any, *, may_fail: bool = False, **options: Any) -> Iterator[Page]:
    watch = Watch()
    context = browser.new_context(base_url=live_server.url, **options)
    context.set_default_timeout(PATIENCE_MS)
    watch.attach(context)
    yield context.new_page()
    context.close()
    wrong = [line for line in watch.wrong if line.startswith(("request", "error page"))] if may_fail else watch.wrong
    assert wrong == []


@pytest.fixture
def desk(browser: Browser, live_server: Any, transactional_db: None) -> Iterator[Page]:
    """A laptop beside the engine."""
    yield from _page(browser, live_server, viewport={"width": 1280, "height": 800})


@pytest.fixture
def phone(browser: Browser, live_server: Any, transactional_db: None) -> Iterator[Page]:
    """A phone in one hand."""
    yield from _page(browser, live_server, viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)


@pytest.fixture
def cut_off(browser: Browser, live_server: Any, transactional_db: None) -> Iterator[Page]:
    """A laptop whose requests the test will cut: failed answers are expected, requests elsewhere are not."""
    yield from _page(browser, live_server, may_fail=True, viewport={"width": 1280, "height": 800})
