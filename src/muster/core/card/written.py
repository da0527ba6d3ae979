"""A card written out: the words of a language, or the assessor's own, with the figures put in."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from ..errors import MusterError, require_between
from .contents import Card, CardLine, CardSection
from .evidence import Quote
from .languages import FIGURE, FIRST, CardLanguage, figures_in, language_named

MOST_TEXT = 240
"""A line on a card is no longer. Ours."""
MOST_CALLS = 4
BLANK_CALLS = 2
"""So many lines to be filled in by hand where nobody said whom to call."""


@dataclass(frozen=True)
class OwnText:
    """A line in the assessor's own words, in a language: its figures stay where the words name them."""

    language: str
    key: str
    text: str

    def __post_init__(self) -> None:
        require_same_figures(self.key, self.text, language_named(FIRST))


def require_same_figures(key: str, text: str, language: CardLanguage) -> None:
    """Refuse words that lose or repeat a figure of a line, or bring one of their own.

    Raises
    ------
    MusterError
        With the figures that the line has.
    """
    if key not in language.texts:
        raise MusterError(f"no line is called “{key}”", where="key", want="a line of the card")
    if not text.strip() or len(text) > MOST_TEXT:
        raise MusterError("empty or too long", where=key, want=f"1 to {MOST_TEXT} letters")
    wanted = sorted(figures_in(language.texts[key]))
    names = ", ".join(f"{{{name}}}" for name in wanted) or "no figure"
    if sorted(figures_in(text)) != wanted:
        raise MusterError("its figures are not those of the line", where=key, want=f"each of these once: {names}")
    if re.search(r"\d|[{}]", FIGURE.sub("", text)):
        raise MusterError("a figure of your own", where=key, want=f"words, and for figures {names}")


@dataclass(frozen=True)
class CardWords:
    """What the assessor chose of a card's words: its language, lines in own words, whom to call.

    ``beside`` is a second language that is laid beside the first, empty for none.
    """

    language: str = FIRST
    own: tuple[OwnText, ...] = ()
    calls: tuple[str, ...] = ()
    beside: str = ""

    def __post_init__(self) -> None:
        language_named(self.language)
        if self.beside:
            language_named(self.beside)
        require_between(len(self.calls), 0, MOST_CALLS, "calls")
        for call in self.calls:
            require_between(len(call), 1, MOST_TEXT, "calls")

    def own_text(self, key: str, language: str) -> str:
        """The assessor's own words of a line, empty where they are the shipped ones."""
        return next((own.text for own in self.own if (own.key, own.language) == (key, language)), "")


@dataclass(frozen=True)
class WrittenLine:
    """A line as it is read. ``key`` names its words; ``template`` are they with figures by name, as they are edited."""

    key: str
    text: str
    template: str
    rests_on: str = ""
    items: tuple[WrittenLine, ...] = ()
    is_own: bool = False
    quotes: tuple[Quote, ...] = ()
    place: str = ""
    """Its own place on the card, where what it rests on is told: ``fails-2-1``; empty where nothing is."""


@dataclass(frozen=True)
class WrittenSection:
    """A part of the card as it is read."""

    key: str
    title: str
    lines: tuple[WrittenLine, ...]
    ordered: bool = False


@dataclass(frozen=True)
class WrittenCard:
    """A card in one language. ``labels`` are the words around it by key."""

    language: str
    title: str
    of: str
    state: WrittenLine
    sections: tuple[WrittenSection, ...]
    calls: tuple[str, ...]
    labels: Mapping[str, str] = field(default_factory=dict)

    @property
    def told(self) -> tuple[WrittenLine, ...]:
        """Its lines of which it is told what they rest on, from its head down."""
        every = [line for section in self.sections for top in section.lines for line in (top, *top.items)]
        return tuple(line for line in (self.state, *every) if line.place)

    @property
    def letters(self) -> int:
        """How much there is to read: what the size of the letters goes by."""
        lines = [line for section in self.sections for top in section.lines for line in (top, *top.items)]
        return sum(len(line.text) for line in lines) + sum(len(section.title) for section in self.sections)

    @property
    def rows(self) -> int:
        """How many lines there are."""
        return sum(1 + sum(1 + len(line.items) for line in section.lines) for section in self.sections)


def write_card(card: Card, words: CardWords, language: str = "") -> WrittenCard:
    """A card in a language, by default the one that was chosen.

    Parameters
    ----------
    card
        What it says.
    words
        The assessor's own.
    language
        Code of another language than the chosen one.

    Returns
    -------
    WrittenCard
        With every figure put in.
    """
    spoken = language_named(language or words.language)
    return WrittenCard(
        language=spoken.code,
        title=spoken.text("card.title"),
        of=_put_in(spoken.text("card.of"), {"home": card.home, "source": card.source}),
        state=_line(card.state, words, spoken, "state"),
        sections=tuple(_section(section, words, spoken) for section in card.sections),
        calls=words.calls or (spoken.text("card.call"),) * BLANK_CALLS,
        labels={key.removeprefix("label."): text for key, text in spoken.texts.items() if key.startswith("label.")},
    )


def _section(section: CardSection, words: CardWords, language: CardLanguage) -> WrittenSection:
    return WrittenSection(
        key=section.key,
        title=_put_in(language.text(f"section.{section.key}"), section.figures),
        lines=tuple(_line(line, words, language, f"{section.key}-{at}") for at, line in enumerate(section.lines, 1)),
        ordered=section.ordered,
    )


def _line(line: CardLine, words: CardWords, language: CardLanguage, place: str) -> WrittenLine:
    own = words.own_text(line.key, language.code)
    template = own or language.text(line.key)
    return WrittenLine(
        key=line.key,
        text=_put_in(template, line.figures),
        template=template,
        rests_on=line.rests_on,
        items=tuple(_line(item, words, language, f"{place}-{at}") for at, item in enumerate(line.items, 1)),
        is_own=bool(own),
        quotes=line.quotes,
        place=place if line.rests_on else "",
    )


def _put_in(template: str, figures: Mapping[str, str]) -> str:
    """Words with their figures; nothing in braces but a figure's name is looked at."""
    return FIGURE.sub(lambda match: figures.get(match[1], "–"), template)
