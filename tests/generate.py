"""Homes, sources, sessions and jobs of every kind, for property tests."""

from __future__ import annotations

import copy
from datetime import UTC, datetime
from typing import Any

import numpy as np
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from muster.core.brief import Brief, BringUp, Wiring
from muster.core.loads import KINDS, TIERS, Caller, Duty, Load
from muster.core.quantities import Grade
from muster.core.sessions import Entry, Event, Item, Note, Place, Reading, Session, Start, Stat, Step, Switch
from muster.core.sources import Claims, Site, Source, SourceKind
from muster.core.supply import SYSTEMS, Leg
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Channel, Trace
from muster.formats.jobfile import CaptureRecord, JobFile, SessionRecord, SourceRecord, TraceRecord
from muster.formats.jobzip import JobPackage

names = st.text("abcdefghij klmno", min_size=1, max_size=12).filter(str.strip)
duties = st.builds(Duty, st.floats(0.5, 600), st.floats(0, 600), st.sampled_from(Caller))
loads = st.builds(
    Load,
    key=st.sampled_from("123456789abcefgijk"),
    name=names,
    kind=st.sampled_from(sorted(KINDS)),
    run_w=st.floats(1, 5000),
    pf=st.floats(0.1, 1),
    leg=st.sampled_from(Leg),
    tier=st.sampled_from(TIERS),
    duty=duties,
    hours=st.lists(st.integers(0, 23), unique=True).map(lambda hours: tuple(sorted(hours))),
    start_va=st.none() | st.floats(0, 20000),
    run_grade=st.sampled_from(Grade),
    start_grade=st.sampled_from(Grade),
)
rolls = st.lists(loads, max_size=7, unique_by=lambda x: x.key).map(tuple)
briefs = st.builds(
    Brief,
    question=st.text(max_size=30),
    system=st.sampled_from(list(SYSTEMS.values())),
    outage_h=st.floats(0.5, 48),
    outage_from_hour=st.integers(0, 23),
    reserve_pct=st.floats(0, 100),
    noise_day_dba=st.none() | st.floats(30, 90),
    noise_night_dba=st.none() | st.floats(30, 90),
    neighbour_m=st.floats(1, 100),
    site=st.builds(Site, st.floats(0, 3000), st.floats(-30, 45)),
    wiring=st.sampled_from(Wiring),
    bring_up=st.sampled_from(BringUp),
)
claims = st.builds(
    lambda cont, surge, breaker: Claims(cont_w=cont, surge_w=cont * surge, surge_s=5, breaker_a=breaker),
    st.floats(300, 12000),
    st.floats(1, 3),
    st.none() | st.floats(5, 60),
)
sources = st.builds(Source, names, st.sampled_from(SourceKind), claims)
items: st.SearchStrategy[Item] = st.one_of(
    st.builds(
        Reading,
        st.sampled_from(["v", "a", "w", "hz", "dba"]),
        st.floats(0, 5000),
        st.sampled_from(Place),
        st.sampled_from(Stat),
        st.sampled_from(["", "clamp", "meter"]),
    ),
    st.builds(Switch, st.sampled_from("123"), st.booleans()),
    st.builds(Start, st.sampled_from("123"), st.booleans()),
    st.builds(Event, st.sampled_from(["trip", "dip", "hold", "reset", "step", "held", "stall", "code"])),
    st.builds(Note, st.text(max_size=20)),
)
entries = st.lists(st.tuples(st.floats(0, 5000), st.lists(items, min_size=1, max_size=4)), max_size=25).map(
    lambda rows: tuple(Entry(i, t, tuple(found), "") for i, (t, found) in enumerate(rows, 1))
)
sessions = st.builds(
    Session,
    st.sampled_from(["ladder", "starts", "noise_walk"]),
    st.lists(st.builds(Step, names), max_size=3).map(tuple),
    entries,
)
times = st.integers(0, 7_000_000_000).map(lambda s: datetime.fromtimestamp(s, UTC).isoformat())
channels = st.sampled_from(
    [Channel("v", Place.LEG1), Channel("w", Place.TOTAL), Channel("a", Place.DC), Channel("hz"), Channel("dba")]
)


@st.composite
def traces(draw: st.DrawFn) -> Trace:
    """A recorded log: rising times, single precision, nothing read here and there."""
    count = draw(st.integers(1, 12))
    steps = draw(st.lists(st.floats(0, 1e4), min_size=count, max_size=count))
    kinds = tuple(draw(st.lists(channels, min_size=1, max_size=3, unique=True)))
    cells = st.floats(-1e6, 1e6, width=32) | st.just(float("nan"))
    return Trace(
        draw(names), "meter", kinds, np.cumsum(steps), draw(arrays(np.float32, (len(kinds), count), elements=cells))
    )


@st.composite
def packages(draw: st.DrawFn) -> JobPackage:
    """A whole job with its recorded logs and captures."""
    logs: dict[str, Trace] = {}
    shots: dict[str, Capture] = {}
    records = []
    for source in draw(st.lists(sources, max_size=2)):
        kept = [_record(draw, logs, shots) for _ in range(draw(st.integers(0, 2)))]
        records.append(SourceRecord(source, tuple(kept)))
    return JobPackage(JobFile(draw(names), draw(briefs), draw(rolls), tuple(records)), logs, shots)


@st.composite
def captures(draw: st.DrawFn) -> Capture:
    """A capture of one to three channels."""
    kinds = tuple(draw(st.lists(channels, min_size=1, max_size=3, unique=True)))
    shape = (len(kinds), draw(st.integers(2, 20)))
    values = draw(arrays(np.float32, shape, elements=st.floats(-500, 500, width=32)))
    head = draw(names), "scope", draw(st.floats(-100, 1e5)), draw(st.floats(1e-6, 1.0))
    return Capture(*head, kinds, values, draw(st.sampled_from(["", "start of the pump"])))


def _record(draw: st.DrawFn, logs: dict[str, Trace], shots: dict[str, Capture]) -> SessionRecord:
    listed, shot = [], []
    for trace in draw(st.lists(traces(), max_size=2)):
        file = f"traces/{len(logs) + 1}.csv"
        logs[file] = trace
        listed.append(TraceRecord(trace.name, trace.instrument, file, int(trace.t_s.size)))
    for one in draw(st.lists(captures(), max_size=1)):
        file = f"captures/{len(shots) + 1}.csv"
        shots[file] = one
        shot.append(
            CaptureRecord(one.name, one.instrument, file, one.t_s, one.step_s, one.values.shape[1], why=one.why)
        )
    times_ = draw(times), draw(st.none() | times)
    return SessionRecord(draw(sessions), *times_, traces=tuple(listed), captures=tuple(shot))


def places(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """The path of every value inside a JSON value."""
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    return [path, *(place for key, part in inner for place in places(part, (*path, key)))]


def nested(depth: int) -> Any:
    """A list in a list, so many deep."""
    found: Any = 1
    for _ in range(depth):
        found = [found]
    return found


ODD = st.one_of(
    st.sampled_from([10**1000, -(10**400), "\ud800", "half \udfff", "x" * 5000, 1e308, -0.0]),
    st.sampled_from([3, 60, 900]).map(nested),
    st.none(),
    st.booleans(),
    st.integers(-(10**12), 10**12),
    st.floats(),
    st.text(max_size=12),
    st.just([]),
    st.just({}),
    st.lists(st.integers(-3, 3), max_size=3),
    st.dictionaries(st.text(max_size=4), st.integers(), max_size=2),
)


def spoil(data: Any, path: tuple[Any, ...], how: str, odd: Any) -> None:
    """Change, drop or double what stands at a path, if it still stands there."""
    try:
        for key in path[:-1]:
            data = data[key]
        if how == "drop":
            del data[path[-1]]
        elif how == "double" and isinstance(data, list):
            data.append(copy.deepcopy(data[path[-1]]))
        else:
            data[path[-1]] = copy.deepcopy(odd)
    except (KeyError, IndexError, TypeError):
        return


__all__ = ["ODD", "briefs", "loads", "names", "packages", "places", "rolls", "sessions", "sources", "spoil", "traces"]
