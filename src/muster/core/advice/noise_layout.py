"""Where source, house, nearest neighbour and a wall stand, seen from above."""

from __future__ import annotations

import math
from dataclasses import dataclass, fields

from ..errors import require_between

FAR_M = 500.0
MOST_UNITS = 4


@dataclass(frozen=True)
class NoiseLayout:
    """Where things stand, metres east and north of the source; a wall of no length is none.

    ``units`` is how many of the source run side by side.
    """

    house_x: float = -8.0
    house_y: float = 0.0
    neighbour_x: float = 20.0
    neighbour_y: float = 0.0
    wall_x1: float = 0.0
    wall_y1: float = 0.0
    wall_x2: float = 0.0
    wall_y2: float = 0.0
    units: int = 1

    def __post_init__(self) -> None:
        for field in fields(self):
            low = 1 if field.name == "units" else -FAR_M
            require_between(getattr(self, field.name), low, MOST_UNITS if field.name == "units" else FAR_M, field.name)

    @property
    def neighbour_m(self) -> float:
        """From source to neighbour."""
        return max(0.5, math.hypot(self.neighbour_x, self.neighbour_y))

    @property
    def has_wall(self) -> bool:
        """Whether there is a wall at all."""
        return math.hypot(self.wall_x2 - self.wall_x1, self.wall_y2 - self.wall_y1) > 0.5
