"""What must change where no test can help: a line that falls short, and what would bring it round, with figures."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

from ..loads import TIERS, Load, short_name
from ..quantities import duration, plain
from ..supply import Leg
from .inputs import VerdictInputs
from .quality import fussiest
from .requirement import Requirement, Status
from .signal import ORDER as WAVES

MOST_OFF = 3
"""So many loads are left off at most; beyond that it is another home."""
UPS = "put them behind an uninterruptible supply of their own"


@dataclass(frozen=True)
class MustChange:
    """A line that falls short, and what would bring it round: any one of ``ways``."""

    key: str
    label: str
    ways: tuple[str, ...]


def must_change(case: VerdictInputs, rows: Sequence[Requirement]) -> tuple[MustChange, ...]:
    """What would have to change for each line that falls short, in the order of the lines.

    Parameters
    ----------
    case
        What was judged on.
    rows
        The lines as they were judged.

    Returns
    -------
    tuple of MustChange
        Empty where none falls short. Every way is one of the household or of who may touch the source; none defeats a
        protective device.

    References
    ----------
    physics §10: what cannot be cured by a test is not answered by one.
    """
    short = [row for row in rows if row.must and row.status is Status.FALLS_SHORT]
    return tuple(MustChange(row.key, row.label, tuple(_ways(case, row))) for row in short)


def is_past_testing(row: Requirement) -> bool:
    """Whether a line falls short by what was measured, or in the outages that were played, and no test can cure it."""
    measured = row.grade is not None and row.grade.is_measured
    return row.must and row.status is Status.FALLS_SHORT and measured


def _ways(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    kind = next(key for key in WAYS if row.key == key or row.key.startswith(f"{key}-"))
    yield from WAYS[kind](case, row)


def _least_off(loads: Sequence[Load], short_w: float, of: Callable[[Load], float]) -> tuple[Load, ...]:
    """The fewest loads that together make up what is short, lesser tiers and smaller ones first; empty where three do not."""
    for count in range(1, MOST_OFF + 1):
        enough = [group for group in combinations(loads, count) if sum(map(of, group)) >= short_w]
        if enough:
            return min(
                enough, key=lambda group: (max(TIERS[::-1].index(item.tier) for item in group), sum(map(of, group)))
            )
    return ()


def _short(row: Requirement) -> float:
    """By what share of its demand a line is short; 0 where its margin is not below nothing, and the outages alone showed it."""
    return max(0.0, -row.margin.value) if row.margin is not None else 0.0


def _names(loads: Sequence[Load]) -> str:
    return " and the ".join(short_name(load) for load in loads)


def _steady(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    leg = {"steady-1": Leg.ONE, "steady-2": Leg.TWO}.get(row.key)
    demand = case.demand
    need_w = demand.peak_w if leg is None else demand.leg_w[int(leg.value) - 1]
    short_w = need_w * _short(row)
    here = [
        load for load in case.home.loads if not load.kind_figures.medical and (leg is None or load.share_on(leg) > 0)
    ]
    off = _least_off(here, short_w, lambda load: load.run_w if leg is None else load.run_w * load.share_on(leg))
    if short_w > 0 and off and len(off) < len(here):
        yield f"the {_names(off)} off while everything else runs: {plain(sum(load.run_w for load in off), 'w')} less"
    if leg is not None:
        yield f"move a load of {leg.label} to the other leg, by a licensed electrician"
    yield f"a source that carries {row.demand}{f' on {leg.label}' if leg else ''}, its breaker and inlet with it"


def _starting(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    load = next((item for item in case.home.loads if short_name(item) == row.load), None)
    if load is None:  # two at one moment
        yield "never let the two start at one moment: switch one on after the other runs"
        return
    base_w = next((start.base_w for start in case.demand.starts if start.load == load.key), 0.0)
    if load.kind_figures.turns and not load.eased:
        eased = replace(load, soft_starter=True)
        yield (
            f"a soft starter on the {short_name(load)}: its start falls from {plain(load.start_total_va, 'va')} to about "
            f"{plain(eased.start_total_va, 'va')}; try it with one before it is bought"
        )
    if base_w > 0:
        yield f"start the {short_name(load)} before anything else runs, and not on {plain(base_w, 'w')}: start it so and read it"
    yield f"a source that starts it: {plain(base_w, 'w')} beneath and {plain(load.start_total_va, 'va')} of its own"


def _voltage(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    short_v = _short(row)
    yield f"volts {plain(short_v, 'v')} nearer to what the loads stand: a regulator set by who may open it, or a shorter, thicker lead"
    yield "fewer loads on it at a time, where they sink under load"


def _dips(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    minds = [load for load in case.home.loads if load.gap_ms is not None and not load.kind_figures.medical]
    motors = [load for load in case.home.loads if load.kind_figures.turns and not load.eased]
    if motors:
        worst = max(motors, key=lambda load: load.start_total_va)
        yield f"a soft starter on the {short_name(worst)}"
    if minds:
        yield f"the {_names(minds[:MOST_OFF])}: {UPS}"


def _frequency(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    who, line, hz = fussiest(case, "hz_pct"), case.seen.droop, case.home.brief.system.hz
    if who is None or line is None:
        return
    top, bottom = line.line.at(0.0), line.line.at(case.demand.peak_w)
    most, least = hz * (1 + who.pct / 100), hz * (1 - who.pct / 100) + (top - bottom)
    if least < most and case.source.kind.has_engine:
        yield f"its governor set to between {plain(least, 'hz')} and {plain(most, 'hz')} at no load (Set-point), by who may"
    else:
        yield f"its hertz fall by {plain(top - bottom, 'hz')} over the home's load, more than the loads stand: have the governor seen to"


def _waveform(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    pickiest = min(WAVES.index(load.wave) for load in case.home.loads)
    wants = [load for load in case.home.loads if WAVES.index(load.wave) == pickiest]
    yield f"another source for the {_names(wants[:MOST_OFF])}{' and others' if len(wants) > MOST_OFF else ''}"
    if not any(load.kind_figures.medical for load in wants):
        yield f"the {_names(wants[:MOST_OFF])} left off while it runs"


def _energy(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    brief, claims = case.home.brief, case.source.claims
    wanted_h = brief.outage_h * (1 + brief.reserve_pct / 100)
    share = _short(row)
    if share == 0:
        yield "more to draw on, or less on it: on the mean it lasts, in too many of the outages played it does not"
        return
    if case.source.kind.has_engine:
        at_hand_l = (claims.tank_l or 0.0) + (claims.stored_fuel_l or 0.0)
        if share < 1:
            yield f"{plain(at_hand_l * share / (1 - share), 'l')} more fuel at hand, stored as local rules allow, or less on it"
        return
    needed_wh = case.demand.total_wh * wanted_h / brief.outage_h
    short_wh = needed_wh * share
    used = case.demand.load_wh
    spare = [load for load in case.home.loads if not load.kind_figures.medical]
    off = _least_off(spare, short_wh, lambda load: used.get(load.key, 0.0) * wanted_h / brief.outage_h)
    if off and len(off) < len(spare):
        less_wh = sum(used.get(load.key, 0.0) for load in off)
        yield f"if the household can do without the {_names(off)}: {plain(less_wh, 'wh')} less over the outage"
    yield f"{plain(short_wh, 'wh')} more from the battery, or as much charged meanwhile by sun or by a generator"
    if share < 1:
        yield f"a shorter outage: as the home is it lasts about {duration(wanted_h * (1 - share) * 3600)}"


def _endurance(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    yield f"less on it for as long, or a source that holds {row.demand}"


def _legs(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    unlike = case.demand.leg_w[0] - case.demand.leg_w[1] if len(case.demand.leg_w) == 2 else 0.0
    heavy = Leg.ONE if unlike > 0 else Leg.TWO
    here = [load for load in case.home.loads if load.leg is heavy]
    if here:
        best = min(here, key=lambda load: abs(load.run_w - abs(unlike) / 2))
        yield f"the {short_name(best)} on the other leg: {plain(best.run_w, 'w')} of {plain(abs(unlike), 'w')} between them, by a licensed electrician"


def _transfer(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    who = fussiest(case, "gap_ms")
    if who is not None:
        yield f"the {short_name(who.load)}: put it behind an uninterruptible supply of its own"


def _noise(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    sound, metres = case.character.sound, case.home.brief.neighbour_m
    short_db = max(0.0, -row.margin.low) if row.margin is not None else 0.0
    decay_db = sound.decay_db if sound is not None else 20.0
    away_m = metres * 10 ** (short_db / decay_db)
    if away_m < 4 * metres:
        yield f"stand it {plain(math.ceil(away_m), 'm')} from the neighbour, not {plain(metres, 'm')}, with its exhaust away from every window"
    if row.key == "noise-night":
        yield "run the quiet hours from a battery, and the set by day"
    yield f"a quieter source: {plain(short_db, 'dba')} less at the neighbour"


def _connection(case: VerdictInputs, row: Requirement) -> Iterator[str]:
    yield "have the connection made safe by a licensed electrician, and confirm each check"


WAYS: dict[str, Callable[[VerdictInputs, Requirement], Iterator[str]]] = {
    "steady": _steady,
    "starting": _starting,
    "voltage": _voltage,
    "dips": _dips,
    "frequency": _frequency,
    "waveform": _waveform,
    "energy": _energy,
    "endurance": _endurance,
    "legs": _legs,
    "transfer": _transfer,
    "noise": _noise,
    "connection": _connection,
}
"""By the row that a line belongs to."""
