"""A verdict with rules of the household: what carries by them alone says so, and the search finds them."""

from __future__ import annotations

from dataclasses import replace

from muster.core.brief import Brief, BringUp
from muster.core.loads import Caller, Duty, Load, Tier
from muster.core.outage.candidates import SourceFits
from muster.core.outage.demand import SEED
from muster.core.outage.household import HouseholdRule, RuledHome, RuleKind, with_rules
from muster.core.outage.play import play_outage, play_with_doubt, ready
from muster.core.outage.played import OutagePlayed
from muster.core.outage.simulate import draws_of
from muster.core.verdict import Requirement, Status, judge
from muster.core.verdict.inputs import VerdictInputs, under_rules
from muster.core.verdict.judge import overall
from muster.core.verdict.rule_search import RulesFound, Searching, lines_of, search_rules
from muster.core.verdict.ruled import by_rules, described, starved

from ..build import SINGLE, case, found, load, set_of

BRIEF = Brief(system=SINGLE, outage_h=8, outage_from_hour=16, bring_up=BringUp.ONE_BY_ONE, reserve_pct=10)
STOVE = load("1", "stove", run_w=1500, duty=Duty(20, 40))
HEATER = load("2", "heater", run_w=1400, duty=Duty(15, 30))
LOADS = (STOVE, HEATER)
HELD = ((0.0, "+1"), (10.0, "2000w 8.7a 230v"), (7200.0, "2000w 8.7a 230v"), (7300.0, "2600w !trip"))
APART = HouseholdRule(RuleKind.APART, load="1", other="2")
DEMAND = draws_of(60)


def plain(*loads: Load, brief: Brief = BRIEF) -> VerdictInputs:
    """Two kilowatts were held for two hours, and it tripped at 2.6."""
    home = loads or LOADS
    made = case(home, set_of(2400), brief, found(list(HELD), home, SINGLE))
    return replace(made, demand=DEMAND(home, brief), planned=DEMAND(home, brief))


def play(case_: VerdictInputs, home: RuledHome, draws: int = 1000) -> OutagePlayed:
    return play_outage(ready(home.loads, home.brief, case_.character, home.rules, SEED), draws, events=False)


def ruled(*rules: HouseholdRule) -> VerdictInputs:
    bare = plain()
    bare = replace(bare, played=play(bare, with_rules(LOADS, BRIEF, ())))
    home = with_rules(LOADS, BRIEF, rules)
    return replace(under_rules(bare, home, DEMAND), played=play(bare, home), without=bare)


def line(judged: VerdictInputs, key: str = "steady-total") -> Requirement:
    return next(row for row in judge(judged).requirements if row.key == key)


def test_what_carries_with_a_rule_alone_names_it_and_without_it_falls_short() -> None:
    judged = ruled(APART)
    assert judged.without is not None
    assert line(judged.without).status is Status.FALLS_SHORT
    row = line(judged)
    assert row.status is Status.WITH_RULES
    assert row.rules == ("never run the stove and the heater together",)
    assert "never run the stove and the heater together" in row.sentence


def test_a_rule_that_changes_nothing_is_named_nowhere() -> None:
    assert line(ruled(HouseholdRule(RuleKind.REFUEL))).status is Status.FALLS_SHORT
    assert not line(ruled(HouseholdRule(RuleKind.REFUEL))).rules


def test_a_rule_that_does_not_fit_the_home_carries_nothing() -> None:
    """Both must run: neither may be left off for the other."""
    judged = with_rules(LOADS, BRIEF, [HouseholdRule(RuleKind.OFF, load="2")])
    assert judged.kept == ()
    assert judged.loads == LOADS


def search(bare: VerdictInputs, fits: SourceFits) -> RulesFound:
    def glance(home: RuledHome) -> OutagePlayed:
        return play_with_doubt(ready(home.loads, home.brief, bare.character, home.rules, SEED), 200)

    searching = Searching(
        case=bare, demand_of=DEMAND, glance_demand=DEMAND, glance=glance, play=lambda home: play(bare, home)
    )
    return search_rules(searching, fits)


TANK = SourceFits(battery=False, tank=True)


def test_the_search_finds_the_one_rule_that_makes_it_carry_and_says_what_it_buys() -> None:
    result = search(plain(), TANK)
    assert result.rules == (APART,)
    assert result.exact
    assert "Steady capacity" in result.open_before
    assert "Steady capacity" not in result.still_open
    (worth,) = result.worth
    label, share = worth.buys[0]
    assert label == "Steady capacity"
    assert share is not None
    assert share > 0.9
    assert worth.costs


def test_no_rule_takes_a_load_that_must_run_and_one_that_could_is_spared_instead() -> None:
    spared = replace(HEATER, tier=Tier.COULD, duty=Duty(60, 0), hours=tuple(range(24)), name="spare heater")
    result = search(plain(STOVE, spared), TANK)
    assert result.rules
    assert all(rule.load == "2" or rule.other == "2" for rule in result.rules)
    always_on = replace(STOVE, duty=Duty(60, 0)), replace(HEATER, duty=Duty(60, 0))
    nothing = search(plain(*always_on), TANK)
    assert nothing.rules == ()
    assert "Steady capacity" in (*nothing.still_open, *nothing.beyond)


def test_what_wants_a_reading_is_beyond_any_rule() -> None:
    unread = case(LOADS, set_of(2400), BRIEF)
    result = search(replace(unread, demand=DEMAND(LOADS, BRIEF), planned=DEMAND(LOADS, BRIEF)), TANK)
    assert "Fuel" in result.beyond
    assert not any(label == "Fuel" for label in result.open_before)


def test_a_hand_is_told_to_wait_by_no_line_that_it_does_not_bear_on() -> None:
    kettle = load("3", "kettle", "heater", 2000, duty=Duty(5, 55, Caller.HAND))
    keys = lines_of(plain(*LOADS, kettle))
    bearing = {key for key in keys if HouseholdRule(RuleKind.REFUEL).bears_on(key)}
    assert bearing <= {"energy"}


def passing(key: str, load_name: str = "", status: Status = Status.CARRIES) -> Requirement:
    return Requirement(key, "1", "2", None, None, status, "Holds.", load=load_name)


def test_what_carries_by_rules_never_passes_for_what_carries_without_them() -> None:
    """Whether or not a rule is known to bear on the line, and of several starts none stands for another."""
    judged = ruled(HouseholdRule(kind=RuleKind.REFUEL))
    (by_any,) = by_rules([passing("steady-total")], [passing("steady-total", status=Status.FALLS_SHORT)], judged)
    assert by_any.status is Status.WITH_RULES
    assert by_any.rules == ("fill the tank before bed, cooled down first",)
    before = [passing("starting", "pump"), passing("starting", "freezer", Status.FALLS_SHORT)]
    (new,) = by_rules([passing("starting", "pump and the freezer together")], before, judged)
    assert new.status is Status.WITH_RULES


def test_a_home_that_carries_for_a_line_is_gone_by_a_rule_carries_with_rules() -> None:
    """A pump that could run and does not start, left off: no start is left to be judged, and nothing else says so."""
    short = [passing("steady-total"), passing("starting", "pump", Status.FALLS_SHORT)]
    gone = [passing("steady-total"), passing("starting", status=Status.NOT_REQUIRED)]
    assert overall(gone) is Status.CARRIES
    assert overall(gone, short) is Status.WITH_RULES
    assert overall(gone, gone) is Status.CARRIES
    assert overall(short, short) is Status.FALLS_SHORT


def test_a_rule_is_told_by_the_name_of_the_load_that_it_leaves_off() -> None:
    rule = HouseholdRule(kind=RuleKind.OFF, load="3")
    fan = load("3", "fan", "motor_loaded", 90, pf=0.8, tier=Tier.COULD)
    bare = plain(*LOADS, fan)
    case_ = under_rules(bare, with_rules((*LOADS, fan), BRIEF, [rule]), DEMAND)
    assert described(case_.rules, case_) == ("leave the fan off",)
    assert "fan" not in " ".join(row.load for row in judge(case_).start_rows)


def test_what_must_run_is_not_starved_by_a_rule_that_then_carries() -> None:
    """Each runs three quarters of the hour: kept apart they get little more than half of it, and no verdict rests on that."""
    busy = (
        replace(STOVE, duty=Duty(45, 15, Caller.HAND), tier=Tier.MUST),
        replace(HEATER, duty=Duty(45, 15, Caller.HAND), tier=Tier.MUST),
    )
    bare = plain(*busy)
    bare = replace(bare, played=play(bare, with_rules(busy, BRIEF, ())))
    home = with_rules(busy, BRIEF, (APART,))
    assert home.kept, "by their hours alone they could be kept apart"
    judged = replace(under_rules(bare, home, DEMAND), played=play(bare, home), without=bare)
    lost = {item.name: share for item, share in starved(judged)}
    assert lost
    assert all(share < 0.95 for share in lost.values())
    row = line(judged)
    assert row.status is Status.FALLS_SHORT
    assert "The rules do not count" in row.sentence
    assert starved(ruled(APART)) == ()
    assert starved(bare) == ()


def test_no_search_proposes_a_set_that_starves_what_must_run() -> None:
    busy = tuple(replace(item, duty=Duty(45, 15, Caller.HAND), tier=Tier.MUST) for item in LOADS)
    bare = plain(*busy)
    searching = Searching(
        case=bare,
        demand_of=DEMAND,
        glance_demand=DEMAND,
        glance=lambda home: play(bare, home, 200),
        play=lambda home: play(bare, home),
    )
    found_rules = search_rules(searching, SourceFits(battery=False, tank=True))
    assert APART not in found_rules.rules
    assert found_rules.still_open
