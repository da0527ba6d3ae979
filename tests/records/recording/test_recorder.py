"""The recorder: what it acknowledged is there, whatever happens to it."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from django.contrib.auth.models import AbstractUser
from django.db import connection
from django.test import Client

from muster.core.errors import MusterError, Refused
from muster.core.safety.checks import KNOWN
from muster.core.sessions import Conditions, Place
from muster.core.timeline.traces import Channel
from muster.formats.digests import is_true
from muster.instruments.driver import Garbled, NoAnswer, NothingThere, Seen
from muster.instruments.modbus import SunSpecDriver
from muster.instruments.standins import StandIns, demo_rig, serve
from muster.records.actions import sessions
from muster.records.actions.imports import forget_unfinished
from muster.records.actions.traces import live_traces, read_trace
from muster.records.models import LiveRow, SessionRow, SourceRow
from muster.records.recording.recorder import Recorder, recording, recover, still_at_work
from tests.records.disk import full_disk

pytestmark = pytest.mark.django_db
VOLTS, HERTZ = Channel("v", Place.LEG1), Channel("hz")


class Scripted:
    """A driver that answers from a list; an error in it is raised."""

    name = "scripted"
    channels = (VOLTS, HERTZ)

    def __init__(self, answers: list[Any]) -> None:
        self.answers, self.closed = answers, False

    def open(self) -> None:
        """Nothing to connect."""

    def read(self) -> tuple[Seen, ...]:
        """The next answer; at the end it is silent."""
        if not self.answers:
            raise NoAnswer("silent", where="script", want="more")
        answer = self.answers.pop(0)
        if isinstance(answer, Exception):
            raise answer
        return tuple(Seen(channel, value) for channel, value in zip(self.channels, answer, strict=False))

    def close(self) -> None:
        """Tripped."""
        self.closed = True


class Clock:
    """A clock that moves a tenth of a second each time it is looked at."""

    def __init__(self, start: float) -> None:
        self.now = start

    def __call__(self) -> float:
        self.now += 0.1
        return self.now


@pytest.fixture
def running(source: SourceRow, who: AbstractUser) -> SessionRow:
    return sessions.start_session(source, "endurance", Conditions(), who, confirmed=KNOWN)


def one_line(recorder: Recorder) -> Any:
    return recorder._lines[0]


def read_all(recorder: Recorder, driver: Scripted) -> None:
    """Let the line read its script without a thread: until it has nothing left."""
    line = one_line(recorder)
    while driver.answers:
        line.stop.clear()
        line.stop.wait = lambda _: line.stop.set() if not driver.answers else None
        line.run()


def test_what_is_flushed_is_there_in_order_with_its_gaps(running: SessionRow, who: AbstractUser) -> None:
    noise = Garbled("noise", where="script", want="sense")
    driver = Scripted([(230.0, 50.0), (229.0,), noise, noise, (228.0, 49.9)])
    recorder = Recorder(running, {"panel": driver}, who, 0.0, Clock(running.started_at.timestamp()))
    read_all(recorder, driver)
    told = recorder.flush()
    assert [one.what for one in told] == ["gone", "back", "kept"]
    assert told[-1].rows == 3
    assert "noise" in told[0].label
    assert recorder.flush() == []
    (row,) = recover(running)
    trace = read_trace(row)
    assert trace.channels == (VOLTS, HERTZ)
    assert trace.values[0].tolist() == [230, 229, 228]
    assert np.isnan(trace.values[1][1])
    assert (np.diff(trace.t_s) > 0).all()
    assert live_traces(running) == [row]
    assert not LiveRow.objects.exists()


def test_a_recording_is_not_forgotten_when_muster_starts_anew(running: SessionRow, who: AbstractUser) -> None:
    driver = Scripted([(230.0, 50.0)])
    recorder = Recorder(running, {"panel": driver}, who, 0.0, Clock(running.started_at.timestamp()))
    read_all(recorder, driver)
    recorder.flush()
    forget_unfinished()
    assert len(recording(running)) == 1
    assert [row.rows for row in recover(running)] == [1]


def test_a_recorder_at_work_is_not_cut_off(running: SessionRow, who: AbstractUser) -> None:
    assert not still_at_work(running, running.started_at.timestamp())
    driver = Scripted([(230.0, 50.0)])
    recorder = Recorder(running, {"panel": driver}, who, 0.0, Clock(running.started_at.timestamp()))
    read_all(recorder, driver)
    recorder.flush()
    assert still_at_work(running, running.started_at.timestamp() + 5)
    assert not still_at_work(running, running.started_at.timestamp() + 60)


def test_a_session_is_not_sealed_over_a_recording(running: SessionRow, who: AbstractUser, plain: Client) -> None:
    driver = Scripted([(230.0, 50.0)])
    recorder = Recorder(running, {"panel": driver}, who, 0.0, Clock(running.started_at.timestamp()))
    read_all(recorder, driver)
    recorder.flush()
    page = plain.get(f"/jobs/{running.source.job_id}/bench/{running.pk}/logs/").content.decode()
    assert "1 time committed" in page
    with pytest.raises(Refused, match="recorded"):
        sessions.close_session(running)
    recover(running)
    assert sessions.close_session(running).sha256


def test_an_instrument_that_never_spoke_leaves_no_trace(running: SessionRow, who: AbstractUser) -> None:
    Recorder(running, {"panel": Scripted([])}, who)
    assert recover(running) == []
    assert recording(running) == []


def test_a_sealed_session_takes_no_recording(running: SessionRow, who: AbstractUser) -> None:
    sessions.close_session(running)
    with pytest.raises(Refused):
        Recorder(running, {"panel": Scripted([])}, who)


def test_a_full_disk_is_said_and_what_was_kept_stays(running: SessionRow, who: AbstractUser) -> None:
    driver = Scripted([(230.0, 50.0)])
    recorder = Recorder(running, {"panel": driver}, who, 0.0, Clock(running.started_at.timestamp()))
    read_all(recorder, driver)
    recorder.flush()
    driver.answers = [(229.0, 50.0)] * 20_000
    read_all(recorder, driver)
    with full_disk(), pytest.raises(MusterError, match="full"):
        recorder.flush()
    assert [row.rows for row in recover(running)] == [1]


# killed


@pytest.fixture(scope="module")
def standins() -> Iterator[StandIns]:
    served = serve(demo_rig())
    yield served
    served.stop()


def record(session: SessionRow, standins: StandIns) -> subprocess.Popen[str]:
    """A recorder in a process of its own, on the tests' database."""
    name = connection.settings_dict["NAME"]
    folder, file = os.path.split(str(name))
    env = {**os.environ, "MUSTER_DATA": folder, "MUSTER_DATABASE": file}
    command = [
        sys.executable,
        "-m",
        "muster",
        "record",
        str(session.pk),
        "--every",
        "0.05",
        "--sunspec",
        f"127.0.0.1:{standins.ports['sunspec']}",
        "--scpi",
        f"127.0.0.1:{standins.ports['scpi']}",
    ]
    return subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, env=env)


@pytest.mark.django_db(transaction=True)
def test_a_recorder_killed_at_any_moment_loses_nothing_it_acknowledged(
    standins: StandIns, source: SourceRow, who: AbstractUser
) -> None:
    """Two instruments at 20 Hz, killed after a random number of acknowledgements, three times over."""
    rng = random.Random(7)
    for _ in range(3):
        session = sessions.start_session(source, "endurance", Conditions(), who, confirmed=KNOWN)
        process = record(session, standins)
        acknowledged = {"sunspec": 0, "scpi": 0}
        assert process.stdout is not None
        for _ in range(rng.randint(2, 5)):
            what, slug, rows = process.stdout.readline().split()
            assert what == "kept"
            acknowledged[slug] += int(rows)
        process.send_signal(signal.SIGKILL)
        process.communicate()
        kept = {row.instrument: row.rows for row in recover(session)}
        for slug, rows in acknowledged.items():
            assert kept.get(slug, 0) >= rows
        assert sum(acknowledged.values()) > 0


@pytest.mark.django_db(transaction=True)
def test_a_recorder_stopped_makes_whole_traces_of_what_the_bench_did(
    standins: StandIns, source: SourceRow, who: AbstractUser
) -> None:
    session = sessions.start_session(source, "endurance", Conditions(), who, confirmed=KNOWN)
    process = record(session, standins)
    assert process.stdout is not None
    for _ in range(4):
        process.stdout.readline()
    process.send_signal(signal.SIGINT)
    rest, errors = process.communicate()
    assert process.returncode == 0, errors
    assert "samples in all" in rest
    traces = {row.instrument: read_trace(row) for row in live_traces(session)}
    assert set(traces) == {"sunspec", "scpi"}
    volts = traces["sunspec"].values[traces["sunspec"].channels.index(VOLTS)]
    assert np.nanmedian(volts) == pytest.approx(120, abs=1)


@pytest.mark.parametrize(
    ("extra", "says"),
    [([], "no instrument named"), (["--scpi", "nowhere"], "HOST:PORT"), (["--scpi", "127.0.0.1:1"], "nothing there")],
)
@pytest.mark.django_db(transaction=True)
def test_a_slip_on_the_command_line_is_one_line(running: SessionRow, extra: list[str], says: str) -> None:
    name = connection.settings_dict["NAME"]
    folder, file = os.path.split(str(name))
    env = {**os.environ, "MUSTER_DATA": folder, "MUSTER_DATABASE": file}
    command = [sys.executable, "-m", "muster", "record", str(running.pk), *extra]
    done = subprocess.run(command, capture_output=True, text=True, env=env, check=False)
    assert done.returncode == 2
    assert says in done.stderr
    assert done.stderr.count("\n") == 1


def test_a_sunspec_instrument_is_a_driver_of_the_recorder(
    standins: StandIns, running: SessionRow, who: AbstractUser
) -> None:
    recorder = Recorder(running, {"sunspec": SunSpecDriver(port=standins.ports["sunspec"])}, who)
    assert recorder.rows["sunspec"].name == "Hask Bench Twin, recorded"
    assert "l1_v" in recorder.rows["sunspec"].channels
    one_line(recorder).driver.close()


def recorded(running: SessionRow, who: AbstractUser, answers: list[Any], began_s: float = 0.0) -> Recorder:
    """A recorder that has read and kept its script, beginning so many seconds after the session."""
    driver = Scripted(answers)
    recorder = Recorder(running, {"panel": driver}, who, 0.1, Clock(running.started_at.timestamp() + began_s))
    read_all(recorder, driver)
    recorder.flush()
    return recorder


def test_an_answer_lost_on_the_way_is_asked_for_again_and_a_wire_with_nothing_on_it_is_told_at_once(
    running: SessionRow, who: AbstractUser
) -> None:
    lost = NoAnswer("no answer", where="script", want="one")
    driver = Scripted([(230.0, 50.0), lost, (229.0, 50.0), lost, (228.0, 49.9)])
    recorder = Recorder(running, {"panel": driver}, who, 0.0, Clock(running.started_at.timestamp()))
    read_all(recorder, driver)
    assert [(told.what, told.rows) for told in recorder.flush()] == [("kept", 3)]
    driver.answers = [NothingThere("nothing there", where="script", want="the instrument on")]
    read_all(recorder, driver)
    assert [told.what for told in recorder.flush()] == ["gone"]


def test_infinity_and_what_no_figure_can_hold_are_gaps(running: SessionRow, who: AbstractUser) -> None:
    recorder = recorded(running, who, [(float("inf"), 50.0), (1e300, float("nan")), (230.0, -float("inf"))])
    assert recorder.latest["panel"] == {VOLTS: 230.0}
    (row,) = recover(running)
    values = read_trace(row).values
    assert np.isnan(values).tolist() == [[True, True, False], [False, True, True]]
    assert not np.isinf(values).any()


def test_an_instrument_that_answers_nonsense_is_told_and_stops_neither_itself_nor_another(
    running: SessionRow, who: AbstractUser
) -> None:
    odd = [
        ZeroDivisionError("by zero"),
        UnicodeDecodeError("ascii", b"x", 0, 1, "odd"),
        OverflowError("too large"),
        (228.0, 50.0),
    ]
    drivers = {"panel": Scripted(odd), "clamp": Scripted([(231.0, 50.0)])}
    recorder = Recorder(running, drivers, who, 0.0, Clock(running.started_at.timestamp()))
    for line, driver in zip(recorder._lines, drivers.values(), strict=True):
        while driver.answers:
            line.stop.clear()
            line.stop.wait = lambda _, line=line, driver=driver: line.stop.set() if not driver.answers else None  # type: ignore[method-assign]
            line.run()
    told = recorder.flush()
    assert [one.what for one in told if one.instrument == "panel"] == ["gone", "back", "kept"]
    assert "its answer cannot be used (UnicodeDecodeError" in told[0].label
    assert {row.instrument: row.rows for row in recover(running)} == {"panel": 1, "clamp": 1}


def test_an_instrument_that_cannot_even_be_opened_is_waited_for(running: SessionRow, who: AbstractUser) -> None:
    class Wild(Scripted):
        def open(self) -> None:
            raise RuntimeError("no such thing")

    recorder = Recorder(running, {"panel": Wild([])}, who, 0.1, patient=True)
    assert [(one.what, "RuntimeError" in one.label) for one in recorder.flush()] == [("gone", True)]


def test_a_recorder_that_died_goes_on_in_the_same_trace_with_its_gap_open(
    running: SessionRow, who: AbstractUser
) -> None:
    recorded(running, who, [(230.0, 50.0)] * 40)
    recorded(running, who, [(228.0, 50.0)] * 40, began_s=60.0)
    (row,) = recover(running)
    trace = read_trace(row)
    assert trace.t_s.size == 80
    assert len(trace.gaps()) == 1
    low, high = trace.gaps()[0]
    assert 40 < high - low < 60
    assert trace.values[0].tolist() == [230.0] * 40 + [228.0] * 40
    assert is_true(row.sha256, trace)


def test_a_recorder_that_died_after_days_goes_on_too(running: SessionRow, who: AbstractUser) -> None:
    for number in range(3):
        recorded(running, who, [(230.0 + number, 50.0)] * 500, began_s=200.0 * number)
    (row,) = recover(running)
    trace = read_trace(row)
    assert trace.t_s.size == 1500
    assert (np.diff(trace.t_s) > 0).all()
    assert sorted(set(trace.values[0].tolist())) == [230.0, 231.0, 232.0]


def test_a_clock_put_back_never_puts_times_back(running: SessionRow, who: AbstractUser) -> None:
    recorded(running, who, [(230.0, 50.0)] * 10, began_s=100.0)
    driver = Scripted([(228.0, 50.0)] * 10)
    recorder = Recorder(running, {"panel": driver}, who, 0.1, Clock(running.started_at.timestamp()))
    read_all(recorder, driver)
    told = [one for one in recorder.flush() if one.what == "clock"]
    assert [one.instrument for one in told] == ["panel"]
    assert float(told[0].label) == pytest.approx(103, abs=4)
    (row,) = recover(running)
    assert (np.diff(read_trace(row).t_s) > 0).all()
    assert read_trace(row).t_s.size == 20
