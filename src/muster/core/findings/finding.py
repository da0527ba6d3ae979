"""A finding as every page and export shows it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from ..quantities import Value
from ..working import Working


class Topic(StrEnum):
    """What a finding is about, in order of consequence; its heading is what it answers."""

    OUTAGE = "outage"
    BASELINE = "baseline"
    HELD = "held"
    TRIPS = "trips"
    STARTS = "starts"
    DIPS = "dips"
    STEPS = "steps"
    TRANSFER = "transfer"
    LEGS = "legs"
    SHARES = "shares"
    NOTICED = "noticed"
    REGULATION = "regulation"
    DROOP = "droop"
    WAVEFORM = "waveform"
    HEATING = "heating"
    HEAT = "heat"
    NOISE = "noise"
    ENERGY = "energy"
    GAUGE = "gauge"
    FUEL = "fuel"
    RECHARGE = "recharge"
    CONVERSION = "conversion"
    SOLAR = "solar"
    CUT_OFFS = "cut_offs"
    DUTY = "duty"
    DISPLAY = "display"
    INSPECTION = "inspection"

    @property
    def heading(self) -> str:
        """The question that its findings answer."""
        return TOPICS[self].heading

    @property
    def protocol(self) -> str:
        """The protocol that is run to answer it."""
        return TOPICS[self].protocol


@dataclass(frozen=True)
class About:
    """What a topic answers, and the protocol that is run to answer it."""

    heading: str
    protocol: str


TOPICS = {
    Topic.OUTAGE: About("How a real outage went", "outage"),
    Topic.BASELINE: About("What the loads draw on the mains", "baseline"),
    Topic.HELD: About("What it held", "ladder"),
    Topic.TRIPS: About("Where it tripped", "overload"),
    Topic.STARTS: About("What it started", "starts"),
    Topic.DIPS: About("Where it dipped", "starts"),
    Topic.STEPS: About("How it takes a load", "load_steps"),
    Topic.TRANSFER: About("How long the break is", "transfer"),
    Topic.LEGS: About("How the legs stood", "legs"),
    Topic.SHARES: About("How the two share", "parallel"),
    Topic.NOTICED: About("What was noticed beside it", "ladder"),
    Topic.REGULATION: About("How its voltage falls with load", "ladder"),
    Topic.DROOP: About("How its frequency falls with load", "ladder"),
    Topic.WAVEFORM: About("What its wave is like", "waveform"),
    Topic.HEATING: About("What the wave costs in heat", "heating_check"),
    Topic.HEAT: About("How warm it gets", "endurance"),
    Topic.NOISE: About("How loud it is", "noise_walk"),
    Topic.ENERGY: About("What it gave", "endurance"),
    Topic.GAUGE: About("Whether its gauge tells the truth", "endurance"),
    Topic.FUEL: About("What it burns", "endurance"),
    Topic.RECHARGE: About("What recharging takes", "recharge"),
    Topic.CONVERSION: About("What conversion costs", "idle"),
    Topic.SOLAR: About("What the panels do", "solar_input"),
    Topic.CUT_OFFS: About("Where it cuts off", "cut_offs"),
    Topic.DUTY: About("How the load came and went", "endurance"),
    Topic.DISPLAY: About("Whether its display tells the truth", "ladder"),
    Topic.INSPECTION: About("What it is like by hand and eye", "inspection"),
}


def topics_of(protocol: str) -> tuple[Topic, ...]:
    """What a protocol is run to answer."""
    return tuple(topic for topic in Topic if topic.protocol == protocol)


class Warns(StrEnum):
    """What a finding warns of, where that is more than its figure says."""

    NEUTRAL = "neutral"
    """The legs' volts move apart as at a poor neutral."""
    STRAY_CURRENT = "stray_current"
    """The neutral carries less than it must: the rest goes another way."""
    RAGGED_END = "ragged_end"
    """The output ended raggedly."""
    HOT = "hot"
    """Something smelled or smoked."""
    LIVE = "live"
    """Sockets are live with the switch off."""


@dataclass(frozen=True)
class Finding:
    """Something computed from readings.

    ``topic`` groups findings of one kind; ``sentence`` is what an owner
    understands; ``seqs`` are the entries it came from; ``needs`` names what
    would make it better, empty when it stands. ``span`` is the stretch of the
    strip it stands on [s after the session began], None where it has none;
    ``log`` is the name of the recorded log it was read off, ``capture`` that of the capture.
    ``warns`` is what an owner must be told of it, whatever its words are.
    """

    key: str
    topic: Topic
    title: str
    sentence: str
    value: Value
    workings: tuple[Working, ...]
    seqs: tuple[int, ...] = ()
    needs: str = ""
    span: tuple[float, float] | None = None
    log: str = ""
    capture: str = ""
    warns: Warns | None = None
