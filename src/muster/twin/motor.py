"""An induction motor from standstill to its speed, by its equivalent circuit."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

STALL_SLIP = 0.98
"""A motor that has not passed this slip has not begun to turn."""
LEAST_SLIP = 1e-4
STEP_S = 0.0005
LONGEST_S = 60.0
SETTLED_STEP_S, FOLLOWS_S = 0.005, 0.05


@dataclass(frozen=True)
class MotorNameplate:
    """What a motor is made from: its volts, running W and power factor, and its start.

    ``start_va`` and ``start_pf`` at standstill, ``start_s`` to reach its speed
    at nominal volts, ``floor_pct`` the share of nominal below which it stalls.
    """

    volts: float
    run_w: float
    pf: float
    start_va: float
    start_pf: float
    start_s: float
    floor_pct: float


@dataclass
class Motor:
    """A motor's state (its slip) and what follows from it.

    ``Z(s) = R1 + R2/s + jX`` beside a magnetising branch; torque in the unit
    of ``V² (R2/s)/|Z|²``. Standstill impedance, run watts and run power factor
    are those of the nameplate; the break-away torque is what the motor gives at
    its floor voltage, so that it stalls just below; the inertia makes the
    start last as long as the nameplate says.

    References
    ----------
    Single-cage equivalent circuit of the induction machine (any textbook of electrical machines).
    """

    plate: MotorNameplate
    slip: float = 1.0
    on: bool = False
    r1: float = field(init=False)
    r2: float = field(init=False)
    x: float = field(init=False)
    shunt: complex = field(init=False)
    run_slip: float = field(init=False)
    inertia: float = field(init=False)
    t_break: float = field(init=False)
    t_run: float = field(init=False)

    def __post_init__(self) -> None:
        plate = self.plate
        z = plate.volts**2 / plate.start_va
        self.r1 = self.r2 = z * plate.start_pf / 2
        self.x = z * math.sqrt(1 - plate.start_pf**2)
        self.run_slip = self._slip_for(plate.run_w)
        branch = plate.volts**2 / self._branch(self.run_slip).conjugate()
        wanted_var = plate.run_w * math.tan(math.acos(plate.pf))
        self.shunt = complex(0, -max(0.0, wanted_var - branch.imag) / plate.volts**2)
        self.t_run = self.torque(plate.volts, self.run_slip)
        self.t_break = self.torque(plate.volts, 1.0) * (plate.floor_pct / 100) ** 2
        self.inertia = self.torque(plate.volts, 1.0)
        self.inertia *= plate.start_s / self._time_to_speed()

    def _branch(self, slip: float) -> complex:
        return complex(self.r1 + self.r2 / max(slip, LEAST_SLIP), self.x)

    def _slip_for(self, run_w: float) -> float:
        """The small slip at which the branch takes ``run_w`` at nominal volts, by halving."""
        low, high = LEAST_SLIP, self.r2 / math.hypot(self.r1, self.x)
        for _ in range(60):
            middle = (low + high) / 2
            taken = (self.plate.volts**2 / self._branch(middle).conjugate()).real
            low, high = (middle, high) if taken < run_w else (low, middle)
        return (low + high) / 2

    def _time_to_speed(self) -> float:
        slip, t_s = 1.0, 0.0
        while slip > self.run_slip * 1.05 and t_s < LONGEST_S:
            slip -= self._acceleration(self.plate.volts, slip) * STEP_S
            t_s += STEP_S
        return t_s

    def torque(self, volts: float, slip: float) -> float:
        """Torque at a voltage and slip, in the motor's own unit."""
        branch = self._branch(slip)
        return volts**2 * (self.r2 / max(slip, LEAST_SLIP)) / abs(branch) ** 2

    def load_torque(self, slip: float) -> float:
        """What the driven machine asks at a slip: break-away at standstill, its running torque at speed."""
        speed = (1 - slip) / (1 - self.run_slip)
        return self.t_break + (self.t_run - self.t_break) * min(1.0, max(0.0, speed))

    def _acceleration(self, volts: float, slip: float) -> float:
        return (self.torque(volts, slip) - self.load_torque(slip)) / self.inertia

    def admittance(self) -> complex:
        """What it draws at a volt, by its slip now; nothing while off."""
        return 1 / self._branch(self.slip) + self.shunt if self.on else 0j

    def switch(self, *, on: bool) -> None:
        """Switched on it stands still; switched off it runs down at once."""
        self.on = on
        self.slip = 1.0

    def step(self, volts: float, dt: float) -> None:
        """Let its slip follow the torque for ``dt`` seconds."""
        if not self.on:
            return
        if dt > SETTLED_STEP_S and not self.moving and volts > 0:
            # At speed the slip follows the volts within tens of milliseconds: long steps go straight there.
            at_speed = min(1.0, self.run_slip * (self.plate.volts / volts) ** 2)
            self.slip += (at_speed - self.slip) * (1 - math.exp(-dt / FOLLOWS_S))
            return
        change = self._acceleration(volts, self.slip) * dt
        if self.slip >= 1.0 and change < 0:
            return
        self.slip = min(1.0, max(LEAST_SLIP, self.slip - change))

    @property
    def stalled(self) -> bool:
        """Whether it stands though it is on."""
        return self.on and self.slip > STALL_SLIP

    @property
    def moving(self) -> bool:
        """Whether it is on its way to its speed, so that steps must be fine."""
        return self.on and self.slip > self.run_slip * 1.5
