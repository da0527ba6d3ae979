"""Small homes, sources and sessions for the tests, made in a line."""

from __future__ import annotations

from muster.core.brief import Brief, Home
from muster.core.character import given_of
from muster.core.findings import SessionFindings, findings_of
from muster.core.loads import Duty, Load, Tier
from muster.core.outage import upper
from muster.core.outage.simulate import simulate
from muster.core.quantities import Grade
from muster.core.sessions import Entry, Session, Step
from muster.core.sessions.log_line import read_line
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS, Leg, System
from muster.core.verdict.inputs import VerdictInputs

SPLIT = SYSTEMS["split-120-240-60"]
SINGLE = SYSTEMS["single-230-50"]


def load(key: str = "1", name: str = "heater", kind: str = "heater", run_w: float = 1000, **more: object) -> Load:
    """A load, measured unless said otherwise."""
    given: dict[str, object] = {"pf": 1.0, "leg": Leg.ONE, "run_grade": Grade.A, "duty": Duty(), **more}
    given["leg"] = Leg(str(given["leg"]))
    return Load(key=key, name=name, kind=kind, run_w=run_w, **given)  # type: ignore[arg-type]


def set_of(cont_w: float = 5000, **claims: object) -> Source:
    """An open-frame set."""
    return Source("the set", SourceKind.OPEN_FRAME, Claims(cont_w=cont_w, **claims))  # type: ignore[arg-type]


def session(
    lines: list[tuple[float, str]],
    loads: tuple[Load, ...],
    system: System = SPLIT,
    protocol: str = "ladder",
    steps: tuple[Step, ...] = (),
) -> Session:
    """A session of log lines at their seconds."""
    names = {x.key: x.name for x in loads}
    entries = [Entry(i, t, read_line(text, names, system).items, text) for i, (t, text) in enumerate(lines, 1)]
    return Session(protocol, steps, tuple(entries))


def found(
    lines: list[tuple[float, str]], loads: tuple[Load, ...] = (), system: System = SPLIT, neighbour_m: float = 20
) -> SessionFindings:
    """What log lines carry."""
    return findings_of(session(lines, loads, system), {x.key: x for x in loads}, system, neighbour_m)


def case(
    loads: tuple[Load, ...], source: Source, brief: Brief, *findings: SessionFindings, draws: int = 20
) -> VerdictInputs:
    """A case with a small simulation."""
    return VerdictInputs(
        home=Home(brief, loads),
        source=source,
        demand=simulate(upper(loads), brief, draws),
        planned=simulate(loads, brief, draws),
        given=given_of(source, brief.system, brief.site, findings),
    )


__all__ = ["SINGLE", "SPLIT", "Tier", "case", "found", "load", "session", "set_of"]
