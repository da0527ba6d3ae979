"""Protocols, plans and sessions: what is planned, what was jotted, and what the jottings say."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from typing import Literal

from ..errors import UnknownChoice, require_between
from ..kit import USUAL_KIT, Instrument, Kit
from ..loads import Wave
from .places import Place, Stat
from .protocols import PROTOCOLS

BELIEVABLE = {
    "v": (0, 2000),
    "a": (0, 5000),
    "w": (0, 1e6),
    "va": (0, 1e6),
    "pf": (0, 1),
    "hz": (0, 1000),
    "dba": (0, 194),
    "soc_pct": (0, 100),
    "wh": (0, 1e7),
    "fuel_l": (0, 1e4),
    "temp_c": (-90, 1200),
    "rpm": (0, 1e5),
    "gap_ms": (0, 6e5),
    "water_kg": (0, 100),
    "heat_s": (0, 86400),
    "thd_pct": (0, 200),
    "clock_s": (30, 90),
}
"""Lowest and highest figure that a home's backup power can show, by quantity. 194 dB: the
loudest undistorted sound at one atmosphere. Outside it is a slip of the tongue or the thumb."""


LONGEST_S = 366 * 24 * 3600.0
"""No session is a year long."""


@dataclass(frozen=True)
class Reading:
    """One figure read: SI ``value`` of a ``quantity`` (``v a w va pf hz dba soc_pct wh fuel_l temp_c rpm gap_ms water_kg heat_s thd_pct clock_s``)."""

    quantity: str
    value: float
    place: Place = Place.NONE
    stat: Stat = Stat.STEADY
    instrument: str = ""
    resolution: float = 0.0
    distance_m: float | None = None
    spot: str = ""
    type: Literal["reading"] = "reading"

    @property
    def measured(self) -> str:
        """The quantity as an instrument's range names it: ``dc_v`` for volts on the DC side."""
        return f"dc_{self.quantity}" if self.place.is_dc and self.quantity in ("v", "a", "w") else self.quantity

    @property
    def believable(self) -> bool:
        """Whether the figure can be true at all; one that cannot is kept, flagged, and not used."""
        low, high = BELIEVABLE.get(self.quantity, (float("-inf"), float("inf")))
        return low <= self.value <= high


@dataclass(frozen=True)
class Switch:
    """A load switched on or off, by its key among the loads."""

    load: str
    on: bool
    type: Literal["switch"] = "switch"


@dataclass(frozen=True)
class Start:
    """A start of a load that the readings of the same entry belong to: ``hot`` soon after a run, ``eased`` by a soft
    starter, ``alone`` with nothing else on. Several in one entry are one start of all of them together."""

    load: str
    hot: bool = False
    eased: bool = False
    alone: bool = False
    type: Literal["start"] = "start"


class EventName(StrEnum):
    """What may happen on a bench; an event of another name is kept as it was said."""

    TRIP = "trip"
    DIP = "dip"
    STALL = "stall"
    HELD = "held"
    CODE = "code"
    FLICKER = "flicker"
    WARM = "warm"
    HOLD = "hold"
    RESET = "reset"
    STEP = "step"
    STANDS = "stands"
    SMELL = "smell"
    NOISE = "noise"
    CAUTIONS = "cautions"
    PAUSE = "pause"
    RESUME = "resume"
    FULL = "full"
    EMPTY = "empty"
    REFILL = "refill"
    BURNT = "burnt"
    THROUGH = "through"
    CUT = "cut"
    CUT_OFF = "cut_off"
    BEEP = "beep"
    BOG = "bog"
    BACK = "back"
    ADJUST = "adjust"
    SERVICE = "service"
    REPLUG = "replug"
    FAN = "fan"
    LIVE = "live"
    DISPLAY = "display"
    ECO = "eco"


@dataclass(frozen=True)
class Event:
    """Something that happened: trip, dip, code, flicker, warm, stall, held, hold, reset, step or another."""

    name: str
    detail: str = ""
    type: Literal["event"] = "event"


@dataclass(frozen=True)
class Note:
    """Words kept as they were said."""

    text: str
    type: Literal["note"] = "note"


class LengthOf(StrEnum):
    """What a length of time is of: held so long, so long until it tripped, until it was back, heated so long."""

    HELD = "held"
    TRIP = "trip"
    BACK = "back"
    HEATED = "heated"


@dataclass(frozen=True)
class Length:
    """How long something in the entry took [s], as it was said; ``resolution_s`` is what its last digit is worth."""

    for_s: float
    of: LengthOf = LengthOf.HELD
    resolution_s: float = 0.0
    type: Literal["length"] = "length"

    def __post_init__(self) -> None:
        require_between(self.for_s, 0, LONGEST_S, "for_s")


@dataclass(frozen=True)
class LookedAt:
    """A point of an inspection answered: the point and the answer by their slugs, and a note as it was said."""

    point: str
    answer: str
    note: str = ""
    type: Literal["looked_at"] = "looked_at"


Item = Reading | Switch | Start | Event | Note | Length | LookedAt

MOST_ENTRIES = 1_000_000


@dataclass(frozen=True)
class Entry:
    """One line of the running record, ``t_s`` seconds after the session began.

    ``supersedes`` is the seq of an earlier entry that this one undoes (no items of
    its own) or supersedes; ``who`` wrote it. ``amendment`` is the number of the
    amendment it came with after the session was sealed, 0 for the record itself.
    """

    seq: int
    t_s: float
    items: tuple[Item, ...]
    raw: str = ""
    supersedes: int | None = None
    who: str = ""
    amendment: int = 0

    def __post_init__(self) -> None:
        require_between(self.amendment, 0, MOST_ENTRIES, "amendment")
        require_between(self.t_s, -LONGEST_S, LONGEST_S, "t_s")
        require_between(self.seq, 1, MOST_ENTRIES, "seq")


@dataclass(frozen=True)
class Step:
    """A step of a plan: what to switch on, and what it should come to.

    ``target_w`` is what was asked for; ``planned_w`` what the chosen loads add up to.
    ``hot``: its start comes soon after a run; ``background``: what is heard is
    not the source; ``distance_m``: where it is heard; ``on_mains``: it is done
    on the mains.
    """

    label: str
    loads: tuple[str, ...] = ()
    target_w: float | None = None
    planned_w: float | None = None
    hold_s: float = 0.0
    ask: str = ""
    hot: bool = False
    background: bool = False
    distance_m: float | None = None
    on_mains: bool = False


@dataclass(frozen=True)
class Conditions:
    """The state of things when a session began."""

    temp_c: float | None = None
    altitude_m: float | None = None
    fuel: str = ""
    warm: bool = False
    eco: bool = False


@dataclass(frozen=True)
class Session:
    """A protocol being run on a source, with its record.

    ``kit`` is the kit as it was when the session began (empty: the usual one),
    so that a sealed session keeps the uncertainty it was sealed with.
    ``checkin_s`` is how often somebody is to look in, 0 for never.
    """

    protocol: str
    steps: tuple[Step, ...] = ()
    entries: tuple[Entry, ...] = ()
    conditions: Conditions = field(default_factory=Conditions)
    kit: tuple[Instrument, ...] = ()
    checkin_s: float = 0.0

    def __post_init__(self) -> None:
        require_between(self.checkin_s, 0, LONGEST_S, "checkin_s")
        if self.protocol not in PROTOCOLS:
            raise UnknownChoice(f"got “{self.protocol}”", where="protocol", want=", ".join(PROTOCOLS))

    def kit_on(self, wave: Wave = Wave.SINE) -> Kit:
        """The kit, reading a source of this waveform."""
        return Kit(self.kit or USUAL_KIT, wave)

    @cached_property
    def voided(self) -> frozenset[int]:
        """The entries that count no longer, by seq: superseded, or undone and not put back.

        An undo that is itself undone undoes nothing; a correction that is undone leaves what it corrected.
        """
        voided: set[int] = set()
        cancelled: set[int] = set()
        for entry in sorted(self.entries, key=lambda entry: -entry.seq):
            if entry.supersedes is None or entry.seq in cancelled:
                continue
            voided.add(entry.supersedes)
            if not entry.items:
                cancelled.add(entry.supersedes)
        return frozenset(voided)

    @cached_property
    def effective(self) -> tuple[Entry, ...]:
        """The entries that count: neither undone nor superseded, in the order of their times."""
        voided = self.voided
        kept = (entry for entry in self.entries if entry.seq not in voided and entry.items)
        return tuple(sorted(kept, key=lambda entry: (entry.t_s, entry.seq)))
