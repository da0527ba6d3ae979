"""What is set right after a session was sealed, and what is put back before it is."""

from __future__ import annotations

from dataclasses import replace

import pytest
from django.contrib.auth.models import AbstractUser

from muster.core.errors import MusterError, Refused
from muster.core.sessions import Reading
from muster.formats.seals import before_amendment, holds, seal_of
from muster.records import bridge
from muster.records.actions import amending, jobs, sessions
from muster.records.models import EntryRow, SessionRow


def watts(row: SessionRow) -> list[float]:
    items = (item for entry in bridge.session_of(row).effective for item in entry.items)
    return [item.value for item in items if isinstance(item, Reading) and item.quantity == "w"]


@pytest.fixture
def sealed(ladder: SessionRow, who: AbstractUser) -> SessionRow:
    sessions.log_line(ladder, "118v 1940w", who)
    sessions.log_line(ladder, "118v 1490w", who)
    return sessions.close_session(ladder)


def entry(row: SessionRow, raw: str) -> EntryRow:
    return row.entry_rows.get(raw=raw)


def test_an_amendment_has_its_date_and_reason_and_a_new_seal_over_both(sealed: SessionRow, who: AbstractUser) -> None:
    before = sealed.sha256
    amendment = amending.amend(sealed, "read off wrongly", "118v 1490w", who, entry(sealed, "118v 1940w"))
    assert watts(sealed) == [1490, 1490]
    assert entry(sealed, "118v 1940w").items, "what was sealed stays as it is"
    assert (amendment.reason, amendment.sealed) == ("read off wrongly", before)
    assert sealed.sha256 != before
    assert sessions.seal_holds(sealed)
    record = bridge.record_of(sealed)
    assert seal_of(before_amendment(record, 1)) == before


def test_the_seal_falls_with_the_reason_and_with_what_was_sealed_before(sealed: SessionRow, who: AbstractUser) -> None:
    amending.amend(sealed, "read off wrongly", "118v 1490w", who, entry(sealed, "118v 1940w"))
    amending.amend(sealed, "forgotten", "64 db at 7m", who)
    record = bridge.record_of(sealed)
    assert holds(record)
    other = replace(record.amendments[0], reason="because")
    assert not holds(replace(record, amendments=(other, record.amendments[1])))
    first = record.session.entries[1]
    changed = replace(
        record.session, entries=(record.session.entries[0], replace(first, raw="?"), *record.session.entries[2:])
    )
    assert not holds(replace(record, session=changed))


def test_an_entry_may_be_struck_out_and_a_line_added_in_its_time(sealed: SessionRow, who: AbstractUser) -> None:
    amending.amend(sealed, "another meter", "", who, entry(sealed, "118v 1940w"))
    amending.amend(sealed, "forgotten", "2.2kw", who)
    assert watts(sealed) == [1490, 2200]
    assert sealed.amendment_rows.count() == 2


def test_an_amendment_needs_a_reason_and_a_sealed_session(
    sealed: SessionRow, ladder: SessionRow, who: AbstractUser
) -> None:
    with pytest.raises(MusterError, match="reason"):
        amending.amend(sealed, " ", "2.2kw", who)
    with pytest.raises(MusterError, match="typed"):
        amending.amend(sealed, "why", " ", who)
    amending.amend(sealed, "another meter", "", who, entry(sealed, "118v 1940w"))
    with pytest.raises(Refused, match="counts no longer"):
        amending.amend(sealed, "again", "1kw", who, entry(sealed, "118v 1940w"))
    sealed.closed_at = None
    with pytest.raises(Refused, match="not sealed"):
        amending.amend(sealed, "why", "2.2kw", who)


def test_amendments_go_with_the_job_file_and_still_hold(sealed: SessionRow, who: AbstractUser) -> None:
    amending.amend(sealed, "read off wrongly", "118v 1490w", who, entry(sealed, "118v 1940w"))
    package = jobs.write_out(sealed.source.job)
    again = jobs.read_in(package, who).source_rows.get().session_rows.get()
    assert sessions.seal_holds(again)
    assert watts(again) == [1490, 1490]
    assert [row.reason for row in again.amendment_rows.all()] == ["read off wrongly"]


def test_the_undo_of_an_undo_restores_what_stood(ladder: SessionRow, who: AbstractUser) -> None:
    kept = sessions.log_line(ladder, "118v 950w", who)
    for _ in range(2):  # as often as one likes
        sessions.undo(ladder, who)
        assert watts(ladder) == []
        sessions.put_back(kept, who)
        assert watts(ladder) == [950]
    with pytest.raises(Refused, match="not undone"):
        sessions.put_back(kept, who)


def test_undoing_a_correction_leaves_what_it_corrected(ladder: SessionRow, who: AbstractUser) -> None:
    first = sessions.log_line(ladder, "118v 95w", who)
    second = sessions.correct(first, "118v 950w", who)
    third = sessions.correct(second, "118v 960w", who)
    assert watts(ladder) == [960]
    sessions.undo(ladder, who)
    assert watts(ladder) == [950]
    sessions.put_back(third, who)
    assert watts(ladder) == [960]
