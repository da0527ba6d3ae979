"""Our own trace CSV: one time column, then ``quantity_unit`` headings."""

from __future__ import annotations

import io
from datetime import datetime, timedelta

import polars as pl

from muster.core.timeline.captures import Capture
from muster.core.timeline.traces.trace import Trace

from .own import SECONDS


def trace_csv(trace: Trace, began: datetime | None = None) -> bytes:
    """A trace as CSV: times as seconds after the session began, or as UTC times when ``began`` is given.

    Figures are written with as many digits as bring the same figure back.
    """
    columns: dict[str, pl.Series] = {}
    if began is None:
        columns[SECONDS] = pl.Series(name=trace.t_s)
    else:
        stamps = [(began + timedelta(seconds=t_s)).isoformat(timespec="milliseconds") for t_s in trace.t_s.tolist()]
        columns["time"] = pl.Series(name=stamps, dtype=pl.String)
    for channel, samples in zip(trace.channels, trace.values, strict=True):
        columns[channel.heading] = pl.Series(name=samples).fill_nan(None)
    out = io.BytesIO()
    pl.DataFrame(columns).write_csv(out)
    return out.getvalue()


def capture_csv(capture: Capture, *, own_time: bool = False) -> bytes:
    """A capture as CSV: seconds after the session began, or after its own first sample, and a column a channel."""
    times = capture.times_s - (capture.t_s if own_time else 0.0)
    return trace_csv(Trace(capture.name, capture.instrument, capture.channels, times, capture.values))
