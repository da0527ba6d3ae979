"""The energy of a run: a counter begins where the run began, watts are counted where no counter was, and a tank by what was read."""

from __future__ import annotations

from dataclasses import replace

import pytest

from muster.core.findings import SessionFindings, findings_of
from muster.core.findings.runs import Run, tail_of
from muster.core.sources import Claims, Source, SourceKind
from tests.core.build import SINGLE, session

STATION = Source("station", SourceKind.STATION, Claims(cont_w=1800, battery_wh=2200))
H = 3600.0


def seen(*lines: tuple[float, str], protocol: str = "endurance", source: Source = STATION) -> SessionFindings:
    return findings_of(session(list(lines), (), SINGLE, protocol), {}, SINGLE, 20, source=source)


def run_of(*lines: tuple[float, str], protocol: str = "endurance") -> Run:
    found = seen(*lines, protocol=protocol).runs
    assert found is not None
    return found.run


SLOW = ((0.0, "100% on"), (3 * H, "88% 0.21kwh"), (7.5 * H, "70% 0.52kwh"), (12 * H, "52% 0.83kwh"), (18 * H, "30% 1.21kwh"), (24 * H, "12% 1.49kwh"), (27.5 * H, "0%, off by itself, 1.66kwh"))  # fmt: skip


def test_a_station_run_empty_slowly_gave_all_that_its_counter_shows() -> None:
    """F2: usable 75.5 %, over 27 h 30."""
    found = seen(*SLOW)
    assert found.runs is not None
    assert found.runs.run.ac_wh == pytest.approx(1660)
    assert found.runs.run.hours == pytest.approx(27.5)
    (usable,) = (f for f in found.runs.findings if f.title == "Usable share")
    assert usable.value.value == pytest.approx(75.5, abs=0.05)


def test_a_station_run_empty_fast_with_one_count_at_its_end() -> None:
    """F2: 87.7 %, 1.93 kWh in 1 h 36."""
    run = run_of((0, "100%, 1.2kw"), (1.6 * H, "0% 1.93kwh off by itself"))
    assert run.ac_wh == pytest.approx(1930)
    assert run.ac_wh / 2200 * 100 == pytest.approx(87.7, abs=0.05)
    assert run.whole


def test_a_charge_is_counted_from_where_it_began() -> None:
    run = run_of((0, "0%"), (5.17 * H, "100% 2.48kwh"), protocol="recharge")
    assert (run.ac_wh, run.down) == (pytest.approx(2480), False)


def test_what_stood_on_the_counter_before_the_run_is_left_out() -> None:
    """5.20 kWh after an hour of 500 W was there before."""
    run = run_of((0, "100% 500w"), (H, "80% 500w 5.2kwh"), (3 * H, "30% 500w 6.2kwh"))
    assert run.ac_wh == pytest.approx(1000)
    assert run_of((0, "100% 4.7kwh"), (H, "80% 5.2kwh")).ac_wh == pytest.approx(500)


def test_the_working_says_where_the_counter_was_taken_to_stand() -> None:
    found = seen(*SLOW)
    assert found.runs is not None
    (run, *_) = found.runs.findings
    assert "taken to stand at 0 where the run began" in run.workings[-1].source


def test_a_run_of_watts_alone_is_watts_times_time_with_what_lies_between_in_its_band() -> None:
    run = run_of((0, "100% 95w"), (6 * H, "73% 95w"), (12 * H, "45% 94w"))
    assert run.ac_wh == pytest.approx(95 * 6 + 94.5 * 6)
    assert run.no_counter
    wide = run_of((0, "100% 500w"), (2 * H, "60% 100w"))
    assert wide.ac_wh == pytest.approx(600)
    assert wide.u_ac_wh >= 400, "it may have been 500 W all the time, or 100"


def test_a_run_of_watts_alone_to_the_end_is_whole_at_grade_b() -> None:
    found = seen((0, "100% 480w"), (2 * H, "50% 480w"), (3.8 * H, "0% 480w"), (3.9 * H, "went off by itself"))
    assert found.runs is not None
    assert found.runs.run.whole
    assert found.runs.findings[0].value.grade == "B"


def test_fuel_is_of_the_watts_that_were_read_though_nobody_said_what_was_on() -> None:
    source = replace(STATION, kind=SourceKind.OPEN_FRAME, claims=Claims(cont_w=2800, tank_l=15))
    found = seen((0, "fuel 15 l 700w"), (3 * H, "fuel 13.5 l 700w"), (3.2 * H, "1500w"), (6.2 * H, "fuel 10.5 l 1500w"), source=source)  # fmt: skip
    assert found.fuel is not None
    assert [(round(p.w, -2), round(p.lph, 2)) for p in found.fuel.points] == [(700, 0.5), (1500, 0.94)]


def test_a_night_in_percent_tells_how_long_and_at_what_mean_load_by_the_nameplate() -> None:
    """F3: 11 h 50 from full to empty, about 78 W if 85 % is usable."""
    station = replace(STATION, claims=Claims(cont_w=880, battery_wh=1100, usable_pct=85))
    lines = [(0.0, "100%"), (11_400, "76%"), (20_400, "54%"), (30_600, "28%"), (42_600, "1%, just quit")]
    found = seen(*lines, source=station)
    assert found.runs is not None
    (told,) = found.runs.findings
    assert (
        told.sentence
        == "It went from 100\u202f% to 1\u202f% in 11\u202fh 50\u202fmin: about 79\u202fW on average, if 935\u202fWh of it are usable. It was empty then."
    )
    (ended,) = (h for h in found.holds if h.tripped)
    assert ended.ran_out
    assert ended.finding not in found.findings, "the run tells it"


def test_half_a_night_in_percent_says_how_long_it_would_have_gone_on() -> None:
    found = seen((0, "100%"), (4 * H, "70%"), (8 * H, "40%"))
    assert found.runs is not None
    first, runtime = found.runs.findings
    assert first.value.bound is not None
    assert "It would have gone on for" in runtime.sentence


def test_a_charge_has_its_tail_and_stands_beside_what_is_claimed() -> None:
    slow = replace(STATION, claims=Claims(cont_w=1800, battery_wh=2200, charge_w=600, charge_h=4))
    lines = ((0.0, "0% 0wh"), (3 * H, "70% 1.7kwh"), (4 * H, "90% 2.2kwh"), (5.5 * H, "100% 2.5kwh full"))
    found = seen(*lines, protocol="recharge", source=slow).runs
    assert found is not None
    sentence = found.findings[0].sentence.replace("\u202f", " ")
    assert "To 80 % it took 3 h 30 min, the rest 2 h." in sentence
    assert "at the 600 W claimed it would take 4 h 10 min; 4 h are claimed, 138 % of that it took" in sentence
    assert tail_of([(0.0, 50.0), (3600.0, 100.0)]) is None
