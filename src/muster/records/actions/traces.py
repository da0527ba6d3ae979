"""Traces kept in blocks: staged while they come in, seen by all once they are whole."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from datetime import datetime
from itertools import pairwise

import numpy as np
from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone
from numpy.typing import NDArray

from muster.core.errors import Refused
from muster.core.traces import Channel, Trace, channel_named
from muster.core.traces.trace import Floats, Samples
from muster.core.traces.view import Buckets, buckets
from muster.records.models import BlockRow, SessionRow, TraceRow

from .history import changing

BLOCK_S = 60.0
BLOCK_LEAST_ROWS = 30
"""A block is a minute, or as many minutes as hold this many samples of a slow log."""
BLOCKS_AT_ONCE = 400
"""Blocks written in one short transaction."""
SINGLE = np.dtype("<f4")


def channels_of(row: TraceRow) -> tuple[Channel, ...]:
    """The channels of a trace, in the order of its samples."""
    return tuple(channel_named(heading) for heading in row.channels)


def live_traces(session: SessionRow) -> list[TraceRow]:
    """The traces of a session that are whole and not put away."""
    return list(session.trace_rows.filter(staged=False, removed_at=None))


def stage(session: SessionRow, name: str, instrument: str, channels: Sequence[Channel], who: AbstractUser) -> TraceRow:
    """A hidden trace to bring samples into.

    Raises
    ------
    Refused
        If the session is sealed.
    """
    if session.closed_at is not None:
        raise Refused("this session is sealed", where="session", want="a session that is still open")
    return TraceRow.objects.create(
        session=session, name=name[:120], instrument=instrument, created_by=who,
        channels=[channel.heading for channel in channels],
    )  # fmt: skip


class BlockWriter:
    """Takes samples in order of time and keeps them in blocks under a staged trace."""

    def __init__(self, row: TraceRow) -> None:
        self.row = row
        self.t_s: Floats = np.zeros(0)
        self.values: Samples = np.zeros((len(row.channels), 0), dtype=np.float32)
        self.waiting: list[BlockRow] = []
        self.digest = hashlib.sha256("\n".join(row.channels).encode())
        self.first_s: float | None = None

    def take(self, t_s: Floats, values: Samples) -> None:
        """Keep samples; whole blocks are written as they fill."""
        if not t_s.size:
            return
        if self.first_s is None:
            self.first_s = float(t_s[0])
            step_s = float(np.median(np.diff(t_s))) if t_s.size > 1 else 1.0
            self.row.block_s = BLOCK_S * max(1, math.ceil(step_s * BLOCK_LEAST_ROWS / BLOCK_S))
        self.t_s = np.concatenate([self.t_s, t_s])
        self.values = np.concatenate([self.values, values], axis=1)
        place = np.floor((self.t_s - self.first_s) / self.row.block_s)
        cuts = np.flatnonzero(np.diff(place)) + 1
        if cuts.size:
            self._cut([0, *cuts.tolist()])
        self.row.rows += int(t_s.size)
        self.row.t1_s = float(t_s[-1])

    def _cut(self, cuts: list[int]) -> None:
        for first, last in pairwise(cuts):
            self._block(self.t_s[first:last], self.values[:, first:last])
        self.t_s, self.values = self.t_s[cuts[-1] :].copy(), self.values[:, cuts[-1] :].copy()

    def _block(self, t_s: Floats, values: Samples) -> None:
        times = (t_s - t_s[0]).astype(SINGLE).tobytes()
        samples = np.ascontiguousarray(values, dtype=SINGLE)
        self.digest.update(times + samples.tobytes())
        low, mean, high = _summary(samples)
        self.waiting.append(
            BlockRow(
                trace=self.row, t0_s=float(t_s[0]), t1_s=float(t_s[-1]), times=times, samples=samples.tobytes(),
                low=low.tobytes(), mean=mean.tobytes(), high=high.tobytes(),
            )
        )  # fmt: skip
        if len(self.waiting) >= BLOCKS_AT_ONCE:
            self.flush()

    def flush(self) -> None:
        """Write the blocks that wait, in one short transaction."""
        if self.waiting:
            BlockRow.objects.bulk_create(self.waiting, batch_size=100)
            self.waiting = []

    def finish(self, notes: Sequence[str] = ()) -> TraceRow:
        """Make the trace seen by all: the one final flip."""
        if self.t_s.size:
            self._block(self.t_s, self.values)
        self.flush()
        self.row.t0_s = self.first_s or 0.0
        self.row.notes, self.row.sha256, self.row.staged = list(notes), self.digest.hexdigest(), False
        with transaction.atomic():
            if SessionRow.objects.filter(pk=self.row.session_id, closed_at=None).exists():
                self.row.save()
                return self.row
        raise Refused("the session was sealed while the log was read", where="session")


def _summary(samples: Samples) -> tuple[Samples, Samples, Samples]:
    """Lowest, mean and highest of each channel; NaN where it holds nothing."""
    read = ~np.isnan(samples)
    counts = read.sum(axis=1)
    total = np.where(read, samples, 0).sum(axis=1, dtype=np.float64)
    low = np.where(read, samples, np.inf).min(axis=1)
    high = np.where(read, samples, -np.inf).max(axis=1)
    nothing = counts == 0
    mean = total / np.maximum(counts, 1)
    return tuple(np.where(nothing, np.nan, part).astype(SINGLE) for part in (low, mean, high))  # type: ignore[return-value]


def keep_trace(session: SessionRow, trace: Trace, notes: Sequence[str], who: AbstractUser) -> TraceRow:
    """Keep a whole trace at once, as when a job is read in.

    Raises
    ------
    Refused
        If the session is sealed already.
    """
    writer = BlockWriter(stage(session, trace.name, trace.instrument, trace.channels, who))
    writer.take(trace.t_s, trace.values)
    return writer.finish(notes)


def drop_staged(row: TraceRow) -> None:
    """Forget a trace that never became whole: nothing of it was ever acknowledged."""
    if row.staged:
        row.delete()


def remove_trace(row: TraceRow, who: AbstractUser) -> TraceRow:
    """Put a trace away; it can be put back.

    Raises
    ------
    Refused
        If its session is sealed.
    """
    return _away(row, timezone.now(), f"{row.name} put away", who)


def put_back_trace(row: TraceRow, who: AbstractUser) -> TraceRow:
    """Put a removed trace back.

    Raises
    ------
    Refused
        If its session is sealed.
    """
    return _away(row, None, f"{row.name} put back", who)


def _away(row: TraceRow, at: datetime | None, words: str, who: AbstractUser) -> TraceRow:
    if row.session.closed_at is not None:
        raise Refused("this session is sealed", where="session", want="its logs stay as they were sealed")
    with changing(row, words, who):
        row.removed_at = at
        row.save(update_fields=["removed_at"])
    return row


def read_trace(row: TraceRow, t0_s: float | None = None, t1_s: float | None = None) -> Trace:
    """The samples of a trace, whole or between two times [s after the session began]."""
    blocks = row.block_rows.all()
    if t0_s is not None:
        blocks = blocks.filter(t1_s__gte=t0_s)
    if t1_s is not None:
        blocks = blocks.filter(t0_s__lte=t1_s)
    channels = channels_of(row)
    times, samples = [np.zeros(0)], [np.zeros((len(channels), 0), dtype=np.float32)]
    for start, time_bytes, sample_bytes in blocks.values_list("t0_s", "times", "samples"):
        times.append(np.frombuffer(time_bytes, SINGLE).astype(np.float64) + start)
        samples.append(np.frombuffer(sample_bytes, SINGLE).reshape(len(channels), -1))
    return Trace(row.name, row.instrument, channels, np.concatenate(times), np.concatenate(samples, axis=1))


def look(row: TraceRow, t0_s: float, t1_s: float, count: int) -> Buckets:
    """Lowest and highest of each channel in ``count`` stretches: from the blocks' summaries where these are fine enough."""
    inside = row.block_rows.filter(t1_s__gte=t0_s, t0_s__lte=t1_s)
    if inside.count() < count / 2:
        trace = read_trace(row, t0_s, t1_s)
        return buckets(trace.t_s, trace.values, trace.values, t0_s, t1_s, count)
    rows = list(inside.values_list("t0_s", "t1_s", "low", "high"))
    middles = np.array([(row[0] + row[1]) / 2 for row in rows])
    return buckets(middles, _stacked(rows, 2), _stacked(rows, 3), t0_s, t1_s, count)


def _stacked(rows: Sequence[tuple[object, ...]], place: int) -> NDArray[np.float32]:
    joined = b"".join(bytes(row[place]) for row in rows)  # type: ignore[arg-type]
    return np.frombuffer(joined, SINGLE).reshape(len(rows), -1).T
