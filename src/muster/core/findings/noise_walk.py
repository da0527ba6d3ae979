"""The noise walk: background taken off, level against distance, level at the nearest neighbour."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..quantities import Bound, Grade, Value, number, plain
from ..sessions import Place, Reading, Stat
from ..sessions.replay import BenchRecord, Segment
from ..trade.sound import OPEN_FIELD_N, at_distance, fit_distance, less_background, mean_level
from ..working import Working
from .finding import Finding, Topic

LOADED = "loaded"
NO_LOAD = "no load"


@dataclass(frozen=True)
class Spot:
    """A level at a distance [m], as read and less the background."""

    distance_m: float
    read_dba: float
    dba: float
    bound: Bound | None
    state: str
    seq: int
    u_db: float


@dataclass(frozen=True)
class NoiseSeen:
    """What a walk gave for one state of load: spots, decay per decade, level at the neighbour [dBA].

    ``neighbour`` is predicted with the fitted decay; ``neighbour_open_dba`` with 20 per decade.
    """

    state: str
    background_dba: float | None
    spots: tuple[Spot, ...]
    n: float
    fitted: bool
    neighbour_m: float
    neighbour: Value
    neighbour_open_dba: float
    finding: Finding


LOADED_FROM_W = 50.0
"""Less than this is the meter's own, or a lamp: no load."""


def _state(segment: Segment, legs: int) -> str:
    """Whether a stretch was under load: something was on, or watts were read, though nobody said what was on."""
    read_w = segment.total_w(legs) or segment.place_w(Place.LEG1) or 0.0
    return LOADED if segment.on or read_w >= LOADED_FROM_W else NO_LOAD


def _spots(record: BenchRecord, legs: int) -> tuple[float | None, tuple[Spot, ...]]:
    readings: list[tuple[int, str, Reading]] = [
        (seq, _state(segment, legs), reading)
        for segment in record.segments
        for seq, _, reading in segment.readings
        if reading.quantity == "dba"
    ]
    backgrounds = [r.value for _, _, r in readings if r.stat is Stat.BACKGROUND]
    background = mean_level(backgrounds) if backgrounds else None
    spots = []
    for seq, state, reading in readings:
        if reading.stat is Stat.BACKGROUND or reading.distance_m is None or reading.distance_m <= 0:
            continue
        clean = less_background(reading.value, background) if background is not None else None
        u_db = record.u(reading)
        spots.append(
            Spot(
                distance_m=reading.distance_m,
                read_dba=reading.value,
                dba=clean.dba if clean else reading.value,
                bound=clean.bound if clean else Bound.AT_MOST,
                state=state,
                seq=seq,
                u_db=u_db,
            )
        )
    return background, tuple(spots)


def _analyse(state: str, background: float | None, spots: tuple[Spot, ...], neighbour_m: float) -> NoiseSeen:
    sure = tuple(spot for spot in spots if spot.bound is None) or spots
    far = max(sure, key=lambda spot: spot.distance_m)
    fitted = len({spot.distance_m for spot in sure}) >= 2
    workings = []
    if background is not None:
        workings += [_worked_background(spot, background) for spot in spots]
    u_db = max(spot.u_db for spot in spots)
    if fitted:
        line = fit_distance([spot.distance_m for spot in sure], [spot.dba for spot in sure])
        n, neighbour_dba = -line.b, line.at(math.log10(neighbour_m))
        u_db += line.band(math.log10(neighbour_m)) or 0.0
        workings.append(
            Working(
                "level = level at 1 m − n · log10(distance)",
                ", ".join(f"{number(s.dba, 'dba')} dBA at {plain(s.distance_m, 'm')}" for s in sure),
                f"n = {n:.1f} dB a decade",
                "least squares; 20 in the open, less by walls",
            )
        )
    else:
        n, neighbour_dba = OPEN_FIELD_N, at_distance(far.dba, far.distance_m, neighbour_m)
    open_dba = at_distance(far.dba, far.distance_m, neighbour_m)
    workings.append(
        Working(
            "level at the neighbour = level − n · log10(neighbour ÷ distance)",
            f"{number(far.dba, 'dba')} − 20 · log10({plain(neighbour_m, 'm')} ÷ {plain(far.distance_m, 'm')})",
            f"{plain(open_dba, 'dba')} in the open; {plain(neighbour_dba, 'dba')} by the fit",
            "inverse square law",
        )
    )
    bound = None if background is not None and any(s.bound is None for s in spots) else Bound.AT_MOST
    value = Value(neighbour_dba, "dba", u_db, bound, Grade.B)
    most = "at most " if bound else ""
    sentence = (
        f"{state.capitalize()}: {plain(far.dba, 'dba')} at {plain(far.distance_m, 'm')}, so {most}"
        f"{plain(neighbour_dba, 'dba')} at the nearest neighbour, {plain(neighbour_m, 'm')} away."
    )
    needs = "" if fitted else "a second distance, to see what the walls do (Noise walk)"
    if background is None:
        needs = "the background, with the source off (Noise walk)"
    seqs = tuple(spot.seq for spot in spots)
    finding = Finding(
        key=f"noise-{state.replace(' ', '-')}",
        topic=Topic.NOISE,
        title=f"Noise, {state}",
        sentence=sentence,
        value=value,
        workings=tuple(workings),
        seqs=seqs,
        needs=needs,
    )
    return NoiseSeen(
        state=state,
        background_dba=background,
        spots=spots,
        n=n,
        fitted=fitted,
        neighbour_m=neighbour_m,
        neighbour=value,
        neighbour_open_dba=open_dba,
        finding=finding,
    )


def _worked_background(spot: Spot, background: float) -> Working:
    put_in = f"{number(spot.read_dba, 'dba')} over {number(background, 'dba')}"
    if spot.bound:
        result = f"at most {plain(spot.dba, 'dba')}: less than 3 dB above the background"
    elif spot.dba == spot.read_dba:
        result = f"{plain(spot.dba, 'dba')}, 10 dB or more above: nothing to take off"
    else:
        result = plain(spot.dba, "dba")
    return Working(
        f"at {plain(spot.distance_m, 'm')}: 10 · log10(10^(L/10) − 10^(B/10))",
        put_in,
        result,
        "energy difference, as in ISO 3744",
    )


def noise(record: BenchRecord, neighbour_m: float, legs: int) -> tuple[NoiseSeen, ...]:
    """The walk's finding for each state of load that has a level with a distance."""
    background, spots = _spots(record, legs)
    noise_seens = []
    for state in (NO_LOAD, LOADED):
        own = tuple(spot for spot in spots if spot.state == state)
        if own:
            noise_seens.append(_analyse(state, background, own, neighbour_m))
    return tuple(noise_seens)
