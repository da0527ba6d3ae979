"""Files of before open and verify for ever; what is exported comes back equal, at any rate of logging."""

from __future__ import annotations

import gzip
import shutil
import subprocess
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from django.contrib.auth.models import AbstractUser
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.sessions import Place
from muster.core.timeline.traces import Channel, Trace
from muster.demo import files as demo_files
from muster.formats.digests import SampleDigest, digest_of_samples, is_true
from muster.formats.jobzip import JobPackage, read_package
from muster.formats.jobzip_out import write_package
from muster.formats.seals import form_of, seal_of
from muster.records.actions import jobs
from muster.records.actions import sessions as session_actions
from muster.records.actions.traces import BlockWriter, read_trace, stage
from muster.records.models import BEING_RECORDED, LiveRow, SessionRow, TraceRow
from muster.records.recording.recorder import _live
from tests.examples import examples

FILES = Path(__file__).parents[1] / "reference" / "files"
CHANNELS = (Channel("v", Place.LEG1), Channel("w", Place.TOTAL))
by_file = pytest.mark.parametrize("name", sorted(path.name for path in FILES.glob("*.muster.*")))


def opened(name: str) -> JobPackage:
    return read_package((FILES / name).read_bytes())


@by_file
def test_a_file_of_before_comes_in_verified_and_goes_out_equal(who: AbstractUser, name: str) -> None:
    package = opened(name)
    job = jobs.read_in(package, who)
    assert not TraceRow.objects.filter(unchecked=True).exists()
    assert all(session_actions.seal_holds(row) for row in SessionRow.objects.exclude(sha256=""))
    assert jobs.write_out(job) == package


@pytest.mark.parametrize("name", ["sealed-1.muster.zip", "sealed-2.muster.zip"])
def test_a_changed_entry_breaks_a_seal_of_any_form(who: AbstractUser, name: str) -> None:
    package = opened(name)
    source = package.job.sources[0]
    kept = source.sessions[0]
    first = kept.session.entries[2]
    entries = tuple(replace(e, t_s=e.t_s + 60) if e is first else e for e in kept.session.entries)
    spoilt = replace(kept, session=replace(kept.session, entries=entries))
    job = replace(package.job, sources=(replace(source, sessions=(spoilt, *source.sessions[1:])),))
    with pytest.raises(MusterError, match="changed after it was sealed"):
        jobs.read_in(replace(package, job=job), who)


def test_a_seal_of_form_2_holds_when_it_was_closed() -> None:
    kept = opened("sealed-2.muster.zip").job.sources[0].sessions[0]
    assert seal_of(kept) == kept.sha256
    assert seal_of(replace(kept, closed_at="2026-11-28T00:00:00+00:00")) != kept.sha256


def test_a_seal_of_a_later_form_is_told() -> None:
    with pytest.raises(MusterError, match="a seal that this Muster knows"):
        form_of("3:" + "0" * 64)


def test_changed_samples_of_form_2_are_refused(who: AbstractUser) -> None:
    package = opened("sealed-2.muster.zip")
    name, trace = next(iter(package.traces.items()))
    spoilt = replace(trace, values=trace.values + np.float32(1))
    with pytest.raises(MusterError, match="changed after it was recorded"):
        jobs.read_in(replace(package, traces={**package.traces, name: spoilt}), who)


def test_a_digest_of_form_1_that_cannot_be_checked_is_said_and_keeps_its_seal(who: AbstractUser) -> None:
    package = opened("sealed-1.muster.zip")
    name, trace = next(iter(package.traces.items()))
    shifted = replace(trace, t_s=trace.t_s + 1e-3 * np.sin(np.arange(trace.t_s.size)))
    job = jobs.read_in(replace(package, traces={**package.traces, name: shifted}), who)
    assert TraceRow.objects.filter(session__source__job=job, unchecked=True).count() == 1
    assert all(session_actions.seal_holds(row) for row in SessionRow.objects.exclude(sha256=""))


def test_a_database_of_before_is_brought_up_to_date_and_its_seals_hold(tmp_path: Path) -> None:
    with gzip.open(FILES / "sealed-1.sqlite3.gz") as old, (tmp_path / "muster.sqlite3").open("wb") as new:
        shutil.copyfileobj(old, new)
    out = tmp_path / "out.muster.zip"
    command = [sys.executable, "-m", "muster", "export", "1", str(out), "--data", str(tmp_path)]
    ran = subprocess.run(command, capture_output=True, text=True, check=False)
    assert ran.returncode == 0, ran.stderr
    assert read_package(out.read_bytes()) == opened("sealed-1.muster.zip")


@st.composite
def logs(draw: st.DrawFn) -> Trace:
    """A log at any rate from 0.1 to 50 Hz, beginning anywhere, its steps a little uneven."""
    rate, count = draw(st.floats(0.1, 50)), draw(st.integers(2, 700))
    rng = np.random.default_rng(draw(st.integers(0, 2**32 - 1)))
    steps = rng.uniform(0.7, 1.3, count) / rate
    steps[rng.integers(0, count)] *= draw(st.sampled_from([1, 1, 500]))
    values = rng.normal(230, 40, (2, count)).astype(np.float32)
    values[rng.uniform(size=values.shape) < 0.02] = np.nan
    return Trace("log", "meter", CHANNELS, draw(st.floats(-3600, 1e7)) + np.cumsum(steps), values)


quickly = settings(
    max_examples=examples(40), suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow]
)


@quickly
@given(logs(), st.integers(1, 400), st.none() | st.floats(0.02, 10))
def test_a_log_goes_out_and_comes_back_equal_however_it_was_kept(
    who: AbstractUser, ladder: SessionRow, log: Trace, chunk: int, step_s: float | None
) -> None:
    row = stage(ladder, "log", "meter", log.channels, who)
    writer = BlockWriter(row, step_s)
    for first in range(0, log.t_s.size, chunk):
        writer.take(log.t_s[first : first + chunk], log.values[:, first : first + chunk])
    writer.finish()
    assert read_trace(row) == log
    assert row.sha256 == digest_of_samples(log.channels, log.t_s, log.values)
    package = read_package(write_package(jobs.write_out(ladder.source.job)))
    again = jobs.read_in(package, who)
    assert jobs.write_out(again) == package == jobs.write_out(ladder.source.job)
    TraceRow.objects.all().delete()
    again.delete()


@given(logs(), st.integers(1, 300))
def test_a_digest_hangs_on_the_samples_alone(log: Trace, chunk: int) -> None:
    piecemeal = SampleDigest([channel.heading for channel in log.channels])
    for first in range(0, log.t_s.size, chunk):
        piecemeal.take(log.t_s[first : first + chunk], log.values[:, first : first + chunk])
    assert is_true(piecemeal.text(), log)
    other_nan = np.frombuffer(
        np.where(np.isnan(log.values), np.uint32(0xFFC00001), log.values.view(np.uint32)).tobytes(), np.float32
    )
    assert is_true(piecemeal.text(), replace(log, values=other_nan.reshape(log.values.shape)))
    assert not is_true(piecemeal.text(), replace(log, t_s=log.t_s + 1e-3))


def test_a_recording_that_goes_on_is_saved_up_to_its_last_whole_second(who: AbstractUser, ladder: SessionRow) -> None:
    row = stage(ladder, "clamp, recorded", "clamp", CHANNELS, who)
    row.notes = [BEING_RECORDED]
    row.save()
    times = np.array([1.0, 1.5, 2.0, 2.5, 3.0, 3.4])
    _live(row, times, np.ones((2, 6), dtype=np.float32))
    package = jobs.write_out(ladder.source.job)
    (record,) = package.job.traces
    assert package.traces[record.file].t_s.tolist() == [1.0, 1.5, 2.0, 2.5, 3.0]
    assert record.notes == ("recorded up to 3 s after the session began; the recording was going on",)
    assert jobs.write_out(jobs.read_in(package, who)) == package
    assert LiveRow.objects.filter(trace=row).exists()


def test_nothing_recorded_yet_is_left_out(who: AbstractUser, ladder: SessionRow) -> None:
    row = stage(ladder, "clamp, recorded", "clamp", CHANNELS, who)
    row.notes = [BEING_RECORDED]
    row.save()
    assert jobs.write_out(ladder.source.job).job.traces == ()


@pytest.mark.parametrize(
    "path", [path for path in demo_files() if not path.name.endswith(".txt")], ids=lambda path: path.name
)
def test_a_demo_job_carries_digests_and_seals_and_comes_back_equal(who: AbstractUser, path: Path) -> None:
    package = read_package(path.read_bytes())
    kept = [session for source in package.job.sources for session in source.sessions]
    assert all(session.sha256 for session in kept if session.closed_at)
    assert all(one.sha256 for session in kept for one in (*session.traces, *session.captures))
    out = jobs.write_out(jobs.read_in(package, who))  # files are named by where they stand, from here on
    assert jobs.write_out(jobs.read_in(out, who)) == out
