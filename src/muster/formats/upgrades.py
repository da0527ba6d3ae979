"""What earlier Musters left to words, said in fields: done once, where their data comes in."""

from __future__ import annotations

import re
from typing import Any

METRES = re.compile(r"^(\d+(?:[.,]\d+)?)[\s\u202f]*m, (?:no load|loaded)$")
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


def upgraded(data: Any) -> Any:
    """A job file's plain values with what their version left to words said in fields; what does not fit is left to be refused."""
    try:
        for source in data["sources"]:
            for kept in source["sessions"]:
                flag_steps(kept["session"].get("steps"))
    except (KeyError, TypeError, AttributeError):
        pass
    return data
