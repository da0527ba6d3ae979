"""What a log file looks like: its text encoding, separator, decimal sign and headings."""

from __future__ import annotations

import codecs
import csv
import io
import re
from dataclasses import dataclass

from muster.core.errors import MusterError

LOOK_BYTES = 256 * 1024
SEPARATORS = (",", ";", "\t", "|")
SEPARATOR_WORDS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
MOST_COLUMNS = 400
PREVIEW_ROWS = 12
FIGURE = re.compile(
    r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$|^\d{1,4}[-/.:]\d{1,2}[-/.:]\d{1,4}([T ,][\d:.,]+)?\s*(Z|[ap]m|[+-]\d\d:?\d\d)?$",
    re.I,
)
"""A cell that is a number, a date or a time."""
UNIT_CELLS = ("v", "a", "w", "kw", "va", "hz", "s", "ms", "%", "°c", "dba", "wh", "kwh")
NUMBERISH = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$")
COMMA_NUMBER = re.compile(r"^[+-]?\d+,\d+(\s*[^\d.,]{1,8})?$")
POINT_NUMBER = re.compile(r"^[+-]?\d+\.\d+(\s*[^\d.,]{1,8})?$")


@dataclass(frozen=True)
class LogLayout:
    """How a log file is laid out.

    ``heading_line`` is the line of the headings, counted from 1 (0: there are
    none, and ``headings`` are made up); ``sample`` holds the first data rows
    as text, short rows filled up.
    """

    encoding: str
    separator: str
    decimal: str
    heading_line: int
    headings: tuple[str, ...]
    sample: tuple[tuple[str, ...], ...]

    @property
    def label(self) -> str:
        """The layout in words."""
        head = f"headings on line {self.heading_line}" if self.heading_line else "no headings"
        sign = "decimal comma" if self.decimal == "," else "decimal point"
        return f"{SEPARATOR_WORDS[self.separator]}-separated, {sign}, {head}, {self.encoding}"


def look_at(head: bytes, *, whole: bool = False) -> LogLayout:
    """Say how a log file is laid out, from its first bytes.

    ``whole`` says that these bytes are the entire file. A byte order mark,
    lines before the headings, decimal commas and any of four separators are
    understood.

    Raises
    ------
    MusterError
        If it is empty, not text, or holds no table.
    """
    encoding = encoding_of(head)
    text = _text(head, encoding)
    if not text.strip():
        raise MusterError("the file is empty", where="file", want="a CSV log with at least one row of readings")
    if "\0" in text:
        raise MusterError("not a text file", where="file", want="a CSV log")
    lines = text.splitlines()
    if not whole and len(lines) > 1:
        lines = lines[:-1]
    best = max(SEPARATORS, key=lambda separator: _fits(lines, separator))
    if _fits(lines, best) == 0:
        raise MusterError(
            "no table was found", where="file", want="rows of at least two columns, separated by , ; tab or |"
        )
    return _described(lines, best, encoding)


def encoding_of(head: bytes) -> str:
    """The text encoding: by its byte order mark, else UTF-8, else Windows-1252."""
    for mark, name in (
        (codecs.BOM_UTF8, "utf-8-sig"),
        (codecs.BOM_UTF16_LE, "utf-16"),
        (codecs.BOM_UTF16_BE, "utf-16"),
    ):
        if head.startswith(mark):
            return name
    try:
        codecs.getincrementaldecoder("utf-8")().decode(head)
    except UnicodeDecodeError:
        return "cp1252"
    return "utf-8"


def _text(head: bytes, encoding: str) -> str:
    return codecs.getincrementaldecoder(encoding)(errors="replace").decode(head)


def split_line(line: str, separator: str) -> list[str]:
    """The cells of a line, quotes taken off and blanks stripped."""
    try:
        row = next(csv.reader(io.StringIO(line), delimiter=separator), [])
    except csv.Error:
        row = line.split(separator)
    return [cell.strip() for cell in row]


def _width(lines: list[str], separator: str) -> int:
    """The commonest number of cells of a line, at least two, among the later lines; 0 if there is none."""
    counts: dict[int, int] = {}
    for line in lines[:400]:
        if line.strip():
            cells = len(split_line(line, separator))
            counts[cells] = counts.get(cells, 0) + 1
    wide = {cells: times for cells, times in counts.items() if 2 <= cells <= MOST_COLUMNS}
    return max(wide, key=lambda cells: (wide[cells], cells), default=0)


def _numeric(rows: list[list[str]]) -> float:
    """The share of filled cells that are numbers or times."""
    cells = [cell for row in rows for cell in row if cell]
    return sum(1 for cell in cells if FIGURE.match(cell)) / len(cells) if cells else 0.0


def _fits(lines: list[str], separator: str) -> float:
    """How well a separator explains the lines: like widths, and cells that are numbers."""
    width = _width(lines, separator)
    if not width:
        return 0.0
    rows = [split_line(line, separator) for line in lines[:400] if line.strip()]
    alike = [row for row in rows if len(row) == width]
    return len(alike) / len(rows) * (0.05 + _numeric(alike)) * (1 + 0.01 * min(width, 20))


def _described(lines: list[str], separator: str, encoding: str) -> LogLayout:
    width = _width(lines, separator)
    rows = [(number, split_line(line, separator)) for number, line in enumerate(lines, 1) if line.strip()]
    fit = [(number, row) for number, row in rows if len(row) == width]
    first = next(
        (
            i
            for i, (_, row) in enumerate(fit)
            if sum(1 for c in row if FIGURE.match(c)) * 2 >= sum(1 for c in row if c) > 0
        ),
        None,
    )
    if first is None:
        first = 1
    heading_line, headings = 0, tuple(f"column {i}" for i in range(1, width + 1))
    if first > 0:
        heading_line, row = fit[first - 1]
        above = fit[first - 2] if first > 1 else None
        if above is not None and above[0] == heading_line - 1 and _are_units(row):
            row = [
                f"{name} [{unit}]" if unit and name else name or unit for name, unit in zip(above[1], row, strict=True)
            ]
        headings = _named(row)
    data = [row for number, row in rows if number > heading_line and len(row) >= 2]
    if not data:
        raise MusterError("there are headings but no rows", where="file", want="at least one row of readings")
    sample = tuple(tuple((row + [""] * width)[:width]) for row in data[:PREVIEW_ROWS])
    return LogLayout(
        encoding=encoding,
        separator=separator,
        decimal=_decimal(data[:200], separator),
        heading_line=heading_line,
        headings=headings,
        sample=sample,
    )


def _are_units(row: list[str]) -> bool:
    """Whether a line of headings is a second one that holds but units: all short, some with no name at all."""
    bare = [cell.strip("[]() ") for cell in row if cell]
    return (
        bool(bare)
        and all(len(cell) <= 6 and " " not in cell for cell in bare)
        and any(cell.lower() in UNIT_CELLS for cell in bare)
    )


def _named(row: list[str]) -> tuple[str, ...]:
    """Headings, the empty ones numbered and the doubled ones told apart."""
    names: list[str] = []
    for index, cell in enumerate(row, 1):
        name = cell.lstrip("\ufeff") or f"column {index}"
        names.append(name if name not in names else f"{name} ({index})")
    return tuple(names)


def _decimal(rows: list[list[str]], separator: str) -> str:
    if separator == ",":
        quoted = sum(1 for row in rows for cell in row if COMMA_NUMBER.match(cell))
        plain = sum(1 for row in rows for cell in row if POINT_NUMBER.match(cell))
        return "," if quoted > plain else "."
    commas = sum(1 for row in rows for cell in row if COMMA_NUMBER.match(cell))
    points = sum(1 for row in rows for cell in row if POINT_NUMBER.match(cell))
    return "," if commas > points else "."
