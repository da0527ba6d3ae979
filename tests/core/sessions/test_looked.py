"""An inspection as people write it down: a point, a colon and its answer; what a run reads is never taken for one."""

from __future__ import annotations

import pytest

from muster.core.sessions import Event, LookedAt, Note, Reading
from muster.core.sessions.inspection import POINTS, answered, text_of
from muster.core.sessions.log_line import Jotting, read_line
from tests.core.build import SINGLE


def read(line: str) -> Jotting:
    return read_line(line, {"pump": "pump"}, SINGLE)


@pytest.mark.parametrize("note", ["", "by the print"])
def test_every_answer_is_read_back_from_the_words_in_which_it_is_told(note: str) -> None:
    for point in POINTS:
        for answer in point.answers:
            looked = answered(point.slug, answer.slug, note)
            assert read(text_of(looked)).items == (looked,), text_of(looked)


@pytest.mark.parametrize(
    ("line", "point", "answer", "note"),
    [
        ("10:05 leads: CCA, 12 AWG printed", "leads", "clad", "12 AWG printed"),
        ("Fuse: none", "fuse", "none", ""),
        ("fuse: inside, 30 A", "fuse", "inside", "30 A"),
        ("sockets: loose (left one)", "sockets", "loose", "left one"),
        ("Live when off: live, both", "live_off", "live", "both"),
        ("GFCI: does not trip", "protection", "dead", ""),
        ("warranty: the buyer", "returns", "buyer", ""),
        ("leads are copper-clad aluminium, 12 AWG printed", "leads", "clad", "12 AWG printed"),
        ("cca leads", "leads", "clad", ""),
        ("10:07 no fuse on the battery side", "fuse", "none", "on the battery side"),
        ("lugs tight", "lugs", "tight", ""),
        ("no fuse to be seen", "fuse", "none", ""),
        ("- sockets loose (left one)", "sockets", "loose", "left one"),
        ("live when off - all dead", "live_off", "dead", ""),
    ],
)
def test_short_words_are_answers_too(line: str, point: str, answer: str, note: str) -> None:
    assert read(line).items == (LookedAt(point, answer, note),)


def test_points_jotted_in_one_line_are_all_kept_each_with_its_own_note() -> None:
    line = "leads copper, 6 AWG printed; lugs loose, left one, no fuse on the battery side, live when off: live"
    assert read(line).items == (
        LookedAt("leads", "copper", "6 AWG printed"),
        LookedAt("lugs", "loose", "left one"),
        LookedAt("fuse", "none", "on the battery side"),
        LookedAt("live_off", "live"),
    )


def test_what_is_said_of_a_run_is_none() -> None:
    assert not [
        item
        for line in (
            "rcd: trips",
            "display: 1.2 kW",
            "display: watts, 1.2 kW",
            "pump leads: copper",
            "gauge: enough",
            "no fuse blown",
            "rcd trips",
            "display nothing",
            "leads warm",
            "returns on its own",
        )
        for item in read(line).items
        if isinstance(item, LookedAt)
    ]
    assert any(isinstance(item, Event) and item.name == "trip" for item in read("rcd: trips").items)
    assert any(isinstance(item, Reading) and item.value == 1200 for item in read("display: watts, 1.2 kW").items)
    assert read("note: leads: copper").items == (Note("leads: copper"),)


def test_what_was_read_beside_an_answer_is_kept_and_when_it_was() -> None:
    jotting = read("10:05 live when off: live, 230 V at the left one")
    assert jotting.when.said
    assert [type(item) for item in jotting.items] == [LookedAt, Reading]
    assert "sockets live when off" in jotting.sentence
    assert "230" in jotting.sentence


def test_amps_alone_are_a_rating_and_amps_beside_another_reading_are_not_lost() -> None:
    assert [type(item) for item in read("fuse: inside, 30 A").items] == [LookedAt]
    quantities = {item.quantity for item in read("leads: copper; 231v 4.1a").items if isinstance(item, Reading)}
    assert quantities == {"v", "a"}
