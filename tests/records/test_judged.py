"""A verdict kept in memory: the same while nothing of its case changed, another as soon as anything did."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from muster.core.measures import Measures, showing_in
from muster.core.verdict import judge
from muster.core.verdict.inputs import VerdictInputs
from muster.records.judged import verdict_of
from tests.field.judging import demo_case


@pytest.fixture(scope="module")
def case() -> VerdictInputs:
    return demo_case("signal_cottage", 0)


def test_the_same_case_is_judged_once(case: VerdictInputs) -> None:
    first = verdict_of(case)
    assert first == judge(case)
    assert verdict_of(replace(case)) is first


@pytest.mark.parametrize(
    "changed",
    [
        lambda case: {"passed": frozenset()},
        lambda case: {
            "home": replace(case.home, brief=replace(case.home.brief, outage_h=case.home.brief.outage_h + 1))
        },
        lambda case: {"source": replace(case.source, name="another")},
        lambda case: {"given": replace(case.given, sessions=())},
        lambda case: {"demand": replace(case.demand)},
        lambda case: {"played": None},
        lambda case: {"without": replace(case, rules=())},
    ],
)
def test_what_a_verdict_hangs_on_makes_it_another(case: VerdictInputs, changed: Any) -> None:
    kept, other = verdict_of(case), replace(case, **changed(case))
    assert verdict_of(other) is not kept
    assert verdict_of(other) == judge(other)


def test_other_units_are_another_verdict(case: VerdictInputs) -> None:
    kept = verdict_of(case)
    with showing_in(Measures(length="ft")):
        assert verdict_of(case) is not kept
