"""Looking at a trace: to the pixels asked for, and a stretch measured."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..quantities import Value
from .trace import Channel, Floats, Samples, Trace

WH_PER_WS = 1 / 3600


@dataclass(frozen=True, eq=False)
class Buckets:
    """Each channel's lowest and highest in stretches of equal length.

    ``t_s`` (m,) is each stretch's middle; ``low`` and ``high`` are (channels,
    m), NaN where a stretch holds no sample.
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
    return Buckets(middles, lows, highs)


@dataclass(frozen=True)
class Measured:
    """A channel over a stretch: lowest, mean and highest; energy where it is watts."""

    channel: Channel
    low: Value
    mean: Value
    high: Value
    wh: float | None


def measure(trace: Trace, t0_s: float, t1_s: float) -> tuple[Measured, ...]:
    """Each channel's lowest, time-weighted mean and highest from ``t0_s`` to ``t1_s``; gaps left out.

    Energy of a watt channel is the sum of watts times how long each stood.
    Channels without a sample in the stretch are left out.
    """
    inside = slice(*np.searchsorted(trace.t_s, [t0_s, t1_s], side="left"))
    stood = trace.durations_s()[inside]
    found = []
    for channel, samples in zip(trace.channels, trace.values[:, inside].astype(np.float64), strict=True):
        read = ~np.isnan(samples)
        if not read.any():
            continue
        values, weights = samples[read], stood[read]
        mean = float(np.average(values, weights=weights)) if weights.sum() > 0 else float(values.mean())
        wh = float((values * weights).sum() * WH_PER_WS) if channel.quantity == "w" else None
        low, high = float(values.min()), float(values.max())
        unit = channel.unit
        found.append(Measured(channel, Value(low, unit), Value(mean, unit), Value(high, unit), wh))
    return tuple(found)
