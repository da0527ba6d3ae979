"""All findings of a session, and of a source over its sessions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..bench import BenchRecord, replay
from ..loads import Load, Wave
from ..sessions import Session
from ..supply import System
from ..traces.facts import TraceFacts
from .baseline import BaselineSeen, baseline
from .dips import DipSeen, dips
from .finding import Finding
from .from_logs import findings_logged, holds_logged, with_logs
from .holds import Held, holds, worth_saying
from .lines import LoadLine, droop, droop_logged, regulation, regulation_logged
from .noise_walk import NoiseSeen, noise
from .starts import StartSeen, starts

NOT_THE_SOURCE = ("baseline", "transfer", "recharge", "solar_input", "heating_check")
"""Protocols whose readings are of the mains, the wall or the panels too: nothing of them is taken for the source's output."""
TOPICS = {
    "baseline": "What the loads draw on the mains",
    "held": "What it held",
    "trips": "Where it let go",
    "starts": "What it started",
    "dips": "Where it dipped",
    "regulation": "How its voltage falls with load",
    "droop": "How its frequency falls with load",
    "noise": "How loud it is",
    "energy": "What it gave",
    "conversion": "What conversion costs",
    "duty": "How the load came and went",
}
"""Topics in order of consequence, with their headings."""


@dataclass(frozen=True)
class SessionFindings:
    """Everything one session's readings carry."""

    record: BenchRecord
    regulation: tuple[LoadLine, ...]
    droops: tuple[LoadLine, ...]
    starts: tuple[StartSeen, ...]
    dips: tuple[DipSeen, ...]
    holds: tuple[Held, ...]
    noise: tuple[NoiseSeen, ...]
    logged: tuple[Finding, ...] = ()
    baseline: tuple[BaselineSeen, ...] = ()

    @property
    def droop(self) -> LoadLine | None:
        """The droop line with the widest span of load."""
        return max(self.droops, key=lambda line: line.line.x_high, default=None)

    @property
    def findings(self) -> tuple[Finding, ...]:
        """All findings, those of most consequence first."""
        parts: list[Finding] = [seen.finding for seen in self.baseline]
        parts += [held.finding for held in worth_saying(self.holds)]
        parts += [start.finding for start in self.starts]
        parts += [dip.finding for dip in self.dips]
        parts += [line.finding for line in self.regulation]
        parts += [line.finding for line in self.droops]
        parts += [seen.finding for seen in self.noise]
        parts += self.logged
        order = list(TOPICS)
        return tuple(sorted(parts, key=lambda finding: order.index(finding.topic)))


def findings_of(
    session: Session,
    loads: Mapping[str, Load],
    system: System,
    ear_m: float,
    wave: Wave = Wave.SINE,
    logs: Sequence[TraceFacts] = (),
) -> SessionFindings:
    """Replay a session and draw every finding its readings and its recorded logs carry.

    A session of what is not the source's output alone (``NOT_THE_SOURCE``)
    gives its baseline, or keeps its record and no finding. ``wave`` is what the meters had to read; ``logs`` is what was read off the session's traces.
    """
    if session.protocol in NOT_THE_SOURCE:
        kept = replay(session, system.legs, wave)
        alone = baseline(kept, loads, system) if session.protocol == "baseline" else ()
        return SessionFindings(kept, (), (), (), (), (), (), baseline=alone)
    record = with_logs(replay(session, system.legs, wave), logs, loads, system)
    typed = droop(record, system)
    droops = (typed, *(droop_logged(record, system, log) for log in logs))
    lines = (*regulation(record, system), *(line for log in logs for line in regulation_logged(record, system, log)))
    return SessionFindings(
        record,
        lines,
        tuple(line for line in droops if line is not None),
        starts(record, loads, system),
        dips(record, system),
        (*holds(record, system, loads), *holds_logged(record, logs)),
        noise(record, ear_m),
        findings_logged(record, logs, system),
    )
