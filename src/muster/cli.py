"""The command line: ``muster up`` and ``muster demo``."""

from __future__ import annotations

import argparse
import contextlib
import os
import socket
import sys
from pathlib import Path

from . import __version__

FIRST_PORT, LAST_PORT = 8400, 8499
DRAIN_S = 2
DEMO_DATABASE = "demo.sqlite3"


def free_port(wanted: int | None) -> int:
    """The port asked for, else the first free one of Muster's own range (0: any)."""
    if wanted is not None and wanted != 0:
        return wanted
    candidates = [0] if wanted == 0 else [*range(FIRST_PORT, LAST_PORT + 1), 0]
    for port in candidates:
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            found: int = probe.getsockname()[1]
            return found
    raise SystemExit("muster: no free port on this machine")


def parser() -> argparse.ArgumentParser:
    """The commands and their help."""
    root = argparse.ArgumentParser(prog="muster", description="Plan, measure and judge backup power for a home.")
    root.add_argument("--version", action="version", version=f"muster {__version__}")
    commands = root.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for name, words in (
        ("up", "serve your own jobs on this machine"),
        ("demo", "serve the demo jobs, kept apart from your own"),
    ):
        command = commands.add_parser(name, help=words, description=words.capitalize() + ".")
        command.add_argument("--port", type=int, default=None, help="port; default: the first free from 8400, 0: any")
        command.add_argument("--data", type=Path, default=None, help="folder of the database; default: MUSTER_DATA")
        if name == "demo":
            command.add_argument("--fresh", action="store_true", help="forget what was changed in the demo")
    return root


def main(argv: list[str] | None = None) -> int:
    """Run a command; 0 done, 2 bad input."""
    args = parser().parse_args(argv)
    if args.data is not None:
        os.environ["MUSTER_DATA"] = str(args.data)
    if args.command == "demo":
        os.environ["MUSTER_DATABASE"] = DEMO_DATABASE
    os.environ["DJANGO_SETTINGS_MODULE"] = "muster.web.settings"
    _prepare(demo=args.command == "demo", fresh=getattr(args, "fresh", False))
    return _serve(free_port(args.port))


def _prepare(*, demo: bool, fresh: bool) -> None:
    """Bring the database up to date, and the demo into it."""
    from django.conf import settings

    database = Path(settings.DATABASES["default"]["NAME"])
    if fresh:
        for path in database.parent.glob(database.name + "*"):
            path.unlink()
    import django
    from django.core.management import call_command

    django.setup()
    call_command("migrate", verbosity=0)
    if demo:
        from muster.records.actions.demo import load_demo
        from muster.records.actions.people import local_account

        load_demo(local_account())


def _serve(port: int) -> int:
    import uvicorn

    config = uvicorn.Config(
        "muster.web.asgi:application", host="127.0.0.1", port=port, log_level="warning",
        timeout_graceful_shutdown=DRAIN_S, lifespan="off",
    )  # fmt: skip
    server = uvicorn.Server(config)
    print(f"Muster is at http://127.0.0.1:{port}/  (Ctrl-C stops it)", flush=True)
    with contextlib.suppress(KeyboardInterrupt):
        server.run()
    return 0 if server.started else 2


if __name__ == "__main__":
    sys.exit(main())
