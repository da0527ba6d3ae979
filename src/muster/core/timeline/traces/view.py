"""Looking at a trace: to the pixels asked for, and a stretch measured."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...quantities import Value
from .trace import Channel, Floats, Samples, Trace, gap_of

WH_PER_WS = 1 / 3600


@dataclass(frozen=True, eq=False)
class Buckets:
    """Each channel's lowest and highest in stretches of equal length.

    ``t_s`` (m,) is each stretch's middle; ``low`` and ``high`` are (channels,
    m), NaN where nothing is known. A stretch that merely lies between two
    samples is left out: the line goes on through it.
    """

    t_s: Floats
    low: Samples
    high: Samples


def buckets(t_s: Floats, low: Samples, high: Samples, t0_s: float, t1_s: float, count: int) -> Buckets:
    """Lowest and highest of each channel in ``count`` equal stretches from ``t0_s`` to ``t1_s``.

    ``low`` and ``high`` are (channels, n) and may be the same samples, or the
    summaries of blocks. What stands on a border belongs to the later stretch.
    """
    inside = slice(*np.searchsorted(t_s, [t0_s, t1_s], side="left"))
    at, low, high = t_s[inside], low[:, inside], high[:, inside]
    edges = np.linspace(t0_s, t1_s, count + 1)
    middles = (edges[:-1] + edges[1:]) / 2
    empty = np.full((low.shape[0], count), np.nan, dtype=np.float32)
    if not at.size:
        return Buckets(middles, empty, empty.copy())
    firsts = np.searchsorted(at, edges[:-1], side="left")
    lasts = np.append(firsts[1:], at.size)
    full = firsts < lasts
    lows, highs = empty, empty.copy()
    lows[:, full] = np.fmin.reduceat(low, firsts[full], axis=1)
    highs[:, full] = np.fmax.reduceat(high, firsts[full], axis=1)
    shown = full | _unknown(at, middles)
    return Buckets(middles[shown], lows[:, shown], highs[:, shown])


def _unknown(at: Floats, middles: Floats) -> NDArray[np.bool_]:
    """Which moments lie in a gap of the samples, or before or after all of them."""
    if at.size < 2:
        return np.ones(middles.size, dtype=bool)
    steps = np.diff(at)
    wide = np.concatenate([[True], steps > gap_of(float(np.median(steps))), [True]])
    return np.asarray(wide[np.searchsorted(at, middles)])


@dataclass(frozen=True)
class Measured:
    """A channel over a stretch: lowest, mean and highest; energy where it is watts."""

    channel: Channel
    low: Value
    mean: Value
    high: Value
    wh: float | None


@dataclass(frozen=True, eq=False)
class Summaries:
    """Over a stretch, by channel: lowest and highest (NaN: nothing read), figure times seconds, seconds read."""

    low: Samples
    high: Samples
    held: Floats
    stood_s: Floats


def summaries_of(trace: Trace, t0_s: float, t1_s: float) -> Summaries:
    """The sums of a trace from ``t0_s`` to before ``t1_s``; gaps left out."""
    inside = slice(*np.searchsorted(trace.t_s, [t0_s, t1_s], side="left"))
    stood, samples = trace.durations_s()[inside], trace.values[:, inside]
    read = ~np.isnan(samples)
    empty = np.float32(np.nan)
    low = np.fmin.reduce(samples, axis=1, initial=empty) if samples.size else np.full(len(samples), empty)
    high = np.fmax.reduce(samples, axis=1, initial=empty) if samples.size else np.full(len(samples), empty)
    held = (np.where(read, samples, 0).astype(np.float64) * stood).sum(axis=1)
    return Summaries(low, high, held, (read * stood).sum(axis=1))


def joined(parts: Sequence[Summaries]) -> Summaries:
    """The sums of stretches that follow one another."""
    return Summaries(
        np.fmin.reduce([part.low for part in parts]),
        np.fmax.reduce([part.high for part in parts]),
        np.sum([part.held for part in parts], axis=0),
        np.sum([part.stood_s for part in parts], axis=0),
    )


def tell(channels: Sequence[Channel], sums: Summaries) -> tuple[Measured, ...]:
    """Each channel's lowest, time-weighted mean and highest; channels of which nothing was read are left out.

    Energy of a watt channel is the sum of watts times how long each stood.
    """
    measureds = []
    for channel, low, high, held, stood in zip(
        channels, sums.low.tolist(), sums.high.tolist(), sums.held.tolist(), sums.stood_s.tolist(), strict=True
    ):
        if low != low:
            continue
        mean = held / stood if stood > 0 else (low + high) / 2
        wh = held * WH_PER_WS if channel.quantity == "w" else None
        unit = channel.unit
        measureds.append(Measured(channel, Value(low, unit), Value(mean, unit), Value(high, unit), wh))
    return tuple(measureds)


def measure(trace: Trace, t0_s: float, t1_s: float) -> tuple[Measured, ...]:
    """Each channel of a trace over a stretch, as ``tell`` says it."""
    return tell(trace.channels, summaries_of(trace, t0_s, t1_s))
