"""A log file read in chunks: fast where a chunk is plain, cell by cell where it is not; one message when it is wrong."""

from __future__ import annotations

import codecs
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import BinaryIO

import numpy as np
import polars as pl
from numpy.typing import NDArray

from muster.core.errors import MusterError

from .layout import LogLayout, split_line
from .mapping import FACTORS, MISSING_WORDS, Mapping, TimeForm
from .times import Clock, read_time

CHUNK_BYTES = 4 * 1024 * 1024
MOST_LINE_BYTES = 1024 * 1024
FAST_LEAST = 20_000
"""A shorter piece is read cell by cell: there is nothing to gain."""
WITH_UNIT = re.compile(r"^([+-]?(?:\d+[.,]?\d*|[.,]\d+)(?:[eE][+-]?\d+)?)\s*[a-zA-Z%°Ω()]{1,8}$")
FAHRENHEIT_ZERO = 32.0
HOUR_S = 3600.0
DAY_S = 86400.0
FAST_FORMATS = {
    r"\d{4}-\d\d-\d\d \d\d:\d\d:\d\d": "%Y-%m-%d %H:%M:%S",
    r"\d{4}-\d\d-\d\d \d\d:\d\d:\d\d\.\d+": "%Y-%m-%d %H:%M:%S%.f",
    r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d": "%Y-%m-%dT%H:%M:%S",
    r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d+": "%Y-%m-%dT%H:%M:%S%.f",
    r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ": "%Y-%m-%dT%H:%M:%SZ",
    r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d+Z": "%Y-%m-%dT%H:%M:%S%.fZ",
}
"""Year-first times that polars reads at once; every other form is read cell by cell."""

WAYS = ((True, False), (True, True), (False, False))
"""Figures read as such or as text, with words for missing or without: the quickest first."""


@dataclass(frozen=True, eq=False)
class Chunk:
    """Rows of a log: ``t_s`` seconds since 1970 (n,), ``values`` (channels, n), and how much of the file is read."""

    t_s: NDArray[np.float64]
    values: NDArray[np.float32]
    done_bytes: int


@dataclass
class Notes:
    """What the reader met on the way, counted."""

    rows: int = 0
    repeated: int = 0
    skipped: int = 0
    missing: int = 0
    spread: int = 0
    set_back: int = 0
    sorted: int = 0

    @property
    def told(self) -> tuple[str, ...]:
        """What is worth saying, a phrase each."""
        said = (
            (self.repeated, "repeated headings left out"),
            (self.skipped, "lines that hold no reading left out"),
            (self.missing, "cells without a reading"),
            (self.spread, "rows that shared a time spread evenly"),
            (self.set_back, "times the clock was set back"),
            (self.sorted, "rows put in order of time"),
        )
        return tuple(f"{count} {words}" for count, words in said if count)


@dataclass
class _Rows:
    """A chunk's rows before their order is put right: the line each stands on, and which times stand twice a year."""

    lines: Callable[[], list[int]]
    t_s: NDArray[np.float64]
    twice: NDArray[np.bool_]
    values: NDArray[np.float32]


def read_chunks(
    file: BinaryIO, layout: LogLayout, mapping: Mapping, clock: Clock, notes: Notes | None = None
) -> Iterator[Chunk]:
    """Read a log file by its mapping, chunk after chunk, times rising throughout.

    Raises
    ------
    MusterError
        With the row and the column at fault, if a cell is no number, a time
        cannot be read, or the time goes backwards and the mapping does not say
        what to do; or if there is no row at all.
    """
    notes = notes if notes is not None else Notes()
    reader = _Reader(layout, mapping, clock, notes)
    order = _Order(mapping=mapping, notes=notes)
    for text, first_line, done_bytes in _pieces(file, layout):
        rows = reader.read(text, first_line)
        yield from (Chunk(t_s, values, done_bytes) for t_s, values in order.take(rows) if t_s.size)
    yield from (Chunk(t_s, values, file.tell()) for t_s, values in order.finish() if t_s.size)
    if not notes.rows:
        raise MusterError("no row holds a reading", where="file", want="rows with a time and a figure")


def _pieces(file: BinaryIO, layout: LogLayout) -> Iterator[tuple[str, int, int]]:
    """Whole lines of the file as text, after the headings: the text, its first line's number, bytes read so far."""
    decode = codecs.getincrementaldecoder(layout.encoding)(errors="replace")
    held, line, skip = "", 1, layout.heading_line
    while True:
        raw = file.read(CHUNK_BYTES)
        text = held + decode.decode(raw, final=not raw)
        if raw and text.endswith("\r"):
            text, held = text[:-1], "\r"
        else:
            held = ""
        text = text.replace("\r\n", "\n").replace("\r", "\n")
        if raw:
            cut = text.rfind("\n") + 1
            if not cut and len(text) > MOST_LINE_BYTES:
                raise MusterError(
                    "a line is longer than a megabyte", where=f"row {line}", want="a log with a row a line"
                )
            text, held = text[:cut], text[cut:] + held
        first = line
        line += text.count("\n")
        if skip >= first and text:
            gone = min(skip - first + 1, text.count("\n"))
            text = text.split("\n", gone)[gone] if gone else text
            first += gone
        if text:
            yield text, first, file.tell()
        if not raw:
            return


class _Reader:
    """Turns text into rows; counts what it leaves out."""

    def __init__(self, layout: LogLayout, mapping: Mapping, clock: Clock, notes: Notes) -> None:
        self.layout, self.mapping, self.clock, self.notes = layout, mapping, clock, notes
        self.width = max(len(layout.headings), max(mapping.time) + 1, max(c.index for c in mapping.columns) + 1)
        for index in (*mapping.time, *(column.index for column in mapping.columns)):
            if index >= len(layout.headings):
                raise MusterError(
                    f"there is no column {index + 1}", where="columns", want=f"1 to {len(layout.headings)}"
                )
        self.sentinels = {_plain_number(word, layout.decimal) for word in mapping.missing} - {None}
        self.missing = {*MISSING_WORDS, *(word.lower() for word in mapping.missing)}
        self.null_words = sorted({*self.missing, *(word.upper() for word in self.missing), "NaN"})

        self.way = 0

    def read(self, text: str, first_line: int) -> _Rows:
        rows = self._fast(text, first_line)
        if rows is None:
            rows = self._slow(text, first_line)
        self.notes.rows += rows.t_s.size
        self.notes.missing += int(np.isnan(rows.values).sum())
        return rows

    def _fast(self, text: str, first_line: int) -> _Rows | None:
        """All cells at once, None where something in the chunk wants looking at, or it is too short to be worth it."""
        mapping = self.mapping
        if len(text) < FAST_LEAST or '"' in text or len(mapping.time) != 1:
            return None
        data = text.encode()
        if "\n\n" in text or "\n \n" in text:
            return None
        frame = self._frame(data)
        count = text.count("\n") + (not text.endswith("\n"))
        if frame is None or frame.height != count:
            return None
        t_s = self._fast_times(frame[f"c{mapping.time[0]}"])
        if t_s is None:
            return None
        values = np.empty((len(mapping.columns), frame.height), dtype=np.float32)
        for row, column in enumerate(mapping.columns):
            numbers = self._fast_numbers(frame[f"c{column.index}"])
            if numbers is None:
                return None
            with np.errstate(over="ignore"):
                values[row] = _scaled(numbers, column.scale).astype(np.float32)
        values[~np.isfinite(values)] = np.nan
        lines = lambda: list(range(first_line, first_line + count))  # noqa: E731
        return _Rows(lines, t_s, np.zeros(t_s.size, dtype=bool), values)

    def _frame(self, data: bytes) -> pl.DataFrame | None:
        """The mapped columns: the quickest way that reads this file, None where polars cannot.

        Figures alone; figures and words for missing; all as text. What failed
        once is not tried again.
        """
        wanted = {column.index for column in self.mapping.columns}
        comma = self.layout.decimal == ","
        while self.way < len(WAYS):
            numbers, words = WAYS[self.way]
            kind = pl.Float64 if numbers else pl.String
            schema = {f"c{i}": kind if i in wanted else pl.String for i in range(self.width)}
            try:
                return pl.read_csv(
                    data,
                    has_header=False,
                    separator=self.layout.separator,
                    quote_char=None,
                    schema=schema,
                    columns=sorted({*self.mapping.time, *wanted}),
                    truncate_ragged_lines=True,
                    null_values=self.null_words if words else None,
                    decimal_comma=numbers and comma,
                )
            except (pl.exceptions.PolarsError, ValueError):
                self.way += 1
        return None

    def _fast_numbers(self, cells: pl.Series) -> NDArray[np.float64] | None:
        if cells.dtype == pl.Float64:
            return self._without_sentinels(cells.to_numpy().astype(np.float64))
        text = cells.str.strip_chars()
        if self.layout.decimal == ",":
            text = text.str.replace(",", ".", literal=True)
        numbers = text.cast(pl.Float64, strict=False)
        lost = text.filter(numbers.is_null() & text.is_not_null()).unique()
        if any(word.lower() not in self.missing for word in lost.to_list()):
            return None
        return self._without_sentinels(numbers.to_numpy().astype(np.float64))

    def _without_sentinels(self, result: NDArray[np.float64]) -> NDArray[np.float64]:
        for sentinel in self.sentinels:
            result = np.where(result == sentinel, np.nan, result)
        return result

    def _fast_times(self, cells: pl.Series) -> NDArray[np.float64] | None:
        form = self.mapping.form
        if form in (TimeForm.EPOCH_S, TimeForm.EPOCH_MS, TimeForm.ELAPSED_S):
            text = cells.str.replace(",", ".", literal=True) if self.layout.decimal == "," else cells
            numbers = text.str.strip_chars().cast(pl.Float64, strict=False)
            if numbers.null_count() or not numbers.is_finite().all() or numbers.abs().max() >= 1e14:  # type: ignore[operator]
                return None
            scale = 1e-3 if form is TimeForm.EPOCH_MS else 1.0
            base = self.clock.began_s if form is TimeForm.ELAPSED_S else 0.0
            return numbers.to_numpy().astype(np.float64) * scale + base
        if form is not TimeForm.ISO or cells.null_count():
            return None
        like = next((f for pattern, f in FAST_FORMATS.items() if re.fullmatch(pattern, cells[0])), None)
        if like is None or cells.str.len_bytes().n_unique() > 4:
            return None
        at = cells.str.strptime(pl.Datetime("us"), like.removesuffix("Z"), strict=False, exact=not like.endswith("Z"))
        if at.null_count():
            return None
        zone = "UTC" if like.endswith("Z") else self.clock.zone.key
        try:
            placed = at.dt.replace_time_zone(zone, ambiguous="raise", non_existent="raise")
        except pl.exceptions.PolarsError:
            return None
        return placed.dt.timestamp("us").to_numpy().astype(np.float64) / 1e6

    def _slow(self, text: str, first_line: int) -> _Rows:
        """Cell by cell: what this says is what is meant; the fast way must say the same."""
        lines: list[int] = []
        t_s: list[float] = []
        twice: list[bool] = []
        values: list[list[float]] = []
        for number, line in enumerate(text.removesuffix("\n").split("\n"), first_line):
            if not line.strip():
                continue
            cells = split_line(line, self.layout.separator)
            cells += [""] * (self.width - len(cells))
            read = self._row(cells, number)
            if read is None:
                continue
            lines.append(number)
            t_s.append(read[0])
            twice.append(read[1])
            values.append(read[2])
        kept = np.array(values, dtype=np.float64).T.reshape(len(self.mapping.columns), len(values))
        with np.errstate(over="ignore"):
            samples = kept.astype(np.float32)
        samples[~np.isfinite(samples)] = np.nan
        return _Rows(lambda: lines, np.array(t_s, dtype=np.float64), np.array(twice, dtype=bool), samples)

    def _row(self, cells: list[str], number: int) -> tuple[float, bool, list[float]] | None:
        mapping = self.mapping
        at_cell = " ".join(cells[index] for index in mapping.time).strip()
        at = read_time(at_cell, mapping.form, self.clock)
        if at is None:
            if self._is_heading(cells):
                self.notes.repeated += 1
                return None
            if not any(cells[column.index] for column in mapping.columns):
                self.notes.skipped += 1
                return None
            heading = self.layout.headings[mapping.time[0]]
            shown = f"“{at_cell[:60]}”" if at_cell else "nothing"
            raise MusterError(
                f"{shown} is no such time", where=f"row {number}, column “{heading}”", want=mapping.form.label
            )
        return at[0], at[1], [self._cell(cells, column.index, column.scale, number) for column in mapping.columns]

    def _is_heading(self, cells: list[str]) -> bool:
        named = [self.layout.headings[i] == cells[i] for i in range(len(self.layout.headings)) if cells[i]]
        return bool(named) and sum(named) * 2 > len(named)

    def _cell(self, cells: list[str], index: int, scale: str, number: int) -> float:
        cell = cells[index]
        if cell.lower() in self.missing:
            return float("nan")
        value = _plain_number(cell, self.layout.decimal)
        if value is None:
            heading = self.layout.headings[index]
            raise MusterError(
                f"“{cell[:60]}” is not a number",
                where=f"row {number}, column “{heading}”",
                want=f"a figure with a decimal {'comma' if self.layout.decimal == ',' else 'point'}, or a word for missing",
            )
        if value in self.sentinels:
            return float("nan")
        return float(_scaled(np.array([value]), scale)[0])


def _plain_number(cell: str, decimal: str) -> float | None:
    """A number, with or without its unit; None where it is none."""
    match = WITH_UNIT.match(cell)
    text = (match[1] if match else cell).strip()
    if decimal == ",":
        text = text.replace(",", ".", 1)
    try:
        return float(text) if "_" not in text else None
    except ValueError:
        return None


def _scaled(numbers: NDArray[np.float64], scale: str) -> NDArray[np.float64]:
    zero = FAHRENHEIT_ZERO if scale == "fahrenheit" else 0.0
    with np.errstate(over="ignore"):
        return (numbers - zero) * FACTORS[scale]


@dataclass
class _Order:
    """Sees to it that times rise: spreads those that are equal, and does as told where they go back."""

    mapping: Mapping
    notes: Notes
    last_s: float | None = None
    shift_s: float = 0.0
    autumn: bool = False
    held: list[_Rows] = field(default_factory=list)
    tail: tuple[NDArray[np.float64], NDArray[np.float32]] | None = None

    def take(self, rows: _Rows) -> Iterator[tuple[NDArray[np.float64], NDArray[np.float32]]]:
        """Rows in order, as far as they are sure."""
        if not rows.t_s.size:
            return
        self._autumn(rows)
        t_s = rows.t_s - self.mapping.ahead_s
        if self.mapping.form is TimeForm.CLOCK:
            t_s = self._past_midnight(t_s)
        rows = _Rows(rows.lines, t_s, rows.twice, rows.values)
        if self.mapping.backwards == "sort":
            self.held.append(rows)
            return
        t_s = self._forward(rows)
        yield from self._spread(t_s, rows.values)

    def finish(self) -> Iterator[tuple[NDArray[np.float64], NDArray[np.float32]]]:
        """What was held back."""
        if self.held:
            t_s = np.concatenate([rows.t_s for rows in self.held])
            order = np.argsort(t_s, kind="stable")
            self.notes.sorted += int((np.diff(t_s) < 0).sum())
            yield from self._spread(t_s[order], np.concatenate([rows.values for rows in self.held], axis=1)[:, order])
        if self.tail is not None:
            t_s, values = self.tail
            yield _spread_group(t_s, values, None, self.notes)

    def _autumn(self, rows: _Rows) -> None:
        """Local times of the hour that stands twice: once they have gone back, they are the later ones."""
        if not rows.twice.any():
            self.autumn = False
            return
        before = self.last_s
        for i in range(rows.t_s.size):
            if not rows.twice[i]:
                self.autumn = False
            else:
                raw = float(rows.t_s[i])
                self.autumn = self.autumn or (before is not None and raw < before - HOUR_S / 4)
                rows.t_s[i] = raw + (HOUR_S if self.autumn else 0.0)
            before = float(rows.t_s[i])

    def _past_midnight(self, t_s: NDArray[np.float64]) -> NDArray[np.float64]:
        """Clock times without a date: back by half a day or more is the next day."""
        previous = t_s[:1] if self.last_s is None else np.array([self.last_s - self.shift_s])
        days = np.cumsum(np.diff(np.concatenate([previous, t_s])) < -DAY_S / 2)
        shifted = t_s + self.shift_s + days * DAY_S
        self.shift_s += float(days[-1]) * DAY_S
        if self.mapping.backwards == "sort":
            self.last_s = float(shifted[-1])
        return np.asarray(shifted, dtype=np.float64)

    def _forward(self, rows: _Rows) -> NDArray[np.float64]:
        set_back = self.mapping.backwards == "set_back"
        t_s = rows.t_s + (self.shift_s if set_back else 0.0)
        before = np.concatenate([[self.last_s if self.last_s is not None else t_s[0]], t_s[:-1]])
        back = np.flatnonzero(t_s < before)
        if back.size and not set_back:
            at = int(back[0])
            raise MusterError(
                f"the time goes back by {before[at] - t_s[at]:g} s",
                where=f"row {rows.lines()[at]}",
                want="rising times; or say under “Where the time goes back” what was meant",
            )
        for at in back.tolist():
            steps = np.diff(t_s[max(0, at - 50) : at])
            usual = float(np.median(steps[steps > 0])) if (steps > 0).any() else 1.0
            previous = float(t_s[at - 1]) if at else float(self.last_s or 0.0)
            if t_s[at] >= previous:
                continue
            add = previous + usual - float(t_s[at])
            t_s[at:] += add
            self.shift_s += add
            self.notes.set_back += 1
        self.last_s = float(t_s[-1])
        return t_s

    def _spread(
        self, t_s: NDArray[np.float64], values: NDArray[np.float32]
    ) -> Iterator[tuple[NDArray[np.float64], NDArray[np.float32]]]:
        """Rows that share a time are spread evenly up to the next; the last such group waits for it."""
        if self.tail is not None:
            t_s = np.concatenate([self.tail[0], t_s])
            values = np.concatenate([self.tail[1], values], axis=1)
        cut = int(np.searchsorted(t_s, t_s[-1], side="left"))
        self.tail = t_s[cut:].copy(), values[:, cut:].copy()
        if cut:
            yield _spread_group(t_s[:cut], values[:, :cut], float(t_s[-1]), self.notes)


def _spread_group(
    t_s: NDArray[np.float64], values: NDArray[np.float32], following_s: float | None, notes: Notes
) -> tuple[NDArray[np.float64], NDArray[np.float32]]:
    """Times with equal ones spread evenly until the next (at most a second)."""
    unique, first, counts = np.unique(t_s, return_index=True, return_counts=True)
    if unique.size == t_s.size:
        return t_s, values
    nexts = np.append(unique[1:], following_s if following_s is not None else unique[-1] + 1.0)
    room = np.minimum(nexts - unique, 1.0)
    place = np.arange(t_s.size) - np.repeat(first, counts)
    notes.spread += int((counts - 1).sum())
    return t_s + place * np.repeat(room / counts, counts), values
