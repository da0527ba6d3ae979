"""The grid of a series as it is drawn: cells down, units across, and which cell is next."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from muster.core.plan.series import Cell
from muster.records.actions import series as actions
from muster.records.models import SeriesRow, SourceRow


@dataclass(frozen=True)
class GridCell:
    """A cell of a unit: what stands in it, and whether it is the next to be filled."""

    unit: int
    key: str
    text: str
    is_next: bool
    can_fill: bool


@dataclass(frozen=True)
class GridRow:
    """What is read, across the units; ``heads`` is the heading of its group where it is the first of it."""

    cell: Cell
    heads: str
    cells: tuple[GridCell, ...]


@dataclass(frozen=True)
class GridUnit:
    """A unit of the grid: how many of its cells are filled, and whether its session runs."""

    row: SourceRow
    letter: str
    begun: bool
    closed: bool
    filled: int
    of: int


@dataclass(frozen=True)
class Grid:
    """All of it; ``at`` is the cell that takes the next figure, None where there is none."""

    units: tuple[GridUnit, ...]
    rows: tuple[GridRow, ...]
    at: tuple[SourceRow, Cell, str] | None


def grid_of(row: SeriesRow, asked: tuple[int, str] | None) -> Grid:
    """Lay out a series.

    Parameters
    ----------
    row
        The series.
    asked
        The unit and cell that were asked for; else the first empty one, unit by unit, of those that were begun.
    """
    units, cells = actions.units_of(row), actions.cells(row)
    sessions = {unit.pk: actions.session_of(row, unit) for unit in units}
    open_units = [unit for unit in units if (kept := sessions[unit.pk]) is not None and kept.closed_at is None]
    order = list(_order(open_units, cells))
    at = next((place for place in order if asked == (place[0].pk, place[1].key)), None)
    if at is None:
        at = next(((unit, cell) for unit, cell in order if not actions.text_in(row, unit, cell)), None)
    next_key = None if at is None else (at[0].pk, at[1].key)
    return Grid(
        units=tuple(_unit(row, letter, unit, sessions[unit.pk], cells) for letter, unit in enumerate(units)),
        rows=tuple(_rows(row, units, cells, next_key, {unit.pk for unit in open_units})),
        at=None if at is None else (*at, actions.text_in(row, *at)),
    )


def _order(units: Sequence[SourceRow], cells: Sequence[Cell]) -> Iterator[tuple[SourceRow, Cell]]:
    """The cells in the order in which they are filled: each unit's own from the top down, what is shared with the first."""
    for place, unit in enumerate(units):
        yield from ((unit, cell) for cell in cells if not cell.shared or place == 0)


def _rows(
    row: SeriesRow,
    units: Sequence[SourceRow],
    cells: Sequence[Cell],
    next_key: tuple[int, str] | None,
    open_units: set[int],
) -> Iterator[GridRow]:
    group = ""
    for cell in cells:
        heads, group = (cell.group if cell.group != group else ""), cell.group
        yield GridRow(
            cell=cell,
            heads=heads,
            cells=tuple(
                GridCell(
                    unit=unit.pk,
                    key=cell.key,
                    text=actions.text_in(row, unit, cell),
                    is_next=next_key == (unit.pk, cell.key),
                    can_fill=unit.pk in open_units,
                )
                for unit in units
            ),
        )


def _unit(row: SeriesRow, place: int, unit: SourceRow, session: object, cells: Sequence[Cell]) -> GridUnit:
    own = [cell for cell in cells if not cell.shared]
    return GridUnit(
        row=unit,
        letter=chr(65 + place),
        begun=session is not None,
        closed=getattr(session, "closed_at", None) is not None,
        filled=sum(bool(actions.text_in(row, unit, cell)) for cell in own),
        of=len(own),
    )
