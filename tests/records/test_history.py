"""The history of a job: whatever is changed can be put back as it stood, and done again."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import pytest
from django.contrib.auth.models import AbstractUser

from muster.core.errors import Refused
from muster.core.loads import Tier
from muster.records import bridge, playing
from muster.records.actions import history, jobs, sessions, sources, traces
from muster.records.actions import loads as roll
from muster.records.models import Job, SessionRow, TraceRow

from .test_logs import GOOD, brought_in


def _state(job: Job) -> object:
    """Everything of a job that its history speaks of."""
    job = Job.objects.get(pk=job.pk)
    running = sessions.SessionRow.objects.filter(source__job=job, archived_at=None).order_by("pk")
    logs = TraceRow.objects.filter(session__source__job=job, removed_at=None).order_by("pk")
    live = job.source_rows.filter(archived_at=None).order_by("pk")
    return (
        job.name,
        bridge.home_of(job),
        bool(job.archived_at),
        [row.name for row in job.load_rows.filter(removed_at=None)],
        [bridge.source_of(row) for row in live],
        list(running),
        list(logs),
    )


def _changes(ladder: SessionRow, who: AbstractUser) -> dict[str, Callable[[], object]]:
    source = ladder.source
    job = source.job
    lights = job.load_rows.get(name="lights")
    brief, load, claims = bridge.brief_of(job), bridge.load_of(lights), bridge.source_of(source)
    log = TraceRow.objects.get()
    return {
        "brief": lambda: jobs.edit_brief(job, "Another", replace(brief, outage_h=9), who),
        "add": lambda: roll.add_line(job, "kettle", who),
        "edit": lambda: roll.edit_load(lights, replace(load, name="lamps", run_w=77, tier=Tier.COULD), who),
        "hours": lambda: roll.paint_hours(lights, [3, 4], who),
        "take off": lambda: roll.remove_load(lights, who),
        "new source": lambda: sources.add_source(job, replace(claims, name="another"), who),
        "claims": lambda: sources.edit_source(source, replace(claims, name="renamed"), who),
        "archived": lambda: sources.archive_source(source, who),
        "session": lambda: sessions.archive_session(ladder, who),
        "log": lambda: traces.remove_trace(log, who),
        "archive": lambda: jobs.archive_job(job, who),
    }


NAMES = ("brief", "add", "edit", "hours", "take off", "new source", "claims", "archived", "session", "log", "archive")


@pytest.mark.parametrize("name", NAMES)
def test_every_change_is_undone_to_what_stood_and_done_again(ladder: SessionRow, who: AbstractUser, name: str) -> None:
    brought_in(ladder, who, GOOD)
    job = ladder.source.job
    before = _state(job)
    _changes(ladder, who)[name]()
    after = _state(job)
    change = history.last_change(job)
    assert after != before
    assert change is not None
    assert change.who == who
    history.undo_change(change)
    assert _state(job) == before
    history.redo_change(change)
    assert _state(job) == after


def test_the_columns_that_are_asked_about_follow_an_undo(job: Job, who: AbstractUser) -> None:
    lights = job.load_rows.get(name="lights")
    roll.edit_load(lights, replace(bridge.load_of(lights), name="lamps", tier=Tier.COULD), who)
    history.undo_change(job.change_rows.first())  # type: ignore[arg-type]
    lights.refresh_from_db()
    assert (lights.name, lights.tier) == ("lights", bridge.load_of(lights).tier.value)


def test_what_was_changed_again_since_is_undone_in_order(job: Job, who: AbstractUser) -> None:
    lights = job.load_rows.get(name="lights")
    for w in (50, 60):
        roll.edit_load(lights, replace(bridge.load_of(lights), run_w=w), who)
    later, first = job.change_rows.all()[:2]
    with pytest.raises(Refused, match="changed again since"):
        history.undo_change(first)
    history.undo_change(later)
    history.undo_change(first)
    with pytest.raises(Refused, match="undone already"):
        history.undo_change(first)
    with pytest.raises(Refused, match="changed again since"):
        history.redo_change(later)
    history.redo_change(first)
    with pytest.raises(Refused, match="not undone"):
        history.redo_change(first)


def test_painting_hours_is_one_change_however_many_cells(job: Job, who: AbstractUser) -> None:
    lights = job.load_rows.get(name="lights")
    before = bridge.load_of(lights).hours
    count = job.change_rows.count()
    for hour in range(5):
        roll.paint_hours(lights, range(hour + 1), who)
    assert job.change_rows.count() == count + 1
    history.undo_change(history.last_change(job))  # type: ignore[arg-type]
    lights.refresh_from_db()
    assert bridge.load_of(lights).hours == before


def test_a_change_that_changes_nothing_is_not_kept(job: Job, who: AbstractUser) -> None:
    count = job.change_rows.count()
    jobs.edit_brief(job, job.name, bridge.brief_of(job), who)
    assert job.change_rows.count() == count


def test_a_change_tells_what_it_changed(job: Job, who: AbstractUser) -> None:
    jobs.edit_brief(job, "Another", replace(bridge.brief_of(job), outage_h=9), who)
    change = history.last_change(job)
    assert change is not None
    assert history.differences(change) == (("name", "Signal Cottage", "Another"), ("outage_h", 4.0, 9.0))


def test_a_log_archived_stays_away_once_its_session_is_sealed(ladder: SessionRow, who: AbstractUser) -> None:
    brought_in(ladder, who, GOOD)
    traces.remove_trace(TraceRow.objects.get(), who)
    change = history.last_change(ladder.source.job)
    sessions.close_session(ladder)
    with pytest.raises(Refused, match="sealed"):
        history.undo_change(change)  # type: ignore[arg-type]


def test_a_session_archived_no_longer_counts_and_is_not_saved(demo: Job, who: AbstractUser) -> None:
    source = demo.source_rows.get()
    for row in source.session_rows.all():
        sessions.archive_session(row, who)
    assert all(
        grade in (None, "C", "D")
        for grade in (r.grade for r in playing.verdict_on(source).requirements if r.key != "connection")
    )
    assert jobs.write_out(demo).job.sources[0].sessions == ()
    sessions.restore_session(source.session_rows.first(), who)  # type: ignore[arg-type]
    assert len(jobs.write_out(demo).job.sources[0].sessions) == 1
