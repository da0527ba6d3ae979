"""Power over time, and what was held: the longest sure time at or above a power, whoever read it and however."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

NEXT_SAMPLE_S = 10.0
"""Samples no further apart stand for all that lies between them (physics §11); beyond, only those of one level do."""
SAME_LEVEL, LEAST_LEVEL_W = 0.1, 60.0
"""Watts this near, as a share or in watts, are of the same load: what cycles and warms moves as much."""
GONE_SHARE = 0.05
"""Power that fell to less than this share is gone: what is left is the meter's own, or a light on a battery."""
SAME_HELD = 1.02
"""Two powers within so much are told as one thing held: the lower, for its longer time."""


@dataclass(frozen=True)
class PowerSample:
    """Watts at a moment, and the entry they were read in; ``taken`` where amps were read and a power factor of 1 was taken.

    ``va`` where amps or a power factor tell them, else 0: then they were no less than the watts.
    """

    t_s: float
    w: float
    seq: int = 0
    taken: bool = False
    va: float = 0.0


@dataclass(frozen=True)
class Stood:
    """At least so many watts from one moment to another; ``seq`` and ``taken`` are those of the lowest sample."""

    w: float
    t0_s: float
    t1_s: float
    seq: int = 0
    taken: bool = False
    va: float = 0.0
    """The least VA meanwhile, no less than the watts. [VA]"""

    @property
    def held_s(self) -> float:
        """How long it stood."""
        return self.t1_s - self.t0_s


def is_same_level(w: float, other_w: float) -> bool:
    """Whether two powers are of the same load."""
    return abs(w - other_w) <= max(LEAST_LEVEL_W, SAME_LEVEL * max(w, other_w))


def joined(stretches: Iterable[Sequence[PowerSample]]) -> list[list[PowerSample]]:
    """Stretches of samples put together where nothing can have come between them.

    Parameters
    ----------
    stretches
        Samples in the order of their times, cut wherever the load may have changed.

    Returns
    -------
    list
        The same samples; two stretches are one where the last of the first and the first of the second are
        ``NEXT_SAMPLE_S`` apart or less.
    """
    runs: list[list[PowerSample]] = []
    for stretch in stretches:
        if runs and stretch and runs[-1] and 0 <= stretch[0].t_s - runs[-1][-1].t_s <= NEXT_SAMPLE_S:
            runs[-1].extend(stretch)
        elif stretch:
            runs.append(list(stretch))
    return runs


def whole_stretches(samples: Sequence[PowerSample]) -> list[list[PowerSample]]:
    """Samples of one load cut where two in succession are far apart in time and in watts: when it changed nobody saw."""
    runs: list[list[PowerSample]] = [[*samples[:1]]]
    for before, sample in pairwise(samples):
        if sample.t_s - before.t_s <= NEXT_SAMPLE_S or is_same_level(sample.w, before.w):
            runs[-1].append(sample)
        else:
            runs.append([sample])
    return [run for run in runs if run]


def stood(samples: Sequence[PowerSample]) -> tuple[Stood, ...]:
    """What was held, from the highest power to the longest time.

    Parameters
    ----------
    samples : sequence of PowerSample
        Of one place, in the order of their times, with nothing between them that was off. [W], [s]

    Returns
    -------
    tuple of Stood
        For each power the longest time in which every sample was at or above it, where that is longer than for any
        higher one; powers within ``SAME_HELD`` are told once.

    References
    ----------
    physics §11: *held P for t is the longest sure time during which every accepted sample was at or above P*.
    """
    longest: list[Stood] = []
    rising: list[tuple[int, PowerSample]] = []
    """Powers that every later sample was at or above, each with the first sample that was."""
    for index, sample in enumerate(samples):
        first = index
        while rising and rising[-1][1].w > sample.w:
            first, low = rising.pop()
            longest.append(_level(low, samples[first].t_s, samples[index - 1].t_s))
        if not rising or rising[-1][1].w < sample.w:
            rising.append((first, sample))
    longest += [_level(low, samples[first].t_s, samples[-1].t_s) for first, low in rising]
    kept: list[Stood] = []
    for level in sorted(longest, key=lambda s: (-s.held_s, -s.w)):
        if level.held_s > 0 and (not kept or level.w > kept[-1].w * SAME_HELD):
            kept.append(level)
    return tuple(with_va(level, samples) for level in reversed(kept))


def _level(low: PowerSample, t0_s: float, t1_s: float) -> Stood:
    """A level told by its lowest sample."""
    return Stood(w=low.w, t0_s=t0_s, t1_s=t1_s, seq=low.seq, taken=low.taken)


def with_va(level: Stood, samples: Sequence[PowerSample]) -> Stood:
    """A level with the least VA of its samples; its watts where none of them tells."""
    if not any(sample.va for sample in samples):
        return replace(level, va=level.w)
    meanwhile = (max(s.w, s.va) for s in samples if level.t0_s <= s.t_s <= level.t1_s)
    return replace(level, va=min(meanwhile, default=level.w))


def highest_for(runs: Iterable[Sequence[PowerSample]], least_s: float) -> Stood | None:
    """The highest power that stood for at least so long in any run, None if none did. [s]"""
    long = [level for run in runs for level in stood(run) if level.held_s >= least_s]
    return max(long, key=lambda level: level.w, default=None)


def stood_before(samples: Sequence[PowerSample], end_s: float) -> Stood | None:
    """The last level of a run and how long it stood until the end: every sample of it is of the last one's load.

    Parameters
    ----------
    samples : sequence of PowerSample
        In the order of their times. [W], [s]
    end_s : float
        When it ended, by a trip. [s]

    Returns
    -------
    Stood or None
        None without a sample.
    """
    if not samples:
        return None
    last = samples[-1]
    begun = last
    for sample in reversed(samples):
        if sample.w < last.w and not is_same_level(sample.w, last.w):
            break
        begun = sample
    return Stood(
        w=last.w, t0_s=begun.t_s, t1_s=max(end_s, last.t_s), seq=last.seq, taken=last.taken, va=max(last.w, last.va)
    )


def fell(samples: Sequence[PowerSample], near_s: float, within_s: float) -> Stood | None:
    """The level that a run of samples fell from, nearest a moment at which it is known to have tripped.

    Parameters
    ----------
    samples : sequence of PowerSample
        Of a log without a gap. [W], [s]
    near_s, within_s : float
        When it was said to have tripped, and how far a thumb and two clocks may be apart. [s]

    Returns
    -------
    Stood or None
        None where power did not fall to ``GONE_SHARE`` of what it was, or the log did not end, within that time.
    """
    falls = [
        index
        for index, sample in enumerate(samples)
        if sample.w > 0
        and abs(sample.t_s - near_s) <= within_s
        and (index + 1 == len(samples) or samples[index + 1].w <= GONE_SHARE * sample.w)
    ]
    if not falls:
        return None
    last = min(falls, key=lambda index: abs(samples[index].t_s - near_s))
    return stood_before(samples[: last + 1], samples[last].t_s)


def until(samples: Sequence[PowerSample], end_s: float) -> list[PowerSample]:
    """The samples, the last of them standing until a moment that somebody watched."""
    if not samples or end_s <= samples[-1].t_s:
        return list(samples)
    return [*samples, replace(samples[-1], t_s=end_s)]
