"""What a paper that leaves Muster carries inside itself: its styles, its letters, and what data it speaks of."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from functools import cache
from importlib import resources

from django.utils.safestring import SafeString, mark_safe

from muster import __version__
from muster.formats.data_digest import digest_of_data, short_digest
from muster.formats.jobfile import DataPart
from muster.formats.paper_marks import PaperMarks, marks_text

POLICY = "default-src 'none'; style-src 'unsafe-inline'; font-src data:; img-src data:"
"""Content policy of a paper: nothing is fetched, nothing is run."""
STATIC = resources.files("muster.web.ui").joinpath("static")
LETTERS = {"Hyperlegible": "hyperlegible-next.woff2", "Hyperlegible Mono": "hyperlegible-mono.woff2"}


class PaperSize(StrEnum):
    """The papers that are printed on."""

    A4 = "a4"
    LETTER = "letter"
    A5 = "a5"
    HALF_LETTER = "half_letter"

    @property
    def label(self) -> str:
        """The size as it is written on screen."""
        return {"a4": "A4", "letter": "letter", "a5": "A5", "half_letter": "half letter"}[self.value]

    @property
    def mm(self) -> tuple[float, float]:
        """Width and height. [mm]"""
        return {"a4": (210, 297), "letter": (215.9, 279.4), "a5": (148, 210), "half_letter": (139.7, 215.9)}[self.value]


@dataclass(frozen=True)
class PaperFacts:
    """When a paper was made, by whom, and of what data; ``source`` is the one that it is about, empty for all."""

    kind: str
    job: str
    at: datetime
    who: str
    parts: tuple[DataPart, ...]
    source: str = ""

    @property
    def digest(self) -> str:
        """One digest over all its data."""
        return digest_of_data(self.parts)

    @property
    def short(self) -> str:
        """The digest as it is printed."""
        return short_digest(self.digest)

    @property
    def version(self) -> str:
        """Of the Muster that made it."""
        return __version__

    @property
    def marks(self) -> SafeString:
        """What a machine reads of it, as a block that nothing runs."""
        made = PaperMarks(
            kind=self.kind,
            job=self.job,
            at=self.at.isoformat(),
            version=self.version,
            who=self.who,
            parts=self.parts,
            source=self.source,
        )
        return mark_safe(marks_text(made))


@cache
def letters_css() -> str:
    """The two families of letters, inside the styles."""
    faces = []
    for family, file in LETTERS.items():
        data = base64.b64encode(STATIC.joinpath("vendor", file).read_bytes()).decode()
        faces.append(
            f'@font-face{{font-family:"{family}";src:url(data:font/woff2;base64,{data}) format("woff2");font-weight:200 800}}'
        )
    return "".join(faces)


@cache
def styles_inside(files: Sequence[str]) -> SafeString:
    """Style sheets of a paper by name, with its letters before them."""
    sheets = (STATIC.joinpath("styles", *file.split("/")).read_text("utf-8") for file in files)
    return mark_safe(letters_css() + "\n".join(sheets))
