"""Two units in parallel on one pair of leads: unlike volts and impedances share unlike."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic, TypeVar

from .engine import Engine
from .inverter import Inverter

Unit = TypeVar("Unit", Engine, Inverter)


class SideBySide(Generic[Unit]):
    """Two units on the same sockets: Thévenin sources side by side; when one trips the other carries all."""

    first: Unit
    other: Unit

    @property
    def units(self) -> tuple[Unit, Unit]:
        """Both."""
        return self.first, self.other

    @property
    def _on(self) -> list[Unit]:
        return [unit for unit in self.units if unit.live]

    @property
    def live(self) -> bool:
        """Whether there are volts at the sockets."""
        return bool(self._on)

    @property
    def running(self) -> bool:
        """Whether either engine runs."""
        return any(unit.running for unit in self.units)

    @property
    def tripped(self) -> str:
        """Why there are no volts, if there are none."""
        return "" if self.live else self.first.tripped or self.other.tripped

    @property
    def z_ohm(self) -> complex:
        """Both impedances side by side."""
        return 1 / sum((1 / unit.z_ohm for unit in self._on), 0j) if self._on else 1e9 + 0j

    @property
    def emf(self) -> float:
        """The volts of both, weighted by how stiff each is."""
        if not self._on:
            return 0.0
        return abs(sum((unit.emf / unit.z_ohm for unit in self._on), 0j) * self.z_ohm)


@dataclass
class TwinPair(SideBySide[Inverter]):
    """Two inverter sets feeding the same sockets: Thévenin sources side by side.

    Each keeps its own limits; when one trips the other carries all.
    """

    first: Inverter
    other: Inverter
    shares: tuple[float, float] = (0.0, 0.0)

    @property
    def f_hz(self) -> float:
        """Hertz: they run in step."""
        return max(unit.f_hz for unit in self.units)

    @property
    def limit_a(self) -> float:
        """Amps a leg at which both fold back."""
        return sum(unit.limit_a for unit in self._on)

    def settle(self, volts: tuple[float, ...], watts: float, amps: tuple[float, ...], dt: float) -> None:
        """Share the current by each unit's emf and impedance, and let both follow."""
        mean_v = sum(volts) / len(volts) if volts else 0.0
        given = [max(0.0, (unit.emf - mean_v) / abs(unit.z_ohm)) if unit.live else 0.0 for unit in self.units]
        whole = sum(given) or 1.0
        parts = [item / whole for item in given]
        total_a = sum(amps) / max(1, len(amps))
        self.shares = (parts[0] * total_a, parts[1] * total_a)
        for unit, part in zip(self.units, parts, strict=True):
            unit.settle(volts, watts * part, tuple(a * part for a in amps), dt)

    def dba_at_1m(self, watts: float) -> float:
        """Sound at 1 m: the louder with its half, and 3 dB more for two."""
        return max(unit.dba_at_1m(watts / 2) for unit in self.units) + 3.0

    def moving(self, watts: float) -> bool:
        """Whether either is still on the way."""
        return any(unit.moving(watts / 2) for unit in self._on)
