"""A source measured on one job, kept with its whole evidence, and taken into another: what was read stays what was read."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime

from ..brief import Brief
from ..errors import Refused
from ..findings.collect import SessionFindings, findings_of
from ..loads import Load
from ..quantities import number
from ..sessions import Entry, Item, Session, Start, Step, Switch
from ..sources import Chemistry, Source
from ..supply import System
from ..timeline.captures.features import CaptureFeatures
from ..timeline.traces.features import TraceFeatures

ELSEWHERE = "elsewhere:"
"""Before the key of a load of another home: it is none of the loads here, whatever its number."""
DAYS_A_YEAR = 365.25
AGES_AFTER_DAYS = 365.25
"""A battery measured longer ago is another battery. Ours."""
FADE_A_YEAR = {Chemistry.LFP: 0.025, Chemistry.LEAD: 0.10}
OTHER_FADE_A_YEAR = 0.10
"""What a battery's energy loses in a year, about: planning figures, grade D, ours; an unknown chemistry as lead-acid."""


@dataclass(frozen=True)
class MeasuredSession:
    """A session with what was read off its logs and captures; ``seal`` is that of its record where it was sealed."""

    session: Session
    started_at: str
    seal: str = ""
    logs: tuple[TraceFeatures, ...] = ()
    captures: tuple[CaptureFeatures, ...] = ()


@dataclass(frozen=True)
class MeasuredSource:
    """A source as it was measured: its claims, the home and the loads it was measured on, and every session.

    ``put_at`` (ISO 8601) and ``put_by`` say when it was put on the shelf, and by whom; ``measured_for`` on which job;
    ``digest`` is over all that was measured.
    """

    source: Source
    brief: Brief
    loads: tuple[Load, ...]
    sessions: tuple[MeasuredSession, ...]
    measured_for: str
    put_at: str = ""
    put_by: str = ""
    digest: str = ""

    @property
    def last_at(self) -> str:
        """When it was last measured (ISO 8601); empty where it never was."""
        return max((kept.started_at for kept in self.sessions), default="")


@dataclass(frozen=True)
class TakenSource:
    """A measured source taken into another job; ``serviced``: it was serviced, repaired or changed since."""

    measured: MeasuredSource
    serviced: bool = False


def require_same_supply(measured: MeasuredSource, system: System) -> None:
    """Refuse a source that was measured on another supply.

    Raises
    ------
    Refused
        With both supplies: what it did on one says nothing of the other.
    """
    own = measured.brief.system
    if (own.v_nominal, own.hz, own.legs) != (system.v_nominal, system.hz, system.legs):
        raise Refused(
            f"{measured.source.name} was measured on {own.label}, this job is {system.label}",
            where="supply",
            want="a source measured on this supply, or its nameplate alone",
        )


def findings_elsewhere(measured: MeasuredSource, neighbour_m: float) -> tuple[tuple[SessionFindings, str], ...]:
    """What each session of a source measured elsewhere shows, with when it began, the earliest first.

    Parameters
    ----------
    measured
        With its loads, which are none of the loads here: what it started there was another motor.
    neighbour_m
        How far the neighbour is here. [m]

    Returns
    -------
    tuple
        Under the conditions of the test; what nobody said of them is as the brief of that job had it, never as this one has it.
    """
    loads = {f"{ELSEWHERE}{load.key}": replace(load, key=f"{ELSEWHERE}{load.key}") for load in measured.loads}
    return tuple(
        (_findings(measured, kept, loads, neighbour_m), kept.started_at)
        for kept in sorted(measured.sessions, key=lambda item: item.started_at)
    )


def _findings(
    measured: MeasuredSource, kept: MeasuredSession, loads: Mapping[str, Load], neighbour_m: float
) -> SessionFindings:
    brief = measured.brief
    return findings_of(
        _renamed(measured, kept.session),
        loads,
        brief.system,
        neighbour_m,
        measured.source.claims.wave,
        kept.logs,
        kept.captures,
        measured.source,
        brief.site,
    )


def _renamed(measured: MeasuredSource, session: Session) -> Session:
    """A session whose loads bear the names of another home, and whose conditions are all said."""
    said, site = session.conditions, measured.brief.site
    return replace(
        session,
        entries=tuple(_entry(entry) for entry in session.entries),
        steps=tuple(_step(step) for step in session.steps),
        conditions=replace(
            said,
            temp_c=site.temp_c if said.temp_c is None else said.temp_c,
            altitude_m=site.altitude_m if said.altitude_m is None else said.altitude_m,
            fuel=said.fuel or measured.source.claims.fuel,
        ),
    )


def _entry(entry: Entry) -> Entry:
    return replace(entry, items=tuple(_item(item) for item in entry.items))


def _item(item: Item) -> Item:
    return replace(item, load=f"{ELSEWHERE}{item.load}") if isinstance(item, Switch | Start) else item


def _step(step: Step) -> Step:
    return replace(step, loads=tuple(f"{ELSEWHERE}{key}" for key in step.loads))


@dataclass(frozen=True)
class Elsewhere:
    """What must be said of evidence from elsewhere: where it is from, and how old it is today."""

    measured_for: str
    last_at: str
    age_days: float
    serviced: bool
    fade: float
    """What the battery's energy has lost since, about; 0 without one."""
    ages: bool
    """Whether it has a battery that is another one by now."""
    began: frozenset[str]
    """When its sessions began: what began then is not of this job."""

    @property
    def told(self) -> str:
        """In words: where, when, and what no correction covers."""
        years = self.age_days / DAYS_A_YEAR
        ago = "" if years < 0.5 else f", {number(round(years, 1))} years ago"
        said = [f"measured elsewhere, for {self.measured_for}, last on {self.last_at[:10]}{ago}"]
        if self.serviced:
            said.append("serviced or changed since")
        if self.ages:
            said.append(
                f"its battery is older since, about {number(round(self.fade * 100))} % less of it left by its kind"
            )
        return "; ".join(said)


def elsewhere_of(taken: TakenSource, today: datetime) -> Elsewhere:
    """What must be said of a taken source today.

    Parameters
    ----------
    taken
        With whether it was serviced since.
    today
        With its zone.
    """
    measured = taken.measured
    last = datetime.fromisoformat(measured.last_at) if measured.last_at else today
    age_days = max(0.0, (today - last).total_seconds() / 86400)
    battery = measured.source.kind.has_battery
    chemistry = measured.source.claims.chemistry
    a_year = FADE_A_YEAR.get(chemistry, OTHER_FADE_A_YEAR) if chemistry is not None else OTHER_FADE_A_YEAR
    return Elsewhere(
        measured_for=measured.measured_for,
        last_at=measured.last_at,
        age_days=age_days,
        serviced=taken.serviced,
        fade=min(1.0, a_year * age_days / DAYS_A_YEAR) if battery else 0.0,
        ages=battery and age_days > AGES_AFTER_DAYS,
        began=frozenset(kept.started_at for kept in measured.sessions),
    )
