"""Our own trace CSV: one time column, then ``quantity_unit`` headings."""

from __future__ import annotations

import io
from datetime import datetime, timedelta

import numpy as np
import polars as pl

from muster.core.errors import MusterError
from muster.core.traces.trace import Trace, channel_named

SECONDS = "t_s"


def trace_csv(trace: Trace, began: datetime | None = None) -> bytes:
    """A trace as CSV: times as seconds after the session began, or as UTC times when ``began`` is given.

    Figures are written with as many digits as bring the same figure back.
    """
    columns: dict[str, pl.Series] = {}
    if began is None:
        columns[SECONDS] = pl.Series(trace.t_s)
    else:
        stamps = [(began + timedelta(seconds=t_s)).isoformat(timespec="milliseconds") for t_s in trace.t_s.tolist()]
        columns["time"] = pl.Series(stamps, dtype=pl.String)
    for channel, samples in zip(trace.channels, trace.values, strict=True):
        columns[channel.heading] = pl.Series(samples).fill_nan(None)
    out = io.BytesIO()
    pl.DataFrame(columns).write_csv(out)
    return out.getvalue()


def read_trace_csv(data: bytes, name: str, instrument: str) -> Trace:
    """A trace from CSV as ``trace_csv`` writes it with seconds: the form inside a job's zip.

    Raises
    ------
    MusterError
        If it is not such a file, naming the row or heading at fault.
    """
    try:
        frame = pl.read_csv(data, infer_schema=False)
    except (pl.exceptions.PolarsError, ValueError) as error:
        raise MusterError(f"not a trace: {str(error).splitlines()[0][:120]}", where=name) from None
    if not frame.columns or frame.columns[0] != SECONDS:
        raise MusterError(f"no column {SECONDS}", where=name, want=f"{SECONDS} first, then headings such as l1_v")
    channels = tuple(channel_named(heading) for heading in frame.columns[1:])
    numbers = []
    for heading in frame.columns:
        read = frame[heading].cast(pl.Float64, strict=False)
        wrong = (read.is_null() & frame[heading].is_not_null()).arg_true()
        if wrong.len():
            row = int(wrong[0])
            raise MusterError(
                f"“{frame[heading][row]}” is not a number", where=f"{name}, row {row + 2}, column “{heading}”"
            )
        numbers.append(read.to_numpy().astype(np.float64))
    t_s = numbers[0]
    if np.isnan(t_s).any() or (np.diff(t_s) < 0).any():
        raise MusterError("the times do not rise", where=f"{name}, column “{SECONDS}”", want="rising seconds")
    values = np.array(numbers[1:], dtype=np.float32).reshape(len(channels), t_s.size)
    return Trace(name, instrument, channels, t_s, values)
