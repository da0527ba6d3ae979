"""Safety checks in the database: who confirmed, for how long it holds, and what a shut one refuses."""

from __future__ import annotations

from datetime import timedelta
from zoneinfo import ZoneInfo

import pytest
from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.brief import Brief
from muster.core.errors import MusterError, NotEnoughReadings, Refused
from muster.core.safety.checks import HOLDS_H, KNOWN
from muster.core.sessions import Conditions, Entry, Event, Session
from muster.core.sources import Claims, Source, SourceKind
from muster.records import bridge, playing
from muster.records.actions import history, jobs, people, sessions
from muster.records.actions import safety as gates
from muster.records.actions.sources import add_source
from muster.records.models import SessionRow, SourceRow


def test_what_is_seen_to_on_the_day_is_asked_again_and_what_lasts_is_not(source: SourceRow, who: AbstractUser) -> None:
    for slug in ("exhaust", "interlock"):
        gates.confirm_check(source, slug, who)
    assert set(gates.effective(source)) == {"exhaust", "interlock"}
    source.safety_rows.update(at=timezone.now() - timedelta(hours=HOLDS_H, minutes=1))
    assert set(gates.effective(source)) == {"interlock"}


def test_a_confirmation_says_who_and_is_undone_with_the_history(source: SourceRow, who: AbstractUser) -> None:
    people.name_account(who, "Ada")
    row = gates.confirm_check(source, "interlock", who, "seen by the electrician")
    found = {gate.slug: gate for gate in gates.safety_checks_of(source, "ladder", (), who)}
    assert found["interlock"].reason.startswith("confirmed by Ada, ")
    change = history.last_change(source.job)
    assert change is not None
    history.undo_change(change)
    assert gates.effective(source) == {}
    history.redo_change(change)
    assert gates.effective(source)["interlock"] == row


def test_a_refused_start_keeps_neither_session_nor_confirmations(source: SourceRow, who: AbstractUser) -> None:
    with pytest.raises(Refused, match="not passed"):
        sessions.start_session(source, "ladder", Conditions(), who, confirmed=["exhaust", "interlock"])
    assert SessionRow.objects.count() == source.safety_rows.count() == 0


def test_a_computed_check_cannot_be_confirmed_away(source: SourceRow, who: AbstractUser) -> None:
    with pytest.raises(MusterError, match="confirmed by name"):
        gates.confirm_check(source, "meter", who)
    assert "meter" not in KNOWN


def test_the_verdict_rests_on_the_check_of_the_connection_and_they_go_with_the_job_file(
    source: SourceRow, who: AbstractUser
) -> None:
    def line(of: SourceRow) -> str:
        return next(r.status.value for r in playing.verdict_on(of).requirements if r.key == "connection")

    assert line(source) == "not_proven"
    for slug in ("isolation", "interlock", "bonding"):
        gates.confirm_check(source, slug, who)
    assert line(source) == "carries"
    again = jobs.read_in(jobs.write_out(source.job), who).source_rows.get()
    assert line(again) == "carries"
    gates.withdraw_check(gates.effective(source)["bonding"], who)
    assert line(source) == "not_proven"


@pytest.mark.parametrize("zone", ["", "Atlantis/Deep", "../etc/passwd", "Europe"])
def test_a_zone_that_is_none_is_refused_by_the_core(zone: str) -> None:
    with pytest.raises(MusterError, match="zone"):
        Brief(zone=zone)


@pytest.mark.parametrize("make", [lambda: Session("alchemy"), lambda: Entry(1, 1e12, ()), lambda: Entry(0, 0.0, ())])
def test_a_session_that_cannot_be_is_refused_by_the_core(make: object) -> None:
    with pytest.raises(MusterError):
        make()  # type: ignore[operator]


def test_writing_up_is_never_stopped_and_keeps_what_was_not_confirmed(source: SourceRow, who: AbstractUser) -> None:
    row = sessions.start_session(source, "ladder", Conditions(), who, confirmed=["exhaust"], written_up=True)
    (cautions,) = bridge.session_of(row).entries[0].items
    assert isinstance(cautions, Event)
    assert cautions.detail.startswith("not confirmed: ")
    assert "exhaust" not in cautions.detail
    assert "mains isolated" in cautions.detail
    assert source.safety_rows.count() == 0, "a past test confirms nothing for the next"
    assert sessions.undo(row, who) is None, "what was said of the checks is not undone"


def test_writing_up_needs_nothing_to_plan_with(who: AbstractUser) -> None:
    job = jobs.create_job("Mill Cottage", Brief(), who)
    bare = add_source(job, Source("set", SourceKind.OPEN_FRAME, Claims(2000)), who)
    with pytest.raises(NotEnoughReadings):
        sessions.start_session(bare, "starts", Conditions(), who, confirmed=KNOWN)
    row = sessions.start_session(bare, "starts", Conditions(), who, confirmed=(), written_up=True)
    assert bridge.session_of(row).steps == ()


def test_a_write_up_whose_first_line_says_no_time_still_goes_to_its_day(source: SourceRow, who: AbstractUser) -> None:
    """The second line's clock was before the session's beginning, and was lost."""
    row = sessions.start_session(source, "ladder", Conditions(), who, confirmed=(), written_up=True)
    sessions.log_line(row, "no load 230v", who)
    two_hours_ago = (timezone.now() - timedelta(hours=2)).astimezone(ZoneInfo(bridge.brief_of(source.job).zone))
    entry = sessions.log_line(row, f"{two_hours_ago:%H:%M} 229v 900w", who)
    assert f"{entry.at.astimezone(two_hours_ago.tzinfo):%H:%M}" == f"{two_hours_ago:%H:%M}"
    assert entry.at == row.started_at
