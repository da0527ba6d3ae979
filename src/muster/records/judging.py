"""From rows to a verdict: the demand (kept by digest), the findings, the case."""

from __future__ import annotations

import hashlib
from collections import defaultdict
from collections.abc import Callable, Collection, Mapping, Sequence
from datetime import datetime
from functools import lru_cache, partial
from typing import Any, TypeVar

from django.db.models import Max
from django.utils import timezone

from muster.core.brief import Brief, Home
from muster.core.calculators import JobFigures
from muster.core.character import Character, Dated, Given, character_given
from muster.core.errors import MusterError
from muster.core.findings import Finding, SessionFindings, collect
from muster.core.kit import Instrument, Kit
from muster.core.loads import Load, Tier, Wave
from muster.core.measures import Measures, shown_in
from muster.core.outage import DRAWS, SEED, OutageDemand, demand_key, upper
from muster.core.outage.household import HouseholdRule, with_rules
from muster.core.outage.rules import NO_RULES, Rules
from muster.core.sessions import PROTOCOLS, Place, Reading, Session
from muster.core.sessions.checks import misread
from muster.core.sessions.replay import replay
from muster.core.shelf.measured import elsewhere_of, findings_elsewhere
from muster.core.sources import Source
from muster.core.sources.limits import Limit
from muster.core.stacking.best_sets import Stacks, best_stacks
from muster.core.supply import System
from muster.core.timeline.captures import CaptureFeatures, read_capture
from muster.core.timeline.captures import features as capture_features
from muster.core.timeline.traces import features as trace_features
from muster.core.timeline.traces.features import TraceFeatures, extract_features
from muster.core.verdict import Verdict, judge
from muster.core.verdict.inputs import VerdictInputs, gather_inputs
from muster.formats import cache as keep
from muster.formats.codec import canonical, dump, load

from . import background, bridge
from .actions.captures import capture_of, live_captures
from .actions.safety import passed
from .actions.sessions import live_sessions
from .actions.traces import live_traces, read_trace
from .checking import checks_on
from .judged import verdict_of
from .looking import remember
from .models import CaptureRow, EntryRow, Job, ResultRow, SessionRow, SourceRow, TraceRow
from .recent import Recent

MOST_READ = 256
"""So many results are held in memory: a demand is some 10 kB, what was read off a log some 100."""
FEW_LOADS = 12
"""So many loads stack in at most 2^12 looks, some 20 ms; more may take the whole search, ten times that."""
T = TypeVar("T")


def demand_of(loads: tuple[Load, ...], brief: Brief, rules: Rules = NO_RULES, /) -> OutageDemand:
    """The simulated demand with the rules of the household, from the keep if the same was asked before.

    Raises
    ------
    NotReady
        If it is being worked out.
    """
    asked = demand_key([dump(load) for load in loads], dump(brief), DRAWS, SEED, rules)
    at_set_up = partial(keep.kept, OutageDemand, asked)
    args = {"asked": asked, "rules": dump(rules)}
    return kept_result(OutageDemand, asked, "demand", args, "playing the outage through", at_set_up)


@background.task("demand")
def _simulate(args: dict[str, Any], progress: background.WorkProgress) -> None:
    """Simulate what a home needs; the compiled kernel is loaded where it is used alone."""
    from muster.core.outage.simulate import simulate

    asked = args["asked"]
    loads, rules = tuple(load(Load, item) for item in asked["loads"]), load(Rules, args["rules"])
    keep_result(args["digest"], simulate(loads, load(Brief, asked["brief"]), DRAWS, SEED, progress.at, rules))


def digest_of(asked: Any) -> str:
    """The name under which a result is kept: a digest of all that it hangs on."""
    return hashlib.sha256(canonical(asked).encode()).hexdigest()


def keep_result(digest: str, result: Any) -> None:
    """Keep what was worked out, by the digest of what it hangs on."""
    ResultRow.objects.update_or_create(digest=digest, defaults={"data": dump(result)})


def kept_result(
    kind: type[T],
    asked: Any,
    task: str,
    args: dict[str, Any],
    label: str,
    elsewhere: Callable[[], T | None] = lambda: None,
) -> T:
    """A result from the keep if the same was asked before, or ``elsewhere``; else worked out and kept."""
    digest = digest_of(asked)
    result = _kept(kind, digest)
    if result is None:
        result = elsewhere()
        if result is not None:
            keep_result(digest, result)
            return result
        background.need(task, digest, {**args, "digest": digest}, label)
        result = _kept(kind, digest)
    if result is None:
        raise ResultRow.DoesNotExist(f"{task} gave no result")
    return result


def kept_already(kind: type[T], asked: Any) -> T | None:
    """A result from the keep, None where the same was not worked out before; nothing is asked for."""
    return _kept(kind, digest_of(asked))


def _kept(kind: type[T], digest: str) -> T | None:
    """A result by its digest: the same object while it is among those read lately."""
    read: T | None = _READ.get((kind, digest))
    if read is None:
        row = ResultRow.objects.filter(digest=digest).first()
        read = None if row is None else _READ.put((kind, digest), load(kind, row.data))
    return read


_READ: Recent[Any] = Recent(MOST_READ)
"""Results read lately: a digest names what they hang on, so none of them is ever another."""


def features_of(row: TraceRow, kit: Kit, system: System) -> TraceFeatures:
    """What was read off a trace, from the keep if it was read off before.

    Raises
    ------
    NotReady
        If it is being read off.
    """
    with_kit = {
        "system": dump(system),
        "kit": [dump(instrument) for instrument in kit.instruments],
        "wave": kit.wave.value,
    }
    asked = {"trace": [row.sha256, row.name, row.instrument, row.t0_s], "of": [trace_features.METHOD], **with_kit}
    return kept_result(TraceFeatures, asked, "trace", {"trace": row.pk, **with_kit}, f"reading {row.name}")


@background.task("trace")
def _extract_features(args: dict[str, Any], progress: background.WorkProgress) -> None:
    del progress
    kit = Kit(tuple(load(Instrument, arg) for arg in args["kit"]), Wave(args["wave"]))
    row = TraceRow.objects.filter(pk=args["trace"]).first()
    if row is None:
        raise MusterError("the log is gone", where="log")
    keep_result(args["digest"], extract_features(read_trace(row), kit, load(System, args["system"])))


def logs_of(row: SessionRow, system: System, wave: Wave) -> tuple[TraceFeatures, ...]:
    """What was read off every log of a session.

    Raises
    ------
    NotReady
        If any is being read off.
    """
    kit = bridge.session_data(row).kit_on(wave)
    return background.every(partial(features_of, trace, kit, system) for trace in live_traces(row))


def captures_of(row: SessionRow, system: System) -> tuple[CaptureFeatures, ...]:
    """What was read off every capture of a session, from the keep where it was read off before.

    Raises
    ------
    NotReady
        If any is being read off.
    """
    return background.every(partial(_capture_features, capture_row, system) for capture_row in live_captures(row))


def _capture_features(row: CaptureRow, system: System) -> CaptureFeatures:
    asked = {
        "capture": [row.sha256, row.name, row.instrument, row.t0_s, row.step_s, row.why],
        "channels": row.channels,
        "system": dump(system),
        "of": [capture_features.METHOD],
    }
    args = {"capture": row.pk, "system": dump(system)}
    return kept_result(CaptureFeatures, asked, "capture", args, f"reading the capture {row.name}")


@background.task("capture")
def _read_capture(args: dict[str, Any], progress: background.WorkProgress) -> None:
    del progress
    row = CaptureRow.objects.filter(pk=args["capture"]).first()
    if row is None:
        raise MusterError("the capture is gone", where="capture")
    keep_result(args["digest"], read_capture(capture_of(row), load(System, args["system"])))


def _found(row: SessionRow, home: Home, source: Source) -> SessionFindings:
    """The findings of a session; those of a sealed one are kept in memory, for its record no longer changes."""
    if row.sha256:
        return _sealed(row.pk, row.sha256, home, source, shown_in())
    return _read_now(row, home, source)


def _read_now(row: SessionRow, home: Home, source: Source) -> SessionFindings:
    waits, system = background.Waiting(), home.brief.system
    logs: tuple[TraceFeatures, ...] = ()
    captures: tuple[CaptureFeatures, ...] = ()
    with background.filling(waits):
        logs = logs_of(row, system, source.claims.wave)
    with background.filling(waits):
        captures = captures_of(row, system)
    if waits:
        raise background.NotReady(waits.rows)
    session = bridge.session_of(row)
    asked = (session, home, source, logs, captures)
    key = (row.pk, shown_in())
    kept = _OPEN.get(key)
    if kept is not None and kept[0][0] is asked[0] and kept[0][1:] == asked[1:]:
        return kept[1]
    seen = collect.session_findings(home, source, session, logs, captures, misread(checks_on(row, session)))
    _OPEN.put(key, (asked, seen))
    return seen


Asked = tuple[Session, Home, Source, tuple[TraceFeatures, ...], tuple[CaptureFeatures, ...]]
_OPEN: Recent[tuple[Asked, SessionFindings]] = Recent()
"""What each open session was last found to say, and of what: one that stands still beside another is not worked out again."""


@lru_cache(maxsize=256)
def _sealed(key: int, seal: str, home: Home, source: Source, shown: Measures) -> SessionFindings:
    """What a sealed session found, told in those units; the seal in the key names what was read."""
    del shown
    return _read_now(SessionRow.objects.get(pk=key, sha256=seal), home, source)


def read_together(rows: Collection[SessionRow]) -> None:
    """Read the logs and captures of several open sessions in two queries, for the look that goes on."""
    still_read = [row for row in rows if not row.sha256]
    traces, captures = defaultdict(list), defaultdict(list)
    for trace in TraceRow.objects.filter(session__in=still_read, staged=False, removed_at=None):
        traces[trace.session_id].append(trace)
    for capture in CaptureRow.objects.filter(session__in=still_read, removed_at=None).defer("samples"):
        captures[capture.session_id].append(capture)
    for row in still_read:
        remember(live_traces, row, traces[row.pk])
        remember(live_captures, row, captures[row.pk])
    bridge.read_together(still_read)


def findings_so_far(row: SessionRow, waits: background.Waiting, home: Home, source: Source) -> SessionFindings:
    """Every finding of one session; while its logs are being read, those of what was typed. It never keeps anybody waiting."""
    complete = None
    with background.filling(waits):
        complete = _found(row, home, source)
    return complete or collect.session_findings(home, source, bridge.session_of(row))


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


def given_now(row: SourceRow, home: Home, source: Source, waits: background.Waiting) -> Given:
    """What a source's character is drawn from; of logs still being read nothing yet, so that nobody waits."""
    rows = live_sessions(row).order_by("started_at", "pk")
    seen = [
        Dated(findings_so_far(of, waits, home, source), PROTOCOLS[of.protocol].name, of.started_at.isoformat())
        for of in rows
    ]
    return _given(home, source, [*dated_elsewhere(row), *seen])


def dated_elsewhere(row: SourceRow) -> list[Dated]:
    """What the sessions of a source measured elsewhere found; worked out once for its evidence, the neighbour and the units shown."""
    taken = bridge.taken_of(row)
    if taken is None:
        return []
    neighbour_m = bridge.brief_of(row.job).neighbour_m
    key = (row.pk, taken.measured.digest, neighbour_m, shown_in())
    kept = _ELSEWHERE.get(key)
    if kept is None:
        found_there = findings_elsewhere(taken.measured, neighbour_m)
        kept = _ELSEWHERE.put(
            key,
            [
                Dated(seen, f"{PROTOCOLS[seen.context.session.protocol].name}, elsewhere", at)
                for seen, at in found_there
            ],
        )
    return kept


_ELSEWHERE: Recent[list[Dated]] = Recent()


def character_now(row: SourceRow) -> Character:
    """All that is known of a source.

    Raises
    ------
    NotReady
        If a log is being read.
    """
    return kept_character(row, given_of_row(row))


def given_of_row(row: SourceRow) -> Given:
    """A source with what each of its sessions found.

    Raises
    ------
    NotReady
        If a log is being read.
    """
    home, value = bridge.home_of(row.job), bridge.source_of(row)
    sessions = [dated(of, home, value) for of in live_sessions(row).order_by("started_at", "pk")]
    return kept_given(row, _given(home, value, [*dated_elsewhere(row), *sessions]))


def _given(home: Home, source: Source, sessions: Sequence[Dated]) -> Given:
    """A source at its site with its sessions in the order of time."""
    return Given(source, home.brief.system, home.brief.site, tuple(sorted(sessions, key=lambda dated: dated.at)))


def kept_character(row: SourceRow, given: Given, beside: int = 0) -> Character:
    """The character drawn from what is given, the same again while nothing of it changed; ``beside`` a session that is left out."""
    return character_given(kept_given(row, given, beside))


def kept_given(row: SourceRow, given: Given, beside: int = 0) -> Given:
    """What is given of a source, the same again with all that was drawn of it while nothing of it changed."""
    asked = (given.source, given.system, given.site, [(of.at, of.name, id(of.findings)) for of in given.sessions])
    kept = _GIVEN.get((row.pk, beside))
    if kept is None or kept[0] != asked:
        kept = _GIVEN.put((row.pk, beside), (asked, given))
    return kept[1]


_GIVEN: Recent[tuple[Any, Given]] = Recent()
"""What was last given of each source, and what names it: that itself keeps the findings which the name counts."""


def figures_of(job: Job, source: SourceRow | None) -> JobFigures:
    """What is known of a job for the calculators; of logs still being read nothing yet, so that nobody waits."""
    home = bridge.home_of(job)
    if source is None:
        return JobFigures(brief=home.brief)
    value, waits = bridge.source_of(source), background.Waiting()
    rows = list(live_sessions(source).order_by("started_at", "pk"))
    given = given_now(source, home, value, waits)
    latest: dict[tuple[str, Place], Reading] = {}
    for row in rows:
        latest |= replay(bridge.session_of(row), home.brief.system.legs).latest
    return JobFigures(brief=home.brief, source=value, character=kept_character(source, given), latest=latest)


def verdict_inputs(
    source: SourceRow, scope: Tier = Tier.MUST, rules: tuple[HouseholdRule, ...] | None = None
) -> VerdictInputs:
    """All that the verdict on a source is judged on; with other rules than were accepted for it, where they are given.

    Raises
    ------
    NotReady
        If the demand, or what a log or capture shows, is being worked out.
    """
    home, value = bridge.home_of(source.job), bridge.source_of(source)
    waits = background.Waiting()
    rows = list(live_sessions(source).order_by("started_at", "pk"))
    sessions: tuple[SessionFindings, ...] = ()
    with background.filling(waits):
        sessions = background.every(partial(_found, row, home, value) for row in rows)
    loads = home.within(scope)
    rules = bridge.rules_of(source) if rules is None else rules
    ruled = with_rules(loads, home.brief, rules)
    homes = [(loads, home.brief, NO_RULES), *([(ruled.loads, ruled.brief, ruled.rules)] if ruled.kept else [])]
    asked = dict.fromkeys((rolled, *others) for own, *others in homes for rolled in (upper(own), own))
    demands: dict[Any, OutageDemand] = {}
    with background.filling(waits):
        simulated = background.every(partial(demand_of, *question) for question in asked)
        demands = dict(zip(asked, simulated, strict=True))
    if waits:
        raise background.NotReady(waits.rows)
    taken, there = bridge.taken_of(source), dated_elsewhere(source)
    here = [
        Dated(seen, PROTOCOLS[row.protocol].name, row.started_at.isoformat())
        for row, seen in zip(rows, sessions, strict=True)
    ]
    given = kept_given(source, _given(home, value, [*there, *here]))

    def known(loads: tuple[Load, ...], brief: Brief, rules: Rules = NO_RULES, /) -> OutageDemand:
        return demands[loads, brief, rules]

    today = timezone.now().replace(hour=0, minute=0, second=0, microsecond=0)
    elsewhere = elsewhere_of(taken, today) if taken is not None else None
    return gather_inputs(home, given, scope, known, passed(source), rules, elsewhere)


def judge_and_keep(
    source: SourceRow, case: VerdictInputs, scope: Tier, minutes_of: Callable[[str], float] | None = None
) -> Verdict:
    """The verdict on what is known of a source; that for the loads that must run is kept for the board."""
    verdict = verdict_of(case) if minutes_of is None else judge(case, minutes_of)
    if scope is Tier.MUST:
        said = {"status": verdict.status.value, "headline": verdict.headline}
        was = source.judged or {}
        if {name: was.get(name) for name in said} != said or not is_current(was, worked_on([source.job_id])):
            source.judged = {**said, "at": timezone.now().isoformat()}
            SourceRow.objects.filter(pk=source.pk).update(judged=source.judged)
    return verdict


def worked_on(jobs: Collection[int]) -> dict[int, datetime]:
    """When each of some jobs was last worked on: its brief, loads and sources, or a line of its record."""
    entries = (
        EntryRow.objects.filter(session__source__job__in=jobs)
        .values_list("session__source__job")
        .annotate(last=Max("logged_at"))
        .order_by()
    )
    last = dict(Job.objects.filter(pk__in=jobs).values_list("pk", "changed_at"))
    for job, at in entries:
        last[job] = max(at, last[job])
    return last


def is_current(judged: Mapping[str, str], last: Mapping[int, datetime]) -> bool:
    """Whether a kept verdict is of the job after its last change; ``last`` holds that one job's."""
    return bool(judged) and all(datetime.fromisoformat(judged["at"]) >= at for at in last.values())


def stacks_of(home: Home, limits: tuple[Limit, ...]) -> Stacks:
    """The best sets of a home's loads that hold on a source.

    Raises
    ------
    NotReady
        If they are being searched for: more than a few loads take longer than a page may.
    """
    if len(home.loads) <= FEW_LOADS:
        return best_stacks(home.loads, limits, home.brief.system)
    asked = {
        "loads": [dump(load) for load in home.loads],
        "limits": [dump(limit) for limit in limits],
        "system": dump(home.brief.system),
    }
    return kept_result(Stacks, asked, "stacks", {"asked": asked}, "searching for the best sets")


@background.task("stacks")
def _search_stacks(args: dict[str, Any], progress: background.WorkProgress) -> None:
    del progress
    asked = args["asked"]
    loads = [load(Load, item) for item in asked["loads"]]
    limits = tuple(load(Limit, item) for item in asked["limits"])
    keep_result(args["digest"], best_stacks(loads, limits, load(System, asked["system"])))
