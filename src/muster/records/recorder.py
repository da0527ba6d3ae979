"""The recorder: instruments read at their rate into traces, a second at a time, each committed before it is acknowledged.

It runs in a process of its own. Killed at any moment it has lost at most what
it had not acknowledged; ``recover`` makes whole traces of what is there.
"""

from __future__ import annotations

import queue
import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np
from django.contrib.auth.models import AbstractUser
from django.db import DatabaseError, connection, transaction

from muster.core.errors import MusterError
from muster.core.traces import Channel
from muster.core.traces.trace import Floats, Samples
from muster.instruments import Driver, Garbled, NoAnswer

from .actions.traces import DOUBLE, SINGLE, BlockWriter, drop_staged, stage
from .models import BEING_RECORDED, LiveRow, SessionRow, TraceRow

STILL_S = 10.0
"""A recorder commits each second: one that has not for so long is not at work."""
AGAIN_S = 1.0
"""After a fault an instrument is tried again so often."""


@dataclass(frozen=True)
class Told:
    """What the recorder says as it goes: samples on disk, an instrument gone or back, or why it stopped."""

    what: str
    instrument: str = ""
    rows: int = 0
    words: str = ""


@dataclass
class _Line:
    """One instrument being read in a thread of its own; what it read waits in ``heard``."""

    slug: str
    driver: Driver
    every_s: float
    clock: Callable[[], float]
    heard: queue.SimpleQueue[tuple[float, dict[Channel, float]]] = field(default_factory=queue.SimpleQueue)
    said: queue.SimpleQueue[Told] = field(default_factory=queue.SimpleQueue)
    stop: threading.Event = field(default_factory=threading.Event)
    gone: bool = False

    def run(self) -> None:
        """Read at its rate until it is stopped; a fault is said once, and so is its end."""
        due = self.clock()
        while not self.stop.is_set():
            wait = AGAIN_S if self.gone else self.every_s
            try:
                seen = self.driver.read()
                self.heard.put((self.clock(), {one.channel: one.value for one in seen}))
                if self.gone:
                    self.gone = False
                    self.said.put(Told("back", self.slug))
            except (NoAnswer, Garbled) as error:
                if not self.gone:
                    self.gone = True
                    self.said.put(Told("gone", self.slug, words=str(error)))
            due = max(due + wait, self.clock())
            self.stop.wait(max(0.0, due - self.clock()))
        self.driver.close()


class Recorder:
    """Records instruments into a session's traces.

    ``flush`` commits what was read and returns what is then on disk; only
    that is acknowledged. Times are seconds after the session began, by this
    machine's clock, for every instrument alike.
    """

    def __init__(
        self, session: SessionRow, drivers: Mapping[str, Driver], who: AbstractUser, every_s: float = 0.5,
        clock: Callable[[], float] = time.time,
    ) -> None:  # fmt: skip
        self.session = session
        self._zero = session.started_at.timestamp()
        self.rows: dict[str, TraceRow] = {}
        self._lines = [_Line(slug, driver, every_s, clock) for slug, driver in drivers.items()]
        for slug, driver in drivers.items():
            driver.open()
            row = stage(session, f"{driver.name}, recorded", slug, driver.channels, who)
            row.notes = [BEING_RECORDED]
            row.save(update_fields=["notes"])
            self.rows[slug] = row
        self._threads = [threading.Thread(target=line.run, name=line.slug, daemon=True) for line in self._lines]

    def start(self) -> None:
        """Begin to read."""
        for thread in self._threads:
            thread.start()

    def flush(self) -> list[Told]:
        """Commit everything read so far, in one short transaction; what is told is on disk.

        Raises
        ------
        MusterError
            If the disk takes no more: what was acknowledged before stays.
        """
        told, rows = [], []
        for line in self._lines:
            while not line.said.empty():
                told.append(line.said.get())
            taken = self._taken(line)
            if taken is not None:
                rows.append((self.rows[line.slug], taken))
        try:
            with transaction.atomic():
                for trace, (times, samples) in rows:
                    LiveRow.objects.create(trace=trace, times=times.astype(DOUBLE).tobytes(), samples=samples.tobytes())
        except DatabaseError as error:
            raise MusterError(
                f"nothing more can be kept: {error}", where="disk", want="room on the disk; what was kept stays"
            ) from None
        return told + [Told("kept", trace.instrument, times.size) for trace, (times, _) in rows]

    def _taken(self, line: _Line) -> tuple[Floats, Samples] | None:
        heard = []
        while not line.heard.empty():
            heard.append(line.heard.get())
        if not heard:
            return None
        times = np.array([at - self._zero for at, _ in heard])
        figures = [[seen.get(channel, np.nan) for _, seen in heard] for channel in line.driver.channels]
        return times, np.array(figures, dtype=SINGLE)

    def finish(self) -> list[TraceRow]:
        """Stop reading, keep the last of it, and make whole traces."""
        for line in self._lines:
            line.stop.set()
        for thread in self._threads:
            if thread.is_alive():
                thread.join()
        self.flush()
        connection.close()
        return recover(self.session)


def recording(session: SessionRow) -> list[TraceRow]:
    """The traces of a session that a recorder fills, or was filling when it was killed."""
    return list(session.trace_rows.filter(staged=True, notes=[BEING_RECORDED]))


def still_at_work(session: SessionRow, now_s: float) -> bool:
    """Whether a recorder seems to be filling this session's traces: something was committed within the last seconds.

    ``now_s`` is the time of this machine's clock [s since 1970].
    """
    latest = LiveRow.objects.filter(trace__in=recording(session)).order_by("-pk").first()
    if latest is None:
        return False
    last_s = float(np.frombuffer(latest.times, dtype=DOUBLE)[-1])
    return now_s - (session.started_at.timestamp() + last_s) < STILL_S


def recover(session: SessionRow) -> list[TraceRow]:
    """Make whole traces of what a recorder acknowledged, stopped or killed; gaps stay gaps.

    All of a trace or nothing, in one transaction: killed in the midst of it,
    it can be done again. A trace of which nothing was read is forgotten.

    Raises
    ------
    Refused
        If the session was sealed.
    """
    done = []
    for row in recording(session):
        if not row.live_rows.exists():
            drop_staged(row)
            continue
        with transaction.atomic():
            writer = BlockWriter(row)
            for live in row.live_rows.all().iterator(chunk_size=500):
                times = np.frombuffer(live.times, dtype=DOUBLE)
                samples = np.frombuffer(live.samples, dtype=SINGLE).reshape(len(row.channels), -1)
                writer.take(times, samples)
            done.append(writer.finish(["recorded"]))
            row.live_rows.all().delete()
    return done
