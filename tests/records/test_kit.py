"""The kit at hand: each session is read with the kit it has, and sealed with the one it had."""

from __future__ import annotations

from dataclasses import replace

import pytest
from django.contrib.auth.models import AbstractUser

from muster.core.errors import MusterError
from muster.core.kit import USUAL_KIT, Instrument, Measure
from muster.core.safety.checks import KNOWN
from muster.core.sessions import Conditions, Reading
from muster.records import bridge
from muster.records.actions import kit, sessions
from muster.records.models import InstrumentRow, SessionRow, SourceRow

LOGGER = Instrument("logger", "loft logger", (Measure("v", 0, 300, 0.5), Measure("w", 0, 9000, 1.0)), 10.0, 10.0)


def test_the_kit_begins_as_the_usual_one(who: AbstractUser) -> None:
    assert kit.kit_at_hand(who) == USUAL_KIT


def test_a_reading_falls_to_the_first_that_reads_it(source: SourceRow, who: AbstractUser) -> None:
    row = kit.add_instrument(LOGGER, who)
    for _ in USUAL_KIT:
        kit.move_up(InstrumentRow.objects.get(pk=row.pk), who)
    session = sessions.start_session(source, "ladder", Conditions(), who, confirmed=KNOWN)
    reading = sessions.understand(session, "230v").items[0]
    assert isinstance(reading, Reading)
    assert reading.instrument == "logger"


def test_an_open_session_takes_over_a_change_and_a_sealed_one_keeps_what_it_was_sealed_with(
    ladder: SessionRow, who: AbstractUser
) -> None:
    meter = kit.kit_rows(who)[0]
    coarse = replace(kit.instrument_of(meter), refresh_s=5.0)
    kit.edit_instrument(meter, coarse, who)
    ladder.refresh_from_db()
    assert bridge.session_data(ladder).kit[0].refresh_s == 5
    sessions.close_session(ladder)
    kit.edit_instrument(meter, replace(coarse, refresh_s=9.0), who)
    ladder.refresh_from_db()
    assert bridge.session_data(ladder).kit[0].refresh_s == 5
    assert sessions.seal_holds(ladder)


def test_an_instrument_taken_out_can_be_put_back_and_the_last_stays(who: AbstractUser) -> None:
    rows = kit.kit_rows(who)
    for row in rows[1:]:
        kit.remove_instrument(row, who)
    with pytest.raises(MusterError, match="last instrument"):
        kit.remove_instrument(rows[0], who)
    kit.put_back_instrument(rows[3], who)
    assert [i.slug for i in kit.kit_at_hand(who)] == [USUAL_KIT[0].slug, USUAL_KIT[3].slug]


def test_two_instruments_may_not_go_by_one_word_and_each_reads_something(who: AbstractUser) -> None:
    with pytest.raises(MusterError, match="already"):
        kit.add_instrument(replace(LOGGER, slug="clamp"), who)
    with pytest.raises(MusterError, match="reads nothing"):
        kit.add_instrument(replace(LOGGER, reads=()), who)
