"""A series: one short plan over many units, each figure a line that the record would have been jotted in."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.brief import Brief, Home
from muster.core.errors import MusterError
from muster.core.findings import findings_of
from muster.core.loads import Tier
from muster.core.plan import steps_of
from muster.core.plan.protocols import standard_loads
from muster.core.plan.series import SHARED_CHECKS, CellKind, SeriesPlan, cells_of, distances_of, figure_of, line_of
from muster.core.safety.checks import KNOWN
from muster.core.sessions.log_line import read_line
from muster.core.sessions.replay import Outcome, replay
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS
from tests.core.build import load, session

SYSTEM = SYSTEMS["single-120-60"]
HEATER, SAW = load("2", "space heater", "heater", 1400, tier=Tier.TEST), load("3", "bench saw", "universal", 900, pf=0.9, tier=Tier.TEST)  # fmt: skip
LOADS = {item.key: item for item in (HEATER, SAW)}
PLAN = SeriesPlan(distances_of("3, 20, 35, 60 ft"), "2", "3")
CELLS = cells_of(PLAN, LOADS)


def lines(figures: dict[str, str]) -> list[tuple[float, str]]:
    """The record that figures typed down the grid make, 20 s apart."""
    timed: list[tuple[float, str]] = []
    for at, cell in enumerate(cell for cell in CELLS if cell.key in figures):
        on = replay(session(timed, tuple(LOADS.values()), SYSTEM, "short_test"), 1).on
        timed.append((20.0 * at, line_of(cell, figure_of(cell, figures[cell.key]), on, LOADS)))
    return timed


F8 = {
    "background": "46", "v": "123", "hz": "60.1", "dba-1": "74", "dba-2": "60", "dba-3": "55.5", "dba-4": "52",
    "dip": "112", "loaded-w": "1400", "loaded-v": "120", "loaded-hz": "59.8",
    "loaded-dba-1": "78", "loaded-dba-2": "68", "loaded-dba-3": "63.5", "loaded-dba-4": "59", "start": "104",
}  # fmt: skip


def test_the_cells_stand_in_the_order_in_which_one_walks() -> None:
    assert [cell.key for cell in CELLS] == list(F8)
    assert [cell.label for cell in CELLS if cell.kind is CellKind.LEVEL][:4] == ["3 ft", "20 ft", "35 ft", "60 ft"]
    assert [cell.key for cell in CELLS if cell.shared] == ["background"]


def test_figures_alone_make_the_record_and_the_findings_of_a_noise_walk_and_two_dips() -> None:
    timed = lines(F8)
    raws = [raw for _, raw in timed]
    assert raws[3] == "74db@3ft"
    assert raws[7] == "+2 min 112v", "the step goes on with its dip"
    assert raws[-1] == "-2 bench saw start min 104v, held", "the motor starts alone"
    record = session(timed, tuple(LOADS.values()), SYSTEM, "short_test")
    assert not any(item.type == "note" for entry in record.entries for item in entry.items), raws
    seen = findings_of(record, LOADS, SYSTEM, 25.0)
    unloaded, loaded = sorted(seen.noise, key=lambda noise: noise.load_w)
    assert [round(spot.dba, 1) for spot in unloaded.heard] == [60.0, 55.0, 50.7], (
        "the background is taken off, the spot at 3 ft left out"
    )
    assert loaded.load_w == 1400
    assert [(start.load.name, start.outcome, start.base_w) for start in seen.starts] == [("bench saw", Outcome.HELD, 0)]


def test_an_x_behind_the_figure_is_a_start_that_failed() -> None:
    seen = findings_of(
        session(lines({**F8, "start": "98x"}), tuple(LOADS.values()), SYSTEM, "short_test"), LOADS, SYSTEM, 25.0
    )
    assert seen.starts[0].outcome is Outcome.STALLED


@pytest.mark.parametrize("text", ["", "abc", "12v", "-4", "1e3", "98x", "5000"])
def test_what_is_no_figure_of_a_cell_is_told_at_once(text: str) -> None:
    with pytest.raises(MusterError):
        figure_of(next(cell for cell in CELLS if cell.key == "v"), text)


@given(st.sampled_from(CELLS), st.floats(31, 89).map(lambda value: f"{value:.1f}"))
def test_every_line_is_understood_whole(cell: object, text: str) -> None:
    """Whatever cell it stands in, nothing of it is left over as a note."""
    assert cell in CELLS
    at = CELLS[CELLS.index(cell)]  # type: ignore[arg-type]
    line = line_of(at, figure_of(at, text), (), LOADS)
    jotting = read_line(line, {key: item.name for key, item in LOADS.items()}, SYSTEM)
    assert not any(item.type == "note" for item in jotting.items), line


@pytest.mark.parametrize(
    ("text", "metres"),
    [("3, 10, 20, 35 ft", [0.914, 3.048, 6.096, 10.668]), ("7 3 1 m", [1, 3, 7]), ("10 feet", [3.048]), ("1;2;2 metres", [1, 2])],
)  # fmt: skip
def test_distances_are_taken_as_a_person_lists_them(text: str, metres: list[float]) -> None:
    assert [distance.m for distance in distances_of(text)] == pytest.approx(metres, abs=1e-3)


@pytest.mark.parametrize("text", ["3, 10", "ft", "0.1 m", "900 m", "1 2 3 4 5 6 7 8 9 m", "near"])
def test_what_is_no_list_of_distances_is_refused(text: str) -> None:
    with pytest.raises(MusterError):
        distances_of(text)


def test_what_is_each_units_own_is_asked_of_each() -> None:
    assert {"exhaust", "refuelling", "bonding", "battery", "cords", "lead_unsaid", "dc_unsaid"}.isdisjoint(
        SHARED_CHECKS
    )
    assert set(KNOWN) >= SHARED_CHECKS


def test_the_standard_step_and_motor_are_those_brought_for_the_test() -> None:
    oven = load("1", "oven", "heater", 3000)
    assert standard_loads([oven, HEATER, SAW], 60) == (HEATER, SAW)
    assert standard_loads([oven], 60) == (oven, None)


def test_the_plan_of_a_short_test_keeps_to_the_standard_loads() -> None:
    home = Home(Brief(system=SYSTEM), (HEATER, SAW))
    steps = steps_of("short_test", home, Source("set", SourceKind.INVERTER_SET, Claims(2000)))
    assert [step.loads for step in steps] == [(), ("2",), ("3",)]
    assert (
        len(steps_of("short_test", Home(Brief(system=SYSTEM), ()), Source("set", SourceKind.STATION, Claims(2000))))
        == 1
    )
