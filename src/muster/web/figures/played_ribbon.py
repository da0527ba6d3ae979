"""The outage as it is played on a source: demand by hour under what it holds, charge or fuel beneath, quiet hours, what befell the middle one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from muster.core.brief import Brief
from muster.core.character import Character
from muster.core.outage.demand import RARE_SHARE
from muster.core.outage.layout import Happening
from muster.core.outage.nights import OutageEvent
from muster.core.outage.played import HourBand, OutagePlayed
from muster.core.quantities import number, plain, shown, unit_word

from .scales import Scale, Tick, ticks

WIDTH, HEIGHT = 900, 360
LEFT, RIGHT, TOP, BOTTOM = 58, 890, 20, 200
STORE_TOP, STORE_BOTTOM = 238, 318
MOST_HOURS = 96
MOST_ABOVE_X = 8.0
"""A limit so many times above what the home asks is left out of the drawing."""
GRAVE = (Happening.TRIP, Happening.TRIP_AT_START, Happening.BREAKER, Happening.EMPTY, Happening.CUT_OFF, Happening.DRY)
"""What takes the power away: marked where it happens."""
APART = 14.0
"""Marks nearer to one another than this are one."""
MOST_WHOLE, SHORT = 6, 12
"""So many marks run through the drawing; more are short ones at its upper edge."""


@dataclass(frozen=True)
class Shade:
    """A stretch of hours, as a rectangle across the drawing."""

    x: float
    width: float


@dataclass(frozen=True)
class HeldLine:
    """What the source holds, as a line with its label."""

    y: float
    label: str
    css: str


@dataclass(frozen=True)
class Mark:
    """Something that took the power away in the middle one of the outages."""

    x: float
    label: str
    until: int = BOTTOM


@dataclass(frozen=True)
class PlayedRibbon:
    """Geometry of a played outage; ``store`` names what is beneath, empty where there is neither battery nor tank."""

    width: int
    height: int
    left: int
    right: int
    top: int
    bottom: int
    store_top: int
    store_bottom: int
    band: str
    middle: str
    sun: str
    store: str
    store_band: str
    store_middle: str
    quiet: tuple[Shade, ...]
    limits: tuple[HeldLine, ...]
    marks: tuple[Mark, ...]
    hours: tuple[Tick, ...]
    ticks: tuple[Tick, ...]
    store_ticks: tuple[Tick, ...]
    rows: tuple[tuple[str, ...], ...]


def draw_played(played: OutagePlayed, character: Character, brief: Brief) -> PlayedRibbon:
    """Lay out a played outage, of at most four days.

    Parameters
    ----------
    played
        What came of it.
    character
        Of the source: what it held, where it tripped, what is claimed.
    brief
        Quiet hours and the hour at which it begins.

    Returns
    -------
    PlayedRibbon
        Paths in the units of the drawing, and the rows of its text twin.
    """
    count = min(len(played.hours), MOST_HOURS)
    x = Scale(0, count, LEFT, RIGHT)
    demand = played.hour_w[:count]
    limits = _limits(character)
    top_w = max([1.0, *(band.p90 for band in demand), *played.sun_w[:count]])
    drawn = [(w, label, css) for w, label, css in limits if w < MOST_ABOVE_X * top_w]
    y = Scale(0, max([top_w, *(w for w, _, _ in drawn)]) * 1.08, BOTTOM, TOP)
    stored = played.charge_wh or tuple(_as_shown(band) for band in played.fuel_l)
    most = max([1e-9, *(band.p90 for band in stored)]) if stored else 1.0
    store_y = Scale(0, most * 1.05, STORE_BOTTOM, STORE_TOP)
    edges = stored[: count + 1]
    every = 1 if count <= 24 else 3 if count <= 48 else 6
    return PlayedRibbon(
        width=WIDTH,
        height=HEIGHT if stored else BOTTOM + 40,
        left=LEFT,
        right=RIGHT,
        top=TOP,
        bottom=BOTTOM,
        store_top=STORE_TOP,
        store_bottom=STORE_BOTTOM,
        band=_stepped_area(demand, x, y),
        middle=_steps([band.p50 for band in demand], x, y),
        sun=_steps(played.sun_w[:count], x, y),
        store="battery, kWh" if played.charge_wh else f"fuel, {unit_word('l')}" if played.fuel_l else "",
        store_band=_area(edges, x, store_y),
        store_middle=_line([band.p50 for band in edges], x, store_y),
        quiet=tuple(
            Shade(x(i), round(x(i + 1) - x(i), 1)) for i in range(count) if played.hours[i] in brief.quiet_hours
        ),
        limits=tuple(HeldLine(y=y(w), label=label, css=css) for w, label, css in drawn),
        marks=_marks(played.typical_night.events, x, count),
        hours=tuple(Tick(x(i), f"{played.hours[i]:02d}") for i in range(0, count, every)),
        ticks=ticks(y, 4, 1000),
        store_ticks=ticks(store_y, 3, 1000 if played.charge_wh else 1),
        rows=_rows(played, count),
    )


def _as_shown(litres: HourBand) -> HourBand:
    """A band of litres in the units that are shown."""
    return HourBand(shown(litres.p10, "l"), shown(litres.p50, "l"), shown(litres.p90, "l"))


def _limits(character: Character) -> list[tuple[float, str, str]]:
    """What it held and where it tripped; else what is claimed."""
    lines = []
    if character.held is not None:
        lines.append((character.held.w, f"held {plain(character.held.w, 'w')}", "measured"))
    if character.trip is not None:
        lines.append((character.trip.w, f"tripped at {plain(character.trip.w, 'w')}", "trip"))
    if not lines:
        claimed = character.best("cont_w")
        if claimed is not None:
            lines.append((claimed.value.value, f"claimed {plain(claimed.value.value, 'w')}", "claimed"))
    return lines


def _steps(values: Sequence[float], x: Scale, y: Scale) -> str:
    """A path of level steps, one an hour."""
    return "M" + "L".join(f"{x(i)} {y(v)}L{x(i + 1)} {y(v)}" for i, v in enumerate(values)) if values else ""


def _stepped_area(bands: Sequence[HourBand], x: Scale, y: Scale) -> str:
    if not bands:
        return ""
    above = "L".join(f"{x(i)} {y(b.p90)}L{x(i + 1)} {y(b.p90)}" for i, b in enumerate(bands))
    beneath = "L".join(f"{x(i + 1)} {y(b.p10)}L{x(i)} {y(b.p10)}" for i, b in reversed(list(enumerate(bands))))
    return f"M{above}L{beneath}Z"


def _line(values: Sequence[float], x: Scale, y: Scale) -> str:
    return "M" + "L".join(f"{x(i)} {y(v)}" for i, v in enumerate(values)) if values else ""


def _area(bands: Sequence[HourBand], x: Scale, y: Scale) -> str:
    if not bands:
        return ""
    above = "L".join(f"{x(i)} {y(b.p90)}" for i, b in enumerate(bands))
    beneath = "L".join(f"{x(i)} {y(b.p10)}" for i, b in reversed(list(enumerate(bands))))
    return f"M{above}L{beneath}Z"


MARKED = {
    Happening.TRIP: "trips",
    Happening.TRIP_AT_START: "trips at a start",
    Happening.BREAKER: "a breaker trips",
    Happening.EMPTY: "empty",
    Happening.CUT_OFF: "cut off",
    Happening.DRY: "tank dry",
}


def _marks(events: Sequence[OutageEvent], x: Scale, count: int) -> tuple[Mark, ...]:
    """Where the power went, those that would lie on one another told once."""
    marks: list[Mark] = []
    for event in events:
        at = x(event.at_s / 3600)
        if event.kind in GRAVE and event.at_s / 3600 <= count and (not marks or at - marks[-1].x > APART):
            marks.append(Mark(at, MARKED[event.kind]))
    if len(marks) <= MOST_WHOLE:
        return tuple(marks)
    times = sum(event.kind in GRAVE for event in events)
    first = Mark(marks[0].x, f"{marks[0].label}; without power {times} times", TOP + SHORT)
    return (first, *(Mark(mark.x, mark.label, TOP + SHORT) for mark in marks[1:]))


def _rows(played: OutagePlayed, count: int) -> tuple[tuple[str, ...], ...]:
    """The text twin: each hour with its demand, what is left at its end, and the level at the neighbour."""
    unit = "wh" if played.charge_wh else "l"
    stored = played.charge_wh or played.fuel_l
    return tuple(
        (
            f"{played.hours[i]:02d}:00",
            plain(played.hour_w[i].p50, "w"),
            plain(played.hour_w[i].p90, "w"),
            plain(stored[i + 1].p50, unit) if stored else "–",
            plain(stored[i + 1].p10, unit) if stored else "–",
            plain(played.neighbour_dba[i].p90, "dba") if played.neighbour_dba else "–",
        )
        for i in range(count)
    )


def lead_words(played: OutagePlayed) -> str:
    """What goes wrong in more than one of a hundred outages, in a sentence."""
    often = [
        f"{failure.label} in {share_words(chance.share)}"
        for failure, chance in sorted(played.chances.items(), key=lambda item: -item[1].share)
        if chance.share > RARE_SHARE
    ]
    unsaid = " as far as it is known" if played.missing else ""
    if not often:
        return f"nothing goes wrong in more than 1 of 100{unsaid}."
    said = f"{', '.join(often[:-1])} and {often[-1]}" if len(often) > 1 else often[0]
    return f"{said} of them{unsaid}."


def share_words(share: float) -> str:
    """A share of the outages as a person says it: of a hundred, and never none where there were some."""
    in_hundred = share * 100
    if share <= 0:
        return "none"
    if share >= 1:
        return "all"
    if in_hundred > 99:
        return "nearly all"
    return "fewer than 1 of 100" if in_hundred < 1 else f"{number(round(in_hundred))} of 100"
