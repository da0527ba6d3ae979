"""Protocols fit the source: what cannot tell anything of it is not offered first, and never advised."""

from __future__ import annotations

import pytest

from muster.core.plan.fitting import fits, fitting
from muster.core.sessions import PROTOCOLS
from muster.core.sources import Claims, Source, SourceKind, Unit
from tests.core.build import SINGLE, SPLIT


def source(kind: SourceKind, **more: object) -> Source:
    return Source(name="it", kind=kind, claims=Claims(cont_w=2000), **more)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("kind", "not_offered"),
    [
        (SourceKind.OPEN_FRAME, {"idle", "legs", "parallel", "recharge", "solar_input", "cut_offs"}),
        (SourceKind.INVERTER_SET, {"idle", "legs", "parallel", "set_point", "recharge", "solar_input", "cut_offs"}),
        (SourceKind.INVERTER, {"legs", "parallel", "set_point", "solar_input"}),
        (SourceKind.HYBRID, {"legs", "parallel", "set_point"}),
        (SourceKind.STATION, {"legs", "parallel", "set_point", "cut_offs"}),
    ],
)
def test_what_tells_nothing_of_a_kind_stands_apart(kind: SourceKind, not_offered: set[str]) -> None:
    offered, others = fitting(source(kind), SINGLE)
    assert {protocol.slug for protocol in others} == not_offered
    assert {protocol.slug for protocol in (*offered, *others)} == set(PROTOCOLS)


def test_legs_want_two_and_sharing_wants_a_pair() -> None:
    pair = source(SourceKind.INVERTER_SET, units=(Unit("a", 1000), Unit("b", 900)))
    assert fits("legs", pair, SPLIT)
    assert fits("parallel", pair, SPLIT)
