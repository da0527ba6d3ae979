"""A clipboard page filled by hand, typed in afterwards in its own order."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.brief import Brief, Home
from muster.core.errors import MusterError
from muster.core.findings import findings_of
from muster.core.plan import noise_steps, start_steps, steps_of
from muster.core.sessions import PROTOCOLS, Entry, Event, Place, Reading, Session, Step
from muster.core.sessions.clipboard import FilledRow, boxes_of, look_boxes_of, typed_in
from muster.core.sessions.replay import replay
from muster.core.sessions.steps import steps_seen
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import System

from ..build import SINGLE, SPLIT, load

STEPS = (
    Step("no load", (), 0.0, 0.0, 60),
    Step("half", ("1",), 500, 500, 120),
    Step("full", ("1", "2"), 1000, 1000, 600),
)
BOXES = boxes_of("ladder", SINGLE)
PUMP = load("2", "pump", "motor", 500, pf=0.7)
LOADS = {"1": load("1", "heater", run_w=500), "2": PUMP}

TYPED = [slug for slug, protocol in PROTOCOLS.items() if not protocol.by_hand]
"""What is looked at by hand has points and answers, and no columns of figures."""


def session(rows: list[FilledRow], protocol: str = "ladder", steps: tuple[Step, ...] = STEPS) -> Session:
    found = typed_in(protocol, steps, rows, boxes_of(protocol, SINGLE), {})
    entries = tuple(Entry(i, typed.t_s, typed.items, "page") for i, typed in enumerate(found, 1))
    return Session(protocol, steps, entries)


def test_each_row_stands_at_its_own_step_though_one_was_left_empty() -> None:
    rows = [
        FilledRow({"v_leg1": 241, "hz_none": 51.2}),
        FilledRow({}),
        FilledRow({"w_leg1": 995, "v_leg1": 229}, held_min=10),
    ]
    seen = steps_seen(replay(session(rows), 1), STEPS, 1)
    assert [ladder_step.w for ladder_step in seen] == [None, None, 995]
    assert seen[2].held_s == pytest.approx(600)


def test_a_hold_is_only_what_was_said_to_be_held() -> None:
    seen = steps_seen(replay(session([FilledRow({}), FilledRow({}), FilledRow({"w_leg1": 995})]), 1), STEPS, 1)
    assert seen[2].held_s == 0


def test_times_that_were_said_are_kept_and_do_not_go_back() -> None:
    rows = [FilledRow({"v_leg1": 241}, minutes=2), FilledRow({"w_leg1": 500}, minutes=9)]
    times = [entry.t_s for entry in session(rows).entries if any(isinstance(i, Reading) for i in entry.items)]
    assert times == [120, 540]
    with pytest.raises(MusterError, match="step 2"):
        session([FilledRow({"v_leg1": 241}, minutes=9), FilledRow({"w_leg1": 500}, minutes=2)])


def test_an_empty_page_and_a_page_too_long_are_refused() -> None:
    with pytest.raises(MusterError, match="nothing"):
        session([FilledRow({}), FilledRow({})])
    with pytest.raises(MusterError, match="rows"):
        session([FilledRow({"v_leg1": 241})] * 4)


def test_the_loads_of_the_step_are_on_when_it_is_read() -> None:
    record = replay(session([FilledRow({"v_leg1": 241}), FilledRow({"w_leg1": 500}), FilledRow({"w_leg1": 990})]), 1)
    on = {segment.step: segment.on for segment in record.segments if segment.readings}
    assert on == {0: (), 1: ("1",), 2: ("1", "2")}


def test_a_page_of_starts_tells_each_start_with_its_lowest_volts_and_how_it_ended() -> None:
    steps = start_steps([LOADS["1"], PUMP], 50)
    figures = {"v_leg1_before": 238.0, "v_leg1_lowest": 196.0, "v_leg1_settled": 233.0, "a_leg1_highest": 17.0}
    kept = session(
        [FilledRow(figures), FilledRow(figures), FilledRow({"v_leg1_lowest": 150.0}, outcome="stall")], "starts", steps
    )
    found = findings_of(kept, LOADS, SINGLE, 20)
    assert [start.outcome for start in found.starts] == ["held", "held", "stalled"]
    assert [start.run.hot for start in found.starts] == [False, False, True]
    assert found.starts[1].run.base == ("1",)
    assert found.starts[0].lowest is not None
    assert found.starts[0].lowest.value == 196


def test_a_page_of_a_noise_walk_knows_background_distance_and_load() -> None:
    steps = noise_steps(20, ("1", "2"))
    rows = [FilledRow({"dba_none": 38.0}), *(FilledRow({"dba_none": 70.0 - 2 * i}) for i in range(len(steps) - 1))]
    found = findings_of(session(rows, "noise_walk", steps), LOADS, SINGLE, 20)
    assert {seen.state for seen in found.noise} == {"no load", "loaded"}
    assert all(seen.background_dba == 38 for seen in found.noise)


@pytest.mark.parametrize("protocol", TYPED)
def test_every_protocol_has_a_page_that_can_be_typed_in(protocol: str) -> None:
    loads = (
        load("1", "heater", run_w=1500),
        load("2", "oven", run_w=2400, leg="both"),
        load("3", "kettle", run_w=1400, leg="2"),
        load("4", "pump", "motor", 900, pf=0.8, leg="2"),
        load("5", "boiler", "furnace", 320, pf=0.8),
    )
    home, source = Home(Brief(system=SPLIT), loads), Source("it", SourceKind.HYBRID, Claims(5000, 6000))
    steps, boxes = steps_of(protocol, home, source), boxes_of(protocol, SPLIT)
    assert boxes
    rows = [FilledRow({box.name: 10.0 for box in boxes}, label="seen") for _ in steps]
    found = typed_in(protocol, steps, rows, boxes, {})
    done = sum(1 for typed in found if Event("step") in typed.items)
    assert done == len(steps)
    replay(Session(protocol, steps, tuple(Entry(i, t.t_s, t.items, "") for i, t in enumerate(found, 1))), 2)


FIGURES = st.dictionaries(st.sampled_from([box.name for box in BOXES]), st.floats(0, 400), max_size=4)


@given(
    st.lists(
        st.builds(FilledRow, FIGURES, st.none() | st.floats(0, 30), st.none(), st.sampled_from(["", "hums"])),
        min_size=1,
        max_size=3,
    )
)
def test_nothing_that_was_filled_in_is_lost_and_time_never_goes_back(rows: list[FilledRow]) -> None:
    if all(row.empty for row in rows):
        return
    kept = session(rows)
    read = [item for entry in kept.entries for item in entry.items if isinstance(item, Reading)]
    assert len(read) == sum(len(row.figures) for row in rows)
    times = [entry.t_s for entry in kept.entries]
    assert times == sorted(times)
    assert all(item.place is not Place.TOTAL for item in read)


def test_a_page_has_the_boxes_its_findings_want() -> None:
    """Each unit of a pair, the gap of a transfer, water and its degrees, the panels."""
    words = {
        protocol: [box.label for box in boxes_of(protocol, SINGLE)]
        for protocol in ("parallel", "transfer", "heating_check", "solar_input")
    }
    assert words["parallel"][-3:] == ["amps unit A", "amps unit B", "amps in all"]
    assert words["transfer"][-1] == "ms"
    assert words["heating_check"][-4:] == ["kg of water", "°C, before", "°C, settled", "seconds"]
    assert "volts panels" in words["solar_input"]
    assert len({box.name for box in boxes_of("heating_check", SINGLE)}) == len(boxes_of("heating_check", SINGLE))


@pytest.mark.parametrize(
    ("protocol", "columns"),
    [
        ("endurance", ["watts", "%", "Wh", "°C"]),
        ("idle", ["volts DC", "amps DC", "dBA"]),
        ("noise_walk", ["dBA"]),
        ("solar_input", ["volts panels", "watts panels", "%"]),
        ("cut_offs", ["volts", "volts DC"]),
        ("heating_check", ["watts", "kg of water", "°C, before", "°C, settled", "seconds"]),
    ],
)
def test_a_page_of_looks_has_the_columns_that_its_protocol_reads(protocol: str, columns: list[str]) -> None:
    assert [box.label for box in look_boxes_of(protocol, SINGLE)] == columns


@pytest.mark.parametrize("protocol", TYPED)
@pytest.mark.parametrize("system", [SINGLE, SPLIT])
def test_every_protocol_has_a_page_of_looks_each_column_once(protocol: str, system: System) -> None:
    boxes = look_boxes_of(protocol, system)
    assert boxes
    assert len({box.name for box in boxes}) == len(boxes)
