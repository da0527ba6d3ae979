"""A bench twin that runs by the clock, safe to look at from several servers at once."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from muster.core.loads import Load
from muster.core.supply import SYSTEMS, Leg
from muster.twin import Battery, BatteryClaims, Bench, Inverter, InverterClaims, Sample
from muster.twin.waves import Wave, samples

MOST_BEHIND_S = 1.0
"""A rig that was not looked at for longer does not make up for all of it."""


class Rig:
    """The twin and its clock: looking at it first lets as much time pass as has passed."""

    def __init__(self, bench: Bench, clock: Callable[[], float] = time.monotonic) -> None:
        self.bench = bench
        self._clock = clock
        self._last = clock()
        self._lock = threading.Lock()

    def _catch_up(self) -> None:
        now = self._clock()
        passed = min(MOST_BEHIND_S, max(0.0, now - self._last))
        self._last = now
        if passed:
            self.bench.advance(passed)

    def sample(self) -> Sample:
        """What perfect meters would show now."""
        with self._lock:
            self._catch_up()
            return self.bench.sample()

    def dba(self, distance_m: float) -> float:
        """Sound at a distance now."""
        with self._lock:
            self._catch_up()
            return self.bench.dba(distance_m)

    def switch(self, key: str, *, on: bool) -> None:
        """Switch a load."""
        with self._lock:
            self._catch_up()
            self.bench.switch(key, on=on)

    def is_on(self, key: str) -> bool:
        """Whether a load is switched on."""
        with self._lock:
            return self.bench.appliances[key].on

    @property
    def keys(self) -> tuple[str, ...]:
        """The loads, in the order of the outlets they are plugged into."""
        return tuple(self.bench.appliances)

    def capture(self, rate_hz: float, seconds: float) -> NDArray[np.float64]:
        """Leg 1 as a scope would see it now."""
        with self._lock:
            self._catch_up()
            now = self.bench.sample()
            hz = now.f_hz or self.bench.system.hz
            return samples(
                Wave(harmonics=((3, 0.012), (5, 0.008))), now.leg_v[0], hz, rate_hz, seconds, self.bench.rng, 0.3
            )


DEMO_LOADS = (
    Load("1", "kettle", "heater", 1480, 1.0, Leg.ONE),
    Load("2", "room heater", "heater", 980, 1.0, Leg.TWO),
    Load("3", "chest freezer", "motor", 130, 0.70, Leg.ONE),
    Load("4", "sump pump", "motor", 380, 0.70, Leg.TWO, start_va=2350),
    Load("5", "house lights", "electronic", 90, 0.85, Leg.ONE),
    Load("6", "seed-tray lights", "electronic", 140, 0.92, Leg.TWO),
)


def demo_rig(clock: Callable[[], float] = time.monotonic) -> Rig:
    """A hybrid inverter with its battery and the loads of a home, as the demo has them."""
    battery = Battery(BatteryClaims(10240, 48.0, 54.4, 0.012, protect_a=150), 0.86)
    claims = InverterClaims(6000, 120, 60, legs=2, limit_x=2.0, p0_w=60, p1=0.05, p2_per_w=3e-6, dba_1m=46)
    return Rig(Bench(Inverter(claims, battery), SYSTEMS["split-120-240-60"], DEMO_LOADS), clock)
