"""Laying a trap in a world: the case, and whether Muster walked into it."""

from __future__ import annotations

import numpy as np

from muster.core.verdict import Requirement, Status, judge
from muster.core.verdict.inputs import VerdictInputs

from .traps import TRAPS, Trap
from .worlds import World, case_of, engine_world, station_world

PASSES = (Status.CARRIES, Status.WITH_RULES, Status.TIGHT)
CARRIES = (Status.CARRIES, Status.WITH_RULES)


def world_of(kind: str, seed: int) -> World:
    """A world that carries, by its kind and its seed."""
    if kind == "station":
        return station_world(seed)
    return engine_world(seed, 2 if kind == "split" else 1)


def laid(trap: Trap, seed: int) -> VerdictInputs:
    """The case of a trap, in the world of a seed."""
    kind = trap.worlds[seed % len(trap.worlds)]
    rng = np.random.default_rng([seed, *trap.name.encode()])
    return case_of(trap.change(rng, world_of(kind, seed)))


def walked_into(trap: Trap, seed: int) -> tuple[str, ...]:
    """What passed that must not: the trap's own line where every line of it passes, and the verdict where it carries."""
    verdict = judge(laid(trap, seed))
    own = [row for row in verdict.requirements if row.key == trap.row or row.key.startswith(f"{trap.row}-")]
    wrong = [_told(row) for row in own] if own and all(row.status in PASSES for row in own) else []
    if verdict.status in CARRIES:
        wrong.append(f"verdict: {verdict.headline}")
    return tuple(wrong)


def _told(row: Requirement) -> str:
    return f"{row.key} {row.status} {row.margin}: {row.sentence}"


def cases(seeds: range) -> list[tuple[Trap, int]]:
    """Every trap at every seed."""
    return [(trap, seed) for trap in TRAPS for seed in seeds]
