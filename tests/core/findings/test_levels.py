"""A level is held from its first reading to its last: what another load was read at is none of its time, and none of its volts."""

from __future__ import annotations

import pytest

from muster.core.sessions import Place
from tests.core.build import SINGLE, found


def held(*lines: tuple[float, str]) -> list[tuple[float, float, bool]]:
    return [(h.w, h.held_s, h.tripped) for h in found(list(lines), system=SINGLE).holds if h.place is Place.TOTAL]


def test_the_last_two_seconds_at_2_700_w_are_no_hour_of_it() -> None:
    assert held((0, "400w"), (3598, "405w"), (3600, "2700w"), (3602, "2700w")) == [
        (405.0, 3598.0, False),
        (2700.0, 2.0, False),
    ]


def test_a_generator_climbed_without_pressing_anything_holds_each_level_for_its_own_readings() -> None:
    lines = ((0, "123v"), (120, "640w"), (360, "1510w"), (540, "2200w"), (660, "2790w"), (1500, "2800w"), (1560, "3390w"), (1591, "went off"))  # fmt: skip
    assert held(*lines) == [(2800.0, 840.0, False), (3390.0, 31.0, True)]


def test_a_trip_at_watts_first_read_as_it_went_has_not_stood_for_the_time_before() -> None:
    assert held((0, "1.9kw"), (4920, "tripped, 3.4kw")) == [(3400.0, 0.0, True)]


@pytest.mark.parametrize("line", ["1.9kw", "1.95kw", "2.05kw"])
def test_what_warms_and_cycles_stays_one_level(line: str) -> None:
    assert held((0, "2.0kw"), (600, line), (1200, "2.0kw")) == [(2000.0, 1200.0, False)]


def test_volts_are_of_the_watts_they_were_read_beside() -> None:
    """117 V was read at 1.9 kW; the trip at 3.4 kW that follows says nothing of its volts."""
    lines = [(0, "123v no load"), (600, "210w 122v"), (2100, "1.9kw 117v"), (7000, "tripped, 3.4kw")]
    (volts,) = found(lines, system=SINGLE).regulation
    assert volts.line.x_high == 1900


def test_what_goes_off_at_a_low_gauge_after_hours_of_the_same_load_ran_out() -> None:
    lines = ((0, "100% 150w"), (14_400, "58% 151w"), (30_600, "10% beeping"), (33_600, "went off, 1.34kwh"))
    (hold,) = found(list(lines), system=SINGLE).holds
    assert (hold.tripped, hold.ran_out) == (True, True)


def test_what_goes_off_at_a_low_gauge_as_the_load_is_raised_did_not_run_out() -> None:
    lines = ((0, "14% 150w"), (3600, "11% 150w"), (3700, "1.9kw"), (3705, "went off"))
    assert [(h.w, h.ran_out) for h in found(list(lines), system=SINGLE).holds if h.tripped] == [(1900.0, False)]
