"""Instruments that say a line of text by themselves: sound level meters, thermometers."""

from __future__ import annotations

import re
from dataclasses import dataclass

from muster.core.timeline.traces import Channel

from .driver import PATIENCE_S, Garbled, Seen
from .wire import SerialWire, Wire


@dataclass(frozen=True)
class LineTable:
    """What a line holds: a pattern with one group for each channel, in their order."""

    name: str
    pattern: str
    channels: tuple[Channel, ...]


SOUND = LineTable("sound level meter", r"L[AS]*\s*=?\s*(-?\d+(?:\.\d+)?)\s*dB", (Channel("dba"),))
TEMPERATURE = LineTable("thermometer", r"T\s*=?\s*(-?\d+(?:\.\d+)?)\s*C", (Channel("temp_c"),))


def parse_line(line: str, table: LineTable) -> tuple[float, ...]:
    """The figures of a line.

    Raises
    ------
    Garbled
        If it does not hold them.
    """
    match = re.search(table.pattern, line)
    if match is None:
        raise Garbled(f"got “{line[:40]}”", where=table.name, want=f"a line such as {table.pattern}")
    return tuple(float(group) for group in match.groups())


class LineDriver:
    """An instrument that talks by itself: the latest whole line counts."""

    def __init__(
        self,
        host: str,
        port: int,
        table: LineTable = SOUND,
        patience_s: float = 2 * PATIENCE_S,
        serial: str = "",
        baud: int = 9600,
    ) -> None:
        self._wire = SerialWire(serial, baud, patience_s) if serial else Wire(host, port, patience_s)
        self._table = table

    @property
    def name(self) -> str:
        """What kind it is."""
        return self._table.name

    @property
    def channels(self) -> tuple[Channel, ...]:
        """What its lines hold."""
        return self._table.channels

    def open(self) -> None:
        """Connect.

        Raises
        ------
        NoAnswer
            If nothing is there.
        """
        self._wire.connect()

    def read(self) -> tuple[Seen, ...]:
        """The figures of its latest line.

        Raises
        ------
        NoAnswer, Garbled
            As the wire, and where a line does not hold what it should.
        """
        figures = parse_line(self._wire.latest(), self._table)
        return tuple(Seen(channel, value) for channel, value in zip(self._table.channels, figures, strict=True))

    def close(self) -> None:
        """Let the wire go."""
        self._wire.close()
