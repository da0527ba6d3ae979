"""What is put right once all of a line is known: what a code ended, what it tripped at, and ratings among what was on."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from ..model import EventName, Reading
from ..places import Stat
from .events import Happened, Until
from .marks import MarkedLine

LASTED_THEN = re.compile(
    r"\d ?(?:s|secs?|seconds?|min|mins|minutes?|h|hrs?|hours?)\b,?(?P<then> (?:and then|then|until|till|before)(?: the| an?| it (?:showed|gave|threw))? )$"
)
"""A length of time that something puts an end to."""
LISTED = re.compile(r"(\d[\d.,]* ?k?w(?:atts?)?) ?(?:(?:\+|&|plus) ?[a-z]|: ?\d[\d.,]* ?k?w\b)", re.I)
"""Watts in a list of what is on; ``5.1 kw: 8 s`` are none."""
NAMED_BEFORE = re.compile(r"[a-z]\s*$", re.I)
"""A rating stands behind its name: ``2.0 kw + kettle 4.1 kw`` are two readings."""


def ended_by_a_code(line: MarkedLine, happened: list[Happened]) -> None:
    """``5.1 kw: 8 s then F07``: what a code puts an end to tripped.

    Parameters
    ----------
    line
        With what was understood of it.
    happened
        Its events; a trip is added.
    """
    if any(event.name in (EventName.TRIP, EventName.STALL, EventName.CUT_OFF) for event in happened):
        return
    for event in list(happened):
        ended = LASTED_THEN.search(line.text[: event.start].lower())
        if event.name is EventName.CODE and ended is not None:
            happened.append(Happened(EventName.TRIP, "", ended.start("then"), event.end, Until.TRIP))
            return


def before_the_trip(line: MarkedLine, happened: Sequence[Happened], readings: list[tuple[int, Reading]]) -> None:
    """``shut down after 4 s, 1450 w just before``: what was carried as it tripped, where nothing started.

    Parameters
    ----------
    line
        With what was understood of it.
    happened
        Its events.
    readings
        Each with where it stands; those of just before are put before the trip, as what stood.
    """
    trips = [event.start for event in happened if event.name is EventName.TRIP]
    if not trips:
        return
    before = [at for at, reading in readings if reading.stat is Stat.BEFORE]
    for index, (at, reading) in enumerate(readings):
        others = {r.stat for _, r in readings if r.quantity == reading.quantity} - {Stat.BEFORE, Stat.STEADY}
        told = any(line.clause(other) == line.clause(at) for other in before)
        if told and not others and reading.stat in (Stat.BEFORE, Stat.STEADY):
            readings[index] = (min(trips) - 1, replace(reading, stat=Stat.STEADY))


def drop_listed_watts(line: MarkedLine, readings: list[tuple[int, Reading]]) -> None:
    """``heater 2kw + toaster 3.75kw``: what the heater is, and then what was read.

    Parameters
    ----------
    line
        With what was understood of it.
    readings
        Each with where it stands; ratings are taken out.
    """
    for index, (at, reading) in reversed(list(enumerate(readings))):
        listed = LISTED.match(line.text, at) if reading.quantity == "w" else None
        rated = listed is not None and NAMED_BEFORE.search(line.text[:at])
        if listed is not None and rated and any(other.quantity == "w" and place > at for place, other in readings):
            del readings[index]
            line.shield(at, at + len(listed[1]))
