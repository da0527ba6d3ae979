"""Drawings: geometry that says what the numbers say."""

from __future__ import annotations

import itertools
import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.brief import Brief
from muster.core.findings.lines import droop
from muster.core.loads import Duty
from muster.core.outage.simulate import simulate
from muster.core.plan import Wanted, ladder_steps
from muster.core.quantities import Grade
from muster.core.shelf import BOILER_PARTS
from muster.core.sources import Site
from muster.core.sources.limits import limits_of
from muster.core.timeline.captures import start_in
from muster.core.timeline.captures.waveform import waveform_of
from muster.core.verdict.requirement import Margin, Requirement, Status
from muster.web.figures.glyph import draw_glyph
from muster.web.figures.ladder import draw_ladder
from muster.web.figures.line import draw_line
from muster.web.figures.ribbon import draw_ribbon
from muster.web.figures.scales import Scale, spread, ticks
from muster.web.figures.stack import BASE, TOP, draw_stack
from muster.web.figures.start_trace import describe, draw_start_trace
from muster.web.figures.tally import ZERO, draw_bar
from muster.web.figures.wave import draw_wave
from tests.core.build import SINGLE, SPLIT, found, load, set_of

OVEN = load("1", "bread oven", run_w=2000, leg="both")
BOILER = load("2", "oil boiler", "furnace", 320, pf=0.8)
PUMP = load("3", "sump pump", "motor", 400, pf=0.7, leg="2")
LIMITS = limits_of(set_of(5000, surge_w=6000, surge_s=5, breaker_a=25), SPLIT, Site())


def test_a_load_across_both_legs_is_one_slab_over_both_columns() -> None:
    stack = draw_stack([OVEN, BOILER], None, LIMITS, SPLIT)
    oven = next(slab for slab in stack.slabs if slab.name == "bread oven")
    boiler = next(slab for slab in stack.slabs if slab.name == "oil boiler")
    assert oven.width > 2 * boiler.width
    assert boiler.y + boiler.height == pytest.approx(oven.y, abs=0.2)


def test_the_next_start_stands_on_top_of_what_is_on_before_it_is_switched_on() -> None:
    stack = draw_stack([OVEN], PUMP, LIMITS, SPLIT)
    cap, oven = stack.start[0], stack.slabs[0]
    assert cap.y + cap.height == pytest.approx(oven.y, abs=0.2)
    assert cap.height / oven.height == pytest.approx(PUMP.start_total_va / 1000, rel=0.02)
    assert "Next: sump pump" in stack.description


def test_nothing_leaves_the_stack_and_no_two_labels_touch() -> None:
    stack = draw_stack([OVEN, BOILER], PUMP, LIMITS, SPLIT)
    assert all(slab.y >= TOP and slab.y + slab.height <= BASE + 0.2 for slab in (*stack.slabs, *stack.start))
    labels = sorted(line.label_y for line in stack.limits)
    assert all(b - a > 25 for a, b in itertools.pairwise(labels))


def test_one_leg_is_one_column() -> None:
    stack = draw_stack([load()], None, limits_of(set_of(3000), SINGLE, Site()), SINGLE)
    assert len(stack.feet) == 1
    assert not stack.spine


def test_a_glyph_shows_a_spike_only_where_there_is_a_start() -> None:
    assert draw_glyph(PUMP, 6000).path.count("V") > draw_glyph(OVEN, 6000).path.count("V")
    assert "starts at" in draw_glyph(PUMP, 6000).label


def _row(status: Status, margin: Margin | None = None) -> Requirement:
    return Requirement("k", "", "", margin, Grade.A, status, "", label="Steady")


def test_every_status_has_a_shape_of_its_own() -> None:
    margin = Margin(0.3, 0.2, 0.4)
    short = Margin(-0.3, -0.4, -0.2)
    bars = {s: draw_bar(_row(s, short if s is Status.FALLS_SHORT else margin)) for s in Status}
    outlines = {s: (bar.path, bar.css) for s, bar in bars.items()}
    assert len({css for _, css in outlines.values()}) == len(Status)
    assert bars[Status.WITH_RULES].path != bars[Status.CARRIES].path
    assert bars[Status.FALLS_SHORT].gap


@given(st.floats(-3, 3))
def test_a_bar_stands_on_its_own_side_of_the_line(value: float) -> None:
    bar = draw_bar(_row(Status.CARRIES, Margin(value, value, value)))
    end = float(bar.path.split("H")[1].split("V")[0])
    assert (end >= ZERO) == (value >= 0)
    assert 0 <= end <= 220


def test_the_ladder_inks_the_measured_over_the_planned() -> None:
    loads = (OVEN, BOILER)
    steps = ladder_steps(loads, Wanted(2000, 2))
    result = found([(0, "!step"), (5, "+1"), (9, "l1 1000w l2 990w"), (690, "l1 1000w l2 990w"), (700, "-1")], loads)
    ladder = draw_ladder(steps, result.record, 2000, 2)
    *lighter, full = ladder.ladder_steps
    assert full.measured_x == pytest.approx(ladder.claim_x, abs=4), "by its watts, whichever step was ticked"
    assert "held" in full.held
    assert [step.measured_x for step in lighter[1:]] == [None, None, None]


def test_a_line_is_drawn_with_its_band_wider_through_two_points_than_through_three() -> None:
    lines = [(0, "l1 0w l2 0w 62hz"), (5, "+1"), (9, "l1 1000w l2 1000w 61hz"), (12, "+2"), (15, "1000w 61.4hz")]
    two, three = found(lines[:3], (OVEN, BOILER)), found(lines, (OVEN, BOILER))
    assert two.droop is not None
    assert three.droop is not None
    assert draw_line(two.droop, 5).band.startswith("M")
    assert two.droop.band(1000) > 0
    assert two.droop.finding.needs.startswith("a third load")
    assert not three.droop.finding.needs
    assert droop(three.record, SPLIT) is not None


def test_the_day_is_a_bar_an_hour_and_a_leg() -> None:
    brief = Brief(system=SPLIT, outage_h=6, outage_from_hour=20)
    ribbon = draw_ribbon(simulate((OVEN, BOILER), brief, draws=3), brief)
    assert len(ribbon.bars) == 12
    assert len(ribbon.quiet) == 4
    assert ribbon.rows[0][0] == "20:00"


@given(st.lists(st.floats(0, 500), min_size=1, max_size=6))
def test_spread_positions_keep_their_order_and_their_distance(wanted: list[float]) -> None:
    placed = spread(wanted, 20)
    order = sorted(range(len(wanted)), key=lambda i: wanted[i])
    gaps = [placed[b] - placed[a] for a, b in itertools.pairwise(order)]
    assert all(gap > 12 for gap in gaps)


def test_ticks_are_round() -> None:
    assert [tick.label for tick in ticks(Scale(0, 5300, 0, 100), 6, 1000)] == ["0", "1", "2", "3", "4", "5"]


def test_a_glyph_in_parts_never_runs_back() -> None:
    """A boiler's spark of 20 s is narrower than its own start."""
    boiler = load("2", "boiler", "furnace", 320, pf=0.8, duty=Duty(12, 18), parts=BOILER_PARTS)
    across = [float(x) for x in re.findall(r"H([0-9.]+)", draw_glyph(boiler, 12_000).path)]
    assert across == sorted(across)


def test_a_waves_ghost_is_fitted_to_the_cycles_that_were_judged() -> None:
    """What starts later in the capture does not lift it."""
    t = np.arange(10_000) / 5000
    amps = np.where(t < 0.5, 3.0, 20.0) * np.sin(2 * np.pi * 50 * t)
    plate = draw_wave(amps, 1 / 5000, waveform_of(amps, 1 / 5000, 50))
    assert plate.wave == plate.ghost
    assert len(plate.teeth) == 39


def test_a_start_plate_marks_what_came_after_the_start() -> None:
    t = np.arange(0, 5, 0.05)
    amps = np.where(t < 1, 13.0, np.where(t < 2, 1.0, np.where(t < 2.4, 11.0, 2.4)))
    seen = start_in(t, 120 - 0.1 * amps, amps, near_s=2.0)
    assert seen is not None
    plate = draw_start_trace(seen, 120)
    assert [mark.label for mark in plate.marks] == ["118.9\u202fV", "11\u202fA"]
    assert plate.marks[1].x >= plate.at_x
    assert plate.envelope
    assert describe(seen).startswith("Lowest 118.9\u202fV of 119.9\u202fV")
