"""Where the database of this process lies, and what a process of the same folder is started with."""

from __future__ import annotations

import os
from pathlib import Path

from django.conf import settings


def database() -> Path:
    """The file of the database."""
    return Path(settings.DATABASES["default"]["NAME"])


def photos() -> Path:
    """The folder of photos beside it."""
    folder = database().parent / "photos"
    folder.mkdir(exist_ok=True, mode=0o700)
    return folder


def environment() -> dict[str, str]:
    """The environment of a process that is to use the same database."""
    return {**os.environ, "MUSTER_DATA": str(database().parent), "MUSTER_DATABASE": database().name}
