"""The bench twin by the clock, and a recorder killed again and again."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys

from muster.core.supply import SYSTEMS
from muster.instruments.standins import demo_rig, serve
from muster.instruments.standins.rig import DEMO_LOADS
from muster.records.models import SessionRow
from muster.records.recording.recorder import recover
from muster.twin import Bench, Engine, EngineClaims

from .measuring import Row, seconds

STEADY_S = 600.0
KILLS = 200
AIM_X = 50


def _twin() -> Bench:
    bench = Bench(Engine(EngineClaims(5000, 120, 60, legs=2, no_load_hz=62)), SYSTEMS["split-120-240-60"], DEMO_LOADS)
    for key in ("1", "3", "5", "6"):
        bench.switch(key, on=True)
    bench.advance(5)
    return bench


def _killed(session: SessionRow) -> tuple[int, int]:
    """Samples acknowledged, and of those lost, over so many kills at random moments."""
    rng, served = random.Random(1911), serve(demo_rig())
    command = [
        sys.executable,
        "-m",
        "muster",
        "record",
        str(session.pk),
        "--every",
        "0.02",
        "--sunspec",
        f"127.0.0.1:{served.ports['sunspec']}",
    ]
    acknowledged = lost = 0
    for _ in range(KILLS):
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=dict(os.environ))
        assert process.stdout is not None
        said = sum(int(process.stdout.readline().split()[2]) for _ in range(rng.randint(1, 2)))
        process.send_signal(signal.SIGKILL)
        process.communicate()
        kept = sum(row.rows for row in recover(session))
        acknowledged, lost = acknowledged + said, lost + max(0, said - kept)
    served.stop()
    return acknowledged, lost


def rows(session: SessionRow) -> list[Row]:
    """The twin against the clock; acknowledged samples lost to kills."""
    bench = _twin()
    took = seconds(lambda: bench.advance(STEADY_S), 3)
    acknowledged, lost = _killed(session)
    return [
        Row(
            "bench twin, steady running",
            "real time",
            "1 s/s",
            f"{STEADY_S / took:,.0f} s/s",
            STEADY_S / took,
            f"≥ {AIM_X} × real time",
            took < STEADY_S / AIM_X,
        ),
        Row(
            f"kill -9 while recording, {KILLS} times",
            "",
            "–",
            f"{lost} of {acknowledged:,} acknowledged samples lost",
            None,
            "0 lost in 200 kills",
            lost == 0,
        ),
    ]
