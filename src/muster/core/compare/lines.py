"""The lines of several verdicts on one home, laid beside one another."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from ..quantities import Grade
from ..verdict import Verdict
from ..verdict.requirement import Margin, Requirement, Status
from .ranking import Banded, all_alike, places

WORST_START = "Starting, each its worst"
"""The line of starts is of another load for each source: the one that it starts least well."""


@dataclass(frozen=True)
class LineCell:
    """A line of one source: its status, margin, grade and sentence; ``place`` among the others, None where it has no margin.

    ``label`` is the line's own where it is not that of all: which start is its worst.

    ``without`` is its status without the rules of the household, None where it has none or they change nothing.
    """

    status: Status
    margin: Margin | None
    grade: Grade | None
    sentence: str
    demand: str
    capability: str
    label: str = ""
    place: int | None = None
    without: Status | None = None


@dataclass(frozen=True)
class ComparedLine:
    """A line across the sources, in their order; None where a source has no such line.

    ``alike``: no two margins of it can be told apart by what is known of them.
    """

    key: str
    label: str
    unit: str
    cells: tuple[LineCell | None, ...]
    alike: bool

    @property
    def is_required(self) -> bool:
        """Whether any source is asked for it."""
        return any(cell is not None and cell.status is not Status.NOT_REQUIRED for cell in self.cells)


def compared_lines(verdicts: Sequence[Verdict], bare: Sequence[Verdict | None]) -> tuple[ComparedLine, ...]:
    """Every line that any source is judged by, in the order of the first that has it.

    Parameters
    ----------
    verdicts
        One a source, for the same loads.
    bare
        The verdict of each without the rules of its household; None where it has none.

    Returns
    -------
    tuple of ComparedLine
        A line's margins are placed where they share a unit.
    """
    keys: dict[str, str] = {}
    for verdict in verdicts:
        for row in verdict.requirements:
            keys.setdefault(row.key, WORST_START if row.key == "starting" else row.label)
    return tuple(_line(key, label, verdicts, bare) for key, label in keys.items())


def _line(key: str, label: str, verdicts: Sequence[Verdict], bare: Sequence[Verdict | None]) -> ComparedLine:
    rows = [_row(verdict, key) for verdict in verdicts]
    without = [None if verdict is None else _row(verdict, key) for verdict in bare]
    units = [row.margin.unit for row in rows if row is not None and row.margin is not None]
    unit = units[0] if units else ""
    bands = [_band(row, unit) for row in rows]
    ranked = places(bands)
    return ComparedLine(
        key=key,
        label=label,
        unit=unit,
        cells=tuple(None if row is None else _cell(row, label, ranked[at], without[at]) for at, row in enumerate(rows)),
        alike=all_alike(bands),
    )


def _row(verdict: Verdict, key: str) -> Requirement | None:
    return next((row for row in verdict.requirements if row.key == key), None)


def _band(row: Requirement | None, unit: str) -> Banded | None:
    if row is None or row.margin is None or row.margin.unit != unit or not math.isfinite(row.margin.value):
        return None
    return Banded(row.margin.value, row.margin.low, row.margin.high)


def _cell(row: Requirement, label: str, place: int | None, bare: Requirement | None) -> LineCell:
    return LineCell(
        status=row.status,
        margin=row.margin,
        grade=row.grade,
        sentence=row.sentence,
        demand=row.demand,
        capability=row.capability,
        label="" if row.label == label else row.label,
        place=place,
        without=bare.status if bare is not None and bare.status is not row.status else None,
    )
