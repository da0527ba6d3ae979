"""The verdict on a job file, without a database; and the same worked out beforehand for the demo."""

from __future__ import annotations

import argparse
import contextlib
from collections.abc import Callable, Collection, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from typing import TYPE_CHECKING

from ..core.errors import MusterError
from ..core.measures import showing_in
from . import read_out
from .commands import DONE, Commands, takes_job_file, takes_json

if TYPE_CHECKING:
    from ..core.brief import Brief
    from ..core.loads import Load, Tier
    from ..core.outage import OutageDemand, Simulate
    from ..core.outage.played import OutagePlayed
    from ..core.outage.rules import Rules
    from ..core.verdict import Verdict
    from ..core.verdict.inputs import VerdictInputs
    from ..formats.jobfile import JobFile, SourceRecord
    from ..formats.jobzip import JobPackage


def add_commands(commands: Commands) -> None:
    """Add ``judge`` and ``ready``."""
    judge = commands.add("judge", "give the verdict on every source of a job file", _judge, JUDGE_EXAMPLES)
    judge.add_argument(
        "--draws",
        type=int,
        default=None,
        help="simulated outages: of the demand 400 by default, played through 2 000; below 1 000 none is played through",
    )
    judge.add_argument("--seed", type=int, default=None, help="seed of the simulation")
    judge.add_argument("--margins", action="store_true", help="judge by margins alone: no outage is played through")
    judge.add_argument("--scope", choices=("must", "should", "could"), default="must", help="loads down to this tier")
    takes_job_file(judge)
    takes_json(judge)
    commands.add("ready", "compile what is slow the first time, so that it is fast afterwards", _ready, READY_EXAMPLES)


JUDGE_EXAMPLES = """\
  muster judge ferry.muster.zip                    the loads that must run
  muster judge ferry.muster.zip --scope could      every load
  muster judge ferry.muster.zip --margins          at once, without playing the outage through
  muster judge ferry.muster.zip --json | jq '.sources[] | [.source, .status]'

A line reads: status, evidence grade, requirement, margin, why. Grade A is measured here, B measured
but indirectly, C from the nameplate, D a planning figure. A job file: muster export, or “Save file” on the board."""
READY_EXAMPLES = """\
  muster ready                         once after installing; “make” does it by itself"""


def _judge(args: argparse.Namespace) -> int:
    if args.draws is not None and args.draws < 1:
        raise MusterError(f"got {args.draws}", where="--draws", want="must be 1 or more")
    package = read_out.read_file(args.file)
    with (
        showing_in(package.job.brief.shown_in),
        _demand_of(package.job, args.scope, args.draws, args.seed) as demand_of,
    ):
        return _judged(args, package, demand_of)


@contextlib.contextmanager
def _demand_of(job: JobFile, scope: str, draws: int | None, seed: int | None) -> Iterator[Simulate]:
    """The demand of a job: from the keep where the same was asked before, else simulated beside.

    The simulation runs in a process of its own, which loads its compiled
    kernel while the sessions are read here.
    """
    from ..core.brief import Home
    from ..core.loads import Tier
    from ..core.outage import DRAWS, SEED, OutageDemand, demand_key, upper
    from ..formats.cache import keep, kept
    from ..formats.codec import dump

    loads = Home(job.brief, job.loads).within(Tier(scope))
    how = (draws or DRAWS, SEED if seed is None else seed)
    asked = {
        rolled: demand_key([dump(item) for item in rolled], dump(job.brief), *how) for rolled in (upper(loads), loads)
    }
    result_found = {rolled: kept(OutageDemand, question) for rolled, question in asked.items()}
    missing = [rolled for rolled, demand in result_found.items() if demand is None]
    if not missing:
        yield _with_rules_too(lambda rolled: _known(result_found[rolled]), asked, job.brief, how)
        return
    with ProcessPoolExecutor(1) as beside:
        coming = {rolled: beside.submit(_simulate, rolled, job.brief, *how) for rolled in missing}

        def simulated(rolled: tuple[Load, ...]) -> OutageDemand:
            return coming[rolled].result() if rolled in coming else _known(result_found[rolled])

        yield _with_rules_too(simulated, asked, job.brief, how)
        for rolled, demand in coming.items():
            keep(asked[rolled], demand.result())


def _with_rules_too(
    plain: Callable[[tuple[Load, ...]], OutageDemand],
    of: Collection[tuple[Load, ...]],
    of_brief: Brief,
    how: tuple[int, int],
) -> Simulate:
    """What finds the demand of the job's own loads, and simulates what the home asks with rules of its household."""
    from ..core.outage import OutageDemand, demand_key
    from ..core.outage.rules import NO_RULES
    from ..formats.cache import keep, kept
    from ..formats.codec import dump

    def demand(loads: tuple[Load, ...], brief: Brief, rules: Rules = NO_RULES, /) -> OutageDemand:
        if loads in of and brief == of_brief and rules == NO_RULES:
            return plain(loads)
        asked = demand_key([dump(item) for item in loads], dump(brief), *how, rules)
        result = kept(OutageDemand, asked)
        if result is None:
            result = _simulate(loads, brief, *how, rules)
            keep(asked, result)
        return result

    return demand


def _known(demand: OutageDemand | None) -> OutageDemand:
    if demand is None:
        raise MusterError("the demand is not known", where="judge")
    return demand


def _simulate(loads: tuple[Load, ...], brief: Brief, draws: int, seed: int, rules: Rules | None = None) -> OutageDemand:
    from ..core.outage.rules import NO_RULES
    from ..core.outage.simulate import simulate

    return simulate(loads, brief, draws, seed, rules=rules or NO_RULES)


def _outage_of(case: VerdictInputs, draws: int, seed: int | None) -> OutagePlayed | None:
    """The outage played through on a source, from the keep where the same was asked before; None where nothing must run."""
    from ..core.outage import SEED
    from ..core.outage.played import OutagePlayed, played_key
    from ..formats.cache import keep, kept
    from ..formats.codec import dump

    if not case.home.loads:
        return None
    loads, seed = [dump(load) for load in case.home.loads], SEED if seed is None else seed
    asked = played_key(loads, dump(case.home.brief), dump(case.character), dump(case.kernel_rules), draws, seed)
    asked |= {"events": False}
    result = kept(OutagePlayed, asked)
    if result is None:
        from ..core.outage.play import play_outage, ready

        made = ready(case.home.loads, case.home.brief, case.character, case.kernel_rules, seed)
        result = play_outage(made, draws, events=False)
        keep(asked, result)
    return result


def _played(case: VerdictInputs, draws: int, seed: int | None) -> VerdictInputs:
    """A case with its outage played, and that of the home without rules beside it."""
    without = None if case.without is None else _played(case.without, draws, seed)
    return replace(case, without=without, played=_outage_of(case, draws, seed))


def case_of(package: JobPackage, record: SourceRecord, scope: Tier, demand_of: Simulate) -> VerdictInputs:
    """What a source of a job file is judged on, nothing played yet."""
    from ..core.brief import Home
    from ..core.verdict.inputs import gather_inputs

    home = Home(package.job.brief, package.job.loads)
    given, elsewhere = read_out.given_in(package, home, record)
    passed = [check.slug for check in record.safety_checks]
    return gather_inputs(home, given, scope, demand_of, passed, record.rules, elsewhere)


def judged_sources(
    package: JobPackage, scope: str, names: Collection[str] = ()
) -> list[tuple[SourceRecord, VerdictInputs, Verdict]]:
    """Each source of a job file, or those of these names, with what it was judged on and its verdict, the outage played.

    Raises
    ------
    MusterError
        If there is no source of a name.
    """
    from ..core.loads import Tier
    from ..core.outage.played import DRAWS as PLAYED_DRAWS
    from ..core.verdict import judge

    known = [record.source.name for record in package.job.sources]
    for name in names:
        if name not in known:
            raise MusterError(f"got “{name}”", where="--source", want=", ".join(known) or "a job with a source")
    result = []
    with _demand_of(package.job, scope, None, None) as demand_of:
        for record in package.job.sources:
            if names and record.source.name not in names:
                continue
            case = _played(case_of(package, record, Tier(scope), demand_of), PLAYED_DRAWS, None)
            result.append((record, case, judge(case)))
    return result


def _judged(args: argparse.Namespace, package: JobPackage, demand_of: Simulate) -> int:
    from ..core.loads import Tier
    from ..core.outage.played import DRAWS as PLAYED_DRAWS
    from ..core.verdict import judge
    from ..core.verdict.by_chance import LEAST_DRAWS
    from ..formats.reports import verdict_report

    job, scope = package.job, Tier(args.scope)
    result = []
    for record in job.sources:
        case = case_of(package, record, scope, demand_of)
        if not args.margins and (args.draws is None or args.draws >= LEAST_DRAWS):
            case = _played(case, args.draws or PLAYED_DRAWS, args.seed)
        result.append((record.source, judge(case)))
    if args.json:
        sources = [{"source": source.name, **verdict_report(verdict)} for source, verdict in result]
        read_out.print_json({"job": job.name, "scope": scope.value, "sources": sources})
        return DONE
    print(job.name)
    for source, verdict in result:
        print(f"\n{source.name}: {verdict.headline}\n{verdict.detail}")
        for change in verdict.changes:
            print(f"  must change: {change.label.lower()}: {'; or '.join(change.ways)}")
        for row in verdict.requirements:
            margin = str(row.margin or row.passed or "")
            print(f"  {row.status.label:<18} {row.grade or '-'}  {row.label:<28} {margin:>10}  {row.sentence}")
    return DONE


def _ready(args: argparse.Namespace) -> int:
    """Compile the kernel, and work out what the demo homes ask: they are judged at once then."""
    from ..core.outage import play
    from ..core.outage.simulate import warm
    from ..demo import files, package

    warm()
    play.warm()
    for path in files():
        job = package(path).job
        with _demand_of(job, "must", None, None) as demand_of:
            del demand_of
    return DONE
