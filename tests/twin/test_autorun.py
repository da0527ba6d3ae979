"""A plan run by itself over outlets, on the twin: what it switches, reads, and when it stops."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.brief import Brief, Home
from muster.core.errors import MusterError
from muster.core.plan.run import GRACE_S, SILENT_S, Doing, LadderRun, Pace, Say, StopAt, steps_to_run
from muster.core.sessions import Event, Place, Reading, Step, Switch
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS
from muster.core.timeline.traces import Channel
from muster.formats.jobzip import JobPackage
from muster.instruments.standins.rig import DEMO_LOADS
from muster.twin import Bench, Faults
from muster.twin.from_job import bench_of
from muster.twin.meters import truth
from tests.conftest import ferry_house
from tests.examples import examples

SPLIT = SYSTEMS["split-120-240-60"]
CHANNELS = (
    *(Channel(quantity, place) for place in (Place.LEG1, Place.LEG2) for quantity in ("v", "a", "w")),
    Channel("hz"),
    Channel("temp_c"),
)
QUICK = Pace(between_s=1.0, settle_s=1.0, hold_s=4.0)
HOME = Home(Brief(system=SPLIT), DEMO_LOADS)
STEPS = (
    Step("no load", target_w=0, hold_s=3),
    Step("a quarter", ("1",), hold_s=3),
    Step("half", ("1", "2", "4"), hold_s=3),
    Step("back", ("2",), hold_s=900),
)


@dataclass
class Run:
    """A run on a bench: each tenth of a second the twin goes on, the run is told, and its switches are done."""

    run: LadderRun
    bench: Bench
    said: list[tuple[float, Say]] = field(default_factory=list)
    silent_from_s: float = math.inf

    def go(self, seconds: float) -> Run:
        for _ in range(round(seconds * 10)):
            self.bench.advance(0.1)
            sample = self.bench.sample()
            seen = {channel: truth(sample, channel, self.bench) for channel in CHANNELS}
            heard = None if self.bench.t_s > self.silent_from_s else seen
            for say in self.run.tick(self.bench.t_s, heard):
                self.said.append((self.bench.t_s, say))
                for item in say.items:
                    if isinstance(item, Switch):
                        self.bench.switch(item.load, on=item.on)
        return self

    @property
    def on(self) -> set[str]:
        return {key for key, one in self.bench.appliances.items() if one.on}

    @property
    def switches(self) -> list[str]:
        return [say.raw for _, say in self.said if say.items and isinstance(say.items[0], Switch)]

    def read_w(self) -> list[float]:
        return [
            sum(item.value for item in say.items if isinstance(item, Reading) and item.quantity == "w")
            for _, say in self.said
            if say.raw == "read by Muster"
        ]


def started(
    source: Source, stop_at: StopAt | None = None, faults: Faults | None = None, steps: tuple[Step, ...] = STEPS
) -> Run:
    run = LadderRun(steps, DEMO_LOADS, SPLIT, stop_at or StopAt(), QUICK, {Channel("hz"): "meter"})
    return Run(run, bench_of(HOME, source, faults=faults))


def hybrid(**claims: float) -> Source:
    return Source("the hybrid", SourceKind.HYBRID, Claims(cont_w=6000, surge_w=12000, battery_wh=10240, **claims))


def test_a_ladder_is_run_to_its_end_and_everything_is_off() -> None:
    done = started(hybrid()).go(60)
    assert done.run.doing is Doing.DONE
    assert done.on == set()
    assert [say.raw for _, say in done.said].count("step done") == len(STEPS)
    assert done.said[-1][1].raw == "run by Muster done"


def test_loads_no_longer_wanted_go_off_first_and_the_heaviest_start_goes_on_first() -> None:
    done = started(hybrid()).go(60)
    assert done.switches == ["+1", "+4", "+2", "-1", "-4", "all off"]


def test_two_switchings_lie_as_far_apart_as_the_pace_says() -> None:
    done = started(hybrid()).go(60)
    at = [t for t, say in done.said if say.raw[0] in "+-"]
    assert all(later - earlier >= QUICK.between_s - 0.05 for earlier, later in pairwise(at))


def test_each_step_is_read_when_it_has_settled_and_at_its_end() -> None:
    done = started(hybrid()).go(60)
    watts = done.read_w()
    assert len(watts) == 2 * len(STEPS)
    assert watts[0] == pytest.approx(0, abs=5)
    assert watts[2] == pytest.approx(1480, rel=0.05)
    assert watts[-1] == pytest.approx(980, rel=0.05)
    hertz = [item for _, say in done.said for item in say.items if isinstance(item, Reading) and item.quantity == "hz"]
    assert {reading.instrument for reading in hertz} == {"meter"}


def test_no_step_is_held_longer_than_the_pace_allows() -> None:
    done = started(hybrid()).go(60)
    assert done.said[-1][0] < 40


def test_a_trip_is_logged_under_the_load_it_happened_with_and_ends_the_run() -> None:
    weak = replace(hybrid(), claims=Claims(cont_w=1900, surge_w=3800, battery_wh=2000))
    done = started(weak, steps=(Step("a quarter", ("1",)), Step("past it", ("1", "2"), hold_s=60))).go(120)
    assert done.run.doing is Doing.STOPPED
    assert done.run.why == "it tripped"
    raws = [say.raw for _, say in done.said]
    assert raws[-3:] == ["!trip", "all off", "run by Muster stopped: it tripped"]
    assert done.said[-3][1].items == (Event("trip"),)
    assert done.on == set()


def test_hertz_outside_the_band_for_ten_seconds_stop_it() -> None:
    engine = Source("the set", SourceKind.OPEN_FRAME, Claims(cont_w=5000, surge_w=6250))
    steps = (Step("no load", target_w=0, hold_s=60),)
    run = started(engine, faults=Faults(no_load_hz=64.5), steps=steps)
    run.run.pace = Pace(hold_s=60)
    done = run.go(30)
    assert "hertz more than 5 % off" in done.run.why
    assert GRACE_S <= done.said[-1][0] < GRACE_S + 3


def test_a_leg_over_its_amps_stops_it_and_a_start_does_not() -> None:
    assert started(hybrid(), StopAt(leg_a=10)).go(60).run.why == "a leg over 10 A"
    assert started(hybrid(), StopAt(leg_a=16)).go(60).run.doing is Doing.DONE


def test_a_source_hotter_than_allowed_stops_it_at_once() -> None:
    assert "hotter than 15" in started(hybrid(), StopAt(temp_c=15)).go(5).run.why


def test_a_run_that_hears_nothing_is_blind_and_stops() -> None:
    run = started(hybrid())
    run.silent_from_s = 8.0
    run.go(20)
    assert run.run.why == "nothing was heard of the volts"
    assert run.said[-1][0] == pytest.approx(8.0 + SILENT_S, abs=0.3)
    assert run.on == set()


def test_the_stop_key_switches_everything_off() -> None:
    run = started(hybrid()).go(9)
    assert run.on
    said = run.run.stop("your stop key")
    assert [say.raw for say in said] == ["all off", "run by Muster stopped: your stop key"]
    assert run.run.stop("again") == []
    assert run.run.tick(99.0, {}) == []


@settings(max_examples=examples(30))
@given(when=st.integers(1, 300))
def test_stopped_at_any_moment_every_load_that_was_on_is_switched_off(when: int) -> None:
    run = started(hybrid()).go(when / 10)
    on = run.on
    off = {item.load for say in run.run.stop("your stop key") for item in say.items if isinstance(item, Switch)}
    assert off == on or run.run.doing is Doing.DONE


def test_a_sheet_with_a_step_done_by_hand_is_not_run() -> None:
    with pytest.raises(MusterError, match="by hand"):
        steps_to_run((Step("look at it"),), {})
    with pytest.raises(MusterError, match="no outlet"):
        steps_to_run((Step("on", ("9",)),), {"1": 0})
    with pytest.raises(MusterError, match="done"):
        steps_to_run(STEPS, {"1": 0}, len(STEPS))


def test_every_source_of_the_demo_has_its_twin() -> None:
    package: JobPackage = ferry_house()
    home = Home(package.job.brief, package.job.loads)
    for record in package.job.sources:
        bench = bench_of(home, record.source)
        bench.switch("6", on=True)
        bench.advance(3)
        sample = bench.sample()
        assert sample.live, record.source.name
        assert sample.total_w == pytest.approx(90, rel=0.1)
        assert sample.leg_v[0] == pytest.approx(120, rel=0.06)
