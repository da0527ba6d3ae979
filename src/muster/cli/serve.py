"""Serving: your own jobs, the demo, the workers of a server, and the address that lets a browser in."""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import os
import signal
import socket
import sys
import webbrowser

from ..core.errors import MusterError
from . import bench, database
from .commands import BAD_INPUT, DONE, Commands, takes_folder

HOST = "127.0.0.1"
FIRST_PORT, LAST_PORT = 8400, 8499
BACKLOG = 128
DRAIN_S = 2
DEMO_DATABASE = "demo.sqlite3"


def add_commands(commands: Commands) -> None:
    """Add ``up``, ``demo``, ``url`` and ``work``."""
    up = commands.add("up", "serve your own jobs on this machine", _up, UP_EXAMPLES)
    demo = commands.add("demo", "serve the demo jobs, kept apart from your own", _demo, DEMO_EXAMPLES)
    for command in (up, demo):
        command.add_argument("--port", type=int, default=None, help="port; default: the first free from 8400, 0: any")
    up.add_argument("--open", action="store_true", help="open it in this machine's browser")
    demo.add_argument("--fresh", action="store_true", help="forget what was changed in the demo")
    url = commands.add("url", "let another browser in: an address that works once", _url, URL_EXAMPLES)
    commands.add("work", "do what the server's table of work lists; started by the server", _work, WORK_EXAMPLES)
    for command in (up, demo, url):
        takes_folder(command)


UP_EXAMPLES = """\
  muster up                            at the first free port from 8400
  muster up --port 8080 --data ~/jobs  at a port and in a folder of your own"""
DEMO_EXAMPLES = """\
  muster demo                          three homes of a made-up island, and six small sets; what you change in them stays
  muster demo --fresh                  as they were at first"""
URL_EXAMPLES = """\
  muster url                           an address that lets one more browser in, once, within the hour"""
WORK_EXAMPLES = """\
  nobody starts this by hand: a server keeps two of them"""


def _socket(wanted: int | None) -> socket.socket:
    """Listen at the port asked for, else at the first free one of Muster's own range (0: any).

    Raises
    ------
    MusterError
        If the port is in use, or is none.
    """
    if wanted is not None and not 0 <= wanted <= 65535:
        raise MusterError(f"got {wanted}", where="--port", want="0 to 65535")
    for port in [wanted] if wanted is not None else [*range(FIRST_PORT, LAST_PORT + 1), 0]:
        listening = socket.socket()
        listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listening.bind((HOST, port))
            listening.listen(BACKLOG)
            listening.set_inheritable(False)
        except OSError as error:
            listening.close()
            why = str(error.strerror).lower()
            continue
        return listening
    raise MusterError(
        why, where=f"port {wanted or FIRST_PORT}", want="another with --port, or none for the first free one"
    )


def _port(listening: socket.socket) -> int:
    port: int = listening.getsockname()[1]
    return port


def _up(args: argparse.Namespace) -> int:
    path = database.database_path()
    with _socket(args.port) as listening, database.the_lock(path, "up", port=_port(listening)):
        database.prepare()
        _recover()
        return _serve(listening, open_browser=args.open)


def _demo(args: argparse.Namespace) -> int:
    os.environ["MUSTER_DATABASE"] = DEMO_DATABASE
    os.environ["MUSTER_OPEN"] = "1"
    path = database.database_path()
    with _socket(args.port) as listening, database.the_lock(path, "demo", port=_port(listening)):
        if args.fresh:
            for old in (path, *path.parent.glob(f"{path.name}-*")):
                old.unlink(missing_ok=True)
        database.prepare()
        _recover()
        return _serve_demo(listening)


def _serve_demo(listening: socket.socket) -> int:
    from ..records.actions.demo import link_standins, load_demo
    from ..records.actions.people import local_account

    load_demo(local_account())
    process, ports = bench.start_standins()
    try:
        link_standins(ports, local_account())
        return _serve(listening)
    finally:
        process.terminate()
        process.wait()


def _recover() -> None:
    """Put right what a server that was ended in the middle left behind: only the one that serves may."""
    from ..records import tasks  # noqa: F401 - what is put right when one is broken off
    from ..records.actions.imports import forget_unfinished
    from ..records.actions.recordings import make_all_whole
    from ..records.background import tidy

    tidy()
    forget_unfinished()
    make_all_whole()


def _url(args: argparse.Namespace) -> int:
    del args
    path = database.database_path()
    server = database.serving(path)
    if "port" not in server:
        raise MusterError("nothing is served from here", where=str(path), want="muster up")
    database.prepare()
    from ..records.actions.people import new_link

    print(f"http://127.0.0.1:{server['port']}/in/{new_link()}/")
    return DONE


def _work(args: argparse.Namespace) -> int:
    del args
    database.database_path()
    import django

    django.setup()
    from ..records.pool import work

    work(sys.stdin.buffer)
    return DONE


class _Ended(Exception):
    """Somebody asked politely that it end."""


def _end(*_: object) -> None:
    raise _Ended


def _serve(listening: socket.socket, *, open_browser: bool = False) -> int:
    import uvicorn

    from ..records.keeper import Keeper
    from ..records.pool import Pool

    config = uvicorn.Config(
        "muster.web.asgi:application",
        log_level="warning",
        timeout_graceful_shutdown=DRAIN_S,
        lifespan="off",
        access_log=False,
    )
    port = _port(listening)

    class Server(uvicorn.Server):
        """Says where it is once it listens there, and not before."""

        async def startup(self, sockets: list[socket.socket] | None = None) -> None:
            await super().startup(sockets=sockets)
            if self.started:
                self.polling = asyncio.create_task(_poll())
                await asyncio.to_thread(_say_where, port, open_browser)

    server = Server(config)
    signal.signal(signal.SIGTERM, _end)  # the server gives it back once it has drained: what follows still runs
    with contextlib.suppress(KeyboardInterrupt, _Ended), Pool(), Keeper():
        server.run(sockets=[listening])
    from ..records.actions.recordings import stop_all

    stop_all()
    return DONE if server.started else BAD_INPUT


async def _poll() -> None:
    """Say each second that the server lives: recorders switch their outlets off when nobody could press stop."""
    from ..records.recording import alive

    while True:
        await asyncio.to_thread(alive.poll)
        await asyncio.sleep(alive.POLL_S)


def _say_where(port: int, open_browser: bool) -> None:
    """Print the address; of one's own jobs the one that lets a browser in, once."""
    from django.conf import settings

    from ..records.actions.people import new_link

    address = f"http://127.0.0.1:{port}/"
    if not settings.OPEN_TO_MACHINE:
        address += f"in/{new_link()}/"
    print(f"Muster is at {address}  (Ctrl-C stops it)", flush=True)
    if not settings.OPEN_TO_MACHINE:
        print("That address lets one browser in, once; for another: muster url", flush=True)
    if open_browser:
        webbrowser.open(address)
