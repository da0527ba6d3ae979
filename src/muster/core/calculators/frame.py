"""A sum of the trade: what it asks, what it works out, line by line, and how sure that is."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..errors import MusterError, require_between
from ..quantities import Value
from ..working import Working
from .inputs import Given, read_given, read_many

Figures = Mapping[str, Any]
"""By the name of the input: a float, a tuple of floats, or a word chosen."""


@dataclass(frozen=True)
class Asked:
    """An input: its name in the address, its words and unit, and what stands in it first.

    ``choices`` make it a choice of words; ``many`` several figures; ``exact``
    a figure of which nothing is unknown. ``optional`` may be left empty.
    """

    name: str
    words: str
    first: str
    unit: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    many: bool = False
    exact: bool = False
    optional: bool = False
    low: float = -1e7
    high: float = 1e7


@dataclass(frozen=True)
class Result:
    """A figure that came out."""

    key: str
    words: str
    value: float
    unit: str


@dataclass(frozen=True)
class Worked:
    """A sum worked out: its lines, its figures, the sentence, and what to beware of."""

    lines: tuple[Working, ...]
    results: tuple[Result, ...]
    sentence: str
    beware: tuple[str, ...] = ()


@dataclass(frozen=True)
class Sum:
    """A small calculation. ``gives_load`` names the figure that can be given to a load of the roll."""

    slug: str
    title: str
    about: str
    topic: str
    asks: tuple[Asked, ...]
    work: Callable[[Figures], Worked]
    gives_load: str = ""


@dataclass(frozen=True)
class Answer:
    """A sum worked out, each figure with its uncertainty."""

    worked: Worked
    values: tuple[tuple[Result, Value], ...]


def read_inputs(asked: Sequence[Asked], typed: Mapping[str, str]) -> dict[str, Any]:
    """What was typed, as figures with what is not known of them; what was not typed stands as it first does.

    Raises
    ------
    MusterError
        Where something is no figure or no such choice, with the input's name.
    """
    found: dict[str, Any] = {}
    for one in asked:
        text = typed.get(one.name, one.first).strip()
        if one.choices:
            if text not in dict(one.choices):
                raise MusterError(f"got “{text[:30]}”", where=one.name, want=", ".join(key for key, _ in one.choices))
            found[one.name] = text
        elif one.many:
            found[one.name] = read_many(text, one.name)
        elif not text and one.optional:
            found[one.name] = None
        else:
            found[one.name] = read_given(text, one.name, exact=one.exact)
        for given in _each(found[one.name]):
            require_between(given.value, one.low, one.high, one.name)
    return found


def _each(given: Any) -> tuple[Given, ...]:
    if isinstance(given, Given):
        return (given,)
    return given if isinstance(given, tuple) else ()


def _bare(given: Any) -> Any:
    if isinstance(given, Given):
        return given.value
    return tuple(one.value for one in given) if isinstance(given, tuple) else given


def answer(the: Sum, typed: Mapping[str, str]) -> Answer:
    """Work a sum out, and say how far each figure moves with what is not known of the inputs.

    Each input is moved by its half-width alone, up and down; half the
    difference is its share, and the shares are added as squares.

    Raises
    ------
    MusterError
        Where an input does not fit, with its name.

    References
    ----------
    JCGM 100 (GUM), 5.1.2, by numerical sensitivity; inputs taken as independent.
    """
    given = read_inputs(the.asks, typed)
    bare = {name: _bare(value) for name, value in given.items()}
    try:
        worked = the.work(bare)
    except (OverflowError, ZeroDivisionError, ValueError) as error:
        if isinstance(error, MusterError):
            raise
        raise MusterError("these figures do not go together", where=the.slug, want="figures of one thing") from None
    shares = [_moved(the, bare, moves) for moves in _moves(given, bare)]
    values = []
    for result in worked.results:
        u = math.sqrt(sum(share.get(result.key, 0.0) ** 2 for share in shares))
        values.append((result, Value(result.value, result.unit, u if math.isfinite(u) and u > 0 else None)))
    return Answer(worked, tuple(values))


def _moves(given: Mapping[str, Any], bare: Mapping[str, Any]) -> list[tuple[dict[str, Any], dict[str, Any]]]:
    """For each figure that is not wholly known: the inputs with it moved down, and up."""
    pairs = []
    for name, value in given.items():
        for at, one in enumerate(_each(value)):
            if one.u > 0:
                ends = []
                for sign in (-1, 1):
                    moved = one.value + sign * one.u
                    figures = (*bare[name][:at], moved, *bare[name][at + 1 :]) if isinstance(value, tuple) else moved
                    ends.append({**bare, name: figures})
                pairs.append((ends[0], ends[1]))
    return pairs


def _moved(the: Sum, bare: Figures, ends: tuple[dict[str, Any], dict[str, Any]]) -> dict[str, float]:
    """How far each figure moves when one input does; an end that cannot be is left at the middle."""
    found: list[dict[str, float]] = []
    for figures in ends:
        try:
            found.append({r.key: r.value for r in the.work(figures).results})
        except (OverflowError, ZeroDivisionError, ValueError):
            found.append({r.key: r.value for r in the.work(bare).results})
    down, up = found
    return {key: abs(up[key] - down[key]) / 2 for key in up if key in down}
