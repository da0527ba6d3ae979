"""What a machine reads of a paper: which data it speaks of, in a block of JSON inside its file."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from pathlib import Path

from muster.core.errors import MusterError

from .bounds import plain_json
from .codec import dump, load
from .jobfile import DataPart

BLOCK = re.compile(r'<script type="application/json" id="muster-paper">(.*?)</script>', re.DOTALL)
MOST_BYTES = 60_000_000
"""A paper with all its photos is no larger. Ours."""


@dataclass(frozen=True)
class PaperMarks:
    """A card or a report: of which job, made when (ISO 8601), by which Muster and whom, from which data.

    ``source`` is the one that it is about, empty for all of the job.
    """

    kind: str
    job: str
    at: str
    version: str
    who: str
    parts: tuple[DataPart, ...]
    source: str = ""


def marks_text(marks: PaperMarks) -> str:
    """The marks as JSON that may stand inside a page."""
    return json.dumps(dump(marks), ensure_ascii=False).replace("<", "\\u003c")


def read_marks(path: Path) -> PaperMarks:
    """The marks of a paper's file.

    Raises
    ------
    MusterError
        If it cannot be read, or is no card or report of Muster.
    """
    try:
        if path.stat().st_size > MOST_BYTES:
            raise MusterError("larger than any paper of Muster", where=str(path), want="a card or a report")
        text = path.read_text("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        reason = str(getattr(error, "strerror", None) or "not text").lower()
        raise MusterError(reason, where=str(path), want="a card or a report as Muster wrote it") from None
    block = BLOCK.search(text)
    if block is None:
        raise MusterError("it names no data", where=str(path), want="a card or a report as Muster wrote it")
    return load(PaperMarks, plain_json(block[1], "the marks of a paper"))
