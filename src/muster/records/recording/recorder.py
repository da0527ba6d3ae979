"""The recorder: instruments read at their rate into traces, a moment at a time, each committed before it is acknowledged.

It runs in a process of its own. Killed at any moment it has lost at most what
it had not acknowledged; ``recover`` makes whole traces of what is there.
"""

from __future__ import annotations

import contextlib
import math
import queue
import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np
from django.contrib.auth.models import AbstractUser
from django.db import DatabaseError, connection, transaction

from muster.core.errors import MusterError
from muster.core.timeline.traces import Channel
from muster.core.timeline.traces.trace import Floats, Samples
from muster.instruments.driver import Driver, Garbled, NothingThere
from muster.instruments.lines import LineDriver

from ..actions.traces import DOUBLE, SINGLE, BlockWriter, channels_of, drop_staged, live_samples, span_of, stage
from ..models import BEING_RECORDED, LiveRow, SessionRow, TraceRow

STILL_S = 10.0
"""A recorder commits each second: one that has not for so long is not at work."""
ASLEEP_S = 2.0
"""Between two of the machine's clocks so much apart lies a sleep (or a clock put forward)."""
AGAIN_S = 1.0
"""After a fault an instrument is tried again so often."""
MISSES = 2
"""So many answers missed in a row are silence: one may be lost on the way, and is asked for again at once."""
ENDS_S = 5.0
"""An instrument in the midst of an answer is waited for so long at the end."""


@dataclass(frozen=True)
class RecorderMessage:
    """What the recorder says as it goes: samples on disk, an instrument gone or back, or why it stopped."""

    what: str
    instrument: str = ""
    rows: int = 0
    label: str = ""


class SteadyClock:
    """This machine's clock as it stood at first, carried on by one that never steps; ``slept`` tells what it slept through."""

    def __init__(self, wall: Callable[[], float] = time.time, steady: Callable[[], float] = time.monotonic) -> None:
        self._wall, self._steady = wall, steady
        self._ahead = wall() - steady()

    def __call__(self) -> float:
        """Now [s since 1970], never running back."""
        return self._ahead + self._steady()

    def slept(self) -> float:
        """Seconds that the machine slept since it was last asked: the steady clock stands still meanwhile."""
        missed = self._wall() - self()
        if missed < ASLEEP_S:
            return 0.0
        self._ahead += missed
        return missed


LARGEST = float(np.finfo(np.float32).max)


def _is_a_figure(value: float) -> bool:
    """Whether a reading is a number that can be kept; infinity and nonsense are gaps."""
    return math.isfinite(value) and abs(value) <= LARGEST


def _as_fault(error: Exception) -> MusterError:
    """Whatever an instrument's answer made fail, in words."""
    if isinstance(error, MusterError):
        return error
    return Garbled(
        f"its answer cannot be used ({type(error).__name__}: {error})"[:200], want="the protocol it was said to speak"
    )


@dataclass
class _Line:
    """One instrument being read in a thread of its own; what it read waits in ``heard``."""

    slug: str
    driver: Driver
    every_s: float
    clock: Callable[[], float]
    heard: queue.SimpleQueue[tuple[float, dict[Channel, float]]] = field(default_factory=queue.SimpleQueue)
    said: queue.SimpleQueue[RecorderMessage] = field(default_factory=queue.SimpleQueue)
    stop: threading.Event = field(default_factory=threading.Event)
    gone: bool = False

    def open(self, *, patient: bool) -> None:
        """Connect; a ``patient`` recorder begins without an instrument that does not answer yet."""
        try:
            self.driver.open()
        except Exception as error:
            if not patient:
                raise
            self._lost(_as_fault(error))

    def _lost(self, error: MusterError) -> None:
        if not self.gone:
            self.gone = True
            self.said.put(RecorderMessage("gone", self.slug, label=str(error)))

    def run(self) -> None:
        """Read at its rate until it is stopped; a fault is said once, and so is its end."""
        due, missed = self.clock(), 0
        while not self.stop.is_set():
            asked = self.clock()
            try:
                seen = self.driver.read()
                self.heard.put(
                    (self._moment(asked), {item.channel: item.value for item in seen if _is_a_figure(item.value)})
                )
                missed = 0
                if self.gone:
                    self.gone = False
                    self.said.put(RecorderMessage("back", self.slug))
            except Exception as error:  # one bad instrument never stops the others, nor itself
                missed += 1
                if missed >= MISSES or isinstance(error, NothingThere):
                    self._lost(_as_fault(error))
            wait = AGAIN_S if self.gone else 0.0 if missed else self.every_s
            due = max(due + wait, self.clock())
            self.stop.wait(max(0.0, due - self.clock()))
        with contextlib.suppress(Exception):
            self.driver.close()

    def _moment(self, asked: float) -> float:
        """When figures stood: half way between question and answer; at their arrival for one that talks by itself."""
        now = self.clock()
        return now if isinstance(self.driver, LineDriver) else (asked + now) / 2


class Recorder:
    """Records instruments into a session's traces.

    ``flush`` commits what was read and returns what is then on disk; only
    that is acknowledged. Whole minutes are moved into blocks on the way, in
    the same transaction. Times are seconds after the session began, by this
    machine's clock, for every instrument alike. A ``patient`` recorder begins
    without an instrument that does not answer yet.
    """

    def __init__(
        self,
        session: SessionRow,
        drivers: Mapping[str, Driver],
        who: AbstractUser,
        every_s: float = 0.5,
        clock: Callable[[], float] = time.time,
        *,
        patient: bool = False,
    ) -> None:
        self.session = session
        self._who = who
        self._zero = session.started_at.timestamp()
        self._kept: dict[str, _Kept] = {}
        self.latest: dict[str, dict[Channel, float]] = {}
        self._lines = [
            _Line(slug=slug, driver=driver, every_s=every_s, clock=clock) for slug, driver in drivers.items()
        ]
        for line in self._lines:
            line.open(patient=patient)
            if not line.gone:
                self._stage(line)
        self._threads = [threading.Thread(target=line.run, name=line.slug, daemon=True) for line in self._lines]

    @property
    def rows(self) -> dict[str, TraceRow]:
        """The trace that each instrument is recorded into."""
        return {slug: kept.row for slug, kept in self._kept.items()}

    def _stage(self, line: _Line) -> _Kept:
        """Where an instrument's samples go: on in the trace that a recorder before this one was filling, else into a new one."""
        headings = [channel.heading for channel in line.driver.channels]
        for row in recording(self.session):
            if row.instrument == line.slug and row.channels == headings:
                self._kept[line.slug] = _Kept.resumed(row, line.every_s)
                return self._kept[line.slug]
        name = line.driver.name or line.slug
        row = stage(self.session, f"{name}, recorded", line.slug, line.driver.channels, self._who)
        row.notes = [BEING_RECORDED]
        row.save(update_fields=["notes"])
        self._kept[line.slug] = _Kept(row, BlockWriter(row, line.every_s or None))
        return self._kept[line.slug]

    def start(self) -> None:
        """Begin to read."""
        for thread in self._threads:
            thread.start()

    def flush(self) -> list[RecorderMessage]:
        """Commit everything read so far, in one short transaction; what is told is on disk.

        Raises
        ------
        MusterError
            If the disk takes no more: what was acknowledged before stays.
        """
        told: list[RecorderMessage] = []
        taken = []
        for line in self._lines:
            while not line.said.empty():
                told.append(line.said.get())
            heard = [line.heard.get() for _ in range(line.heard.qsize())]
            if heard:
                taken.append((line, heard))
                self.latest[line.slug] = heard[-1][1]
        if not taken:
            return told
        try:
            with transaction.atomic():
                for line, heard in taken:
                    kept = self._kept.get(line.slug) or self._stage(line)
                    if shift_s := kept.keep(*self._samples(line, kept, heard)):
                        told.append(RecorderMessage("clock", line.slug, label=f"{shift_s:.1f}"))
                    told.append(RecorderMessage("kept", line.slug, len(heard)))
        except DatabaseError as error:
            raise MusterError(
                f"nothing more can be kept: {error}", where="disk", want="room on the disk; what was kept stays"
            ) from None
        return told

    def _samples(
        self, line: _Line, kept: _Kept, heard: list[tuple[float, dict[Channel, float]]]
    ) -> tuple[Floats, Samples]:
        times = np.array([at - self._zero for at, _ in heard])
        figures = [[seen.get(channel, np.nan) for _, seen in heard] for channel in kept.channels]
        return times, np.array(figures, dtype=SINGLE)

    def finish(self) -> list[TraceRow]:
        """Stop reading, keep the last of it, and make whole traces."""
        for line in self._lines:
            line.stop.set()
        for thread in self._threads:
            if thread.is_alive():
                thread.join(ENDS_S)
        self.flush()
        connection.close()
        return recover(self.session)


@dataclass
class _Kept:
    """Where an instrument's samples go: live rows until a minute is whole, then a block."""

    row: TraceRow
    writer: BlockWriter
    shift_s: float = 0.0
    last_s: float = -math.inf

    @classmethod
    def resumed(cls, row: TraceRow, every_s: float) -> _Kept:
        """Go on where a recorder that died left a trace: what it had acknowledged stays, the gap shows."""
        writer = BlockWriter.resumed(row, every_s or None)
        for times, samples in live_samples(row):
            writer.take(times, samples)
        kept = cls(row, writer, last_s=span_of(row)[1])
        if writer.waiting:
            with transaction.atomic():
                kept._move()
        return kept

    @property
    def channels(self) -> tuple[Channel, ...]:
        """What the trace holds, whatever the instrument calls itself by now."""
        return channels_of(self.row)

    def keep(self, times: Floats, samples: Samples) -> float:
        """Write samples; where a minute is whole, its block stands for the live rows that held it.

        Where this machine's clock was put back meanwhile, times go on from the
        last that was kept; gives by how much they were moved now [s], 0 if not.
        """
        moved = 0.0
        if times[0] + self.shift_s <= self.last_s:
            step_s = self.writer.step_s if self.writer.step_s > 0 else 1.0
            moved = self.last_s + step_s - times[0] - self.shift_s
            self.shift_s += moved
        times = times + self.shift_s
        self.last_s = float(times[-1])
        self.writer.take(times, samples)
        if self.writer.waiting:
            self._move()
        else:
            _live(self.row, times, samples)
        return moved

    def _move(self) -> None:
        self.writer.flush()
        self.row.live_rows.all().delete()
        if self.writer.t_s.size:
            _live(self.row, self.writer.t_s, self.writer.values)
        self.row.t0_s = self.writer.first_s or 0.0
        self.row.save(update_fields=["rows", "t0_s", "t1_s", "block_s"])


def _live(row: TraceRow, times: Floats, samples: Samples) -> None:
    LiveRow.objects.create(
        trace=row, times=times.astype(DOUBLE).tobytes(), samples=np.ascontiguousarray(samples, SINGLE).tobytes()
    )


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
        if not row.live_rows.exists() and not row.block_rows.exists():
            drop_staged(row)
            continue
        with transaction.atomic():
            writer = BlockWriter.resumed(row)
            for times, samples in live_samples(row):
                writer.take(times, samples)
            done.append(writer.finish(["recorded"]))
            row.live_rows.all().delete()
    return done
