"""Stage 7: the findings, most consequential first, each with its working."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST

from muster.core.advice.answers import Answer, answers
from muster.core.character import Dated
from muster.core.errors import MusterError
from muster.core.findings import Finding, SessionFindings
from muster.core.findings.across import SourceSeen, across_sources
from muster.core.findings.finding import Topic, topics_of
from muster.core.findings.lines import LoadLine
from muster.core.loads.kinds import MOTOR_HZ_PCT, MOTOR_V_PCT
from muster.core.sessions import PROTOCOLS
from muster.core.sessions.steps import steps_seen
from muster.core.sources.limits import limits_of
from muster.formats.tables import findings_table, ladder_table, line_table
from muster.records import bridge
from muster.records.actions import loads as actions
from muster.records.actions.sessions import live_sessions
from muster.records.checking import checks_on
from muster.records.judging import dated_elsewhere, session_findings
from muster.records.models import SessionRow, SourceRow
from muster.web.figures.ladder import Ladder, draw_ladder
from muster.web.figures.line import LineFigure, draw_line
from muster.web.ui.downloads import csv_file
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import chosen_source, get_job, live_sources, stage_page

from .study import Study, study_of


@dataclass(frozen=True)
class Chapter:
    """A session's findings by topic, with its drawings."""

    row: SessionRow
    name: str
    topics: list[tuple[str, list[Finding]]]
    answers: list[str]
    ladder: Ladder | None
    doubts: int
    lines: list[LineFigure]
    baseline: int
    apart: bool


def _figure(fit: LoadLine) -> LineFigure:
    return draw_line(fit, MOTOR_HZ_PCT if fit.unit == "hz" else MOTOR_V_PCT)


@dataclass(frozen=True)
class ThereChapter:
    """A session that was run elsewhere: its findings by topic; its record is of another job."""

    name: str
    at: str
    topics: list[tuple[str, list[Finding]]]


def _there(dated: Dated) -> ThereChapter:
    return ThereChapter(name=dated.name, at=dated.at, topics=_topics(dated.findings))


def _topics(session_findings: SessionFindings) -> list[tuple[str, list[Finding]]]:
    groups = [(topic.heading, [f for f in session_findings.findings if f.topic is topic]) for topic in Topic]
    return [(words, group) for words, group in groups if group]


def _ladder(source: SourceRow, row: SessionRow, session_findings: SessionFindings) -> Ladder | None:
    session = bridge.session_of(row)
    if session.protocol != "ladder":
        return None
    brief = bridge.brief_of(source.job)
    claim = limits_of(bridge.source_of(source), brief.system, brief.site)[0]
    return draw_ladder(session.steps, session_findings.record, claim.w, brief.system.legs)


def _chapter(source: SourceRow, row: SessionRow) -> Chapter:
    session_findings_found = session_findings(row)
    fits = [*session_findings_found.regulation, *session_findings_found.droops]
    name = PROTOCOLS[row.protocol].name
    doubts = sum(1 for check in checks_on(row) if not check.confirmed)
    return Chapter(
        row=row,
        name=name,
        topics=_topics(session_findings_found),
        answers=[topic.heading for topic in topics_of(row.protocol)],
        ladder=_ladder(source, row, session_findings_found),
        doubts=doubts,
        lines=[_figure(fit) for fit in fits],
        baseline=len(session_findings_found.baseline),
        apart=not PROTOCOLS[row.protocol].of_the_source,
    )


@dataclass(frozen=True)
class Said:
    """An answer with where it leads."""

    answer: Answer
    url: str


def _across(study: Study, sources: Iterable[SourceRow]) -> tuple[Finding, ...]:
    """What this source's sessions tell only together, and with the heating checks of the job's other sources."""
    seen = [SourceSeen(study.source.name, study.source.claims.wave, tuple(dated.findings for dated in study.sessions))]
    for row in sources:
        checks = live_sessions(row).filter(protocol="heating_check") if row.pk != study.row.pk else ()
        founds = tuple(session_findings(check) for check in checks)
        if founds:
            source = bridge.source_of(row)
            seen.append(SourceSeen(source.name, source.claims.wave, founds))
    return across_sources(seen)


def findings(request: HttpRequest, job_id: int) -> HttpResponse:
    """What a source did: first in short, then session by session, the latest first."""
    job = get_job(job_id)
    source = chosen_source(request, job)
    study = study_of(source) if source else None
    said = answers(study.home, study.source, study.sessions, study.character) if study else ()
    context = {
        "source": source,
        "sources": live_sources(job),
        "said": [Said(item, study.url_of(item.session, item.key)) for item in said] if study else [],
        "elsewhere": study.elsewhere if study else None,
        "there": [_there(dated) for dated in reversed(study.there)] if study else [],
        "across": _across(study, live_sources(job)) if study else (),
        "chapters": [_chapter(source, row) for row in reversed(study.rows)] if source and study else [],
    }
    return stage_page(request, job, "findings", "findings/findings.html", context)


def as_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """Every finding of a source as a table."""
    source = chosen_source(request, get_job(job_id))
    if source is None:
        raise Http404("no source yet")
    there = [
        (f"{dated.name}, measured elsewhere", dated.at, finding)
        for dated in dated_elsewhere(source)
        for finding in dated.findings.findings
    ]
    here = [
        (PROTOCOLS[row.protocol].name, row.started_at.isoformat(), finding)
        for row in live_sessions(source)
        for finding in session_findings(row).findings
    ]
    return csv_file(findings_table([*there, *here]), f"{source.name} findings")


def ladder_csv(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """A ladder's steps as a table."""
    row = _session(job_id, session_id)
    session, system = bridge.session_of(row), bridge.brief_of(row.source.job).system
    seen = steps_seen(session_findings(row).record, session.steps, system.legs)
    return csv_file(ladder_table(session.steps, seen), f"{row.source.name} ladder")


def line_csv(request: HttpRequest, job_id: int, session_id: int, number: int) -> HttpResponse:
    """A quantity against load as a table."""
    row = _session(job_id, session_id)
    session_findings_found = session_findings(row)
    fits = [*session_findings_found.regulation, *session_findings_found.droops]
    if number >= len(fits):
        raise Http404("no such line")
    return csv_file(line_table(fits[number]), f"{row.source.name} {fits[number].finding.title}")


@require_POST
def take_baseline(request: HttpRequest, job_id: int, session_id: int) -> HttpResponse:
    """Take over for each load what a baseline read."""
    row = _session(job_id, session_id)
    try:
        count = actions.take_baseline(row, request.user)
        messages.info(
            request,
            f"These figures hold now for {count} load{'' if count == 1 else 's'}; the earlier ones are kept beside them.",
        )
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect("loads", job_id)


def _session(job_id: int, session_id: int) -> SessionRow:
    return get_object_or_404(SessionRow.objects.select_related("source__job"), pk=session_id, source__job=job_id)
