"""Commands of the live bench: recording instruments, and the stand-ins that take their place."""

from __future__ import annotations

import argparse
import signal
import subprocess
import sys
import threading
import time
from typing import TYPE_CHECKING

from ..core.errors import MusterError
from . import database
from .commands import DONE, Commands, takes_folder

if TYPE_CHECKING:
    from ..instruments.driver import Driver
    from ..instruments.protocols import InstrumentProtocol
    from ..instruments.standins import Rig
    from ..records.models import SessionRow

FLUSH_S = 1.0
READY = "Ctrl-C stops them"
DEMO_HOME, DEMO_SOURCE = "3_ferry_house.muster.zip", "the hybrid inverter"
"""What the stand-ins of the demo are: this source, with this home's roll on its outlets."""


def add_commands(commands: Commands) -> None:
    """Add ``record`` and ``standins``."""
    recording = commands.add("record", "record instruments into an open session, until Ctrl-C", record, RECORD_EXAMPLES)
    recording.add_argument(
        "session", type=int, metavar="SESSION", help="its number, as the address of its bench page has it"
    )
    for slug, protocol in offered().items():
        recording.add_argument(f"--{slug}", metavar="HOST:PORT", help=protocol.on_command_line)
    recording.add_argument(
        "--every", type=float, default=0.5, metavar="S", help="seconds between readings; default 0.5"
    )
    recording.add_argument(
        "--for", type=float, default=None, dest="seconds", metavar="S", help="stop after so many seconds"
    )
    recording.add_argument("--recording", type=int, default=None, help=argparse.SUPPRESS)
    recording.add_argument(
        "--recover", action="store_true", help="make whole traces of what a killed recorder had kept"
    )
    takes_folder(recording)
    simulated = commands.add(
        "standins", "serve simulated instruments on this machine, fed by one bench twin", standins, STANDINS_EXAMPLES
    )
    simulated.add_argument(
        "--job", default="", metavar="FILE", help="whose loads hang on the outlets; default: the demo's Ferry House"
    )
    simulated.add_argument(
        "--source", default="", metavar="NAME", help="which of its sources; default: the first, or the demo's hybrid"
    )
    simulated.add_argument("--first-port", type=int, default=None, help="ports from here on; default: any free ones")


RECORD_EXAMPLES = """\
  muster record 12 --sunspec 192.168.1.40:502 --sound 192.168.1.41:5000
  muster record 12 --scpi 127.0.0.1:5025 --every 0.1 --for 3600
  muster record 12 --recover           after a recorder was killed

What it says is kept is on the disk. The kit's instruments are the words: name one “sunspec” in the kit to give
its accuracy. Stopped with Ctrl-C, its traces are on the session's strip."""
STANDINS_EXAMPLES = """\
  muster standins --first-port 9000    a hybrid inverter, a panel meter, an outlet strip, an analyser, a sound meter
  muster standins --job ferry.muster.zip --source "the open-frame set"   your own source, as its nameplate has it"""


def offered() -> dict[str, InstrumentProtocol]:
    """The protocols that the command line can record."""
    from ..instruments.protocols import PROTOCOLS

    return {slug: protocol for slug, protocol in PROTOCOLS.items() if protocol.on_command_line}


def _until_told() -> threading.Event:
    """An event that Ctrl-C and a polite kill set."""
    stop = threading.Event()
    for signal_ in (signal.SIGINT, signal.SIGTERM):
        signal.signal(signal_, lambda *_: stop.set())
    return stop


def drivers_of(args: argparse.Namespace) -> dict[str, Driver]:
    """The instruments named on the command line."""
    from ..instruments.link import Link, driver_of

    drivers = {}
    for kind in offered():
        given = getattr(args, kind)
        if given:
            host, _, port = given.rpartition(":")
            if not (host and port.isdigit()):
                raise MusterError(f"got “{given}”", where=f"--{kind}", want="HOST:PORT, such as 127.0.0.1:502")
            drivers[kind] = driver_of(Link(speaks=kind, host=host, port=int(port)))
    if not drivers:
        raise MusterError("no instrument named", where="record", want=", ".join(f"--{kind}" for kind in offered()))
    return drivers


def record(args: argparse.Namespace) -> int:
    """Record into a session: what the command line names, or a recording that a page has set up."""
    database.prepare()
    from ..records.models import SessionRow

    if args.recording is not None:
        return _at_work(args.recording)
    session = SessionRow.objects.filter(pk=args.session).first()
    if session is None:
        raise MusterError(f"there is no session {args.session}", where="SESSION", want="the number in its address")
    return _recover(session) if args.recover else _by_hand(session, args)


def _at_work(number: int) -> int:
    import contextlib

    from django.db import DatabaseError

    from ..records.actions import recordings
    from ..records.models import RecordingRow
    from ..records.recording.supervisor import Supervisor

    row = RecordingRow.objects.select_related("session__source__job", "created_by").filter(pk=number).first()
    if row is None:
        raise MusterError(f"there is no recording {number}", where="--recording", want="one that a page has set up")
    stop = _until_told()
    try:
        Supervisor(row).run(stop)
    except MusterError as error:
        with contextlib.suppress(DatabaseError):  # on a full disk: the page says so by itself
            recordings.make_whole(row, died=True, why=str(error))
        raise
    return DONE


def _recover(session: SessionRow) -> int:
    from ..records.recording.recorder import recover, still_at_work

    if still_at_work(session, time.time()):
        raise MusterError("a recorder is still at work", where="SESSION", want="stop it first, with Ctrl-C")
    for row in recover(session):
        print(f"{row.instrument}: {row.rows} samples made whole")
    return DONE


def _by_hand(session: SessionRow, args: argparse.Namespace) -> int:
    from ..records.actions.people import local_account
    from ..records.recording.recorder import Recorder

    recorder = Recorder(session, drivers_of(args), local_account(), args.every)
    stop = _until_told()
    recorder.start()
    until = time.monotonic() + args.seconds if args.seconds else None
    try:
        while not stop.wait(FLUSH_S) and (until is None or time.monotonic() < until):
            for told in recorder.flush():
                print(f"{told.what} {told.instrument} {told.rows or told.label}".strip(), flush=True)
    finally:
        for row in recorder.finish():
            print(f"{row.instrument}: {row.rows} samples in all", flush=True)
    return DONE


def _rig(home: str, source: str) -> Rig:
    """The bench twin of a source of a job file; of the demo's where none is named."""
    from pathlib import Path

    from ..core.brief import Home
    from ..demo import files
    from ..formats.jobzip import read_package, read_package_file
    from ..instruments.standins import Rig
    from ..twin.from_job import bench_of

    package = (
        read_package_file(Path(home))
        if home
        else read_package(next(path for path in files() if path.name == DEMO_HOME).read_bytes())
    )
    names = [record.source.name for record in package.job.sources]
    wanted = source or (DEMO_SOURCE if not home else names[0] if names else "")
    for record in package.job.sources:
        if record.source.name == wanted:
            return Rig(bench_of(Home(package.job.brief, package.job.loads), record.source))
    raise MusterError(f"no source “{wanted}”", where="--source", want=", ".join(names) or "a job with a source")


def standins(args: argparse.Namespace) -> int:
    """Serve the stand-ins until Ctrl-C."""
    from ..instruments.protocols import STANDINS
    from ..instruments.standins import serve

    rig = _rig(args.job, args.source)
    ports = {name: args.first_port + i for i, name in enumerate(STANDINS)} if args.first_port else None
    try:
        running = serve(rig, ports)
    except OSError as error:
        raise MusterError(
            f"a port is taken: {error.strerror}", where="--first-port", want="another, or none for any free ones"
        ) from None
    for name in STANDINS:
        print(f"{name} 127.0.0.1:{running.ports[name]}", flush=True)
    print(READY, flush=True)
    _until_told().wait()
    running.stop()
    return DONE


def start_standins() -> tuple[subprocess.Popen[str], dict[str, int]]:
    """Start the demo's stand-ins in a process of their own: on their usual ports, else on any free ones; the ports by name."""
    from ..instruments.protocols import FIRST_STANDIN_PORT

    for first in ([f"--first-port={FIRST_STANDIN_PORT}"], []):
        process = subprocess.Popen(
            [sys.executable, "-m", "muster", "standins", *first],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
            start_new_session=True,
        )
        ports = _ports_of(process)
        if ports:
            return process, ports
    raise MusterError("the stand-ins do not start", where="demo", want="muster standins, to see why")


def _ports_of(process: subprocess.Popen[str]) -> dict[str, int]:
    ports = {}
    assert process.stdout is not None
    for line in process.stdout:
        if line.strip() == READY:
            return ports
        name, _, where = line.partition(" ")
        ports[name] = int(where.rpartition(":")[2])
    process.wait()
    return {}
