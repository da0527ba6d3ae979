"""How loud a source is: its level by load, and what distance takes off it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..findings.noise_walk import NoiseSeen


@dataclass(frozen=True)
class Sound:
    """How loud the source is: level at 1 m under each load walked, (load [W], [dBA]) by load; decay per decade."""

    levels_1m: tuple[tuple[float, float], ...]
    decay_db: float
    u_db: float
    fitted: bool

    @property
    def loaded_w(self) -> float:
        """The heaviest load under which it was heard."""
        return self.levels_1m[-1][0]

    def at_1m(self, w: float) -> float:
        """Level at 1 m under a load: straight between those that were walked, flat beyond."""
        loads_w, levels = [at_w for at_w, _ in self.levels_1m], [dba for _, dba in self.levels_1m]
        return float(np.interp(w, loads_w, levels))


def sound_of(walks: Sequence[NoiseSeen]) -> Sound | None:
    """The sound of a source from its walks.

    Parameters
    ----------
    walks
        The earliest first; of each load the last one stands.

    Returns
    -------
    Sound or None
        With the decay found under the heaviest load; None without a walk.
    """
    if not walks:
        return None
    by_load = {walk.load_w: walk for walk in walks}
    loaded = by_load[max(by_load)]
    return Sound(
        levels_1m=tuple((w, _one_metre(by_load[w], loaded.n)) for w in sorted(by_load)),
        decay_db=loaded.n,
        u_db=loaded.neighbour.u or 2.0,
        fitted=loaded.fitted,
    )


def _one_metre(walk: NoiseSeen, decay_db: float) -> float:
    """Level at 1 m by a decay that all loads share, so that all come to what was found at the neighbour."""
    return walk.neighbour.value + decay_db * math.log10(walk.neighbour_m)
