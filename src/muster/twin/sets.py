"""Two engine sets on one pair of leads, running in step: their governors share the watts by their droops."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from .engine import EASE_S, STALL_SHARE, Engine, lagging
from .pair import SideBySide


@dataclass
class EnginePair(SideBySide[Engine]):
    """Two engine sets in step: one speed for both, each governor asking for its share of the throttle.

    In steady running ``P_i = (f0_i - f) / (droop_i * f_n) * rating_i``: a set whose
    no-load speed is higher, or whose droop is flatter, takes more. When one dies
    the other carries all.
    """

    first: Engine
    other: Engine
    shares: tuple[float, float] = (0.0, 0.0)
    f_hz: float = field(init=False)

    def __post_init__(self) -> None:
        self.run_up()

    def run_up(self) -> None:
        """Bring both to one speed, as when they are put in step."""
        self.f_hz = sum(unit.f_hz * unit.claims.cont_w for unit in self.units) / self._rating

    @property
    def _rating(self) -> float:
        return sum(unit.claims.cont_w for unit in self.units)

    def settle(self, volts: tuple[float, ...], watts: float, amps: tuple[float, ...], dt: float) -> None:
        """Let the common speed follow what both engines give and the load takes; then each its own throttle and field."""
        on = self._on
        if not on:
            return
        given = [self._throttled(unit, dt) for unit in on]
        turning = sum(2 * unit.claims.inertia_s * unit.claims.cont_w for unit in on)
        self.f_hz += (sum(given) - watts) / turning * on[0].claims.hz * dt
        whole = sum(given) or 1.0
        parts = {id(unit): part / whole for unit, part in zip(on, given, strict=True)}
        total_a = sum(amps) / max(1, len(amps))
        item, other = (parts.get(id(unit), 0.0) for unit in self.units)
        self.shares = (item * total_a, other * total_a)
        for unit in on:
            part = parts[id(unit)]
            unit.f_hz = self.f_hz
            unit.settle_electric(volts, watts * part, tuple(a * part for a in amps), dt)
        if self.f_hz < STALL_SHARE * on[0].claims.hz:
            self.f_hz = 0.0

    @staticmethod
    def _throttled(unit: Engine, dt: float) -> float:
        """Watts that an engine gives now, its throttle having followed its governor."""
        claims = unit.claims
        asked = ((claims.no_load_hz or claims.hz) - unit.f_hz) / (claims.droop * claims.hz)
        most = unit.most_w / claims.cont_w * unit.f_hz / claims.hz
        unit.throttle += (min(max(asked, 0.0), most) - unit.throttle) * lagging(dt, claims.governor_s)
        return unit.throttle * claims.cont_w

    def dba_at_1m(self, watts: float) -> float:
        """Sound at 1 m: the energies of both."""
        levels = [unit.dba_at_1m(watts / 2) for unit in self._on]
        return 10 * math.log10(sum(10 ** (level / 10) for level in levels)) if levels else 0.0

    def moving(self, watts: float) -> bool:
        """Whether their speed or field is still on the way."""
        given = sum(unit.throttle * unit.claims.cont_w for unit in self._on)
        return bool(self._on) and abs(given - watts) > EASE_S * self._rating
