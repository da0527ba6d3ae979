"""The household's card: what to do when the mains fails, on one page, in the household's own language."""

from .contents import Card, CardLine, CardSection, card_of
from .languages import LANGUAGES, CardLanguage, language_named
from .written import CardWords, OwnText, WrittenCard, WrittenLine, WrittenSection, write_card

__all__ = [
    "LANGUAGES",
    "Card",
    "CardLanguage",
    "CardLine",
    "CardSection",
    "CardWords",
    "OwnText",
    "WrittenCard",
    "WrittenLine",
    "WrittenSection",
    "card_of",
    "language_named",
    "write_card",
]
