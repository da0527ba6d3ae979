"""What comes of an outage that is played through many times on one source."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from ..quantities import Grade
from .demand import wilson
from .layout import Happening
from .nights import NO_NIGHT, Night

PLAYED_METHOD = 5
"""Raised when the play changes, so that kept results are made again."""
NOT_PLAYED = ("question", "notes", "of_units", "measures")
"""What of a brief the play does not hang on."""
FIRST_DRAWS, DRAWS = 200, 2000
"""A first picture, and what a status hangs on (physics §9)."""


def played_key(
    loads: Sequence[Any], brief: Mapping[str, Any], character: Any, rules: Any, draws: int, seed: int
) -> dict[str, Any]:
    """All that a played outage hangs on, as plain values: the same question has the same answer."""
    relevant = {name: value for name, value in brief.items() if name not in NOT_PLAYED}
    how = [PLAYED_METHOD, draws, seed]
    return {"loads": list(loads), "brief": relevant, "character": character, "rules": rules, "of": how}


class Failure(StrEnum):
    """What may go wrong in an outage."""

    TRIP = "trip"
    START = "failed_start"
    RUN_OUT = "run_out"
    OUT_OF_TOLERANCE = "out_of_tolerance"
    DIP = "dip"

    @property
    def label(self) -> str:
        """It as it is written on screen."""
        return {
            "trip": "it trips",
            "failed_start": "a start fails",
            "run_out": "it runs out",
            "out_of_tolerance": "volts or hertz are out of what loads tolerate",
            "dip": "electronics do not ride through a dip",
        }[self.value]


@dataclass(frozen=True)
class Chance:
    """In how many of the outages something befell."""

    hits: int
    draws: int

    @property
    def share(self) -> float:
        """Of all."""
        return self.hits / self.draws if self.draws else 0.0

    @property
    def ends(self) -> tuple[float, float]:
        """Lower and upper Wilson end at 95 %."""
        return wilson(self.hits, self.draws)


@dataclass(frozen=True)
class HourBand:
    """What nine in ten, half and one in ten outages reach, at one moment or in one hour."""

    p10: float
    p50: float
    p90: float


NO_BAND = HourBand(0.0, 0.0, 0.0)


@dataclass(frozen=True)
class Spread:
    """How much of what is not sure of a failure one unknown makes (0 to 1), and the test that settles it."""

    name: str
    share: float
    settled_by: str
    grade: Grade


@dataclass(frozen=True)
class RowChance:
    """How often a line of a verdict fails, with doubt and as stated, and what makes the doubt.

    ``leans``: in more than a hundredth of the outages it lives on what is held for a while alone, by a figure of
    ``leans_grade``. ``stops`` is the share of outages in which the tank ran dry with fuel at hand. ``disturbed``: in so
    many the source was taken down by something else: what is not live does not fail, and shows nothing.
    """

    failed: Chance
    stated: Chance
    spreads: tuple[Spread, ...] = ()
    leans: bool = False
    leans_grade: Grade | None = None
    stops: float = 0.0
    disturbed: float = 0.0


def pair_key(key: str, other: str) -> str:
    """The key of two loads that start together, whichever is named first."""
    first, second = sorted((key, other))
    return f"starting:{first}+{second}"


@dataclass(frozen=True)
class CausedBy:
    """How often something happened by one load, in a hundred outages."""

    kind: Happening
    load: str
    in_hundred: float

    @property
    def told(self) -> str:
        """What the load does, in words."""
        return {
            Happening.TRIP: f"it trips with the {self.load} come on last",
            Happening.TRIP_AT_START: f"it trips as the {self.load} starts",
            Happening.BREAKER: f"a breaker trips with the {self.load} come on last",
            Happening.STALL: f"the {self.load} stalls",
            Happening.SLOW_START: f"the {self.load} starts slowly",
            Happening.CUT_OFF: f"the battery is cut off with the {self.load} come on last",
            Happening.OUT_OF_TOLERANCE: f"volts or hertz are out of what the {self.load} tolerates",
            Happening.DIP: f"electronics do not ride through the start of the {self.load}",
        }[self.kind]


@dataclass(frozen=True)
class OutagePlayed:
    """An outage played through ``draws`` times, with what is not known well drawn from its band.

    ``chances`` with doubt and ``stated_chances`` with every figure as it is
    stated, on the same random numbers. ``served`` is the share of its hours in
    which each tier had power. Bands are by hour of the outage: ``charge_wh`` and
    ``fuel_l`` at its edges, ``hour_w`` and ``neighbour_dba`` in it; empty where
    there is none. ``typical`` and ``worst`` are draws worth telling: the middle
    one, and the worst of a hundred, by time without power; ``typical_night`` and ``worst_night`` tell them. ``sun_w`` is
    what the panels give in the middle of each hour, between clear and overcast where the sky is mixed; empty without sun; ``without_h`` how long there is no power in an outage, and ``trips`` how often it trips. ``rows`` are
    the lines of a verdict that are judged by chance, by their key; a start has the load's key behind it.
    """

    draws: int
    seed: int
    hours: tuple[int, ...]
    chances: dict[Failure, Chance]
    stated_chances: dict[Failure, Chance]
    served: dict[str, float]
    served_h: dict[str, float]
    lowest_v: HourBand
    lowest_hz: HourBand
    charge_wh: tuple[HourBand, ...]
    fuel_l: tuple[HourBand, ...]
    hour_w: tuple[HourBand, ...]
    leg_hour_w: tuple[tuple[HourBand, ...], ...]
    neighbour_dba: tuple[HourBand, ...]
    run_out_h: HourBand | None
    refuels: HourBand
    refuel_by_hour: tuple[float, ...]
    burnt_l: HourBand
    sun_wh: HourBand
    causes: tuple[CausedBy, ...]
    together: tuple[tuple[str, str, float], ...]
    spreads: dict[Failure, tuple[Spread, ...]]
    rows: dict[str, RowChance]
    missing: tuple[str, ...]
    typical: int
    worst: int
    sun_w: tuple[float, ...] = ()
    without_h: HourBand = NO_BAND
    trips: HourBand = NO_BAND
    typical_night: Night = NO_NIGHT
    worst_night: Night = NO_NIGHT
    clean: Chance | None = None
    """In how many of the outages nothing at all went wrong."""
