"""No legal input makes Muster say *carries* where the truth, fixed before it saw anything, is another."""

from __future__ import annotations

import os

import pytest

from muster.core.verdict import Status, judge

from .laying import walked_into, world_of
from .traps import TRAPS, Trap
from .worlds import case_of

SEEDS = 70 if os.environ.get("MUSTER_PROVE") else 7


@pytest.mark.parametrize("kind", ["engine", "split", "station"])
def test_what_carries_and_was_read_well_carries(kind: str) -> None:
    """Else nothing that follows would say anything."""
    for seed in range(SEEDS):
        verdict = judge(case_of(world_of(kind, seed)))
        open_ = [f"{row.key} {row.status}: {row.sentence}" for row in verdict.requirements if row.status in OPEN]
        assert verdict.status is Status.CARRIES, (seed, open_)


OPEN = (Status.FALLS_SHORT, Status.NOT_PROVEN, Status.TIGHT)


@pytest.mark.parametrize("trap", TRAPS, ids=lambda trap: trap.name)
def test_no_trap_is_walked_into(trap: Trap) -> None:
    walked = {seed: wrong for seed in range(SEEDS) if (wrong := walked_into(trap, seed))}
    assert not walked, trap.truth


def test_there_are_five_hundred_of_them() -> None:
    assert len(TRAPS) * 7 >= 500
