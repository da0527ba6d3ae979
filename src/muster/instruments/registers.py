"""Modbus registers as data: where a figure stands, how it is coded, what it is of. Words in, figures out, no I/O."""

from __future__ import annotations

import math
import struct
from collections.abc import Sequence
from dataclasses import dataclass

from muster.core.errors import MusterError, UnknownChoice
from muster.core.timeline.traces import Channel

from .driver import Garbled

WIDTH = {"u16": 1, "i16": 1, "u32": 2, "i32": 2, "f32": 2}
CODES = {"u16": ">H", "i16": ">h", "u32": ">I", "i32": ">i", "f32": ">f"}
ABSENT = {"u16": 0xFFFF, "i16": -0x8000, "u32": 0xFFFFFFFF, "i32": -0x80000000}
"""What a register holds that the instrument has not: the same in most makers' maps and in SunSpec."""
MOST_AT_ONCE = 100
"""Registers asked for in one request; the protocol allows 125."""


@dataclass(frozen=True)
class Register:
    """One figure: its address, its coding, what it is multiplied by, and the channel it is of."""

    address: int
    kind: str
    channel: Channel
    scale: float = 1.0

    def __post_init__(self) -> None:
        if self.kind not in WIDTH:
            raise UnknownChoice(f"got “{self.kind}”", where="kind", want=", ".join(WIDTH))
        if not 0 <= self.address <= 65535 - WIDTH[self.kind]:
            raise MusterError(f"got {self.address}", where="address", want="0 to 65535")

    @property
    def width(self) -> int:
        """How many words it takes."""
        return WIDTH[self.kind]


@dataclass(frozen=True)
class RegisterMap:
    """An instrument's registers, and whether they are read as holding or as input registers."""

    name: str
    registers: tuple[Register, ...]
    inputs: bool = False

    def __post_init__(self) -> None:
        if not self.registers:
            raise MusterError("no registers", where="registers", want="at least one")

    @property
    def spans(self) -> tuple[tuple[int, int], ...]:
        """What to ask for: (address, count) runs that cover every register, none longer than a request may be."""
        ordered = sorted(self.registers, key=lambda r: r.address)
        result = [[ordered[0].address, ordered[0].width]]
        for register in ordered[1:]:
            end = register.address + register.width
            if end - result[-1][0] <= MOST_AT_ONCE:
                result[-1][1] = max(result[-1][1], end - result[-1][0])
            else:
                result.append([register.address, register.width])
        return tuple((address, count) for address, count in result)


def decode(words: Sequence[int], kind: str) -> float:
    """A figure from its words, high word first; NaN where the instrument says it has none.

    Raises
    ------
    Garbled
        If there are not as many words as it takes.
    """
    if len(words) != WIDTH[kind]:
        raise Garbled(f"{len(words)} words for {kind}", where="registers", want=f"{WIDTH[kind]}")
    raw = struct.pack(f">{len(words)}H", *words)
    value = struct.unpack(CODES[kind], raw)[0]
    return math.nan if value == ABSENT.get(kind) else float(value)


def encode(value: float, kind: str) -> list[int]:
    """A figure as words, high word first; what does not fit becomes the word for “none”."""
    if kind == "f32":
        raw = struct.pack(">f", value)
    else:
        whole = ABSENT[kind] if not math.isfinite(value) else round(value)
        try:
            raw = struct.pack(CODES[kind], whole)
        except struct.error:
            raw = struct.pack(CODES[kind], ABSENT[kind])
    return list(struct.unpack(f">{len(raw) // 2}H", raw))
