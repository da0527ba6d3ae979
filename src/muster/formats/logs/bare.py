"""A log on its own, without a session: read by its headings, timed from its first row."""

from __future__ import annotations

from pathlib import Path
from zoneinfo import ZoneInfo

import numpy as np

from muster.core.errors import MusterError
from muster.core.supply import System
from muster.core.timeline.traces import Trace

from .layout import LOOK_BYTES, look_at
from .mapping import guess_mapping
from .reading import Notes, read_chunks
from .times import Clock

NOBODYS = "log"
"""What an instrument is called that nobody described: ±5 %, and no faster than the log."""


def read_bare_log(path: Path, system: System) -> tuple[Trace, Notes]:
    """A log file as a trace, its columns taken from their headings, and what the reader met on the way.

    Raises
    ------
    MusterError
        If it cannot be read, its headings name no time or no quantity, or a
        cell is wrong (row and column).
    """
    try:
        file = path.open("rb")
    except OSError as error:
        raise MusterError(str(error.strerror).lower(), where=str(path), want="a CSV log") from None
    with file:
        head = file.read(LOOK_BYTES)
        layout = look_at(head, whole=not file.read(1))
        mapping = guess_mapping(layout, system)
        if mapping is None:
            raise MusterError(
                "the headings name no time or no quantity",
                where=path.name,
                want="headings such as t_s, l1_v, l1_w, f_hz; or import it on the bench and say which column is what",
            )
        file.seek(0)
        notes = Notes()
        chunks = list(read_chunks(file, layout, mapping, Clock(ZoneInfo("UTC"), 0.0), notes))
    t_s = np.concatenate([chunk.t_s for chunk in chunks])
    values = np.concatenate([chunk.values for chunk in chunks], axis=1)
    return Trace(path.stem, NOBODYS, tuple(c.channel for c in mapping.columns), t_s - t_s[0], values), notes
