"""The bench heals: a recorder killed beside a running server is at work again, and the record tells the truth about it."""

from __future__ import annotations

import json
import os
import re
import signal
import sqlite3
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from tests.serving import TRIES, Browser, Serving


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Browser, Path]]:
    """The demo, served with its stand-ins, from an empty folder."""
    folder = tmp_path_factory.mktemp("demo")
    with Serving(folder, "demo") as running:
        yield running.browser(), folder / "demo.sqlite3"


def ask(path: Path, question: str, *values: object) -> list[tuple]:  # type: ignore[type-arg]
    with sqlite3.connect(path) as database:
        return database.execute(question, values).fetchall()


def until(at: Browser, true: Callable[[], bool]) -> None:
    """Ask for a page until something is so: each asking takes its time."""
    for _ in range(TRIES):
        if true():
            return
        at.get("/help/")
    raise AssertionError("it never came")


def begun(at: Browser, path: Path) -> tuple[str, int]:
    """The bench page of a session of the hybrid inverter that is being recorded, and its number."""
    ((source, job),) = ask(path, "select id, job_id from records_sourcerow where name = 'the hybrid inverter'")
    page = at.get(f"/jobs/{job}/bench/?source={source}&protocol=endurance").text
    ticked = [
        a or b
        for a, b in re.findall(r'name="confirmed"[^>]*value="([^"]+)"|value="([^"]+)"[^>]*name="confirmed"', page)
    ]
    there = at.post(f"/jobs/{job}/bench/", {"source": str(source), "protocol": "endurance", "confirmed": ticked})
    session = ask(path, "select max(id) from records_sessionrow where closed_at is null")[0][0]
    assert f"/bench/{session}/" in there.url, there.text[-4000:]
    strip = ask(path, "select id, outlets from records_striprow")[0]
    hung = json.loads(strip[1])[str(job)]
    form = {
        "instruments": ["meter", "recorder"],
        "every_s": "0.2",
        "strip": str(strip[0]),
        **{f"outlet_{k}": str(v) for k, v in hung.items()},
    }
    at.post(f"{there.url}record/", form)
    until(
        at,
        lambda: bool(
            ask(path, "select 1 from records_recordingrow where session_id = ? and state = 'running'", session)
        ),
    )
    return there.url, session


def test_a_killed_recorder_is_started_again_its_gap_shown_and_its_loads_off(demo: tuple[Browser, Path]) -> None:
    at, path = demo
    page, session = begun(at, path)
    at.post(f"{page}switch/", {"load": "4", "on": "1"})
    until(at, lambda: "Recording 2" in at.get(page).text)
    (pid,) = ask(path, "select pid from records_recordingrow where session_id = ?", session)[0]
    until(
        at,
        lambda: bool(
            ask(
                path,
                "select 1 from records_liverow join records_tracerow t on t.id = trace_id where t.session_id = ?",
                session,
            )
        ),
    )
    os.kill(pid, signal.SIGKILL)
    until(
        at,
        lambda: (
            ask(path, "select pid from records_recordingrow where session_id = ? and state = 'running'", session)
            not in ([(pid,)], [])
        ),
    )
    raws = [raw for (raw,) in ask(path, "select raw from records_entryrow where session_id = ? order by seq", session)]
    assert "all off: the recorder died, the strip’s watchdog dropped them" in raws
    items = json.dumps(
        [json.loads(i) for (i,) in ask(path, "select items from records_entryrow where session_id = ?", session)]
    )
    assert "was started again" in items
    until(at, lambda: "Recording 2" in at.get(page).text)
    at.post(f"{page}record/stop/")
    until(
        at,
        lambda: bool(ask(path, "select 1 from records_recordingrow where session_id = ? and state = 'ended'", session)),
    )
    traces = ask(path, "select instrument, staged from records_tracerow where session_id = ?", session)
    assert sorted(traces) == [("meter", 0), ("recorder", 0)]
