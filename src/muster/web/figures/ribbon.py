"""The outage: energy of each hour of the outage by leg, with its spread, quiet hours shaded."""

from __future__ import annotations

from dataclasses import dataclass

from muster.core.brief import Brief
from muster.core.outage import OutageDemand
from muster.core.quantities import plain

from .scales import Scale, Tick, ticks

WIDTH, HEIGHT = 900, 300
LEFT, RIGHT, TOP, BOTTOM = 52, 890, 16, 256
MOST_HOURS = 96


@dataclass(frozen=True)
class Bar:
    """A stacked part of an hour."""

    x: float
    y: float
    width: float
    height: float
    css: str


@dataclass(frozen=True)
class Whisker:
    """The spread of an hour between its median and 90th percentile."""

    x: float
    y50: float
    y90: float


@dataclass(frozen=True)
class Ribbon:
    """Geometry of the day."""

    width: int
    height: int
    left: int
    right: int
    top: int
    bottom: int
    bars: tuple[Bar, ...]
    whiskers: tuple[Whisker, ...]
    quiet: tuple[Bar, ...]
    hours: tuple[Tick, ...]
    ticks: tuple[Tick, ...]
    rows: tuple[tuple[str, str, str, str], ...]


def draw_ribbon(demand: OutageDemand, brief: Brief) -> Ribbon:
    """Lay out the first hours of an outage (at most four days)."""
    count = min(len(demand.hours), MOST_HOURS)
    width = (RIGHT - LEFT) / max(count, 1)
    y = Scale(0, max([1.0, *demand.hour_p90_wh, *demand.hour_wh]) * 1.06, BOTTOM, TOP)
    bars, whiskers, quiet = [], [], []
    for i in range(count):
        x, floor = round(LEFT + i * width, 1), 0.0
        for leg, hours in enumerate(demand.leg_hour_wh, 1):
            top = floor + hours[i]
            bars.append(Bar(x + 1, y(top), round(width - 2, 1), round(y(floor) - y(top), 1), f"leg{leg}"))
            floor = top
        middle = round(x + width / 2, 1)
        whiskers.append(Whisker(middle, y(demand.hour_p50_wh[i]), y(demand.hour_p90_wh[i])))
        if demand.hours[i] in brief.quiet_hours:
            quiet.append(Bar(x, TOP, round(width, 1), BOTTOM - TOP, "quiet"))
    every = 1 if count <= 24 else 3 if count <= 48 else 6
    names = tuple(Tick(round(LEFT + (i + 0.5) * width, 1), f"{demand.hours[i]:02d}") for i in range(0, count, every))
    rows = tuple(
        (
            f"{demand.hours[i]:02d}:00",
            plain(demand.hour_wh[i], "wh"),
            plain(demand.hour_p50_wh[i], "wh"),
            plain(demand.hour_p90_wh[i], "wh"),
        )
        for i in range(count)
    )
    return Ribbon(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=RIGHT,
        top=TOP,
        bottom=BOTTOM,
        bars=tuple(bars),
        whiskers=tuple(whiskers),
        quiet=tuple(quiet),
        hours=names,
        ticks=ticks(y, 5, 1000),
        rows=rows,
    )
