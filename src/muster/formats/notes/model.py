"""Notes read: the job they make, and every line told back."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

from ..jobfile import JobFile


class Section(StrEnum):
    """What part of the work a heading opens."""

    HOME = "home"
    LOADS = "loads"
    SOURCE = "source"
    TEST = "test"


@dataclass(frozen=True)
class ToldLine:
    """A line of notes told back: in which section, what was understood, and the question it leaves; ``kept`` if it is there word for word alone."""

    number: int
    text: str
    section: Section
    told: tuple[str, ...] = ()
    asked: str = ""
    kept: bool = False


@dataclass(frozen=True)
class NotesFile:
    """Notes read: the job they make, and every line told back."""

    job: JobFile
    lines: tuple[ToldLine, ...] = ()

    @property
    def asked(self) -> tuple[ToldLine, ...]:
        """The lines that leave a question."""
        return tuple(line for line in self.lines if line.asked)


OPEN = "open: "
"""What a question that notes left open begins with among the notes of a brief; it is of the notes, and not of the home."""


def with_questions(notes: NotesFile) -> JobFile:
    """The job of notes, with what was asked about kept among the notes of its brief."""
    asked = [f"{OPEN}{line.text}: {line.asked}" if line.text else f"{OPEN}{line.asked}" for line in notes.asked]
    brief = notes.job.brief
    return replace(notes.job, brief=replace(brief, notes="\n".join(filter(None, [brief.notes, *asked]))))
