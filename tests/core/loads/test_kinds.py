"""The table of load kinds: each row whole and within range, and everything else derived from it."""

from __future__ import annotations

from dataclasses import replace

import pytest

from muster.core.advice.answers import wave_advice
from muster.core.errors import MusterError
from muster.core.loads.kinds import HINTS, KINDS, UNKNOWN_KIND, kind_by_name
from muster.core.loads.load import Load
from muster.core.supply import SYSTEMS
from muster.core.timeline.captures.waveform import Shape
from muster.twin.appliances import appliance_of

SINGLE = SYSTEMS["single-230-50"]


@pytest.mark.parametrize(
    ("field", "value"),
    [
        ("start_x", 0.5),
        ("start_x", 60.0),
        ("start_s", -1.0),
        ("pf", 0.0),
        ("pf", 1.2),
        ("start_pf", 0.0),
        ("floor_pct", 120.0),
    ],
)
def test_a_figure_that_no_load_has_is_refused_by_its_name(field: str, value: float) -> None:
    with pytest.raises(MusterError, match=field):
        replace(KINDS["motor"], **{field: value})


@pytest.mark.parametrize("slug", list(KINDS))
def test_every_kind_says_what_a_poor_wave_means_for_it(slug: str) -> None:
    load = Load("1", "it", slug, 500, KINDS[slug].pf)
    for shape in (Shape.DISTORTED, Shape.STEPPED, Shape.SQUARE):
        assert wave_advice(load, shape) in (KINDS[slug].distorted, KINDS[slug].stepped)
    assert KINDS[slug].distorted
    assert KINDS[slug].stepped


@pytest.mark.parametrize("slug", sorted(set(KINDS) - {UNKNOWN_KIND}))
def test_the_twin_starts_every_kind_with_the_va_that_is_planned(slug: str) -> None:
    """Volt-amperes in the first instant at nominal volts, all parts that start at once together."""
    load = Load("1", "it", slug, 500, KINDS[slug].pf)
    drawn = appliance_of(load, SINGLE)
    for piece in drawn.pieces:
        if piece.part.start_x <= 1.2:
            continue
        piece.switch(on=True)
        volts = SINGLE.v_nominal
        start_va = abs(piece.admittance(volts)) * volts**2
        # A motor's magnetising current, set by its running power factor, comes on top of its locked-rotor branch.
        above = 0.15 if KINDS[slug].turns else 0.01
        planned_va = piece.part.run_va * piece.part.start_x
        assert planned_va * 0.99 <= start_va <= planned_va * (1 + above), piece.part.name
        if KINDS[slug].turns:
            assert piece.motor is not None


def test_a_name_tells_its_kind_and_no_hint_is_given_twice() -> None:
    assert len({word for word, _ in HINTS}) == len(HINTS)
    told = {
        "sump pump": "motor_loaded",
        "fan heater": "heater",
        "pump motor": "motor_loaded",
        "bath fan motor": "fan",
        "old fridge compressor": "motor",
        "standard lamp": "filament",
        "modem": "electronic",
        "microwave": "microwave",
    }
    assert {name: kind_by_name(name) for name in told} == told
