"""The folder of the database: one server at a time, brought up to date with a copy kept, backed up and restored."""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import shutil
import sqlite3
import time
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import IO, Any

from ..core.errors import MusterError, Refused

DATABASE_WANTED = "a database that Muster made; put back a backup with: muster restore FILE"
APP = "records"
PHOTO_TABLE = "records_photorow"


def database_path() -> Path:
    """Where the database is; its folder is made.

    Raises
    ------
    MusterError
        If the folder cannot be made or written, or its secret is empty.
    """
    os.environ["DJANGO_SETTINGS_MODULE"] = "muster.web.settings"
    from django.conf import settings

    path = Path(settings.DATABASES["default"]["NAME"])
    for file in (path, *path.parent.glob(f"{path.name}-*")):
        with contextlib.suppress(OSError):
            file.chmod(0o600)
    return path


@contextlib.contextmanager
def as_one_line(path: Path) -> Iterator[None]:
    """Whatever the database or the disk says, as one line that names the file.

    Raises
    ------
    MusterError
        In place of any error of the database or the file system.
    """
    try:
        yield
    except sqlite3.DatabaseError as error:
        raise MusterError(_plain(error), where=str(path), want=_remedy(error)) from None
    except OSError as error:
        raise MusterError(
            str(error.strerror or error).lower(), where=str(error.filename or path), want="a place that can be written"
        ) from None


def _plain(error: Exception) -> str:
    text = str(error).lower()
    return "is not a database, or is damaged" if "not a database" in text or "malformed" in text else text


def _remedy(error: Exception) -> str:
    text = str(error).lower()
    if "readonly" in text or "read-only" in text or "unable to open" in text:
        return "a folder and files that this account may write"
    if "locked" in text or "busy" in text:
        return "try again when the other program is done"
    return DATABASE_WANTED


def _connect(path: Path) -> contextlib.closing[sqlite3.Connection]:
    return contextlib.closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True, timeout=20))


def migrations_in(path: Path) -> list[str]:
    """The steps of the database's making that it has behind it, oldest first.

    Raises
    ------
    MusterError
        If the file is no database of Muster's.
    """
    with as_one_line(path), _connect(path) as database:
        tables = {name for (name,) in database.execute("select name from sqlite_master where type = 'table'")}
        if "django_migrations" not in tables:
            raise MusterError("is not a database of Muster’s", where=str(path), want=DATABASE_WANTED)
        rows = database.execute("select name from django_migrations where app = ? order by id", (APP,))
        return [name for (name,) in rows]


def known_migrations() -> list[str]:
    """The steps that this program knows, oldest first."""
    folder = Path(__file__).parents[1] / APP / "migrations"
    return sorted(path.stem for path in folder.glob("[0-9]*.py"))


def refuse_newer(path: Path, done: list[str]) -> None:
    """Refuse a database that a later Muster has changed.

    Raises
    ------
    MusterError
        If it holds a step that is not known here.
    """
    unknown = [name for name in done if name not in known_migrations()]
    if unknown:
        raise MusterError(
            f"was made by a newer Muster ({unknown[-1]})",
            where=str(path),
            want="that Muster, or a backup from before it",
        )


def bring_up_to_date(path: Path) -> None:
    """Migrate the database, with a copy of it kept beside it where anything changes.

    Raises
    ------
    MusterError
        If it is damaged, newer than this program, or cannot be written.
    """
    if path.exists() and path.stat().st_size:
        done = migrations_in(path)
        refuse_newer(path, done)
        if set(done) == set(known_migrations()):
            return _check_writable(path)
        copy(path, path.with_name(f"{path.stem}.before-{known_migrations()[-1]}.sqlite3"), over=True)
    import django
    from django.core.management import call_command
    from django.db.utils import Error

    django.setup()
    with as_one_line(path):
        try:
            call_command("migrate", verbosity=0)
        except Error as error:
            raise sqlite3.DatabaseError(str(error)) from None
    path.chmod(0o600)
    return None


def _check_writable(path: Path) -> None:
    with as_one_line(path), contextlib.closing(sqlite3.connect(path, timeout=20)) as database:
        database.execute("begin immediate")
        database.rollback()


def copy(source: Path, target: Path, *, over: bool = False) -> None:
    """Copy a database, also while it is being written; the target is whole or not there.

    Raises
    ------
    MusterError
        If either cannot be, or the target is there already and not to be written ``over``.
    """
    if target.exists() and not over:
        raise MusterError("is there already", where=str(target), want="a new name: a backup never overwrites")
    if target.is_dir() or not target.parent.is_dir():
        raise MusterError("no such folder", where=str(target.parent), want="a file name in a folder that is there")
    half = target.with_name(f".{target.name}.{os.getpid()}.half")
    try:
        with as_one_line(target):
            half.touch(mode=0o600)
            with _connect(source) as old, contextlib.closing(sqlite3.connect(half)) as new:
                old.backup(new)
            half.replace(target)
    finally:
        half.unlink(missing_ok=True)


def photos_beside(backup: Path) -> Path:
    """The folder in which the photos of a backup lie."""
    return backup.with_name(f"{backup.name}.photos")


def copy_photos(database: Path, source: Path, target: Path) -> int:
    """Copy the photos that a database speaks of from one folder into another; how many of them were not there is returned.

    Raises
    ------
    MusterError
        If the folder cannot be written.
    """
    with as_one_line(database), _connect(database) as connection:
        if not connection.execute("select 1 from sqlite_master where name = ?", (PHOTO_TABLE,)).fetchone():
            return 0
        digests = [sha for (sha,) in connection.execute(f"select distinct sha256 from {PHOTO_TABLE}")]
    missing = 0
    with as_one_line(target):
        for digest in digests:
            pair = [source / f"{digest}{end}" for end in (".jpg", ".thumb.jpg")]
            if not all(file.is_file() for file in pair):
                missing += 1
                continue
            target.mkdir(mode=0o700, exist_ok=True)
            for file in pair:
                if not (target / file.name).exists():
                    half = target / f".{file.name}.{os.getpid()}"
                    shutil.copyfile(file, half)
                    half.replace(target / file.name)
    return missing


def restore(source: Path, path: Path) -> Path | None:
    """Put a backup in the place of the database; what stood there is kept, and where is returned.

    Raises
    ------
    MusterError
        If the file is no whole database of Muster's, or newer than this program.
    Refused
        If a server is using the database.
    """
    if not source.is_file():
        raise MusterError("no such file", where=str(source), want="a backup as muster backup made it")
    refuse_newer(source, migrations_in(source))
    with as_one_line(source), _connect(source) as database:
        (state,) = database.execute("pragma integrity_check").fetchone()
    if state != "ok":
        raise MusterError("is damaged", where=str(source), want="another backup")
    with the_lock(path, "restore"):
        kept = None
        if path.exists():
            kept = path.with_name(f"{path.stem}.before-restore-{datetime.now():%Y%m%d-%H%M%S}.sqlite3")  # noqa: DTZ005 - a file name by the clock on the wall
            _keep(path, kept)
        ready = path.with_name(f".{path.name}.restored")
        copy(source, ready, over=True)
        for beside in path.parent.glob(f"{path.name}-*"):
            beside.unlink()
        with as_one_line(path):
            ready.replace(path)
        return kept


def _keep(path: Path, kept: Path) -> None:
    """Keep what is to be replaced, whole if it can be read, else byte for byte."""
    try:
        copy(path, kept)
    except MusterError:
        with as_one_line(path):
            kept.write_bytes(path.read_bytes())


def _lock_path(path: Path) -> Path:
    return path.with_name(f"{path.name}.lock")


@contextlib.contextmanager
def the_lock(path: Path, doing: str, **more: Any) -> Iterator[IO[str]]:
    """Be the one that serves a database. ``more`` is what others may read of it meanwhile.

    Raises
    ------
    Refused
        If another process is, naming it.
    """
    with as_one_line(path):
        file = _lock_path(path).open("a+", encoding="utf-8")
    with file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            by = serving(path)
            raise Refused(
                f"is in use by process {by.get('pid', 'unknown')} (muster {by.get('doing', '')})".replace(" )", ")"),
                where=str(path),
                want="stop that one first, or another folder with --data",
            ) from None
        write_lock(file, doing=doing, **more)
        try:
            yield file
        finally:
            file.truncate(0)


def write_lock(file: IO[str], **said: Any) -> None:
    """Say in the lock who holds it."""
    file.seek(0)
    file.truncate()
    file.write(json.dumps({"pid": os.getpid(), "since": int(time.time()), **said}))
    file.flush()


def serving(path: Path) -> dict[str, Any]:
    """What the server of a database says of itself; empty where none does."""
    try:
        said = json.loads(_lock_path(path).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return said if isinstance(said, dict) else {}


def prepare() -> None:
    """Bring the database up to date, and set Django up: every command that reads or writes it does."""
    bring_up_to_date(database_path())
    import django

    django.setup()
