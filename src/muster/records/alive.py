"""Whether the server lives: it writes the machine's steady time into a small file each second, and recorders look."""

from __future__ import annotations

import contextlib
import math
import time
from pathlib import Path

from django.conf import settings

BEAT_S = 1.0
SILENT_S = 10.0
"""A server that has not written for so long is gone, or hangs: nobody could press stop."""


def _path() -> Path:
    database = Path(settings.DATABASES["default"]["NAME"])
    return database.with_name(f"{database.name}.alive")


def beat() -> None:
    """Say that the server lives; a full disk is no reason to stop serving."""
    with contextlib.suppress(OSError):
        _path().write_text(f"{time.monotonic():.3f}", encoding="ascii")


def silent_s() -> float:
    """How long the server has been silent [s]; infinite where it never said anything on this run of the machine."""
    try:
        last = float(_path().read_text(encoding="ascii"))
    except (OSError, ValueError):
        return math.inf
    since = time.monotonic() - last
    return since if since >= 0 else math.inf
