"""Rules of the household: what each makes of a home, and what none may touch."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.brief import Brief, BringUp
from muster.core.errors import MusterError
from muster.core.loads import Basis, Caller, Duty, Load, LoadFigure, Tier, with_figures
from muster.core.outage.candidates import SourceFits, candidates
from muster.core.outage.household import WORDS, HouseholdRule, RuleKind, why_not, with_rules
from muster.core.outage.simulate import simulate
from muster.core.quantities import Grade
from muster.core.supply import Leg

from ..build import SINGLE, SPLIT, load

BRIEF = Brief(system=SPLIT, outage_h=24, outage_from_hour=17, bring_up=BringUp.AT_ONCE)
PUMP = load("1", "borehole pump", "motor_loaded", 1100, pf=0.7, leg="both", duty=Duty(6, 54))
OVEN = load("2", "bread oven", "heater", 2400, leg="2", tier=Tier.SHOULD, duty=Duty(30, 90, Caller.HAND))
HEATER = load("3", "room heater", "heater", 1500, leg="1", tier=Tier.COULD, duty=Duty(20, 20))
OXYGEN = load("4", "oxygen concentrator", "medical", 350, pf=0.9, leg="2", duty=Duty(60, 0))
FREEZER = load("5", "chest freezer", "compressor", 120, pf=0.7, leg="1", duty=Duty(20, 40))
LOADS = (PUMP, OVEN, HEATER, OXYGEN, FREEZER)
BY_KEY = {item.key: item for item in LOADS}
ANY = {
    RuleKind.FIRST: HouseholdRule(RuleKind.FIRST, load="1"),
    RuleKind.ONE_BY_ONE: HouseholdRule(RuleKind.ONE_BY_ONE),
    RuleKind.APART: HouseholdRule(RuleKind.APART, load="1", other="2"),
    RuleKind.REFUEL: HouseholdRule(RuleKind.REFUEL),
    RuleKind.RESERVE: HouseholdRule(RuleKind.RESERVE, tier=Tier.COULD, share=0.5),
    RuleKind.HOURS: HouseholdRule(RuleKind.HOURS, load="2", from_hour=10, to_hour=14),
    RuleKind.DUTY: HouseholdRule(RuleKind.DUTY, load="3", share=0.7),
    RuleKind.CHARGE: HouseholdRule(RuleKind.CHARGE, w=800, from_hour=10, to_hour=14),
    RuleKind.OFF: HouseholdRule(RuleKind.OFF, load="3"),
    RuleKind.SOFT_STARTER: HouseholdRule(RuleKind.SOFT_STARTER, load="1"),
    RuleKind.OTHER_LEG: HouseholdRule(RuleKind.OTHER_LEG, load="3", leg=Leg.TWO),
}


@pytest.mark.parametrize("kind", RuleKind)
def test_every_rule_has_its_words_what_it_asks_and_what_to_mind(kind: RuleKind) -> None:
    assert kind in ANY
    assert kind.label
    assert len(kind.asks) > 20
    assert len(kind.caution) > 20, "each can hurt somebody who is not told"
    assert WORDS[kind].bears_on
    text = ANY[kind].described(BY_KEY)
    assert "None" not in text
    assert "  " not in text


@pytest.mark.parametrize("kind", RuleKind)
def test_a_rule_that_lacks_what_it_needs_says_what(kind: RuleKind) -> None:
    for name in WORDS[kind].needs:
        with pytest.raises(MusterError, match=name):
            replace(ANY[kind], **{name: "" if name in ("load", "other") else None})


@pytest.mark.parametrize(
    ("rule", "reason"),
    [
        (HouseholdRule(RuleKind.OFF, load="4"), "medical"),
        (HouseholdRule(RuleKind.APART, load="1", other="4"), "medical"),
        (HouseholdRule(RuleKind.OFF, load="5"), "must run"),
        (HouseholdRule(RuleKind.DUTY, load="5", share=0.5), "must run"),
        (HouseholdRule(RuleKind.HOURS, load="5", from_hour=8, to_hour=20), "hours"),
        (HouseholdRule(RuleKind.RESERVE, tier=Tier.MUST, share=0.5), "never left off"),
        (HouseholdRule(RuleKind.OTHER_LEG, load="1", leg=Leg.TWO), "leg"),
        (HouseholdRule(RuleKind.SOFT_STARTER, load="3"), "no motor"),
        (HouseholdRule(RuleKind.FIRST, load="9"), "gone"),
    ],
)
def test_what_must_run_loses_nothing_and_what_is_medical_is_not_touched(rule: HouseholdRule, reason: str) -> None:
    assert reason in why_not(rule, BY_KEY, BRIEF)
    ruled = with_rules(LOADS, BRIEF, [rule])
    assert (ruled.loads, ruled.kept) == (LOADS, ())
    assert ruled.left[0][0] == rule


def test_a_load_that_runs_throughout_is_not_kept_apart_from_what_would_then_never_run() -> None:
    fan = load("6", "fan", "fan", 90, duty=Duty(60, 0))
    rule = HouseholdRule(RuleKind.APART, load="6", other="5")
    assert "never run" in why_not(rule, {**BY_KEY, "6": fan}, BRIEF)


def test_each_rule_makes_of_the_home_what_it_says() -> None:
    def ruled(kind: RuleKind) -> dict[str, Load]:
        return {item.key: item for item in with_rules(LOADS, BRIEF, [ANY[kind]]).loads}

    assert ruled(RuleKind.HOURS)["2"].hours == (10, 11, 12, 13)
    assert ruled(RuleKind.DUTY)["3"].duty.share == pytest.approx(0.7 * HEATER.duty.share)
    assert "3" not in ruled(RuleKind.OFF)
    assert ruled(RuleKind.SOFT_STARTER)["1"].eased
    assert ruled(RuleKind.OTHER_LEG)["3"].leg is Leg.TWO
    assert with_rules(LOADS, BRIEF, [ANY[RuleKind.ONE_BY_ONE]]).brief.bring_up is BringUp.ONE_BY_ONE
    rules = with_rules(LOADS, BRIEF, ANY.values()).rules
    assert rules.apart == (("1", "2"),)
    assert rules.first == ("1",)
    assert rules.shed_below == ((Tier.COULD, 0.5),)
    assert rules.charging is not None
    assert rules.charging.hours == {10, 11, 12, 13}
    assert rules.refuel_before_bed


@given(st.sampled_from(list(Tier)[:3]), st.floats(0.1, 1.0), st.floats(1, 120), st.floats(0, 240))
def test_turned_down_a_load_runs_for_its_share_of_the_time(tier: Tier, share: float, on: float, off: float) -> None:
    heater = replace(HEATER, tier=tier, duty=Duty(on, off))
    (made,) = with_rules([heater], BRIEF, [HouseholdRule(RuleKind.DUTY, load="3", share=share)]).loads
    wanted = heater.duty.share if tier is Tier.MUST else share * heater.duty.share
    assert made.duty.share == pytest.approx(wanted, rel=1e-6) or made.duty.off_min == 24 * 60


def test_two_kept_apart_never_ask_together_and_lose_next_to_nothing() -> None:
    both = (load("1", run_w=1000, duty=Duty(20, 20)), load("2", run_w=1000, duty=Duty(20, 40)))
    brief = replace(BRIEF, system=SINGLE)
    free = simulate(both, brief, 200)
    apart = simulate(both, brief, 200, rules=with_rules(both, brief, [ANY[RuleKind.APART]]).rules)
    assert free.peak_w == pytest.approx(2000)
    assert apart.peak_w == pytest.approx(1000)
    assert apart.total_wh == pytest.approx(free.total_wh, rel=0.02)


def test_what_is_first_starts_before_all_but_what_is_medical() -> None:
    first = with_rules(LOADS, BRIEF, [HouseholdRule(RuleKind.FIRST, load="5")])
    own = {start.load: start.base_w for start in simulate([FREEZER, PUMP], first.brief, 20, rules=first.rules).starts}
    assert own["5"] < own["1"] or own["5"] <= PUMP.run_w


def test_what_is_proposed_fits_the_home_and_bears_on_what_is_open() -> None:
    demand = simulate(LOADS, BRIEF, 20)
    fits = SourceFits(battery=True, tank=True, charge_w=900)
    for line in ("steady-1", "starting:1", "energy", "noise-night", "dips", "legs"):
        rules = candidates(LOADS, BRIEF, fits, demand, [line])
        assert rules, line
        assert all(rule.bears_on(line) for rule in rules)
        assert not any(why_not(rule, BY_KEY, BRIEF) for rule in rules)
        assert not any("4" in (rule.load, rule.other) for rule in rules)
    assert not candidates(LOADS, BRIEF, fits, demand, ["waveform"])


def test_what_must_run_loses_no_hour_to_a_load_that_runs_throughout() -> None:
    """Lights that are on all day would keep a hob of five hours off in all but its first: it is not kept apart from them."""
    lights = load("1", "lights", run_w=200, duty=Duty(), hours=tuple(range(8, 18)))
    hob = load("2", "hob", run_w=2400, duty=Duty(25, 35), hours=(7, 11, 12, 17), tier=Tier.MUST)
    loads = {item.key: item for item in (lights, hob)}
    rule = HouseholdRule(kind=RuleKind.APART, load="1", other="2")
    assert "must run, and would lose those hours" in why_not(rule, loads, Brief(system=SINGLE))
    lesser = replace(hob, tier=Tier.COULD)
    assert why_not(rule, {**loads, "2": lesser}, Brief(system=SINGLE)) == ""


def test_a_soft_starter_that_was_tried_counts_with_the_start_that_was_read_with_it() -> None:
    bare = with_figures(
        load("1", "cold store", "compressor", run_w=640, pf=0.85),
        LoadFigure("start_va", 2050, Basis.MEASURED, "with a borrowed one", soft=True),
    )
    assert bare.grade_of_start is Grade.D
    rule = HouseholdRule(kind=RuleKind.SOFT_STARTER, load="1")
    (eased,) = with_rules((bare,), Brief(system=SINGLE), (rule,)).loads
    assert (eased.start_total_va, eased.grade_of_start) == (2050, Grade.A)
    assert bare.start_total_va > 2050
