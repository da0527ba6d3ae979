"""Our own trace CSV read back: the form inside a job's zip. Plain Python: judging a job loads nothing heavier."""

from __future__ import annotations

from array import array

import numpy as np

from muster.core.errors import MusterError
from muster.core.traces.trace import Trace, channel_named

SECONDS = "t_s"


def read_trace_csv(data: bytes, name: str, instrument: str) -> Trace:
    """A trace from CSV as ``trace_csv`` writes it with seconds.

    Raises
    ------
    MusterError
        If it is not such a file, naming the row or heading at fault.
    """
    try:
        lines = data.decode().splitlines()
    except UnicodeDecodeError:
        raise MusterError("not text", where=name, want="a CSV trace") from None
    headings = lines[0].split(",") if lines else []
    if not headings or headings[0] != SECONDS:
        raise MusterError(f"no column {SECONDS}", where=name, want=f"{SECONDS} first, then headings such as l1_v")
    channels = tuple(channel_named(heading) for heading in headings[1:])
    cells = array("d")
    for row, line in enumerate(lines[1:], 2):
        parts = line.split(",")
        if len(parts) != len(headings):
            raise MusterError(f"{len(parts)} cells", where=f"{name}, row {row}", want=f"{len(headings)} cells")
        try:
            cells.extend([float(cell) if cell else float("nan") for cell in parts])
        except ValueError:
            raise _bad_cell(parts, headings, f"{name}, row {row}") from None
    table = np.frombuffer(cells, dtype=np.float64).reshape(-1, len(headings)) if cells else np.zeros((0, len(headings)))
    t_s = table[:, 0].copy()
    if not np.isfinite(t_s).all() or (np.diff(t_s) < 0).any():
        raise MusterError("the times do not rise", where=f"{name}, column “{SECONDS}”", want="rising seconds")
    with np.errstate(over="ignore"):
        values = np.ascontiguousarray(table[:, 1:].T, dtype=np.float32)
    return Trace(name, instrument, channels, t_s, np.where(np.isfinite(values), values, np.float32(np.nan)))


def _bad_cell(parts: list[str], headings: list[str], where: str) -> MusterError:
    """The first cell of a row that is no number, as an error."""
    for cell, heading in zip(parts, headings, strict=True):
        try:
            float(cell or "nan")
        except ValueError:
            return MusterError(f"“{cell[:60]}” is not a number", where=f"{where}, column “{heading}”")
    return MusterError("not a number", where=where)
