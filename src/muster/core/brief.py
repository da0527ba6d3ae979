"""The brief: whose home, what it must carry, for how long."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import StrEnum
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from .errors import UnknownChoice, require_above, require_between
from .loads import TIERS, Load, Tier
from .measures import METRIC, US, Measures
from .sources import Site
from .sources.panels import Location
from .supply import SYSTEMS, System
from .trade.schools import Schools, as_judged


class Wiring(StrEnum):
    """How the source is to feed the home."""

    CORDS = "cords"
    INTERLOCK = "interlock"
    ESSENTIAL = "essential"
    AUTOMATIC = "automatic"

    @property
    def label(self) -> str:
        """The approach as it is written on screen."""
        return {
            "cords": "cords to the appliances",
            "interlock": "inlet and interlock, whole panel",
            "essential": "essential-circuits panel, by hand",
            "automatic": "automatic transfer",
        }[self.value]


class BringUp(StrEnum):
    """How the loads come back after the mains has failed."""

    ONE_BY_ONE = "one_by_one"
    AT_ONCE = "at_once"

    @property
    def label(self) -> str:
        """The way as it is written on screen."""
        return {"one_by_one": "one by one, by the start order", "at_once": "all at once"}[self.value]


class Sky(StrEnum):
    """What the sky is like over an outage."""

    CLEAR = "clear"
    MIXED = "mixed"
    OVERCAST = "overcast"

    @property
    def label(self) -> str:
        """The sky as it is written on screen."""
        return {"clear": "clear", "mixed": "clouds and sun", "overcast": "overcast"}[self.value]


WARMEST_HOUR = 15.0
US_BELOW_V = 150.0
"""A supply of fewer volts to neutral is usual where feet and gallons are."""


def _require_zone(zone: str) -> None:
    try:
        ZoneInfo(zone)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise UnknownChoice(f"“{zone}” is not a zone", where="zone", want="such as Europe/Dublin or UTC") from None


@dataclass(frozen=True)
class Brief:
    """What one home needs of a source.

    Hours are of the local day; noise limits are at the nearest neighbour and None
    when nobody asked. ``notes`` are words about the home that decide nothing.
    ``of_units``: no home is judged, the question is what the units do.
    ``measures``: the units that were chosen to be shown, or typed first.

    ``reset_min`` and ``reset_night_min`` are how long it takes somebody to come
    and reset a source that tripped or stopped, by day and in the quiet hours.
    ``place``, ``month`` (1 to 12) and ``sky`` say what sun there is; ``swing_k``
    how far the day is warmer than its mean and the night colder; ``room_c`` how
    warm the rooms are in which cold stores stand. ``schools`` say how this job
    takes what practitioners differ on.
    """

    question: str = ""
    system: System = SYSTEMS["split-120-240-60"]
    outage_h: float = 24.0
    outage_from_hour: int = 17
    reserve_pct: float = 20.0
    quiet_from_hour: int = 22
    quiet_to_hour: int = 7
    noise_day_dba: float | None = None
    noise_night_dba: float | None = None
    neighbour_m: float = 20.0
    site: Site = field(default_factory=Site)
    wiring: Wiring = Wiring.INTERLOCK
    bring_up: BringUp = BringUp.ONE_BY_ONE
    zone: str = "UTC"
    notes: str = ""
    of_units: bool = False
    measures: Measures = Measures()
    reset_min: float = 10.0
    reset_night_min: float = 45.0
    place: Location | None = None
    month: int | None = None
    sky: Sky = Sky.MIXED
    swing_k: float = 0.0
    room_c: float = 18.0
    schools: Schools = Schools()

    def __post_init__(self) -> None:
        require_above(self.outage_h, 0, "outage_h")
        require_between(self.outage_h, 0, 24 * 14, "outage_h")
        require_between(self.reserve_pct, 0, 400, "reserve_pct")
        require_above(self.neighbour_m, 0, "neighbour_m")
        for name in ("outage_from_hour", "quiet_from_hour", "quiet_to_hour"):
            require_between(getattr(self, name), 0, 23, name)
        for name in ("noise_day_dba", "noise_night_dba"):
            if getattr(self, name) is not None:
                require_between(getattr(self, name), 10, 120, name)

        for name in ("reset_min", "reset_night_min"):
            require_between(getattr(self, name), 0, 24 * 60, name)
        if self.month is not None:
            require_between(self.month, 1, 12, "month")
        require_between(self.swing_k, 0, 30, "swing_k")
        require_between(self.room_c, -40, 60, "room_c")
        _require_zone(self.zone)

    @property
    def shown_in(self) -> Measures:
        """The units that figures are shown in: as chosen or typed, else as is usual with the supply."""
        return self.measures.filled(US if self.system.v_nominal < US_BELOW_V else METRIC)

    @property
    def quiet_hours(self) -> frozenset[int]:
        """The hours of the day in which the night limit holds."""
        span = (self.quiet_to_hour - self.quiet_from_hour) % 24
        return frozenset((self.quiet_from_hour + i) % 24 for i in range(span))

    def air_c(self, hour: float) -> float:
        """Air temperature at an hour of the day: warmest at three in the afternoon. [°C]"""
        return self.site.temp_c + self.swing_k * math.cos(2 * math.pi * (hour - WARMEST_HOUR) / 24)

    def covers_night(self) -> bool:
        """Whether the outage reaches into the quiet hours."""
        hours = {(self.outage_from_hour + i) % 24 for i in range(min(24, int(self.outage_h + 0.999)))}
        return bool(hours & self.quiet_hours)


@dataclass(frozen=True)
class Home:
    """A brief with the loads of the household.

    Loads of the tier ``test`` are taken out of ``loads``: an overload can be
    planned with them, and what the home needs does not change.
    """

    brief: Brief
    loads: tuple[Load, ...] = ()
    test_loads: tuple[Load, ...] = ()

    def __post_init__(self) -> None:
        own = tuple(load for load in self.loads if load.tier is not Tier.TEST)
        if len(own) < len(self.loads):
            tests = tuple(load for load in self.loads if load.tier is Tier.TEST)
            object.__setattr__(self, "test_loads", (*self.test_loads, *tests))
            object.__setattr__(self, "loads", own)

    @property
    def every(self) -> tuple[Load, ...]:
        """Everything that may hang on a source under test: the household's loads, and those for tests."""
        return (*self.loads, *self.test_loads)

    @property
    def by_key(self) -> dict[str, Load]:
        """The loads by their key, those for tests included."""
        return {load.key: load for load in self.every}

    def within(self, scope: Tier) -> tuple[Load, ...]:
        """The loads of a tier and of those above it, as the job's schools take them."""
        wanted = TIERS[: TIERS.index(scope) + 1]
        return tuple(as_judged(load, self.brief.schools) for load in self.loads if load.tier in wanted)
