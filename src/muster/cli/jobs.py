"""Jobs carried in and out of the database; the database copied and put back."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.errors import MusterError
from . import database, read_out
from .commands import DONE, Commands, takes_folder, takes_job_file

if TYPE_CHECKING:
    from ..records.models import Job


def add_commands(commands: Commands) -> None:
    """Add ``import``, ``export``, ``backup`` and ``restore``."""
    load = commands.add(
        "import", "import a job file into your own jobs: all of it or nothing", _import, IMPORT_EXAMPLES
    )
    takes_job_file(load)
    save = commands.add("export", "write one of your jobs as a job file", _export, EXPORT_EXAMPLES)
    save.add_argument("job", metavar="JOB", help="its name or its number")
    save.add_argument("file", type=Path, metavar="FILE", help="where to; - for standard output")
    save.add_argument(
        "--data-package",
        action="store_true",
        help="everything measured as CSVs with their description, for other programs",
    )
    backup = commands.add("backup", "copy the database, also while Muster runs", _backup, BACKUP_EXAMPLES)
    backup.add_argument("file", type=Path, metavar="FILE", help="where to")
    restore = commands.add(
        "restore", "put a backup in the place of the database, and keep what was there", _restore, RESTORE_EXAMPLES
    )
    restore.add_argument("file", type=Path, metavar="FILE", help="a backup")
    for command in (load, save, backup, restore):
        takes_folder(command)


IMPORT_EXAMPLES = """\
  muster import notes.txt              notes: what is left open is told
  muster import ferry.muster.zip       into the jobs that “muster up” serves; its number is printed"""
EXPORT_EXAMPLES = """\
  muster export "The Ferry House" ferry.muster.zip
  muster export 3 ferry.txt            as notes: what a person would have written down
  muster export 3 - | less             a job without recorded logs is plain JSON
  muster export 3 ferry-data.zip --data-package   a data package: CSVs and their schema"""
BACKUP_EXAMPLES = """\
  muster backup ~/muster-monday.sqlite3   safe while Muster runs; it never overwrites"""
RESTORE_EXAMPLES = """\
  muster restore ~/muster-monday.sqlite3   what is there now is kept beside it; stop Muster first"""


def _import(args: argparse.Namespace) -> int:
    job = read_out.read_file(args.file)
    database.prepare()
    from ..records.actions.jobs import read_in
    from ..records.actions.people import local_account

    made = read_in(job, local_account())
    print(f"{made.name} is job {made.pk}")
    return DONE


def _export(args: argparse.Namespace) -> int:
    database.prepare()
    from ..formats.jobzip_out import write_package
    from ..records.actions.jobs import write_out

    job = job_named(args.job)
    package = write_out(job)
    if args.file.suffix.lower() in read_out.NOTES:
        from ..formats.notes import write_notes

        write_file(args.file, write_notes(package.job).encode())
        return DONE
    if args.data_package:
        from ..formats.datapackage import write_datapackage
        from ..records.judging import findings_of

        write_file(args.file, write_datapackage(package, findings_of(job)))
        return DONE
    if package.traces and args.file.suffix == ".json":
        raise MusterError("the job holds recorded logs", where=str(args.file), want="a name that ends in .muster.zip")
    write_file(args.file, write_package(package))
    return DONE


def job_named(name: str) -> Job:
    """One of the jobs of the database, by its name or its number.

    Raises
    ------
    MusterError
        If none is called so, or several are.
    """
    from ..records.models import Job

    jobs = Job.objects.filter(pk=name) if name.isdigit() else Job.objects.filter(name__iexact=name)
    if jobs.count() != 1:
        names = ", ".join(f"{job.pk} {job.name}" for job in Job.objects.all()) or "there are none yet"
        raise MusterError(f"{jobs.count()} jobs are called “{name}”", where="JOB", want=f"one of: {names}")
    return jobs.get()


def write_file(path: Path, data: bytes) -> None:
    """Write a file where somebody asked for it; - is standard output.

    Raises
    ------
    MusterError
        If it cannot be written there.
    """
    if str(path) == "-":
        sys.stdout.buffer.write(data)
        return
    try:
        path.write_bytes(data)
        _as_usual(path)
    except OSError as error:
        raise MusterError(str(error.strerror).lower(), where=str(path), want="a place that can be written") from None


def _as_usual(path: Path) -> None:
    """A file that a person asked for has the rights that files of theirs usually have."""
    from django.conf import settings

    path.chmod(0o666 & ~settings.FORMER_UMASK)


def _backup(args: argparse.Namespace) -> int:
    path = database.database_path()
    if not path.exists():
        raise MusterError("there is no database yet", where=str(path), want="run muster up first")
    database.copy(path, args.file)
    photos = database.photos_beside(args.file)
    missing = database.copy_photos(args.file, path.parent / "photos", photos)
    print(f"copied to {args.file}" + (f", its photos to {photos}" if photos.is_dir() else "") + _said_missing(missing))
    return DONE


def _restore(args: argparse.Namespace) -> int:
    path = database.database_path()
    kept = database.restore(args.file, path)
    missing = database.copy_photos(path, database.photos_beside(args.file), path.parent / "photos")
    said = f"; what was there is kept as {kept}" if kept else ""
    print(f"restored from {args.file}{said}{_said_missing(missing)}")
    return DONE


def _said_missing(count: int) -> str:
    return f"; {count} photo{'s' if count > 1 else ''} not found" if count else ""
