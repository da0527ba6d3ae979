"""Source, house, neighbour and wall seen from above: rings of level, and what reaches the neighbour by day and by night."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..brief import Brief
from ..character.sound import Sound
from ..outage import OutageDemand
from ..quantities import plain
from ..trade.sound import at_distance, sum_of_levels
from .noise_layout import NoiseLayout

Place = tuple[float, float]
"""Metres east and north of the source."""
SOURCE_HIGH_M, NEIGHBOUR_HIGH_M, WALL_HIGH_M = 0.6, 1.5, 2.0
"""How high engine, neighbour and wall are taken to stand. Ours."""
SCREEN_HZ, SOUND_M_S = 500.0, 340.0
SCREEN_MOST_DB = 20.0
"""A single wall takes off no more than this (ISO 9613-2, 7.4)."""
RING_DB = 5.0


@dataclass(frozen=True)
class AtEar:
    """What reaches the neighbour: without and with the wall [dBA], and the same at 20 dB a decade in the open."""

    dba: float
    screened_dba: float
    open_dba: float
    wall_db: float


def at_neighbour(sound: Sound, layout: NoiseLayout, w: float) -> AtEar:
    """Level at the neighbour with so much load on: distance, units side by side, the wall between.

    References
    ----------
    Fitted decay, and 20 dB a decade from 7 m (inverse square law); energy sum of the units; ISO 9613-2 for the screen.
    """
    item = sound.at_1m(w)
    together = sum_of_levels([item] * layout.units)
    dba = at_distance(together, 1.0, layout.neighbour_m, sound.decay_db)
    seven = at_distance(together, 1.0, 7.0, sound.decay_db)
    wall = screen_db(layout)
    return AtEar(dba, dba - wall, at_distance(seven, 7.0, layout.neighbour_m), wall)


def screen_db(layout: NoiseLayout) -> float:
    """What a wall of 2 m between source and neighbour takes off: ``10·log10(3 + 20·z/λ)``, at most 20 dB; 0 where it does not stand between.

    ``z`` is how much longer the way over its top is than the straight one, at
    500 Hz. Ways round its ends are not looked at: a short wall does less.

    References
    ----------
    ISO 9613-2, 7.4, single diffraction, with C2 = 20 and no weather.
    """
    hit = _crossing(layout) if layout.has_wall else None
    if hit is None:
        return 0.0
    near, far = math.hypot(*hit), math.hypot(layout.neighbour_x - hit[0], layout.neighbour_y - hit[1])
    over = math.hypot(near, WALL_HIGH_M - SOURCE_HIGH_M) + math.hypot(far, WALL_HIGH_M - NEIGHBOUR_HIGH_M)
    z = over - math.hypot(near + far, SOURCE_HIGH_M - NEIGHBOUR_HIGH_M)
    return min(SCREEN_MOST_DB, 10 * math.log10(3 + 20 * z * SCREEN_HZ / SOUND_M_S))


def _crossing(layout: NoiseLayout) -> Place | None:
    """Where the line from source to neighbour meets the wall, None where it does not."""
    ex, ey = layout.neighbour_x, layout.neighbour_y
    wx, wy = layout.wall_x2 - layout.wall_x1, layout.wall_y2 - layout.wall_y1
    across = ex * wy - ey * wx
    if abs(across) < 1e-9:
        return None
    along = (layout.wall_x1 * wy - layout.wall_y1 * wx) / across
    on_wall = (layout.wall_x1 * ey - layout.wall_y1 * ex) / across
    return (along * ex, along * ey) if 0 < along < 1 and 0 <= on_wall <= 1 else None


def rings(sound: Sound, layout: NoiseLayout, w: float, most_m: float) -> tuple[tuple[float, float], ...]:
    """Rings at every 5 dB within a distance: (level [dBA], radius [m]), the loudest first; walls are not in them."""
    together = sum_of_levels([sound.at_1m(w)] * layout.units)
    result = []
    level = math.floor(together / RING_DB) * RING_DB
    while level > 0:
        radius = 10 ** ((together - level) / sound.decay_db)
        if radius > most_m:
            break
        if radius >= 1.0:
            result.append((level, radius))
        level -= RING_DB
    return tuple(result)


@dataclass(frozen=True)
class Hour:
    """An hour of the outage: its mean load, the level at the neighbour, the limit then (None: none)."""

    hour: int
    w: float
    dba: float
    limit: float | None

    @property
    def over(self) -> bool:
        """Whether it is too loud, as it is read: to a tenth."""
        return self.limit is not None and round(self.dba, 1) > self.limit


def hours_at_neighbour(sound: Sound, layout: NoiseLayout, brief: Brief, demand: OutageDemand) -> tuple[Hour, ...]:
    """The level at the neighbour in each hour of a simulated outage; the first day of a long one."""
    quiet = brief.quiet_hours
    return tuple(
        Hour(
            hour,
            w,
            at_neighbour(sound, layout, w).screened_dba,
            brief.noise_night_dba if hour in quiet else brief.noise_day_dba,
        )
        for hour, w in list(zip(demand.hours, demand.hour_wh, strict=True))[:24]
    )


def against_limits(brief: Brief, dba: float) -> str:
    """How a level stands to what is allowed by day and by night, in words; empty where nothing is asked."""
    asked = (("by day", brief.noise_day_dba), ("by night", brief.noise_night_dba))
    told = [
        f"{plain(abs(limit - dba), 'db')} {'within' if dba <= limit else 'over'} what is allowed {when}"
        for when, limit in asked
        if limit is not None
    ]
    return " and ".join(told)
