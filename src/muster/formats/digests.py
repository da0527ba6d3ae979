"""Digests of recorded samples: of defined canonical bytes, so that how they are stored changes nothing.

**Form 2** (written today, ``2:`` before its hex). SHA-256 over the line
``muster samples 2``, one line a channel with its heading, and then, sample by
sample in order of time: the time in seconds after the session began as
float64, and each channel's figure as float32; little-endian, zero always
positive, and what was not read as the one quiet NaN ``0x7fc00000``.

**Form 1** (bare hex, written before) hashed the blocks that samples were
stored in, so that it hangs on where these were cut. It is still verified, by
cutting the samples as they may have been.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from muster.core.timeline.traces import Channel, Trace
from muster.core.timeline.traces.trace import Floats, Samples

FORM_2 = "2:"
BLOCK_1_S = 60.0
"""A block of form 1 was a minute, or as many minutes as held ``BLOCK_1_LEAST_ROWS`` samples."""
BLOCK_1_LEAST_ROWS = 600
MOST_MINUTES_1 = 30
"""Blocks of up to so many minutes are tried beside those that the samples' own step speaks for."""


class SampleDigest:
    """The digest of a trace, fed as its samples come."""

    def __init__(self, headings: Sequence[str]) -> None:
        self._sha = hashlib.sha256("\n".join(("muster samples 2", *headings, "")).encode())
        self._row = np.dtype([("t", "<f8"), ("v", "<f4", (len(headings),))])

    def take(self, t_s: Floats, values: Samples) -> None:
        """Go on with samples: ``t_s`` (n,) [s], ``values`` (channels, n), NaN where nothing was read."""
        rows = np.zeros(t_s.size, dtype=self._row)
        rows["t"] = t_s + 0.0
        figures = values.T + np.float32(0.0)
        figures[np.isnan(figures)] = np.float32(np.nan)
        rows["v"] = figures
        self._sha.update(rows.tobytes())

    def text(self) -> str:
        """The digest with its form, as far as it was fed."""
        return FORM_2 + self._sha.hexdigest()


def digest_of_samples(channels: Sequence[Channel], t_s: Floats, values: Samples) -> str:
    """The digest of whole samples, form 2."""
    digest = SampleDigest([channel.heading for channel in channels])
    digest.take(t_s, values)
    return digest.text()


def is_true(digest: str, trace: Trace) -> bool:
    """Whether a digest of any form is that of these samples."""
    if digest.startswith(FORM_2):
        return digest == digest_of_samples(trace.channels, trace.t_s, trace.values)
    return any(digest == item for item in _forms_1(trace))


def _forms_1(trace: Trace) -> Iterator[str]:
    """What form 1 may have made of these samples, the likeliest way of cutting them first."""
    head = "\n".join(channel.heading for channel in trace.channels).encode()
    own = [trace.step_s, *(np.diff(trace.t_s[:2]).tolist())]
    minutes = [max(1, math.ceil(step_s * BLOCK_1_LEAST_ROWS / BLOCK_1_S)) for step_s in own]
    for count in dict.fromkeys([*minutes, *range(1, MOST_MINUTES_1 + 1)]):
        digest = hashlib.sha256(head)
        for first, last in _blocks_1(trace.t_s, count * BLOCK_1_S):
            times = (trace.t_s[first:last] - trace.t_s[first]).astype("<f4")
            digest.update(times.tobytes() + np.ascontiguousarray(trace.values[:, first:last], "<f4").tobytes())
        yield digest.hexdigest()


def _blocks_1(t_s: Floats, block_s: float) -> Iterator[tuple[int, int]]:
    place: NDArray[np.float64] = np.floor((t_s - t_s[:1].sum()) / block_s)
    cuts = [0, *(np.flatnonzero(np.diff(place)) + 1).tolist(), t_s.size]
    yield from ((first, last) for first, last in pairwise(cuts) if last > first)


def digest_of_capture(values: Samples) -> str:
    """The digest of a capture: SHA-256 in bare hex over its samples, channel by channel, float32 little-endian.

    Its channels, its time and its step stand under the seal of its session.
    """
    return hashlib.sha256(np.ascontiguousarray(values, "<f4").tobytes()).hexdigest()
