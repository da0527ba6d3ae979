"""Whether the server lives: it writes the machine's steady time into a small file each second, and recorders look."""

from __future__ import annotations

import contextlib
import math
import time
from pathlib import Path

from .. import folder

POLL_S = 1.0
SILENT_S = 10.0
"""A server that has not written for so long is gone, or hangs: nobody could press stop."""


def _path() -> Path:
    return folder.database().with_name(f"{folder.database().name}.alive")


def poll() -> None:
    """Say that the server lives; a full disk is no reason to stop serving."""
    path = _path()
    half = path.with_name(f"{path.name}.half")
    with contextlib.suppress(OSError):
        half.write_text(f"{time.monotonic():.3f}", encoding="ascii")
        half.replace(path)  # whole at every moment: a recorder that found it empty would take the server for gone


def silent_s() -> float:
    """How long the server has been silent [s]; infinite where it never said anything on this run of the machine."""
    try:
        last = float(_path().read_text(encoding="ascii"))
    except (OSError, ValueError):
        return math.inf
    since = time.monotonic() - last
    return max(0.0, since) if since > -POLL_S else math.inf  # later than now: of a run of the machine before this one
