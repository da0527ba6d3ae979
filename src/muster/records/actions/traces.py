"""Traces kept in blocks: staged while they come in, seen by all once they are whole."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from datetime import datetime
from itertools import pairwise

import numpy as np
from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone
from numpy.typing import NDArray

from muster.core.errors import Refused
from muster.core.timeline.traces import Channel, Trace, channel_named
from muster.core.timeline.traces.trace import Floats, Samples, stood_s
from muster.core.timeline.traces.view import Buckets, Measured, Summaries, buckets, joined, measure, summaries_of, tell
from muster.formats.digests import SampleDigest
from muster.records.looking import read_once
from muster.records.models import BlockRow, SessionRow, TraceRow

from .history import changing

BLOCK_S = 60.0
BLOCK_LEAST_ROWS = 600
"""A block is a minute, or as many minutes as hold this many samples of a slow log: ten of one a second."""
ROWS_AT_ONCE = 50_000
"""Samples taken at once of a whole trace: it is not copied to be kept."""
BLOCKS_AT_ONCE = 400
"""Blocks written in one short transaction."""
SINGLE, DOUBLE = np.dtype("<f4"), np.dtype("<f8")


def channels_of(row: TraceRow) -> tuple[Channel, ...]:
    """The channels of a trace, in the order of its samples."""
    return tuple(channel_named(heading) for heading in row.channels)


@read_once
def live_traces(session: SessionRow) -> list[TraceRow]:
    """The traces of a session that are whole and not archived."""
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
        session=session,
        name=name[:120],
        instrument=instrument,
        created_by=who,
        channels=[channel.heading for channel in channels],
    )


class BlockWriter:
    """Takes samples in order of time and keeps them in blocks under a staged trace.

    Their usual step is seen from the first samples, unless it is given.
    """

    def __init__(self, row: TraceRow, step_s: float | None = None) -> None:
        self.row = row
        self._given_s = step_s
        self.t_s: Floats = np.zeros(0)
        self.values: Samples = np.zeros((len(row.channels), 0), dtype=np.float32)
        self.waiting: list[BlockRow] = []
        self.digest = SampleDigest(row.channels)
        self.first_s: float | None = None
        self.step_s = 1.0

    @classmethod
    def resumed(cls, row: TraceRow, step_s: float | None = None) -> BlockWriter:
        """A writer that goes on where the blocks of a trace end: after its recorder was killed."""
        writer = cls(row, step_s)
        kept = row.block_rows.values_list("t0_s", "times", "samples")
        row.rows = 0
        for block in kept.iterator(chunk_size=BLOCKS_AT_ONCE):
            t_s, samples = block_samples(len(row.channels), *block)
            writer.digest.take(t_s, samples)
            row.rows += t_s.size
            if writer.first_s is None:
                writer.first_s = float(t_s[0])
                steps = np.diff(t_s)
                writer.step_s = float(np.median(steps)) if steps.size else 1.0
        return writer

    def take(self, t_s: Floats, values: Samples) -> None:
        """Keep samples; whole blocks are written as they fill."""
        if not t_s.size:
            return
        if self.first_s is None:
            self.first_s = float(t_s[0])
            self.step_s = self._given_s or (float(np.median(np.diff(t_s))) if t_s.size > 1 else 1.0)
            self.row.block_s = BLOCK_S * max(1, math.ceil(self.step_s * BLOCK_LEAST_ROWS / BLOCK_S))
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
            self._block(self.t_s[first:last], self.values[:, first:last], float(self.t_s[last]))
        self.t_s, self.values = self.t_s[cuts[-1] :].copy(), self.values[:, cuts[-1] :].copy()

    def _block(self, t_s: Floats, values: Samples, next_s: float) -> None:
        samples = np.ascontiguousarray(values, dtype=SINGLE)
        self.digest.take(t_s, samples)
        low, mean, high, held = _summary(samples, stood_s(t_s, next_s, self.step_s))
        self.waiting.append(
            BlockRow(
                trace=self.row,
                t0_s=float(t_s[0]),
                t1_s=float(t_s[-1]),
                times=t_s.astype(DOUBLE).tobytes(),
                samples=samples.tobytes(),
                low=low,
                mean=mean,
                high=high,
                held=held,
            )
        )
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
            self._block(self.t_s, self.values, float(self.t_s[-1]) + self.step_s)
        self.flush()
        self.row.t0_s = self.first_s or 0.0
        self.row.notes, self.row.sha256, self.row.staged = list(notes), self.digest.text(), False
        with transaction.atomic():
            if SessionRow.objects.filter(pk=self.row.session_id, closed_at=None).exists():
                self.row.save()
                return self.row
        raise Refused("the session was sealed while the log was read", where="session")


def _summary(samples: Samples, stood: Floats) -> tuple[bytes, bytes, bytes, bytes]:
    """Lowest, mean and highest of each channel, NaN where it holds nothing; figure times seconds, and seconds read."""
    read = ~np.isnan(samples)
    if read.all():
        low, high, filled = samples.min(axis=1), samples.max(axis=1), samples
    else:
        low, high = (
            _none_as_nan(f, read)
            for f in (np.where(read, samples, np.inf).min(axis=1), np.where(read, samples, -np.inf).max(axis=1))
        )
        filled = np.where(read, samples, 0)
    counts = read.sum(axis=1)
    mean = _none_as_nan(filled.sum(axis=1, dtype=np.float64) / np.maximum(counts, 1), read)
    held = np.stack([filled.astype(np.float64) @ stood, read @ stood])
    return *(part.astype(SINGLE).tobytes() for part in (low, mean, high)), held.astype(DOUBLE).tobytes()


def _none_as_nan(figures: Floats, read: NDArray[np.bool_]) -> Floats:
    return np.where(read.any(axis=1), figures, np.nan)


def keep_trace(session: SessionRow, trace: Trace, notes: Sequence[str], who: AbstractUser) -> TraceRow:
    """Keep a whole trace at once, as when a job is read in.

    Raises
    ------
    Refused
        If the session is sealed already.
    """
    writer = BlockWriter(stage(session, trace.name, trace.instrument, trace.channels, who), trace.step_s or None)
    for first in range(0, trace.t_s.size, ROWS_AT_ONCE):
        writer.take(trace.t_s[first : first + ROWS_AT_ONCE], trace.values[:, first : first + ROWS_AT_ONCE])
    return writer.finish(notes)


def drop_staged(row: TraceRow) -> None:
    """Forget a trace that never became whole: nothing of it was ever acknowledged."""
    if row.staged:
        row.delete()


def remove_trace(row: TraceRow, who: AbstractUser) -> TraceRow:
    """Archive a trace; it can be restored.

    Raises
    ------
    Refused
        If its session is sealed.
    """
    return _away(row, timezone.now(), f"{row.name} archived", who)


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


def block_samples(channels: int, t0_s: float, times: bytes, samples: bytes) -> tuple[Floats, Samples]:
    """Times [s after the session began] and samples of a block.

    Times are float64 as they came; those of blocks written before that are
    float32 seconds after the block's first.
    """
    values = np.frombuffer(samples, SINGLE).reshape(channels, -1)
    if len(times) == values.shape[1] * DOUBLE.itemsize:
        return np.frombuffer(times, DOUBLE), values
    return np.frombuffer(times, SINGLE).astype(np.float64) + t0_s, values


def live_samples(row: TraceRow) -> Iterator[tuple[Floats, Samples]]:
    """What a recorder has kept of a trace and not yet moved into blocks: times [s after the session began] and samples."""
    for times, samples in row.live_rows.values_list("times", "samples").iterator(chunk_size=500):
        yield np.frombuffer(times, DOUBLE), np.frombuffer(samples, SINGLE).reshape(len(row.channels), -1)


def read_trace(row: TraceRow, t0_s: float | None = None, t1_s: float | None = None) -> Trace:
    """The samples of a trace, whole or between two times [s after the session began]."""
    blocks = row.block_rows.all()
    if t0_s is not None:
        blocks = blocks.filter(t1_s__gte=t0_s)
    if t1_s is not None:
        blocks = blocks.filter(t0_s__lte=t1_s)
    channels = channels_of(row)
    times, samples = [np.zeros(0)], [np.zeros((len(channels), 0), dtype=np.float32)]
    for block in blocks.values_list("t0_s", "times", "samples"):
        block_times, block_values = block_samples(len(channels), *block)
        times.append(block_times)
        samples.append(block_values)
    if row.staged:
        for live_times, live in live_samples(row):
            times.append(live_times)
            samples.append(live)
    return Trace(row.name, row.instrument, channels, np.concatenate(times), np.concatenate(samples, axis=1))


def so_far(row: TraceRow) -> tuple[Trace, str]:
    """What a trace being recorded holds up to its last whole second, and the note that says so."""
    trace = read_trace(row)
    until_s = math.floor(trace.span[1])
    kept = trace.t_s <= until_s
    cut = Trace(trace.name, trace.instrument, trace.channels, trace.t_s[kept], trace.values[:, kept])
    return cut, f"recorded up to {until_s} s after the session began; the recording was going on"


def span_of(row: TraceRow) -> tuple[float, float]:
    """First and last time of a trace [s after the session began]; of one being recorded, as far as it has come."""
    if not row.staged:
        return row.t0_s, row.t1_s
    ends = [np.frombuffer(times, DOUBLE) for times in _ends_of(row)]
    starts = row.block_rows.values_list("t0_s", flat=True).first()
    if not ends:
        return starts or 0.0, row.t1_s
    return float(ends[0][0]) if starts is None else starts, float(ends[-1][-1])


def _ends_of(row: TraceRow) -> list[bytes]:
    live = row.live_rows.values_list("times", flat=True)
    first, last = live.order_by("pk").first(), live.order_by("-pk").first()
    return [] if first is None or last is None else [first, last]


def look(row: TraceRow, t0_s: float, t1_s: float, count: int) -> Buckets:
    """Lowest and highest of each channel in ``count`` stretches: from the blocks' summaries where these are fine enough."""
    inside = row.block_rows.filter(t1_s__gte=t0_s, t0_s__lte=t1_s)
    if inside.count() < count / 2:
        trace = read_trace(row, t0_s, t1_s)
        return buckets(trace.t_s, trace.values, trace.values, t0_s, t1_s, count)
    rows = list(inside.values_list("t0_s", "t1_s", "low", "high"))
    middles = np.array([(part[0] + part[1]) / 2 for part in rows])
    low, high = _stacked(rows, 2), _stacked(rows, 3)
    for times, samples in live_samples(row) if row.staged else ():
        middles = np.concatenate([middles, times])
        low, high = (np.concatenate([part, samples], axis=1) for part in (low, high))
    return buckets(middles, low, high, t0_s, t1_s, count)


def measured(row: TraceRow, t0_s: float, t1_s: float) -> tuple[Measured, ...]:
    """Each channel over a stretch: whole blocks from what was summed when they were kept, the ends from their samples."""
    whole = row.block_rows.filter(t0_s__gte=t0_s, t1_s__lt=t1_s)
    first = whole.values_list("t0_s", flat=True).first()
    if first is None:
        return measure(read_trace(row, t0_s, t1_s), t0_s, t1_s)
    last = whole.values_list("t1_s", flat=True).last() or first
    ends = [
        summaries_of(read_trace(row, t0_s, first), t0_s, first),
        summaries_of(read_trace(row, last, t1_s), _after(last), t1_s),
    ]
    parts = list(whole.values_list("low", "high", "held"))
    low, high = _stacked(parts, 0), _stacked(parts, 1)
    held = np.frombuffer(b"".join(bytes(part[2]) for part in parts), DOUBLE).reshape(len(parts), 2, -1).sum(axis=0)
    middle = Summaries(np.fmin.reduce(low, axis=1), np.fmax.reduce(high, axis=1), held[0], held[1])
    return tell(channels_of(row), joined([ends[0], middle, ends[1]]))


def _after(t_s: float) -> float:
    return math.nextafter(t_s, math.inf)


def _stacked(rows: Sequence[tuple[object, ...]], place: int) -> NDArray[np.float32]:
    joined = b"".join(bytes(row[place]) for row in rows)  # type: ignore[arg-type]
    return np.frombuffer(joined, SINGLE).reshape(len(rows), -1).T


def charge_logged(session: SessionRow, count: int = 60) -> list[tuple[float, float]]:
    """The state of charge that the first log with it shows, whole or still being recorded: times [s] and percents."""
    charge = Channel("soc_pct")
    for row in session.trace_rows.filter(removed_at=None):
        if charge.heading in row.channels:
            seen = look(row, *span_of(row), count)
            middle = (seen.low + seen.high)[row.channels.index(charge.heading)] / 2
            return [(t_s, pct) for t_s, pct in zip(seen.t_s.tolist(), middle.tolist(), strict=True) if pct == pct]
    return []
