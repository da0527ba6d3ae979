"""Serving: static files over ASGI, the command line, loopback only, and a demo that starts and stops."""

from __future__ import annotations

import asyncio
import gzip
import os
import re
import signal
import socket
import subprocess
import sys
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pytest

from muster import cli
from muster.cli import serve
from muster.web.static_route import StaticRoute
from muster.web.ui.middleware import is_loopback
from tests.examples import PROVING


async def _elsewhere(scope: Any, receive: Any, send: Any) -> None:
    await send({"type": "http.response.start", "status": 299, "headers": []})
    await send({"type": "http.response.body", "body": b"elsewhere"})


def _ask(path: str, method: str = "GET", headers: dict[str, str] | None = None) -> tuple[int, dict[str, str], bytes]:
    sent: list[dict[str, Any]] = []

    async def send(message: dict[str, Any]) -> None:
        sent.append(message)

    async def receive() -> dict[str, Any]:
        return {"type": "http.request"}

    raw = [(k.lower().encode(), v.encode()) for k, v in (headers or {}).items()]
    scope = {"type": "http", "path": path, "method": method, "headers": raw}
    # In a thread of its own: the browser tests of the same run keep an event loop in this one.
    with ThreadPoolExecutor(1) as pool:
        pool.submit(lambda: asyncio.run(StaticRoute(_elsewhere)(scope, receive, send))).result()
    found = {name.decode(): value.decode() for name, value in sent[0]["headers"]}
    return sent[0]["status"], found, sent[1]["body"]


def test_styles_fonts_and_scripts_are_served_by_muster_itself() -> None:
    for path, kind in (
        ("/static/styles/base.css", "text/css"),
        ("/static/keys.js", "text/javascript"),
        ("/static/vendor/hyperlegible-next.woff2", "font/woff2"),
        ("/static/django_htmx/htmx-2.min.js", "text/javascript"),
    ):
        status, headers, body = _ask(path)
        assert status == 200
        assert headers["content-type"].startswith(kind)
        assert len(body) == int(headers["content-length"])


def test_a_file_not_changed_is_not_sent_again() -> None:
    _, headers, _ = _ask("/static/styles/base.css")
    status, _, body = _ask("/static/styles/base.css", headers={"If-None-Match": headers["etag"]})
    assert (status, body) == (304, b"")


def test_what_is_not_a_static_file_goes_to_the_pages() -> None:
    assert _ask("/static/../settings.py")[0] == 299
    assert _ask("/jobs/")[0] == 299
    assert _ask("/static/styles/base.css", method="POST")[0] == 299


@pytest.mark.parametrize(
    ("address", "own"),
    [("127.0.0.1", True), ("127.8.9.1", True), ("::1", True), ("192.0.2.1", False), ("", False), ("x", False)],
)
def test_only_this_machine_is_signed_in_by_itself(address: str, own: bool) -> None:
    assert is_loopback(address) is own


def test_a_taken_port_is_passed_over() -> None:
    with socket.socket() as taken:
        try:
            taken.bind(("127.0.0.1", serve.FIRST_PORT))
            taken.listen()
        except OSError:
            pass
        with serve._socket(None) as first, serve._socket(0) as other:
            assert len({serve.FIRST_PORT, serve._port(first), serve._port(other)}) == 3


def test_the_command_line_teaches(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as stopped:
        cli.main(["--help"])
    assert stopped.value.code == 0
    assert "demo" in capsys.readouterr().out
    with pytest.raises(SystemExit) as wrong:
        cli.main(["launch"])
    assert wrong.value.code == 2


def test_a_demo_starts_says_where_it_is_answers_and_stops_at_ctrl_c(tmp_path: Path) -> None:
    environment = {**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)}
    environment.pop("DJANGO_SETTINGS_MODULE", None)
    running = subprocess.Popen(
        [sys.executable, "-m", "muster", "demo", "--port", "0", "--data", str(tmp_path)],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        env=environment,
    )
    try:
        assert running.stdout is not None
        address = re.search(r"http://127\.0\.0\.1:\d+/", running.stdout.readline())
        assert address is not None
        answer = _when_up(address.group())
        assert b"The Ferry House" in answer
    finally:
        running.send_signal(signal.SIGINT)
        _, errors = running.communicate(timeout=20)
    assert running.returncode == 0
    assert "Traceback" not in errors
    assert {path.name for path in tmp_path.iterdir()} >= {"demo.sqlite3", "secret.txt"}


def _when_up(address: str) -> bytes:
    """The page, once the server listens; a refused connection is tried again at once, a bounded number of times."""
    for _ in range(200_000):
        try:
            with urllib.request.urlopen(address, timeout=20) as page:
                body: bytes = page.read()
        except urllib.error.URLError:
            continue
        return gzip.decompress(body) if body[:2] == b"\x1f\x8b" else body
    raise AssertionError("the demo never listened")


SMALL = ("1_net_loft", "2_signal_cottage", "5_six_sets")


def test_the_demo_files_are_what_their_generator_writes() -> None:
    """Figures, slips and logs; the compressed bytes may differ between zlib versions. The small ones, all in ``make prove``."""
    from muster.formats.jobfile import job_text
    from muster.formats.jobzip import read_package_file
    from muster.formats.logs.writing import trace_csv
    from tools.demo.__main__ import HOMES, TARGET, packages

    for name, package in packages(HOMES if PROVING else SMALL).items():
        kept = read_package_file(TARGET / f"{name}{package.suffix}")
        assert job_text(kept.job) == job_text(package.job)
        assert {f: trace_csv(t) for f, t in kept.traces.items()} == {f: trace_csv(t) for f, t in package.traces.items()}


def test_the_demo_has_three_homes_every_source_and_two_complete_sessions_of_each() -> None:
    from muster.formats.jobzip import read_package_file
    from tools.demo.__main__ import TARGET

    shipped = [read_package_file(path) for path in sorted(TARGET.glob("*.muster.zip"))]
    homes = {package.job.name: package for package in shipped}
    assert set(homes) == {"The Ferry House", "Signal Cottage", "The Net Loft"}
    every = [record for package in homes.values() for record in package.job.sources]
    sources = [record for record in every if record.elsewhere is None]
    assert (len(sources), len(every)) == (9, 10), "and one that was measured in another home"
    assert all(sum(1 for kept in record.sessions if kept.closed_at) >= 2 for record in sources)
    assert all(package.traces for package in homes.values())
