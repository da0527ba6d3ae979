"""A finding as every page and export shows it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from ..quantities import Value
from ..working import Working


class Topic(StrEnum):
    """What a finding is about, in order of consequence; its heading is what it answers."""

    BASELINE = "baseline"
    HELD = "held"
    TRIPS = "trips"
    STARTS = "starts"
    DIPS = "dips"
    STEPS = "steps"
    TRANSFER = "transfer"
    LEGS = "legs"
    SHARES = "shares"
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

    @property
    def heading(self) -> str:
        """The question that its findings answer."""
        return HEADINGS[self]


HEADINGS = {
    Topic.BASELINE: "What the loads draw on the mains",
    Topic.HELD: "What it held",
    Topic.TRIPS: "Where it tripped",
    Topic.STARTS: "What it started",
    Topic.DIPS: "Where it dipped",
    Topic.STEPS: "How it takes a load",
    Topic.TRANSFER: "How long the break is",
    Topic.LEGS: "How the legs stood",
    Topic.SHARES: "How the two share",
    Topic.REGULATION: "How its voltage falls with load",
    Topic.DROOP: "How its frequency falls with load",
    Topic.WAVEFORM: "What its wave is like",
    Topic.HEATING: "What the wave costs in heat",
    Topic.HEAT: "How warm it gets",
    Topic.NOISE: "How loud it is",
    Topic.ENERGY: "What it gave",
    Topic.GAUGE: "Whether its gauge tells the truth",
    Topic.FUEL: "What it burns",
    Topic.RECHARGE: "What recharging takes",
    Topic.CONVERSION: "What conversion costs",
    Topic.SOLAR: "What the panels do",
    Topic.CUT_OFFS: "Where it cuts off",
    Topic.DUTY: "How the load came and went",
    Topic.DISPLAY: "Whether its display tells the truth",
}


class Warns(StrEnum):
    """What a finding warns of, where that is more than its figure says."""

    NEUTRAL = "neutral"
    """The legs' volts move apart as at a poor neutral."""
    STRAY_CURRENT = "stray_current"
    """The neutral carries less than it must: the rest goes another way."""
    RAGGED_END = "ragged_end"
    """The output ended raggedly."""


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
