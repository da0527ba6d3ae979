"""An outage reckoned the slow, plain way: no line of it is shared with the kernel that it is held against.

One draw. Energy second by second; means and starts by trying every instant at
which anything changes. Only the dice are the simulation's own: each load's
generator, its phase first, then two numbers a cycle.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from muster.core.brief import Brief, BringUp
from muster.core.loads import Load
from muster.core.supply import Leg

Floats = NDArray[np.float64]
Stretch = tuple[float, float]
MANY = 200_000


@dataclass(frozen=True)
class Piece:
    """One part of a load from when to when: watts, volt-amperes, its start and until when that lasts."""

    load: Load
    low: float
    high: float
    w: float
    va: float
    start_va: float
    start_end: float
    own_w: float
    own_va: float


def _windows(load: Load, brief: Brief) -> list[Stretch]:
    horizon = brief.outage_h * 3600
    found: list[Stretch] = []
    hour = 0
    while hour * 3600 < horizon:
        if (brief.outage_from_hour + hour) % 24 in load.hours:
            begin, end = hour * 3600.0, min((hour + 1) * 3600.0, horizon)
            if found and found[-1][1] == begin:
                found[-1] = (found[-1][0], end)
            else:
                found.append((begin, end))
        hour += 1
    return found


def _first_s(load: Load, loads: Sequence[Load], brief: Brief) -> float:
    if brief.bring_up is BringUp.AT_ONCE:
        return 0.0
    gaps = {x.key: x.moment_va(50.0) - x.run_va for x in loads}
    return 15.0 * sum(1 for x in loads if (-gaps[x.key], x.key) < (-gaps[load.key], load.key))


def _runs(load: Load, loads: Sequence[Load], brief: Brief, seed: int) -> list[Stretch]:
    horizon, windows = brief.outage_h * 3600, _windows(load, brief)
    rng = np.random.default_rng([seed, *load.key.encode()])
    phase = (rng.uniform(-1, 1) + 1) / 2
    random_draws = iter(rng.uniform(-1, 1, (MANY, 2)).tolist())
    on_s, off_s = load.duty.on_min * 60, load.duty.off_min * 60
    if load.duty.once:
        return _programs(on_s, windows, horizon, random_draws)
    called = load.calls_at_once and bool(windows) and windows[0][0] == 0
    first = _first_s(load, loads, brief) if called else 0.0
    if off_s == 0:
        return [(max(a, first), b) for a, b in windows if b > max(a, first)]
    cycles: list[Stretch] = []
    at = first if called else -phase * (on_s + off_s)
    stretch = 3.0 if called else 1.0
    while at < horizon:
        die_on, die_off = next(random_draws)
        last = on_s * (1 + 0.2 * die_on) * stretch
        stretch = 1.0
        cycles.append((at, at + last))
        at += last + off_s * (1 + 0.2 * die_off)
    both = [(max(a, low, first), min(b, high)) for low, high in cycles for a, b in windows if a < high and low < b]
    return [(a, b) for a, b in both if b > a]


def _programs(on_s: float, windows: list[Stretch], horizon: float, random_draws: object) -> list[Stretch]:
    found: list[Stretch] = []
    for begin, end in windows:
        die_on, die_off = next(random_draws)  # type: ignore[call-overload]
        last = on_s * (1 + 0.2 * die_on)
        free = max(begin, found[-1][1]) if found else begin
        if free >= end:
            continue
        at = free + max(0.0, end - free - last) * (die_off + 1) / 2
        found.append((at, min(at + last, horizon)))
    return found


def pieces_of(loads: Sequence[Load], brief: Brief, seed: int) -> list[Piece]:
    """Everything that is on in one outage, from when to when."""
    hz = brief.system.hz
    found = []
    for load in loads:
        parts = load.running_parts
        for low, high in _runs(load, loads, brief, seed):
            for part in parts:
                begin = low + part.from_s
                end = high if part.for_s is None else min(begin + part.for_s, high)
                if end <= begin:
                    continue
                own = [x for x in parts if x.from_s <= part.from_s < x.end_s]
                starts = load.has_start(hz) and part.start_s * hz >= 1
                extra = part.run_w / part.pf * (part.start_x - 1) if starts else 0.0
                found.append(
                    Piece(
                        load,
                        begin,
                        end,
                        part.run_w,
                        part.run_w / part.pf,
                        extra,
                        min(begin + part.start_s, end),
                        sum(x.run_w for x in own),
                        sum(x.run_w / x.pf for x in own),
                    )
                )
    return found


def second_by_second(pieces: Sequence[Piece], horizon_s: float, share: Floats) -> Floats:
    """Energy of every second [Ws]."""
    energy = np.zeros(int(np.ceil(horizon_s)))
    for piece, part in zip(pieces, share.tolist(), strict=True):
        second = int(piece.low)
        while second < piece.high:
            whole = int(piece.high) if second >= piece.low else second + 1
            if whole > second:
                inside = min(whole, piece.high) - max(second, piece.low) if whole == second + 1 else 1.0
                energy[second:whole] += piece.w * part * inside
                second = whole
            else:
                energy[second] += piece.w * part * (piece.high - second)
                break
    return energy


def highest_mean(pieces: Sequence[Piece], share: Floats, span_s: float, horizon_s: float) -> float:
    """Highest mean watts over a stretch: every stretch that begins or ends at a change is tried."""
    if not pieces:
        return 0.0
    low, high = (np.array([getattr(piece, name) for piece in pieces]) for name in ("low", "high"))
    w = np.array([piece.w for piece in pieces]) * share
    if horizon_s <= span_s:
        return float((w * (high - low)).sum() / span_s)
    edges = np.unique(np.concatenate([low, high]))
    begins = np.unique(np.clip(np.concatenate([edges, edges - span_s]), 0, horizon_s - span_s))
    best = 0.0
    for some in np.array_split(begins, max(1, begins.size // 500)):
        inside = np.minimum(high, some[:, None] + span_s) - np.maximum(low, some[:, None])
        best = max(best, float((np.clip(inside, 0, None) @ w).max()) / span_s)
    return best


@dataclass(frozen=True)
class Worst:
    """A load's worst start: watts and VA beneath it, VA of its moment on the whole, on its worst leg."""

    base_w: float
    base_va: float
    moment_va: float
    leg_moment_va: float


def worst_starts(pieces: Sequence[Piece], brief: Brief) -> dict[str, Worst]:
    """Each load's worst start, each figure the highest of its own."""
    low, high = (np.array([getattr(piece, name) for piece in pieces]) for name in ("low", "high"))
    w, va, extra = (np.array([getattr(piece, name) for piece in pieces]) for name in ("w", "va", "start_va"))
    legs = (Leg.ONE, Leg.TWO) if brief.system.legs == 2 else ()
    shares = {leg: np.array([piece.load.share_on(leg) for piece in pieces]) for leg in legs}
    found: dict[str, Worst] = {}
    for piece in pieces:
        if not piece.start_va:
            continue
        on = (low <= piece.low) & (piece.low < high)
        mine = np.array([other is piece for other in pieces])
        moment = va * on + extra * mine
        own = [leg for leg in legs if piece.load.share_on(leg) > 0]
        seen = Worst(
            float((w * on).sum()) - piece.own_w,
            float((va * on).sum()) - piece.own_va,
            float(moment.sum()),
            max((float((moment * shares[leg]).sum()) for leg in own), default=float(moment.sum())),
        )
        before = found.get(piece.load.key, seen)
        found[piece.load.key] = Worst(
            *(max(getattr(seen, f), getattr(before, f)) for f in ("base_w", "base_va", "moment_va", "leg_moment_va"))
        )
    return found
