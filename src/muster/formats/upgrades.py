"""What earlier versions wrote: names that have changed, and what was left to words and is said in fields now."""

from __future__ import annotations

import re
from typing import Any

METRES = re.compile(r"^(\d+(?:[.,]\d+)?)[\s\u202f]*m, (?:no load|loaded)$")
RENAMED = {
    "ear_m": "neighbour_m",
    "ear_x": "neighbour_x",
    "ear_y": "neighbour_y",
    "gates": "safety_checks",
    "sums": "calculations",
    "voids": "supersedes",
    "stands": "tolerance",
    "words": "label",
    "meets": "start_models",
    "left_v": "residual_v",
    "other_left_v": "other_residual_v",
}
"""Fields by the name they had in job files of version 1 and in databases of that time, and the name they have now."""
FLAGS = ("hot", "background", "distance_m", "on_mains")


def flag_steps(steps: Any) -> None:
    """Say of planned steps, as plain values, what only the labels that Muster itself gave them said until November 2026."""
    for step in steps if isinstance(steps, list) else ():
        if not isinstance(step, dict) or any(name in step for name in FLAGS) or not isinstance(step.get("label"), str):
            continue
        label = step["label"]
        metres = METRES.match(label)
        step |= {"hot": True} if label.endswith(", hot again") else {}
        step |= {"background": True} if label == "background, source off" else {}
        step |= {"distance_m": float(metres[1].replace(",", "."))} if metres else {}
        step |= {"on_mains": True} if label.startswith("on the mains, run ") else {}


def with_names_of_now(data: Any) -> Any:
    """Plain values with each field under the name that it has now."""
    if isinstance(data, dict):
        return {RENAMED.get(name, name): with_names_of_now(value) for name, value in data.items()}
    if isinstance(data, list):
        return [with_names_of_now(value) for value in data]
    return data


def upgraded(data: Any) -> Any:
    """A job file's plain values with what their version left to words said in fields; what does not fit is left to be refused."""
    try:
        for source in data["sources"]:
            for kept in source["sessions"]:
                flag_steps(kept["session"].get("steps"))
    except (KeyError, TypeError, AttributeError):
        pass
    return data
