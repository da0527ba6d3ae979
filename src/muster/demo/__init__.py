"""The demo jobs, as files; written by ``tools.demo``."""

from __future__ import annotations

from importlib import resources
from importlib.resources.abc import Traversable


def files() -> list[Traversable]:
    """The job files, and the notes that one job came in as, in the order in which they are read in."""
    traversables = resources.files(__name__).iterdir()
    return sorted(
        (path for path in traversables if path.name.endswith((".muster.json", ".muster.zip", ".txt"))),
        key=lambda path: path.name,
    )
