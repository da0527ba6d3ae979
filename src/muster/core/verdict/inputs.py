"""What a verdict is judged on: the home, the source, the demand, and the findings of its sessions."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import TypeVar

from ..brief import Home
from ..character import Character, Dated, Given, character_of
from ..character.set_since import SetSince
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
    dates: tuple[str, ...] = ()
    """When each session began (ISO); empty where nobody said: they are in order."""
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

    @cached_property
    def given(self) -> Given:
        """The source with its sessions as a character is drawn from them."""
        brief = self.home.brief
        dated = [
            Dated(findings, PROTOCOLS[findings.context.session.protocol].name, at)
            for findings, at in zip(self.sessions, self.dates or [""] * len(self.sessions), strict=True)
        ]
        return Given(self.source, brief.system, brief.site, sorted(dated, key=lambda item: item.at))

    @cached_property
    def holds(self) -> tuple[Held, ...]:
        """All held and trip levels since it was last serviced, as they would be under the conditions of the brief."""
        current = {id(findings) for findings in self.current("held_w")}
        return tuple(
            held
            for dated, own in zip(self.given.sessions, self.given.holds, strict=True)
            if id(dated.findings) in current
            for held in own
        )

    def current(self, key: str) -> list[SessionFindings]:
        """The sessions that still speak of this source where a parameter is asked for: those since it was adjusted or serviced."""
        return [
            dated.findings for index, dated in enumerate(self.given.sessions) if not self._since.is_outdated(index, key)
        ]

    @cached_property
    def _since(self) -> SetSince:
        return SetSince(self.given.sessions)

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
        return tuple(_flat(session.starts for session in self.current("start_w")))

    @property
    def started_together(self) -> tuple[StartSeen, ...]:
        """All starts of several loads at one moment."""
        return tuple(_flat(session.together for session in self.current("start_w")))

    @property
    def waves(self) -> tuple[WaveSeen, ...]:
        """All waveforms captured."""
        return tuple(_flat(session.waves for session in self.current("thd_pct")))

    @cached_property
    def character(self) -> Character:
        """What the source was measured to be, by all its sessions."""
        given = self.given
        return character_of(given.source, given.system, given.site, given.sessions)

    @property
    def noise(self) -> tuple[NoiseSeen, ...]:
        """All noise walks, by state of load."""
        return tuple(_flat(session.noise for session in self.current("dba_7m")))

    def regulation(self, leg: Leg) -> LoadLine | None:
        """The regulation line of a leg with the widest span of load."""
        seen = self.current(f"v{leg.value}")
        lines = [line for s in seen for line in s.regulation if line.place.value == leg.value]
        return max(lines, key=lambda line: line.line.x_high, default=None)

    @property
    def droop(self) -> LoadLine | None:
        """The droop line with the widest span of load."""
        lines = [session.droop for session in self.current("hz") if session.droop is not None]
        return max(lines, key=lambda line: line.line.x_high, default=None)


def _flat(parts: Iterable[tuple[T, ...]]) -> list[T]:
    return [item for part in parts for item in part]


def gather_inputs(
    home: Home,
    source: Source,
    sessions: Iterable[SessionFindings],
    scope: Tier,
    demand_of: Simulate,
    passed: Iterable[str] = (),
    dates: Iterable[str] = (),
) -> VerdictInputs:
    """All that a verdict is judged on, for the loads of a tier and above.

    ``demand_of`` simulates, or finds what was simulated before; ``passed`` are
    the safety checks that were confirmed; ``dates`` say when each session began (ISO).
    """
    loads = home.within(scope)
    return VerdictInputs(
        home=Home(home.brief, loads),
        source=source,
        demand=demand_of(upper(loads), home.brief),
        planned=demand_of(loads, home.brief),
        sessions=tuple(sessions),
        passed=frozenset(passed),
        dates=tuple(dates),
        left_out=tuple(load for load in home.loads if load not in loads),
    )
