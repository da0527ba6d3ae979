"""A test written up afterwards: lines of notes made into a session, each at its moment."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from ..kit import Kit
from ..supply import System
from .log_line import Jotting, parted, read_line
from .model import Entry, Event, EventName, Session
from .moments import LATE, SOON, moment_of
from .protocols import PROTOCOLS
from .replay import replay

NOT_CONFIRMED = "not confirmed: written up from notes"
"""What a session of notes begins with: nobody was asked about its safety checks."""


@dataclass(frozen=True)
class Circumstances:
    """What lines are read against: the home's loads by key, its supply and zone, whether the source has a battery, and what its codes mean."""

    names: Mapping[str, str]
    start_s: Mapping[str, float]
    system: System
    zone: str
    battery: bool
    kit: Kit
    meaning_of: Callable[[str], str] = lambda _: ""


@dataclass(frozen=True)
class WrittenUp:
    """A session made of lines, when it began, and each line with what was understood by it and when it was."""

    session: Session
    started_at: datetime
    lines: tuple[tuple[str, Jotting, datetime], ...]


def write_up(
    session: Session, lines: Sequence[str], of: Circumstances, now: datetime, began: datetime | None = None
) -> WrittenUp:
    """Make a session of lines of notes; no line is refused.

    Parameters
    ----------
    session
        The session as it is begun: protocol, steps, kit, no entries.
    lines
        As they were written down; one that tells of several times is as many entries.
    of
        What they are read against.
    now
        The moment they are written up.
    began
        The date (and hour) the test is said to have begun; None where nobody said: then it
        lies as many days back as its lines need to lie in the past.

    Returns
    -------
    WrittenUp
        Its first entry says that no safety check was confirmed.
    """
    zone = ZoneInfo(of.zone)
    start = last = began or now.astimezone(zone)
    entries = [Entry(seq=1, t_s=0.0, items=(Event(EventName.CAUTIONS, NOT_CONFIRMED),), raw="written up from notes")]
    placed: list[tuple[str, Jotting, datetime]] = []
    dated = began is not None
    for line in (part for whole in lines for part in parted(whole)):
        soon = replace(session, entries=tuple(entries))
        jotting = read_in_context(line, soon, of)
        dated = dated or jotting.when.date is not None
        at = moment_of(jotting.when, spoken=last, began=start, last=last, zone=of.zone, written_up=True)
        if not _any_timed(placed) and jotting.when.clock is not None and at != last:
            at = _first(jotting, last, zone, placed=bool(placed))
            placed = [(raw, read, at) for raw, read, _ in placed]
            entries = [replace(entry, t_s=0.0) for entry in entries]
            start = at
        last = max(at, start)
        placed.append((line, jotting, last))
        entries.append(
            Entry(seq=len(entries) + 1, t_s=(last - start).total_seconds(), items=jotting.items, raw=line.strip())
        )
    back = timedelta() if dated or last <= now + SOON else timedelta(days=math.ceil((last - now) / timedelta(days=1)))
    kept = tuple((raw, read, at - back) for raw, read, at in placed)
    return WrittenUp(replace(session, entries=tuple(entries)), start - back, kept)


def _any_timed(placed: Sequence[tuple[str, Jotting, datetime]]) -> bool:
    return any(read.when.clock is not None for _, read, _ in placed)


def _first(jotting: Jotting, last: datetime, zone: ZoneInfo, *, placed: bool) -> datetime:
    """The moment of the first line that says a time: of its own date, else of the day the session is said to be of."""
    assert jotting.when.clock is not None
    hour, minute, second = jotting.when.clock
    local = last.astimezone(zone)
    at = local.replace(hour=hour, minute=minute, second=second, microsecond=0)
    if jotting.when.date is not None:
        year, month, day = jotting.when.date
        return at.replace(year=year or local.year, month=month, day=day)
    return at if at >= last - LATE else at + timedelta(days=1)


def read_in_context(line: str, session: Session, of: Circumstances) -> Jotting:
    """What a line says after what a session holds so far."""
    record = replay(session, of.system.legs)
    return read_line(
        line,
        of.names,
        of.system,
        of.start_s,
        session.kit_on(),
        on=record.on,
        heats=any(box.quantity == "heat_s" for box in PROTOCOLS[session.protocol].boxes),
        battery=of.battery,
        again=record.starts[-1].load if record.starts else "",
    )
