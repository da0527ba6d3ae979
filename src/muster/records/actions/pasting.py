"""Notes pasted into a session: every line told back before anything is kept."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime

from django.contrib.auth.models import AbstractUser
from django.db import transaction

from muster.core.errors import MusterError
from muster.core.sessions.log_line import Jotting, parted
from muster.records import bridge
from muster.records.models import SessionRow

from .sessions import keep, require_open, understand


@dataclass(frozen=True)
class PastedLine:
    """A line of pasted notes as it would come in: what is understood by it, and the moment it is put at."""

    raw: str
    jotting: Jotting
    at: datetime


MOST_PASTED = 500
"""Lines that are taken at one go."""


def pasted_lines(text: str) -> list[str]:
    """The lines of pasted notes, without list marks and empty ones; one of several times is as many lines."""
    lines = (
        line.strip().lstrip("-*•").strip() if line.strip()[:2] in ("- ", "* ", "• ") else line.strip()
        for line in text.splitlines()
    )
    return [part for line in lines if line for part in parted(line)]


@transaction.atomic
def log_pasted(row: SessionRow, text: str, who: AbstractUser) -> list[PastedLine]:
    """Keep pasted notes, a line an entry, each understood after the ones before it; all of it or nothing.

    Raises
    ------
    MusterError
        If there is no line, or there are too many.
    Refused
        If the session is closed.
    """
    require_open(row)
    lines = pasted_lines(text)
    if not lines:
        raise MusterError("nothing was pasted", where="text", want="notes, a line an entry")
    if len(lines) > MOST_PASTED:
        raise MusterError(f"got {len(lines)} lines", where="text", want=f"at most {MOST_PASTED} at one go")
    session, kept = bridge.session_of(row), []
    for line in lines:
        jotting = understand(row, line, session)
        entry = keep(row, line, jotting, who)
        session = replace(session, entries=(*session.entries, bridge.entry_of(entry, row.started_at)))
        kept.append((line, jotting, entry.pk))
    at = dict(row.entry_rows.values_list("pk", "at"))  # a later line may have moved the whole session to its day
    return [PastedLine(line, jotting, at[key]) for line, jotting, key in kept]


def look_at_pasted(row: SessionRow, text: str, who: AbstractUser) -> list[PastedLine]:
    """What pasted notes would come to, every line told back; nothing is kept.

    Raises
    ------
    MusterError, Refused
        As ``log_pasted``.
    """
    began, dated = row.started_at, row.dated
    with transaction.atomic():
        lines = log_pasted(row, text, who)
        transaction.set_rollback(True)
    row.started_at, row.dated = began, dated
    return lines
