"""The household's card: what it says of a source, in whose words, and that its figures err to the safe side."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from muster.core.brief import Brief, BringUp, Home, Wiring
from muster.core.card import LANGUAGES, Card, CardLine, CardWords, OwnText, card_of, language_named, write_card
from muster.core.card.contents import rounded_down, stop_at, tolerated_v
from muster.core.card.languages import figures_in
from muster.core.errors import MusterError
from muster.core.loads import Load, Tier
from muster.core.outage.household import HouseholdRule, RuleKind, with_rules
from muster.core.outage.simulate import draws_of
from muster.core.quantities import Grade
from muster.core.safety.sequence import SwitchStep, household_steps
from muster.core.sources import SourceKind
from muster.core.sources.limits import Limit
from muster.core.supply import SYSTEMS, Leg
from muster.core.verdict import Status, judge
from muster.core.verdict.inputs import under_rules
from tests.examples import examples
from tests.field.judging import demo_case


def card_for(part: str, source: int, **changes: object) -> Card:
    case = demo_case(part, source)
    if changes:
        home = Home(replace(case.home.brief, **changes), case.home.loads)  # type: ignore[arg-type]
        case = replace(case, home=home)
    return card_of("The home", case, judge(case))


def lines_of(card: Card) -> Iterator[CardLine]:
    for section in card.sections:
        for line in section.lines:
            yield line
            yield from line.items


def line(card: Card, key: str) -> CardLine:
    return next(item for item in lines_of(card) if item.key == key)


def keys(card: Card) -> list[str]:
    return [item.key for item in lines_of(card)]


# Languages


@pytest.mark.parametrize("code", LANGUAGES)
def test_every_language_has_every_line_with_the_same_figures(code: str) -> None:
    english, other = language_named("en").texts, language_named(code).texts
    assert other.keys() == english.keys()
    for key, text in english.items():
        assert sorted(figures_in(other[key])) == sorted(figures_in(text)), key
        assert "{" not in "".join(part for part in other[key].split("{")[0]), key


def test_every_step_rule_and_status_has_words() -> None:
    texts = language_named("en").texts
    assert not [step for step in SwitchStep if f"step.{step.value}" not in texts]
    assert not [kind for kind in RuleKind if f"rule.{kind.value}" not in texts]
    assert not [status for status in Status if f"state.{status.value}" not in texts]


def test_a_second_language_says_the_same_in_its_own_words() -> None:
    card = card_for("net_loft", 1)
    english, spanish = write_card(card, CardWords()), write_card(card, CardWords(), "es")
    assert [s.key for s in english.sections] == [s.key for s in spanish.sections]
    assert "3\u202f000\u202fW" in " ".join(line.text for s in spanish.sections for line in s.lines)
    assert spanish.title == "Cuando se va la luz"


# What it says


def test_the_card_of_the_bank_has_its_three_rules_and_the_number_that_means_stop() -> None:
    card = card_for("net_loft", 1)
    assert card.state.key == "state.carries_with_rules"
    pair = line(card, "rule.apart").figures
    assert (pair["load"], pair["other"]) == ("walk-in cold store", "induction hob")
    assert line(card, "rule.soft_starter").figures["load"] == "walk-in cold store"
    assert line(card, "rule.charge").figures["from"] == "10:00"
    assert line(card, "watch.watts").figures["w"] == "3\u202f000\u202fW", "claimed, and held at 3 009 W"
    assert "caution.exhaust" in keys(card), "a generator charges it"
    assert [item.figures["load"] for item in lines_of(card) if item.key == "fails.load"] == [
        "walk-in cold store",
        "workshop lights",
        "induction hob",
    ]
    assert "welder" in line(card, "fails.off").figures["loads"]


def test_a_card_of_a_source_that_is_not_enough_says_so_before_all_else() -> None:
    card = card_for("ferry_house", 0)
    assert card.state.key == "state.falls_short"
    assert write_card(card, CardWords()).state.text.startswith("NOT ENOUGH")
    assert "oxygen concentrator" in line(card, "caution.medical").figures["loads"]
    assert {"before.alarm", "caution.exhaust", "caution.refuel", "caution.backfeed"} <= set(keys(card))
    assert "never" not in [section.key for section in card.sections], "no rule, nothing to say"


def test_nobody_is_told_to_refuel_what_burns_nothing() -> None:
    found = keys(card_for("signal_cottage", 0))
    assert not {"caution.exhaust", "caution.refuel", "before.alarm", "supply.refuel"} & set(found)
    assert "supply.frost" in found


def test_how_long_a_tank_lasts_is_not_guessed_where_nothing_was_played() -> None:
    case = replace(demo_case("ferry_house", 0), played=None)
    assert "supply.tank_unknown" in keys(card_of("x", case, judge(case)))


@pytest.mark.parametrize("kind", list(SourceKind))
def test_a_household_opens_no_isolator_where_the_transfer_goes_over_by_itself(kind: SourceKind) -> None:
    over, back = household_steps(Wiring.AUTOMATIC, kind)
    assert SwitchStep.MAINS_SIDE_OPEN not in over
    assert SwitchStep.MAINS_SIDE_CLOSED not in back
    assert SwitchStep.TRANSFER_GOES_OVER in over


@pytest.mark.parametrize("wiring", list(Wiring))
def test_the_mains_is_off_before_the_source_feeds_and_loads_come_last(wiring: Wiring) -> None:
    card = card_for("ferry_house", 0, wiring=wiring)
    steps = [item.key for item in card.sections[1].lines]
    assert steps[-1] == "fails.off"
    assert card.sections[1].lines[-2].items, "the start order stands under the last step"
    if wiring is Wiring.INTERLOCK:
        assert steps.index("step.main_off") < steps.index("step.interlock_over") < steps.index("step.inlet_on")


def test_loads_that_come_back_together_are_not_told_to_be_switched_on_one_by_one() -> None:
    found = keys(card_for("ferry_house", 0, bring_up=BringUp.AT_ONCE))
    assert "fails.together" in found
    assert "step.branches_on" not in found


@pytest.mark.parametrize("kind", list(RuleKind))
def test_every_kind_of_rule_is_on_the_card_of_a_household_that_keeps_it(kind: RuleKind) -> None:
    """As a line of its own, in the order of starts, or as a load left off."""
    case = demo_case("ferry_house", 3, rules=())
    loads = (*case.home.loads, *case.left_out)
    case = replace(case, home=Home(case.home.brief, loads), left_out=())
    needed: dict[RuleKind, dict[str, object]] = {
        RuleKind.FIRST: {"load": "4"},
        RuleKind.APART: {"load": "1", "other": "4"},
        RuleKind.RESERVE: {"tier": Tier.SHOULD, "share": 0.5},
        RuleKind.HOURS: {"load": "7", "from_hour": 10, "to_hour": 16},
        RuleKind.DUTY: {"load": "a", "share": 0.7},
        RuleKind.CHARGE: {"w": 1200.0, "from_hour": 10, "to_hour": 16},
        RuleKind.OFF: {"load": "b"},
        RuleKind.SOFT_STARTER: {"load": "4"},
        RuleKind.OTHER_LEG: {"load": "9", "leg": Leg.TWO},
    }
    rule = HouseholdRule(kind=kind, **needed.get(kind, {}))  # type: ignore[arg-type]
    ruled = with_rules(case.home.loads, case.home.brief, (rule,))
    assert ruled.kept, "it fits the home"
    card = card_of("x", under_rules(case, ruled, draws_of(20)), judge(case))
    written = " ".join(
        text.text for s in write_card(card, CardWords()).sections for top in s.lines for text in (top, *top.items)
    )
    seen = {
        RuleKind.FIRST: "Switch the breakers on one at a time. Wait until each runs: sump pump",
        RuleKind.ONE_BY_ONE: "one at a time",
        RuleKind.OFF: "Leave off: heat-pump",
        RuleKind.HOURS: "bread oven, only from 10:00 to 16:00",
        RuleKind.REFUEL: "",
    }
    expected = seen.get(kind)
    if expected is None:
        assert f"rule.{kind.value}" in keys(card)
    else:
        assert expected in written


# Its figures


limits = st.builds(
    Limit,
    key=st.sampled_from(["continuous", "surge", "breaker", "held", "trip", "battery", "held_here"]),
    name=st.just("a limit"),
    w=st.floats(10, 20_000),
    leg=st.sampled_from([None, Leg.ONE, Leg.TWO]),
    basis=st.just("made up"),
    grade=st.sampled_from(Grade),
    hold_s=st.sampled_from([None, 5.0]),
)


@settings(max_examples=examples(200))
@given(st.lists(limits, max_size=8), st.sampled_from([None, Leg.ONE]))
def test_the_number_that_means_stop_is_never_above_a_limit_that_binds_for_good(
    here: list[Limit], leg: Leg | None
) -> None:
    stop = stop_at(here, leg)
    binding = [
        limit.w
        for limit in here
        if (limit.leg is None) == (leg is None) and limit.hold_s is None and limit.key not in ("held", "held_here")
    ]
    if binding:
        assert stop is not None
        assert rounded_down(stop.w) <= min(binding)


@given(st.floats(0.5, 1e6))
def test_watts_are_rounded_down_and_by_less_than_a_tenth(w: float) -> None:
    assert 0.9 * w <= rounded_down(w) <= w * (1 + 1e-9)


def test_the_volts_are_those_that_every_load_tolerates() -> None:
    loads = (
        Load(key="1", name="a", kind="heater", run_w=100, pf=1.0),
        Load(key="2", name="b", kind="motor", run_w=100, pf=0.7),
    )
    low, high = tolerated_v(loads, 230)
    assert 200 < low < 230 < high
    assert tolerated_v((), 230) == (float("-inf"), float("inf"))


# Whose words


@pytest.mark.parametrize(
    ("key", "text"),
    [
        ("watch.watts", "Over the limit: switch something off."),
        ("watch.watts", "Over {w} or {w}: switch off."),
        ("watch.watts", "Over 3000 W or {w}: switch off."),
        ("watch.watts", "Over {w.__class__}: switch off."),
        ("watch.watts", "Over {w}{: switch off."),
        ("trips.off", "Switch 3 things off."),
        ("trips.off", " "),
        ("trips.off", "x" * 241),
        ("no.such", "words"),
    ],
)
def test_words_that_lose_a_figure_or_bring_one_of_their_own_are_refused(key: str, text: str) -> None:
    with pytest.raises(MusterError):
        OwnText(language="en", key=key, text=text)


def test_own_words_keep_the_figure_where_they_name_it_and_stay_in_their_language() -> None:
    own = OwnText(language="en", key="watch.watts", text="When the red number passes {w}, turn the last thing off.")
    card = card_for("net_loft", 1)
    english = write_card(card, CardWords(own=(own,)))
    said = [item for section in english.sections for item in section.lines if item.key == "watch.watts"]
    assert said[0].text == "When the red number passes 3\u202f000\u202fW, turn the last thing off."
    assert said[0].is_own
    spanish = write_card(card, CardWords(own=(own,)), "es")
    assert not any(item.is_own for section in spanish.sections for item in section.lines)


def test_whom_to_call_is_left_to_be_filled_in_by_hand_where_nobody_said() -> None:
    card = card_for("net_loft", 1)
    assert all("____" in call for call in write_card(card, CardWords()).calls)
    assert write_card(card, CardWords(calls=("Ishbel, 555 0101",))).calls == ("Ishbel, 555 0101",)


def test_a_home_without_loads_still_makes_a_card() -> None:
    case = demo_case("signal_cottage", 0)
    bare = replace(case, home=Home(Brief(system=SYSTEMS["single-230-50"]), ()), played=None)
    card = card_of("x", bare, judge(case))
    assert "watch.volts" not in keys(card)
