"""Long work beside the requests, on a real server: filled in when it is ready, stopped, and told when its worker dies."""

from __future__ import annotations

import os
import re
import signal
import sqlite3
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from muster.core.brief import Brief
from muster.core.loads import Duty
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS
from muster.formats.jobfile import JobFile, SourceRecord
from muster.formats.jobzip import JobPackage
from muster.formats.jobzip_out import write_package
from tests.core.build import load
from tests.records.test_files_of_before import FILES
from tests.serving import Answer, Browser, Serving

LONG = tuple(load(str(i), f"pump {i}", "motor", 400, duty=Duty(0.5, 0.5)) for i in range(9))
"""Loads that switch half a million times in two weeks: minutes of work."""


def job_file(name: str, loads: tuple = LONG) -> bytes:  # type: ignore[type-arg]
    brief = Brief(system=SYSTEMS["single-230-50"], outage_h=336)
    source = SourceRecord(Source("the set", SourceKind.OPEN_FRAME, Claims(cont_w=3000)))
    return write_package(JobPackage(JobFile(name, brief, loads, (source,))))


@pytest.fixture(scope="module")
def serving(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Serving, Path]]:
    folder = tmp_path_factory.mktemp("working")
    with Serving(folder) as running:
        running.first = running.browser()  # type: ignore[attr-defined]
        yield running, folder


def browser(serving: tuple[Serving, Path]) -> Browser:
    found: Browser = serving[0].first  # type: ignore[attr-defined]
    return found


def brought_in(at: Browser, name: str, data: bytes) -> str:
    """The address of a job whose file was sent, once it is read."""
    at.get("/jobs/new/")
    sent = at.post("/jobs/import/", file=("job.muster.json", data))
    there = at.until(sent.url, lambda answer: "/brief/" in answer.url)
    assert name in there.text
    return there.url.rsplit("brief/", 1)[0]


def being_done(folder: Path) -> tuple[int, int] | None:
    """The work that a worker has in hand: its row and the worker's process."""
    with sqlite3.connect(folder / "muster.sqlite3") as database:
        found: tuple[int, int] | None = database.execute(
            "select id, pid from records_workrow where state = 'working' and task = 'demand' order by id desc"
        ).fetchone()
        return found


def in_hand(at: Browser, page: str, folder: Path) -> tuple[int, int]:
    """Look at a page until a worker has taken up what it waits for."""
    at.until(page, lambda answer: being_done(folder) is not None)
    found = being_done(folder)
    assert found is not None
    return found


def waits(answer: Answer) -> bool:
    return 'class="waiting"' in answer.text


def test_a_page_shows_what_is_known_and_the_rest_when_it_is_ready(serving: tuple[Serving, Path]) -> None:
    at = browser(serving)
    home = brought_in(at, "The pilot house", (FILES / "sealed-2.muster.zip").read_bytes())
    first = at.get(f"{home}verdict/")
    assert waits(first)
    assert "can it carry The pilot house" in first.text
    assert not waits(at.until(f"{home}verdict/", lambda answer: not waits(answer)))
    assert "Steady capacity" in at.get(f"{home}verdict/").text
    at.until(f"{home}findings/", lambda answer: "Session by session" in answer.text)


def test_a_worker_that_dies_is_told_replaced_and_takes_nothing_with_it(serving: tuple[Serving, Path]) -> None:
    at, folder = browser(serving), serving[1]
    page = brought_in(at, "Restless", job_file("Restless")) + "day/"
    row, pid = in_hand(at, page, folder)
    os.kill(pid, signal.SIGKILL)
    told = at.until(page, lambda answer: "failed" in answer.text)
    assert "its worker ended in the middle (signal 9)" in told.text
    assert at.get("/").status == 200
    again = re.search(r"/work/\d+/again/", told.text)
    assert again is not None
    at.post(again.group(), {"next": page})
    other, new_pid = in_hand(at, page, folder)
    assert other == row
    assert new_pid != pid
    stop_all(at, page, folder)


def stop_all(at: Browser, page: str, folder: Path) -> None:
    while (found := being_done(folder)) is not None:
        at.post(f"/work/{found[0]}/stop/", {"next": page})


def test_long_work_is_stopped_from_its_page_and_the_next_is_done(serving: tuple[Serving, Path]) -> None:
    at, folder = browser(serving), serving[1]
    page = brought_in(at, "Restless again", job_file("Restless again", LONG[:8])) + "day/"
    row, _ = in_hand(at, page, folder)
    at.post(f"/work/{row}/stop/", {"next": page})
    assert "was stopped" in at.until(page, lambda answer: "was stopped" in answer.text).text
    stop_all(at, page, folder)
    calm = brought_in(at, "Calm", job_file("Calm", (replace(LONG[0], duty=Duty(30, 30)),)))
    assert "Highest minute" in at.until(f"{calm}day/", lambda answer: not waits(answer)).text


def test_the_best_sets_of_many_loads_are_searched_for_beside_the_page(serving: tuple[Serving, Path]) -> None:
    at = browser(serving)
    many = tuple(load(str(i), f"lamp {i}", "electronic", 100 + i) for i in range(40))
    page = brought_in(at, "Forty lamps", job_file("Forty lamps", many)) + "sheet/stacks/"
    first = at.get(page)
    assert waits(first)
    assert "If one more were switched on now" in first.text
    assert "best sets that hold" in at.until(page, lambda answer: not waits(answer)).text


def test_a_job_that_cannot_be_read_is_told_on_its_page(serving: tuple[Serving, Path]) -> None:
    at = browser(serving)
    at.get("/jobs/new/")
    sent = at.post("/jobs/import/", file=("job.muster.zip", b"PK\x03\x04 and then nothing"))
    told = at.until(sent.url, lambda answer: "failed" in answer.text)
    assert "the zip is damaged" in told.text
    assert "Try again" not in told.text


def test_a_job_file_is_written_and_fetched_once(serving: tuple[Serving, Path]) -> None:
    at = browser(serving)
    home = brought_in(at, "The pilot house", (FILES / "sealed-2.muster.zip").read_bytes())
    asked = at.get(f"{home}file/")
    ready = at.until(asked.url, lambda answer: "The file is written" in answer.text)
    address = re.search(r"/work/\d+/file/", ready.text)
    assert address is not None
    assert at.get(address.group()).text.startswith("PK")
    assert at.get(address.group()).status == 422
