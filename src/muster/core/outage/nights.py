"""One outage told: what happened in it, in sentences, what ran when, what it drew and what was left."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..quantities import THIN, duration, number, plain
from .layout import Happening

DIMS_X = 0.9
"""Lamps are seen to dim below this share of nominal volts: a sag by IEC 61000-4-30. As a start's lowest, the lowest of each
load is told."""
NEAR_X = 0.05
"""Volts so near to nominal are not what a load minds: its hertz are. Ours."""
MOST_ALIKE = 3
"""What happens by the same load more often than this in one outage is told once. Ours."""


@dataclass(frozen=True)
class OutageEvent:
    """One thing that happened in one outage: seconds from its beginning, what, by which load (empty for none), and its value.

    ``on`` is the heaviest of what else ran then, ``volts`` the value as volts between the load's two wires, where it is
    a share of them [V]. ``times``: so often it happened by the same load, of which it is the first.
    """

    at_s: float
    kind: Happening
    load: str
    value: float
    on: str = ""
    volts: float = 0.0
    times: int = 1

    @property
    def is_news(self) -> bool:
        """Whether it is worth telling: a start that held is not."""
        return self.kind not in (Happening.STARTED, Happening.TOGETHER)

    def told(self, first_hour: int) -> str:
        """It in a sentence, with the clock of an outage that began at an hour of the day."""
        again = f" (the first of {self.times} times)" if self.times > 1 else ""
        return f"{clock(self.at_s, first_hour)} {told_happening(self)}{again}"


@dataclass(frozen=True)
class Night:
    """One outage: its news, and by steps of ``step_s`` the highest watts and what is left at the end of each.

    ``runs`` are the loads with the stretches in which each ran [s]; ``left`` is of the battery [Wh] or the
    tank [L] as ``left_unit`` says, empty where there is neither.
    """

    events: tuple[OutageEvent, ...] = ()
    step_s: float = 60.0
    watts: tuple[float, ...] = ()
    left: tuple[float, ...] = ()
    left_unit: str = ""
    runs: tuple[tuple[str, tuple[tuple[float, float], ...]], ...] = ()


NO_NIGHT = Night()


def told_of(events: Sequence[OutageEvent]) -> tuple[OutageEvent, ...]:
    """The news among what happened, and of each load the start at which the lamps dimmed most."""
    dims: dict[str, OutageEvent] = {}
    for event in events:
        if event.kind is Happening.STARTED and 0 < event.value < DIMS_X:
            dims[event.load] = min(dims.get(event.load, event), event, key=lambda item: item.value)
    return tuple(event for event in events if event.is_news or dims.get(event.load) is event)


def in_short(news: Sequence[OutageEvent]) -> tuple[OutageEvent, ...]:
    """What happened, told once where it happens by the same load more than ``MOST_ALIKE`` times: by its first, with how often."""
    times = Counter((event.kind, event.load) for event in news)
    told: dict[tuple[Happening, str], int] = {}
    result = []
    for event in news:
        alike = (event.kind, event.load)
        told[alike] = told.get(alike, 0) + 1
        if times[alike] <= MOST_ALIKE:
            result.append(event)
        elif told[alike] == 1:
            result.append(replace(event, times=times[alike]))
    return tuple(result)


def clock(at_s: float, first_hour: int) -> str:
    """The time of day at a moment of an outage; of a later day with which day it is."""
    minutes = int(at_s // 60) + 60 * first_hour
    day = minutes // (24 * 60)
    return f"{minutes // 60 % 24:02d}:{minutes % 60:02d}" + (f" (day {day + 1})" if day else "")


def told_happening(event: OutageEvent) -> str:
    """What happened, in words."""
    left = f"{number(event.value * 100)}{THIN}%"
    volts = plain(event.volts, "v")
    who = f"the {event.load}"
    on = f" on the {event.on}" if event.on else ""
    return {
        Happening.TRIP: f"it trips under what is on, {who} last",
        Happening.TRIP_AT_START: f"it trips as {who} starts{on}",
        Happening.BREAKER: f"a breaker trips, {who} last",
        Happening.STALL: f"{who} stalls{on}: {volts} at its start"
        if event.value > 0
        else f"{who} does not start{on}, as it was seen not to",
        Happening.SLOW_START: f"{who} starts slowly{on}: {volts}",
        Happening.GAVE_UP: f"{who} does not start",
        Happening.TOGETHER: f"{who} starts at the moment of another",
        Happening.EMPTY: "the battery is empty",
        Happening.CUT_OFF: f"the battery's volts sag to the cut-off, {who} last, {plain(event.value, 'wh')} left",
        Happening.DRY: "the tank is dry",
        Happening.REFUEL: f"it stops to cool and is filled with {plain(event.value, 'l')}",
        Happening.BACK: f"power again after {duration(event.value)}",
        Happening.OUT_OF_TOLERANCE: f"volts or hertz are out of what {who} tolerates"
        + (f", {left} of the volts" if abs(event.value - 1) > NEAR_X else ""),
        Happening.DIP: f"electronics do not ride through the start of {who}{on}, {left} of the volts",
        Happening.SHED: f"{who} is left off, for the battery is low",
        Happening.FULL: "the battery is full",
        Happening.STARTED: f"{who} starts{on}: {volts}, and the lights dim",
    }[event.kind]
