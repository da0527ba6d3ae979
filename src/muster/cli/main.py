"""The commands together: what each is given, and one line for whatever goes wrong."""

from __future__ import annotations

import argparse
import os
import sys

from .. import __version__
from ..core.errors import MusterError
from . import bench, database, jobs, judge, outage, papers, read_out, serve
from .commands import BAD_INPUT, DONE, RAW, Commands

GROUPS = (serve, judge, papers, outage, read_out, jobs, bench)
"""Modules of commands, in the order in which help lists them."""
ROOT_TEACHES = """\
a first quarter of an hour:
  muster demo                          look around three homes that are all measured
  muster up                            open your own job in the browser
  muster judge ferry.muster.zip        the verdict again, without a browser
  muster findings log.csv --nominal 230/50   what a meter's log shows, at once

exit codes: 0 done; 2 bad input, with one line that says what, where and what would be right.
Muster is a record and a calculation: local codes and a licensed electrician decide."""


def parser() -> argparse.ArgumentParser:
    """The commands and their help."""
    root = argparse.ArgumentParser(
        prog="muster",
        description="Plan, measure and judge backup power for a home.",
        epilog=ROOT_TEACHES,
        formatter_class=RAW,
    )
    root.add_argument("--version", action="version", version=f"muster {__version__}")
    commands = Commands(root)
    for group in GROUPS:
        group.add_commands(commands)
    return root


def main(argv: list[str] | None = None) -> int:
    """Run a command; 0 done, 2 bad input, with one line that says what, where and what would be right."""
    args = parser().parse_args(argv)
    if getattr(args, "data", None) is not None:
        os.environ["MUSTER_DATA"] = str(args.data)
    try:
        done: int = args.run(args)
        sys.stdout.flush()
    except MusterError as error:
        return _refused(error)
    except BrokenPipeError:  # whoever read it has read enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return DONE
    except Exception as error:
        if type(error).__module__.startswith(("django.db", "sqlite3")):
            return _refused(MusterError(str(error), where="database", want=database.DATABASE_WANTED))
        if isinstance(error, OSError):
            where = str(error.filename or args.command)
            return _refused(MusterError(str(error.strerror or error).lower(), where=where))
        raise
    return done


def _refused(error: MusterError) -> int:
    print(f"muster: {error}", file=sys.stderr)
    return BAD_INPUT
