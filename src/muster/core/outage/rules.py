"""What the household does in an outage: rules that the kernel follows."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import require_above, require_between
from ..loads import Tier


@dataclass(frozen=True)
class Charging:
    """A charger on another supply: what it draws [W], and from which hour of the day until which."""

    w: float
    from_hour: int
    to_hour: int

    def __post_init__(self) -> None:
        require_above(self.w, 0, "w")
        require_between(self.from_hour, 0, 23, "from_hour")
        require_between(self.to_hour, 0, 24, "to_hour")

    @property
    def hours(self) -> frozenset[int]:
        """The hours of the day in which it charges."""
        span = (self.to_hour - self.from_hour) % 24 or 24
        return frozenset((self.from_hour + i) % 24 for i in range(span))


@dataclass(frozen=True)
class Rules:
    """What the household does.

    ``apart``: pairs of loads, by key, never on together: the second to come waits.
    ``first``: loads, by key, that are brought up before all others.
    ``shed_below``: a tier is left off while the battery is below this share of what it gives.
    ``charging``: a charger on a generator or another supply.
    ``refuel_before_bed``: the tank is filled in the hour before the quiet hours.
    """

    apart: tuple[tuple[str, str], ...] = ()
    first: tuple[str, ...] = ()
    shed_below: tuple[tuple[Tier, float], ...] = ()
    charging: Charging | None = None
    refuel_before_bed: bool = False

    def __post_init__(self) -> None:
        for _, share in self.shed_below:
            require_between(share, 0, 1, "shed_below")


NO_RULES = Rules()
"""The household does nothing."""
