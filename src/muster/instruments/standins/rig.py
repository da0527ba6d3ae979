"""A bench twin that runs by the clock, safe to look at from several servers at once."""

from __future__ import annotations

import cmath
import threading
import time
from collections import deque
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from muster.core.loads import Load
from muster.core.supply import SYSTEMS, Leg
from muster.twin import Battery, BatteryClaims, Bench, Inverter, InverterClaims, Sample

MOST_BEHIND_S = 0.2
"""A rig that was not looked at for longer does not make up for all of it: on a machine too busy for the twin its time runs
slower than the clock's, and its instruments answer all the same."""


KEEPS_S = 8.0
"""Seconds that the scope's record reaches back."""
HARMONICS = ((3, 0.012), (5, 0.008))
"""Of the volts: odd harmonics of a good inverter, as shares of the fundamental."""
NOISE_V, NOISE_A = 0.3, 0.05


class LastSeconds:
    """The last seconds of leg 1 as they went: time, volts, amps, how far these lag, hertz."""

    def __init__(self) -> None:
        self._rows: deque[tuple[float, float, float, float, float]] = deque()

    def look(self, bench: Bench) -> None:
        """Take in a step of the bench."""
        volts, amps = bench.volts[0], bench.amps[0]
        lag = cmath.phase(volts / amps) if amps and volts else 0.0
        hz = bench.source.f_hz if bench.source.live else 0.0
        self._rows.append((bench.t_s, abs(volts), abs(amps), lag, hz))
        while self._rows[0][0] < bench.t_s - KEEPS_S:
            self._rows.popleft()

    def wave(self, channel: int, rate_hz: float, rng: np.random.Generator) -> NDArray[np.float64]:
        """Instantaneous volts (1) or amps (2), from its oldest moment to now; nothing where it holds nothing."""
        if len(self._rows) < 2:
            return np.zeros(0)
        t, v, a, lag, hz = np.array(self._rows).T
        at = np.arange(t[0], t[-1], 1 / rate_hz)
        phase = 2 * np.pi * np.interp(at, t, np.concatenate([[0.0], np.cumsum(np.diff(t) * hz[1:])]))
        if channel == 2:
            wave = np.sqrt(2) * np.interp(at, t, a) * np.sin(phase - np.interp(at, t, lag))
            return np.asarray(wave + rng.normal(0, NOISE_A, at.size))
        wave = np.sin(phase) + sum(share * np.sin(order * phase) for order, share in HARMONICS)
        return np.asarray(np.sqrt(2) * np.interp(at, t, v) * wave + rng.normal(0, NOISE_V, at.size))


class Rig:
    """The twin and its clock: looking at it first lets as much time pass as has passed."""

    def __init__(self, bench: Bench, clock: Callable[[], float] = time.monotonic) -> None:
        self.bench = bench
        self._clock = clock
        self._last = clock()
        self._lock = threading.Lock()
        self._until: float | None = None
        self.watchdog_s = 0.0
        self.record = LastSeconds()
        self._held: dict[int, NDArray[np.float64]] = {}

    def _catch_up(self) -> None:
        now = self._clock()
        passed = min(MOST_BEHIND_S, max(0.0, now - self._last))
        self._last = now
        if passed:
            self.bench.advance(passed, self.record.look)
        if self._until is not None and now > self._until:
            self._until = None
            for key in self.bench.appliances:
                self.bench.switch(key, on=False)

    def watch(self, seconds: float) -> None:
        """Arm or renew the outlet strip's watchdog: not renewed in time, every outlet goes off; 0 disarms it."""
        with self._lock:
            self._catch_up()
            self.watchdog_s = seconds
            self._until = self._clock() + seconds if seconds else None

    def pass_time(self) -> None:
        """Let the time pass that has passed: what nobody looks at happens all the same."""
        with self._lock:
            self._catch_up()

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
            self._catch_up()
            return self.bench.appliances[key].on

    @property
    def keys(self) -> tuple[str, ...]:
        """The loads, in the order of the outlets they are plugged into."""
        return tuple(self.bench.appliances)

    def hold(self, rate_hz: float) -> None:
        """Let the scope hold its record still: the last seconds of volts and amps of leg 1, up to now."""
        with self._lock:
            self._catch_up()
            self._held = {channel: self.record.wave(channel, rate_hz, self.bench.rng) for channel in (1, 2)}

    def held(self, channel: int) -> NDArray[np.float64]:
        """What the scope holds: volts (1) or amps (2)."""
        return self._held.get(channel, np.zeros(0))


DEMO_LOADS = (
    Load(key="1", name="kettle", kind="heater", run_w=1480, pf=1.0, leg=Leg.ONE),
    Load(key="2", name="room heater", kind="heater", run_w=980, pf=1.0, leg=Leg.TWO),
    Load(key="3", name="chest freezer", kind="motor", run_w=130, pf=0.70, leg=Leg.ONE),
    Load(key="4", name="sump pump", kind="motor", run_w=380, pf=0.70, leg=Leg.TWO, start_va=2350),
    Load(key="5", name="house lights", kind="electronic", run_w=90, pf=0.85, leg=Leg.ONE),
    Load(key="6", name="seed-tray lights", kind="electronic", run_w=140, pf=0.92, leg=Leg.TWO),
)


def demo_rig(clock: Callable[[], float] = time.monotonic) -> Rig:
    """A hybrid inverter with its battery and the loads of a home, as the demo has them."""
    battery = Battery(BatteryClaims(wh=10240, empty_v=48.0, full_v=54.4, ohm=0.012, protect_a=150), 0.86)
    claims = InverterClaims(
        cont_w=6000, v_nominal=120, hz=60, legs=2, limit_x=2.0, p0_w=60, p1=0.05, p2_per_w=3e-6, dba_1m=46
    )
    return Rig(
        Bench(source=Inverter(claims=claims, battery=battery), system=SYSTEMS["split-120-240-60"], loads=DEMO_LOADS),
        clock,
    )
