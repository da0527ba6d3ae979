"""What a verdict may rest on: what was seen of a source since it was last set or serviced, under the conditions of the brief.

The one door from findings to the verdict: stale sessions are left out and conditions corrected here, and nowhere after.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TypeVar

from ..findings.captured import WaveSeen
from ..findings.collect import SessionFindings
from ..findings.fuel import FuelPoint
from ..findings.heat import HeatSeen
from ..findings.holds import Held, best_held, best_held_va, lowest_trip
from ..findings.holds_told import COUNTS_AS_HELD_S
from ..findings.legs import LegsSeen
from ..findings.lines import LoadLine
from ..findings.noise_walk import NoiseSeen, heard_under
from ..findings.runs import Run
from ..findings.starts import StartSeen
from ..findings.swings import SwingSeen
from ..findings.transfer import GapSeen
from ..fits import LEAST_LOADS
from ..loads import Wave
from ..supply import Leg
from ..timeline.captures.waveform import Shape
from .given import Given
from .seen_running import seen_running
from .set_since import SetSince

T = TypeVar("T")
MOST_TOLD = 3


@dataclass(frozen=True)
class RunDown:
    """A run of a battery from full to empty with what it delivered counted, and the air it was run in [°C]."""

    run: Run
    air_c: float | None


@dataclass(frozen=True)
class SeenSoFar:
    """What was seen of a source, question by question; the earliest first."""

    given: Given

    @cached_property
    def _since(self) -> SetSince:
        return SetSince(self.given.sessions)

    def _current(self, key: str) -> list[SessionFindings]:
        """The sessions that still speak of this source where a parameter is asked for."""
        return [dated.findings for i, dated in enumerate(self.given.sessions) if not self._since.is_outdated(i, key)]

    def _of_each(self, seen: Sequence[Sequence[T]], key: str) -> tuple[T, ...]:
        """What each session saw, those left out that speak of it no more."""
        return tuple(item for i, own in enumerate(seen) if not self._since.is_outdated(i, key) for item in own)

    @cached_property
    def holds(self) -> tuple[Held, ...]:
        """All held and trip levels, as they would be under the conditions of the brief."""
        return self._of_each(self.given.holds, "held_w")

    @cached_property
    def starts(self) -> tuple[StartSeen, ...]:
        """All starts of a load alone, as they speak of the conditions of the brief."""
        return self._of_each(self.given.starts, "start_w")

    @property
    def started_together(self) -> tuple[StartSeen, ...]:
        """All starts of several loads at one moment, as they speak of the conditions of the brief."""
        return self._of_each(self.given.started_together, "start_w")

    @property
    def waves(self) -> tuple[WaveSeen, ...]:
        """All waveforms captured."""
        return _flat(session.waves for session in self._current("thd_pct"))

    @property
    def noise(self) -> tuple[NoiseSeen, ...]:
        """All noise walks, by state of load."""
        return _flat(session.noise for session in self._current("dba_7m"))

    @property
    def gaps(self) -> tuple[GapSeen, ...]:
        """All breaks of supply measured."""
        return _flat(session.gaps for session in self._current("gap_ms"))

    @property
    def heats(self) -> tuple[HeatSeen, ...]:
        """All courses of temperature."""
        return _flat(session.heats for session in self._current("end_c"))

    @property
    def legs(self) -> tuple[LegsSeen, ...]:
        """What unlike legs and the neutral were read to carry."""
        return tuple(legs for session in self._current("start_w") if (legs := session.legs) is not None)

    @property
    def fuel_points(self) -> tuple[FuelPoint, ...]:
        """What was burnt at each load, on the fuel that is claimed."""
        return _flat(session.fuel.points for session in self._current("lph") if session.fuel)

    @property
    def runs(self) -> tuple[RunDown, ...]:
        """Every run of the battery from full to empty whose delivery is known."""
        return tuple(
            RunDown(runs.run, session.context.session.conditions.temp_c)
            for session in self._current("battery_wh")
            if (runs := session.runs) is not None and runs.run.down and runs.run.whole and runs.run.ac_wh
        )

    @property
    def lasted(self) -> tuple[tuple[float, frozenset[str]], ...]:
        """Every run of the battery from full to empty, whatever was counted of it: how long [h], and the loads that were seen to run in it."""
        return tuple(
            (runs.run.hours, seen_running(session))
            for session in self._current("battery_wh")
            if (runs := session.runs) is not None and runs.run.down and runs.run.whole
        )

    @cached_property
    def ran(self) -> frozenset[str]:
        """Loads that were seen to run on it, whatever was read of their starts: on with watts that hold them, or heating water."""
        return frozenset(key for session in self._current("start_w") for key in seen_running(session))

    def swings(self, quantity: str) -> tuple[SwingSeen, ...]:
        """How far volts (``v``) or hertz (``hz``) went for a moment."""
        seen = _flat(session.swings for session in self._current(quantity))
        return tuple(swing for swing in seen if swing.quantity == quantity)

    def regulation(self, leg: Leg) -> LoadLine | None:
        """The regulation line of a leg: of those read at three loads or more the one with the widest span."""
        seen = self._current(f"v{leg.value}")
        return _best([line for s in seen for line in s.regulation if line.place.value == leg.value])

    @property
    def droop(self) -> LoadLine | None:
        """The droop line: of those read at three loads or more the one with the widest span."""
        return _best([session.droop for session in self._current("hz") if session.droop is not None])

    @property
    def waiting(self) -> str:
        """The entries that wait to be confirmed, as they were jotted; empty where none does."""
        lines = [
            entry.raw
            for dated in self.given.sessions
            for entry in dated.findings.context.session.effective
            if entry.seq in dated.findings.context.waiting
        ]
        more = f" and {len(lines) - MOST_TOLD} more" if len(lines) > MOST_TOLD else ""
        return ", ".join(f"“{line}”" for line in lines[:MOST_TOLD]) + more


AS_WAVE = {Shape.SINE: Wave.SINE, Shape.ROUGH: Wave.ROUGH, Shape.RINGING: Wave.ROUGH}
"""The kinds of wave that a load may ask for; any other captured kind passes for stepped."""


def wave_class(seen: WaveSeen) -> Wave:
    """What a captured wave passes for, of the kinds that a load may ask for."""
    return AS_WAVE.get(seen.at.wave.shape, Wave.STEPPED)


def rings_of(seen: WaveSeen) -> bool:
    """Whether high-frequency ringing is on a captured wave."""
    return seen.at.wave.shape is Shape.RINGING


def _flat(parts: Iterable[Sequence[T]]) -> tuple[T, ...]:
    return tuple(item for part in parts for item in part)


def _best(lines: Sequence[LoadLine]) -> LoadLine | None:
    """A line from two loads never above one from more, however far it was drawn."""
    return max(lines, key=lambda line: (line.line.n >= LEAST_LOADS, line.line.x_high), default=None)


__all__ = [
    "COUNTS_AS_HELD_S",
    "GapSeen",
    "HeatSeen",
    "Held",
    "LoadLine",
    "NoiseSeen",
    "RunDown",
    "SeenSoFar",
    "StartSeen",
    "SwingSeen",
    "WaveSeen",
    "best_held",
    "best_held_va",
    "heard_under",
    "lowest_trip",
    "rings_of",
    "wave_class",
]
