"""A battery behind an inverter: charge, open-circuit volts, inner resistance, protection, cut-offs, and a gauge that may lie."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class BatteryClaims:
    """What a battery is: capacity, volts empty and full, resistance, protection, cut-off and recovery volts.

    ``gauge_lie`` bends what the gauge shows: at half, so much above the truth.
    """

    wh: float
    empty_v: float
    full_v: float
    ohm: float
    protect_a: float = math.inf
    protect_s: float = 1.0
    cut_v: float = 0.0
    recover_v: float = 0.0
    charge_share: float = 0.97
    gauge_lie: float = 0.0


@dataclass
class Battery:
    """A battery's state: the share of its charge left, and how long its protection has been over its amps."""

    claims: BatteryClaims
    soc: float = 1.0
    over_s: float = 0.0
    open: bool = False

    @property
    def open_v(self) -> float:
        """Open-circuit volts: flat in the middle, steep at both ends, as lithium cells are."""
        claims, x = self.claims, min(1.0, max(0.0, self.soc))
        bent = 0.12 * (1 - math.exp(-x * 25)) + 0.76 * x + 0.12 * (math.exp((x - 1) * 25))
        return claims.empty_v + (claims.full_v - claims.empty_v) * bent

    def amps(self, w: float) -> float:
        """Amps at which it gives ``w`` at its terminals (negative: charged); at its most where it cannot.

        ``w = (U − R·I)·I``, the smaller root.
        """
        u, r = self.open_v, self.claims.ohm
        inside = u * u - 4 * r * w
        if inside < 0:
            return u / (2 * r)
        return (u - math.sqrt(inside)) / (2 * r) if r else w / u

    def volts(self, w: float) -> float:
        """Terminal volts while giving ``w``."""
        return self.open_v - self.claims.ohm * self.amps(w)

    @property
    def shown_pct(self) -> float:
        """What the gauge shows."""
        lie = self.claims.gauge_lie * math.sin(math.pi * min(1.0, max(0.0, self.soc)))
        return 100 * min(1.0, max(0.0, self.soc + lie))

    def step(self, w: float, dt: float) -> None:
        """Give ``w`` (or take it, negative) for ``dt`` seconds; the protection opens when it has been over for long enough."""
        if self.open:
            return
        amps = self.amps(w)
        drawn_w = self.open_v * amps
        stored = drawn_w if drawn_w > 0 else drawn_w * self.claims.charge_share
        self.soc = min(1.0, self.soc - stored * dt / 3600 / self.claims.wh)
        self.over_s = self.over_s + dt if amps > self.claims.protect_a else 0.0
        if self.over_s > self.claims.protect_s or self.soc <= 0:
            self.open = True
