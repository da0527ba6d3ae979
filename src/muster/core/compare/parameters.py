"""What was measured of several sources, laid beside one another: parameter by parameter."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..character import Character, Parameter
from .ranking import Banded, all_alike

LEAST_SOURCES = 1
"""A parameter is told where so many sources were measured by it."""


@dataclass(frozen=True)
class ComparedParameter:
    """A parameter across the sources, in their order; ``claimed`` what each claims where it was not measured.

    ``alike``: no two of its values can be told apart by what is known of them.
    """

    key: str
    name: str
    measured: tuple[Parameter | None, ...]
    claimed: tuple[Parameter | None, ...]
    alike: bool
    bounds: bool = False
    """Whether all that was read are bounds: what lies beyond them nobody saw, and they cannot be told apart."""


def compared_parameters(characters: Sequence[Character]) -> tuple[ComparedParameter, ...]:
    """Every parameter that any of the sources was measured by, in the order of the first that has it.

    Parameters
    ----------
    characters
        One a source.

    Returns
    -------
    tuple of ComparedParameter
        What only one was measured by stands too: beside it what the others claim, or nothing.
    """
    keys: dict[str, str] = {}
    for character in characters:
        for parameter in character.parameters:
            keys.setdefault(parameter.key, parameter.name)
    return tuple(_parameter(key, name, characters) for key, name in keys.items())


def _parameter(key: str, name: str, characters: Sequence[Character]) -> ComparedParameter:
    measured = tuple(character.by_key.get(key) for character in characters)
    claimed = tuple(next((claim for claim in character.claims if claim.key == key), None) for character in characters)
    bands = [None if parameter is None else Banded(parameter.value.value, *parameter.band) for parameter in measured]
    read = [parameter for parameter in measured if parameter is not None]
    return ComparedParameter(
        key=key,
        name=name,
        measured=measured,
        claimed=claimed,
        alike=all_alike(bands),
        bounds=len(read) > 1 and all(parameter.value.bound is not None for parameter in read),
    )
