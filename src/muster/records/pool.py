"""The workers: a few processes that do what the table of work asks, watched and replaced by the server.

A worker that dies takes nothing with it but its piece of work, which is told
so. A worker ends by itself when its server does: its standard input closes.
"""

from __future__ import annotations

import contextlib
import os
import selectors
import signal
import subprocess
import sys
import threading
import time
from typing import BinaryIO

from django.db import close_old_connections, connection

from . import background, folder
from .models import WorkRow

WORKERS = 2
"""At most so many; the first is there from the beginning, the others when something waits that no one takes."""
NICE = 10
"""Work gives way to what records and what answers."""
LOOK_S = 0.05
"""So often a worker looks whether anything was written, which costs microseconds."""
STOP_S = 1.0
"""Work that does not heed a stop within so long loses its worker."""
AGAIN_S = (0.0, 0.0, 0.5, 2.0, 5.0)
"""A worker that dies young is replaced ever more slowly."""
YOUNG_S = 5.0


class _Worker:
    """One worker process, replaced when it dies."""

    def __init__(self) -> None:
        self.process: subprocess.Popen[bytes] | None = None
        self.deaths = 0
        self.born = self.due = 0.0
        self.stop_seen: float | None = None

    def start(self) -> None:
        """Begin a new process."""
        self.process = subprocess.Popen(
            [sys.executable, "-m", "muster", "work"],
            stdin=subprocess.PIPE,
            env=folder.environment(),
            start_new_session=True,
        )
        self.born = time.monotonic()

    def look(self) -> None:
        """Replace it if it died; take it away from work that does not heed a stop."""
        now = time.monotonic()
        if self.process is None:
            if now >= self.due:
                self.start()
            return
        ended = self.process.poll()
        if ended is not None:
            self._died(self.process, ended, now)
        else:
            self._heed(self.process, now)

    def _died(self, process: subprocess.Popen[bytes], ended: int, now: float) -> None:
        from . import tasks  # noqa: F401 - what is put right when one is broken off

        why = f"signal {-ended}" if ended < 0 else f"exit {ended}"
        for row in WorkRow.objects.filter(state=WorkRow.State.WORKING, pid=process.pid):
            if row.stop_asked:
                background.broken_off(row, "", WorkRow.State.STOPPED)
            else:
                background.broken_off(row, f"its worker ended in the middle ({why}); nothing of it was kept")
        self.deaths = self.deaths + 1 if now - self.born < YOUNG_S else 0
        self.due = now + AGAIN_S[min(self.deaths, len(AGAIN_S) - 1)]
        self.process, self.stop_seen = None, None

    def _heed(self, process: subprocess.Popen[bytes], now: float) -> None:
        asked = WorkRow.objects.filter(state=WorkRow.State.WORKING, pid=process.pid, stop_asked=True).exists()
        if not asked:
            self.stop_seen = None
        elif self.stop_seen is None:
            self.stop_seen = now
        elif now - self.stop_seen > STOP_S:
            process.kill()

    def end(self) -> None:
        """Let it go."""
        if self.process is not None:
            if self.process.stdin is not None:
                self.process.stdin.close()
            with contextlib.suppress(subprocess.TimeoutExpired):
                self.process.wait(1)
            self.process.kill()
            self.process.wait()


class Pool:
    """Keeps the workers alive from a thread of its own."""

    def __init__(self, count: int = WORKERS) -> None:
        self._workers = [_Worker() for _ in range(count)]
        self._ending = threading.Event()
        self._thread = threading.Thread(target=self._watch, name="muster-pool", daemon=True)

    def __enter__(self) -> Pool:
        background.set_beside(on=True)
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ending.set()
        self._thread.join(10)
        background.set_beside(on=False)

    @property
    def pids(self) -> list[int]:
        """The workers that are there."""
        return [worker.process.pid for worker in self._workers if worker.process is not None]

    def _look(self) -> None:
        waits = WorkRow.objects.filter(state=WorkRow.State.WAITING).exists()
        for number, worker in enumerate(self._workers):
            if number == 0 or worker.process is not None or waits:
                worker.look()

    def _watch(self) -> None:
        try:
            while not self._ending.wait(0.1):
                with contextlib.suppress(Exception):  # a database that is busy or full is looked at again
                    self._look()
        finally:
            for worker in self._workers:
                worker.end()
            connection.close()


def work(told: BinaryIO) -> None:
    """Do what is wanted until ``told``, a worker's standard input, ends: its server is gone then."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.nice(NICE)
    _get_ready()
    with selectors.DefaultSelector() as ended:
        ended.register(told, selectors.EVENT_READ)
        version = -1
        while not ended.select(LOOK_S):
            before, version = version, _version()
            if version != before:
                _do_all()


def _do_all() -> None:
    while (row := background.claim(os.getpid())) is not None:
        with contextlib.suppress(Exception):  # its row says what went wrong
            background.do(row)
        close_old_connections()


def _version() -> int:
    """Changes when anybody else writes to the database."""
    with connection.cursor() as cursor:
        result: int = cursor.execute("PRAGMA data_version").fetchone()[0]
    return result


def _get_ready() -> None:
    from muster.core.outage import play
    from muster.core.outage.simulate import warm

    from . import tasks  # noqa: F401 - every kind of work is known from here on

    warm()
    play.warm()
