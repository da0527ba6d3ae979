"""What a load wants: when it comes on and until when, by its rhythm, its hours and the dice of the draw."""

from __future__ import annotations

import math

import numpy as np

from .compiled import compiled, inlined
from .layout import Fixed, HomeTables, PlayState, Scalar, Setting
from .layout import LoadColumn as L
from .layout import LoadNow as N

HYSTERESIS = 0.1
"""A thermostat's, as a share of the difference it drives, where nobody said: three times a usual call after one to two
hours, five to six after four (physics §1)."""
MOST_PICKUP_X = 10.0
HOUR_S = 3600.0
GOLDEN, MIX_1, MIX_2 = np.uint64(0x9E3779B97F4A7C15), np.uint64(0xBF58476D1CE4E5B9), np.uint64(0x94D049BB133111EB)
S30, S27, S31, S11 = np.uint64(30), np.uint64(27), np.uint64(31), np.uint64(11)
ONE_OF = 1.0 / 9007199254740992.0


@inlined
def loads_of(s: PlayState) -> int:
    """How many loads there are."""
    return int(s.load.shape[0] - 1)


@inlined
def mixed_bits(z: np.uint64) -> np.uint64:
    """Sixty-four well mixed bits of sixty-four (SplitMix64, Steele et al. 2014)."""
    z = (z ^ (z >> S30)) * MIX_1
    z = (z ^ (z >> S27)) * MIX_2
    return z ^ (z >> S31)


@inlined
def roll(s: PlayState, i: int) -> float:
    """The next random number of a load in this draw, 0 to 1: it hangs on the load, the draw and how many came before alone."""
    s.load[i, N.ROLLS] += 1
    return float(mixed_bits(s.seeds[i] + GOLDEN * np.uint64(s.load[i, N.ROLLS])) >> S11) * ONE_OF


@inlined
def window_at(home: HomeTables, i: int, at: float) -> int:
    """The first of a load's hours that closes after a moment; past the last if there is none."""
    w = home.window_of[i]
    while w < home.window_of[i + 1] and home.closes[w] <= at:
        w += 1
    return int(w)


@inlined
def rhythm(home: HomeTables, setting: Setting, s: PlayState, i: int, at: float) -> tuple[float, float]:
    """On and off time of the cycle that begins at a moment, drawn; off is infinite where it does not call in that hour."""
    h = min(max(int(at / 3600.0), 0), home.on_s.shape[1] - 1)
    on = home.on_s[i, h] * (1 + setting.fixed[Fixed.JITTER] * (2 * roll(s, i) - 1))
    off = home.off_s[i, h] * (1 + setting.fixed[Fixed.JITTER] * (2 * roll(s, i) - 1))
    return on, off


@compiled
def schedule(home: HomeTables, setting: Setting, s: PlayState, i: int) -> None:
    """When a load that is off comes on next, and until when: its cycles cut to its hours."""
    now = s.scalars[Scalar.NOW]
    s.next_s[i] = math.inf
    if home.loads[i, L.PROGRAM] > 0:
        schedule_program(home, setting, s, i)
        return
    if home.loads[i, L.CYCLES] == 0:
        w = window_at(home, i, max(now, home.loads[i, L.FIRST_S]) if home.loads[i, L.CALLS] > 0 else now)
        if w < home.window_of[i + 1]:
            first = home.loads[i, L.FIRST_S] if home.loads[i, L.CALLS] > 0 else 0.0
            s.next_s[i], s.load[i, N.RUN_END_S] = max(now, home.opens[w], first), home.closes[w]
        return
    while s.load[i, N.CYCLE_S] < setting.fixed[Fixed.HORIZON_S]:
        begin = s.load[i, N.CYCLE_S]
        on, off = rhythm(home, setting, s, i, begin)
        if off == math.inf:
            s.load[i, N.CYCLE_S] = (math.floor(max(begin, 0.0) / 3600.0) + 1) * 3600.0
            continue
        on *= s.load[i, N.PICKUP_X]
        s.load[i, N.PICKUP_X] = 1.0
        s.load[i, N.CYCLE_S] = begin + on + off
        w = window_at(home, i, max(begin, now))
        if w < home.window_of[i + 1]:
            low, high = max(begin, now, home.opens[w]), min(begin + on, home.closes[w])
            if high > low:
                s.next_s[i], s.load[i, N.RUN_END_S] = low, high
                return


@compiled
def schedule_program(home: HomeTables, setting: Setting, s: PlayState, i: int) -> None:
    """The next program of a load: one in each stretch of its hours, begun anywhere that lets it end in time."""
    now = s.scalars[Scalar.NOW]
    w = int(s.load[i, N.CYCLE_S])
    while w < home.window_of[i + 1]:
        s.load[i, N.CYCLE_S] = w + 1
        first = max(home.opens[w], now)
        if first < home.closes[w]:
            h = min(max(int(first / 3600.0), 0), home.on_s.shape[1] - 1)
            on = home.on_s[i, h] * (1 + setting.fixed[Fixed.JITTER] * (2 * roll(s, i) - 1))
            begin = first + max(0.0, home.closes[w] - first - on) * roll(s, i)
            s.next_s[i], s.load[i, N.RUN_END_S] = begin, begin + on
            return
        w += 1


@inlined
def pickup(on_s: float, off_s: float, out_s: float) -> float:
    """How many times its usual on-time a thermostat stays on after so long without power.

    References
    ----------
    physics §1, *cold pick-up*: ``τ = t_off/b``, ``t_on = τ·ln((1/d − e^(−t_out/τ))/(1/d − 1 − b/2))``.
    """
    duty = on_s / (on_s + off_s)
    tau_s = off_s / HYSTERESIS
    low = 1.0 / duty - 1.0 - HYSTERESIS / 2
    if low <= 0 or on_s <= 0:
        return MOST_PICKUP_X
    x = tau_s * math.log((1.0 / duty - math.exp(-out_s / tau_s)) / low) / on_s
    return min(max(x, 1.0), MOST_PICKUP_X)


@inlined
def called(home: HomeTables, setting: Setting, s: PlayState, i: int) -> bool:
    """Whether a load that went without comes on now; if so until when, if not it is scheduled again."""
    now = s.scalars[Scalar.NOW]
    w = window_at(home, i, now)
    inside = w < home.window_of[i + 1] and home.opens[w] <= now
    if home.loads[i, L.PROGRAM] > 0:
        if s.load[i, N.LEFT_S] > 0:
            s.load[i, N.RUN_END_S] = now + s.load[i, N.LEFT_S]
            s.load[i, N.LEFT_S] = 0.0
            return True
        schedule(home, setting, s, i)
        return False
    if not inside:
        s.load[i, N.CYCLE_S] = max(s.load[i, N.CYCLE_S], now)
        schedule(home, setting, s, i)
        return False
    if home.loads[i, L.CYCLES] == 0:
        s.load[i, N.RUN_END_S] = home.closes[w]
        return True
    on, off = rhythm(home, setting, s, i, now)
    if off == math.inf:
        s.load[i, N.CYCLE_S] = now
        schedule(home, setting, s, i)
        return False
    out_s = now - s.load[i, N.CUT_S]
    on *= pickup(on, off, out_s) if home.loads[i, L.CALLS] > 0 else 1.0
    s.load[i, N.RUN_END_S] = min(now + on, home.closes[w])
    s.load[i, N.CYCLE_S] = now + on + off
    return True
