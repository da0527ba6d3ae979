"""The demo jobs, as files; written by ``tools.demo``."""

from __future__ import annotations

from datetime import UTC, datetime
from importlib import resources
from importlib.resources.abc import Traversable

from muster.formats.jobzip import JobPackage, read_package
from muster.formats.notes import read_notes, with_questions


def files() -> list[Traversable]:
    """The job files, and the notes that one job came in as, in the order in which they are read in."""
    traversables = resources.files(__name__).iterdir()
    return sorted(
        (path for path in traversables if path.name.endswith((".muster.json", ".muster.zip", ".txt"))),
        key=lambda path: path.name,
    )


def package(path: Traversable) -> JobPackage:
    """The job of a file: a job file, or notes with what was asked about them."""
    if not path.name.endswith(".txt"):
        return read_package(path.read_bytes())
    notes = read_notes(path.read_text(encoding="utf-8"), datetime.now(UTC))
    return JobPackage(with_questions(notes))
