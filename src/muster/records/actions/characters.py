"""Characters saved: a source as it was measured to be by a day."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.character import Character
from muster.core.errors import Refused
from muster.formats.codec import dump, load
from muster.records.models import CharacterRow, SourceRow

from .history import changing


def set_down(source: SourceRow, character: Character, note: str, who: AbstractUser) -> CharacterRow:
    """Save a character as it is now.

    Raises
    ------
    Refused
        If nothing was measured yet.
    """
    if not character.parameters:
        raise Refused("nothing was measured of it yet", where="character", want="a session with findings first")
    row = CharacterRow(source=source, data=dump(character), note=note.strip()[:120], created_by=who)
    with changing(row, f"character of {source.name} saved", who):
        row.save()
    return row


def put_away_character(row: CharacterRow, who: AbstractUser) -> CharacterRow:
    """Archive a saved character; the history restores it."""
    with changing(row, f"character of {row.source.name} archived", who):
        row.removed_at = timezone.now()
        row.save(update_fields=["removed_at"])
    return row


def live_characters(source: SourceRow) -> list[CharacterRow]:
    """The saved characters of a source, the latest first."""
    return list(source.character_rows.filter(removed_at=None))


def character_of_row(row: CharacterRow) -> Character:
    """The character that was saved."""
    return load(Character, row.data)
