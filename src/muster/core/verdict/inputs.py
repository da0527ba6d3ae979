"""What a verdict is judged on: the home, the source, the demand, and the findings of its sessions."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TypeVar

from ..brief import Home
from ..character import Character, Dated, character_of
from ..character.conditions import Correction, correction
from ..findings.captured import WaveSeen
from ..findings.collect import SessionFindings
from ..findings.holds import Held
from ..findings.lines import LoadLine
from ..findings.noise_walk import NoiseSeen
from ..findings.starts import StartSeen
from ..loads import Load, Tier
from ..outage import OutageDemand, Simulate, upper
from ..sessions import PROTOCOLS
from ..sources import Source
from ..sources.limits import Limit, limits_of
from ..supply import Leg

T = TypeVar("T")


@dataclass(frozen=True)
class VerdictInputs:
    """All that a verdict needs; ``demand`` at upper figures, ``planned`` as planned; ``passed`` the safety checks confirmed."""

    home: Home
    source: Source
    demand: OutageDemand
    planned: OutageDemand
    sessions: tuple[SessionFindings, ...] = ()
    passed: frozenset[str] = frozenset()
    left_out: tuple[Load, ...] = ()
    """The loads of lesser tiers, which are not judged."""

    @property
    def loads(self) -> dict[str, Load]:
        """The loads by their key."""
        return self.home.by_key

    @property
    def limits(self) -> tuple[Limit, ...]:
        """The nameplate's limits at this site."""
        return limits_of(self.source, self.home.brief.system, self.home.brief.site)

    @property
    def holds(self) -> tuple[Held, ...]:
        """All held and trip levels, as they would be under the conditions of the brief."""
        site = self.home.brief.site
        return tuple(
            _corrected(held, correction(self.source, site, session.context.session.conditions))
            for session in self.sessions
            for held in session.holds
        )

    @property
    def waiting(self) -> str:
        """The entries that wait to be confirmed, as they were jotted; empty where none does."""
        lines = [
            entry.raw
            for session in self.sessions
            for entry in session.context.session.effective
            if entry.seq in session.context.waiting
        ]
        return ", ".join(f"“{line}”" for line in lines[:3]) + (f" and {len(lines) - 3} more" if len(lines) > 3 else "")

    @property
    def starts(self) -> tuple[StartSeen, ...]:
        """All starts seen."""
        return tuple(_flat(session.starts for session in self.sessions))

    @property
    def started_together(self) -> tuple[StartSeen, ...]:
        """All starts of several loads at one moment."""
        return tuple(_flat(session.together for session in self.sessions))

    @property
    def waves(self) -> tuple[WaveSeen, ...]:
        """All waveforms captured."""
        return tuple(_flat(session.waves for session in self.sessions))

    @cached_property
    def character(self) -> Character:
        """What the source was measured to be, by all its sessions."""
        brief = self.home.brief
        sessions = [
            Dated(session_found, PROTOCOLS[session_found.context.session.protocol].name, "")
            for session_found in self.sessions
        ]
        return character_of(self.source, brief.system, brief.site, sessions)

    @property
    def noise(self) -> tuple[NoiseSeen, ...]:
        """All noise walks, by state of load."""
        return tuple(_flat(session.noise for session in self.sessions))

    def regulation(self, leg: Leg) -> LoadLine | None:
        """The regulation line of a leg with the widest span of load."""
        lines = [line for s in self.sessions for line in s.regulation if line.place.value == leg.value]
        return max(lines, key=lambda line: line.line.x_high, default=None)

    @property
    def droop(self) -> LoadLine | None:
        """The droop line with the widest span of load."""
        lines = [session.droop for session in self.sessions if session.droop is not None]
        return max(lines, key=lambda line: line.line.x_high, default=None)


def _corrected(held: Held, by: Correction) -> Held:
    """A level under the brief's conditions: a hold downward alone, a trip both ways.

    A hold on a mountain is no hold of more at the sea; a trip there is none here at all.
    """
    if by.working is None or (by.factor > 1 and not held.tripped):
        return held
    finding = replace(held.finding, workings=(*held.finding.workings, by.working))
    return replace(held, w=held.w * by.factor, u_w=held.u_w * by.factor, finding=finding, measured_w=held.w)


def _flat(parts: Iterable[tuple[T, ...]]) -> list[T]:
    return [item for part in parts for item in part]


def gather_inputs(
    home: Home,
    source: Source,
    sessions: Iterable[SessionFindings],
    scope: Tier,
    demand_of: Simulate,
    passed: Iterable[str] = (),
) -> VerdictInputs:
    """All that a verdict is judged on, for the loads of a tier and above.

    ``demand_of`` simulates, or finds what was simulated before; ``passed`` are
    the safety checks that were confirmed.
    """
    loads = home.within(scope)
    return VerdictInputs(
        home=Home(home.brief, loads),
        source=source,
        demand=demand_of(upper(loads), home.brief),
        planned=demand_of(loads, home.brief),
        sessions=tuple(sessions),
        passed=frozenset(passed),
        left_out=tuple(load for load in home.loads if load not in loads),
    )
