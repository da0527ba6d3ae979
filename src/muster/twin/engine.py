"""An open-frame engine set: inertia, governor, regulator, and what stands behind its transient reactance."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

DRAG_SHARE = 0.08
"""What its own friction brakes an engine with when its throttle is shut: a share of the rating, beyond what it takes at idle. Ours."""
STALL_SHARE = 0.70
"""Below this share of nominal speed an engine dies."""
GENERATOR_EFFICIENCY = 0.86
COLD_LOSS, WARM_S = 0.10, 180.0
"""Power that a cold engine lacks, and how long it takes to warm (a time constant)."""
EASE_S = 0.002


@dataclass(frozen=True)
class EngineClaims:
    """What an engine set is.

    ``no_load_hz`` is where its governor was set; ``droop`` falls so much, as a
    share of nominal hertz, from no load to ``cont_w``; ``surge_x`` is how far the throttle reaches past it.
    ``x_pu`` and ``r_pu`` are transient reactance and resistance on the rating; ``regulation`` the share of volts lost at
    full load; ``knee`` the share of nominal hertz below which volts follow hertz.
    """

    cont_w: float
    v_nominal: float
    hz: float
    legs: int = 1
    no_load_hz: float = 0.0
    droop: float = 0.05
    surge_x: float = 1.15
    inertia_s: float = 1.6
    governor_s: float = 0.25
    x_pu: float = 0.18
    r_pu: float = 0.03
    regulation: float = 0.03
    regulator_s: float = 0.20
    ceiling_x: float = 1.6
    knee: float = 0.96
    no_load_v: float = 0.0
    breaker_a: float = math.inf
    tank_l: float = 25.0
    idle_lph: float = 0.7
    lph_per_w: float = 0.0005
    eco_hz: float = 0.0
    dba_1m: float = 88.0
    louder_db: float = 5.0

    @property
    def z_ohm(self) -> complex:
        """Impedance of a leg: the per-unit one on the leg's own rating."""
        base = self.v_nominal**2 / (self.cont_w / self.legs)
        return complex(self.r_pu, self.x_pu) * base


@dataclass
class Engine:
    """The state of an engine set: hertz, throttle, field, warmth, fuel; ``running`` until it dies or is stopped."""

    claims: EngineClaims
    f_hz: float = field(init=False)
    throttle: float = 0.0
    emf: float = field(init=False)
    warm: float = 0.0
    fuel_l: float = field(init=False)
    running: bool = True
    tripped: str = ""
    over_s: float = 0.0

    def __post_init__(self) -> None:
        self.f_hz = self.claims.no_load_hz or self.claims.hz
        self.emf = self.no_load_v
        self.fuel_l = self.claims.tank_l

    @property
    def no_load_v(self) -> float:
        """Volts a leg at no load."""
        return self.claims.no_load_v or self.claims.v_nominal

    @property
    def live(self) -> bool:
        """Whether there are volts at its sockets."""
        return self.running and not self.tripped

    @property
    def z_ohm(self) -> complex:
        """Impedance that its emf stands behind, each leg."""
        return self.claims.z_ohm * (self.f_hz / self.claims.hz)

    @property
    def most_w(self) -> float:
        """The most its engine gives now at its nominal speed: at fewer turns as much less, its torque being what it is."""
        return self.claims.cont_w * self.claims.surge_x * (1 - COLD_LOSS * (1 - self.warm))

    def settle(self, volts: tuple[float, ...], watts: float, amps: tuple[float, ...], dt: float) -> None:
        """Let speed, throttle, field, warmth and fuel follow what it gives for ``dt`` seconds."""
        claims = self.claims
        if not self.running:
            return
        asked = ((claims.no_load_hz or claims.hz) - self.f_hz) / (claims.droop * claims.hz)
        most = self.most_w / claims.cont_w * self.f_hz / claims.hz
        self.throttle += (min(max(asked, -DRAG_SHARE), most) - self.throttle) * lagging(dt, claims.governor_s)
        given_w = self.throttle * claims.cont_w
        self.f_hz += (given_w - watts) / claims.cont_w / (2 * claims.inertia_s) * claims.hz * dt
        self.settle_electric(volts, watts, amps, dt)

    def settle_electric(self, volts: tuple[float, ...], watts: float, amps: tuple[float, ...], dt: float) -> None:
        """Let field, warmth and fuel follow what it gives, its speed being what it is."""
        claims = self.claims
        mean_v = sum(volts) / len(volts) if volts else 0.0
        lag = lagging(dt, claims.regulator_s)
        ceiling = claims.ceiling_x * self.no_load_v
        self.emf = min(ceiling, max(0.0, self.emf + (self._wanted_v(watts) - mean_v) * lag))
        self.warm += (1 - self.warm) * lagging(dt, WARM_S)
        self.fuel_l -= (claims.idle_lph + claims.lph_per_w * watts) * dt / 3600
        self.over_s = self.over_s + dt if max(amps, default=0.0) > claims.breaker_a * 1.13 else 0.0
        self._ends()

    def _wanted_v(self, watts: float) -> float:
        """Volts that the regulator aims at: less with load, and falling with hertz below its knee."""
        claims = self.claims
        by_load = self.no_load_v * (1 - claims.regulation * watts / claims.cont_w)
        return by_load * min(1.0, self.f_hz / claims.hz / claims.knee)

    def _ends(self) -> None:
        if self.fuel_l <= 0 or self.f_hz < STALL_SHARE * self.claims.hz:
            self.running, self.f_hz, self.emf = False, 0.0, 0.0
            self.tripped = "out of fuel" if self.fuel_l <= 0 else "engine stalled"
        elif self.over_s > 2.0:
            self.tripped = "breaker"

    def dba_at_1m(self, watts: float) -> float:
        """Sound at 1 m: louder with load and with speed."""
        if not self.running:
            return 0.0
        speed = 50 * math.log10(max(0.5, self.f_hz / self.claims.hz))
        return self.claims.dba_1m + self.claims.louder_db * min(1.2, watts / self.claims.cont_w) + speed

    def moving(self, watts: float) -> bool:
        """Whether its speed or field is still on the way."""
        if not self.running:
            return False
        return abs(self.throttle * self.claims.cont_w - watts) > EASE_S * self.claims.cont_w


def lagging(dt: float, lag_s: float) -> float:
    """How much of a distance a first-order lag covers in ``dt``."""
    return 1 - math.exp(-dt / lag_s) if lag_s > 0 else 1.0
