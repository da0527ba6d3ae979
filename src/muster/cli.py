"""The command line: serve, judge and read out without a browser, carry jobs in and out."""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import os
import signal
import socket
import sys
import webbrowser
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import TYPE_CHECKING

from . import __version__, cli_bench, cli_data, cli_findings
from .core.errors import MusterError

if TYPE_CHECKING:
    from .core.brief import Brief
    from .core.loads import Load
    from .core.outage import OutageDemand, Simulate
    from .formats.jobfile import JobFile
    from .formats.jobzip import JobPackage

HOST = "127.0.0.1"
FIRST_PORT, LAST_PORT = 8400, 8499
BACKLOG = 128
DRAIN_S = 2
DEMO_DATABASE = "demo.sqlite3"
DONE, BAD_INPUT = 0, 2


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


ROOT_TEACHES = """\
a first quarter of an hour:
  muster demo                          look around three homes that are all measured
  muster up                            open your own job in the browser
  muster judge ferry.muster.zip        the verdict again, without a browser
  muster findings log.csv --nominal 230/50   what a meter's log shows, at once

exit codes: 0 done; 2 bad input, with one line that says what, where and what would be right.
Muster is a record and a calculation: local codes and a licensed electrician decide."""
TEACHES = {
    "up": """\
  muster up                            at the first free port from 8400
  muster up --port 8080 --data ~/jobs  at a port and in a folder of your own""",
    "demo": """\
  muster demo                          three homes of a made-up island; what you change in them stays
  muster demo --fresh                  as they were at first""",
    "judge": """\
  muster judge ferry.muster.zip                    the loads that must run
  muster judge ferry.muster.zip --scope could      every load
  muster judge ferry.muster.zip --draws 2000       a firmer demand
  muster judge ferry.muster.zip --json | jq '.sources[] | [.source, .status]'

A line reads: status, evidence grade, what is asked, margin, why. Grade A is measured here, B measured
but indirectly, C from the nameplate, D a planning figure. A job file: muster export, or “Save file” on the board.""",
    "findings": """\
  muster findings ferry.muster.zip                 session by session, each with its arithmetic
  muster findings log.csv --nominal 120/240/60     a meter's log alone: dips, energy, duty, conversion
  muster findings start.cff --nominal 230/50       a scope's capture alone: dips, distortion, kind of wave
  muster findings ferry.muster.zip --json

A log's columns are taken from their headings (time, l1_v, power [kW], Freq. …); where they say too little,
import it on the bench and say which is what.""",
    "character": """\
  muster character ferry.muster.zip                each parameter with its band, grade, and what it rests on
  muster character ferry.muster.zip --json > ferry.character.json

Several sessions are weighed together; where they disagree, that is said. Then what is predicted for every load.""",
    "import": """\
  muster import ferry.muster.zip       into the jobs that “muster up” serves; its number is printed""",
    "export": """\
  muster export "The Ferry House" ferry.muster.zip
  muster export 3 - | less             a job without recorded logs is plain JSON
  muster export 3 ferry-data.zip --data-package   a data package: CSVs and their schema""",
    "backup": """\
  muster backup ~/muster-monday.sqlite3   safe while Muster runs; it never overwrites""",
    "restore": """\
  muster restore ~/muster-monday.sqlite3   what is there now is kept beside it; stop Muster first""",
    "url": """\
  muster url                           an address that lets one more browser in, once, within the hour""",
    "record": """\
  muster record 12 --sunspec 192.168.1.40:502 --sound 192.168.1.41:5000
  muster record 12 --scpi 127.0.0.1:5025 --every 0.1 --for 3600
  muster record 12 --recover           after a recorder was killed

What it says is kept is on the disk. The kit's instruments are the words: name one “sunspec” in the kit to give
its accuracy. Stopped with Ctrl-C, its traces stand on the session's strip.""",
    "standins": """\
  muster standins --first-port 9000    a hybrid inverter, a panel meter, an outlet strip, an analyser, a sound meter
  muster standins --job ferry.muster.zip --source "the open-frame set"   your own source, as its nameplate has it""",
    "work": """\
  nobody starts this by hand: a server keeps two of them""",
    "ready": """\
  muster ready                         once after installing; “make” does it by itself""",
}


def parser() -> argparse.ArgumentParser:
    """The commands and their help."""
    raw = argparse.RawDescriptionHelpFormatter
    root = argparse.ArgumentParser(
        prog="muster",
        description="Plan, measure and judge backup power for a home.",
        epilog=ROOT_TEACHES,
        formatter_class=raw,
    )
    root.add_argument("--version", action="version", version=f"muster {__version__}")
    commands = root.add_subparsers(dest="command", required=True, metavar="COMMAND")

    def add(name: str, words: str, run: Callable[[argparse.Namespace], int]) -> argparse.ArgumentParser:
        command = commands.add_parser(
            name,
            help=words,
            description=words[0].upper() + words[1:] + ".",
            epilog=f"examples:\n{TEACHES[name]}",
            formatter_class=raw,
        )
        command.set_defaults(run=run)
        return command

    up = add("up", "serve your own jobs on this machine", _up)
    demo = add("demo", "serve the demo jobs, kept apart from your own", _demo)
    for command in (up, demo):
        command.add_argument("--port", type=int, default=None, help="port; default: the first free from 8400, 0: any")
    up.add_argument("--open", action="store_true", help="open it in this machine's browser")
    demo.add_argument("--fresh", action="store_true", help="forget what was changed in the demo")
    judge = add("judge", "give the verdict on every source of a job file", _judge)
    judge.add_argument("--draws", type=int, default=None, help="simulated outages; default 400")
    judge.add_argument("--seed", type=int, default=None, help="seed of the simulation")
    judge.add_argument("--scope", choices=("must", "should", "could"), default="must", help="loads down to this tier")
    findings = add(
        "findings",
        "read out every finding of a job file, a recorded log or a waveform capture, with its working",
        cli_findings.findings,
    )
    findings.add_argument(
        "--nominal",
        default="230/50",
        metavar="V/HZ",
        help="supply of a log: 230/50, 120/60, 120/240/60; default 230/50",
    )
    judge.add_argument("file", type=Path, metavar="FILE", help="a .muster.json or .muster.zip job file")
    findings.add_argument(
        "file", type=Path, metavar="FILE", help="a job file, the .csv log of a meter, or a .cff or .cfg capture"
    )
    character = add(
        "character", "what each source of a job file was measured to be, and what that predicts", cli_findings.character
    )
    character.add_argument("file", type=Path, metavar="FILE", help="a .muster.json or .muster.zip job file")
    for command in (judge, findings, character):
        command.add_argument("--json", action="store_true", help="the stable form, documented in docs/command-line.md")
    load = add("import", "bring a job file into your own jobs: all of it or nothing", _import)
    load.add_argument("file", type=Path, metavar="FILE", help="a .muster.json or .muster.zip job file")
    save = add("export", "write one of your jobs as a job file", _export)
    save.add_argument("job", metavar="JOB", help="its name or its number")
    save.add_argument("file", type=Path, metavar="FILE", help="where to; - for standard output")
    save.add_argument(
        "--data-package",
        action="store_true",
        help="everything measured as CSVs with their description, for other programs",
    )
    record = add("record", "record instruments into an open session, until Ctrl-C", _record)
    record.add_argument(
        "session", type=int, metavar="SESSION", help="its number, as the address of its bench page has it"
    )
    for kind, words in cli_bench.WIRES.items():
        record.add_argument(f"--{kind}", metavar="HOST:PORT", help=words)
    record.add_argument("--every", type=float, default=0.5, metavar="S", help="seconds between readings; default 0.5")
    record.add_argument(
        "--for", type=float, default=None, dest="seconds", metavar="S", help="stop after so many seconds"
    )
    record.add_argument("--recording", type=int, default=None, help=argparse.SUPPRESS)
    record.add_argument("--recover", action="store_true", help="make whole traces of what a killed recorder had kept")
    standins = add("standins", "serve simulated instruments on this machine, fed by one bench twin", cli_bench.standins)
    standins.add_argument(
        "--job", default="", metavar="FILE", help="whose roll hangs on the outlets; default: the demo's Ferry House"
    )
    standins.add_argument(
        "--source", default="", metavar="NAME", help="which of its sources; default: the first, or the demo's hybrid"
    )
    standins.add_argument("--first-port", type=int, default=None, help="ports from here on; default: any free ones")
    add("work", "do what the server's table of work asks; started by the server", _work)
    add("ready", "compile what is slow the first time, so that it is fast afterwards", _ready)
    backup = add("backup", "copy the database, also while Muster runs", _backup)
    backup.add_argument("file", type=Path, metavar="FILE", help="where to")
    restore = add("restore", "put a backup in the place of the database, and keep what stood there", _restore)
    restore.add_argument("file", type=Path, metavar="FILE", help="a backup")
    url = add("url", "let another browser in: an address that works once", _url)
    for command in (up, demo, load, save, backup, restore, url, record):
        command.add_argument("--data", type=Path, default=None, help="folder of the database; default: MUSTER_DATA")
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
            return _refused(MusterError(str(error), where="database", want=cli_data.DATABASE_WANTED))
        if isinstance(error, OSError):
            where = str(error.filename or args.command)
            return _refused(MusterError(str(error.strerror or error).lower(), where=where))
        raise
    return done


def _refused(error: MusterError) -> int:
    print(f"muster: {error}", file=sys.stderr)
    return BAD_INPUT


# Without a database


def _read(path: Path) -> JobPackage:
    from .formats.jobzip import read_package_file

    return read_package_file(path)


def _simulate(loads: tuple[Load, ...], brief: Brief, draws: int, seed: int) -> OutageDemand:
    from .core.outage.simulate import simulate

    return simulate(loads, brief, draws, seed)


def _get_ready() -> None:
    from .core.outage.simulate import warm

    warm()


def _judge(args: argparse.Namespace) -> int:
    if args.draws is not None and args.draws < 1:
        raise MusterError(f"got {args.draws}", where="--draws", want="must be 1 or more")
    package = _read(args.file)
    with _demand_of(package.job, args.scope, args.draws, args.seed) as demand_of:
        return _judged(args, package, demand_of)


@contextlib.contextmanager
def _demand_of(job: JobFile, scope: str, draws: int | None, seed: int | None) -> Iterator[Simulate]:
    """The demand of a job: from the keep where the same was asked before, else simulated beside.

    The simulation runs in a process of its own, which loads its compiled
    kernel while the sessions are read here.
    """
    from .core.brief import Home
    from .core.loads import Tier
    from .core.outage import DRAWS, SEED, OutageDemand, demand_key, upper
    from .formats.cache import keep, kept
    from .formats.codec import dump

    loads = Home(job.brief, job.loads).within(Tier(scope))
    how = (draws or DRAWS, SEED if seed is None else seed)
    asked = {
        rolled: demand_key([dump(one) for one in rolled], dump(job.brief), *how) for rolled in (upper(loads), loads)
    }
    found = {rolled: kept(OutageDemand, question) for rolled, question in asked.items()}
    missing = [rolled for rolled, demand in found.items() if demand is None]
    if not missing:
        yield lambda rolled, _: _known(found[rolled])
        return
    with ProcessPoolExecutor(1) as beside:
        coming = {rolled: beside.submit(_simulate, rolled, job.brief, *how) for rolled in missing}
        yield lambda rolled, _: coming[rolled].result() if rolled in coming else _known(found[rolled])
        for rolled, demand in coming.items():
            keep(asked[rolled], demand.result())


def _known(demand: OutageDemand | None) -> OutageDemand:
    if demand is None:
        raise MusterError("the demand is not known", where="judge")
    return demand


def _judged(args: argparse.Namespace, package: JobPackage, demand_of: Simulate) -> int:
    from .core.brief import Home
    from .core.loads import Tier
    from .core.verdict import judge
    from .core.verdict.whole import gather_inputs
    from .formats.reports import verdict_report

    job = package.job
    home, scope = Home(job.brief, job.loads), Tier(args.scope)
    found = []
    for record in job.sources:
        seen = [cli_findings.found_in(package, home, record, kept) for kept in record.sessions]
        passed = [check.slug for check in record.safety_checks]
        case = gather_inputs(home, record.source, seen, scope, demand_of, passed)
        found.append((record.source, judge(case)))
    if args.json:
        sources = [{"source": source.name, **verdict_report(verdict)} for source, verdict in found]
        cli_findings.print_json({"job": job.name, "scope": scope.value, "sources": sources})
        return DONE
    print(job.name)
    for source, verdict in found:
        print(f"\n{source.name}: {verdict.headline}\n{verdict.detail}")
        for row in verdict.requirements:
            margin = str(row.margin) if row.margin else ""
            print(f"  {row.status.label:<18} {row.grade or '-'}  {row.label:<28} {margin:>10}  {row.sentence}")
    return DONE


# With one


def _up(args: argparse.Namespace) -> int:
    path = cli_data.database_path()
    with _socket(args.port) as listening, cli_data.the_lock(path, "up", port=_port(listening)):
        _prepare()
        _recover()
        return _serve(listening, open_browser=args.open)


def _demo(args: argparse.Namespace) -> int:
    os.environ["MUSTER_DATABASE"] = DEMO_DATABASE
    os.environ["MUSTER_OPEN"] = "1"
    path = cli_data.database_path()
    with _socket(args.port) as listening, cli_data.the_lock(path, "demo", port=_port(listening)):
        if args.fresh:
            for old in (path, *path.parent.glob(f"{path.name}-*")):
                old.unlink(missing_ok=True)
        _prepare()
        _recover()
        return _serve_demo(listening)


def _serve_demo(listening: socket.socket) -> int:
    from .records.actions.demo import link_standins, load_demo
    from .records.actions.people import local_account

    load_demo(local_account())
    process, ports = cli_bench.start_standins()
    try:
        link_standins(ports, local_account())
        return _serve(listening)
    finally:
        process.terminate()
        process.wait()


def _prepare() -> None:
    """Bring the database up to date: every command that reads or writes it does."""
    cli_data.bring_up_to_date(cli_data.database_path())
    import django

    django.setup()


def _recover() -> None:
    """Put right what a server that was ended in the middle left behind: only the one that serves may."""
    from .records import tasks  # noqa: F401 - what is put right when one is broken off
    from .records.actions.imports import forget_unfinished
    from .records.actions.recordings import make_all_whole
    from .records.background import tidy

    tidy()
    forget_unfinished()
    make_all_whole()


def _import(args: argparse.Namespace) -> int:
    job = _read(args.file)
    _prepare()
    from .records.actions.jobs import read_in
    from .records.actions.people import local_account

    made = read_in(job, local_account())
    print(f"{made.name} is job {made.pk}")
    return DONE


def _export(args: argparse.Namespace) -> int:
    _prepare()
    from .formats.jobzip_out import write_package
    from .records.actions.jobs import write_out
    from .records.models import Job

    jobs = Job.objects.filter(pk=args.job) if args.job.isdigit() else Job.objects.filter(name__iexact=args.job)
    if jobs.count() != 1:
        names = ", ".join(f"{job.pk} {job.name}" for job in Job.objects.all()) or "there are none yet"
        raise MusterError(f"{jobs.count()} jobs are called “{args.job}”", where="JOB", want=f"one of: {names}")
    package = write_out(jobs.get())
    if args.data_package:
        from .formats.datapackage import write_datapackage
        from .records.judging import findings_of

        _write(args.file, write_datapackage(package, findings_of(jobs.get())))
        return DONE
    if package.traces and args.file.suffix == ".json":
        raise MusterError("the job holds recorded logs", where=str(args.file), want="a name that ends in .muster.zip")
    _write(args.file, write_package(package))
    return DONE


def _write(path: Path, data: bytes) -> None:
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
    database = cli_data.database_path()
    if not database.exists():
        raise MusterError("there is no database yet", where=str(database), want="run muster up first")
    cli_data.copy(database, args.file)
    print(f"copied to {args.file}")
    return DONE


def _restore(args: argparse.Namespace) -> int:
    kept = cli_data.restore(args.file, cli_data.database_path())
    print(f"restored from {args.file}" + (f"; what stood there is kept as {kept}" if kept else ""))
    return DONE


def _url(args: argparse.Namespace) -> int:
    del args
    path = cli_data.database_path()
    server = cli_data.serving(path)
    if "port" not in server:
        raise MusterError("nothing is served from here", where=str(path), want="muster up")
    _prepare()
    from .records.actions.people import new_link

    print(f"http://127.0.0.1:{server['port']}/in/{new_link()}/")
    return DONE


def _record(args: argparse.Namespace) -> int:
    _prepare()
    return cli_bench.record(args)


def _work(args: argparse.Namespace) -> int:
    del args
    cli_data.database_path()
    import django

    django.setup()
    from .records.pool import work

    work(sys.stdin.buffer)
    return DONE


def _ready(args: argparse.Namespace) -> int:
    """Compile the kernel, and work out what the demo homes ask: they are judged at once then."""
    from .demo import files
    from .formats.jobzip import read_package

    _get_ready()
    for path in files():
        job = read_package(path.read_bytes()).job
        with _demand_of(job, "must", None, None) as demand_of:
            del demand_of
    return DONE


class _Ended(Exception):
    """Somebody asked politely that it end."""


def _end(*_: object) -> None:
    raise _Ended


def _serve(listening: socket.socket, *, open_browser: bool = False) -> int:
    import uvicorn

    from .records.keeper import Keeper
    from .records.pool import Pool

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
                self.beating = asyncio.create_task(_beat())
                await asyncio.to_thread(_say_where, port, open_browser)

    server = Server(config)
    signal.signal(signal.SIGTERM, _end)  # the server gives it back once it has drained: what follows still runs
    with contextlib.suppress(KeyboardInterrupt, _Ended), Pool(), Keeper():
        server.run(sockets=[listening])
    from .records.actions.recordings import stop_all

    stop_all()
    return DONE if server.started else BAD_INPUT


async def _beat() -> None:
    """Say each second that the server lives: recorders switch their outlets off when nobody could press stop."""
    from .records.recording import alive

    while True:
        await asyncio.to_thread(alive.beat)
        await asyncio.sleep(alive.BEAT_S)


def _say_where(port: int, open_browser: bool) -> None:
    """Print the address; of one's own jobs the one that lets a browser in, once."""
    from django.conf import settings

    from .records.actions.people import new_link

    address = f"http://127.0.0.1:{port}/"
    if not settings.OPEN_TO_MACHINE:
        address += f"in/{new_link()}/"
    print(f"Muster is at {address}  (Ctrl-C stops it)", flush=True)
    if not settings.OPEN_TO_MACHINE:
        print("That address lets one browser in, once; for another: muster url", flush=True)
    if open_browser:
        webbrowser.open(address)


if __name__ == "__main__":
    sys.exit(main())
