"""The day: simulated outages a second, against a loop over seconds."""

from __future__ import annotations

import numpy as np

from muster.core.brief import Brief, BringUp
from muster.core.loads import Duty, Load
from muster.core.outage.simulate import simulate, warm
from muster.core.supply import SYSTEMS, Leg

from .measuring import Row, once, seconds

DRAWS = 400
AIM = 5000
BRIEF = Brief(system=SYSTEMS["single-230-50"], outage_h=24, outage_from_hour=0, bring_up=BringUp.AT_ONCE)
LOADS = tuple(
    Load(
        f"{i:02d}",
        f"load {i}",
        "motor" if i % 3 == 0 else "heater",
        100 + 40 * i,
        0.9,
        Leg.ONE,
        duty=Duty(8 + i, 20 + 2 * i),
    )
    for i in range(20)
)


def second_by_second(seed: int) -> float:
    """One day stepped a second at a time in plain Python: the highest minute [W]."""
    rng = np.random.default_rng(seed)
    on, left = [True] * len(LOADS), [load.duty.on_min * 60 * 3 for load in LOADS]
    series = []
    for _ in range(86400):
        watts = 0.0
        for i, load in enumerate(LOADS):
            if on[i]:
                watts += load.run_w
            left[i] -= 1
            if left[i] <= 0:
                on[i] = not on[i]
                span = load.duty.on_min if on[i] else load.duty.off_min
                left[i] = span * 60 * rng.uniform(0.8, 1.2)
        series.append(watts)
    minute = np.convolve(series, np.full(60, 1 / 60), "valid")
    return float(minute.max())


def rows() -> list[Row]:
    """Days a second, 20 cycling loads."""
    warm()
    plain = 1 / once(lambda: second_by_second(1))
    ours = DRAWS / seconds(lambda: simulate(LOADS, BRIEF, DRAWS))
    return [
        Row(
            "simulate a day, 20 cycling loads",
            "a loop over seconds, in Python",
            f"{plain:.3g} days/s",
            f"{ours:,.0f} days/s",
            ours / plain,
            f"≥ {AIM:,} days/s a core",
            ours >= AIM,
        )
    ]
