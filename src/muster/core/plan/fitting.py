"""Which protocols fit a source: no governor to set on an inverter, no sharing in a single unit."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from ..sessions.protocols import PROTOCOLS, Protocol
from ..sources import Source, SourceKind
from ..supply import System

WITH_DC = frozenset({SourceKind.INVERTER, SourceKind.HYBRID})
"""Kinds whose DC side a meter can reach."""
FITS: Mapping[str, Callable[[Source, System], bool]] = {
    "idle": lambda source, _: source.kind.has_battery,
    "legs": lambda _, system: system.legs == 2,
    "parallel": lambda source, _: len(source.units) == 2,
    "set_point": lambda source, _: source.kind is SourceKind.OPEN_FRAME,
    "recharge": lambda source, _: source.kind.has_battery,
    "solar_input": lambda source, _: (
        source.kind in (SourceKind.HYBRID, SourceKind.STATION) or bool(source.claims.pv_ports)
    ),
    "cut_offs": lambda source, _: source.kind in WITH_DC,
}
"""What a protocol asks of a source; those that are not here fit every one."""


def fits(protocol: str, source: Source, system: System) -> bool:
    """Whether a protocol, by its slug, tells anything of a source on a supply."""
    asks = FITS.get(protocol)
    return asks is None or asks(source, system)


def fitting(source: Source, system: System) -> tuple[tuple[Protocol, ...], tuple[Protocol, ...]]:
    """The protocols that fit a source, and those that do not, each in the order of work."""
    parted: tuple[list[Protocol], list[Protocol]] = ([], [])
    for slug, protocol in PROTOCOLS.items():
        parted[0 if fits(slug, source, system) else 1].append(protocol)
    return tuple(parted[0]), tuple(parted[1])
