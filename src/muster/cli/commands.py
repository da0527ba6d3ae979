"""How commands are added: each group of commands declares its own beside what they do."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import Any

DONE, BAD_INPUT = 0, 2
"""Exit codes."""
RAW = argparse.RawDescriptionHelpFormatter


class Commands:
    """The commands of a parser; each is added with what it does in words, the function that does it, and examples."""

    def __init__(self, root: argparse.ArgumentParser) -> None:
        self._commands: Any = root.add_subparsers(dest="command", required=True, metavar="COMMAND")

    def add(
        self, name: str, does: str, run: Callable[[argparse.Namespace], int], examples: str
    ) -> argparse.ArgumentParser:
        """Add a command; the parser of its own is given back for its arguments."""
        command: argparse.ArgumentParser = self._commands.add_parser(
            name,
            help=does,
            description=does[0].upper() + does[1:] + ".",
            epilog=f"examples:\n{examples}",
            formatter_class=RAW,
        )
        command.set_defaults(run=run)
        return command


def takes_job_file(command: argparse.ArgumentParser) -> None:
    """It reads a job file."""
    command.add_argument(
        "file", type=Path, metavar="FILE", help="a .muster.json or .muster.zip job file, or notes as .txt or .md"
    )


def takes_json(command: argparse.ArgumentParser) -> None:
    """It can answer in the stable form."""
    command.add_argument("--json", action="store_true", help="the stable form, documented in docs/command-line.md")


def takes_folder(command: argparse.ArgumentParser) -> None:
    """It works in the folder of the database."""
    command.add_argument("--data", type=Path, default=None, help="folder of the database; default: MUSTER_DATA")
