"""What the demand alone and the played outage share of a home: its hours, how cycles vary, how it is brought up, what counts as a start."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from ..brief import Brief
from ..loads import Load, Part

JITTER = 0.20
"""Each on and off time varies by this share (docs/method/outage.md)."""
BRING_UP_GAP_S = 15.0
"""Between one load and the next when they are switched on again one by one."""
HOUR_S = 3600.0


def windows_of(load: Load, brief: Brief) -> list[tuple[float, float]]:
    """When a load may run: openings and closings, in seconds of the outage."""
    horizon_s, allowed = brief.outage_h * HOUR_S, set(load.hours)
    flags = [(brief.outage_from_hour + i) % 24 in allowed for i in range(math.ceil(brief.outage_h))]
    edges = np.flatnonzero(np.diff(np.array([0, *flags, 0])))
    return [
        (float(a) * HOUR_S, min(float(b) * HOUR_S, horizon_s)) for a, b in zip(edges[::2], edges[1::2], strict=True)
    ]


def apart_of(loads: Sequence[Load], pairs: Iterable[tuple[str, str]]) -> NDArray[np.bool_]:
    """Which two loads are never on together. (loads, loads)"""
    place = {load.key: index for index, load in enumerate(loads)}
    apart = np.zeros((len(place), len(place)), dtype=np.bool_)
    for key, other in pairs:
        if key in place and other in place:
            apart[place[key], place[other]] = apart[place[other], place[key]] = True
    return apart


def start_extra_va(load: Load, part: Part, brief: Brief) -> float:
    """What a part's start adds [VA]; 0 where it lasts less than a cycle or the load has none."""
    return part.start_extra_va if load.has_start(brief.system.hz) and part.start_s * brief.system.hz >= 1 else 0.0
