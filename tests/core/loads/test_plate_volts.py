"""The volts on a load's own nameplate, as the line says them."""

from __future__ import annotations

import pytest

from muster.core.errors import OutOfRange
from muster.core.loads import Load
from muster.core.loads.line_parser import parse_load_line
from muster.core.quantities import Grade
from muster.core.supply import Leg


def read(line: str, v_nominal: float = 120) -> Load:
    return parse_load_line(line, "1", v_nominal).load


@pytest.mark.parametrize(
    ("line", "plate_v"),
    [
        ("sump pump 800 W rated 115 v", 115),
        ("fridge 130w 110v on its nameplate", 110),
        ("sump pump 7.5a 115 volts by its nameplate", 115),
        ("well pump 900w both plate 230v", 230),
        ("sump pump 800w", None),
        ("LED strip 24w rated 12v", None),
    ],
)
def test_plate_volts_are_read_and_those_behind_an_adaptor_are_not(line: str, plate_v: float | None) -> None:
    assert read(line).plate_v == plate_v


def test_a_load_rated_for_both_legs_sits_across_them_unless_its_leg_was_said() -> None:
    assert read("well pump 900w rated 230 v").leg is Leg.BOTH
    assert read("well pump 900w l2 rated 230 v").leg is Leg.TWO
    assert read("sump pump 800w rated 115 v").leg is Leg.ONE
    assert read("well pump 900w rated 240 v", 230).leg is Leg.ONE


def test_a_floor_counts_from_the_plate_across_both_legs_and_on_one() -> None:
    across, one_leg = read("well pump 900w both rated 230 v"), read("sump pump 800w rated 115 v")
    for load, share in ((across, 230 / 240), (one_leg, 115 / 120)):
        assert load.plate_x(120) == pytest.approx(share)
        assert load.floor_v(120) == pytest.approx(120 * share * load.kind_figures.floor_pct / 100)


def test_volts_that_no_mains_has_are_refused_by_the_load_itself() -> None:
    with pytest.raises(OutOfRange, match="12"):
        Load(key="1", name="strip", kind="heater", run_w=20, pf=1.0, plate_v=12)


def test_words_set_off_by_commas_are_words_all_the_same() -> None:
    load = parse_load_line("well pump 750w measured, start 4.2kva, 5/40, must", "1", 230.0).load
    assert load.name == "well pump"
    assert (load.start_va, load.duty.on_min, load.duty.off_min) == (4200, 5, 40)
    assert (load.run_grade, load.start_grade) == (Grade.A, Grade.B)
