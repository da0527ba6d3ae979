"""What a character is drawn from: a source at a site, and what each of its sessions found."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from ..findings import Finding
from ..findings.collect import SessionFindings
from ..findings.holds import Held
from ..findings.starts import StartSeen
from ..quantities import Value, plain
from ..sessions import PROTOCOLS, Place
from ..sources import Site, Source
from ..supply import System
from .character import SessionEstimate
from .conditions import corrected, corrected_start, correction

PACE_X = 1.25


@dataclass(frozen=True)
class Dated:
    """The findings of a session, with its name and when it began (ISO)."""

    findings: SessionFindings
    name: str
    at: str


@dataclass(frozen=True)
class Given:
    """A source, its supply and the brief's site, and its sessions, the earliest first."""

    source: Source
    system: System
    site: Site
    sessions: Sequence[Dated]
    drawn: dict[Any, Any] = field(default_factory=dict, init=False, compare=False, repr=False)
    """What was drawn of it, by whatever else that hangs on: none of it changes while this does not."""

    @cached_property
    def holds(self) -> tuple[tuple[Held, ...], ...]:
        """What each session held and where it tripped, as it would be under the conditions of the brief."""
        here = (
            correction(self.source, self.site, dated.findings.context.session.conditions) for dated in self.sessions
        )
        return tuple(
            tuple(corrected(held, by) for held in dated.findings.holds)
            for dated, by in zip(self.sessions, here, strict=True)
        )

    @cached_property
    def starts(self) -> tuple[tuple[StartSeen, ...], ...]:
        """The starts that each session saw, as they speak of the conditions of the brief."""
        return tuple(self._starts_here(dated, dated.findings.starts) for dated in self.sessions)

    @cached_property
    def started_together(self) -> tuple[tuple[StartSeen, ...], ...]:
        """The starts of several loads at one moment that each session saw, as they speak of the conditions of the brief."""
        return tuple(self._starts_here(dated, dated.findings.together) for dated in self.sessions)

    def _starts_here(self, dated: Dated, starts: Sequence[StartSeen]) -> tuple[StartSeen, ...]:
        by = correction(self.source, self.site, dated.findings.context.session.conditions)
        return tuple(corrected_start(start, by) for start in starts)

    def holds_of(self, dated: Dated) -> tuple[Held, ...]:
        """What a session held and where it tripped, under the conditions of the brief."""
        return next(holds for own, holds in zip(self.sessions, self.holds, strict=True) if own is dated)


def given_of(
    source: Source, system: System, site: Site, sessions: Iterable[SessionFindings], dates: Sequence[str] = ()
) -> Given:
    """A source with what its sessions found, the earliest first.

    Parameters
    ----------
    source, system, site
        What was tested, its supply, and where the brief has it.
    sessions
        The findings of each.
    dates
        When each began (ISO); empty where nobody said: they are in order.

    Returns
    -------
    Given
        Sorted by date; those of one date stay in their order.
    """
    sessions = tuple(sessions)
    dated = [
        Dated(findings, PROTOCOLS[findings.context.session.protocol].name, at)
        for findings, at in zip(sessions, dates or [""] * len(sessions), strict=True)
    ]
    return Given(source, system, site, sorted(dated, key=lambda item: item.at))


def dated_elsewhere(seen: Iterable[tuple[SessionFindings, str]]) -> list[Dated]:
    """Sessions of another job by their findings and when they began, told as such wherever a figure says what it rests on."""
    return [
        Dated(findings, f"{PROTOCOLS[findings.context.session.protocol].name}, elsewhere", at) for findings, at in seen
    ]


Estimates = Iterator[tuple[str, str, SessionEstimate]]
"""Key and name of a parameter, and what one session says of it."""


def says(dated: Dated, value: Value, basis: str, finding: Finding | None = None, points: int = 0) -> SessionEstimate:
    """One session's estimate, with what it was read from and under what conditions; of an engine it is said whether it was warm."""
    context = dated.findings.context
    engine = context.source is not None and context.source.kind.has_engine
    state = (", warm" if context.session.conditions.warm else ", cold") if engine else ""
    return SessionEstimate(
        value=value,
        session=dated.name,
        at=dated.at,
        basis=basis + state,
        seqs=finding.seqs if finding is not None else (),
        log=finding.log if finding is not None else "",
        capture=finding.capture if finding is not None else "",
        conditions=_conditions(dated),
        fuel=context.session.conditions.fuel if engine else "",
        points=points,
    )


def _conditions(dated: Dated) -> str:
    """Heat and height of a test, in words; what nobody said is left out."""
    conditions = dated.findings.context.session.conditions
    said = ((conditions.temp_c, "c"), (conditions.altitude_m, "m"))
    return ", ".join(plain(value, unit) for value, unit in said if value is not None)


def held_points(given: Given, dated: Dated) -> list[Held]:
    """Levels of the whole source whose watts were read, and that the load ended if anything did."""
    return [h for h in given.holds_of(dated) if h.place is Place.TOTAL and not h.planned and not h.ran_out]


def pace(w: float) -> int:
    """A load in steps of a quarter, two figures: runs of one step are alike."""
    step = PACE_X ** round(math.log(max(w, 1.0)) / math.log(PACE_X))
    return int(round(step, -max(0, math.floor(math.log10(step)) - 1)))
