"""Heaters and lamps brought for a test: planned with, and no part of what the home needs."""

from __future__ import annotations

from muster.core.brief import Brief, Home
from muster.core.kit import Kit
from muster.core.loads import Tier
from muster.core.loads.line_parser import parse_load_line
from muster.core.plan import steps_of
from muster.core.sources import Claims, Source, SourceKind

from .build import SINGLE, load

FREEZER = load("1", "freezer", "motor", 130, pf=0.7)
HEATERS = tuple(parse_load_line(f"heater {n} 1kw test", str(n), 230).load for n in range(2, 6))
HOME = Home(Brief(system=SINGLE), (FREEZER, *HEATERS))
SOURCE = Source("set", SourceKind.OPEN_FRAME, Claims(2000))


def test_a_load_is_for_the_test_by_one_word() -> None:
    assert {load.tier for load in HEATERS} == {Tier.TEST}


def test_the_home_asks_nothing_of_it() -> None:
    assert HOME.loads == (FREEZER,)
    assert HOME.within(Tier.COULD) == (FREEZER,)


def test_an_overload_is_planned_with_it() -> None:
    steps = steps_of("overload", HOME, SOURCE, Kit())
    assert max(step.planned_w or 0 for step in steps) > SOURCE.claims.cont_w
    assert {key for step in steps for key in step.loads} & {load.key for load in HEATERS}


def test_it_is_known_by_its_key_where_it_is_switched() -> None:
    assert HOME.by_key["2"] in HOME.test_loads
