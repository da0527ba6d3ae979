"""From rows to a verdict: the demand (kept by digest), the findings, the case."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from functools import lru_cache
from typing import Any, TypeVar

from muster.core.brief import Brief, Home
from muster.core.captures import CaptureFacts, read_capture
from muster.core.character import Dated
from muster.core.day import DRAWS, SEED, DayDemand, asked_of
from muster.core.day.simulate import simulate
from muster.core.findings import Finding, SessionFindings
from muster.core.kit import Kit
from muster.core.loads import Load, Tier, Wave
from muster.core.sessions import PROTOCOLS
from muster.core.sources import Source
from muster.core.supply import System
from muster.core.traces.facts import TraceFacts, read_off
from muster.core.verdict import Verdict, judge, whole
from muster.core.verdict.case import Case
from muster.formats.codec import canonical, dump, load

from . import bridge
from .actions.captures import capture_of, live_captures
from .actions.gates import passed
from .actions.sessions import live_sessions
from .actions.traces import live_traces, read_trace
from .models import CaptureRow, Job, ResultRow, SessionRow, SourceRow, TraceRow

TRACE_METHOD = 4
"""Raised when what is read off a trace changes."""
CAPTURE_METHOD = 1
"""Raised when what is read off a capture changes."""
T = TypeVar("T")


def demand_of(loads: tuple[Load, ...], brief: Brief) -> DayDemand:
    """The simulated demand, from the keep if the same was asked before."""
    asked = asked_of([dump(load) for load in loads], dump(brief), DRAWS, SEED)
    return _kept(DayDemand, asked, lambda: simulate(loads, brief))


def _kept(kind: type[T], asked: Any, compute: Callable[[], T]) -> T:
    """A result from the keep if the same was asked before, else computed and kept."""
    digest = hashlib.sha256(canonical(asked).encode()).hexdigest()
    kept = ResultRow.objects.filter(digest=digest).first()
    if kept is not None:
        return load(kind, kept.data)
    result = compute()
    ResultRow.objects.update_or_create(digest=digest, defaults={"data": dump(result)})
    return result


def facts_of(row: TraceRow, kit: Kit, system: System) -> TraceFacts:
    """What was read off a trace, from the keep if it was read off before."""
    asked = {
        "trace": [row.sha256, row.name, row.instrument, row.t0_s], "system": dump(system), "of": [TRACE_METHOD],
        "kit": [dump(instrument) for instrument in kit.instruments], "wave": kit.wave.value,
    }  # fmt: skip
    return _kept(TraceFacts, asked, lambda: read_off(read_trace(row), kit, system))


def logs_of(row: SessionRow, system: System, wave: Wave) -> tuple[TraceFacts, ...]:
    """What was read off every log of a session."""
    kit = bridge.session_data(row).kit_on(wave)
    return tuple(facts_of(trace, kit, system) for trace in live_traces(row))


def captures_of(row: SessionRow, system: System) -> tuple[CaptureFacts, ...]:
    """What was read off every capture of a session, from the keep where it was read off before."""
    return tuple(_capture_facts(one, system) for one in live_captures(row))


def _capture_facts(row: CaptureRow, system: System) -> CaptureFacts:
    asked = {
        "capture": [row.sha256, row.name, row.instrument, row.t0_s, row.step_s, row.why], "channels": row.channels,
        "system": dump(system), "of": [CAPTURE_METHOD],
    }  # fmt: skip
    return _kept(CaptureFacts, asked, lambda: read_capture(capture_of(row), system))


def _found(row: SessionRow, home: Home, source: Source) -> SessionFindings:
    """The findings of a session; those of a sealed one are kept in memory, for its record no longer changes."""
    if row.sha256:
        return _sealed(row.pk, row.sha256, home, source)
    return _read_now(row, home, source)


def _read_now(row: SessionRow, home: Home, source: Source) -> SessionFindings:
    logs = logs_of(row, home.brief.system, source.claims.wave)
    return whole.session_findings(home, source, bridge.session_of(row), logs, captures_of(row, home.brief.system))


@lru_cache(maxsize=256)
def _sealed(key: int, seal: str, home: Home, source: Source) -> SessionFindings:
    """What a sealed session found; the seal in the key names what was read."""
    return _read_now(SessionRow.objects.get(pk=key, sha256=seal), home, source)


def session_findings(row: SessionRow) -> SessionFindings:
    """Every finding of one session."""
    return _found(row, bridge.home_of(row.source.job), bridge.source_of(row.source))


def findings_of(job: Job) -> list[tuple[str, str, Finding]]:
    """Every finding of a job, with the protocol it is of and when its session began."""
    return [
        (PROTOCOLS[row.protocol].name, row.started_at.isoformat(), finding)
        for source in job.source_rows.filter(archived_at=None)
        for row in live_sessions(source)
        for finding in session_findings(row).findings
    ]


def dated(row: SessionRow, home: Home, source: Source) -> Dated:
    """What a session found, with its name and when it began."""
    return Dated(_found(row, home, source), PROTOCOLS[row.protocol].name, row.started_at.isoformat())


def case_of(source: SourceRow, scope: Tier = Tier.MUST) -> Case:
    """All that the verdict on a source is judged on."""
    home, value = bridge.home_of(source.job), bridge.source_of(source)
    found = [_found(row, home, value) for row in live_sessions(source)]
    return whole.build_case(home, value, found, scope, demand_of, passed(source))


def verdict_on(source: SourceRow, scope: Tier = Tier.MUST) -> Verdict:
    """The verdict on a source for the loads of a tier and above."""
    return judge(case_of(source, scope))
