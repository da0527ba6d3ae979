"""Each rule that keeps a source from carrying wrongly, taken out by hand: some trap is then walked into."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest

from muster.core.character import conditions, given, set_since
from muster.core.findings import collect, holds, starts
from muster.core.fits import Line
from muster.core.outage import demand
from muster.core.sessions import replay
from muster.core.sources import SourceKind
from muster.core.verdict import quality, rows, starting, steady, steady_va, stored

from . import worlds
from .laying import walked_into
from .traps import TRAPS

RULES: dict[str, tuple[tuple[tuple[Any, str, Any], ...], tuple[str, ...]]] = {
    "a trip at no more than is asked speaks against what was held": (
        ((steady, "_against", lambda case, asked, trip: None),),
        ("tripped_at_the_homes_own_load", "bogged"),
    ),
    "VA beside watts": (((steady_va, "_by_va", lambda *_: iter(())),), ("more_va_than_watts",)),
    "breakers": (((steady_va, "_by_breaker", lambda *_: iter(())),), ("behind_a_smaller_breaker",)),
    "conditions": (
        ((given, "correction", lambda *_: conditions.Correction()),),
        ("held_at_the_sea", "held_on_the_other_fuel", "started_at_the_sea"),
    ),
    "newest after a service": (
        ((set_since.SetSince, "is_outdated", lambda *_: False),),
        ("serviced_since", "governor_turned_since", "another_battery_since"),
    ),
    "a fuel's use is of that fuel": (((set_since, "BURNT", ()),), ("used_on_the_other_fuel",)),
    "three loads and no far extrapolation": (((Line, "bears", lambda *_: True),), ("volts_at_two_loads",)),
    "flagged entries decide nothing": (
        ((collect, "misread", lambda _: frozenset()),),
        ("typed_a_digit_too_many", "counter_misread"),
    ),
    "nothing live after a trip until shown": (((replay, "_unchanged", lambda *_: []),), ("read_on_after_the_trip",)),
    "a settled voltage below what it stands is no start": (
        ((starts, "_as_settled", lambda run, *_: run),),
        ("settled_below_what_it_stands",),
    ),
    "three starts": (((starting, "STARTS_WANTED", 1),), ("two_starts",)),
    "a must without hours": (
        ((steady, "unscheduled", lambda _: []), (starting, "unscheduled", lambda _: [])),
        ("a_must_without_hours",),
    ),
    "a guessed load enters at its upper figure": (((demand, "UPPER_X", 1.0),), ("a_load_guessed_too_low",)),
    "what a meter can see": (((starts, "bound_of", lambda *_, **__: None),), ("dip_by_a_slow_meter",)),
    "cold": (((stored, "cold_share", lambda *_, **__: 1.0),), ("cold_store",)),
    "the rate asked for": (((stored, "faster_share", lambda *_: 1.0),), ("lead_run_slowly",)),
    "an idle draw nobody read": (((stored, "IDLE_USUAL_SHARE", 0.0),), ("idle_never_read",)),
    "swings of volts": (((rows, "with_volts_swung", lambda row, _: row),), ("swings_when_the_load_goes",)),
    "swings of hertz": (((rows, "with_hertz_swung", lambda row, _: row),), ("races_when_the_load_goes",)),
    "volts and hertz of a motor together": (((quality, "_with_hertz", lambda *_: []),), ("both_off_together",)),
    "heat settles": (((SourceKind, "settles_s", property(lambda _: 60.0)),), ("heat_not_settled",)),
    "amps are no watts": (((holds, "_by_amps", lambda *_: False),), ("amps_alone",)),
    "a hold counts from ten minutes": (((holds, "COUNTS_AS_HELD_S", 0.0),), ("held_for_some_minutes",)),
}
"""By what it is: what is put in the place of it, and the traps of which one is then walked into."""


@pytest.fixture
def forgetful() -> Iterator[None]:
    """Nothing kept from before a rule was taken out, and nothing after."""
    for kept in (worlds._findings, worlds._demand):
        kept.cache_clear()
    yield
    for kept in (worlds._findings, worlds._demand):
        kept.cache_clear()


@pytest.mark.parametrize("rule", RULES)
def test_without_a_rule_a_trap_is_walked_into(rule: str, forgetful: None, monkeypatch: pytest.MonkeyPatch) -> None:
    patches, names = RULES[rule]
    for owner, name, instead in patches:
        monkeypatch.setattr(owner, name, instead)
    traps = [trap for trap in TRAPS if trap.name in names]
    assert any(walked_into(trap, seed) for trap in traps for seed in range(4)), rule
