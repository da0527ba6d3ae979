"""Shelf entries as CSV, out and in: one entry a line, what is wrong told by row and column."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from muster.core.errors import MusterError
from muster.core.loads import ALL_DAY, Caller, Duty, parse_parts, part_words
from muster.core.loads.line_parser import parse_hours
from muster.core.shelf import ShelfLoad, slug_of

from .tables import Table, unharmed

COLUMNS = ("slug", "name", "kind", "run_w", "pf", "on_min", "off_min", "caller", "once", "hours", "also", "parts")
NEEDED = ("name", "kind", "run_w")
MOST_ROWS = 2000


def shelf_table(entries: Iterable[ShelfLoad]) -> Table:
    """Entries with everything that reading them back needs."""
    return Table(
        COLUMNS,
        tuple(
            (
                e.slug,
                e.name,
                e.kind,
                e.run_w,
                e.pf,
                e.duty.on_min,
                e.duty.off_min,
                e.duty.caller.value,
                "yes" if e.duty.once else "no",
                hour_ranges(e.hours),
                "; ".join(e.also),
                "; ".join(part_words(part) for part in e.parts),
            )
            for e in entries
        ),
    )


def hour_ranges(hours: tuple[int, ...]) -> str:
    """Hours as ranges: ``6-9,17-22``."""
    painted = sorted(set(hours))
    if len(painted) == 24 or not painted:
        return "0-24" if painted else ""
    starts = [hour for hour in painted if hour - 1 not in painted]
    ends = [hour + 1 for hour in painted if hour + 1 not in painted]
    return ",".join(f"{low}-{high}" for low, high in zip(starts, ends, strict=True))


def read_shelf(text: str) -> tuple[ShelfLoad, ...]:
    """Entries from CSV: comma or semicolon between cells, headings in any order, unknown ones passed over.

    Raises
    ------
    MusterError
        If a heading that is needed is missing, or a cell cannot be: row and
        column are said, and nothing is taken.
    """
    first = text.lstrip("\ufeff").split("\n", 1)[0]
    rows = csv.reader(io.StringIO(text.lstrip("\ufeff")), delimiter=";" if first.count(";") > first.count(",") else ",")
    try:
        headings = [cell.strip().lower() for cell in next(rows, [])]
        for name in NEEDED:
            if name not in headings:
                raise MusterError(f"no column “{name}”", where="row 1", want="headings: " + ", ".join(COLUMNS))
        shelf_loads = [
            _entry(dict(zip(headings, row, strict=False)), number)
            for number, row in enumerate(rows, 2)
            if any(cell.strip() for cell in row)
        ]
    except csv.Error as error:
        raise MusterError(f"not CSV: {error}", where="file", want="a table with headings") from None
    if len(shelf_loads) > MOST_ROWS:
        raise MusterError(f"got {len(shelf_loads)} entries", where="file", want=f"{MOST_ROWS} or fewer")
    slugs = [entry.slug for entry in shelf_loads]
    for number, slug in enumerate(slugs, 2):
        if slugs.index(slug) != number - 2:
            raise MusterError(f"“{slug}” is there twice", where=f"row {number}, slug", want="one row an entry")
    return tuple(shelf_loads)


def _entry(cells: dict[str, str], row: int) -> ShelfLoad:
    def said(name: str) -> str:
        return unharmed((cells.get(name) or "").strip())

    def number(name: str) -> float | None:
        text = said(name).replace(",", ".")
        try:
            return float(text) if text else None
        except ValueError:
            raise MusterError(f"got “{text}”", where=name, want="a number") from None

    try:
        run_w = number("run_w")
        if run_w is None:
            raise MusterError("empty", where="run_w", want="the watts while running")
        caller = said("caller") or Caller.ITSELF.value
        if caller not in set(Caller):
            raise MusterError(f"got “{caller}”", where="caller", want=" or ".join(Caller))
        on_min, off_min = number("on_min"), number("off_min")
        duty = Duty(
            60.0 if on_min is None else on_min,
            off_min or 0.0,
            Caller(caller),
            said("once").lower() in ("yes", "true", "1"),
        )
        return ShelfLoad(
            slug=said("slug") or slug_of(said("name")),
            name=said("name"),
            kind=said("kind"),
            run_w=run_w,
            duty=duty,
            hours=_hours(said("hours")),
            pf=number("pf"),
            also=tuple(word.strip().lower() for word in said("also").split(";") if word.strip()),
            parts=parse_parts(said("parts").replace(";", "\n")),
        )
    except MusterError as error:
        raise MusterError(error.what, where=f"row {row}, {error.where or 'entry'}", want=error.want) from None


def _hours(text: str) -> tuple[int, ...]:
    if not text:
        return ALL_DAY
    try:
        return parse_hours(text.replace(" ", ""))
    except ValueError:
        raise MusterError(f"got “{text}”", where="hours", want="such as 6-9,17-22") from None
