"""What every driver is: opened, read, closed; what it says when that fails."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol, runtime_checkable

from muster.core.errors import MusterError
from muster.core.timeline.traces import Channel

PATIENCE_S = 1.0
"""How long an instrument may take to answer before it counts as gone."""


class NoAnswer(MusterError):
    """The instrument cannot be reached, or does not answer in time."""


class NothingThere(NoAnswer):
    """Nothing listens at the address."""


class Garbled(MusterError):
    """The instrument answered, but not in words that can be understood."""


@dataclass(frozen=True)
class Seen:
    """One figure of one channel, in SI units."""

    channel: Channel
    value: float


@runtime_checkable
class Driver(Protocol):
    """An instrument on a wire.

    ``read`` gives every channel it has now, or raises ``NoAnswer`` or
    ``Garbled``; after either it may be read again, and reconnects by itself.
    """

    @property
    def name(self) -> str:
        """What the instrument calls itself, empty before it was opened."""
        ...

    @property
    def channels(self) -> tuple[Channel, ...]:
        """What it reads, in the order in which ``read`` gives it."""
        ...

    def open(self) -> None:
        """Connect and find out what it is."""
        ...

    def read(self) -> tuple[Seen, ...]:
        """Read every channel once."""
        ...

    def close(self) -> None:
        """Let the wire go; may be called twice."""
        ...
