"""What was read on each step of a plan."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .model import Step
from .replay import BenchRecord, EndedBy


@dataclass(frozen=True)
class StepSeen:
    """What was read on a step: its highest watts (None: not read), how long held, whether it tripped."""

    w: float | None = None
    held_s: float = 0.0
    tripped: bool = False

    @property
    def w_or_0(self) -> float:
        """Its watts, nothing where they were not read."""
        return self.w or 0.0


def steps_seen(record: BenchRecord, steps: Sequence[Step], legs: int) -> tuple[StepSeen, ...]:
    """The highest watts read on each step of a plan, how long they were held, and whether it tripped there.

    Parameters
    ----------
    record
        The session replayed.
    steps
        Of its plan.
    legs
        Of the supply.

    Returns
    -------
    tuple of StepSeen
        One for each step.

    References
    ----------
    physics §11: which step a level belongs to follows from the watts, not from whether somebody pressed *step done*.
    """
    seen: dict[int, StepSeen] = {}
    for segment in record.segments:
        w = segment.total_w(legs)
        if w is None:
            continue
        index = _step_of(segment.step, w, steps)
        there = StepSeen(w, segment.held_s(), segment.ended_by is EndedBy.TRIP)
        if index not in seen or there.w_or_0 > seen[index].w_or_0:
            seen[index] = there
    return tuple(seen.get(index, StepSeen()) for index in range(len(steps)))


def _step_of(pressed: int, w: float, steps: Sequence[Step]) -> int:
    """The step that was ticked if its watts are those; else the one whose watts lie nearest; else the one that was ticked."""
    off = {
        index: (abs(w - wanted_w) / wanted_w, abs(w - (step.target_w or wanted_w)))
        for index, step in enumerate(steps)
        if (wanted_w := step.planned_w or step.target_w)
    }
    if not off or (pressed in off and off[pressed][0] < NEAR_STEP):
        return pressed
    nearest = min(off, key=lambda index: off[index])  # of two steps by the same loads the one that asked for it
    return nearest if off[nearest][0] < NEAR_STEP else pressed


NEAR_STEP = 0.2
"""Watts this near to what a step should come to are of that step: a share of them. Ours."""
