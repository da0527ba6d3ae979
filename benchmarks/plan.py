"""The planner: a list of forty loads, its steps, what stacks and the order of starts."""

from __future__ import annotations

from muster.core.loads import Load
from muster.core.plan import Wanted, ladder_steps
from muster.core.sources import Claims, Site, Source, SourceKind
from muster.core.sources.limits import limits_of
from muster.core.stacking.best_sets import best_stacks, leave_out
from muster.core.stacking.order import best_order
from muster.core.supply import SYSTEMS, Leg

from .measuring import Row, ms, seconds

SPLIT = SYSTEMS["split-120-240-60"]
FORTY = tuple(
    Load(
        f"{i:02d}",
        f"load {i}",
        ("heater", "motor_loaded", "motor")[i % 3],
        35 + (i * 379) % 1900,
        0.9,
        (Leg.ONE, Leg.TWO, Leg.BOTH)[i % 3],
    )
    for i in range(40)
)
LIMITS = limits_of(Source("it", SourceKind.HYBRID, Claims(8000, 16000)), SPLIT, Site())


def planned(count: int) -> None:
    """Everything a plan and the page of what stacks ask of the planner, for so many loads."""
    loads = FORTY[:count]
    ladder_steps(loads, Wanted(8000, 2))
    best_order(loads, SPLIT)
    best_stacks(loads, LIMITS, SPLIT)
    leave_out(loads, LIMITS, SPLIT)


def rows() -> list[Row]:
    """Forty loads against the fourteen of which every combination is tried."""
    fourteen, forty = seconds(lambda: planned(14)), seconds(lambda: planned(40))
    return [
        Row(
            "plan forty loads: steps, order of starts, best stacks, what to leave out",
            "fourteen loads, every combination",
            ms(fourteen),
            ms(forty),
            fourteen / forty,
            "< 1 s",
            forty < 1,
        )
    ]
