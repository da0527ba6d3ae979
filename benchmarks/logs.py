"""A log of a million rows imported, against the csv module."""

from __future__ import annotations

import csv
import subprocess
import sys
from pathlib import Path

from muster.records.actions import imports
from muster.records.actions.people import local_account
from muster.records.models import SessionRow

from .measuring import Row, ms, once, peak_mb
from .million import ROWS

TRIED = 100_000
AIM_S, AIM_MB = 2.5, 250


def by_the_csv_module(path: Path) -> int:
    """The first rows read cell by cell."""
    with path.open(newline="", encoding="utf-8") as file:
        reader = csv.reader(file)
        next(reader)
        return len([[float(cell) for cell in row] for row, _ in zip(reader, range(TRIED), strict=False)])


def rows(session: SessionRow, folder: Path) -> list[Row]:
    """Read, checked and in blocks in the database."""
    path = folder / "million.csv"
    # Written by a process of its own: what that holds is not counted here.
    subprocess.run([sys.executable, "-m", "benchmarks.million", str(path)], check=True)
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
        Row(
            "CSV, 1 M rows x 12, into blocks",
            "csv module and float(), not kept (scaled)",
            ms(plain_s),
            ms(took_s),
            plain_s / took_s,
            f"< {AIM_S} s",
            took_s < AIM_S,
        ),
        Row("memory that adds", "–", "–", f"{more_mb:.0f} MB", None, f"< {AIM_MB} MB", more_mb < AIM_MB),
    ]
