"""From rows to a verdict: the demand (kept by digest), the findings, the case."""

from __future__ import annotations

import hashlib
from dataclasses import replace

from muster.core.brief import Brief, Home
from muster.core.day import DRAWS, SEED, DayDemand, simulate, upper
from muster.core.findings import SessionFindings, findings_of
from muster.core.loads import TIERS, Load, Tier
from muster.core.verdict import Verdict, judge
from muster.core.verdict.case import Case
from muster.formats.codec import canonical, dump, load

from . import bridge
from .models import DemandRow, Job, SessionRow, SourceRow

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


def in_scope(loads: tuple[Load, ...], scope: Tier) -> tuple[Load, ...]:
    """The loads of a tier and of those above it."""
    wanted = TIERS[: TIERS.index(scope) + 1]
    return tuple(x for x in loads if x.tier in wanted)


def session_findings(row: SessionRow) -> SessionFindings:
    """Every finding of one session."""
    home = bridge.home_of(row.source.job)
    return findings_of(bridge.session_of(row), home.by_key, home.brief.system, home.brief.ear_m)


def case_of(source: SourceRow, scope: Tier = Tier.MUST) -> Case:
    """All that the verdict on a source is judged on."""
    return _case(source.job, source, scope)


def _case(job: Job, source: SourceRow, scope: Tier) -> Case:
    home = bridge.home_of(job)
    loads = in_scope(home.loads, scope)
    return Case(
        home=Home(home.brief, loads),
        source=bridge.source_of(source),
        demand=demand_of(upper(loads), home.brief),
        planned=demand_of(loads, home.brief),
        sessions=tuple(session_findings(row) for row in source.session_rows.all()),
    )


def verdict_on(source: SourceRow, scope: Tier = Tier.MUST) -> Verdict:
    """The verdict on a source for the loads of a tier and above."""
    return judge(case_of(source, scope))
