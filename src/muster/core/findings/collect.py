"""All findings of a session, and of a source over its sessions."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..bench import BenchRecord, replay
from ..loads import Load
from ..sessions import Session
from ..supply import System
from .dips import DipSeen, dips
from .finding import Finding
from .holds import Held, holds, worth_saying
from .lines import LoadLine, droop, regulation
from .noise_walk import NoiseSeen, noise
from .starts import StartSeen, starts

TOPICS = {
    "held": "What it held",
    "trips": "Where it let go",
    "starts": "What it started",
    "dips": "Where it dipped",
    "regulation": "How its voltage falls with load",
    "droop": "How its frequency falls with load",
    "noise": "How loud it is",
}
"""Topics in order of consequence, with their headings."""


@dataclass(frozen=True)
class SessionFindings:
    """Everything one session's readings carry."""

    record: BenchRecord
    regulation: tuple[LoadLine, ...]
    droop: LoadLine | None
    starts: tuple[StartSeen, ...]
    dips: tuple[DipSeen, ...]
    holds: tuple[Held, ...]
    noise: tuple[NoiseSeen, ...]

    @property
    def findings(self) -> tuple[Finding, ...]:
        """All findings, those of most consequence first."""
        parts: list[Finding] = [held.finding for held in worth_saying(self.holds)]
        parts += [start.finding for start in self.starts]
        parts += [dip.finding for dip in self.dips]
        parts += [line.finding for line in self.regulation]
        parts += [self.droop.finding] if self.droop else []
        parts += [seen.finding for seen in self.noise]
        order = list(TOPICS)
        return tuple(sorted(parts, key=lambda finding: order.index(finding.topic)))


def findings_of(session: Session, loads: Mapping[str, Load], system: System, ear_m: float) -> SessionFindings:
    """Replay a session and draw every finding its readings carry."""
    record = replay(session, system.legs)
    return SessionFindings(
        record,
        regulation(record, system),
        droop(record, system),
        starts(record, loads, system),
        dips(record, system),
        holds(record, system, loads),
        noise(record, ear_m),
    )
