"""The ladder: a plan's steps, measured inked over planned."""

from __future__ import annotations

from dataclasses import dataclass

from muster.core.quantities import duration, plain
from muster.core.sessions import Step
from muster.core.sessions.replay import BenchRecord
from muster.core.sessions.steps import steps_seen

from .scales import Scale, Tick, ticks

WIDTH, RUNG = 640, 34
LEFT, RIGHT, TOP = 92, 500, 30


@dataclass(frozen=True)
class LadderStep:
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
    ladder_steps: tuple[LadderStep, ...]
    ticks: tuple[Tick, ...]
    claim_x: float
    claim: str
    description: str
    seen: bool


def draw_ladder(steps: tuple[Step, ...], record: BenchRecord, claim_w: float, legs: int) -> Ladder:
    """Lay out the steps bottom up, as they are climbed."""
    seen = steps_seen(record, steps, legs)
    most = max([claim_w, *(ladder_step.w or 0.0 for ladder_step in seen), *(s.planned_w or 0.0 for s in steps)]) * 1.08
    scale = Scale(0, most, LEFT, RIGHT)
    ladder_steps = []
    for index, step in enumerate(steps):
        w, held_s, tripped = seen[index].w, seen[index].held_s, seen[index].tripped
        y = TOP + (len(steps) - 1 - index) * RUNG
        ladder_steps.append(
            LadderStep(
                y=y,
                label=step.label,
                planned_x=scale(step.planned_w) if step.planned_w else None,
                measured_x=scale(w) if w else None,
                planned=plain(step.planned_w, "w") if step.planned_w is not None else "–",
                measured=plain(w, "w") if w is not None else "not read",
                held=("tripped after " if tripped else "held ") + duration(held_s) if held_s else "",
                tripped=tripped,
            )
        )
    height = TOP + len(steps) * RUNG + 34
    words = "; ".join(
        f"{ladder_step.label}: planned {ladder_step.planned}, measured {ladder_step.measured} {ladder_step.held}"
        for ladder_step in ladder_steps
    )
    return Ladder(
        width=WIDTH,
        height=height,
        left=LEFT,
        ladder_steps=tuple(ladder_steps),
        ticks=ticks(scale, 6, 1000),
        claim_x=scale(claim_w),
        claim=plain(claim_w, "w"),
        description=words,
        seen=any(r.w is not None for r in seen),
    )
