"""The kit against itself: who stands apart, and what it widens."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.kit import USUAL_KIT, Kit
from muster.core.kit.cross_check import cross_check
from muster.core.kit.instruments import Apart

KIT = Kit()


def apart(read: dict[str, dict[str, float]]) -> set[tuple[str, str]]:
    return {(seen.slug, seen.quantity) for seen in cross_check(read, KIT) if seen.is_apart}


def test_instruments_within_what_they_are_good_for_agree() -> None:
    assert apart({"meter": {"v": 230.0}, "plug": {"v": 231.8}, "multimeter": {"v": 229.4}}) == set()


def test_the_one_that_reads_otherwise_stands_apart_and_the_two_that_agree_do_not() -> None:
    assert apart({"meter": {"v": 230.0}, "multimeter": {"v": 230.4}, "plug": {"v": 238.0}}) == {("plug", "v")}


def test_of_two_that_disagree_neither_is_known_to_be_right() -> None:
    assert apart({"meter": {"v": 230.0}, "plug": {"v": 240.0}}) == {("meter", "v"), ("plug", "v")}


def test_hertz_are_held_apart_from_volts() -> None:
    read = {"meter": {"v": 230.0, "hz": 50.0}, "recorder": {"v": 230.2, "hz": 50.01}, "multimeter": {"hz": 50.6}}
    assert apart(read) == {("multimeter", "hz")}


@pytest.mark.parametrize("read", [{}, {"meter": {"v": 230.0}}, {"meter": {"v": 230.0}, "multimeter": {"hz": 50.0}}])
def test_one_alone_is_held_against_nothing(read: dict[str, dict[str, float]]) -> None:
    with pytest.raises(MusterError, match="the same figure from two instruments"):
        cross_check(read, KIT)


def test_what_stands_apart_is_as_far_off_in_every_band_it_enters() -> None:
    """3 % apart in volts: so are watts and energy of that meter, and no hertz."""
    off = Kit(tuple(replace(i, apart=(Apart("v", 0.03),)) if i.slug == "plug" else i for i in USUAL_KIT))
    for quantity, value in (("v", 230.0), ("w", 1000.0), ("wh", 500.0)):
        assert off.u(quantity, "plug", value) == pytest.approx(KIT.u(quantity, "plug", value) + 0.03 * value)
    assert off.u("hz", "plug", 50.0) == KIT.u("hz", "plug", 50.0)
    assert off.u("v", "meter", 230.0) == KIT.u("v", "meter", 230.0)


@given(st.floats(210, 250), st.floats(0.9, 1.1))
def test_the_scale_of_all_together_changes_nothing(volts: float, scale: float) -> None:
    read = {"meter": {"v": volts}, "plug": {"v": volts * 1.05}, "multimeter": {"v": volts}}
    scaled = {slug: {"v": figures["v"] * scale} for slug, figures in read.items()}
    near = [seen.gap / seen.others for seen in cross_check(read, KIT)]
    assert [seen.gap / seen.others for seen in cross_check(scaled, KIT)] == pytest.approx(near, abs=2e-3)
