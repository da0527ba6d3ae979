"""Notes: a whole piece of work as a person types it, in and out (docs/notes.md)."""

from .headings import are_notes
from .model import OPEN, NotesFile, Section, ToldLine, with_questions
from .question import read_question
from .reading import read_notes
from .writing import load_line, source_line, write_notes

__all__ = [
    "OPEN",
    "NotesFile",
    "Section",
    "ToldLine",
    "are_notes",
    "load_line",
    "read_notes",
    "read_question",
    "source_line",
    "with_questions",
    "write_notes",
]
