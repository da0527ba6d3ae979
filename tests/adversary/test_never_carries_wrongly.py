"""No legal input makes Muster say *carries* where the truth, fixed before it saw anything, is another."""

from __future__ import annotations

import os

import pytest

from muster.core.verdict import Status, judge

from .laying import played, walked_into, world_of
from .traps import TRAPS, Trap
from .worlds import case_of

SEEDS, SEEDS_PLAYED = (70, 20) if os.environ.get("MUSTER_PROVE") else (7, 1)
"""Worlds a trap is laid in, and those of them whose outage is played through besides."""


@pytest.mark.parametrize("kind", ["engine", "split", "station"])
def test_what_carries_and_was_read_well_carries(kind: str) -> None:
    """Else nothing that follows would say anything."""
    for seed in range(SEEDS):
        case = case_of(world_of(kind, seed))
        verdict = judge(played(case) if seed < SEEDS_PLAYED else case)
        open_ = [f"{row.key} {row.status}: {row.sentence}" for row in verdict.requirements if row.status in OPEN]
        assert verdict.status is Status.CARRIES, (seed, open_)


OPEN = (Status.FALLS_SHORT, Status.NOT_PROVEN, Status.TIGHT)


@pytest.mark.parametrize("trap", TRAPS, ids=lambda trap: trap.name)
def test_no_trap_is_walked_into(trap: Trap) -> None:
    walked = {seed: wrong for seed in range(SEEDS) if (wrong := walked_into(trap, seed))}
    assert not walked, trap.truth


@pytest.mark.parametrize("trap", TRAPS, ids=lambda trap: trap.name)
def test_no_trap_is_walked_into_by_chance(trap: Trap) -> None:
    walked = {seed: wrong for seed in range(SEEDS_PLAYED) if (wrong := walked_into(trap, seed, by_chance=True))}
    assert not walked, trap.truth


def test_there_are_five_hundred_of_them() -> None:
    assert len(TRAPS) * 7 >= 500
