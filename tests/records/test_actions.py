"""Changes of state: what is kept, what is refused, what can be undone."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import datetime, timedelta

import pytest
from django.contrib.auth.models import AbstractUser
from django.db import connection, transaction
from django.utils import timezone

from muster.core.brief import Brief
from muster.core.errors import MusterError, Refused
from muster.core.loads import Tier
from muster.core.plan import Changes
from muster.core.safety.checks import KNOWN
from muster.core.sessions import Conditions, Switch
from muster.core.sessions.log_line import When
from muster.core.sessions.moments import moment_of
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS, Leg
from muster.formats.codec import dump, load
from muster.formats.jobfile import JobFile, read_job, write_job
from muster.formats.jobzip import read_package
from muster.formats.jobzip_out import write_package
from muster.records import bridge, judging, playing
from muster.records.actions import characters, history, jobs, people, sessions, sources
from muster.records.actions import loads as roll
from muster.records.models import Job, LoadRow, ResultRow, SessionRow, SourceRow


def test_the_database_is_asked_to_survive_a_power_cut(db: None) -> None:
    with connection.cursor() as cursor:
        assert cursor.execute("PRAGMA synchronous").fetchone()[0] == 2
        assert cursor.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert cursor.execute("PRAGMA foreign_keys").fetchone()[0] == 1


def test_a_local_account_is_made_once_and_every_record_says_who(job: Job, who: AbstractUser) -> None:
    assert people.local_account() == who
    assert job.created_by == who
    assert {row.created_by for row in job.load_rows.all()} == {who}


def test_an_account_needs_a_name_to_show(who: AbstractUser) -> None:
    with pytest.raises(MusterError, match="name"):
        people.name_account(who, "  ")
    people.name_account(who, "Ada")
    assert bridge.shown_name(people.local_account()) == "Ada"


def test_a_job_needs_a_name(who: AbstractUser) -> None:
    with pytest.raises(MusterError, match="name"):
        jobs.create_job(" ", Brief(), who)


def test_a_copy_takes_the_home_and_leaves_the_sessions(ladder: SessionRow, who: AbstractUser) -> None:
    first = ladder.source.job
    copy = jobs.copy_job(first, who)
    assert bridge.home_of(copy) == bridge.home_of(first)
    assert SessionRow.objects.filter(source__job=copy).count() == 0


def test_archived_is_not_deleted(job: Job, who: AbstractUser) -> None:
    jobs.archive_job(job, who)
    assert Job.objects.get(pk=job.pk).archived_at is not None
    assert jobs.restore_job(job, who).archived_at is None


def test_bench_keys_are_not_the_benchs_own_shortcuts(job: Job, who: AbstractUser) -> None:
    for _ in range(30):
        roll.add_line(job, "lamp", who)
    keys = [row.key for row in job.load_rows.all()]
    assert len(keys) == len(set(keys))
    assert not set("dghntz") & set(keys)


def test_a_second_load_of_a_name_is_numbered(job: Job, who: AbstractUser) -> None:
    names = [roll.add_line(job, "kettle", who).name for _ in range(3)]
    assert names == ["kettle", "kettle 2", "kettle 3"]


def test_a_load_taken_off_keeps_its_key_and_can_be_put_back(job: Job, who: AbstractUser) -> None:
    pump = job.load_rows.get(name="sump pump")
    roll.remove_load(pump, who)
    assert "sump pump" not in [load.name for load in bridge.loads_of(job)]
    assert roll.add_line(job, "kettle", who).key != pump.key
    roll.put_back(pump, who)
    assert "sump pump" in [load.name for load in bridge.loads_of(job)]


def test_two_loads_may_not_share_a_name(job: Job, who: AbstractUser) -> None:
    lights = job.load_rows.get(name="lights")
    with pytest.raises(MusterError, match="already"):
        roll.edit_load(lights, replace(bridge.load_of(lights), name="Sump Pump"), who)


def test_a_single_phase_home_has_no_second_leg(job: Job, who: AbstractUser) -> None:
    assert bridge.load_of(roll.add_line(job, "kettle l2", who)).leg is Leg.ONE


def test_hours_painted_are_kept_in_order(job: Job, who: AbstractUser) -> None:
    row = roll.paint_hours(job.load_rows.get(name="lights"), [20, 6, 6], who)
    assert bridge.load_of(LoadRow.objects.get(pk=row.pk)).hours == (6, 20)
    with pytest.raises(MusterError, match="hours"):
        roll.paint_hours(row, [24], who)


def test_a_source_archived_keeps_its_sessions(ladder: SessionRow, who: AbstractUser) -> None:
    sources.archive_source(ladder.source, who)
    assert SessionRow.objects.filter(pk=ladder.pk).exists()
    assert sources.restore_source(ladder.source, who).archived_at is None


# Sessions


def test_a_session_does_not_start_while_a_check_is_shut(source: SourceRow, who: AbstractUser) -> None:
    with pytest.raises(Refused, match=r"safety checks have not passed. mains isolated: not confirmed today; to pass"):
        sessions.start_session(source, "ladder", Conditions(), who, confirmed=())


def test_a_protocol_that_is_not_one_says_which_are(source: SourceRow, who: AbstractUser) -> None:
    with pytest.raises(MusterError, match="Ladder"):
        sessions.plan_steps(source, "seance", who)


def test_a_changed_plan_is_what_a_session_runs_and_is_undone(source: SourceRow, who: AbstractUser) -> None:
    own = sessions.plan_steps(source, "ladder", who)
    sources.change_plan(source, "ladder", Changes(left_out=(own[1].label,)), who)
    source.refresh_from_db()
    row = sessions.start_session(source, "ladder", Conditions(), who, confirmed=KNOWN)
    assert [step.label for step in bridge.session_data(row).steps] == [own[0].label, *(s.label for s in own[2:])]
    job_copy = jobs.read_in(jobs.write_out(source.job), who)
    assert bridge.changes_of(job_copy.source_rows.get(), "ladder").left_out == (own[1].label,)
    change = next(c for c in source.job.change_rows.all() if c.label.startswith("plan of"))
    history.undo_change(change)
    source.refresh_from_db()
    assert sessions.plan_steps(source, "ladder", who) == own
    with pytest.raises(MusterError):
        sources.change_plan(source, "seance", Changes(), who)


def test_an_undone_entry_stays_in_the_record_and_no_longer_counts(ladder: SessionRow, who: AbstractUser) -> None:
    sessions.log_line(ladder, "230v 950w", who)
    sessions.undo(ladder, who)
    assert ladder.entry_rows.filter(raw="230v 950w").count() == 1
    assert len(bridge.session_of(ladder).effective) == 1


def test_undo_goes_back_entry_by_entry_and_stops_at_the_gates(ladder: SessionRow, who: AbstractUser) -> None:
    for line in ("1v", "2v"):
        sessions.log_line(ladder, line, who)
    assert sessions.undo(ladder, who).supersedes.raw == "2v"  # type: ignore[union-attr]
    assert sessions.undo(ladder, who).supersedes.raw == "1v"  # type: ignore[union-attr]
    assert sessions.undo(ladder, who) is None


def test_a_correction_supersedes_at_the_same_moment_and_keeps_the_original(
    ladder: SessionRow, who: AbstractUser
) -> None:
    wrong = sessions.log_line(ladder, "230v 95w", who)
    right = sessions.correct(wrong, "230v 950w", who)
    assert right.at == wrong.at
    assert ladder.entry_rows.get(pk=wrong.pk).raw == "230v 95w"
    assert [e.raw for e in bridge.session_of(ladder).effective][1:] == ["230v 950w"]
    with pytest.raises(Refused):
        sessions.correct(ladder.entry_rows.get(pk=wrong.pk), "1v", who)


def test_an_entry_may_speak_of_the_past(ladder: SessionRow, who: AbstractUser) -> None:
    ladder.started_at -= timedelta(hours=1)
    ladder.save()
    row = sessions.log_line(ladder, "10m ago: 230v", who)
    assert timedelta(minutes=9) < row.logged_at - row.at < timedelta(minutes=11)


def test_a_clock_time_later_than_now_was_yesterday() -> None:
    now = timezone.now().replace(hour=12, minute=0)

    def at(hour: int, minute: int) -> datetime:
        began = now - timedelta(minutes=5)
        return moment_of(
            When(clock=(hour, minute, 0)), spoken=now, began=began, last=began, zone="UTC", written_up=False
        )

    assert at(11, 30) < now
    assert at(13, 0).day != now.day


def test_nothing_typed_is_not_an_entry(ladder: SessionRow, who: AbstractUser) -> None:
    with pytest.raises(MusterError, match="nothing"):
        sessions.log_line(ladder, "   ", who)
    with pytest.raises(MusterError, match="nothing"):
        sessions.log_items(ladder, [], "", who)


def test_a_closed_session_is_sealed_and_refuses_change(ladder: SessionRow, who: AbstractUser) -> None:
    entry = sessions.log_line(ladder, "230v", who)
    sessions.close_session(ladder)
    assert ladder.sha256.startswith("2:")
    assert sessions.seal_holds(ladder)
    for change in (
        lambda: sessions.log_line(ladder, "1v", who),
        lambda: sessions.log_items(ladder, [Switch("1", on=True)], "+1", who),
        lambda: sessions.undo(ladder, who),
        lambda: sessions.correct(entry, "2v", who),
        lambda: sessions.close_session(ladder),
    ):
        with pytest.raises(Refused):
            change()


def test_the_seal_breaks_when_a_reading_is_changed(ladder: SessionRow, who: AbstractUser) -> None:
    entry = sessions.log_line(ladder, "230v", who)
    sessions.close_session(ladder)
    entry.raw = "240v"
    entry.save()
    assert not sessions.seal_holds(ladder)


# Judging


def test_a_demand_is_simulated_once_and_made_anew_when_the_home_changes(job: Job, who: AbstractUser) -> None:
    home = bridge.home_of(job)
    home = replace(home, brief=replace(home.brief, outage_h=4.7))  # no other test's: what was read lately is in memory
    first = judging.demand_of(home.loads, home.brief)
    assert judging.demand_of(home.loads, home.brief) == first
    judging.demand_of(home.loads, replace(home.brief, noise_day_dba=55))
    assert ResultRow.objects.count() == 1
    roll.add_line(job, "kettle", who)
    judging.demand_of(bridge.loads_of(job), home.brief)
    assert ResultRow.objects.count() == 2


def test_a_tier_takes_in_those_above_it(job: Job, who: AbstractUser) -> None:
    roll.add_line(job, "kettle could", who)
    home = bridge.home_of(job)
    assert len(home.within(Tier.MUST)) == 3
    assert len(home.within(Tier.COULD)) == 4


def test_the_ferry_house_falls_short_on_its_pump_and_says_so(demo: Job) -> None:
    verdict = playing.verdict_on(demo.source_rows.get())
    assert "borehole pump" in verdict.headline
    assert verdict.status.value == "falls_short"
    assert all(row.closed_at and row.sha256 for row in SessionRow.objects.all())


# The job file


def test_a_job_file_read_back_is_the_same_job(demo: Job) -> None:
    file = jobs.write_out(demo)
    assert read_package(write_package(file)) == file


def test_a_job_imported_again_is_the_same_with_its_seals_its_corrections_and_its_names(
    ladder: SessionRow, who: AbstractUser
) -> None:
    people.name_account(who, "Ada")
    wrong = sessions.log_line(ladder, "230v 95w", who)
    sessions.correct(wrong, "230v 950w", who)
    sessions.log_line(ladder, "!dip", who)
    sessions.undo(ladder, who)
    sessions.close_session(ladder)
    people.name_account(who, "Somebody Else")
    file = jobs.write_out(ladder.source.job)
    again = jobs.read_in(read_package(write_package(file)), who)
    assert jobs.write_out(again) == file
    kept = SessionRow.objects.get(source__job=again)
    assert kept.sha256 == ladder.sha256
    assert [entry.by for entry in kept.entry_rows.all()][-1] == "Ada"


def test_a_sealed_session_that_was_touched_is_refused_and_nothing_of_the_job_is_made(
    demo: Job, who: AbstractUser
) -> None:
    package = jobs.write_out(demo)
    touched = load(JobFile, json.loads(json.dumps(dump(package.job)).replace("both breakers up", "one breaker down")))
    with pytest.raises(MusterError, match="changed after it was sealed"):
        jobs.read_in(replace(package, job=touched), who)
    assert Job.objects.count() == 1


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda data: data["loads"][3].update(run_w=-40), r"^loads\[3\]\.run_w: must be above 0, got -40$"),
        (lambda data: data["loads"][1].update(key="1"), r"loads.*twice"),
        (lambda data: data["loads"][1].pop("name"), r"loads\[1\]\.name: field required"),
        (lambda data: data["sources"][0]["sessions"][0].update(started_at="noon"), r"started_at"),
        (lambda data: data["sources"][0]["sessions"][0]["session"]["entries"][3].update(supersedes=9), r"voids"),
        (lambda data: data["sources"][0]["sessions"][0]["session"]["entries"][3].update(seq=1), r"seq"),
        (lambda data: data["loads"][0].update(leg="9"), r"loads\[0\]\.leg"),
        (lambda data: data.update(version=99), "version"),
        (lambda data: data["brief"].pop("outage_h") and data["brief"].update(outage_h="long"), "outage_h"),
    ],
)
def test_a_bad_job_file_says_where_and_why(demo: Job, change: object, says: str) -> None:
    data = write_job(jobs.write_out(demo).job)
    change(data)  # type: ignore[operator]
    with pytest.raises(MusterError, match=says):
        read_job(data)


def test_values_survive_their_json(demo: Job) -> None:
    brief = bridge.brief_of(demo)
    assert load(Brief, dump(brief)) == brief
    assert brief.system == SYSTEMS["split-120-240-60"]


def test_a_session_read_on_is_the_session_read_whole(ladder: SessionRow, who: AbstractUser) -> None:
    """Logged, undone, corrected, put back and moved in time: what was kept of it is never out of date."""
    first = sessions.log_line(ladder, "231v 990w", who)
    assert bridge.session_of(ladder) == bridge.session_whole(ladder)
    assert bridge.session_of(ladder) is bridge.session_of(ladder), "nothing was added"
    sessions.log_line(ladder, "230v 1010w", who)
    assert bridge.session_of(ladder) == bridge.session_whole(ladder)
    sessions.undo(ladder, who)
    assert bridge.session_of(ladder) == bridge.session_whole(ladder)
    sessions.correct(first, "232v 995w", who)
    assert bridge.session_of(ladder) == bridge.session_whole(ladder)
    ladder.started_at -= timedelta(days=1)
    ladder.save()
    assert bridge.session_of(ladder) == bridge.session_whole(ladder)


def test_what_was_rolled_back_is_not_kept(ladder: SessionRow, who: AbstractUser) -> None:
    sessions.log_line(ladder, "231v", who)
    before = bridge.session_of(ladder)
    kept = transaction.savepoint()
    sessions.log_line(ladder, "999v", who)
    assert bridge.session_of(ladder).entries[-1].raw == "999v"
    transaction.savepoint_rollback(kept)
    assert bridge.session_of(ladder) == before
    sessions.log_line(ladder, "229v", who)
    assert bridge.session_of(ladder).entries[-1].raw == "229v"


@pytest.mark.django_db
def test_saved_characters_go_with_the_job_and_can_be_laid_beside_it_again(who: AbstractUser) -> None:
    job = jobs.create_job("a job", Brief(system=SYSTEMS["single-230-50"]), who)
    source = sources.add_source(job, Source("set", SourceKind.OPEN_FRAME, Claims(3000)), who)
    row = sessions.start_session(source, "ladder", Conditions(), who, confirmed=(), written_up=True)
    for line in ("0w 236v 52hz", "1kw 231v 51hz", "2kw 226v 50hz"):
        sessions.log_line(row, line, who)
    kept = characters.set_down(source, judging.character_now(source), "before the new governor", who)
    again = jobs.read_in(jobs.write_out(job), who)
    (back,) = characters.live_characters(again.source_rows.get())
    assert (back.note, back.created_at) == (kept.note, kept.created_at)
    assert characters.character_of_row(back) == characters.character_of_row(kept)
    assert back.pk != kept.pk


@pytest.mark.django_db
def test_a_character_is_kept_while_nothing_of_it_changed(who: AbstractUser) -> None:
    job = jobs.create_job("a job", Brief(system=SYSTEMS["single-230-50"]), who)
    source = sources.add_source(job, Source("set", SourceKind.OPEN_FRAME, Claims(3000)), who)
    row = sessions.start_session(source, "ladder", Conditions(), who, confirmed=(), written_up=True)
    for line in ("0w 236v 52hz", "1kw 231v 51hz"):
        sessions.log_line(row, line, who)
    first = judging.character_now(source)
    assert judging.character_now(source) is first
    sessions.log_line(row, "2kw 226v 50hz", who)
    assert judging.character_now(source) is not first
