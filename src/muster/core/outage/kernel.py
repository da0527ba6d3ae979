"""The day's kernel: many outages stepped from change to change, compiled.

Everything here works on plain arrays; ``simulate.py`` says what they mean. Place 0
is the whole source, then the legs of a two-leg supply.
"""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float64]
ON, OFF, START, STARTED = 0, 1, 2, 3
"""Kinds of change: a load comes on, goes off; its start begins, ends."""
WAITED_S = 1e-9
CHANGES_A_RUN = 4
"""A part's run is at most on, off, start begun and start ended."""


@njit(cache=True, nogil=True)
def longest_stretch(times: Floats, level: Floats, above: float) -> float:
    """Longest unbroken time at or above a level that stands from each time to the next [s]."""
    best = 0.0
    since = -1.0
    for i in range(times.size - 1):
        if level[i] >= above:
            if since < 0:
                since = times[i]
            best = max(best, times[i + 1] - since)
        else:
            since = -1.0
    return best


@njit(cache=True, nogil=True)
def energies(times: Floats, level: Floats) -> Floats:
    """Running integral of a level that stands from each time to the next."""
    total = np.zeros(times.size)
    for i in range(times.size - 1):
        total[i + 1] = total[i] + level[i] * (times[i + 1] - times[i])
    return total


@njit(cache=True, nogil=True)
def highest_mean(times: Floats, level: Floats, energy: Floats, span_s: float) -> float:
    """Highest mean over any stretch of ``span_s`` of a level that stands from each time to the next.

    The mean over a sliding window is piecewise linear in its position. At its
    highest either its beginning stands where the level rises or its end where
    it falls (or it touches an end of the record): only those are looked at,
    with two pointers walking the changes.
    """
    count = times.size
    first, last = times[0], times[count - 1]
    if last - first <= span_s:
        return float(energy[count - 1] / span_s)
    best = 0.0
    ahead = 0
    behind = 0
    last_place = count - 2
    for i in range(count):
        if i == 0 or level[i] > level[i - 1]:
            end = times[i] + span_s
            if end <= last:
                while ahead < last_place and times[ahead + 1] <= end:
                    ahead += 1
                result = energy[ahead] + level[ahead] * (end - times[ahead]) - energy[i]
                if result > best:
                    best = result
        if i == count - 1 or level[i] < level[i - 1]:
            begin = times[i] - span_s
            if begin >= first:
                while behind < last_place and times[behind + 1] <= begin:
                    behind += 1
                result = energy[i] - energy[behind] - level[behind] * (begin - times[behind])
                if result > best:
                    best = result
    return best / span_s


@njit(cache=True, nogil=True)
def runs_of(
    on_s: float,
    off_s: float,
    jitter: float,
    at_once_x: float,
    first_s: float,
    phase: float,
    random_draws: Floats,
    opens: Floats,
    closes: Floats,
    horizon_s: float,
    out: Floats,
) -> int:
    """Stretches in which one load runs, into ``out`` (n, 2): its cycles cut to its hours; how many.

    ``at_once_x`` above 0: it calls at once at ``first_s`` and its first
    on-time is so many times its usual one. ``off_s`` 0: it runs throughout
    its hours; below 0: a program, begun once in each stretch of them.
    ``random_draws`` (m, 2) in −1 to 1 vary each on and off time; ``phase`` in 0 to 1
    is where in its cycle it begins.

    Raises
    ------
    IndexError
        If ``out`` or ``random_draws`` holds fewer than the runs there are: nothing is ever left out in silence.
    """
    if off_s < 0:
        return programs_of(on_s, jitter, random_draws, opens, closes, horizon_s, out)
    wanted = at_once_x > 0
    earliest = first_s if wanted else 0.0
    at = first_s if wanted else -phase * (on_s + off_s)
    result = 0
    k = 0
    while at < horizon_s:
        if k >= random_draws.shape[0]:
            raise IndexError("fewer random numbers than cycles")
        last = on_s * (1 + jitter * random_draws[k, 0])
        if wanted and k == 0:
            last *= at_once_x
        low, high = at, at + last
        if off_s <= 0:
            low, high = earliest, horizon_s
        for w in range(opens.size):
            begin, end = max(low, opens[w], earliest), min(high, closes[w])
            if end > begin:
                if result >= out.shape[0]:
                    raise IndexError("more runs than room for them")
                out[result, 0], out[result, 1] = begin, end
                result += 1
        if off_s <= 0:
            break
        at = at + last + off_s * (1 + jitter * random_draws[k, 1])
        k += 1
    return result


@njit(cache=True, nogil=True)
def most_runs_of(cycles: int, windows: int) -> int:
    """How many runs so many cycles cut to so many windows can make at most.

    Both are stretches that lie one after the other, so two neighbours in either
    share at most one boundary with the other: no more than ``cycles + windows − 1`` pieces.
    """
    return cycles + windows


@njit(cache=True, nogil=True)
def programs_of(
    on_s: float, jitter: float, random_draws: Floats, opens: Floats, closes: Floats, horizon_s: float, out: Floats
) -> int:
    """One run in each window, begun anywhere that lets it end in time, else at the window's beginning.

    A program that outlasts its window runs on to its end: one that is still
    running when the next window opens is not begun a second time on top of itself.

    Raises
    ------
    IndexError
        If ``out`` or ``random_draws`` holds fewer than the windows there are.
    """
    if opens.size > random_draws.shape[0] or opens.size > out.shape[0]:
        raise IndexError("more windows than room for their programs")
    result = 0
    ended = 0.0
    for w in range(opens.size):
        last = on_s * (1 + jitter * random_draws[w, 0])
        first = max(opens[w], ended)
        if first >= closes[w]:
            continue
        room = max(0.0, closes[w] - first - last)
        begin = first + room * (random_draws[w, 1] + 1) / 2
        end = min(begin + last, horizon_s)
        if end > begin:
            out[result, 0], out[result, 1] = begin, end
            result += 1
            ended = end
    return result


@njit(cache=True, nogil=True)
def part_two(runs_s: Floats, count_runs: NDArray[np.int64], i: int, j: int, horizon_s: float) -> bool:
    """Let no run of one load lie on a run of another: the later to begin waits, and its next ones behind it; whether any did.

    A run that would begin after the end of the outage is dropped, one that would end after it is cut.
    """
    moved = False
    a = b = 0
    while a < count_runs[i] and b < count_runs[j]:
        if runs_s[i, a, 1] <= runs_s[j, b, 0] + WAITED_S:
            a += 1
            continue
        if runs_s[j, b, 1] <= runs_s[i, a, 0] + WAITED_S:
            b += 1
            continue
        moved = True
        waits, k, until = (j, b, runs_s[i, a, 1]) if runs_s[i, a, 0] <= runs_s[j, b, 0] else (i, a, runs_s[j, b, 1])
        for r in range(k, count_runs[waits]):
            last = runs_s[waits, r, 1] - runs_s[waits, r, 0]
            if runs_s[waits, r, 0] >= until:
                break
            runs_s[waits, r, 0] = until
            runs_s[waits, r, 1] = until = min(until + last, horizon_s)
        while count_runs[waits] > 0 and runs_s[waits, count_runs[waits] - 1, 0] >= horizon_s:
            count_runs[waits] -= 1
    return moved


@njit(cache=True, nogil=True)
def keep_apart(runs_s: Floats, count_runs: NDArray[np.int64], apart: NDArray[np.bool_], horizon_s: float) -> None:
    """Part every two loads that are never on together, until none of their runs meet: each waiting is later, so it ends."""
    n = count_runs.size
    moved = True
    while moved:
        moved = False
        for i in range(n):
            for j in range(i + 1, n):
                if apart[i, j] and part_two(runs_s, count_runs, i, j, horizon_s):
                    moved = True


@njit(cache=True, nogil=True)
def changes_of(
    runs: Floats,
    first: int,
    last: int,
    powers: Floats,
    times_s: Floats,
    horizon_s: float,
    running_s: Floats,
    at: Floats,
    who: NDArray[np.int64],
    kind: NDArray[np.int64],
    m: int,
) -> int:
    """Add to the list of changes what one load's parts do in its runs; how many there are now.

    Parts ``first`` to ``last`` are its own: ``times_s`` (p, 3) from, for and
    start length; a part reaches no further than its run. ``running_s`` gathers
    the on-time of each part.

    Raises
    ------
    IndexError
        If the list is too short for what the runs bring.
    """
    for r in range(runs.shape[0]):
        for p in range(first, last):
            low = runs[r, 0] + times_s[p, 0]
            high = min(low + times_s[p, 1], runs[r, 1])
            if high <= low:
                continue
            if m + 4 > at.size:
                raise IndexError("more changes than room for them")
            running_s[p] += high - low
            at[m], who[m], kind[m] = low, p, ON
            at[m + 1], who[m + 1], kind[m + 1] = high, p, OFF
            m += 2
            if powers[p, 2] > 0:
                at[m], who[m], kind[m] = low, p, START
                at[m + 1], who[m + 1], kind[m + 1] = min(low + times_s[p, 2], high), p, STARTED
                m += 2
    return m


@njit(cache=True, nogil=True)
def in_time(at: Floats, m: int, horizon_s: float, order: NDArray[np.int64], count: NDArray[np.int64]) -> None:
    """The changes in the order of their times, into ``order``; changes at one moment keep their places.

    A bucket a change, filled by counting, then straight insertion: the changes
    of an outage are spread over it, so that buckets stay small.

    Raises
    ------
    IndexError
        If a change lies outside the outage, or ``order`` or ``count`` is too short.
    """
    if m > order.size or count.size < 2:
        raise IndexError("more changes than room to order them")
    buckets = count.size - 1
    scale = buckets / horizon_s * (1 - 1e-12)
    count[:] = 0
    for k in range(m):
        if not 0.0 <= at[k] <= horizon_s:
            raise IndexError("a change outside the outage")
        count[int(at[k] * scale) + 1] += 1
    for b in range(buckets):
        count[b + 1] += count[b]
    for k in range(m):
        b = int(at[k] * scale)
        order[count[b]] = k
        count[b] += 1
    for k in range(1, m):
        e = order[k]
        j = k - 1
        while j >= 0 and (at[order[j]] > at[e] or (at[order[j]] == at[e] and order[j] > e)):
            order[j + 1] = order[j]
            j -= 1
        order[j + 1] = e


@njit(cache=True, nogil=True)
def levels_of(
    m: int,
    at: Floats,
    who: NDArray[np.int64],
    kind: NDArray[np.int64],
    order: NDArray[np.int64],
    powers: Floats,
    shares: Floats,
    times: Floats,
    level: Floats,
) -> int:
    """Watts, volt-amperes and what starts add, at each place from each change on; how many times there are."""
    places = shares.shape[1]
    now = np.zeros((3, places))
    count = 1
    for k in range(m):
        e = order[k]
        if at[e] > times[count - 1]:
            for p in range(places):
                for row in range(3):
                    level[row, p, count - 1] = now[row, p]
            times[count] = at[e]
            count += 1
        i, what = who[e], kind[e]
        if what in (ON, OFF):
            sign = 1.0 if what == ON else -1.0
            for p in range(places):
                now[0, p] += sign * powers[i, 0] * shares[i, p]
                now[1, p] += sign * powers[i, 1] * shares[i, p]
        else:
            adds = powers[i, 2] if what == START else -powers[i, 2]
            for p in range(places):
                now[2, p] += adds * shares[i, p]
    for p in range(places):
        for row in range(3):
            level[row, p, count - 1] = now[row, p]
    return count


@njit(cache=True, nogil=True)
def hours_of(span: Floats, level: Floats, energy: Floats, edges_s: Floats, out: Floats) -> None:
    """Energy of each hour, into ``out``."""
    before = 0.0
    j = 0
    for h in range(out.size):
        while j < span.size - 2 and span[j + 1] <= edges_s[h + 1]:
            j += 1
        after = energy[j] + level[j] * (edges_s[h + 1] - span[j])
        out[h] = after - before
        before = after


@njit(cache=True, nogil=True)
def starting_beside(
    e: int,
    m: int,
    at: Floats,
    who: NDArray[np.int64],
    kind: NDArray[np.int64],
    powers: Floats,
    shares: Floats,
    times_s: Floats,
    load_of: NDArray[np.int64],
    adds_va: Floats,
) -> int:
    """What starts of other loads add at each place while one begins, into ``adds_va``; the load that adds most, −1 for none."""
    adds_va[:] = 0.0
    biggest, most = -1, 0.0
    for other in range(m):
        i = who[other]
        if kind[other] != START or load_of[i] == load_of[who[e]]:
            continue
        if at[other] <= at[e] < at[other] + times_s[i, 2]:
            for p in range(shares.shape[1]):
                adds_va[p] += powers[i, 2] * shares[i, p]
            if powers[i, 2] > most:
                biggest, most = load_of[i], powers[i, 2]
    return biggest


@njit(cache=True, nogil=True)
def worst_starts(
    m: int,
    at: Floats,
    who: NDArray[np.int64],
    kind: NDArray[np.int64],
    span: Floats,
    level: Floats,
    powers: Floats,
    shares: Floats,
    times_s: Floats,
    load_of: NDArray[np.int64],
    worst_start: Floats,
) -> None:
    """Each load's worst start, into ``worst_start`` (n, 7).

    W and VA running beneath it, VA of its moment on the whole and on its worst leg, its own start alone on what runs;
    then the same two where another load's start falls together with it, and which load that is (−1: none).
    """
    places = shares.shape[1]
    adds_va = np.zeros(places)
    for e in range(m):
        if kind[e] != START:
            continue
        i = who[e]
        j = np.searchsorted(span, at[e], side="right") - 1
        other = -1
        if level[2, 0, j] > powers[i, 2] * (1 + 1e-9):
            other = starting_beside(e, m, at, who, kind, powers, shares, times_s, load_of, adds_va)
        leg_va = both_leg_va = 0.0
        for p in range(places):
            if places == 1 or (p > 0 and shares[i, p] > 0):
                own_va = level[1, p, j] + powers[i, 2] * shares[i, p]
                leg_va = max(leg_va, own_va)
                if other >= 0:
                    both_leg_va = max(both_leg_va, own_va + adds_va[p])
        mine = worst_start[load_of[i]]
        mine[0] = max(mine[0], level[0, 0, j] - powers[i, 3])
        mine[1] = max(mine[1], level[1, 0, j] - powers[i, 4])
        mine[2] = max(mine[2], level[1, 0, j] + powers[i, 2])
        mine[3] = max(mine[3], leg_va)
        if other >= 0 and level[1, 0, j] + powers[i, 2] + adds_va[0] > mine[4]:
            mine[4] = level[1, 0, j] + powers[i, 2] + adds_va[0]
            mine[5], mine[6] = both_leg_va, other


@njit(cache=True, nogil=True)
def outages(
    powers: Floats,
    times_s: Floats,
    shares: Floats,
    part_of: NDArray[np.int64],
    on_s: Floats,
    off_s: Floats,
    at_once_x: Floats,
    first_s: Floats,
    opens: Floats,
    closes: Floats,
    window_of: NDArray[np.int64],
    phase: Floats,
    random_draws: Floats,
    random_draws_of: NDArray[np.int64],
    jitter: float,
    apart: NDArray[np.bool_],
    edges_s: Floats,
    spans_s: Floats,
    stretch_share: float,
) -> tuple[Floats, Floats, Floats, Floats, Floats, Floats]:
    """Step through each drawn outage and gather what it asks.

    ``powers`` (parts, 5): running W, running VA, what a start adds [VA] (0:
    none), and W and VA of all the load's own parts that run when it starts;
    ``times_s`` (parts, 3): from, for, start length; ``shares`` (parts,
    places). ``part_of``, ``window_of`` and ``random_draws_of`` (n + 1) say which
    parts, windows and random draws are a load's; ``phase`` is (draws, n), ``random_draws``
    (draws, all, 2); ``apart`` (n, n) which two loads are never on together. Gives peaks (draws, places, spans and VA over the first
    span), neutral difference [VA], longest stretch [s], energy by hour (draws,
    places, hours) [Ws], on-time (draws, parts) [s], and each load's worst
    start (draws, n, 7; −1: none).

    Raises
    ------
    IndexError
        If what was made ready holds less than there is.
    """
    draws, n = phase.shape
    places = shares.shape[1]
    horizon_s = edges_s[-1]
    peaks = np.zeros((draws, places, spans_s.size + 1))
    neutral_va = np.zeros(draws)
    stretch_s = np.zeros(draws)
    by_hour = np.zeros((draws, places, edges_s.size - 1))
    running_s = np.zeros((draws, shares.shape[0]))
    worst_start = np.full((draws, n, 7), -1.0)
    load_of = np.zeros(shares.shape[0], dtype=np.int64)
    most_runs = most_changes = 0
    for i in range(n):
        load_of[part_of[i] : part_of[i + 1]] = i
        runs = most_runs_of(random_draws_of[i + 1] - random_draws_of[i], window_of[i + 1] - window_of[i])
        most_runs = max(most_runs, runs)
        most_changes += runs * (part_of[i + 1] - part_of[i]) * CHANGES_A_RUN
    runs_s = np.zeros((n, most_runs, 2))
    count_runs = np.zeros(n, dtype=np.int64)
    at = np.zeros(most_changes)
    who = np.zeros(at.size, dtype=np.int64)
    kind = np.zeros(at.size, dtype=np.int64)
    order = np.zeros(at.size, dtype=np.int64)
    count_of = np.zeros(at.size + 2, dtype=np.int64)
    for d in range(draws):
        m = 0
        for i in range(n):
            w0, w1, d0, d1 = window_of[i], window_of[i + 1], random_draws_of[i], random_draws_of[i + 1]
            count_runs[i] = runs_of(
                on_s[i],
                off_s[i],
                jitter,
                at_once_x[i],
                first_s[i],
                phase[d, i],
                random_draws[d, d0:d1],
                opens[w0:w1],
                closes[w0:w1],
                horizon_s,
                runs_s[i],
            )
        keep_apart(runs_s, count_runs, apart, horizon_s)
        for i in range(n):
            own = runs_s[i, : count_runs[i]]
            m = changes_of(own, part_of[i], part_of[i + 1], powers, times_s, horizon_s, running_s[d], at, who, kind, m)
        in_time(at, m, horizon_s, order, count_of[: max(2, m + 1)])
        times = np.zeros(m + 2)
        level = np.zeros((3, places, m + 2))
        count = levels_of(m, at, who, kind, order, powers, shares, times, level)
        if times[count - 1] < horizon_s:
            times[count] = horizon_s
            count += 1
        span = times[:count]
        for p in range(places):
            w, va = level[0, p, :count], level[1, p, :count]
            energy = energies(span, w)
            for s in range(spans_s.size):
                peaks[d, p, s] = highest_mean(span, w, energy, spans_s[s])
            peaks[d, p, spans_s.size] = highest_mean(span, va, energies(span, va), spans_s[0])
            hours_of(span, w, energy, edges_s, by_hour[d, p])
        stretch_s[d] = longest_stretch(span, level[0, 0, :count], stretch_share * peaks[d, 0, 0])
        if places == 3:
            neutral_va[d] = np.abs(level[1, 1, :count] - level[1, 2, :count]).max()
        worst_starts(m, at, who, kind, span, level, powers, shares, times_s, load_of, worst_start[d])
    return peaks, neutral_va, stretch_s, by_hour, running_s, worst_start
