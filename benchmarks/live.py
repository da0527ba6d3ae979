"""The live bench at scale: what a recorder costs, how soon twenty browsers see a reading, and what they cost."""

from __future__ import annotations

import json
import os
import re
import statistics
import subprocess
import sys
import threading
import time
import urllib.request
from dataclasses import dataclass, field

from django.test import Client
from django.urls import reverse

from muster.cli.bench import start_standins
from muster.instruments.link import Link
from muster.records.actions import recordings
from muster.records.actions.people import local_account
from muster.records.models import RecordingRow, SessionRow

from .measuring import Row, ms, seconds

INSTRUMENTS, EVERY_S = 4, 0.1
RECORD_S, WATCH_S, SETTLE_S = 20.0, 10.0, 3.0
VIEWERS, POLLS_HZ = 20, 2.0
TICKS = os.sysconf("SC_CLK_TCK")


def cpu_s(pid: int) -> float:
    """Processor time that a process has used [s]."""
    with open(f"/proc/{pid}/stat", encoding="ascii") as file:
        parts = file.read().rpartition(")")[2].split()
    return (int(parts[11]) + int(parts[12])) / TICKS


def share(pid: int, for_s: float) -> float:
    """Share of one core that a process uses over a while."""
    before, began = cpu_s(pid), time.perf_counter()
    time.sleep(for_s)
    return (cpu_s(pid) - before) / (time.perf_counter() - began)


@dataclass
class Viewer:
    """A browser that watches: how late each reading came [s]."""

    url: str
    zero: float
    late_s: list[float] = field(default_factory=list)

    def watch(self, until: float) -> None:
        """Read the stream until a time."""
        with urllib.request.urlopen(self.url, timeout=10) as stream:
            kind = ""
            for raw in stream:
                line = raw.decode()
                if time.time() > until:
                    return
                if line.startswith("event: "):
                    kind = line[7:].strip()
                elif line.startswith("data: ") and kind == "news":
                    times = [t for t, _ in json.loads(line[6:])["data"].values()]
                    if times:
                        self.late_s.append(time.time() - self.zero - max(t[-1] for t in times))


def _served() -> tuple[subprocess.Popen[str], str]:
    process = subprocess.Popen(
        [sys.executable, "-m", "muster", "up", "--port", "0"], stdout=subprocess.PIPE, text=True, env=dict(os.environ)
    )
    assert process.stdout is not None
    match = re.search(r"http://[\d.:]+", process.stdout.readline())
    assert match is not None
    return process, match[0]


def _watched(session: SessionRow, base: str, server: int) -> tuple[float, float]:
    """How late a reading is at the 95th percentile of all browsers [s], and the share of a core the server takes."""
    url = base + reverse("session-live", args=[session.source.job_id, session.pk])
    viewers = [Viewer(url, session.started_at.timestamp()) for _ in range(VIEWERS)]
    until = time.time() + SETTLE_S + WATCH_S
    threads = [threading.Thread(target=viewer.watch, args=(until,), daemon=True) for viewer in viewers]
    for thread in threads:
        thread.start()
    time.sleep(SETTLE_S)
    used = share(server, WATCH_S)
    for thread in threads:
        thread.join(10)
    late = [late for viewer in viewers for late in viewer.late_s[5:]]
    return statistics.quantiles(late, n=20)[-1], used


def rows(session: SessionRow) -> list[Row]:
    """A recorder of four instruments of twelve channels and more; twenty browsers on it; against pages that are polled."""
    standins, ports = start_standins()
    row = RecordingRow.objects.create(
        session=session,
        every_s=EVERY_S,
        created_by=local_account(),
        links={f"meter{i}": {"speaks": "sunspec", "port": ports["sunspec"]} for i in range(INSTRUMENTS)},
    )
    assert Link("sunspec", port=ports["sunspec"])
    recordings.launch(row)
    recorder = recordings._children[-1]
    server, base = _served()
    try:
        time.sleep(SETTLE_S)
        recorded = share(recorder.pid, RECORD_S)
        late_s, used = _watched(session, base, server.pid)
    finally:
        recordings.ask_stop(row)
        recorder.wait(30)
        server.terminate()
        server.wait(30)
        standins.terminate()
        standins.wait(30)
    client, page = Client(), reverse("session", args=[session.source.job_id, session.pk])
    polled_s = seconds(lambda: client.get(page, headers={"HX-Request": "true"}), 5)
    polled = polled_s * VIEWERS * POLLS_HZ
    kept = sum(trace.rows for trace in session.trace_rows.filter(instrument__startswith="meter"))
    return [
        Row(
            f"record {INSTRUMENTS} instruments x 13 channels at 10 Hz",
            "–",
            "–",
            f"{recorded * 100:.1f} % of a core, {kept:,} samples kept",
            None,
            "< 15 %",
            recorded < 0.15,
        ),
        Row(
            f"push to {VIEWERS} browsers at 10 Hz",
            f"each asks for the page {POLLS_HZ:g} times a second",
            f"{polled * 100:.0f} % of a core",
            f"{used * 100:.1f} % of a core",
            polled / used,
            "one stream",
            used < polled,
        ),
        Row(
            "from meter to browser, 95th percentile",
            f"asking {POLLS_HZ:g} times a second",
            ms(1 / POLLS_HZ),
            ms(late_s),
            1 / POLLS_HZ / late_s,
            "< 150 ms",
            late_s < 0.15,
        ),
    ]
