"""Protocols, plans and sessions: what is planned, what was jotted, and what the jottings say."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from typing import Literal

from ..errors import UnknownChoice, require_between
from ..kit import USUAL_KIT, Instrument, Kit
from ..loads import Wave


class Stat(StrEnum):
    """What a reading stands for: a steady figure unless said otherwise."""

    STEADY = "steady"
    LOWEST = "lowest"
    HIGHEST = "highest"
    BEFORE = "before"
    SETTLED = "settled"
    BACKGROUND = "background"


class Place(StrEnum):
    """Where an electrical reading was taken."""

    LEG1 = "1"
    LEG2 = "2"
    TOTAL = "total"
    NEUTRAL = "n"
    DC = "dc"
    PANELS = "pv"
    UNIT_A = "ua"
    UNIT_B = "ub"
    NONE = "-"

    @property
    def label(self) -> str:
        """The place as it is written on screen."""
        return {
            "1": "leg 1",
            "2": "leg 2",
            "total": "both legs",
            "n": "neutral",
            "dc": "DC",
            "pv": "panels",
            "ua": "unit A",
            "ub": "unit B",
            "-": "",
        }[self.value]

    @property
    def is_dc(self) -> bool:
        """Whether it is direct current that is read there."""
        return self in (Place.DC, Place.PANELS)


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
}
"""Lowest and highest figure that a home's backup power can show, by quantity. 194 dB: the
loudest undistorted sound at one atmosphere. Outside it is a slip of the tongue or the thumb."""


@dataclass(frozen=True)
class Reading:
    """One figure read: SI ``value`` of a ``quantity`` (``v a w va pf hz dba soc_pct wh fuel_l temp_c rpm gap_ms water_kg heat_s``)."""

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
    """A start of a load that the readings of the same entry belong to: ``hot`` soon after a run, ``eased`` by a soft starter."""

    load: str
    hot: bool = False
    eased: bool = False
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
    THROUGH = "through"
    CUT = "cut"


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


Item = Reading | Switch | Start | Event | Note


LONGEST_S = 366 * 24 * 3600.0
"""No session is a year long."""
MOST_ENTRIES = 1_000_000


@dataclass(frozen=True)
class Entry:
    """One line of the running record, ``t_s`` seconds after the session began.

    ``supersedes`` is the seq of an earlier entry that this one undoes (no items of
    its own) or supersedes; ``who`` wrote it.
    """

    seq: int
    t_s: float
    items: tuple[Item, ...]
    raw: str = ""
    supersedes: int | None = None
    who: str = ""

    def __post_init__(self) -> None:
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

    @property
    def effective(self) -> tuple[Entry, ...]:
        """The entries that count: neither undone nor superseded, in the order of their times."""
        voided = {entry.supersedes for entry in self.entries}
        kept = (entry for entry in self.entries if entry.seq not in voided and entry.items)
        return tuple(sorted(kept, key=lambda entry: (entry.t_s, entry.seq)))


@dataclass(frozen=True)
class Protocol:
    """A kind of test: how it is done, what it gives, roughly how long it takes."""

    slug: str
    name: str
    how: str
    gives: str
    minutes: int


PROTOCOLS = {
    protocol.slug: protocol
    for protocol in (
        Protocol(
            "baseline",
            "Baseline",
            "Every load on the mains, alone: watts, PF, start, its own noise.",
            "the demand at grade A",
            60,
        ),
        Protocol("idle", "Idle", "Source on, nothing connected; DC amps or watts, fans, noise.", "idle watts", 15),
        Protocol(
            "ladder",
            "Ladder",
            "Loads added step by step to 25, 50, 75, 100 % of the claim and past it as far as the job allows; hold at the rating.",
            "held and trip points, regulation, droop",
            60,
        ),
        Protocol(
            "starts",
            "Starts",
            "Each motor alone, then on top of base load, then again after a pause.",
            "inrush, dip, recovery, start held or stalled",
            40,
        ),
        Protocol(
            "load_steps",
            "Load steps",
            "Resistive steps on and off, and all off at once.",
            "transient voltage and frequency, class of an engine set",
            25,
        ),
        Protocol(
            "overload",
            "Overload",
            "Past the claim in fine steps until protection acts, or to the limit set.",
            "hold-time curve and trip point",
            40,
        ),
        Protocol(
            "legs",
            "Legs",
            "Everything on one leg; both motors on one leg; balance and imbalance held.",
            "per-leg limit, neutral current",
            30,
        ),
        Protocol("parallel", "Parallel", "Two units; share of current at each total.", "capacity of the pair", 45),
        Protocol("set_point", "Set-point", "No load, the load of interest, full.", "where to set the governor", 20),
        Protocol(
            "waveform",
            "Waveform",
            "Scope at no load, rated load, dirty load, and while shutting down.",
            "THD, crest factor, wave class",
            25,
        ),
        Protocol("transfer", "Transfer", "Mains off, source takes over; and back.", "gap in milliseconds", 20),
        Protocol(
            "noise_walk",
            "Noise walk",
            "Background first; at the unit, then three or more distances; idle and loaded.",
            "level against distance, level at the neighbour",
            25,
        ),
        Protocol(
            "endurance",
            "Endurance",
            "One load or a mix until empty, with check-ins.",
            "runtime, gauge truth, usable energy, heat",
            480,
        ),
        Protocol(
            "recharge",
            "Recharge",
            "From empty to full, from the mains or the sun.",
            "wall energy, charge efficiency",
            300,
        ),
        Protocol(
            "solar_input",
            "Solar input",
            "Panel strings against the input's window; live input against load.",
            "string layout, tracker behaviour",
            60,
        ),
        Protocol("cut_offs", "Cut-offs", "DC supply walked down and up.", "cut-offs and recovery points", 30),
        Protocol(
            "heating_check",
            "Heating check",
            "Weighed water in a microwave or kettle, on two sources.",
            "what a poor waveform costs",
            20,
        ),
        Protocol(
            "dedicated",
            "Dedicated circuit",
            "A furnace or boiler run by cord: inducer, igniter, blower in turn.",
            "start sequence, duty, hours",
            60,
        ),
    )
}
