"""Results kept in the user's cache folder by what was asked: a convenience, never the only copy of anything."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import tempfile
from pathlib import Path
from typing import Any, TypeVar

from muster.core.errors import MusterError

from .codec import canonical, dump, load

T = TypeVar("T")
MOST_KEPT = 200


def folder() -> Path:
    """Where results are kept: ``XDG_CACHE_HOME``, else ``~/.cache``."""
    return Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "muster"


def _path(asked: Any) -> Path:
    return folder() / f"{hashlib.sha256(canonical(asked).encode()).hexdigest()}.json"


def kept(kind: type[T], asked: Any) -> T | None:
    """What was kept for the same question, None if nothing usable was."""
    try:
        return load(kind, json.loads(_path(asked).read_text(encoding="utf-8")))
    except (OSError, ValueError, MusterError):
        return None


def keep(asked: Any, value: Any) -> None:
    """Keep a result; a full disk or a folder that cannot be written costs nothing but the time saved."""
    path = _path(asked)
    with contextlib.suppress(OSError):
        path.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile("w", dir=path.parent, delete=False, encoding="utf-8") as file:
            json.dump(dump(value), file)
        Path(file.name).replace(path)
        _drop_oldest(path.parent)


def _drop_oldest(kept_in: Path) -> None:
    files = sorted(kept_in.glob("*.json"), key=lambda path: path.stat().st_mtime)
    for path in files[:-MOST_KEPT]:
        path.unlink(missing_ok=True)
