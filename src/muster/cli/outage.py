"""The outage of a job file played through on every source, without a browser."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from ..core.errors import MusterError
from ..core.measures import showing_in
from ..core.quantities import THIN, duration, plain
from . import read_out
from .commands import DONE, Commands, takes_job_file, takes_json

if TYPE_CHECKING:
    from ..core.outage.played import OutagePlayed


def add_commands(commands: Commands) -> None:
    """Add ``outage``."""
    played = commands.add("outage", "play a home's outage through on every source of a job file", _outage, EXAMPLES)
    played.add_argument("--draws", type=int, default=None, help="outages played; default 2000")
    played.add_argument("--seed", type=int, default=None, help="seed of all random numbers")
    played.add_argument("--scope", choices=("must", "should", "could"), default="must", help="loads down to this tier")
    played.add_argument(
        "--night", action="store_true", help="tell the middle one and the worst of a hundred, event by event"
    )
    takes_job_file(played)
    takes_json(played)


EXAMPLES = """\
  muster outage ferry.muster.zip                   the loads that must run, 2 000 outages on each source
  muster outage ferry.muster.zip --scope could     every load
  muster outage ferry.muster.zip --night           what happens in one of them, hour by hour
  muster outage ferry.muster.zip --json | jq '.sources[] | [.source, .chances.trip.share]'

Each chance stands with its ends at 95 %, and beside it that with every figure as it is stated: what lies between the
two is doubt, and below stands which figure makes most of it and which test settles it."""


def _outage(args: argparse.Namespace) -> int:
    from ..core.brief import Home
    from ..core.loads import Tier
    from ..core.outage.demand import SEED
    from ..core.outage.household import with_rules
    from ..core.outage.play import play_outage, ready
    from ..core.outage.played import DRAWS
    from ..formats.reports import outage_report

    if args.draws is not None and args.draws < 1:
        raise MusterError(f"got {args.draws}", where="--draws", want="must be 1 or more")
    package = read_out.read_file(args.file)
    job = package.job
    home = Home(job.brief, job.loads)
    loads, seed = home.within(Tier(args.scope)), SEED if args.seed is None else args.seed
    if not loads:
        raise MusterError("nothing must run", where=str(args.file), want="loads of this tier, or --scope should")
    if not job.sources:
        raise MusterError("no source", where=str(args.file), want="a source in the job: its kind and watts")
    with showing_in(job.brief.shown_in):
        result = []
        for record in job.sources:
            character = read_out.character_in(package, home, record)
            ruled = with_rules(loads, job.brief, record.rules)
            play = ready(ruled.loads, ruled.brief, character, ruled.rules, seed)
            result.append((record.source.name, play_outage(play, args.draws or DRAWS)))
        if args.json:
            sources = [{"source": name, **outage_report(played)} for name, played in result]
            read_out.print_json({"job": job.name, "scope": args.scope, "sources": sources})
            return DONE
        print(f"{job.name}: {plain(job.brief.outage_h, 'h')} from {job.brief.outage_from_hour:02d}:00")
        for name, played in result:
            print(f"\n{name}")
            for line in told(played, night=args.night):
                print(f"  {line}")
    return DONE


def told(played: OutagePlayed, *, night: bool = False) -> list[str]:
    """What came of it, a line each."""
    from ..core.outage.nights import in_short

    lines = []
    for failure, chance in played.chances.items():
        low, high = chance.ends
        stated = played.stated_chances[failure]
        lines.append(
            f"{_pct(chance.share):>8}  {failure.label} ({_pct(low)} to {_pct(high)}; as stated {_pct(stated.share)})"
        )
    for tier, hours in played.served_h.items():
        lines.append(f"{duration(hours * 3600):>8}  served of what {tier} run")
    if played.charge_wh:
        end = played.charge_wh[-1]
        lines.append(f"charge left at the end {_whole(end.p50)} ({_whole(end.p10)} to {_whole(end.p90)})")
    if played.fuel_l:
        end = played.fuel_l[-1]
        lines.append(
            f"fuel left at the end {plain(end.p50, 'l')} ({plain(end.p10, 'l')} to {plain(end.p90, 'l')}), "
            f"filled {played.refuels.p50:g} times"
        )
    lines.append(
        f"lowest volts {plain(played.lowest_v.p50, 'v')}, in one outage of ten {plain(played.lowest_v.p10, 'v')} or less"
    )
    lines += [f"{cause.in_hundred:8.1f}  {cause.told} in a hundred outages" for cause in played.causes[:6]]
    for failure, spreads in played.spreads.items():
        most = [
            f"{spread.name} {_pct(spread.share)}" + (f" ({spread.settled_by})" if spread.settled_by else "")
            for spread in spreads[:3]
        ]
        if most:
            lines.append(f"of the doubt whether {failure.label}: {', '.join(most)}")
    lines += [f"not said: {item}" for item in played.missing]
    if night:
        for title, events in (
            ("the middle one", played.typical_night.events),
            ("the worst of a hundred", played.worst_night.events),
        ):
            lines.append(f"{title}:")
            lines += [f"  {event.told(played.hours[0])}" for event in in_short(events)]
    return lines


def _whole(wh: float) -> str:
    """Watt-hours, to a whole one."""
    return plain(float(round(wh)), "wh")


def _pct(share: float) -> str:
    return f"{share * 100:.1f}{THIN}%"
