"""SunSpec: finding the models of an instrument and reading their points; models as data (SunSpec information models)."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from muster.core.sessions import Place
from muster.core.timeline.traces import Channel

from .driver import Garbled
from .registers import decode

MARK = (0x5375, 0x6E53)
"""“SunS”, at the beginning of every map."""
BASES = (40000, 0, 50000)
"""Where a map may begin."""
END = 0xFFFF
MOST_MODELS = 30
COMMON = 1

Read = Callable[[int, int], Sequence[int]]
"""Reads so many registers from an address."""


@dataclass(frozen=True)
class RegisterPoint:
    """A point of a model: words from its beginning (its identifier at 0), coding, where its power of ten stands, its channel."""

    offset: int
    kind: str
    scale_at: int | None
    channel: Channel
    factor: float = 1.0


@dataclass(frozen=True)
class FoundModel:
    """A model found in an instrument: which, where, how long."""

    model: int
    address: int
    length: int


def _one(quantity: str, place: Place = Place.NONE) -> Channel:
    return Channel(quantity, place)


L1, L2, TOTAL, DC = Place.LEG1, Place.LEG2, Place.TOTAL, Place.DC
_SHARED = (
    RegisterPoint(16, "u16", 17, _one("hz")),
    RegisterPoint(27, "i16", 28, _one("a", DC)),
    RegisterPoint(29, "u16", 30, _one("v", DC)),
    RegisterPoint(31, "i16", 32, _one("w", DC)),
    RegisterPoint(33, "i16", 37, _one("temp_c")),
)
MODELS: dict[int, tuple[RegisterPoint, ...]] = {
    101: (
        RegisterPoint(3, "u16", 6, _one("a", L1)),
        RegisterPoint(10, "u16", 13, _one("v", L1)),
        RegisterPoint(14, "i16", 15, _one("w", L1)),
        *_SHARED,
    ),
    102: (
        RegisterPoint(3, "u16", 6, _one("a", L1)),
        RegisterPoint(4, "u16", 6, _one("a", L2)),
        RegisterPoint(10, "u16", 13, _one("v", L1)),
        RegisterPoint(11, "u16", 13, _one("v", L2)),
        RegisterPoint(14, "i16", 15, _one("w", TOTAL)),
        *_SHARED,
    ),
    124: (RegisterPoint(8, "u16", 22, _one("soc_pct")), RegisterPoint(10, "u16", 24, _one("v", DC))),
    201: (
        RegisterPoint(3, "i16", 6, _one("a", L1)),
        RegisterPoint(8, "i16", 15, _one("v", L1)),
        RegisterPoint(16, "i16", 17, _one("hz")),
        RegisterPoint(19, "i16", 22, _one("w", L1)),
        RegisterPoint(34, "i16", 37, _one("pf", L1), 0.01),
    ),
    202: (
        RegisterPoint(3, "i16", 6, _one("a", L1)),
        RegisterPoint(4, "i16", 6, _one("a", L2)),
        RegisterPoint(8, "i16", 15, _one("v", L1)),
        RegisterPoint(9, "i16", 15, _one("v", L2)),
        RegisterPoint(16, "i16", 17, _one("hz")),
        RegisterPoint(19, "i16", 22, _one("w", L1)),
        RegisterPoint(20, "i16", 22, _one("w", L2)),
    ),
}
"""Inverter, single and split phase (101, 102), storage (124), meter, single and split phase (201, 202)."""
LENGTHS = {COMMON: 66, 101: 50, 102: 50, 124: 24, 201: 105, 202: 105}


def walk(read: Read) -> tuple[FoundModel, ...]:
    """The models of an instrument, from its mark on.

    Raises
    ------
    Garbled
        If the mark is nowhere, or the chain of models does not end.
    """
    base = next((base for base in BASES if _marked(read, base)), None)
    if base is None:
        raise Garbled("no “SunS” at its beginning", where="sunspec", want=", ".join(map(str, BASES)))
    at = base + 2
    found_models: list[FoundModel] = []
    for _ in range(MOST_MODELS):
        model, length = read(at, 2)
        if model == END:
            return tuple(found_models)
        if length == 0:
            break
        found_models.append(FoundModel(model, at, length))
        at += 2 + length
    raise Garbled("its chain of models does not end", where="sunspec", want="a model 65535 at the end")


def _marked(read: Read, base: int) -> bool:
    try:
        return tuple(read(base, 2)) == MARK
    except Garbled:
        return False


def name_of(words: Sequence[int]) -> str:
    """Maker and model from a common model's words (its identifier at 0)."""
    return " ".join(part for part in (_text(words[2:18]), _text(words[18:34])) if part)


def _text(words: Sequence[int]) -> str:
    raw = b"".join(word.to_bytes(2, "big") for word in words)
    return raw.split(b"\0")[0].decode("ascii", "replace").strip()


def figures(model: int, words: Sequence[int]) -> tuple[tuple[Channel, float], ...]:
    """The figures of a model from its words (its identifier at 0); NaN where the instrument has none.

    Raises
    ------
    Garbled
        If the words are too few, or a power of ten is beyond reason.
    """
    return tuple((point.channel, _figure(point, words)) for point in MODELS[model])


def _figure(point: RegisterPoint, words: Sequence[int]) -> float:
    if point.offset >= len(words) or (point.scale_at is not None and point.scale_at >= len(words)):
        raise Garbled(f"{len(words)} words", where="sunspec", want=f"at least {point.offset + 1}")
    value = decode(words[point.offset : point.offset + 1], point.kind)
    if point.scale_at is None or math.isnan(value):
        return value * point.factor
    power = decode(words[point.scale_at : point.scale_at + 1], "i16")
    if math.isnan(power):
        return value * point.factor
    if not -10 <= power <= 10:
        raise Garbled(f"a power of ten of {power:g}", where="sunspec", want="-10 to 10")
    return value * 10**power * point.factor
