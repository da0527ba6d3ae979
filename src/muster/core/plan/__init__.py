"""The plan: which loads make which step, the steps of every protocol, and what a change of the plan costs."""

from .changes import Changes, compared, misses, moved, plan_cost, toggled
from .estimates import TestDuration, estimate
from .protocols import PLANNERS, Planning, endurance_steps, idle_steps, names_of, noise_steps, start_steps, steps_of
from .step_loads import Wanted, ladder_plan, ladder_steps

__all__ = [
    "PLANNERS",
    "Changes",
    "Planning",
    "TestDuration",
    "Wanted",
    "compared",
    "endurance_steps",
    "estimate",
    "idle_steps",
    "ladder_plan",
    "ladder_steps",
    "misses",
    "moved",
    "names_of",
    "noise_steps",
    "plan_cost",
    "start_steps",
    "steps_of",
    "toggled",
]
