"""What notes were understood to say, section by section."""

from __future__ import annotations

from dataclasses import dataclass

from muster.formats.notes import NotesFile, Section, ToldLine

TITLES = {Section.HOME: "Home", Section.LOADS: "Loads", Section.SOURCE: "Source", Section.TEST: "Tests"}


@dataclass(frozen=True)
class ToldSection:
    """A section of notes with its lines; ``open`` questions among them."""

    title: str
    lines: tuple[ToldLine, ...]

    @property
    def open(self) -> int:
        """How many of its lines leave a question."""
        return sum(bool(line.asked) for line in self.lines)


def told_by_section(notes: NotesFile) -> list[ToldSection]:
    """The lines of notes by section, those without any left out."""
    sections = [
        ToldSection(title, tuple(line for line in notes.lines if line.section is section))
        for section, title in TITLES.items()
    ]
    return [section for section in sections if section.lines]
