"""The noise plan: source, house, wall and neighbour from above, rings at 5 dB."""

from __future__ import annotations

from dataclasses import dataclass

from muster.core.advice.noise_plan import NoiseLayout, Sound, rings
from muster.core.quantities import THIN, plain, shown

WIDTH, HEIGHT, PAD = 640, 440, 16
LABEL_OFF = 16
"""A name is written so far beside its mark [px]."""
LABEL_ROOM = 0.75
"""A mark farther right than this share of the drawing has its name on its left."""
LEAST_M = 12.0
SCALE_BARS, LEAST_BAR_PX = (1, 2, 5, 10, 20, 50, 100, 200, 500), 40
"""How long the bar of the scale may be, in the units shown, and how long at least on the drawing [px]."""


@dataclass(frozen=True)
class LevelRing:
    """A ring of like level."""

    radius: float
    label: str
    label_y: float


@dataclass(frozen=True)
class Handle:
    """Something that can be moved: its name in the form, where it is drawn, what it is called."""

    name: str
    x: float
    y: float
    label: str

    @property
    def label_x(self) -> float:
        """Where its name begins, or ends where it would leave the drawing."""
        return self.x - LABEL_OFF if self.label_ends else self.x + LABEL_OFF

    @property
    def label_ends(self) -> bool:
        """Whether its name ends beside it, for there is no room on its right."""
        return self.x > LABEL_ROOM * WIDTH


@dataclass(frozen=True)
class NoisePlan:
    """Geometry of a noise plan; ``per_unit`` pixels a metre, or a foot where these are shown, the source at ``source``."""

    width: int
    height: int
    per_unit: float
    source: tuple[float, float]
    rings: tuple[LevelRing, ...]
    handles: tuple[Handle, ...]
    wall: tuple[float, float, float, float] | None
    scale: float
    scale_x2: float
    description: str


def draw_noise_plan(sound: Sound, layout: NoiseLayout, w: float) -> NoisePlan:
    """Lay out a plan so that all that stands on it is seen."""
    xs = [0.0, layout.house_x, layout.neighbour_x]
    ys = [0.0, layout.house_y, layout.neighbour_y]
    if layout.has_wall:
        xs += [layout.wall_x1, layout.wall_x2]
        ys += [layout.wall_y1, layout.wall_y2]
    wide, high = max(xs) - min(xs), max(ys) - min(ys)
    per_m = min((WIDTH - 5 * PAD) / max(wide, LEAST_M), (HEIGHT - 5 * PAD) / max(high, LEAST_M)) * 0.86
    middle_x, middle_y = (max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2

    def at(x: float, y: float) -> tuple[float, float]:
        return round(WIDTH / 2 + (x - middle_x) * per_m, 1), round(HEIGHT / 2 - (y - middle_y) * per_m, 1)

    sx, sy = at(0, 0)
    seen_m = max(WIDTH, HEIGHT) / per_m
    circles = tuple(
        LevelRing(round(r * per_m, 1), f"{level:.0f}{THIN}dBA", round(sy - r * per_m, 1))
        for level, r in rings(sound, layout, w, seen_m)
    )
    handles = [
        Handle("house", *at(layout.house_x, layout.house_y), "house"),
        Handle("neighbour", *at(layout.neighbour_x, layout.neighbour_y), "nearest neighbour"),
    ]
    wall = None
    if layout.has_wall:
        ends = at(layout.wall_x1, layout.wall_y1), at(layout.wall_x2, layout.wall_y2)
        wall = (*ends[0], *ends[1])
        handles += [
            Handle("wall1", *ends[0], "one end of the wall"),
            Handle("wall2", *ends[1], "other end of the wall"),
        ]
    per_unit = per_m / shown(1.0, "m")
    step = next(n for n in SCALE_BARS if n * per_unit > LEAST_BAR_PX or n == SCALE_BARS[-1])
    words = f"source in the middle of {len(circles)} rings; the neighbour {plain(layout.neighbour_m, 'm')} away"
    return NoisePlan(
        width=WIDTH,
        height=HEIGHT,
        per_unit=round(per_unit, 4),
        source=(sx, sy),
        rings=circles,
        handles=tuple(handles),
        wall=wall,
        scale=step,
        scale_x2=round(PAD + step * per_unit, 1),
        description=words,
    )
