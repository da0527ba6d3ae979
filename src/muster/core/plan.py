"""A first plan for a session: ladder rungs from the house's own loads, starts, and a noise walk."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from .errors import NotEnoughReadings
from .loads import Load, short_name, start_order
from .quantities import plain
from .sessions import Step

RUNGS_PCT = (25, 50, 75, 100)
HOLD_RUNG_S = 120.0
HOLD_RATING_S = 600.0
"""Hold at the rating: at least 10 min (product.md, Ladder)."""
MOST_LOADS = 14
"""Loads whose combinations are all tried; from a longer roll the largest are taken."""
IMBALANCE_WEIGHT = 0.15
"""How much a watt between the legs counts against a watt off the rung."""


def ladder_steps(loads: Sequence[Load], claim_w: float, legs: int) -> tuple[Step, ...]:
    """Rungs at no load, 25, 50, 75 and 100 % of a claim, each the nearest sum of loads.

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
    steps = [Step("no load", (), 0.0, 0.0, 60.0, "Read volts and hertz with everything off.")]
    for rung in RUNGS_PCT:
        target = claim_w * rung / 100
        switched = np.abs(picks - on).sum(axis=1)
        cost = np.abs(sums - target) + IMBALANCE_WEIGHT * leans + 0.002 * claim_w * switched
        best = int(np.argmin(cost))
        on = picks[best]
        keys = tuple(load.key for load, pick in zip(chosen, on, strict=True) if pick)
        hold_s = HOLD_RATING_S if rung == RUNGS_PCT[-1] else HOLD_RUNG_S
        steps.append(
            Step(f"{rung} %", keys, target, float(sums[best]), hold_s, "Read volts, watts and hertz on each leg.")
        )
    return tuple(steps)


def _tilt(load: Load) -> float:
    return {"1": 1.0, "2": -1.0, "both": 0.0}[load.leg.value] * load.run_w


def start_steps(loads: Sequence[Load], hz: float) -> tuple[Step, ...]:
    """Each motor alone, then the same on top of the loads that run throughout, then hot again.

    Raises
    ------
    NotEnoughReadings
        If nothing in the roll has a start of a cycle or more.
    """
    motors = [load for load in start_order(loads) if load.has_start(hz)]
    if not motors:
        raise NotEnoughReadings(
            "nothing in the roll has a start to test", where="roll", want="add a motor, pump or compressor"
        )
    ask = "Read volts before, lowest and settled, and the highest amps; say whether it started."
    steps = []
    for motor in motors:
        name = short_name(motor)
        steps.append(Step(f"{name}, alone", (motor.key,), None, motor.run_w, ask=ask))
    base = tuple(load.key for load in loads if not load.duty.cycles and load not in motors)
    for motor in motors:
        name = short_name(motor)
        steps.append(Step(f"{name}, on base load", (*base, motor.key), None, None, ask=ask))
        steps.append(Step(f"{name}, hot again", (*base, motor.key), None, None, ask=f"{ask} Log it as a “hot start”."))
    return tuple(steps)


def noise_steps(ear_m: float) -> tuple[Step, ...]:
    """Background first, then at the unit and three distances, unloaded and loaded."""
    distances = sorted({1.0, 4.0, 7.0, round(min(max(ear_m, 10.0), 40.0))})
    steps = [Step("background, source off", ask="Log it such as “background 38db”.")]
    for state in ("no load", "loaded"):
        steps += [
            Step(f"{plain(metres, 'm')}, {state}", ask=f"Log it such as “64db@{metres:g}m”.") for metres in distances
        ]
    return tuple(steps)


def idle_steps() -> tuple[Step, ...]:
    """Nothing connected: the output on, in eco mode, and off."""
    ask = "Read the DC side, or the wall side, for a quarter of an hour: such as “dc 25.6v 0.8a”."
    return (
        Step("output on, nothing connected", (), 0.0, 0.0, 900.0, ask),
        Step("output on, eco mode", (), 0.0, 0.0, 900.0, ask + " Say which sockets stay live."),
        Step("output off", (), 0.0, 0.0, 300.0, ask),
    )


def endurance_steps() -> tuple[Step, ...]:
    """From full to empty, with a check-in each hour."""
    return (
        Step("full, before anything is on", ask="Read the charge or the tank: such as “100%” or “fuel 25l”."),
        Step("running", ask="Check in each hour: such as “81% 0.62kwh 231v 410w”; or bring in a recorded log."),
        Step("empty, or stopped", ask="Say what ended it (!trip, or a note), and read once more."),
    )
