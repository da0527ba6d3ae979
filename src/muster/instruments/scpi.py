"""SCPI instruments over TCP: a power analyser's readings and a scope's capture, by a table of queries."""

from __future__ import annotations

import math
import time
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from muster.core.sessions import Place
from muster.core.timeline.traces import Channel

from .driver import PATIENCE_S, Garbled, Seen
from .wire import Wire

IDENTITY = "*IDN?"
HOLD_QUERY, STEP_QUERY, WAVE_QUERIES = "DIG?", "WAV:XINC?", ("WAV:DATA? 1", "WAV:DATA? 2")
"""A scope is told to hold its record still as it is now; then its step and its two channels are read."""
NOT_A_NUMBER = 9.9e36
"""What SCPI instruments answer where they have no figure (9.91E37, IEEE 488.2 / SCPI 1999, 7.2.1.5)."""


@dataclass(frozen=True)
class Query:
    """What to ask for a channel, and what to multiply the answer by."""

    command: str
    channel: Channel
    factor: float = 1.0


ANALYSER = (
    Query("MEAS:VOLT? 1", Channel("v", Place.LEG1)),
    Query("MEAS:CURR? 1", Channel("a", Place.LEG1)),
    Query("MEAS:POW? 1", Channel("w", Place.LEG1)),
    Query("MEAS:VOLT? 2", Channel("v", Place.LEG2)),
    Query("MEAS:CURR? 2", Channel("a", Place.LEG2)),
    Query("MEAS:POW? 2", Channel("w", Place.LEG2)),
    Query("MEAS:FREQ?", Channel("hz")),
)
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


def parse_wave(answer: str, where: str) -> NDArray[np.float64]:
    """Samples from an answer, apart by commas.

    Raises
    ------
    Garbled
        If they are no numbers, or fewer than two.
    """
    try:
        wave = np.array(answer.split(","), dtype=np.float64)
    except ValueError:
        raise Garbled(f"got “{answer[:40]}”", where=where, want="numbers apart by commas") from None
    if wave.size < 2:
        raise Garbled("no samples", where=where, want="a record with samples in it")
    return wave


@dataclass(frozen=True, eq=False)
class Record:
    """What a scope kept: volts and amps every ``step_s``, the last of them ``ago_s`` before it was handed over."""

    step_s: float
    volts: NDArray[np.float64]
    amps: NDArray[np.float64]
    ago_s: float


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
            As the wire, and where an answer is no number: the line is then begun again,
            so that a late answer is not taken for the next.
        """
        seens = []
        for query in self._queries:
            answer = self._wire.ask(query.command)
            try:
                seens.append(Seen(query.channel, parse_number(answer, query.command) * query.factor))
            except Garbled:
                self._wire.close()
                raise
        return tuple(seens)

    def capture(self) -> Record:
        """A scope's record up to now, held still while it is read out.

        Raises
        ------
        NoAnswer, Garbled
            As the wire, and where it holds no numbers.
        """
        asked = time.monotonic()
        self._wire.ask(HOLD_QUERY)
        held = (asked + time.monotonic()) / 2
        step_s = parse_number(self._wire.ask(STEP_QUERY), STEP_QUERY)
        if not step_s > 0:
            raise Garbled(f"got {step_s:g}", where=STEP_QUERY, want="above 0")
        waves = [parse_wave(self._wire.ask(query), query) for query in WAVE_QUERIES]
        shortest = min(wave.size for wave in waves)
        volts, amps = (wave[-shortest:] for wave in waves)
        return Record(step_s, volts, amps, time.monotonic() - held)

    def close(self) -> None:
        """Let the wire go."""
        self._wire.close()
