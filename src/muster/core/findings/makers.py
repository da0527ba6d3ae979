"""Every kind of finding there is, in one table: what makes it, of which sessions it holds, and what of it is told."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, Protocol

from ..sessions import Place
from ..sources.limits import rated_w
from .baseline import baseline
from .captured import describe_captures, waves_seen
from .clocks import clocks
from .context import SessionContext
from .conversion import conversions
from .cut_offs import cut_offs
from .dips import dips
from .displays import displays
from .duty import duties
from .excursions import excursions
from .finding import Finding
from .from_logs import findings_logged, holds_logged
from .fuel import fuel
from .heat import heats
from .heating import heating
from .holds import Held, holds, worth_saying
from .inspection import points_seen
from .legs import legs
from .lines import LoadLine, droop, droop_logged, regulation, regulation_logged
from .lived import lived
from .load_steps import iso_class
from .noise_walk import noise
from .noticed import noticed
from .restarts import restarts
from .runs import runs
from .shares import shares
from .solar import solar
from .starts import starts, starts_together
from .swings import swings
from .transfer import gaps
from .trips import trips
from .weather import duty_in_weather, run_in_weather


class Made(Protocol):
    """What the makers make, by their names."""

    def __getitem__(self, name: str) -> Any:
        """What the maker of a name made."""


@dataclass(frozen=True)
class Maker:
    """Makes one kind of finding.

    ``name`` is the field of ``SessionFindings`` that holds what it makes: a
    value with ``finding`` or ``findings``, a finding, a sequence of these, or
    None. ``make`` is given the session and what was made before.
    ``of_the_source`` and ``of_other_sessions``: whether it is made of sessions
    of the source's output, and of those whose readings are of the mains, the
    wall or the panels too. ``shown`` picks what is worth telling.
    """

    name: str
    make: Callable[[SessionContext, Made], Any]
    of_the_source: bool = True
    of_other_sessions: bool = False
    shown: Callable[[Any], Any] | None = None

    def findings(self, made: Any) -> tuple[Finding, ...]:
        """The findings in what it made."""
        return tuple(_findings_in(made if self.shown is None else self.shown(made)))


def _findings_in(made: Any) -> Iterable[Finding]:
    if made is None:
        return
    if isinstance(made, Finding):
        yield made
    elif hasattr(made, "finding"):
        yield made.finding
    elif hasattr(made, "findings"):
        yield from made.findings
    else:
        for part in made:
            yield from _findings_in(part)


def _lines(context: SessionContext) -> tuple[LoadLine, ...]:
    record, system = context.record, context.system
    logged = (line for log in context.logs for line in regulation_logged(record, system, log))
    return (*regulation(record, system), *logged)


def _droops(context: SessionContext) -> tuple[LoadLine, ...]:
    record, system = context.record, context.system
    lines = (droop(record, system), *(droop_logged(record, system, log) for log in context.logs))
    return tuple(line for line in lines if line is not None)


def _holds(context: SessionContext) -> tuple[Held, ...]:
    """What was held and where it tripped; where its cut-offs were sought the volts ended it, and no load."""
    logged = [log.power for log in context.logs]
    record, system = context.record, context.system
    helds = holds(record, system, context.loads, logged, context.waiting, _rated_w(context))
    sought = context.session.protocol == "cut_offs"
    return tuple(held for held in helds if not (sought and held.tripped))


def _rated_w(context: SessionContext) -> dict[Place, float]:
    """What a nameplate claims of the whole and of each leg; nothing where none was read."""
    if context.source is None or context.source.planned:
        return {}
    return rated_w(context.source, context.system, context.session.conditions.fuel)


def _widest(lines: Iterable[LoadLine]) -> LoadLine | None:
    return max(lines, key=lambda line: line.line.x_high, default=None)


MAKERS = (
    Maker(
        "baseline",
        lambda c, _: baseline(c.record, c.loads, c.system) if c.session.protocol == "baseline" else (),
        of_the_source=False,
        of_other_sessions=True,
    ),
    Maker("holds", lambda c, _: (*_holds(c), *holds_logged(c.record, c.logs)), shown=worth_saying),
    Maker("lived", lambda c, _: lived(c)),
    Maker("trips", lambda c, made: trips(c, c.site, made["holds"])),
    Maker("starts", lambda c, _: starts(c.record, c.loads, c.system)),
    Maker("together", lambda c, _: starts_together(c.record, c.loads, c.system)),
    Maker("restarts", lambda _, made: restarts(made["starts"])),
    Maker("dips", lambda c, _: dips(c.record, c.system)),
    Maker("regulation", lambda c, _: _lines(c)),
    Maker("droops", lambda c, _: _droops(c)),
    Maker("clocks", lambda c, _: clocks(c)),
    Maker("noise", lambda c, _: noise(c.record, c.neighbour_m, c.system.legs, c.loads)),
    Maker("waves", lambda c, _: waves_seen(c)),
    Maker("gaps", lambda c, _: gaps(c), of_other_sessions=True),
    Maker("heats", lambda c, _: heats(c)),
    Maker("displays", lambda c, _: displays(c), of_other_sessions=True),
    Maker("noticed", lambda c, _: noticed(c), of_other_sessions=True),
    Maker("excursions", lambda c, _: excursions(c)),
    Maker("swings", lambda c, _: swings(c), shown=lambda seen: [s.finding for s in seen if s.finding]),
    Maker("steps", lambda c, made: iso_class(c, _widest(made["droops"]), made["regulation"])),
    Maker("shares", lambda c, _: shares(c)),
    Maker("legs", lambda c, _: legs(c)),
    Maker("heating", lambda c, _: heating(c), of_the_source=False, of_other_sessions=True),
    Maker("runs", lambda c, _: runs(c), of_other_sessions=True),
    Maker("fuel", lambda c, _: fuel(c)),
    Maker("conversions", lambda c, _: conversions(c)),
    Maker("solar", lambda c, _: solar(c), of_other_sessions=True),
    Maker("cut_offs", lambda c, _: cut_offs(c)),
    Maker("logged", lambda c, _: (*findings_logged(c.record, c.logs, c.system), *duty_in_weather(c))),
    Maker("duties", lambda c, _: duties(c)),
    Maker("inspection", lambda c, _: points_seen(c), of_other_sessions=True),
    Maker("in_weather", lambda c, made: run_in_weather(c, made["runs"])),
    Maker("captured", lambda c, _: describe_captures(c), of_other_sessions=True),
)
"""In the order in which they are made; of one topic they are told in this order too."""
