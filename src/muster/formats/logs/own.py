"""Our own trace CSV read back: the form inside a job's zip. Plain Python: judging a job loads nothing heavier.

Read twice, a line at a time: first counted, so that just the room its samples
take is made, then taken. However large it is unpacked, no more of it is in
memory than its samples.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import IO

import numpy as np

from muster.core.errors import MusterError
from muster.core.timeline.traces.trace import Trace, channel_named
from muster.formats.bounds import MOST_CHANNELS, MOST_LINE, MOST_SAMPLES

SECONDS = "t_s"
Open = Callable[[], IO[bytes]]


def read_trace_csv(data: bytes, name: str, instrument: str) -> Trace:
    """A trace from CSV as ``trace_csv`` writes it with seconds.

    Raises
    ------
    MusterError
        As ``read_trace_file``.
    """
    return read_trace_file(lambda: io.BytesIO(data), name, instrument)


def read_trace_file(unpack: Open, name: str, instrument: str, most_bytes: int = MOST_SAMPLES) -> Trace:
    """A trace from a file of CSV that can be opened twice.

    Raises
    ------
    MusterError
        If it is not such a file, naming the row or heading at fault, or its
        samples would take more than ``most_bytes``.
    """
    with _lines(unpack, name) as lines:
        headings = next(lines, "").split(",")
        rows = sum(1 for _ in lines)
    if not headings or headings[0] != SECONDS:
        raise MusterError(f"no column {SECONDS}", where=name, want=f"{SECONDS} first, then headings such as l1_v")
    if len(headings) > MOST_CHANNELS:
        raise MusterError(f"{len(headings)} columns", where=name, want=f"at most {MOST_CHANNELS}")
    if rows * (8 + 4 * (len(headings) - 1)) > most_bytes:
        raise MusterError(
            f"{rows} samples of {len(headings) - 1} channels", where=name, want="fewer: more than are read at once"
        )
    channels = tuple(channel_named(heading) for heading in headings[1:])
    t_s, values = np.zeros(rows), np.zeros((len(channels), rows), dtype=np.float32)
    with _lines(unpack, name) as lines, np.errstate(over="ignore"):
        next(lines, "")
        for place, line in enumerate(lines):
            figures = _figures(line.split(","), headings, f"{name}, row {place + 2}")
            t_s[place], values[:, place] = figures[0], figures[1:]
    if not np.isfinite(t_s).all() or (np.diff(t_s) < 0).any():
        raise MusterError("the times do not rise", where=f"{name}, column “{SECONDS}”", want="rising seconds")
    values[~np.isfinite(values)] = np.nan
    return Trace(name, instrument, channels, t_s, values)


@contextmanager
def _lines(unpack: Open, name: str) -> Iterator[Iterator[str]]:
    """The lines of a file, none longer than a line can be."""
    try:
        with unpack() as raw, io.TextIOWrapper(raw, encoding="utf-8") as text:
            yield _whole(text, name)
    except UnicodeDecodeError:
        raise MusterError("not text", where=name, want="a CSV trace") from None


def _whole(text: io.TextIOWrapper, name: str) -> Iterator[str]:
    while line := text.readline(MOST_LINE):
        if len(line) == MOST_LINE:
            raise MusterError("a line without end", where=name, want="a CSV trace")
        yield line.rstrip("\r\n")


def _figures(parts: list[str], headings: list[str], where: str) -> list[float]:
    if len(parts) != len(headings):
        raise MusterError(f"{len(parts)} cells", where=where, want=f"{len(headings)} cells")
    try:
        return [float(cell) if cell else float("nan") for cell in parts]
    except ValueError:
        raise _bad_cell(parts, headings, where) from None


def _bad_cell(parts: list[str], headings: list[str], where: str) -> MusterError:
    """The first cell of a row that is no number, as an error."""
    for cell, heading in zip(parts, headings, strict=True):
        try:
            float(cell or "nan")
        except ValueError:
            return MusterError(f"“{cell[:60]}” is not a number", where=f"{where}, column “{heading}”")
    return MusterError("not a number", where=where)
