"""Laying a trap in a world: the case, and whether Muster walked into it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from muster.core.outage.play import play_outage, ready
from muster.core.verdict import Requirement, Status, judge
from muster.core.verdict.by_chance import LEAST_DRAWS
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


def played(case: VerdictInputs) -> VerdictInputs:
    """A case with its outage played through, so that chance decides."""
    home = case.home
    outage = play_outage(ready(home.loads, home.brief, case.character), LEAST_DRAWS, events=False)
    return replace(case, played=outage)


def laid(trap: Trap, seed: int) -> VerdictInputs:
    """The case of a trap, in the world of a seed."""
    kind = trap.worlds[seed % len(trap.worlds)]
    rng = np.random.default_rng([seed, *trap.name.encode()])
    return case_of(trap.change(rng, world_of(kind, seed)))


def walked_into(trap: Trap, seed: int, *, by_chance: bool = False) -> tuple[str, ...]:
    """What passed that must not: the trap's own line where every line of it passes, and the verdict where it carries."""
    case = laid(trap, seed)
    verdict = judge(played(case) if by_chance else case)
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
