"""A recording at work: it reads, follows the record with the outlets, runs the plan, and survives."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import numpy as np
import pytest
from django.contrib.auth.models import AbstractUser
from django.db import connection
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from muster.core.errors import MusterError, Refused
from muster.core.plan.run import Pace, StopAt
from muster.core.safety.checks import KNOWN
from muster.core.sessions import Conditions, Note, Step, Switch
from muster.formats.codec import dump
from muster.instruments.standins import Rig, StandIns, serve
from muster.instruments.standins.servers import HOST
from muster.records import bridge
from muster.records.actions import demo as demo_actions
from muster.records.actions import recordings, sessions
from muster.records.actions.captures import capture_of, live_captures
from muster.records.actions.traces import live_traces, look, read_trace, span_of
from muster.records.models import InstrumentRow, Job, RecordingRow, SessionRow, StripRow
from muster.records.recording import alive
from muster.records.recording.recorder import SteadyClock
from muster.records.recording.supervisor import STRIP, Supervisor
from muster.twin.from_job import bench_of
from tests.records.disk import full_disk

pytestmark = pytest.mark.django_db(transaction=True)
MOST_BEATS = 100_000
STEPS = (Step("no load", target_w=0, hold_s=1), Step("lights", ("6",), hold_s=1), Step("kettle", ("6", "9"), hold_s=1))


@pytest.fixture
def rig(demo: Job) -> Rig:
    """The demo's Ferry House on the bench twin, by the real clock."""
    return Rig(bench_of(bridge.home_of(demo), bridge.source_of(demo.source_rows.get())))


@pytest.fixture
def standins(rig: Rig) -> Iterator[StandIns]:
    running = serve(rig)
    yield running
    running.stop()


@pytest.fixture
def session(demo: Job, who: AbstractUser) -> SessionRow:
    """A ladder of three short steps on the demo's open-frame set."""
    row = sessions.start_session(demo.source_rows.get(), "ladder", Conditions(), who, confirmed=KNOWN)
    row.data = {**row.data, "steps": [dump(step) for step in STEPS]}
    row.save()
    return row


def begun(session: SessionRow, standins: StandIns, who: AbstractUser) -> RecordingRow:
    """A recording of it with the meter, the recorder and every load on the strip, as the page asks for it."""
    demo_actions.link_standins(standins.ports, who)
    strip = StripRow.objects.get()
    keys = list(bridge.home_of(session.source.job).by_key)
    instruments = InstrumentRow.objects.filter(slug__in=("meter", "recorder"))
    return recordings.begin(
        session, list(instruments), who, strip=strip, outlets={key: i for i, key in enumerate(keys)}
    )


@pytest.fixture
def recording(session: SessionRow, standins: StandIns, who: AbstractUser) -> RecordingRow:
    return begun(session, standins, who)


@pytest.fixture
def at_work(recording: RecordingRow) -> Iterator[Supervisor]:
    work = Supervisor(recording, silent_s=lambda: 0.0)
    work.recorder.start()
    work.poll()
    yield work
    if recording.state != RecordingRow.State.ENDED:
        work._let_go()
        work.finish()


def until(work: Supervisor, true: Callable[[], bool]) -> None:
    """Beat until something is so; a beat takes as long as its work, and so many of them are more than enough."""
    for _ in range(MOST_BEATS):
        if true():
            return
        work.poll()
    raise AssertionError("it never came")


def by_the_page(change: Callable[..., object], *args: object) -> None:
    """Make a change as the web does: over a connection that is not the recorder's."""

    def do() -> None:
        try:
            change(*args)
        finally:
            connection.close()

    with ThreadPoolExecutor(1) as page:
        page.submit(do).result()


def raws(session: SessionRow) -> list[str]:
    return list(session.entry_rows.order_by("seq").values_list("raw", flat=True))


def test_what_is_logged_on_is_switched_on_at_its_outlet_and_seen_by_the_instruments(
    at_work: Supervisor, session: SessionRow, rig: Rig, who: AbstractUser
) -> None:
    until(at_work, lambda: len(at_work.recorder.latest) == 2)
    by_the_page(sessions.log_items, session, [Switch("9", on=True)], "+9", who)
    until(at_work, lambda: rig.is_on("9"))
    assert set(at_work._instruments().values()) == {"meter"}, "a reading is from the first that reads it"
    by_the_page(sessions.undo, session, who)
    until(at_work, lambda: not rig.is_on("9"))
    at_work._let_go()
    at_work.finish()
    traces = {row.instrument: read_trace(row) for row in live_traces(session)}
    assert set(traces) == {"meter", "recorder"}
    assert np.nanmedian(traces["meter"].values[0]) == pytest.approx(120, rel=0.06)


def test_an_undo_may_switch_off_but_never_on(
    at_work: Supervisor, session: SessionRow, rig: Rig, who: AbstractUser
) -> None:
    by_the_page(sessions.log_items, session, [Switch("9", on=True)], "+9", who)
    until(at_work, lambda: rig.is_on("9"))
    by_the_page(sessions.log_items, session, [Switch("9", on=False)], "-9", who)
    until(at_work, lambda: not rig.is_on("9"))
    by_the_page(sessions.undo, session, who)
    until(at_work, lambda: "stays off: switch it on to have it on" in raws(session))
    assert not rig.is_on("9")
    assert "9" not in at_work._on


def test_what_was_on_before_the_recording_is_not_switched_on_by_it(
    session: SessionRow, standins: StandIns, rig: Rig, who: AbstractUser
) -> None:
    sessions.log_items(session, [Switch("9", on=True)], "+9", who)
    work = Supervisor(begun(session, standins, who), silent_s=lambda: 0.0)
    work.recorder.start()
    until(work, lambda: "stays off: switch it on to have it on" in raws(session))
    assert not rig.is_on("9")
    work._let_go()
    work.finish()


def test_what_is_logged_on_before_the_recorder_is_up_is_switched_on_all_the_same(
    recording: RecordingRow, session: SessionRow, rig: Rig, who: AbstractUser
) -> None:
    sessions.log_items(session, [Switch("9", on=True)], "+9", who)
    work = Supervisor(recording, silent_s=lambda: 0.0)
    work.recorder.start()
    until(work, lambda: rig.is_on("9"))
    assert "stays off: switch it on to have it on" not in raws(session)
    work._let_go()
    work.finish()


def test_loads_that_the_strip_dropped_while_the_recorder_was_held_up_are_off_by_the_record_too(
    at_work: Supervisor, session: SessionRow, rig: Rig, who: AbstractUser
) -> None:
    by_the_page(sessions.log_items, session, [Switch("9", on=True)], "+9", who)
    until(at_work, lambda: rig.is_on("9"))
    rig.switch("9", on=False)
    at_work._renewed -= 60
    at_work.poll()
    assert not rig.is_on("9"), "it never comes on again by itself"
    assert switched_off(session, "all off: the strip’s watchdog dropped them") == ["9"]
    by_the_page(sessions.log_items, session, [Switch("9", on=True)], "+9", who)
    until(at_work, lambda: rig.is_on("9"))


def test_a_full_disk_switches_everything_off(
    at_work: Supervisor, recording: RecordingRow, session: SessionRow, rig: Rig, who: AbstractUser
) -> None:
    by_the_page(sessions.log_items, session, [Switch("9", on=True)], "+9", who)
    until(at_work, lambda: rig.is_on("9"))
    with full_disk():
        with pytest.raises(MusterError, match="full"):
            until(at_work, lambda: False)
        at_work._let_go()
    assert not rig.is_on("9")


def test_a_start_is_captured_with_the_seconds_before_and_after(
    at_work: Supervisor, session: SessionRow, who: AbstractUser
) -> None:
    row = session.trace_rows.filter(staged=True, instrument="meter")
    until(at_work, lambda: row.exists() and span_of(row.get())[1] - span_of(row.get())[0] > 1.5)
    by_the_page(sessions.log_items, session, [Switch("4", on=True)], "+4", who)
    until(at_work, lambda: bool(live_captures(session)))
    capture = capture_of(live_captures(session)[0])
    assert capture.why.startswith("start of sump pump")
    assert capture.rate_hz == pytest.approx(5000)
    switched = session.entry_rows.order_by("-seq")[0].at
    at_s = bridge.seconds_since(session.started_at, switched)
    assert capture.t_s < at_s < capture.end_s


def test_the_sheet_is_run_by_itself_and_everything_is_off_at_its_end(
    at_work: Supervisor, recording: RecordingRow, session: SessionRow, rig: Rig
) -> None:
    by_the_page(recordings.run_sheet, recording, StopAt(), Pace(0.2, 0.5, 0.5))
    recording.refresh_from_db()
    with pytest.raises(Refused, match="already"):
        recordings.run_sheet(recording, StopAt(), Pace())
    until(at_work, lambda: (at_work.row.auto or {}).get("state") == "over")
    assert at_work.row.auto["doing"] == "done"
    assert raws(session).count("step done") == len(STEPS)
    # As each step is reached and at its end; on a busy machine the two of so short a hold may be one.
    assert len(STEPS) <= raws(session).count("read by Muster") <= 2 * len(STEPS)
    until(at_work, lambda: not any(rig.is_on(key) for key in rig.keys))
    record = bridge.session_of(session)
    watts = [i.value for e in record.entries for i in e.items if getattr(i, "quantity", "") == "w" and i.place == "1"]
    assert 1480 * 0.6 < max(watts) < (1480 + 90) * 1.1, (
        "the kettle was read, by a meter that may still have been settling"
    )


def test_the_stop_key_switches_everything_off(
    at_work: Supervisor, recording: RecordingRow, session: SessionRow, rig: Rig
) -> None:
    by_the_page(recordings.run_sheet, recording, StopAt(), Pace(0.2, 0.2, 600))
    until(at_work, lambda: rig.is_on("6"))
    by_the_page(recordings.halt, recording)
    until(at_work, lambda: (at_work.row.auto or {}).get("state") == "over")
    assert at_work.row.auto["why"] == "your stop key"
    until(at_work, lambda: not rig.is_on("6"))
    assert "all off" in raws(session)


def test_an_instrument_that_falls_silent_is_told_and_its_silence_noted(
    at_work: Supervisor, recording: RecordingRow, session: SessionRow, standins: StandIns
) -> None:
    until(at_work, lambda: len(at_work.recorder.latest) == 2)
    standins.stop()
    until(at_work, lambda: {"meter", "recorder", STRIP} <= set(at_work.row.gone))
    recording.refresh_from_db()
    assert set(recording.gone) >= {"meter", "recorder"}
    notes = [i.text for e in bridge.session_of(session).entries for i in e.items if isinstance(i, Note)]
    assert any("meter fell silent" in text for text in notes)


def test_a_run_without_its_strip_stops(at_work: Supervisor, recording: RecordingRow, standins: StandIns) -> None:
    by_the_page(recordings.run_sheet, recording, StopAt(), Pace(0.2, 0.2, 600))
    until(at_work, lambda: (at_work.row.auto or {}).get("doing") == "holding")
    standins.stop()
    until(at_work, lambda: (at_work.row.auto or {}).get("state") == "over")
    assert "silent" in at_work.row.auto["why"] or "nothing was heard" in at_work.row.auto["why"]


def test_while_it_records_the_strip_shows_what_is_kept_so_far(at_work: Supervisor, session: SessionRow) -> None:
    until(at_work, lambda: len(at_work.recorder.latest) == 2)
    row = session.trace_rows.filter(staged=True, instrument="meter").get()
    until(at_work, lambda: row.live_rows.count() > 5)
    t0_s, t1_s = span_of(row)
    assert t1_s > t0_s
    seen = look(row, t0_s, t1_s, 10)
    assert np.nanmax(seen.high[0]) == pytest.approx(120, rel=0.06)


def test_an_instrument_not_yet_there_is_waited_for(session: SessionRow, standins: StandIns, who: AbstractUser) -> None:
    links = {
        "meter": {"speaks": "scpi", "host": HOST, "port": 1},
        "recorder": {"speaks": "scpi", "host": HOST, "port": standins.ports["scpi"]},
    }
    row = RecordingRow.objects.create(session=session, links=links, created_by=who)
    work = Supervisor(row, silent_s=lambda: 0.0)
    work.recorder.start()
    until(work, lambda: "recorder" in work.recorder.latest)
    assert "nothing there" in row.gone["meter"]
    work.finish()
    assert [trace.instrument for trace in live_traces(session)] == ["recorder"]


def test_two_sessions_are_recorded_at_once_each_into_its_own(
    at_work: Supervisor, session: SessionRow, demo: Job, standins: StandIns, who: AbstractUser
) -> None:
    other = sessions.start_session(demo.source_rows.get(), "endurance", Conditions(), who, confirmed=KNOWN)
    links = {"recorder": {"speaks": "scpi", "host": HOST, "port": standins.ports["scpi"]}}
    beside = Supervisor(RecordingRow.objects.create(session=other, links=links, created_by=who), silent_s=lambda: 0.0)
    beside.recorder.start()
    until(at_work, lambda: bool(beside.poll()) and len(at_work.recorder.latest) == 2 and bool(beside.recorder.latest))
    beside.finish()
    at_work._let_go()
    at_work.finish()
    assert [row.instrument for row in live_traces(other)] == ["recorder"]
    assert {row.instrument for row in live_traces(session)} == {"meter", "recorder"}


def test_a_recording_is_set_up_once_and_of_something(
    session: SessionRow, who: AbstractUser, standins: StandIns
) -> None:
    demo_actions.link_standins(standins.ports, who)
    rows = list(InstrumentRow.objects.all())
    with pytest.raises(MusterError, match="no instrument"):
        recordings.begin(session, [row for row in rows if row.link is None], who)
    with pytest.raises(MusterError, match="two loads"):
        recordings.begin(session, rows, who, strip=StripRow.objects.get(), outlets={"1": 0, "2": 0})
    row = recordings.begin(session, rows, who)
    with pytest.raises(Refused, match="already"):
        recordings.begin(session, rows, who)
    with pytest.raises(Refused, match="no outlet strip"):
        recordings.run_sheet(row, StopAt(), Pace())
    with pytest.raises(Refused, match="still at work"):
        recordings.make_whole(row)


def test_what_was_cut_off_is_made_whole_when_muster_starts_anew(
    at_work: Supervisor, recording: RecordingRow, session: SessionRow
) -> None:
    until(at_work, lambda: len(at_work.recorder.latest) == 2)
    assert recordings.make_all_whole() == 0
    RecordingRow.objects.update(polled_at=timezone.now() - timedelta(seconds=60))
    assert recordings.make_all_whole() == 1
    assert recordings.current(session) is None
    assert len(live_traces(session)) == 2


def test_a_recorder_held_up_by_its_disk_is_not_taken_for_dead(recording: RecordingRow) -> None:
    recording.polled_at, recording.pid = timezone.now() - timedelta(seconds=20), os.getpid()
    assert not recordings.cut_off(recording)
    recording.polled_at = timezone.now() - timedelta(seconds=90)
    assert recordings.cut_off(recording)
    recording.polled_at, recording.pid = timezone.now() - timedelta(seconds=20), None
    assert recordings.cut_off(recording)


def test_a_machine_that_slept_says_for_how_long() -> None:
    wall, steady = [1000.0], [5.0]
    clock = SteadyClock(lambda: wall[0], lambda: steady[0])
    assert (clock(), clock.slept()) == (1000.0, 0.0)
    wall[0], steady[0] = 1060.0, 6.0
    assert clock() == 1001.0
    assert clock.slept() == 59.0
    assert (clock(), clock.slept()) == (1060.0, 0.0)
    wall[0] -= 30
    assert clock.slept() == 0.0
    assert clock() == 1060.0


def switched_off(session: SessionRow, raw: str) -> list[str]:
    """The loads that an entry under these words switched off."""
    entries = bridge.session_of(session).entries
    return [i.load for e in entries if e.raw == raw for i in e.items if isinstance(i, Switch) and not i.on]


def test_outlets_go_off_when_nobody_could_press_stop_and_the_record_says_so(
    recording: RecordingRow, session: SessionRow, rig: Rig, who: AbstractUser
) -> None:
    silent = [0.0]
    work = Supervisor(recording, silent_s=lambda: silent[0])
    work.recorder.start()
    work.poll()
    by_the_page(sessions.log_items, session, [Switch("9", on=True)], "+9", who)
    until(work, lambda: rig.is_on("9"))
    silent[0] = 9.5
    work.poll()
    assert rig.is_on("9")
    silent[0] = 10.5
    until(work, lambda: not rig.is_on("9"))
    assert switched_off(session, "all off: Muster’s server was silent") == ["9"]
    silent[0] = 0.0
    until(
        work,
        lambda: any("is back" in getattr(i, "text", "") for e in bridge.session_of(session).entries for i in e.items),
    )
    work.poll()
    assert not rig.is_on("9"), "nothing is ever switched back on by itself"
    work._let_go()
    work.finish()


def test_a_plan_run_by_itself_stops_when_the_server_is_silent(
    recording: RecordingRow, session: SessionRow, rig: Rig
) -> None:
    silent = [0.0]
    work = Supervisor(recording, silent_s=lambda: silent[0])
    work.recorder.start()
    work.poll()
    by_the_page(recordings.run_sheet, recording, StopAt(), Pace(0.2, 0.2, 600))
    until(work, lambda: rig.is_on("6"))
    silent[0] = 11.0
    until(work, lambda: (work.row.auto or {}).get("state") == "over")
    assert work.row.auto["why"] == "Muster’s server was silent"
    until(work, lambda: not any(rig.is_on(key) for key in rig.keys))
    work._let_go()
    work.finish()


def test_a_run_meant_to_go_on_unattended_does_for_the_hours_that_were_said(
    recording: RecordingRow, session: SessionRow, rig: Rig, who: AbstractUser
) -> None:
    RecordingRow.objects.update(unattended_h=8.0)
    recording.refresh_from_db()
    work = Supervisor(recording, silent_s=lambda: 3600.0)
    work.recorder.start()
    work.poll()
    by_the_page(sessions.log_items, session, [Switch("9", on=True)], "+9", who)
    until(work, lambda: rig.is_on("9"))
    work.row.created_at -= timedelta(hours=8)
    until(work, lambda: not rig.is_on("9"))
    work._let_go()
    work.finish()


def test_loads_of_a_recorder_that_died_are_off_by_the_record_from_when_the_watchdog_let_go(
    at_work: Supervisor, recording: RecordingRow, session: SessionRow, rig: Rig, who: AbstractUser
) -> None:
    by_the_page(sessions.log_items, session, [Switch("9", on=True)], "+9", who)
    until(at_work, lambda: rig.is_on("9"))
    died = timezone.now() - timedelta(seconds=60)
    RecordingRow.objects.update(polled_at=died, auto={"state": "running", "doing": "holding", "step": 2, "of": 3})
    recordings.make_whole(RecordingRow.objects.get())
    raw = "all off: the recorder died, the strip’s watchdog dropped them"
    assert switched_off(session, raw) == ["9"]
    at = session.entry_rows.get(raw=raw).at
    assert at - died == timedelta(seconds=recordings.WATCHDOG_S)
    row = RecordingRow.objects.get()
    assert (row.state, row.auto["state"], row.auto["why"]) == ("failed", "over", "the recorder died")
    recording.refresh_from_db()


def test_a_recording_that_failed_says_why_and_is_left_by_one_button(
    session: SessionRow, who: AbstractUser, client: Client
) -> None:
    links = {"meter": {"speaks": "scpi", "host": HOST, "port": 1}}
    RecordingRow.objects.create(
        session=session, links=links, created_by=who, state="failed", message="the disk is full"
    )
    page = reverse("session", args=[session.source.job_id, session.pk])
    told = client.get(page).content.decode()
    assert "The disk is full." in told
    assert "Record again" in told
    client.post(reverse("session-again", args=[session.source.job_id, session.pk]))
    assert "The recording ended" not in client.get(page).content.decode()
    assert recordings.current(session) is None


def test_a_server_that_beats_is_never_found_silent_however_often_one_looks() -> None:
    stop = threading.Event()

    def beat() -> None:
        while not stop.is_set():
            alive.poll()

    alive.poll()
    beating = threading.Thread(target=beat)
    beating.start()
    try:
        assert max(alive.silent_s() for _ in range(20_000)) < alive.SILENT_S
    finally:
        stop.set()
        beating.join()
