"""How our type sets on a page that no script measures: widths of its letters, lines that a text takes, columns that hold them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

WIDTHS_EM = (
    (0.20, "',.:;\u202f"),
    (0.25, "`ijl|·‘’ìíîï"),
    (0.30, ' !"()[f¡'),
    (0.35, "-]_rt{}°ªº"),
    (0.40, "/1I\\ÌÍÎÏ“”²"),
    (0.45, "svyz¿ýÿ"),
    (0.50, "*7?Jckx–ç"),
    (0.55, "2<>EFLT^abdeghnopqu~«»ÈÉÊË×àáâãäåèéêëñòóôõöøùúûüß≥≤"),
    (0.60, "$+345689BPRSVXYZ±÷−"),
    (0.65, "#0=ACDKÀÁÂÃÄÅÇ…"),
    (0.70, "GHNOQUwÑÒÓÔÕÖØÙÚÛÜ"),
    (0.75, "&Ω"),
    (0.80, "@M—"),
    (0.85, "Wmæ"),
    (0.90, "%Æ"),
)
"""Widths of the letters of our type at its text weight, in its own size, to a twentieth: read off the shipped font."""
OTHER_EM = 0.6
KERNED_X = 0.975
"""Set beside one another letters stand closer than their widths, by so much on average."""
BOLD_X = 1.07
"""So much wider are the letters of its bold."""
_EM = {letter: em for em, letters in WIDTHS_EM for letter in letters}


def width_em(text: str) -> float:
    """How wide a text is, in the size of its letters."""
    return sum(_EM.get(letter, OTHER_EM) for letter in text)


def lines_of(text: str, column_em: float, *, bold: bool = False) -> int:
    """How many lines a text takes in a column, broken between words, a word longer than the column within it.

    Parameters
    ----------
    text
        To be set.
    column_em
        Width of the column in the size of the letters.
    bold
        Whether it is set in bold.
    """
    room_em = column_em / KERNED_X / (BOLD_X if bold else 1.0)
    count, left = 1, room_em
    for word in text.split(" "):
        needs = width_em(word)
        if needs > left and left < room_em:
            count, left = count + 1, room_em
        if needs > room_em:
            more = math.ceil(needs / room_em) - 1
            count, needs = count + more, needs - more * room_em
        left -= needs + _EM[" "]
    return count


@dataclass(frozen=True)
class Block:
    """A part of a page by the heights of its lines [em]; ``whole`` where it is not cut in two."""

    heights_em: tuple[float, ...]
    whole: bool

    @property
    def height_em(self) -> float:
        """All of it."""
        return sum(self.heights_em)


def column_height_em(blocks: Sequence[Block], columns: int = 2) -> float:
    """The least height of so many columns that hold all blocks in their order.

    Parameters
    ----------
    blocks
        What is set, one below the other.
    columns
        How many columns there are.

    Returns
    -------
    float
        To half an em. [em]
    """
    height = max(sum(block.height_em for block in blocks) / columns, 0.5)
    while not _holds(blocks, columns, height):
        height += 0.5
    return height


def _holds(blocks: Sequence[Block], columns: int, height_em: float) -> bool:
    used, column = 0.0, 1
    for block in blocks:
        for piece in (block.height_em,) if block.whole and block.height_em <= height_em else block.heights_em:
            if used + piece > height_em + 1e-9:
                used, column = 0.0, column + 1
            used += piece
    return column <= columns
