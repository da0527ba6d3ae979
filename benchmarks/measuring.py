"""Timing a piece of work, and a row of the table."""

from __future__ import annotations

import resource
import statistics
import time
import tracemalloc
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """A budget: the work, the plain way and ours in the same unit, how many times better, the aim, and whether it is met."""

    work: str
    plain_way: str
    plain: str
    ours: str
    ratio: float | None
    aim: str
    met: bool | None


YARDSTICK_SQUARES = 1_000_000
IDLE_YARDSTICK_S = 0.055
"""What that takes on an idle core of three to four gigahertz under CPython 3.11; an assumption, stated."""


def seconds(work: Callable[[], object], times: int = 5) -> float:
    """Median wall time of a piece of work [s], after one run that is not counted."""
    work()
    result = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        result.append(time.perf_counter() - start)
    return statistics.median(result)


def yardstick() -> Row:
    """One fixed piece of plain work, so that a budget in milliseconds can be held against the machine it is measured on."""
    took = seconds(lambda: sum(i * i for i in range(YARDSTICK_SQUARES)))
    return Row(
        f"yardstick: {YARDSTICK_SQUARES:,} squares added in plain Python",
        "an idle core",
        ms(IDLE_YARDSTICK_S),
        ms(took),
        IDLE_YARDSTICK_S / took,
        "budgets in ms are for an idle core: divide by the ratio",
        None,
    )


def once(work: Callable[[], object]) -> float:
    """Wall time of a piece of work done once [s]."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def peak_mb() -> float:
    """The most memory this process has held [MB]."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def most_held_mb(work: Callable[[], object]) -> float:
    """The most memory that Python and numpy held at once while a piece of work was done [MB]."""
    tracemalloc.start()
    work()
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return peak / 1e6


def ms(value_s: float) -> str:
    """A time for the table."""
    return f"{value_s * 1000:.3g} ms" if value_s < 1 else f"{value_s:.3g} s"


def table(rows: list[Row]) -> str:
    """The rows as Markdown."""
    lines = ["| work | the plain way | plain | ours | ratio | aim | met |", "|---|---|---|---|---|---|---|"]
    for row in rows:
        ratio = f"{row.ratio:.3g} ×" if row.ratio is not None else "–"
        met = {True: "yes", False: "**no**", None: "–"}[row.met]
        lines.append(f"| {row.work} | {row.plain_way} | {row.plain} | {row.ours} | {ratio} | {row.aim} | {met} |")
    return "\n".join(lines)
