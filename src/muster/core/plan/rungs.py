"""Rungs: the house's own loads combined to come nearest to the watts wanted."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import NotEnoughReadings
from ..loads import Load
from ..sessions import Step

RUNGS_PCT = (25, 50, 75, 100)
HOLD_RUNG_S = 120.0
HOLD_RATING_S = 600.0
"""Hold at the rating: at least 10 min (product.md, Ladder)."""
MOST_LOADS = 14
"""Loads whose combinations are all tried; from a longer roll the largest are taken."""
READ_ALL = "Read volts, watts and hertz on each leg."
IMBALANCE_WEIGHT = 0.15
"""How much a watt between the legs counts against a watt off the rung."""


def rung_steps(
    loads: Sequence[Load], targets: Sequence[tuple[str, float, float]], claim_w: float, legs: int, ask: str = READ_ALL
) -> tuple[Step, ...]:
    """A step for each target (label, watts, seconds to hold), each the nearest sum of loads.

    All combinations are tried; a rung minimises watts off target plus a
    share of the imbalance between legs, and prefers keeping on what is on.

    Raises
    ------
    NotEnoughReadings
        If the roll is empty.
    """
    if not loads:
        raise NotEnoughReadings("no loads in the roll", where="roll", want="add a load first")
    chosen = sorted(loads, key=lambda load: -load.run_w)[:MOST_LOADS]
    watts = np.array([load.run_w for load in chosen])
    tilt = np.array([_tilt(load) for load in chosen]) if legs == 2 else np.zeros(len(chosen))
    picks = ((np.arange(2 ** len(chosen))[:, None] >> np.arange(len(chosen))) & 1).astype(float)
    sums, leans = picks @ watts, np.abs(picks @ tilt)
    on = np.zeros(len(chosen))
    steps = []
    for label, target, hold_s in targets:
        switched = np.abs(picks - on).sum(axis=1)
        cost = np.abs(sums - target) + IMBALANCE_WEIGHT * leans + 0.002 * claim_w * switched
        best = int(np.argmin(cost))
        on = picks[best]
        keys = tuple(load.key for load, pick in zip(chosen, on, strict=True) if pick)
        steps.append(Step(label, keys, target, float(sums[best]), hold_s, ask))
    return tuple(steps)


def ladder_steps(loads: Sequence[Load], claim_w: float, legs: int) -> tuple[Step, ...]:
    """Rungs at no load, 25, 50, 75 and 100 % of a claim, the last held 10 min.

    Raises
    ------
    NotEnoughReadings
        If the roll is empty.
    """
    targets = [(f"{r} %", claim_w * r / 100, HOLD_RATING_S if r == RUNGS_PCT[-1] else HOLD_RUNG_S) for r in RUNGS_PCT]
    return (no_load(), *rung_steps(loads, targets, claim_w, legs))


def no_load() -> Step:
    """Everything off, and read."""
    return Step("no load", (), 0.0, 0.0, 60.0, "Read volts and hertz with everything off.")


def _tilt(load: Load) -> float:
    return {"1": 1.0, "2": -1.0, "both": 0.0}[load.leg.value] * load.run_w
