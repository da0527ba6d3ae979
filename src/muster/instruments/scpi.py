"""SCPI instruments over TCP: a power analyser's readings and a scope's capture, by a table of queries."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from muster.core.sessions import Place
from muster.core.traces import Channel

from .driver import PATIENCE_S, Garbled, Seen
from .wire import Wire

IDENTITY = "*IDN?"
NOT_A_NUMBER = 9.9e36
"""What SCPI instruments answer where they have no figure (9.91E37, IEEE 488.2 / SCPI 1999, 7.2.1.5)."""


@dataclass(frozen=True)
class Query:
    """What to ask for a channel, and what to multiply the answer by."""

    command: str
    channel: Channel
    factor: float = 1.0


ANALYSER = (
    Query("MEAS:VOLT? 1", Channel("v", Place.LEG1)), Query("MEAS:CURR? 1", Channel("a", Place.LEG1)),
    Query("MEAS:POW? 1", Channel("w", Place.LEG1)), Query("MEAS:VOLT? 2", Channel("v", Place.LEG2)),
    Query("MEAS:CURR? 2", Channel("a", Place.LEG2)), Query("MEAS:POW? 2", Channel("w", Place.LEG2)),
    Query("MEAS:FREQ?", Channel("hz")),
)  # fmt: skip
"""A two-channel power analyser, in the words of SCPI 1999's MEASure subsystem."""


def parse_number(answer: str, where: str = "answer") -> float:
    """A figure from an answer; NaN where the instrument says it has none.

    Raises
    ------
    Garbled
        If it is no number.
    """
    try:
        value = float(answer.split(",")[0])
    except ValueError:
        raise Garbled(f"got “{answer[:40]}”", where=where, want="a number") from None
    return math.nan if not math.isfinite(value) or abs(value) >= NOT_A_NUMBER else value


class ScpiDriver:
    """An instrument read by queries, one after another."""

    def __init__(
        self, host: str, port: int, queries: tuple[Query, ...] = ANALYSER, patience_s: float = PATIENCE_S
    ) -> None:
        self._wire = Wire(host, port, patience_s)
        self._queries = queries
        self._name = ""

    @property
    def name(self) -> str:
        """As it says itself."""
        return self._name

    @property
    def channels(self) -> tuple[Channel, ...]:
        """What it is asked for."""
        return tuple(query.channel for query in self._queries)

    def open(self) -> None:
        """Connect and ask what it is.

        Raises
        ------
        NoAnswer, Garbled
            As the wire.
        """
        self._name = self._wire.ask(IDENTITY)

    def read(self) -> tuple[Seen, ...]:
        """Ask every query once.

        Raises
        ------
        NoAnswer, Garbled
            As the wire, and where an answer is no number: the line is then begun anew,
            so that a late answer is not taken for the next.
        """
        found = []
        for query in self._queries:
            answer = self._wire.ask(query.command)
            try:
                found.append(Seen(query.channel, parse_number(answer, query.command) * query.factor))
            except Garbled:
                self._wire.close()
                raise
        return tuple(found)

    def capture(self) -> tuple[float, NDArray[np.float64]]:
        """A scope's waveform: seconds between samples, and volts.

        Raises
        ------
        NoAnswer, Garbled
            As the wire, and where it holds no numbers.
        """
        step_s = parse_number(self._wire.ask("WAV:XINC?"), "WAV:XINC?")
        answer = self._wire.ask("WAV:DATA?")
        try:
            volts = np.array([float(part) for part in answer.split(",")], dtype=np.float64)
        except ValueError:
            raise Garbled(f"got “{answer[:40]}”", where="WAV:DATA?", want="numbers apart by commas") from None
        if not step_s > 0:
            raise Garbled(f"got {step_s:g}", where="WAV:XINC?", want="above 0")
        return step_s, volts

    def close(self) -> None:
        """Let the wire go."""
        self._wire.close()
