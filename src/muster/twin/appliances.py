"""The loads as they draw: elements, motors, electronic supplies, and sequences of them."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from muster.core.loads import Load, Part
from muster.core.supply import Leg, System

from .motor import Motor, MotorNameplate

DROP_OUT = 0.60
"""An electronic supply trips below this share of nominal volts."""
GONE_X = 8.0
"""After so many time constants an inrush is gone."""
STARTS_ABOVE_X = 1.2
"""A part that turns has a start of its own above so many times its running VA."""


@dataclass
class Piece:
    """One part of an appliance: a motor, or an element or supply whose inrush dies away."""

    part: Part
    volts: float
    constant_power: bool
    motor: Motor | None
    inrush_s: float
    on: bool = False
    since_s: float = 0.0

    def __post_init__(self) -> None:
        watts = self.part.run_w
        self._level = complex(watts, -watts * math.tan(math.acos(self.part.pf))) / self.volts**2

    def admittance(self, volts: float) -> complex:
        """What it draws at a volt, while it is at ``volts``."""
        if not self.on:
            return 0j
        if self.motor is not None:
            return self.motor.admittance()
        extra = 0.0
        if self.inrush_s and self.since_s < GONE_X * self.inrush_s:
            extra = (self.part.start_x - 1) * math.exp(-self.since_s / self.inrush_s)
        if not self.constant_power:
            return self._level * (1 + extra)
        share = volts / self.volts
        if share < DROP_OUT:
            return 0j
        return self._level * (1 + extra) if extra > 0.05 else self._level / share**2

    def switch(self, *, on: bool) -> None:
        """On or off, from the beginning."""
        if on != self.on:
            self.on, self.since_s = on, 0.0
            if self.motor is not None:
                self.motor.switch(on=on)

    def step(self, volts: float, dt: float) -> None:
        """Let it run for ``dt`` seconds at a voltage."""
        if self.on:
            self.since_s += dt
            if self.motor is not None:
                self.motor.step(volts, dt)

    @property
    def moving(self) -> bool:
        """Whether its draw still changes fast."""
        if not self.on:
            return False
        return self.motor.moving if self.motor is not None else self.since_s < GONE_X * self.inrush_s


@dataclass
class Appliance:
    """A load on the bench: where it sits, its parts, and whether it is switched on."""

    load: Load
    leg: Leg
    volts: float
    pieces: tuple[Piece, ...]
    on: bool = False
    called_s: float = 0.0
    w: float = 0.0
    wh: float = 0.0

    def __post_init__(self) -> None:
        self.timed = len(self.pieces) > 1

    def switch(self, *, on: bool) -> None:
        """Switch it on or off by hand."""
        if on == self.on:
            return
        self.on, self.called_s = on, 0.0
        for piece in self.pieces:
            piece.switch(on=on and piece.part.on_at(0.0))

    def admittance(self, volts: float) -> complex:
        """What it draws at a volt."""
        return sum((piece.admittance(volts) for piece in self.pieces), 0j) if self.on else 0j

    def step(self, volts: float, dt: float) -> None:
        """Let it run: parts come and go by their times."""
        if not self.on:
            return
        for piece in self.pieces:
            if self.timed:
                piece.switch(on=piece.part.on_at(self.called_s))
            piece.step(volts, dt)
        self.called_s += dt

    def power_lost(self) -> None:
        """The supply is gone: motors run down, inrushes are due again."""
        for piece in self.pieces:
            if piece.on:
                piece.switch(on=False)
                piece.switch(on=True)

    def next_change_s(self) -> float:
        """Seconds until a part of its own comes or goes; infinite when none will."""
        times = [t for p in self.pieces for t in (p.part.from_s, p.part.end_s) if t > self.called_s]
        return min(times, default=math.inf) - self.called_s if self.on else math.inf

    @property
    def moving(self) -> bool:
        """Whether its draw still changes fast."""
        return self.on and any(piece.moving for piece in self.pieces)

    @property
    def stalled(self) -> bool:
        """Whether a motor in it stands though it is on."""
        return self.on and any(p.motor is not None and p.motor.stalled for p in self.pieces)


def appliance_of(load: Load, system: System) -> Appliance:
    """A load as it draws on this supply."""
    both = load.leg is Leg.BOTH and system.legs == 2
    volts = system.v_nominal * (2 if both else 1)
    leg = load.leg if system.legs == 2 else Leg.ONE
    return Appliance(
        load=load, leg=leg, volts=volts, pieces=tuple(_piece(load, part, volts) for part in load.running_parts)
    )


def _piece(load: Load, part: Part, volts: float) -> Piece:
    kind = load.kind_figures
    if kind.inrush:
        part = replace(part, start_x=kind.start_x, start_s=kind.start_s)
    turning = kind.turns and part.start_x > STARTS_ABOVE_X
    start_va = part.run_va * part.start_x
    motor = None
    if turning:
        floor_pct = kind.floor_pct
        motor = Motor(
            MotorNameplate(
                volts=volts,
                run_w=part.run_w,
                pf=min(part.pf, 0.99),
                start_va=start_va,
                start_pf=load.start_pf,
                start_s=max(part.start_s, 0.05),
                floor_pct=floor_pct,
            )
        )
    return Piece(
        part=part,
        volts=volts,
        constant_power=kind.constant_power,
        motor=motor,
        inrush_s=kind.inrush_falls_s if part.start_x > 1 else 0.0,
    )
