"""What somebody changed in a plan, and what that costs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..loads import Load
from ..quantities import duration, plain
from ..sessions import Step

SWITCH_S = 15.0
"""One load switched and said, beside what a step is held (planning figure)."""
BETWEEN_S = 45.0
"""Settling and reading, a step."""
AWAY = 0.03
"""A step is met within this share of the claim: a plan that misses it is said to. Ours."""


@dataclass(frozen=True)
class Changes:
    """Loads locked on in every step that is chosen, loads dropped from all; steps put in another order, or left out.

    Steps go by their labels; those not named follow in their own order.
    """

    locked: tuple[str, ...] = ()
    dropped: tuple[str, ...] = ()
    order: tuple[str, ...] = ()
    left_out: tuple[str, ...] = ()

    @property
    def any(self) -> bool:
        """Whether anything is changed at all."""
        return bool(self.locked or self.dropped or self.order or self.left_out)


def arranged(steps: Sequence[Step], changes: Changes) -> tuple[Step, ...]:
    """The steps in the order wanted, without those left out; a plan is never left empty."""
    place = {label: index for index, label in enumerate(changes.order)}
    kept = [step for step in steps if step.label not in changes.left_out] or list(steps)
    return tuple(sorted(kept, key=lambda step: place.get(step.label, len(place))))


def moved(steps: Sequence[Step], label: str, by: int) -> tuple[str, ...]:
    """The labels of the steps with one moved up (−1) or down (+1)."""
    labels = [step.label for step in steps]
    if label in labels:
        at = labels.index(label)
        to = max(0, min(len(labels) - 1, at + by))
        labels.insert(to, labels.pop(at))
    return tuple(labels)


def toggled(changes: Changes, key: str, what: str) -> Changes:
    """A load locked, dropped, or free again; it is never both."""
    locked = tuple(k for k in changes.locked if k != key)
    dropped = tuple(k for k in changes.dropped if k != key)
    if what == "lock":
        locked = (*locked, key)
    elif what == "drop":
        dropped = (*dropped, key)
    return replace(changes, locked=locked, dropped=dropped)


@dataclass(frozen=True)
class PlanCost:
    """What a plan costs: watts off its steps in all and at the worst, loads switched, seconds."""

    off_w: float
    worst_off_w: float
    switchings: int
    seconds: float
    steps: int


def switched(steps: Sequence[Step]) -> tuple[int, ...]:
    """How many loads are switched to come to each step, from all off."""
    on: set[str] = set()
    counts = []
    for step in steps:
        counts.append(len(on ^ set(step.loads)))
        on = set(step.loads)
    return tuple(counts)


def plan_cost(steps: Sequence[Step]) -> PlanCost:
    """Add up what a plan costs."""
    off = [abs(s.planned_w - s.target_w) for s in steps if s.planned_w is not None and s.target_w is not None]
    counts = sum(switched(steps))
    seconds = sum(step.hold_s + BETWEEN_S for step in steps) + SWITCH_S * counts
    return PlanCost(sum(off), max(off, default=0.0), counts, seconds, len(steps))


def compared(now: PlanCost, own: PlanCost) -> tuple[str, ...]:
    """What the changes cost against the plan as Muster makes it, in words; nothing where nothing differs."""
    said = []
    for difference, more, less in (
        (now.worst_off_w - own.worst_off_w, "further off at the worst step", "nearer at the worst step"),
        (now.off_w - own.off_w, "further off over all steps", "nearer over all steps"),
    ):
        if abs(difference) >= 1:
            said.append(f"{plain(abs(difference), 'w')} {more if difference > 0 else less}")
    for count, word in ((now.switchings - own.switchings, "switching"), (now.steps - own.steps, "step")):
        if count:
            said.append(f"{abs(count)} {word}{'s' if abs(count) > 1 else ''} {'more' if count > 0 else 'fewer'}")
    if abs(now.seconds - own.seconds) >= 30:
        said.append(
            f"{duration(abs(now.seconds - own.seconds))} {'longer' if now.seconds > own.seconds else 'shorter'}"
        )
    return tuple(said)


def misses(
    steps: Sequence[Step], claim_w: float, loads: Sequence[Load], most_w: float | None = None
) -> tuple[str, ...]:
    """The steps that the loads of the house do not reach within 3 % of the claim, in words.

    ``most_w`` is what circuit and meters allow in all (None: no limit).
    """
    all_w = sum(load.run_w for load in loads)
    said = []
    for step in steps:
        if step.target_w is None or step.planned_w is None:
            continue
        off = abs(step.planned_w - step.target_w)
        if off > AWAY * claim_w:
            if most_w is not None and most_w < step.target_w:
                why = f"circuit and meters allow {plain(most_w, 'w')}"
            elif all_w < step.target_w:
                why = "all the loads together do not reach it"
            else:
                why = "no loads of this house come nearer"
            said.append(f"{step.label}: {plain(off, 'w')} off, {why}")
    return tuple(said)
