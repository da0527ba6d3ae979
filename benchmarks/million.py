"""Write a log of a million rows: ``python -m benchmarks.million FILE``."""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
import polars as pl

ROWS = 1_000_000
HEADINGS = ("l1_v", "l1_a", "l1_w", "l2_v", "l2_a", "l2_w", "f_hz", "spl_dba", "dc_v", "dc_a", "soc_pct", "temp_c")


def write(path: Path) -> None:
    """A million rows, twelve channels, a row a second."""
    rng = np.random.default_rng(3)
    columns = {"t_s": np.arange(ROWS, dtype=np.float64)}
    columns |= {heading: rng.normal(50, 3, ROWS).round(2) for heading in HEADINGS}
    pl.DataFrame(columns).write_csv(path)


if __name__ == "__main__":
    write(Path(sys.argv[1]))
