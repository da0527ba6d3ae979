"""Photos kept at the entry they belong to: files beside the database by their digest, rows that say whose they are."""

from __future__ import annotations

import contextlib
import os
from pathlib import Path

from django.contrib.auth.models import AbstractUser
from django.utils import timezone

from muster.core.errors import MusterError, Refused
from muster.core.sessions import Note
from muster.formats.photos import Photo, cleaned_photo, kept_photo, thumbnail
from muster.records import folder
from muster.records.models import EntryRow, PhotoRow, SessionRow

from .history import changing
from .sessions import append, reference

LONGEST_CAPTION = 120
WORD = "photo"
"""The note that a photo taken of no entry makes."""


def photo_path(sha256: str, *, thumb: bool = False) -> Path:
    """Where a photo lies, or its small picture."""
    return folder.photos() / (f"{sha256}.thumb.jpg" if thumb else f"{sha256}.jpg")


def take_photo(
    session: SessionRow, data: bytes, who: AbstractUser, entry: EntryRow | None = None, caption: str = ""
) -> PhotoRow:
    """Keep a photo at an entry; without one, at a note of its own made now.

    Raises
    ------
    MusterError
        If it is no photo, or the disk does not take it.
    Refused
        If the session is sealed, or the entry is of another.
    """
    if session.closed_at is not None:
        raise Refused("this session is sealed", where="photo", want="a session that is still open")
    if entry is not None and entry.session_id != session.pk:
        raise Refused("this entry is of another session", where="entry")
    photo = cleaned_photo(data)
    write_photo(photo)
    if entry is None:
        at = reference(session, timezone.now())
        entry = append(session, [Note(caption.strip() or WORD)], at, caption.strip() or WORD, who)
    return keep_photo(entry, photo, caption, who)


def keep_photo(entry: EntryRow, photo: Photo, caption: str, who: AbstractUser) -> PhotoRow:
    """The row of a photo whose file is there."""
    row = PhotoRow(
        session=entry.session,
        entry=entry,
        sha256=photo.sha256,
        caption=caption.strip()[:LONGEST_CAPTION],
        width=photo.width,
        height=photo.height,
        created_by=who,
    )
    row.save()
    return row


def write_photo(photo: Photo) -> None:
    """Write a photo and its small picture to the disk; once this returns a power cut leaves them whole.

    Raises
    ------
    MusterError
        If the disk does not take them.
    """
    for path, data in (
        (photo_path(photo.sha256), photo.data),
        (photo_path(photo.sha256, thumb=True), thumbnail(photo)),
    ):
        if path.exists():
            continue
        half = path.with_name(f".{path.name}.{os.getpid()}")
        try:
            with half.open("wb") as file:
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
            half.replace(path)
        except OSError as error:
            with contextlib.suppress(OSError):
                half.unlink()
            raise MusterError(str(error.strerror).lower(), where="photo", want="room on the disk") from None
    with contextlib.suppress(OSError):  # not every file system opens a folder
        handle = os.open(folder.photos(), os.O_RDONLY)
        os.fsync(handle)
        os.close(handle)


def photo_of(row: PhotoRow) -> Photo:
    """The photo of a row.

    Raises
    ------
    MusterError
        If its file is gone, or is not what was taken.
    """
    try:
        photo = kept_photo(photo_path(row.sha256).read_bytes())
    except OSError:
        raise MusterError("its file is gone", where=f"photo {row.pk}", want="the folder photos from a backup") from None
    if photo.sha256 != row.sha256:
        raise MusterError("its file was changed", where=f"photo {row.pk}", want="the folder photos from a backup")
    return photo


def name_photo(row: PhotoRow, caption: str, who: AbstractUser) -> PhotoRow:
    """Say what a photo shows.

    Raises
    ------
    Refused
        If its session is sealed.
    """
    _require_open(row)
    with changing(row, "photo named", who):
        row.caption = caption.strip()[:LONGEST_CAPTION]
        row.save(update_fields=["caption"])
    return row


def put_away_photo(row: PhotoRow, who: AbstractUser) -> PhotoRow:
    """Remove a photo or put it back; its file stays.

    Raises
    ------
    Refused
        If its session is sealed.
    """
    _require_open(row)
    with changing(row, "photo removed" if row.removed_at is None else "photo put back", who):
        row.removed_at = timezone.now() if row.removed_at is None else None
        row.save(update_fields=["removed_at"])
    return row


def _require_open(row: PhotoRow) -> None:
    if row.session.closed_at is not None:
        raise Refused("this session is sealed", where="photo", want="its photos stay as they were sealed")
