"""Anything with electronics at its output: inverters, hybrids, battery stations and inverter sets."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from .battery import Battery

HOT_C, HOTTEST_C, FAN_C = 60.0, 85.0, 42.0
"""From here on the rating falls; here it trips; here the fan comes on."""
FAN_W, FAN_DB = 6.0, 12.0
NEAR_S = 0.5
"""Tripping is stepped finely once it is so near."""
COOLS_X = 3.0
"""The overload memory clears so many times slower than the load it could hold for ever fills it at twice that load."""


@dataclass(frozen=True)
class InverterClaims:
    """What an inverter is.

    ``cont_w`` is held for ever; above it ``t = k·(P/P∞ − 1)^−n``; ``limit_x``
    times that is where its current limit folds the volts back; ``leg_w`` what
    one leg holds for ever, as its autotransformer allows (0: no less than all). Losses
    ``p0 + p1·P + p2·P²`` [W]; ``ohm`` is its output resistance, each leg.
    ``engine_w``: an inverter set, whose engine gives so much after ``follow_s``, with ``link_j`` stored between.
    """

    cont_w: float
    v_nominal: float
    hz: float
    legs: int = 1
    limit_x: float = 2.0
    k_s: float = 0.2
    n: float = 2.4
    ohm: float = 0.05
    p0_w: float = 18.0
    p1: float = 0.06
    p2_per_w: float = 1e-5
    heat_s: float = 600.0
    heat_k_per_w: float = 0.12
    air_c: float = 20.0
    dba_1m: float = 45.0
    recovers_s: float = math.inf
    transfer_ms: float = 12.0
    engine_w: float = 0.0
    follow_s: float = 1.5
    link_j: float = 1500.0
    eco_share: float = 0.4
    idle_lph: float = 0.35
    lph_per_w: float = 0.00038
    tank_l: float = 0.0
    louder_db: float = 8.0
    leg_w: float = 0.0


@dataclass
class Inverter:
    """The state of an inverter: how full its overload memory is, how warm it is, what its battery or engine holds."""

    claims: InverterClaims
    battery: Battery | None = None
    memory: float = 0.0
    temp_c: float = field(init=False)
    link_j: float = field(init=False)
    engine_w: float = field(init=False)
    fuel_l: float = field(init=False)
    sun_w: float = 0.0
    stuck: bool = False
    charge_w: float = 0.0
    tripped: str = ""
    tripped_s: float = 0.0
    folded: bool = False
    trips_in_s: float = math.inf

    def __post_init__(self) -> None:
        self.temp_c = self.claims.air_c
        self.link_j = self.claims.link_j
        self.engine_w = self.claims.engine_w * self.claims.eco_share
        self.fuel_l = self.claims.tank_l

    @property
    def running(self) -> bool:
        """Whether it is not off for good: an inverter that tripped still runs."""
        return self.claims.engine_w == 0 or self.fuel_l > 0

    @property
    def live(self) -> bool:
        """Whether there are volts at its sockets."""
        return not self.tripped and self.running

    @property
    def f_hz(self) -> float:
        """Its hertz: by quartz."""
        return self.claims.hz if self.live else 0.0

    @property
    def emf(self) -> float:
        """Its volts; an inverter set's fall with its link."""
        if not self.claims.engine_w:
            return self.claims.v_nominal
        return self.claims.v_nominal * min(1.0, math.sqrt(max(0.0, self.link_j / self.claims.link_j) * 2))

    @property
    def z_ohm(self) -> complex:
        """Output impedance, each leg."""
        return complex(self.claims.ohm, 0.0)

    @property
    def limit_a(self) -> float:
        """Amps a leg at which the volts fold back."""
        return self.claims.cont_w * self.claims.limit_x / self.claims.legs / self.claims.v_nominal

    @property
    def held_w(self) -> float:
        """What it holds for ever at its temperature now."""
        over = max(0.0, (self.temp_c - HOT_C) / (HOTTEST_C - HOT_C))
        return self.claims.cont_w * max(0.2, 1 - 0.6 * over)

    def hold_s(self, va: float) -> float:
        """How long it holds a load from cold memory; infinite at or below what it holds for ever."""
        over = va / self.held_w - 1
        return math.inf if over <= 0 else self.claims.k_s * over**-self.claims.n

    def loss_w(self, watts: float) -> float:
        """What conversion costs, idle included."""
        fan = FAN_W if self.temp_c > FAN_C else 0.0
        return self.claims.p0_w + self.claims.p1 * watts + self.claims.p2_per_w * watts**2 + fan

    @property
    def harvest_w(self) -> float:
        """What the panels give now: a stuck tracker gives a fraction."""
        return self.sun_w * (0.25 if self.stuck else 1.0)

    def dc_w(self, watts: float) -> float:
        """What the battery gives (negative: takes) for a load on the AC side."""
        drawn = watts + self.loss_w(watts) if not self.tripped else self.claims.p0_w
        return drawn - self.harvest_w - self.charge_w

    def settle(self, volts: tuple[float, ...], watts: float, amps: tuple[float, ...], dt: float) -> None:
        """Let memory, heat, battery, engine and link follow what it gives for ``dt`` seconds."""
        leg_va = [v * a for v, a in zip(volts, amps, strict=True)]
        va = max(sum(leg_va), self._as_whole(max(leg_va, default=0.0)))
        self._heat(watts, dt)
        if self.tripped:
            self.tripped_s += dt
            if self.tripped_s > self.claims.recovers_s and not (self.battery and self.battery.open):
                self.tripped, self.memory, self.tripped_s = "", 0.0, 0.0
        else:
            self._remember(va, dt)
        if self.battery is not None:
            self._drain(watts, dt)
        if self.claims.engine_w:
            self._turn(watts, dt)

    def _as_whole(self, leg_va: float) -> float:
        """The load of the whole source that is as near its limit as a leg is to the leg's own."""
        return leg_va * self.claims.cont_w / self.claims.leg_w if self.claims.leg_w else 0.0

    def _remember(self, va: float, dt: float) -> None:
        held = self.hold_s(va)
        self.trips_in_s = (1 - self.memory) * held
        self.memory = (
            self.memory + dt / held if math.isfinite(held) else max(0.0, self.memory - dt / (COOLS_X * self._clear_s()))
        )
        if self.memory >= 1:
            self._trip("overload")
        if self.temp_c >= HOTTEST_C:
            self._trip("too hot")

    def _clear_s(self) -> float:
        return max(1.0, self.claims.k_s)

    def _heat(self, watts: float, dt: float) -> None:
        end_c = self.claims.air_c + self.claims.heat_k_per_w * (self.loss_w(watts) if not self.tripped else 0.0)
        self.temp_c += (end_c - self.temp_c) * (1 - math.exp(-dt / self.claims.heat_s))

    def _drain(self, watts: float, dt: float) -> None:
        assert self.battery is not None
        wanted = self.dc_w(watts)
        if wanted < 0 and self.battery.soc >= 1:
            wanted = 0.0
        self.battery.step(wanted, dt)
        claims = self.battery.claims
        if self.battery.open and not self.tripped:
            self._trip("empty" if self.battery.soc <= 0 else "battery protection")
        elif claims.cut_v and self.battery.volts(wanted) < claims.cut_v and not self.tripped:
            self._trip("low volts")

    def _turn(self, watts: float, dt: float) -> None:
        wanted = min(
            self.claims.engine_w, max(self.claims.engine_w * self.claims.eco_share, watts + self.loss_w(watts))
        )
        self.engine_w += (wanted - self.engine_w) * (1 - math.exp(-dt / self.claims.follow_s))
        given = min(self.engine_w, watts + self.loss_w(watts) + (self.claims.link_j - self.link_j) / max(dt, 0.01))
        self.link_j = min(self.claims.link_j, self.link_j + (given - watts - self.loss_w(watts)) * dt)
        self.fuel_l -= (self.claims.idle_lph + self.claims.lph_per_w * watts) * dt / 3600
        if self.link_j <= 0:
            self._trip("overload")

    def _trip(self, why: str) -> None:
        self.tripped, self.tripped_s = why, 0.0

    def dba_at_1m(self, watts: float) -> float:
        """Sound at 1 m: an engine by its load, a fan when it runs."""
        share = min(1.2, watts / self.claims.cont_w)
        if self.claims.engine_w:
            return self.claims.dba_1m + self.claims.louder_db * max(self.claims.eco_share, share)
        return self.claims.dba_1m + (FAN_DB if self.temp_c > FAN_C else 0.0)

    def moving(self, watts: float) -> bool:
        """Whether it is over what it holds, or its engine is still on the way."""
        if self.tripped:
            return False
        following = (
            self.claims.engine_w and abs(self.engine_w - watts - self.loss_w(watts)) > 0.02 * self.claims.engine_w
        )
        return bool(following and self.link_j < 0.98 * self.claims.link_j) or self.trips_in_s < NEAR_S
