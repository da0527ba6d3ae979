"""The ladder: a sheet's steps as rungs, measured inked over planned."""

from __future__ import annotations

from dataclasses import dataclass

from muster.core.quantities import duration, plain
from muster.core.sessions import Step
from muster.core.sessions.replay import BenchRecord, rungs_seen

from .scales import Scale, Tick, ticks

WIDTH, RUNG = 640, 34
LEFT, RIGHT, TOP = 92, 500, 30


@dataclass(frozen=True)
class Rung:
    """A step: its planned bar, and the measured one over it."""

    y: float
    label: str
    planned_x: float | None
    measured_x: float | None
    planned: str
    measured: str
    held: str
    tripped: bool


@dataclass(frozen=True)
class Ladder:
    """Geometry of the ladder drawing."""

    width: int
    height: int
    left: int
    rungs: tuple[Rung, ...]
    ticks: tuple[Tick, ...]
    claim_x: float
    claim: str
    description: str
    seen: bool


def draw_ladder(steps: tuple[Step, ...], record: BenchRecord, claim_w: float, legs: int) -> Ladder:
    """Lay out the rungs bottom up, as they are climbed."""
    seen = rungs_seen(record, len(steps), legs)
    most = max([claim_w, *(rung.w or 0.0 for rung in seen), *(s.planned_w or 0.0 for s in steps)]) * 1.08
    scale = Scale(0, most, LEFT, RIGHT)
    rungs = []
    for index, step in enumerate(steps):
        w, held_s, tripped = seen[index].w, seen[index].held_s, seen[index].tripped
        y = TOP + (len(steps) - 1 - index) * RUNG
        rungs.append(
            Rung(
                y,
                step.label,
                scale(step.planned_w) if step.planned_w else None,
                scale(w) if w else None,
                plain(step.planned_w, "w") if step.planned_w is not None else "–",
                plain(w, "w") if w is not None else "not read",
                ("let go after " if tripped else "held ") + duration(held_s) if held_s else "",
                tripped,
            )
        )
    height = TOP + len(steps) * RUNG + 34
    words = "; ".join(f"{rung.label}: planned {rung.planned}, measured {rung.measured} {rung.held}" for rung in rungs)
    return Ladder(
        WIDTH,
        height,
        LEFT,
        tuple(rungs),
        ticks(scale, 6, 1000),
        scale(claim_w),
        plain(claim_w, "w"),
        words,
        any(r.w is not None for r in seen),
    )
