"""From a home, a source and its sessions to the verdict, in one call."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ..brief import Home
from ..findings import SessionFindings, findings_of
from ..loads import Tier
from ..outage import Simulate, upper
from ..sessions import Session
from ..sources import Source
from ..timeline.captures.features import CaptureFeatures
from ..timeline.traces.features import TraceFeatures
from .inputs import VerdictInputs


def session_findings(
    home: Home,
    source: Source,
    session: Session,
    logs: Sequence[TraceFeatures] = (),
    captures: Sequence[CaptureFeatures] = (),
) -> SessionFindings:
    """Every finding of one session on a source, in its home, with what was read off its recorded logs and captures."""
    brief = home.brief
    return findings_of(
        session, home.by_key, brief.system, brief.neighbour_m, source.claims.wave, logs, captures, source, brief.site
    )


def gather_inputs(
    home: Home,
    source: Source,
    session_findingses: Iterable[SessionFindings],
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
        sessions=tuple(session_findingses),
        passed=frozenset(passed),
    )
