"""The card as a file of its own: one page in large letters, the same on a phone."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from django.template.loader import render_to_string
from django.utils.safestring import mark_safe

from muster.core.card import Card, CardWords, WrittenCard, WrittenSection, language_named, write_card
from muster.core.verdict.requirement import Status
from muster.web.figures.type_setting import Block, column_height_em, lines_of

from .papers import POLICY, PaperFacts, PaperSize, styles_inside

SIZES_PT = (12.0, 11.0, 10.5, 10.0, 9.5, 9.0, 8.5, 8.0, 7.5)
"""Letters of a card, the largest that fits first; smaller ones are not read by a torch, and the card goes on overleaf. Ours."""
MARGIN_MM = 7.0
GAP_MM = 5.0
MM_PER_PT = 25.4 / 72
LINE_EM, BEFORE_HEADING_EM, HEADING_EM, BETWEEN_EM = 1.24, 0.45, 1.55, 0.22
"""Heights of a line, above and of a heading, and between lines, as the style sheet has them."""
INDENT_EM = 1.6
"""Lines stand so far in, behind their number or mark."""
TITLE_EM, STATE_EM, FOOT_EM = 3.4, 2.4, 1.8
"""Title and home, what is said of the source, and the foot of the page."""
CALL_EM = 2.15
UNBROKEN = 6
"""A section of fewer lines is not cut in two."""


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
    """How high a page must be for it, its columns evenly filled."""
    em_mm = size_pt * MM_PER_PT
    page_em = (paper.mm[0] - 2 * MARGIN_MM) / em_mm
    column_em = (page_em - GAP_MM / em_mm) / 2
    blocks = [_block(section, column_em) for section in card.sections]
    calls = (BEFORE_HEADING_EM + HEADING_EM, *(CALL_EM for _ in card.calls))
    state_em = STATE_EM + LINE_EM * (lines_of(card.state.text, page_em - 1.2, bold=True) - 1)
    title_em = TITLE_EM + LINE_EM * (lines_of(card.of, page_em, bold=True) - 1)
    return (title_em + state_em + column_height_em([*blocks, Block(calls, whole=True)]) + FOOT_EM) * em_mm


def _block(section: WrittenSection, column_em: float) -> Block:
    heading = BEFORE_HEADING_EM + HEADING_EM + LINE_EM * (lines_of(section.title, column_em - 0.8, bold=True) - 1)
    bold = section.key == "never"
    lines = []
    for line in section.lines:
        lines.append(BETWEEN_EM + LINE_EM * lines_of(line.text, column_em - INDENT_EM, bold=bold))
        lines += [LINE_EM * lines_of(item.text, column_em - 2 * INDENT_EM, bold=True) for item in line.items]
    return Block((heading + lines[0], *lines[1:]), whole=len(section.lines) < UNBROKEN)


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


def warns(status: Status) -> bool:
    """Whether a card bears its state across its head as a warning: not enough, not confirmed, or only just."""
    return status in (Status.NOT_PROVEN, Status.FALLS_SHORT, Status.TIGHT)


def context_of(
    card: Card, words: CardWords, facts: PaperFacts, status: Status, paper: PaperSize, languages: list[str]
) -> Mapping[str, object]:
    """What the card's templates draw."""
    return {
        "cards": [fitted(write_card(card, words, code), paper) for code in languages],
        "language": language_named(words.language),
        "facts": facts,
        "status": status,
        "warns": warns(status),
        "paper": paper,
        "policy": mark_safe(POLICY),
        "margin_mm": MARGIN_MM,
        "styles": styles_inside(("papers/page.css", "papers/card.css")),
    }
