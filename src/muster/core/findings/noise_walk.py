"""The noise walk: background taken off, level against distance under each load, level at the nearest neighbour."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from ..fits import Line
from ..loads import Load
from ..quantities import Bound, Grade, Value, number, plain
from ..sessions import Place, Reading, Stat
from ..sessions.replay import BenchRecord, Segment
from ..timeline.power import is_same_level
from ..trade.sound import OPEN_FIELD_N, at_distance, fit_distance, less_background, mean_level
from ..working import Method, Working, rows_of
from .finding import Finding, Topic
from .under_load import under_load

LOADED = "loaded"
NO_LOAD = "no load"
LOADED_FROM_W = 50.0
"""Less than this is the meter's own, or a lamp: no load."""
NEAR_FIELD_M = 1.5
"""Nearer than this the set is no point: which side it was heard on matters more than how far (physics §10). [m]"""
STRAY_DB = 2.0
"""A spot that lies further from the line through the others was heard past a corner, or misread (physics §10). [dB]"""
LEAST_TO_LEAVE_OUT = 4
"""Of three spots nobody can say which one is off."""
LEAST_N, MOST_N = 10.0, 30.0
"""A decay outside these is no decay of the open or of a yard: something else was heard (physics §10). [dB a decade]"""
WALLED_N, WALLED_BEYOND = 15.0, 1.5
"""Less decay than this is a yard with walls: nothing is said beyond so many times the farthest spot (physics §10)."""
MOST_APART_DB = 3.0
"""Fit and open field further apart than this leave it open what reaches the neighbour (physics §10). [dB]"""


@dataclass(frozen=True)
class Spot:
    """A level at a distance [m], as read and less the background; ``load_w`` is what was carried then [W]."""

    distance_m: float
    read_dba: float
    dba: float
    bound: Bound | None
    seq: int
    u_db: float
    load_w: float = 0.0
    left_out: str = ""
    """Why it does not count, empty where it does."""


@dataclass(frozen=True)
class NoiseUnderLoad:
    """What the neighbour hears under a load, from the walks nearest to it [dBA].

    ``beyond`` says that no walk was made under as much: it is louder than this.
    ``unsure`` as in ``NoiseSeen``; ``under`` is where it was read, in words.
    """

    level: Value
    under: str
    beyond: bool
    unsure: str
    seqs: tuple[int, ...]
    workings: tuple[Working, ...]
    findings: tuple[Finding, ...] = ()


@dataclass(frozen=True)
class NoiseSeen:
    """What a walk gave under one load: spots, decay per decade, level at the neighbour [dBA].

    ``neighbour`` is the louder of what the fitted decay and the open field
    predict, the open field alone being ``neighbour_open_dba``; ``load_w`` is the
    load it was heard under [W]. ``unsure`` says why nothing can be staked on the
    prediction, empty where something can.
    """

    load_w: float
    background_dba: float | None
    spots: tuple[Spot, ...]
    n: float
    fitted: bool
    neighbour_m: float
    neighbour: Value
    neighbour_open_dba: float
    unsure: str
    finding: Finding

    @property
    def state(self) -> str:
        """Loaded, or not."""
        return LOADED if self.load_w >= LOADED_FROM_W else NO_LOAD

    @property
    def heard(self) -> tuple[Spot, ...]:
        """The spots that count."""
        return tuple(spot for spot in self.spots if not spot.left_out)

    @property
    def under(self) -> str:
        """The load it was heard under, in words."""
        return f"at {plain(self.load_w, 'w')}" if self.state == LOADED else "at no load"


def noise(record: BenchRecord, neighbour_m: float, legs: int, loads: Mapping[str, Load]) -> tuple[NoiseSeen, ...]:
    """What the neighbour hears under each load at which a level was read at a distance, the lightest load first.

    Parameters
    ----------
    record
        The session replayed.
    neighbour_m
        How far the nearest neighbour is. [m]
    legs
        Of the supply.
    loads
        Of the home, by key: the load of a stretch whose watts were not read is what was planned.

    Returns
    -------
    tuple of NoiseSeen
        One for each load.

    References
    ----------
    physics §7 and §10; ISO 3744 for the background.
    """
    background = _background(record)
    spots = sorted(_spots(record, background, legs, loads), key=lambda spot: spot.load_w)
    return tuple(_analyse(background, own, neighbour_m) for own in _by_load(spots))


def heard_under(walks: Sequence[NoiseSeen], w: float) -> NoiseUnderLoad | None:
    """What the neighbour hears under a load, straight between the walks below and above it.

    Parameters
    ----------
    walks
        Of one source; where one load was walked twice, the louder counts.
    w
        The load. [W]

    Returns
    -------
    NoiseUnderLoad or None
        None without a walk. Between two loads a quarter of their difference is in the half-width.
    """
    if not walks:
        return None
    above = [walk for walk in walks if walk.load_w >= w or is_same_level(walk.load_w, w)]
    below = [walk for walk in walks if walk not in above]
    high = _of_load(above or below, min(above, key=_load).load_w if above else max(below, key=_load).load_w)
    low = _of_load(below, max(below, key=_load).load_w) if below else None
    seen: tuple[NoiseSeen, ...] = (high,)
    level = high.neighbour
    if above and low is not None and high.load_w > w:
        apart_db = high.neighbour.value - low.neighbour.value
        share = (w - low.load_w) / (high.load_w - low.load_w)
        u_db = max(high.neighbour.u or 0.0, low.neighbour.u or 0.0) + abs(apart_db) / 4
        bound = high.neighbour.bound or low.neighbour.bound
        level, seen = Value(low.neighbour.value + share * apart_db, "dba", u_db, bound, Grade.B), (low, high)
    return NoiseUnderLoad(
        level=level,
        under=" and ".join(walk.under for walk in seen),
        beyond=not above,
        unsure=next((walk.unsure for walk in seen if walk.unsure), ""),
        seqs=tuple(seq for walk in seen for seq in walk.finding.seqs),
        workings=tuple(working for walk in seen for working in walk.finding.workings),
        findings=tuple(walk.finding for walk in seen),
    )


def _load(walk: NoiseSeen) -> float:
    return walk.load_w


def _of_load(walks: Sequence[NoiseSeen], w: float) -> NoiseSeen:
    """Of the walks under one load the loudest with its background taken off; without, the loudest."""
    alike = [walk for walk in walks if is_same_level(walk.load_w, w)]
    return max(alike, key=lambda walk: (walk.neighbour.bound is None, walk.neighbour.value))


def _by_load(spots: Sequence[Spot]) -> Iterator[tuple[Spot, ...]]:
    """The spots of each load, in the order of the load."""
    group: list[Spot] = []
    for spot in spots:
        quiet = spot.load_w < LOADED_FROM_W
        if (
            group
            and (group[0].load_w < LOADED_FROM_W) == quiet
            and (quiet or is_same_level(spot.load_w, group[0].load_w))
        ):
            group.append(spot)
            continue
        if group:
            yield tuple(group)
        group = [spot]
    if group:
        yield tuple(group)


def _background(record: BenchRecord) -> float | None:
    levels = [
        reading.value
        for segment in record.segments
        for _, _, reading in segment.readings
        if reading.quantity == "dba" and reading.stat is Stat.BACKGROUND
    ]
    return mean_level(levels) if levels else None


def _spots(record: BenchRecord, background: float | None, legs: int, loads: Mapping[str, Load]) -> Iterator[Spot]:
    """Every level read of the source; one without a distance was read where the last one was."""
    stood_m: float | None = None
    for segment in record.segments:
        planned_w = sum(loads[key].run_w for key in segment.on if key in loads)
        for seq, _, reading, w in under_load(segment, lambda stretch: _watts(stretch, legs), "dba"):
            if reading.quantity != "dba" or reading.stat is Stat.BACKGROUND:
                continue
            if reading.distance_m is not None and reading.distance_m > 0:
                stood_m = reading.distance_m
            if stood_m is not None and (reading.distance_m is not None or not reading.spot):
                yield _spot(reading, stood_m, background, seq, record.u(reading), planned_w if w is None else w)


def _spot(reading: Reading, distance_m: float, background: float | None, seq: int, u_db: float, load_w: float) -> Spot:
    clean = less_background(reading.value, background) if background is not None else None
    return Spot(
        distance_m=distance_m,
        read_dba=reading.value,
        dba=clean.dba if clean else reading.value,
        bound=clean.bound if clean else Bound.AT_MOST,
        seq=seq,
        u_db=u_db,
        load_w=load_w,
    )


def _watts(segment: Segment, legs: int) -> float | None:
    """Watts of the whole, or of the leg that was read."""
    total_w = segment.total_w(legs)
    if total_w is not None:
        return total_w
    by_leg = [w for place in (Place.LEG1, Place.LEG2) if (w := segment.place_w(place)) is not None]
    return sum(by_leg) if by_leg else None


def _analyse(background: float | None, spots: tuple[Spot, ...], neighbour_m: float) -> NoiseSeen:
    spots = _sorted_out(spots)
    heard = tuple(spot for spot in spots if not spot.left_out)
    sure = tuple(spot for spot in heard if spot.bound is None) or heard
    far = max(sure, key=lambda spot: spot.distance_m)
    line = _line(sure)
    n = OPEN_FIELD_N if line is None else -line.b
    u_db = max(spot.u_db for spot in spots)
    workings = [] if background is None else [_worked_background(spot, background) for spot in spots]
    open_dba = at_distance(far.dba, far.distance_m, neighbour_m)
    fit_dba = open_dba
    if line is not None:
        fit_dba = line.at(math.log10(neighbour_m))
        u_db += line.band(math.log10(neighbour_m)) or 0.0
        workings.append(_worked_line(sure, n))
    beyond = neighbour_m > far.distance_m
    dba = max(fit_dba, open_dba) if beyond else fit_dba
    workings.append(_worked_neighbour(far, neighbour_m, open_dba, fit_dba if line is not None else None, beyond=beyond))
    bound = None if background is not None and any(s.bound is None for s in heard) else Bound.AT_MOST
    seen = NoiseSeen(
        load_w=min(spot.load_w for spot in spots),
        background_dba=background,
        spots=spots,
        n=n,
        fitted=line is not None,
        neighbour_m=neighbour_m,
        neighbour=Value(dba, "dba", u_db, bound, Grade.B),
        neighbour_open_dba=open_dba,
        unsure=_unsure(n, far, neighbour_m, abs(fit_dba - open_dba)) if line is not None and beyond else "",
        finding=_NOT_TOLD,
    )
    return replace(seen, finding=_describe(seen, far, workings))


_NOT_TOLD = Finding(key="", topic=Topic.NOISE, title="", sentence="", value=Value(0.0, "dba"), workings=())


def _sorted_out(spots: tuple[Spot, ...]) -> tuple[Spot, ...]:
    """The spots, each marked that does not count: too near, or off the line of the others and not among the two farthest."""
    if any(spot.distance_m >= NEAR_FIELD_M for spot in spots):
        spots = tuple(
            replace(spot, left_out="too near to be a point") if spot.distance_m < NEAR_FIELD_M else spot
            for spot in spots
        )
    heard = sorted((spot for spot in spots if not spot.left_out), key=lambda spot: spot.distance_m)
    line = _line(heard)
    if len(heard) < LEAST_TO_LEAVE_OUT or line is None:
        return spots
    residuals = ((abs(line.at(math.log10(spot.distance_m)) - spot.dba), spot) for spot in heard[:-2])
    suspects = [(off_db, spot) for off_db, spot in residuals if off_db > STRAY_DB]
    if not suspects:
        return spots
    off_db, stray = max(suspects, key=lambda suspect: suspect[0])
    why = f"{plain(off_db, 'db')} off the line through all"
    return tuple(replace(spot, left_out=why) if spot is stray else spot for spot in spots)


def _line(spots: Sequence[Spot]) -> Line | None:
    """Level against distance, None from fewer than two distances."""
    if len({spot.distance_m for spot in spots}) < 2:
        return None
    return fit_distance([spot.distance_m for spot in spots], [spot.dba for spot in spots])


def _unsure(n: float, far: Spot, neighbour_m: float, apart_db: float) -> str:
    """Why nothing can be staked on what is predicted beyond the farthest spot; empty where something can."""
    if not LEAST_N <= n <= MOST_N:
        return f"{n:.1f} dB a decade is no decay of sound in a yard"
    if n < WALLED_N and neighbour_m > WALLED_BEYOND * far.distance_m:
        return f"with {n:.1f} dB a decade walls carry it, and the farthest spot is {plain(far.distance_m, 'm')} away"
    if apart_db > MOST_APART_DB:
        return f"the fit and the open field are {plain(apart_db, 'db')} apart there"
    return ""


def _describe(seen: NoiseSeen, far: Spot, workings: Sequence[Working]) -> Finding:
    most = "at most " if seen.neighbour.bound else ""
    left_out = [spot for spot in seen.spots if spot.left_out]
    told = "; ".join(f"the spot at {plain(spot.distance_m, 'm')} is left out, {spot.left_out}" for spot in left_out)
    unsure = f" Nothing can be staked on it: {seen.unsure}." if seen.unsure else ""
    sentence = (
        f"{seen.under[0].upper()}{seen.under[1:]}: {plain(far.dba, 'dba')} at {plain(far.distance_m, 'm')}, so {most}"
        f"{plain(seen.neighbour.value, 'dba')} at the nearest neighbour, {plain(seen.neighbour_m, 'm')} away."
        f"{unsure}{f' {told[0].upper()}{told[1:]}.' if told else ''}"
    )
    needs = "" if seen.fitted else "a second distance, to see what the walls do (Noise walk)"
    if seen.unsure:
        needs = "a level read nearer to the neighbour (Noise walk)"
    if seen.background_dba is None:
        needs = "the background, with the source off (Noise walk)"
    under = f"{seen.load_w:.0f}-w" if seen.state == LOADED else "no-load"
    return Finding(
        key=f"noise-{under}",
        topic=Topic.NOISE,
        title=f"Noise, {seen.under}",
        sentence=sentence,
        value=seen.neighbour,
        workings=tuple(workings),
        seqs=tuple(spot.seq for spot in seen.spots),
        needs=needs,
    )


def _worked_line(spots: Sequence[Spot], n: float) -> Working:
    return Working(
        "level = level at 1 m − n · log10(distance)",
        ", ".join(f"{number(s.dba, 'dba')} dBA at {plain(s.distance_m, 'm')}" for s in spots),
        f"{n:.1f} dB a decade",
        "least squares; 20 in the open, less by walls",
        rows_of(Method.DECADES, ("m", "dBA"), ((s.distance_m, s.dba) for s in spots)),
    )


def _worked_neighbour(
    far: Spot, neighbour_m: float, open_dba: float, fit_dba: float | None, *, beyond: bool
) -> Working:
    by_fit = "" if fit_dba is None else f"; {plain(fit_dba, 'dba')} by the fit"
    louder = ": the louder is used" if beyond and fit_dba is not None else ""
    return Working(
        "level at the neighbour = level − n · log10(neighbour ÷ distance)",
        f"{number(far.dba, 'dba')} − 20 · log10({plain(neighbour_m, 'm')} ÷ {plain(far.distance_m, 'm')})",
        f"{plain(open_dba, 'dba')} in the open{by_fit}{louder}",
        "inverse square law",
    )


def _worked_background(spot: Spot, background: float) -> Working:
    read, behind = number(spot.read_dba, "dba"), number(background, "dba")
    put_in = f"{read} − {behind}"
    above = plain(spot.read_dba - background, "db")
    if spot.bound:
        result = f"{above} above the background, less than 3 dB: at most {plain(spot.dba, 'dba')}"
    elif spot.dba == spot.read_dba:
        result = f"{above} above the background, 10 dB or more: nothing to take off {plain(spot.dba, 'dba')}"
    else:
        put_in = f"10 × log10(10^({read} ÷ 10) − 10^({behind} ÷ 10))"
        result = plain(spot.dba, "dba")
    return Working(
        f"at {plain(spot.distance_m, 'm')}: 10 · log10(10^(L/10) − 10^(B/10))",
        put_in,
        result,
        "energy difference, as in ISO 3744",
    )
