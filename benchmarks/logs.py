"""A log of a million rows brought in, against the csv module."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np
import polars as pl

from muster.records.actions import imports
from muster.records.actions.people import local_account
from muster.records.models import SessionRow

from .measuring import Row, ms, once, peak_mb

ROWS, TRIED = 1_000_000, 100_000
HEADINGS = ("l1_v", "l1_a", "l1_w", "l2_v", "l2_a", "l2_w", "f_hz", "spl_dba", "dc_v", "dc_a", "soc_pct", "temp_c")
AIM_S, AIM_MB = 2.5, 250


def write(path: Path) -> None:
    """A million rows, twelve channels, a row a second."""
    rng = np.random.default_rng(3)
    columns = {"t_s": np.arange(ROWS, dtype=np.float64)}
    columns |= {heading: rng.normal(50, 3, ROWS).round(2) for heading in HEADINGS}
    pl.DataFrame(columns).write_csv(path)


def by_the_csv_module(path: Path) -> int:
    """The first rows read cell by cell."""
    with path.open(newline="", encoding="utf-8") as file:
        reader = csv.reader(file)
        next(reader)
        return len([[float(cell) for cell in row] for row, _ in zip(reader, range(TRIED), strict=False)])


def rows(session: SessionRow, folder: Path) -> list[Row]:
    """Read, checked and in blocks in the database."""
    path = folder / "million.csv"
    write(path)
    plain_s = once(lambda: by_the_csv_module(path)) * ROWS / TRIED
    with path.open("rb") as file:
        row = imports.receive(session, path.name, iter(lambda: file.read(1 << 20), b""), local_account())
    mapping = imports.suggested(row, imports.layout_of(row), "recorder")
    assert mapping is not None
    imports.begin(row, "recorder", mapping)
    before_mb = peak_mb()
    took_s = once(lambda: imports.run(row))
    assert (row.state, row.rows) == ("done", ROWS), row.message
    more_mb = peak_mb() - before_mb
    return [
        Row("CSV, 1 M rows x 12, into blocks", "csv module and float(), not kept (scaled)", ms(plain_s), ms(took_s), plain_s / took_s,
            f"< {AIM_S} s", took_s < AIM_S),
        Row("memory that adds", "–", "–", f"{more_mb:.0f} MB", None, f"< {AIM_MB} MB", more_mb < AIM_MB),
    ]  # fmt: skip
