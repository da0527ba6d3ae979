"""The languages of the card: each a file of its own, a line a key, so that another can be laid beside them."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources

from ..errors import UnknownChoice

FIGURE = re.compile(r"\{(\w+)\}")
"""A figure in a line of words: its name in braces."""
FIRST = "en"
"""The language that a card is in where nobody chose one, and that stands in for a line that another lacks."""


@dataclass(frozen=True)
class CardLanguage:
    """A language with its words by key."""

    code: str
    name: str
    texts: Mapping[str, str]

    def text(self, key: str) -> str:
        """The words of a line, figures by name in braces."""
        return self.texts.get(key) or language_named(FIRST).texts[key]


@cache
def _languages() -> dict[str, CardLanguage]:
    folder = resources.files("muster.core.card").joinpath("words")
    read = {file.name.removesuffix(".toml"): tomllib.loads(file.read_text("utf-8")) for file in folder.iterdir()}
    return {
        code: CardLanguage(code=code, name=data["language"], texts=data["words"])
        for code, data in sorted(read.items(), key=lambda item: (item[0] != FIRST, item[0]))
    }


def language_named(code: str) -> CardLanguage:
    """The language of a code.

    Raises
    ------
    UnknownChoice
        If there is no file of it.
    """
    languages = _languages()
    if code not in languages:
        raise UnknownChoice(f"got “{code}”", where="language", want=", ".join(languages))
    return languages[code]


LANGUAGES = tuple(_languages())
"""Their codes, English first."""


def figures_in(text: str) -> list[str]:
    """The names of the figures that words hold, in their order."""
    return FIGURE.findall(text)
