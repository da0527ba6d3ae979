"""All findings of a session, and of a source over its sessions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..brief import Home
from ..loads import Load, Wave
from ..sessions import PROTOCOLS, Session
from ..sessions.checks import POWER_KINDS, RecordContext, check_session, misread
from ..sessions.replay import BenchRecord, replay
from ..sources import Site, Source
from ..supply import System
from ..timeline.captures.features import CaptureFeatures
from ..timeline.traces.features import TraceFeatures
from .baseline import BaselineSeen
from .captured import WaveSeen, with_captures
from .context import SessionContext
from .conversion import ConversionSeen
from .cut_offs import CutOffsSeen
from .dips import DipSeen
from .displays import DisplaySeen
from .finding import Finding, Topic
from .from_logs import with_logs
from .fuel import FuelSeen
from .heat import HeatSeen
from .heating import HeatingSeen
from .holds import Held
from .legs import LegsSeen
from .lines import LoadLine
from .load_steps import ClassSeen
from .makers import MAKERS
from .noise_walk import NoiseSeen
from .restarts import Restart
from .runs import RunsSeen
from .shares import SharesSeen
from .solar import SolarSeen
from .starts import StartSeen
from .transfer import GapSeen
from .trips import TripSeen


@dataclass(frozen=True)
class SessionFindings:
    """Everything one session's readings carry: a field for each of ``MAKERS``."""

    record: BenchRecord
    context: SessionContext
    regulation: tuple[LoadLine, ...] = ()
    droops: tuple[LoadLine, ...] = ()
    starts: tuple[StartSeen, ...] = ()
    dips: tuple[DipSeen, ...] = ()
    together: tuple[StartSeen, ...] = ()
    restarts: tuple[Restart, ...] = ()
    holds: tuple[Held, ...] = ()
    trips: tuple[TripSeen, ...] = ()
    clocks: tuple[Finding, ...] = ()
    noise: tuple[NoiseSeen, ...] = ()
    logged: tuple[Finding, ...] = ()
    in_weather: tuple[Finding, ...] = ()
    baseline: tuple[BaselineSeen, ...] = ()
    waves: tuple[WaveSeen, ...] = ()
    captured: tuple[Finding, ...] = ()
    steps: ClassSeen | None = None
    gaps: tuple[GapSeen, ...] = ()
    legs: LegsSeen | None = None
    shares: SharesSeen | None = None
    heats: tuple[HeatSeen, ...] = ()
    heating: HeatingSeen | None = None
    runs: RunsSeen | None = None
    fuel: FuelSeen | None = None
    conversions: tuple[ConversionSeen, ...] = ()
    solar: SolarSeen | None = None
    cut_offs: CutOffsSeen | None = None
    displays: tuple[DisplaySeen, ...] = ()
    noticed: tuple[Finding, ...] = ()

    @property
    def droop(self) -> LoadLine | None:
        """The droop line with the widest span of load."""
        return max(self.droops, key=lambda line: line.line.x_high, default=None)

    @property
    def findings(self) -> tuple[Finding, ...]:
        """All findings, those of most consequence first."""
        parts = [finding for maker in MAKERS for finding in maker.findings(getattr(self, maker.name))]
        order = list(Topic)
        return tuple(sorted(parts, key=lambda finding: order.index(finding.topic)))


def findings_of(
    session: Session,
    loads: Mapping[str, Load],
    system: System,
    neighbour_m: float,
    wave: Wave = Wave.SINE,
    logs: Sequence[TraceFeatures] = (),
    captures: Sequence[CaptureFeatures] = (),
    source: Source | None = None,
    site: Site | None = None,
    waiting: frozenset[int] | None = None,
) -> SessionFindings:
    """Replay a session and draw every finding its readings, its recorded logs and its captures carry.

    A session of what is not the source's output alone (``Protocol.of_the_source``)
    gives what it is about (baseline, gap, charge, panels, heat) and nothing of
    the source's steady output. ``wave`` is what the meters had to read;
    ``logs`` and ``captures`` are what was read off those of the session;
    ``source`` is what was tested, for what needs its claims; ``waiting`` the
    entries flagged as misread, worked out here where they are not given.
    """
    beside = not PROTOCOLS[session.protocol].of_the_source
    record = replay(session, system.legs, wave)
    if not beside:
        record = with_captures(with_logs(record, logs, loads, system), captures, loads, system)
    context = SessionContext(
        session=session,
        record=record,
        loads=loads,
        system=system,
        neighbour_m=neighbour_m,
        source=source,
        site=site or Site(),
        waiting=misread(check_session(session, _around(record, loads, system, source), POWER_KINDS))
        if waiting is None
        else waiting,
        logs=logs,
        captures=captures,
    )
    made: dict[str, Any] = {}
    for maker in MAKERS:
        if maker.of_other_sessions if beside else maker.of_the_source:
            made[maker.name] = maker.make(context, made)
    return SessionFindings(record=record, context=context, **made)


def _around(record: BenchRecord, loads: Mapping[str, Load], system: System, source: Source | None) -> RecordContext:
    return RecordContext(
        system, loads, record.kit, most_w=source.claims.most_w if source and not source.planned else None
    )


def session_findings(
    home: Home,
    source: Source,
    session: Session,
    logs: Sequence[TraceFeatures] = (),
    captures: Sequence[CaptureFeatures] = (),
    waiting: frozenset[int] | None = None,
) -> SessionFindings:
    """Every finding of one session on a source, in its home, with what was read off its recorded logs and captures."""
    brief = home.brief
    return findings_of(
        session,
        home.by_key,
        brief.system,
        brief.neighbour_m,
        source.claims.wave,
        logs,
        captures,
        source,
        brief.site,
        waiting,
    )
