"""The plan: which loads make which rung, and the steps of every protocol."""

from .protocols import STEPS, endurance_steps, idle_steps, names_of, noise_steps, start_steps, steps_of
from .rungs import ladder_steps, rung_steps

__all__ = [
    "STEPS", "endurance_steps", "idle_steps", "ladder_steps", "names_of", "noise_steps", "rung_steps", "start_steps", "steps_of",
]  # fmt: skip
