"""What is planned, what was jotted, and what the jottings say; the log line, the record replayed, and the checks on it."""

from .model import (
    BELIEVABLE,
    LONGEST_S,
    MOST_ENTRIES,
    Conditions,
    Entry,
    Event,
    EventName,
    Item,
    Length,
    LengthOf,
    LookedAt,
    Note,
    Reading,
    Session,
    Start,
    Step,
    Switch,
)
from .places import Place, Stat
from .protocols import PROTOCOLS, Protocol

__all__ = [
    "BELIEVABLE",
    "LONGEST_S",
    "MOST_ENTRIES",
    "PROTOCOLS",
    "Conditions",
    "Entry",
    "Event",
    "EventName",
    "Item",
    "Length",
    "LengthOf",
    "LookedAt",
    "Note",
    "Place",
    "Protocol",
    "Reading",
    "Session",
    "Start",
    "Stat",
    "Step",
    "Switch",
]
