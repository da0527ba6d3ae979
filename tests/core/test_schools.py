"""Where practitioners differ: each question changed, what moves in plan, verdict or outage, and its sentence."""

from __future__ import annotations

from dataclasses import replace
from enum import StrEnum

import pytest

from muster.core.brief import Brief, BringUp, Home, Wiring
from muster.core.findings import findings_of
from muster.core.kit import Kit
from muster.core.loads import Duty, Load, Tier, Wave
from muster.core.outage.simulate import simulate
from muster.core.plan.protocols import steps_of
from muster.core.plan.sheets import build_sheet
from muster.core.quantities import Grade
from muster.core.sessions import Step
from muster.core.sources import Claims, PairSchool, Site, Source, SourceKind, Unit
from muster.core.sources.limits import limits_of
from muster.core.trade.schools import (
    ANSWERS,
    QUESTIONS,
    CapacityTest,
    HowHard,
    MotorOrder,
    NoiseBy,
    Schools,
    SetPointSchool,
    SoftStarters,
    SteppedWave,
    SurgeFrom,
    UsableOf,
    answer,
)
from muster.core.verdict import Requirement, Status, judge
from muster.core.verdict.inputs import VerdictInputs

from .build import SINGLE, case, found, load, session, set_of

BRIEF = Brief(
    system=SINGLE, outage_h=6, outage_from_hour=18, bring_up=BringUp.ONE_BY_ONE, noise_night_dba=60, reserve_pct=0
)
HEATER = load("1", "heater", run_w=2000)
OVEN = load("4", "oven", run_w=2500)
PUMP = load("2", "pump", "motor_loaded", 800, pf=0.8, duty=Duty(5, 25), start_va=9000, start_grade=Grade.C)
FAN = load("3", "fan", "motor", 200, pf=0.7, duty=Duty(5, 25), start_va=900, start_grade=Grade.C)


def by(**schools: StrEnum) -> Brief:
    return replace(BRIEF, schools=Schools(**schools))  # type: ignore[arg-type]


def line(key: str, judged: VerdictInputs) -> Requirement:
    return next(row for row in judge(judged).requirements if row.key == key)


def judged(brief: Brief, source: Source, *loads: Load, lines: tuple[tuple[float, str], ...] = ()) -> VerdictInputs:
    own = Home(brief, loads).within(Tier.COULD)
    return case(own, source, brief, *((found(list(lines), own, SINGLE),) if lines else ()), draws=10)


def steps(protocol: str, brief: Brief, *loads: Load, source: Source | None = None) -> tuple[Step, ...]:
    return steps_of(protocol, Home(brief, loads), source or set_of(3000, surge_w=3600, surge_s=5), Kit())


def test_every_question_has_answers_and_each_says_what_follows() -> None:
    for question, answers in QUESTIONS.values():
        assert question
        assert list(ANSWERS[answers]) == list(answers)
        assert all(said.label and said.follows for said in ANSWERS[answers].values())


def test_how_hard_to_test_sets_how_far_the_overload_goes() -> None:
    loads = (HEATER, OVEN)
    labels = {how: [step.label for step in steps("overload", by(how_hard=how), *loads)] for how in HowHard}
    assert not any("105" in label for label in labels[HowHard.RATING])
    assert any("120" in label for label in labels[HowHard.SURGE])
    assert not any("130" in label for label in labels[HowHard.SURGE])
    assert any("130" in label for label in labels[HowHard.PROTECTION])


def test_the_plan_tells_each_question_as_the_job_takes_it() -> None:
    brief = by(how_hard=HowHard.RATING)
    home = Home(brief, (HEATER, OVEN))
    sheet = build_sheet("ladder", home, set_of(3000), steps("ladder", brief, HEATER, OVEN), Kit())
    told = next(item for item in sheet.schools if item.question == "how hard to test")
    assert (told.taken, told.follows) == (answer(HowHard.RATING).label, answer(HowHard.RATING).follows)


def test_the_big_motor_comes_first_or_last_in_the_plan_and_in_the_outage() -> None:
    first, last = (steps("starts", by(motor_order=order), FAN, PUMP)[0].label for order in MotorOrder)
    assert (first, last) == ("pump, alone", "fan, alone")
    loads = (replace(HEATER, duty=Duty()), replace(PUMP, duty=Duty()))
    base = {
        order: next(s.base_w for s in simulate(loads, by(motor_order=order), 5).starts if s.load == "2")
        for order in MotorOrder
    }
    assert base[MotorOrder.LARGEST_FIRST] == 0
    assert base[MotorOrder.LARGEST_LAST] == pytest.approx(2000)


def test_a_surge_is_of_the_nameplate_of_a_multiple_or_measured_only() -> None:
    source = set_of(3000, surge_w=8000, surge_s=5)
    rows = {school: line("starting", judged(by(surge_from=school), source, PUMP)) for school in SurgeFrom}
    assert "9\u202f000" in rows[SurgeFrom.NAMEPLATE].demand or "11" in rows[SurgeFrom.NAMEPLATE].demand
    assert rows[SurgeFrom.NAMEPLATE].status is Status.FALLS_SHORT
    assert rows[SurgeFrom.MULTIPLE].demand != rows[SurgeFrom.NAMEPLATE].demand
    assert rows[SurgeFrom.MEASURED].status is Status.NOT_PROVEN
    assert "only a measured start counts" in rows[SurgeFrom.MEASURED].sentence


def test_soft_starters_count_or_do_not() -> None:
    eased = replace(PUMP, soft_starter=True)
    source = set_of(3000, surge_w=6000, surge_s=5)
    rows = [line("starting", judged(by(soft_starters=school), source, eased)) for school in SoftStarters]
    assert [row.status for row in rows] == [Status.NOT_PROVEN, Status.FALLS_SHORT]


def test_a_stepped_wave_is_accepted_for_plain_heat_or_refused() -> None:
    source = Source("inv", SourceKind.INVERTER, Claims(cont_w=3000, wave=Wave.STEPPED))
    rows = [line("waveform", judged(by(stepped=school), source, HEATER)) for school in SteppedWave]
    assert [row.status for row in rows] == [Status.NOT_REQUIRED, Status.FALLS_SHORT]


def two_runs(brief: Brief) -> Requirement:
    source = Source("station", SourceKind.STATION, Claims(cont_w=2000, battery_wh=2200, idle_w=10.0))
    seen = []
    for w, wh in ((100.0, 1700.0), (1000.0, 1950.0)):
        s = wh / w * 3600
        lines = [
            (0.0, f"100% {w:.0f}w 0wh"),
            (s / 2, f"50% {w:.0f}w {wh / 2:.0f}wh"),
            (s, f"0% {wh:.0f}wh off by itself, empty"),
        ]
        seen.append(
            findings_of(session(lines, (HEATER,), SINGLE, "endurance"), {"1": HEATER}, SINGLE, 20, source=source)
        )
    small = replace(HEATER, run_w=150)
    return line("energy", case((small,), source, brief, *seen, draws=5))


def test_a_battery_is_judged_by_the_slow_the_fast_or_the_nearest_run() -> None:
    told = {school: " ".join(w.source for w in two_runs(by(capacity_test=school)).workings) for school in CapacityTest}
    assert "17 h" in told[CapacityTest.SLOW].replace("\u202f", " ")
    assert "at 1 000 W" in told[CapacityTest.FAST].replace("\u202f", " ")
    assert "the nearest" in told[CapacityTest.BOTH]


def test_usable_energy_is_a_share_of_the_rating_or_of_what_recharging_took() -> None:
    assert "88.6 % of its rating" in two_runs(by(usable_of=UsableOf.RATED)).sentence.replace("\u202f", " ")
    assert "recharging takes was not read" in two_runs(by(usable_of=UsableOf.RECHARGE)).sentence.replace(
        "What recharging", "recharging"
    )


WALK = (
    (0.0, "background 30db"), (5.0, "+1"), (60.0, "2100w 78db@3m"), (120.0, "2100w 70.6db@7m"), (180.0, "2100w 64.6db@14m"),
)  # fmt: skip


def test_noise_is_one_figure_at_7_m_a_ladder_or_a_reading_at_the_window() -> None:
    rows = {
        school: line("noise-night", judged(by(noise_by=school), set_of(3000), HEATER, lines=WALK)) for school in NoiseBy
    }
    assert "70.6" in rows[NoiseBy.AT_7M].capability
    assert rows[NoiseBy.AT_7M].status is Status.FALLS_SHORT
    quiet = {
        school: line(
            "noise-night", judged(replace(by(noise_by=school), noise_night_dba=75), set_of(3000), HEATER, lines=WALK)
        )
        for school in NoiseBy
    }
    assert quiet[NoiseBy.LADDER].status is Status.CARRIES
    assert quiet[NoiseBy.AT_NEIGHBOUR].status is Status.NOT_PROVEN
    assert "neighbour's window" in quiet[NoiseBy.AT_NEIGHBOUR].sentence


def test_the_governors_school_is_one_of_those_advised() -> None:
    assert {school.label for school in SetPointSchool} == {said.label for said in ANSWERS[SetPointSchool].values()}
    assert Schools().governor is SetPointSchool.HALF


def test_how_the_house_is_connected_sets_what_must_be_confirmed() -> None:
    rows = {
        wiring: line("connection", judged(replace(BRIEF, wiring=wiring), set_of(3000), HEATER))
        for wiring in (Wiring.INTERLOCK, Wiring.ESSENTIAL, Wiring.CORDS)
    }
    assert len({row.sentence for row in rows.values()}) > 1
    assert len({row.demand for row in rows.values()}) == 3


def test_two_unlike_units_are_twice_the_smaller_or_the_sum() -> None:
    units = (Unit("a", 3000, 3600), Unit("b", 2000, 2400))
    held = {}
    for school in (PairSchool.TWICE_SMALLER, PairSchool.SUM):
        pair = Source("pair", SourceKind.INVERTER_SET, Claims(cont_w=5000), units=units, school=school)
        held[school] = next(limit.w for limit in limits_of(pair, SINGLE, Site()) if limit.key == "pair")
    assert held == {PairSchool.TWICE_SMALLER: 4000, PairSchool.SUM: 5000}
    assert all(school.label and school.follows for school in PairSchool)
