"""Traces in blocks: kept, opened wide, zoomed; against a row a sample."""

from __future__ import annotations

import sqlite3
import tempfile
from pathlib import Path

import numpy as np

from muster.core.kit import Kit
from muster.core.sessions import Place
from muster.core.supply import SYSTEMS
from muster.core.timeline.traces import Channel
from muster.core.timeline.traces.features import extract_features
from muster.core.timeline.traces.view import buckets
from muster.records.actions import traces
from muster.records.actions.people import local_account
from muster.records.models import SessionRow, TraceRow

from .measuring import Row, most_held_mb, ms, once, seconds

HZ, HOURS = 10, 96
CHANNELS = (
    *(Channel(q, p) for p in (Place.LEG1, Place.LEG2) for q in ("v", "a", "w")),
    Channel("hz"),
    Channel("dba"),
    Channel("v", Place.DC),
    Channel("a", Place.DC),
    Channel("soc_pct"),
    Channel("temp_c"),
)
LEVELS = (120, 10, 1200, 121, 8, 950, 60, 62, 51.2, 45, 80, 18)
ROWS_TRIED = 40_000
PIXELS = 1500


def recording(session: SessionRow) -> tuple[TraceRow, float]:
    """Four days at ten rows a second kept, an hour at a time; and how long that took [s]."""
    rng = np.random.default_rng(1)
    writer = traces.BlockWriter(traces.stage(session, "four days", "recorder", CHANNELS, local_account()))
    hour = HZ * 3600
    values = (np.array(LEVELS)[:, None] * rng.normal(1, 0.003, (len(CHANNELS), hour))).astype(np.float32)
    values[:6, : hour // 3] *= 0.97

    def keep() -> None:
        for at in range(HOURS):
            writer.take(at * 3600 + np.arange(hour) / HZ, values)
        writer.finish()

    took_s = once(keep)
    return writer.row, took_s


def a_row_a_sample() -> tuple[float, float]:
    """Rows a second kept, and read back, one row a sample."""
    with tempfile.TemporaryDirectory() as folder:
        with sqlite3.connect(Path(folder) / "rows.sqlite3") as base:
            base.execute("PRAGMA journal_mode=WAL")
            base.execute("PRAGMA synchronous=FULL")
            base.execute(f"CREATE TABLE sample (t REAL, {', '.join(f'c{i} REAL' for i in range(len(CHANNELS)))})")
            row = tuple(float(i) for i in range(len(CHANNELS) + 1))
            marks = ", ".join("?" * len(row))
            kept = once(lambda: [base.execute(f"INSERT INTO sample VALUES ({marks})", row) for _ in range(ROWS_TRIED)])
            base.commit()
            read = once(lambda: np.array(base.execute("SELECT * FROM sample").fetchall()))
        base.close()
    return ROWS_TRIED / kept, ROWS_TRIED / read


def thinned(t_s: np.ndarray, y: np.ndarray) -> list[tuple[float, float]]:
    """Lowest and highest of each pixel's samples in plain Python."""
    size = len(y) // PIXELS
    return [(min(part), max(part)) for part in (y[i * size : (i + 1) * size].tolist() for i in range(PIXELS))]


def rows(session: SessionRow) -> list[Row]:
    """Keeping, opening, zooming, thinning."""
    kept_plain, read_plain = a_row_a_sample()
    row, took_s = recording(session)
    count = HZ * 3600 * HOURS
    wide_s = seconds(lambda: traces.look(row, row.t0_s, row.t1_s, PIXELS))
    zoom_s = seconds(lambda: traces.look(row, 40 * 3600, 40 * 3600 + 3600, PIXELS))
    more_mb = most_held_mb(
        lambda: (traces.look(row, row.t0_s, row.t1_s, PIXELS), traces.look(row, 144_000, 147_600, PIXELS))
    )
    open_plain_s = count / read_plain
    day = traces.read_trace(row, 0, 24 * 3600)
    read_s = once(lambda: extract_features(day, Kit(), SYSTEMS["split-120-240-60"]))
    t_s = np.arange(count) / HZ
    y = np.random.default_rng(2).normal(0, 1, count).astype(np.float32)[None]
    thin_s = seconds(lambda: buckets(t_s, y, y, 0, t_s[-1], PIXELS))
    thin_plain_s = once(lambda: thinned(t_s, y[0]))
    return [
        Row(
            "keep readings, 12 channels",
            "a row a sample, in one transaction",
            f"{kept_plain:,.0f} rows/s",
            f"{count / took_s:,.0f} rows/s",
            count / took_s / kept_plain,
            "blocks",
            count / took_s > kept_plain,
        ),
        Row(
            "open 96 h at 10 Hz x 12, whole",
            "read every row (scaled from 40,000)",
            ms(open_plain_s),
            ms(wide_s),
            open_plain_s / wide_s,
            "< 100 ms",
            wide_s < 0.1,
        ),
        Row(
            "zoom to one hour of it",
            "read every row (scaled)",
            ms(open_plain_s),
            ms(zoom_s),
            open_plain_s / zoom_s,
            "< 150 ms",
            zoom_s < 0.15,
        ),
        Row("memory both add", "–", "–", f"{more_mb:.0f} MB", None, "< 60 MB", more_mb < 60),
        Row("read findings off 24 h of it, once", "–", "–", ms(read_s), None, "< 5 s", read_s < 5),
        Row(
            "thin 3.5 M points to 1,500",
            "min and max by slices, in Python",
            ms(thin_plain_s),
            ms(thin_s),
            thin_plain_s / thin_s,
            "min/max",
            None,
        ),
    ]
