"""The corpus is whole: enough of it, each jotting once on a supply, and everything meant is said in one form."""

from __future__ import annotations

from .reading import MEANT, jottings

FIRST = jottings("first.txt")


def test_the_first_corpus_has_four_hundred_jottings_each_of_them_once() -> None:
    assert len(FIRST) >= 400
    assert len({(jotting.system, jotting.text) for jotting in FIRST}) == len(FIRST)


def test_everything_that_is_meant_is_said_in_one_form() -> None:
    odd = [(jotting.text, part) for jotting in FIRST for part in jotting.meant if not MEANT.fullmatch(part)]
    assert odd == []


def test_a_note_is_a_note_and_nothing_else() -> None:
    assert [jotting.text for jotting in FIRST if "note" in jotting.meant and len(jotting.meant) > 1] == []
