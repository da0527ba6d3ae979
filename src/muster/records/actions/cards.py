"""The household's card: its words as the assessor chose them, and when it was given out."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.card.written import CardWords
from muster.formats.codec import dump
from muster.formats.data_digest import changed_parts, data_parts
from muster.formats.jobfile import CardGiven, JobFile
from muster.records import bridge
from muster.records.models import SourceRow

from .history import changing


def choose_words(row: SourceRow, words: CardWords, who: AbstractUser) -> SourceRow:
    """Keep the words of a source's card; the history puts back what they were."""
    if words == bridge.card_words_of(row):
        return row
    with changing(row, f"words of the card of {row.name}", who):
        row.card = dump(words)
        row.save(update_fields=["card"])
    return row


def give_out(row: SourceRow, file: JobFile, who: AbstractUser) -> SourceRow:
    """Remember that the card of a source was printed or saved as its job is now."""
    given = CardGiven(at=timezone.now().isoformat(), parts=data_parts(file, row.name), who=bridge.shown_name(who))
    row.card_given = dump(given)
    row.save(update_fields=["card_given"])
    return row


def changed_since(row: SourceRow, file: JobFile) -> tuple[str, ...]:
    """What of the job was changed after the card of a source was last given out, in words; nothing where it never was."""
    given = bridge.card_given_of(row)
    return () if given is None else changed_parts(given.parts, data_parts(file, row.name))
