"""All findings of a session, and of a source over its sessions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ..brief import Home
from ..loads import Load, Wave
from ..sessions import PROTOCOLS, Session
from ..sessions.checks import DECIDING_KINDS, RecordContext, check_session, misread
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
from .drawn import Drawing, Drawn
from .duty import DutyTyped
from .finding import Finding, Topic
from .from_logs import with_logs
from .fuel import FuelSeen
from .heat import HeatSeen
from .heating import HeatingSeen
from .holds import Held
from .inspection import PointSeen
from .legs import LegsSeen
from .lines import LoadLine
from .lived import OutageLived
from .load_steps import ClassSeen
from .makers import MAKERS
from .noise_walk import NoiseSeen
from .restarts import Restart
from .runs import RunsSeen
from .shares import SharesSeen
from .solar import SolarSeen
from .starts import StartSeen
from .swings import SwingSeen
from .transfer import GapSeen
from .trips import TripSeen


class SessionFindings(Drawing):
    """Everything one session's readings carry: a field for each of ``MAKERS``, drawn when it is first asked for."""

    regulation = Drawn[tuple[LoadLine, ...]](())
    droops = Drawn[tuple[LoadLine, ...]](())
    starts = Drawn[tuple[StartSeen, ...]](())
    dips = Drawn[tuple[DipSeen, ...]](())
    together = Drawn[tuple[StartSeen, ...]](())
    restarts = Drawn[tuple[Restart, ...]](())
    holds = Drawn[tuple[Held, ...]](())
    lived = Drawn[OutageLived | None](None)
    trips = Drawn[tuple[TripSeen, ...]](())
    clocks = Drawn[tuple[Finding, ...]](())
    noise = Drawn[tuple[NoiseSeen, ...]](())
    logged = Drawn[tuple[Finding, ...]](())
    duties = Drawn[tuple[DutyTyped, ...]](())
    in_weather = Drawn[tuple[Finding, ...]](())
    baseline = Drawn[tuple[BaselineSeen, ...]](())
    waves = Drawn[tuple[WaveSeen, ...]](())
    captured = Drawn[tuple[Finding, ...]](())
    inspection = Drawn[tuple[PointSeen, ...]](())
    swings = Drawn[tuple[SwingSeen, ...]](())
    steps = Drawn[ClassSeen | None](None)
    gaps = Drawn[tuple[GapSeen, ...]](())
    legs = Drawn[LegsSeen | None](None)
    shares = Drawn[SharesSeen | None](None)
    heats = Drawn[tuple[HeatSeen, ...]](())
    heating = Drawn[HeatingSeen | None](None)
    runs = Drawn[RunsSeen | None](None)
    fuel = Drawn[FuelSeen | None](None)
    conversions = Drawn[tuple[ConversionSeen, ...]](())
    solar = Drawn[SolarSeen | None](None)
    cut_offs = Drawn[CutOffsSeen | None](None)
    displays = Drawn[tuple[DisplaySeen, ...]](())
    noticed = Drawn[tuple[Finding, ...]](())
    excursions = Drawn[tuple[Finding, ...]](())

    @property
    def record(self) -> BenchRecord:
        """The session replayed."""
        return self.context.record

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
        waiting=misread(check_session(session, _around(record, loads, system, source), DECIDING_KINDS))
        if waiting is None
        else waiting,
        logs=logs,
        captures=captures,
    )
    return SessionFindings(context)


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
