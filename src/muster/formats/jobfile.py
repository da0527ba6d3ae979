"""The job file: a whole job as plain JSON values, versioned.

This version carries what the first slice holds; its schema and the command
line around it come with the next.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from muster.core.brief import Brief
from muster.core.errors import MusterError
from muster.core.loads import Load
from muster.core.sessions import Session
from muster.core.sources import Source

from .codec import dump, load

VERSION = 1


@dataclass(frozen=True)
class SessionRecord:
    """A session with when it began (ISO 8601, UTC), and whether it is closed."""

    session: Session
    started_at: str
    closed: bool = True


@dataclass(frozen=True)
class SourceRecord:
    """A source with the sessions run on it."""

    source: Source
    sessions: tuple[SessionRecord, ...] = ()


@dataclass(frozen=True)
class JobFile:
    """A whole job."""

    name: str
    brief: Brief
    loads: tuple[Load, ...] = ()
    sources: tuple[SourceRecord, ...] = ()
    version: int = field(default=VERSION)


def write_job(job: JobFile) -> dict[str, Any]:
    """A job as plain JSON values."""
    data: dict[str, Any] = dump(job)
    return data


def read_job(data: Any) -> JobFile:
    """A job from plain JSON values.

    Raises
    ------
    MusterError
        If the version is not known here, or something in it does not fit.
    """
    version = data.get("version") if isinstance(data, dict) else None
    if version != VERSION:
        raise MusterError(f"got {version!r}", where="version", want=f"this Muster reads version {VERSION}")
    return load(JobFile, data)
