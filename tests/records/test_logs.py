"""Recorded logs in the database: whole or not at all, and the same when they come out."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from django.contrib.auth.models import AbstractUser
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from muster.core.errors import MusterError, Refused
from muster.core.sessions import Place
from muster.core.timeline.traces import Channel, Trace
from muster.core.timeline.traces.view import measure
from muster.formats.jobzip import read_package
from muster.formats.jobzip_out import write_package
from muster.formats.logs.mapping import Backwards, Column, Mapping, TimeForm
from muster.records import judging
from muster.records.actions import imports, jobs, sessions, traces
from muster.records.models import BlockRow, ImportRow, Job, MappingRow, SessionRow, TraceRow
from tests.examples import examples

VOLTS, WATTS = Channel("v", Place.LEG1), Channel("w", Place.LEG1)


def received(session: SessionRow, who: AbstractUser, text: str, name: str = "log.csv") -> ImportRow:
    return imports.receive(session, name, [text.encode()], who)


def chosen(row: ImportRow) -> Mapping:
    mapping = imports.suggested(row, imports.layout_of(row), "meter")
    assert mapping is not None
    return mapping


def brought_in(session: SessionRow, who: AbstractUser, text: str) -> ImportRow:
    row = received(session, who, text)
    imports.begin(row, "meter", chosen(row))
    return imports.run(row)


GOOD = "t_s,v,w\n" + "".join(f"{i},{230 - i / 100:.2f},{i * 10}\n" for i in range(150))


def test_a_log_comes_in_whole_in_minute_blocks_with_their_summaries(ladder: SessionRow, who: AbstractUser) -> None:
    tenths = "t_s,v,w\n" + "".join(f"{i / 10},{230 - i / 100:.2f},{i * 10}\n" for i in range(1500))
    row = brought_in(ladder, who, tenths)
    assert (row.state, row.rows) == ("done", 1500)
    trace = TraceRow.objects.get(staged=False)
    assert [trace.rows, trace.block_rows.count(), trace.t0_s, trace.t1_s] == [1500, 3, 0, pytest.approx(149.9)]
    kept = traces.read_trace(trace)
    assert kept.channels == (VOLTS, WATTS)
    assert kept.values[1].tolist() == [i * 10 for i in range(1500)]
    block = trace.block_rows.all()[1]
    low, mean, high = (np.frombuffer(part, "<f4") for part in (block.low, block.mean, block.high))
    assert [low[1], mean[1], high[1]] == [6000, 8995, 11990]
    held, stood = np.frombuffer(block.held, "<f8").reshape(2, 2)
    assert [held[1], stood[1]] == pytest.approx([8995 * 60, 60])
    assert not Path(row.path).exists()


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("77,oops,3\n", "row 79, column “v”"),
        ("3,230,1\n", "row 79: the time goes back"),
        ("x,230,1\n", "row 79, column “t_s”"),
    ],
)
def test_a_bad_file_gives_one_message_and_nothing_of_it_stays(
    ladder: SessionRow, who: AbstractUser, line: str, says: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("muster.formats.logs.reading.CHUNK_BYTES", 200)
    monkeypatch.setattr("muster.records.actions.traces.BLOCKS_AT_ONCE", 1)
    monkeypatch.setattr("muster.records.actions.traces.BLOCK_LEAST_ROWS", 30)
    rows = GOOD.splitlines(keepends=True)
    row = brought_in(ladder, who, "".join([*rows[:78], line, *rows[78:]]))
    assert row.state == "failed"
    assert says in row.message
    assert TraceRow.objects.count() == BlockRow.objects.count() == 0


def test_what_failed_can_be_mapped_again_and_read(ladder: SessionRow, who: AbstractUser) -> None:
    row = brought_in(ladder, who, "t_s,v\n0,230\n1,231\n0.5,232\n")
    assert row.state == "failed"
    imports.begin(row, "meter", replace(chosen(row), backwards=Backwards.SORT))
    assert imports.run(row).state == "done"
    assert traces.read_trace(TraceRow.objects.get()).values[0].tolist() == [230, 232, 231]


def test_a_reading_can_be_stopped_and_nothing_of_it_stays(
    ladder: SessionRow, who: AbstractUser, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("muster.formats.logs.reading.CHUNK_BYTES", 200)
    row = received(ladder, who, GOOD)
    imports.begin(row, "meter", chosen(row))
    seen: list[int] = []

    def watch(now: ImportRow) -> None:
        seen.append(now.done_bytes)
        if len(seen) == 3:
            imports.ask_stop(now)

    assert imports.run(row, watch).state == "stopped"
    assert len(seen) == 3
    assert seen == sorted(seen)
    assert seen[-1] < row.size_bytes
    assert TraceRow.objects.count() == BlockRow.objects.count() == 0


def test_after_a_kill_in_the_middle_nothing_half_imported_is_left(
    ladder: SessionRow, who: AbstractUser, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("muster.formats.logs.reading.CHUNK_BYTES", 200)
    monkeypatch.setattr("muster.records.actions.traces.BLOCKS_AT_ONCE", 1)
    monkeypatch.setattr("muster.records.actions.traces.BLOCK_LEAST_ROWS", 30)
    row = received(ladder, who, GOOD)
    imports.begin(row, "meter", chosen(row))

    def killed(_: ImportRow) -> None:
        if BlockRow.objects.exists():
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        imports.run(row, killed)
    assert BlockRow.objects.exists()
    assert traces.live_traces(ladder) == []
    assert imports.forget_unfinished() == 1
    assert TraceRow.objects.count() == BlockRow.objects.count() == 0
    row.refresh_from_db()
    assert (row.state, "nothing of it was kept" in row.message) == ("failed", True)


def test_a_kill_once_the_log_is_whole_loses_nothing(ladder: SessionRow, who: AbstractUser) -> None:
    row = received(ladder, who, GOOD)
    imports.begin(row, "meter", chosen(row))

    def killed(_: SessionRow) -> None:
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        imports.run(row, whole=killed)
    assert imports.forget_unfinished() == 0
    row.refresh_from_db()
    assert (row.state, len(traces.live_traces(ladder))) == ("done", 1)


def test_the_mapping_is_remembered_for_the_instrument_and_its_headings(ladder: SessionRow, who: AbstractUser) -> None:
    first = received(ladder, who, "t_s,left,right\n0,230,5\n1,231,6\n")
    layout = imports.layout_of(first)
    assert imports.suggested(first, layout, "plug") is None
    mapping = Mapping((0,), TimeForm.ELAPSED_S, (Column(1, VOLTS), Column(2, WATTS, "kilo")), ahead_s=60)
    imports.begin(first, "plug", mapping)
    imports.run(first)
    again = received(ladder, who, "t_s,left,right\n0,229,5\n")
    layout = imports.layout_of(again)
    assert imports.remembered_instrument(layout) == "plug"
    assert imports.suggested(again, layout, "plug") == replace(mapping, ahead_s=0)
    assert imports.suggested(again, layout, "clamp") is None
    assert MappingRow.objects.count() == 1


def test_a_sealed_session_takes_no_log_and_gives_none_up(ladder: SessionRow, who: AbstractUser) -> None:
    brought_in(ladder, who, GOOD)
    sessions.close_session(ladder)
    with pytest.raises(Refused, match="sealed"):
        received(ladder, who, GOOD)
    with pytest.raises(Refused, match="sealed"):
        traces.remove_trace(TraceRow.objects.get(), who)


def test_a_log_far_from_its_session_was_mapped_wrongly(ladder: SessionRow, who: AbstractUser) -> None:
    row = brought_in(ladder, who, "epoch,v\n600000000,230\n600000001,231\n")
    assert (row.state, "more than a year" in row.message) == ("failed", True)


def test_a_job_with_logs_comes_back_the_same_from_its_zip(ladder: SessionRow, who: AbstractUser) -> None:
    brought_in(ladder, who, GOOD)
    sessions.close_session(ladder)
    package = jobs.write_out(ladder.source.job)
    again = jobs.read_in(read_package(write_package(package)), who)
    assert jobs.write_out(again) == package
    assert SessionRow.objects.get(source__job=again).sha256 == ladder.sha256


def test_a_log_that_was_touched_in_the_zip_is_refused(ladder: SessionRow, who: AbstractUser) -> None:
    brought_in(ladder, who, GOOD)
    package = jobs.write_out(ladder.source.job)
    name, trace = next(iter(package.traces.items()))
    trace.values[0, 3] += 1
    with pytest.raises(MusterError, match=f"{name}: was changed after it was recorded"):
        jobs.read_in(package, who)
    assert Job.objects.count() == 1


def test_what_was_read_off_a_log_is_kept_and_the_same_from_the_keep(
    ladder: SessionRow, who: AbstractUser, django_assert_max_num_queries: object
) -> None:
    brought_in(ladder, who, GOOD)
    first, again = (judging.session_findings(ladder).findings for _ in range(2))
    assert first == again
    assert any(finding.topic == "energy" for finding in first)
    judging.ResultRow.objects.all().delete()
    assert judging.session_findings(ladder).findings == first


@settings(max_examples=examples(40), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    arrays(np.float32, (2, 90), elements=st.floats(-1e5, 1e5, width=32)),
    st.lists(st.floats(0.01, 200), min_size=90, max_size=90),
    st.integers(2, 200),
)
def test_any_trace_is_kept_exactly_and_every_view_of_it_holds_its_extremes(
    ladder: SessionRow, who: AbstractUser, values: np.ndarray, steps: list[float], count: int
) -> None:
    """Whatever the summaries and the pixels: the highest and lowest of the whole stand in the view."""
    t_s = np.cumsum(steps)
    row = traces.keep_trace(ladder, Trace("log", "meter", (VOLTS, WATTS), t_s, values), (), who)
    kept = traces.read_trace(row)
    assert np.array_equal(kept.values, values)
    assert np.allclose(kept.t_s, t_s, atol=1e-3)
    seen = traces.look(row, row.t0_s, row.t1_s + 1, count)
    assert seen.low.shape == seen.high.shape == (2, seen.t_s.size)
    assert 0 < seen.t_s.size <= count
    assert np.nanmin(seen.low, axis=1) == pytest.approx(values.min(axis=1))
    assert np.nanmax(seen.high, axis=1) == pytest.approx(values.max(axis=1))
    row.delete()


@settings(max_examples=examples(40), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    arrays(np.float32, (2, 700), elements=st.floats(-1e4, 1e4, width=32) | st.just(float("nan"))),
    st.integers(0, 699),
    st.integers(1, 700),
    st.integers(0, 300),
)
def test_a_wide_stretch_measured_from_sums_is_what_its_samples_give(
    ladder: SessionRow, who: AbstractUser, values: np.ndarray, first: int, count: int, gap: int
) -> None:
    t_s = np.arange(700.0) * 0.5 + np.where(np.arange(700) < 350, 0, gap)
    row = traces.keep_trace(ladder, Trace("log", "meter", (VOLTS, WATTS), t_s, values), (), who)
    t0, t1 = t_s[first] - 0.1, t_s[min(first + count, 699)] + 0.1
    told, directly = traces.measured(row, t0, t1), measure(traces.read_trace(row), t0, t1)
    assert [(m.channel, m.low, m.high) for m in told] == [(m.channel, m.low, m.high) for m in directly]
    for one, other in zip(told, directly, strict=True):
        assert one.mean.value == pytest.approx(other.mean.value, rel=1e-6, abs=1e-2)
        assert (one.wh or 0) == pytest.approx(other.wh or 0, rel=1e-6, abs=1e-5)
    row.delete()


def lines_of(draw: st.DrawFn) -> Iterator[str]:
    for i in range(draw(st.integers(1, 40))):
        yield draw(st.sampled_from([f"{i},23{i % 10}", f"{i},", "3,230", "x,1", f"{i},y", "", "t_s,v", f"{i},1,2"]))


@st.composite
def log_texts(draw: st.DrawFn) -> str:
    return "t_s,v\n0,230\n" + "\n".join(lines_of(draw)) + "\n"


@settings(max_examples=examples(300), suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(log_texts())
def test_no_file_is_ever_half_imported(ladder: SessionRow, who: AbstractUser, text: str) -> None:
    row = received(ladder, who, text)
    plain = Mapping((0,), TimeForm.ELAPSED_S, (Column(1, VOLTS),))
    imports.begin(row, "meter", imports.suggested(row, imports.layout_of(row), "meter") or plain)
    row = imports.run(row)
    kept = list(TraceRow.objects.all())
    if row.state == "done":
        assert [trace.staged for trace in kept] == [False]
        assert traces.read_trace(kept[0]).t_s.size == row.rows > 0
    else:
        assert (row.state, kept, BlockRow.objects.count()) == ("failed", [], 0)
        assert row.message
    TraceRow.objects.all().delete()
    ImportRow.objects.all().delete()
