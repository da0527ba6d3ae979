"""The card as a file of its own: one page in large letters, the same on a phone."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from django.template.loader import render_to_string
from django.utils.safestring import mark_safe

from muster.core.card import Card, CardWords, WrittenCard, WrittenLine, WrittenSection, language_named, write_card
from muster.core.verdict.requirement import Status

from .papers import POLICY, PaperFacts, PaperSize, styles_inside

SIZES_PT = (12.0, 11.0, 10.5, 10.0, 9.5, 9.0, 8.5, 8.0, 7.5)
"""Letters of a card, the largest that fits first; smaller ones are not read by a torch, and the card goes on overleaf. Ours."""
MARGIN_MM = 8.0
GAP_MM = 5.0
MM_PER_PT = 25.4 / 72
LETTER_EM = 0.465
"""Mean width of a letter of our type, in its own size."""
LINE_EM = 1.24
HEADING_EM = 2.0
LINE_GAP_EM = 0.22
HEAD_EM = 5.6
"""Title, home, state and foot above and below the columns."""
CALLS_EM = 1.9


@dataclass(frozen=True)
class FittedCard:
    """A written card with the size of its letters [pt], and whether one page holds it."""

    card: WrittenCard
    letters_pt: float
    fits: bool


def fitted(card: WrittenCard, paper: PaperSize) -> FittedCard:
    """A card in the largest letters at which one page holds it, in two columns.

    Parameters
    ----------
    card
        As it is written.
    paper
        What it is printed on.

    Returns
    -------
    FittedCard
        In the smallest letters where no size fits: it goes on overleaf then.
    """
    for size_pt in SIZES_PT:
        if _height_mm(card, paper, size_pt) <= paper.mm[1] - 2 * MARGIN_MM:
            return FittedCard(card, size_pt, fits=True)
    return FittedCard(card, SIZES_PT[-1], fits=False)


def _height_mm(card: WrittenCard, paper: PaperSize, size_pt: float) -> float:
    """How high a page must be for it, columns evenly filled."""
    em_mm = size_pt * MM_PER_PT
    column_mm = (paper.mm[0] - 2 * MARGIN_MM - GAP_MM) / 2
    letters = max(8.0, column_mm / (em_mm * LETTER_EM) - 3)
    ems = sum(HEADING_EM + sum(_ems(line.text, letters) for line in _lines(section)) for section in card.sections)
    ems += HEADING_EM + CALLS_EM * len(card.calls)
    longest = max((sum(_ems(line.text, letters) for line in _lines(section)) for section in card.sections), default=0)
    return (HEAD_EM + max(ems / 2 + HEADING_EM, longest + HEADING_EM)) * em_mm


def _ems(text: str, letters: float) -> float:
    return math.ceil(len(text) / letters) * LINE_EM + LINE_GAP_EM


def _lines(section: WrittenSection) -> Iterator[WrittenLine]:
    for line in section.lines:
        yield line
        yield from line.items


def card_file(card: Card, words: CardWords, facts: PaperFacts, status: Status, paper: PaperSize) -> str:
    """The card as one file that asks for nothing: to print, and to keep on a phone.

    Parameters
    ----------
    card, words
        What it says, and in which words; a second language follows on a page of its own.
    facts
        When it was made, of what data.
    status
        Of the verdict: a card of a source that does not carry bears it across its head.
    paper
        What it is printed on.
    """
    languages = [words.language, *([words.beside] if words.beside else [])]
    return render_to_string("verdict/card_file.html", context_of(card, words, facts, status, paper, languages))


def context_of(
    card: Card, words: CardWords, facts: PaperFacts, status: Status, paper: PaperSize, languages: list[str]
) -> Mapping[str, object]:
    """What the card's templates draw."""
    return {
        "cards": [fitted(write_card(card, words, code), paper) for code in languages],
        "language": language_named(words.language),
        "facts": facts,
        "status": status,
        "warns": status in (Status.NOT_PROVEN, Status.FALLS_SHORT, Status.TIGHT),
        "paper": paper,
        "policy": mark_safe(POLICY),
        "margin_mm": MARGIN_MM,
        "styles": styles_inside(("papers/page.css", "papers/card.css")),
    }
