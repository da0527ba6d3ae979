"""What no measurement tells of a source, side by side: the fuels it is rated on, its inputs for panels, its codes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..quantities import plain
from ..sources import Source
from ..sources.nameplate import port_words


@dataclass(frozen=True)
class ClaimedRow:
    """A claim across the sources, in their order: what each says, in parts; none where it says nothing."""

    name: str
    said: tuple[tuple[str, ...], ...]


def claimed_rows(sources: Sequence[Source]) -> tuple[ClaimedRow, ...]:
    """Every claim of the three that any of the sources makes.

    Parameters
    ----------
    sources
        In the order in which they stand.

    Returns
    -------
    tuple of ClaimedRow
        A code with its meaning, as the booklet has it.
    """
    rows = (
        ClaimedRow("Rated by fuel", tuple(_fuels(source) for source in sources)),
        ClaimedRow("Inputs for panels", tuple(tuple(map(port_words, source.claims.pv_ports)) for source in sources)),
        ClaimedRow("Codes of its booklet", tuple(_codes(source) for source in sources)),
    )
    return tuple(row for row in rows if any(row.said))


def _fuels(source: Source) -> tuple[str, ...]:
    return tuple(f"{rating.fuel} {plain(rating.cont_w, 'w')}" for rating in source.claims.on_fuels)


def _codes(source: Source) -> tuple[str, ...]:
    return tuple(f"{code.code} {code.meaning}" for code in source.owning.codes)
