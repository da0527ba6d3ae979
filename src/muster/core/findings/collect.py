"""All findings of a session, and of a source over its sessions."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol

from ..loads import Load, Wave
from ..sessions import Session
from ..sessions.replay import BenchRecord, replay
from ..sources import Site, Source
from ..supply import System
from ..timeline.captures.features import CaptureFeatures
from ..timeline.traces.features import TraceFeatures
from .baseline import BaselineSeen, baseline
from .captured import WaveSeen, told_of_captures, waves_seen, with_captures
from .context import SessionContext
from .conversion import ConversionSeen, conversions
from .cut_offs import CutOffsSeen, cut_offs
from .dips import DipSeen, dips
from .displays import DisplaySeen, displays
from .finding import Finding, Topic
from .from_logs import findings_logged, holds_logged, with_logs
from .fuel import FuelSeen, fuel
from .heat import HeatSeen, heats
from .heating import HeatingSeen, heating
from .holds import Held, holds, worth_saying
from .legs import LegsSeen, legs
from .lines import LoadLine, droop, droop_logged, regulation, regulation_logged
from .load_steps import ClassSeen, iso_class
from .noise_walk import NoiseSeen, noise
from .restarts import Restart, restarts
from .runs import RunsSeen, runs
from .shares import SharesSeen, shares
from .solar import SolarSeen, solar
from .starts import StartSeen, starts
from .transfer import GapSeen, gaps
from .trips import TripSeen, trips
from .weather import duty_in_weather

NOT_THE_SOURCE = ("baseline", "transfer", "recharge", "solar_input", "heating_check")
"""Protocols whose readings are of the mains, the wall or the panels too: nothing of them is taken for the source's steady output."""


class HasFinding(Protocol):
    """Anything seen that is told as one finding."""

    @property
    def finding(self) -> Finding:
        """What is told of it."""
        ...


@dataclass(frozen=True)
class SessionFindings:
    """Everything one session's readings carry."""

    record: BenchRecord
    context: SessionContext
    regulation: tuple[LoadLine, ...] = ()
    droops: tuple[LoadLine, ...] = ()
    starts: tuple[StartSeen, ...] = ()
    dips: tuple[DipSeen, ...] = ()
    restarts: tuple[Restart, ...] = ()
    holds: tuple[Held, ...] = ()
    trips: tuple[TripSeen, ...] = ()
    noise: tuple[NoiseSeen, ...] = ()
    logged: tuple[Finding, ...] = ()
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

    @property
    def droop(self) -> LoadLine | None:
        """The droop line with the widest span of load."""
        return max(self.droops, key=lambda line: line.line.x_high, default=None)

    @property
    def findings(self) -> tuple[Finding, ...]:
        """All findings, those of most consequence first."""
        kinds: tuple[Sequence[HasFinding], ...] = (
            self.baseline,
            worth_saying(self.holds),
            self.trips,
            self.starts,
            self.restarts,
            self.dips,
            self.regulation,
            self.droops,
            self.noise,
            self.waves,
            self.gaps,
            self.heats,
            self.displays,
            *((item,) for item in (self.steps, self.shares) if item is not None),
        )
        parts = [seen.finding for kind in kinds for seen in kind]
        many = (self.legs, self.heating, self.runs, self.fuel, *self.conversions, self.solar, self.cut_offs)
        parts += [finding for group in many if group is not None for finding in group.findings]
        parts += [*self.logged, *self.captured]
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
) -> SessionFindings:
    """Replay a session and draw every finding its readings, its recorded logs and its captures carry.

    A session of what is not the source's output alone (``NOT_THE_SOURCE``)
    gives what it is about (baseline, gap, charge, panels, heat) and nothing of
    the source's steady output. ``wave`` is what the meters had to read;
    ``logs`` and ``captures`` are what was read off those of the session;
    ``source`` is what was tested, for what needs its claims.
    """
    replayed = replay(session, system.legs, wave)
    if session.protocol in NOT_THE_SOURCE:
        apart = SessionContext(
            session=session, record=replayed, loads=loads, system=system, source=source, logs=logs, captures=captures
        )
        return SessionFindings(
            record=replayed,
            context=apart,
            baseline=baseline(replayed, loads, system) if session.protocol == "baseline" else (),
            gaps=gaps(apart),
            heating=heating(apart),
            runs=runs(apart),
            solar=solar(apart),
            captured=told_of_captures(apart),
        )
    record = with_captures(with_logs(replayed, logs, loads, system), captures, loads, system)
    context = SessionContext(
        session=session, record=record, loads=loads, system=system, source=source, logs=logs, captures=captures
    )
    typed = droop(record, system)
    droops = tuple(line for line in (typed, *(droop_logged(record, system, log) for log in logs)) if line is not None)
    lines = (*regulation(record, system), *(line for log in logs for line in regulation_logged(record, system, log)))
    started = starts(record, loads, system)
    return SessionFindings(
        record=record,
        context=context,
        regulation=lines,
        droops=droops,
        starts=started,
        dips=dips(record, system),
        restarts=restarts(started),
        holds=(*holds(record, system, loads), *holds_logged(record, logs)),
        trips=trips(context, site or Site()),
        noise=noise(record, neighbour_m),
        logged=(*findings_logged(record, logs, system), *duty_in_weather(context)),
        baseline=(),
        waves=waves_seen(context),
        captured=told_of_captures(context),
        steps=iso_class(context, max(droops, key=lambda line: line.line.x_high, default=None), lines),
        gaps=gaps(context),
        legs=legs(context),
        shares=shares(context),
        heats=heats(context),
        heating=None,
        runs=runs(context),
        fuel=fuel(context),
        conversions=conversions(context),
        solar=solar(context),
        cut_offs=cut_offs(context),
        displays=displays(context),
    )
