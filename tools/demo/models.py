"""Sources as they really are, in a few lines each, with a meter's scatter: what a session reads off them."""

from __future__ import annotations

import math
import random
from dataclasses import dataclass

from muster.core.loads import Load
from muster.core.supply import Leg, System


@dataclass
class Model:
    """A source: straight voltage and frequency lines, an impedance for starts, sound, and a DC side if it has one.

    ``limit_w`` is where an inverter folds back (None: an engine, which sags);
    losses are ``p0_w + p1·P + p2·P²``; ``battery_wh`` and ``cells_v`` (full,
    empty) give the DC volts.
    """

    rng: random.Random
    system: System
    no_load_v: float
    v_per_w: float
    no_load_hz: float
    hz_per_w: float
    z_ohm: float
    dba_1m: float = 80.0
    decay: float = 18.0
    loaded_db: float = 3.0
    battery_wh: float = 0.0
    cells_v: tuple[float, float] = (0.0, 0.0)
    dc_ohm: float = 0.0
    p0_w: float = 0.0
    p1: float = 0.0
    p2: float = 0.0

    def volts(self, leg_w: float, scatter: float = 0.15) -> float:
        """Steady volts of a leg."""
        return self.no_load_v + self.v_per_w * leg_w + self.rng.gauss(0, scatter)

    def hertz(self, total_w: float, scatter: float = 0.05) -> float:
        """Steady frequency."""
        return self.no_load_hz + self.hz_per_w * total_w + self.rng.gauss(0, scatter)

    def lowest(self, before_v: float, start_va: float, nominal: float) -> float:
        """Lowest volts at a start: a constant impedance behind the source's own."""
        amps = start_va / nominal
        z_ohm = self.z_ohm * (nominal / self.system.v_nominal)
        return before_v / (1 + z_ohm * amps / nominal) + self.rng.gauss(0, 0.3)

    def dba(self, distance_m: float, *, loaded: bool) -> float:
        """Level at a distance."""
        level = self.dba_1m + (self.loaded_db if loaded else 0) - self.decay * math.log10(distance_m)
        return level + self.rng.gauss(0, 0.4)

    def dc_w(self, ac_w: float) -> float:
        """What the battery gives for a load."""
        return ac_w + self.p0_w + self.p1 * ac_w + self.p2 * ac_w**2

    def dc_v(self, charge: float, dc_w: float) -> float:
        """Battery volts at a state of charge (0 to 1) and a draw."""
        full, empty = self.cells_v
        rest = empty + (full - empty) * (0.25 + 0.6 * charge + 0.15 * charge**6)
        return rest - self.dc_ohm * dc_w / rest


def leg_watts(loads: tuple[Load, ...], on: set[str], leg: Leg | None, rng: random.Random | None = None) -> float:
    """Watts of what is on, on a leg or in all."""
    return sum(
        load.run_w * (1 if leg is None else load.share_on(leg)) * (rng.uniform(0.99, 1.01) if rng else 1.0)
        for load in loads
        if load.key in on
    )
