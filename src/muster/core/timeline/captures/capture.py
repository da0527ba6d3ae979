"""A capture: instantaneous samples of a few channels at one even step."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...errors import MusterError, require_above
from ..traces import Channel
from ..traces.trace import Floats, Samples

MOST_SAMPLES = 20_000_000


@dataclass(frozen=True, eq=False)
class Capture:
    """Samples of ``channels`` every ``step_s``, the first at ``t_s`` seconds after the session began.

    ``values`` is (channels, n): instantaneous volts and amps. ``why`` says what it was taken for.
    """

    name: str
    instrument: str
    t_s: float
    step_s: float
    channels: tuple[Channel, ...]
    values: Samples
    why: str = ""

    def __post_init__(self) -> None:
        require_above(self.step_s, 0, "step_s")
        if self.values.ndim != 2 or self.values.shape[0] != len(self.channels):
            raise MusterError(f"got {self.values.shape}", where="values", want="one row a channel")
        if not self.channels or len(set(self.channels)) != len(self.channels):
            raise MusterError("channels stand twice, or there are none", where="channels", want="each once")
        if not 2 <= self.values.shape[1] <= MOST_SAMPLES:
            raise MusterError(f"{self.values.shape[1]} samples", where="values", want=f"2 to {MOST_SAMPLES}")

    def __eq__(self, other: object) -> bool:
        """The same channels and samples; what was not read equals what was not read."""
        if not isinstance(other, Capture):
            return NotImplemented
        head = (self.name, self.instrument, self.t_s, self.step_s, self.channels, self.why)
        other_head = (other.name, other.instrument, other.t_s, other.step_s, other.channels, other.why)
        return head == other_head and np.array_equal(self.values, other.values, equal_nan=True)

    __hash__ = None  # type: ignore[assignment]

    @property
    def rate_hz(self) -> float:
        """Samples a second."""
        return 1 / self.step_s

    @property
    def end_s(self) -> float:
        """The time of its last sample [s after the session began]."""
        last: int = self.values.shape[1] - 1
        return self.t_s + self.step_s * last

    @property
    def times_s(self) -> Floats:
        """The time of every sample [s after the session began], shape (n,)."""
        return self.t_s + self.step_s * np.arange(self.values.shape[1], dtype=np.float64)

    def of(self, channel: Channel) -> Floats | None:
        """The samples of a channel, None if it was not captured."""
        if channel not in self.channels:
            return None
        samples: Floats = self.values[self.channels.index(channel)].astype(np.float64)
        return samples

    def between(self, t0_s: float, t1_s: float) -> Capture | None:
        """The part between two times; None where fewer than two samples are left."""
        first = max(0, int(np.ceil((t0_s - self.t_s) / self.step_s)))
        last = min(self.values.shape[1], int(np.floor((t1_s - self.t_s) / self.step_s)) + 1)
        if last - first < 2:
            return None
        return Capture(
            name=self.name,
            instrument=self.instrument,
            t_s=self.t_s + first * self.step_s,
            step_s=self.step_s,
            channels=self.channels,
            values=self.values[:, first:last],
            why=self.why,
        )
