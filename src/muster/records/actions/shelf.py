"""The assessor's own shelf: entries added, changed, taken off, put back, imported from a table."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone

from muster.core.errors import MusterError
from muster.core.loads import Load
from muster.core.shelf import BY_SLUG, ShelfLoad, from_load
from muster.formats.codec import dump, load
from muster.formats.shelfcsv import read_shelf
from muster.records.models import ShelfRow


def entry_of(row: ShelfRow) -> ShelfLoad:
    """The row's entry."""
    return load(ShelfLoad, row.data)


def own_rows() -> list[ShelfRow]:
    """The entries of one's own, by their slug."""
    return list(ShelfRow.objects.filter(removed_at=None))


def own_shelf() -> tuple[ShelfLoad, ...]:
    """The entries of one's own."""
    return tuple(entry_of(row) for row in own_rows())


def add_entry(entry: ShelfLoad, who: AbstractUser) -> ShelfRow:
    """Put an entry on the shelf.

    Raises
    ------
    MusterError
        If another goes by that slug.
    """
    if ShelfRow.objects.filter(slug=entry.slug).exists():
        raise MusterError(
            f"“{entry.slug}” is on your shelf already", where="slug", want="another slug, or change that one"
        )
    return ShelfRow.objects.create(slug=entry.slug, data=dump(entry), created_by=who)


def edit_entry(row: ShelfRow, entry: ShelfLoad) -> ShelfRow:
    """Change an entry; its slug stays. Loads taken from it before keep their figures."""
    row.data = dump(entry)
    row.save(update_fields=["data"])
    return row


def shelve_load(value: Load, who: AbstractUser) -> ShelfRow:
    """Put a load of a home on the shelf, in the place of an entry of the same name."""
    return _put(from_load(value), who)


def take_off(row: ShelfRow) -> ShelfRow:
    """Take an entry off the shelf; it can be put back."""
    row.removed_at = timezone.now()
    row.save(update_fields=["removed_at"])
    return row


def put_back(row: ShelfRow) -> ShelfRow:
    """Put an entry back."""
    row.removed_at = None
    row.save(update_fields=["removed_at"])
    return row


def _put(entry: ShelfLoad, who: AbstractUser) -> ShelfRow:
    row, _ = ShelfRow.objects.update_or_create(
        slug=entry.slug,
        defaults={"data": dump(entry), "removed_at": None},
        create_defaults={"data": dump(entry), "created_by": who},
    )
    return row


@transaction.atomic
def bring_in(text: str, who: AbstractUser) -> int:
    """Import a table of entries, all or none; how many. An entry of the same slug is replaced.

    What a Muster shelf holds itself, unchanged, is passed over.

    Raises
    ------
    MusterError
        As ``read_shelf``.
    """
    fresh = [entry for entry in read_shelf(text) if BY_SLUG.get(entry.slug) != entry]
    for entry in fresh:
        _put(entry, who)
    return len(fresh)
