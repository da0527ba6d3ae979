"""A calculator: its inputs, its working line by line, its result, and how sure that is."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..errors import MusterError, require_between
from ..measures import UnitScale, scale_of
from ..quantities import UNIT_WORDS, Value
from ..working import Working
from .inputs import Input, read_input, read_many

Choices = tuple[tuple[str, str], ...]
Figures = Mapping[str, Any]
"""By the name of the input: a float, a tuple of floats, or a word chosen."""


@dataclass(frozen=True)
class InputSpec:
    """An input: its name in the address, its words and unit, and what stands in it first.

    ``among`` makes it a choice of words; ``many`` several figures; ``exact``
    a figure of which nothing is unknown. ``optional`` may be left empty.
    """

    name: str
    label: str
    first: str
    unit: str = ""
    among: Choices | Callable[[], Choices] = ()
    many: bool = False
    exact: bool = False
    optional: bool = False
    low: float = -1e7
    high: float = 1e7

    @property
    def units(self) -> str:
        """What a figure is in where no unit is typed, and the job's own unit where that is another."""
        return f"{self.unit}, or say {self.scale.label}" if self.scale else self.unit

    @property
    def scale(self) -> UnitScale | None:
        """How the job shows the unit, None if as it is."""
        return scale_of(next((suffix for suffix, word in UNIT_WORDS.items() if word == self.unit), ""))

    @property
    def choices(self) -> Choices:
        """What may be chosen, each with its words, in the order of the job's units; empty where a figure is typed."""
        return self.among() if callable(self.among) else self.among


@dataclass(frozen=True)
class ResultFigure:
    """A figure that came out."""

    key: str
    label: str
    value: float
    unit: str


@dataclass(frozen=True)
class Result:
    """The result of a calculation: its lines, its figures, the sentence, and what to beware of."""

    lines: tuple[Working, ...]
    results: tuple[ResultFigure, ...]
    sentence: str
    beware: tuple[str, ...] = ()


@dataclass(frozen=True)
class Calculation:
    """A small calculation.

    ``gives_load`` names the figure that can be given to a load; ``as_line``
    says its inputs as the line of a record that reads the same, None where
    there is none and its sentence is kept as a note.
    """

    slug: str
    title: str
    about: str
    topic: str
    inputs: tuple[InputSpec, ...]
    work: Callable[[Figures], Result]
    gives_load: str = ""
    as_line: Callable[[Figures], str] | None = None


@dataclass(frozen=True)
class UncertainResult:
    """A result, each figure with its uncertainty, and the figures that it was worked out from."""

    result: Result
    values: tuple[tuple[ResultFigure, Value], ...]
    figures: Figures = field(default_factory=dict)

    def value_of(self, key: str) -> Value | None:
        """A figure by its key, None if the calculation has no such."""
        return next((value for figure, value in self.values if figure.key == key), None)


def record_line(calculation: Calculation, answered: UncertainResult) -> str:
    """A calculation as a line of a session's record: as what was read where the log line knows it, else as a note with its working."""
    if calculation.as_line is not None:
        return calculation.as_line(answered.figures)
    working = "; ".join(f"{line.formula}: {line.put_in} = {line.result}" for line in answered.result.lines)
    return f"note: {calculation.title}: {answered.result.sentence} ({working})"


def read_inputs(specs: Sequence[InputSpec], typed: Mapping[str, str]) -> dict[str, Any]:
    """What was typed, as figures with what is not known of them; what was not typed stands as it first does.

    Raises
    ------
    MusterError
        Where something is no figure or no such choice, with the input's name.
    """
    inputs: dict[str, Any] = {}
    for spec in specs:
        text = typed.get(spec.name, spec.first).strip()
        if spec.choices:
            if text not in dict(spec.choices):
                raise MusterError(f"got “{text[:30]}”", where=spec.name, want=", ".join(key for key, _ in spec.choices))
            inputs[spec.name] = text
        elif spec.many:
            inputs[spec.name] = read_many(text, spec.name)
        elif not text and spec.optional:
            inputs[spec.name] = None
        else:
            inputs[spec.name] = read_input(text, spec.name, exact=spec.exact, unit=spec.unit)
        for figure in _each(inputs[spec.name]):
            require_between(figure.value, spec.low, spec.high, spec.name)
    return inputs


def _each(value: Any) -> tuple[Input, ...]:
    if isinstance(value, Input):
        return (value,)
    return value if isinstance(value, tuple) else ()


def _bare(value: Any) -> Any:
    if isinstance(value, Input):
        return value.value
    return tuple(figure.value for figure in value) if isinstance(value, tuple) else value


def answer(calculation: Calculation, typed: Mapping[str, str]) -> UncertainResult:
    """Work a calculation out, and say how far each figure moves with what is not known of the inputs.

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
    inputs = read_inputs(calculation.inputs, typed)
    bare = {name: _bare(value) for name, value in inputs.items()}
    try:
        result = calculation.work(bare)
    except (OverflowError, ZeroDivisionError, ValueError) as error:
        if isinstance(error, MusterError):
            raise
        raise MusterError(
            "these figures do not go together", where=calculation.slug, want="figures of one thing"
        ) from None
    shares = [_moved(calculation, bare, moves) for moves in _moves(inputs, bare)]
    values = []
    for figure in result.results:
        u = math.sqrt(sum(share.get(figure.key, 0.0) ** 2 for share in shares))
        values.append((figure, Value(figure.value, figure.unit, u if math.isfinite(u) and u > 0 else None)))
    return UncertainResult(result, tuple(values), bare)


def _moves(inputs: Mapping[str, Any], bare: Mapping[str, Any]) -> list[tuple[dict[str, Any], dict[str, Any]]]:
    """For each figure that is not wholly known: the inputs with it moved down, and up."""
    pairs = []
    for name, value in inputs.items():
        for at, item in enumerate(_each(value)):
            if item.u > 0:
                ends = []
                for sign in (-1, 1):
                    moved = item.value + sign * item.u
                    figures = (*bare[name][:at], moved, *bare[name][at + 1 :]) if isinstance(value, tuple) else moved
                    ends.append({**bare, name: figures})
                pairs.append((ends[0], ends[1]))
    return pairs


def _moved(calculation: Calculation, bare: Figures, ends: tuple[dict[str, Any], dict[str, Any]]) -> dict[str, float]:
    """How far each figure moves when one input does; an end that cannot be is left at the middle."""
    result: list[dict[str, float]] = []
    for figures in ends:
        try:
            result.append({r.key: r.value for r in calculation.work(figures).results})
        except (OverflowError, ZeroDivisionError, ValueError):
            result.append({r.key: r.value for r in calculation.work(bare).results})
    down, up = result
    return {key: abs(up[key] - down[key]) / 2 for key in up if key in down}
