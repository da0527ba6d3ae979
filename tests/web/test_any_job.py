"""No state of a job brings a page down: whatever was listed, jotted, corrected, undone and recorded."""

from __future__ import annotations

import subprocess
import sys
from dataclasses import dataclass, field
from datetime import timedelta
from pathlib import Path

import pytest
from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.test import Client
from django.urls import URLPattern, URLResolver, get_resolver, reverse
from django.utils import timezone
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from muster import cli
from muster.core.brief import Brief
from muster.core.errors import MusterError
from muster.core.safety.checks import KNOWN
from muster.core.sessions import PROTOCOLS, Conditions
from muster.core.shelf import SHELF
from muster.core.sources import Claims, Source, SourceKind
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Trace
from muster.formats.jobzip_out import write_package
from muster.records.actions import captures as capture_actions
from muster.records.actions import jobs, sources
from muster.records.actions import loads as roll
from muster.records.actions import sessions as session_actions
from muster.records.actions.traces import keep_trace
from muster.records.models import EntryRow, Job, SessionRow
from tests.examples import PROVING, examples
from tests.generate import briefs, captures, traces
from tests.generate import sources as any_source

KINDS_OF_THINGS = [entry.name.split(",")[0] for entry in SHELF]
ROLL_LINES = st.one_of(
    st.sampled_from(KINDS_OF_THINGS),
    st.builds(
        "{} {}w {}".format,
        st.sampled_from(KINDS_OF_THINGS),
        st.integers(5, 4000),
        st.sampled_from(["", "l2", "both", "should", "6-9", "2/18", "6-8,12-13 60/0"]),
    ),
    st.builds("{} motor {}w".format, st.sampled_from(["lathe", "hoist"]), st.integers(50, 3000)),
)
FIGURES = st.sampled_from(
    [
        "230v",
        "118v",
        "0v",
        "before 231v",
        "104v min",
        "180v min",
        "117v settled",
        "12.4a",
        "48a max",
        "l2 31a",
        "n 4.2a",
        "0w",
        "640w",
        "2.91kw",
        "5.4kw",
        "3.1kva",
        "0.92pf",
        "0pf",
        "59.6hz",
        "0hz",
        "72db@7m",
        "54db@0m",
        "background 41db",
        "81%",
        "0%",
        "100%",
        "0.62kwh",
        "0kwh",
        "dc 51.2v 63a",
        "dc 0v",
        "dc 12.8v 0a",
        "0.8l fuel",
        "41c cord",
        "95c case",
        "gap 18 ms",
        "3000rpm",
        "0.75l water",
        "pv 148v 4a",
        "150s",
        "!trip",
        "!code F12",
        "!flicker",
        "!hold",
        "!held",
        "!stall",
        "!reset",
        "!dip",
        "!step",
        "hot",
        "@clamp",
        "@plug",
        "2m ago:",
        "14:05:",
    ]
)
LINES = st.lists(FIGURES, min_size=1, max_size=4).map(" ".join)


@dataclass(frozen=True)
class Told:
    """A session as it was run: its lines, where a thumb slipped, what was recorded beside it."""

    protocol: str
    lines: list[tuple[str, str]]
    slips: list[str]
    logs: list[Trace] = field(default_factory=list)
    shots: list[Capture] = field(default_factory=list)
    closed: bool = False
    hours_ago: int = 0


told = st.builds(
    Told,
    protocol=st.sampled_from(sorted(PROTOCOLS)),
    lines=st.lists(st.tuples(LINES, st.sampled_from(["", "", "start", "hot start", "+", "-"])), max_size=12),
    slips=st.lists(st.sampled_from(["undo", "correct", "undo the undo"]), max_size=3),
    logs=st.lists(traces(), max_size=1),
    shots=st.lists(captures(), max_size=1),
    closed=st.booleans(),
    hours_ago=st.integers(0, 30),
)


@dataclass(frozen=True)
class Work:
    """A whole piece of work on one home."""

    brief: Brief
    roll: list[str]
    sources: list[Source]
    sessions: list[Told]


works = st.builds(
    Work,
    briefs,
    st.lists(ROLL_LINES, max_size=6),
    st.lists(any_source, min_size=1, max_size=2),
    st.lists(told, max_size=3),
)


def done(work: Work, who: AbstractUser) -> Job:
    """Do the work as a person would, by the actions that the pages call; what is refused is left."""
    job = jobs.create_job("Any home", work.brief, who)
    for line in work.roll:
        _unless_refused(lambda line=line: roll.add_line(job, line, who))
    rows = [_unless_refused(lambda source=source: sources.add_source(job, source, who)) for source in work.sources]
    kept = [row for row in rows if row is not None]
    for place, session in enumerate(work.sessions):
        if kept:
            _run(kept[place % len(kept)], session, job, who)
    return job


def _unless_refused(do):  # type: ignore[no-untyped-def]
    try:
        with transaction.atomic():
            return do()
    except MusterError:
        return None


def _run(source, session: Told, job: Job, who: AbstractUser) -> None:  # type: ignore[no-untyped-def]
    began = timezone.now() - timedelta(hours=session.hours_ago)
    row = _unless_refused(
        lambda: session_actions.start_session(source, session.protocol, Conditions(), who, confirmed=KNOWN, began=began)
    )
    if row is None:
        return
    names = [load.name for load in job.load_rows.all()] or ["heater"]
    for place, (line, what) in enumerate(session.lines):
        name = names[place % len(names)]
        whole = f"{what}{name}" if what in ("+", "-") else f"{name} {what} {line}" if what else line
        _unless_refused(lambda whole=whole: session_actions.log_line(row, whole, who))
    for slip in session.slips:
        if slip == "correct":
            last = EntryRow.objects.filter(session=row, supersedes=None, superseding=None).last()
            if last is not None:
                _unless_refused(lambda last=last: session_actions.correct(last, "231v 1.2kw", who))
        else:
            _unless_refused(lambda: session_actions.undo(row, who))
    for log in session.logs:
        _unless_refused(lambda log=log: keep_trace(row, log, (), who))
    for shot in session.shots:
        _unless_refused(lambda shot=shot: capture_actions.keep_capture(row, shot, who))
    if session.closed:
        _unless_refused(lambda: session_actions.close_session(row))


def _patterns(resolver: URLResolver) -> list[URLPattern]:
    return [
        found
        for pattern in resolver.url_patterns
        for found in (_patterns(pattern) if isinstance(pattern, URLResolver) else [pattern])
    ]


STREAMS = {"session-live"}
PAGES = {
    pattern.name: set(pattern.pattern.converters)
    for pattern in _patterns(get_resolver())
    if "job_id" in pattern.pattern.converters and pattern.name and pattern.name not in STREAMS
}


def addresses(job: Job) -> list[str]:
    """Every page and download of a job."""
    found = []
    own = [{"source_id": row.pk} for row in job.source_rows.all()] + [
        {"load_id": row.pk} for row in job.load_rows.all()
    ]
    for row in SessionRow.objects.filter(source__job=job):
        own.append({"session_id": row.pk})
        own += [{"session_id": row.pk, "trace_id": trace.pk} for trace in row.trace_rows.all()]
        own += [{"session_id": row.pk, "entry_id": entry.pk} for entry in row.entry_rows.all()[:2]]
        own += [{"session_id": row.pk, "number": number} for number in (0, 1)]
        for shot in row.capture_rows.all():
            own.append({"session_id": row.pk, "capture_id": shot.pk})
            own += [{"session_id": row.pk, "capture_id": shot.pk, "kind": kind} for kind in ("csv", "cff", "cfg")]
        for photo in row.photo_rows.all():
            own.append({"session_id": row.pk, "photo_id": photo.pk})
            own += [{"session_id": row.pk, "photo_id": photo.pk, "size": size} for size in ("small", "whole")]
    for name, wants in PAGES.items():
        found += [
            reverse(name, kwargs={"job_id": job.pk, **known}) for known in [{}, *own] if {"job_id", *known} == wants
        ]
    queries = [f"?source={row.pk}" for row in job.source_rows.all()] + ["?scope=could", "?all=1"]
    shown = (
        "source",
        "plan",
        "safety",
        "bench",
        "findings",
        "character",
        "character-json",
        "set-point",
        "noise-plan",
        "waves",
        "verdict",
        "verdict-json",
        "outage",
        "findings-csv",
        "verdict-csv",
    )
    return found + [reverse(name, args=[job.pk]) + query for name in shown for query in queries]


quickly = settings(
    max_examples=examples(2) if PROVING else 1,
    phases=(Phase.explicit, Phase.generate),  # an example takes seconds: it is told as it was found
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow, HealthCheck.data_too_large],
)


class _Back(Exception):
    """Forget what this example wrote."""


def held_up(client: Client, work: Work, who: AbstractUser, folder: Path) -> None:
    """Every page and download answers, and the command line reads the job's file."""
    try:
        with transaction.atomic():
            job = done(work, who)
            for address in addresses(job):
                response = client.get(address)
                assert response.status_code < 500, address
                assert response.status_code == 200 or response.status_code in (302, 404, 405, 409, 422), address
            package = jobs.write_out(job)
            path = folder / "any.muster.zip"
            path.write_bytes(write_package(package))
            again = jobs.read_in(package, who)
            assert jobs.write_out(again) == package
            raise _Back
    except _Back:
        pass
    for command in (["judge", "--draws", "3"], ["findings"], ["character"]):
        for more in ([], ["--json"]):
            assert cli.main([*command, *more, str(path)]) in (0, 2)


@quickly
@given(works)
def test_whatever_was_done_every_page_answers(client: Client, who: AbstractUser, tmp_path_factory, work: Work) -> None:  # type: ignore[no-untyped-def]
    held_up(client, work, who, tmp_path_factory.mktemp("any"))


HEATER = Told("starts", [("before 231v 228v min 230v settled", "start"), ("12a max 229v min", "start")], [])


def test_a_logged_start_of_what_has_none_brings_nothing_down(
    client: Client, who: AbstractUser, tmp_path: Path, job: Job
) -> None:
    """A heater and a television have no start; their volts when switched on may be written down all the same."""
    source = Source("the set", SourceKind.OPEN_FRAME, Claims(cont_w=3000))
    work = Work(Brief(), ["room heater 1000w", "television"], [source], [HEATER, HEATER])
    held_up(client, work, who, tmp_path)


def test_the_command_line_itself_reads_such_a_job(who: AbstractUser, tmp_path: Path) -> None:
    work = Work(
        Brief(), ["room heater 1000w"], [Source("the set", SourceKind.OPEN_FRAME, Claims(cont_w=3000))], [HEATER]
    )
    path = tmp_path / "any.muster.zip"
    path.write_bytes(write_package(jobs.write_out(done(work, who))))
    for command in (["judge", "--draws", "20"], ["findings"], ["character"]):
        ran = subprocess.run(
            [sys.executable, "-m", "muster", *command, str(path)], capture_output=True, text=True, check=False
        )
        assert ran.returncode == 0, ran.stderr


@pytest.mark.parametrize("name", sorted(PAGES))
def test_every_page_of_a_job_is_among_those_asked_for(name: str) -> None:
    known = {
        "job_id",
        "source_id",
        "load_id",
        "session_id",
        "trace_id",
        "entry_id",
        "capture_id",
        "photo_id",
        "size",
        "kind",
        "number",
        "import_id",
        "change_id",
    }
    assert PAGES[name] <= known
