"""One short plan over many units: the cells of a grid, and the line of the record that each figure becomes."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from ..errors import MusterError, OutOfRange, require_between
from ..loads import Load, short_name
from ..measures import FT_M

PROTOCOL = "short_test"
FEWEST_M, FARTHEST_M = 0.3, 300.0
"""Distances of a level that anybody walks to. [m]"""
MOST_DISTANCES, MOST_UNITS = 8, 26
SHARED_CHECKS = frozenset({"covers", "laptop", "stop", "medical", "water", "probe", "isolation", "interlock"})
"""Safety checks that are of the place and the people, and not of a unit: confirmed once for all of a sitting.

Fuel, exhaust, bonding, cords, leads and batteries are each unit's own, and asked of each.
"""
FIGURE = re.compile(r"(\d+(?:[.,]\d+)?)\s*([xX]?)")
"""What a cell takes: a figure, with an x behind it where the start failed."""


class CellKind(StrEnum):
    """What is read into a cell."""

    BACKGROUND = "background"
    VOLTS = "volts"
    HERTZ = "hertz"
    WATTS = "watts"
    LEVEL = "level"
    STEP = "step"
    START = "start"

    @property
    def unit(self) -> str:
        """The unit of its figure."""
        return UNITS[self]


UNITS = {
    CellKind.BACKGROUND: "dba",
    CellKind.VOLTS: "v",
    CellKind.HERTZ: "hz",
    CellKind.WATTS: "w",
    CellKind.LEVEL: "dba",
    CellKind.STEP: "v",
    CellKind.START: "v",
}
SPANS = {
    CellKind.BACKGROUND: (10.0, 120.0),
    CellKind.VOLTS: (1.0, 600.0),
    CellKind.HERTZ: (30.0, 90.0),
    CellKind.WATTS: (0.0, 50_000.0),
    CellKind.LEVEL: (10.0, 150.0),
    CellKind.STEP: (0.0, 600.0),
    CellKind.START: (0.0, 600.0),
}
"""What a figure of each kind can be: a slip of the thumb is told at once."""


@dataclass(frozen=True)
class Distance:
    """How far a level is read from the unit, as it was said."""

    m: float
    text: str

    @property
    def typed(self) -> str:
        """As a line of the record has it."""
        return self.text.replace(" ", "")


def distances_of(text: str) -> tuple[Distance, ...]:
    """Distances as a person lists them: ``3, 10, 20, 35 ft`` or ``1 4 7 12 m``; the unit at the end is that of all.

    Raises
    ------
    MusterError
        If there is no unit, no figure, or too many.
    OutOfRange
        If one is nearer or farther than anybody walks.
    """
    said = re.fullmatch(r"\s*((?:\d+(?:\.\d+)?[\s,;]*)+?)\s*(m|metres?|meters?|ft|feet)\s*", text, re.I)
    if said is None:
        raise MusterError(f"“{text}” is no list of distances", where="distances", want="such as 3, 10, 20, 35 ft")
    feet = said[2].lower() in ("ft", "feet")
    figures = [float(figure) for figure in re.findall(r"\d+(?:\.\d+)?", said[1])]
    if len(figures) > MOST_DISTANCES:
        raise MusterError(f"{len(figures)} distances", where="distances", want=f"at most {MOST_DISTANCES}")
    unit = "ft" if feet else "m"
    result = tuple(Distance(figure * (FT_M if feet else 1.0), f"{figure:g} {unit}") for figure in sorted(set(figures)))
    for distance in result:
        require_between(distance.m, FEWEST_M, FARTHEST_M, "distances")
    return result


@dataclass(frozen=True)
class SeriesPlan:
    """What is read of every unit: levels at some distances unloaded and loaded, and a dip under the test's own loads.

    ``step`` and ``motor`` are keys of the standard step and the standard motor, empty where there is none.
    """

    distances: tuple[Distance, ...] = ()
    step: str = ""
    motor: str = ""


@dataclass(frozen=True)
class Cell:
    """A cell of the grid: what is read, with what on, and where; ``group`` heads the cells that are read one after the other.

    ``shared`` is read once for all units.
    """

    key: str
    kind: CellKind
    group: str
    label: str
    on: tuple[str, ...] = ()
    distance: Distance | None = None
    load: str = ""
    shared: bool = False


def cells_of(plan: SeriesPlan, loads: Mapping[str, Load]) -> tuple[Cell, ...]:
    """The cells of a plan from the top of the grid to its bottom, in the order in which one reads them.

    Parameters
    ----------
    plan
        What is read.
    loads
        Of the job, by key.

    Returns
    -------
    tuple of Cell
        Background first, then unloaded, then loaded, then the dips.
    """
    return tuple(_cells(plan, loads))


def _cells(plan: SeriesPlan, loads: Mapping[str, Load]) -> Iterator[Cell]:
    if plan.distances:
        yield Cell(key="background", kind=CellKind.BACKGROUND, group="once for all", label="background", shared=True)
    yield Cell(key="v", kind=CellKind.VOLTS, group="no load", label="volts")
    yield Cell(key="hz", kind=CellKind.HERTZ, group="no load", label="hertz")
    yield from (_level(f"dba-{at}", "no load", distance) for at, distance in enumerate(plan.distances, 1))
    if plan.step in loads:
        name, on = short_name(loads[plan.step]), (plan.step,)
        yield Cell(key="dip", kind=CellKind.STEP, group=f"{name} goes on", label="lowest volts", on=on, load=plan.step)
        yield Cell(key="loaded-w", kind=CellKind.WATTS, group=f"{name} on", label="watts", on=on)
        yield Cell(key="loaded-v", kind=CellKind.VOLTS, group=f"{name} on", label="volts", on=on)
        yield Cell(key="loaded-hz", kind=CellKind.HERTZ, group=f"{name} on", label="hertz", on=on)
        for at, distance in enumerate(plan.distances, 1):
            yield _level(f"loaded-dba-{at}", f"{name} on", distance, on)
    if plan.motor in loads:
        name = short_name(loads[plan.motor])
        yield Cell(key="start", kind=CellKind.START, group=f"{name} starts", label="lowest volts", load=plan.motor)


def _level(key: str, group: str, distance: Distance, on: tuple[str, ...] = ()) -> Cell:
    return Cell(key=key, kind=CellKind.LEVEL, group=group, label=distance.text, on=on, distance=distance)


@dataclass(frozen=True)
class CellFigure:
    """What was typed into a cell: the figure as it was typed, its value, and whether the start failed."""

    text: str
    value: float
    failed: bool = False


def figure_of(cell: Cell, text: str) -> CellFigure:
    """A figure as it is typed into a cell.

    Raises
    ------
    MusterError
        If it is no figure, or says that something failed that is no start.
    OutOfRange
        If it cannot be one of its kind.
    """
    said = FIGURE.fullmatch(text.strip())
    if said is None or (said[2] and cell.kind is not CellKind.START):
        failing = ", an x behind it if the start failed" if cell.kind is CellKind.START else ""
        raise MusterError(f"“{text.strip()}” is no figure", where=cell.label, want=f"a number{failing}")
    digits = said[1].replace(",", ".")
    low, high = SPANS[cell.kind]
    value = float(digits)
    if not low <= value <= high:
        raise OutOfRange(f"{digits} {cell.kind.unit}", where=cell.label, want=f"{low:g} to {high:g}")
    return CellFigure(digits, value, bool(said[2]))


def line_of(cell: Cell, figure: CellFigure, on_now: Sequence[str], loads: Mapping[str, Load]) -> str:
    """The line of the record that a figure becomes: what goes on or off for it, then the figure itself.

    Parameters
    ----------
    cell
        Where it was typed.
    figure
        What was typed.
    on_now
        The loads that are on by the record, by key.
    loads
        Of the job, by key.

    Returns
    -------
    str
        In the words of the log line, so that the record reads as if it had been jotted.
    """
    if cell.shared:  # it is read of no unit, and switches nothing on any
        return _said(cell, figure, loads)
    moved = [f"-{key}" for key in on_now if key not in cell.on] + [f"+{key}" for key in cell.on if key not in on_now]
    return " ".join([*moved, _said(cell, figure, loads)])


def _said(cell: Cell, figure: CellFigure, loads: Mapping[str, Load]) -> str:
    text = figure.text
    if cell.kind is CellKind.LEVEL and cell.distance is not None:
        return f"{text}db@{cell.distance.typed}"
    if cell.kind is CellKind.START:
        return f"{loads[cell.load].name} start min {text}v, {'stalled' if figure.failed else 'held'}"
    return {
        CellKind.BACKGROUND: f"background {text}db",
        CellKind.HERTZ: f"{text}hz",
        CellKind.WATTS: f"{text}w",
        CellKind.STEP: f"min {text}v",
    }.get(cell.kind, f"{text}v")
