"""From rows to a verdict: the demand (kept by digest), the findings, the case."""

from __future__ import annotations

import hashlib
from dataclasses import replace

from muster.core.brief import Brief
from muster.core.day import DRAWS, SEED, DayDemand, simulate
from muster.core.findings import SessionFindings
from muster.core.loads import Load, Tier
from muster.core.verdict import Verdict, judge, whole
from muster.core.verdict.case import Case
from muster.formats.codec import canonical, dump, load

from . import bridge
from .models import DemandRow, SessionRow, SourceRow

METHOD = 1
"""Raised when the simulation changes, so that kept results are made anew."""


def demand_of(loads: tuple[Load, ...], brief: Brief) -> DayDemand:
    """The simulated demand, from the keep if the same was asked before."""
    relevant = replace(brief, question="", reserve_pct=0, noise_day_dba=None, noise_night_dba=None, ear_m=1)
    asked = {"loads": [dump(x) for x in loads], "brief": dump(relevant), "of": [METHOD, DRAWS, SEED]}
    digest = hashlib.sha256(canonical(asked).encode()).hexdigest()
    kept = DemandRow.objects.filter(digest=digest).first()
    if kept is not None:
        return load(DayDemand, kept.data)
    demand = simulate(loads, brief)
    DemandRow.objects.update_or_create(digest=digest, defaults={"data": dump(demand)})
    return demand


def session_findings(row: SessionRow) -> SessionFindings:
    """Every finding of one session."""
    return whole.session_findings(bridge.home_of(row.source.job), bridge.source_of(row.source), bridge.session_of(row))


def case_of(source: SourceRow, scope: Tier = Tier.MUST) -> Case:
    """All that the verdict on a source is judged on."""
    sessions = [bridge.session_of(row) for row in source.session_rows.all()]
    return whole.build_case(bridge.home_of(source.job), bridge.source_of(source), sessions, scope, demand_of)


def verdict_on(source: SourceRow, scope: Tier = Tier.MUST) -> Verdict:
    """The verdict on a source for the loads of a tier and above."""
    return judge(case_of(source, scope))
