"""The supply system of a home, its legs and its neutral."""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass
from enum import StrEnum

from .errors import require_above, require_between


class Leg(StrEnum):
    """Where a load sits: on leg 1, on leg 2, or across both."""

    ONE = "1"
    TWO = "2"
    BOTH = "both"

    @property
    def label(self) -> str:
        """The leg as it is written on screen."""
        return {"1": "leg 1", "2": "leg 2", "both": "both legs"}[self.value]


@dataclass(frozen=True)
class System:
    """A supply system: ``v_nominal`` is from leg to neutral [V], ``hz`` nominal [Hz]."""

    v_nominal: float
    hz: float
    legs: int = 1

    def __post_init__(self) -> None:
        require_between(self.v_nominal, 12, 1000, "v_nominal")
        require_between(self.hz, 16, 400, "hz")
        require_between(self.legs, 1, 2, "legs")

    @property
    def leg_names(self) -> tuple[Leg, ...]:
        """The legs there are, in order."""
        return (Leg.ONE,) if self.legs == 1 else (Leg.ONE, Leg.TWO)

    @property
    def label(self) -> str:
        """The system as the trade writes it, such as ``120/240 V 60 Hz split-phase``."""
        if self.legs == 2:
            return f"{self.v_nominal:g}/{2 * self.v_nominal:g} V {self.hz:g} Hz split-phase"
        return f"{self.v_nominal:g} V {self.hz:g} Hz single-phase"


SYSTEMS = {
    "split-120-240-60": System(120, 60, 2),
    "single-120-60": System(120, 60, 1),
    "single-230-50": System(230, 50, 1),
}
"""The systems offered by name; any other is given by volts, hertz and legs."""


def neutral_a(leg1_a: float, leg2_a: float, leg1_pf: float = 1.0, leg2_pf: float = 1.0) -> float:
    """Neutral current of a split-phase supply, magnitude [A].

    The legs stand half a turn apart, so the neutral carries their phasor
    difference; for like power factors that is ``|I1 - I2|``. Lagging power
    factors, harmonics left out.

    Raises
    ------
    OutOfRange
        If a power factor is not in (0, 1].

    References
    ----------
    Kirchhoff's current law at the neutral point.
    """
    for pf, where in ((leg1_pf, "leg1_pf"), (leg2_pf, "leg2_pf")):
        require_above(pf, 0, where)
        require_between(pf, 0, 1, where)
    leg1 = cmath.rect(leg1_a, -math.acos(leg1_pf))
    leg2 = cmath.rect(leg2_a, -math.acos(leg2_pf))
    return abs(leg1 - leg2)
