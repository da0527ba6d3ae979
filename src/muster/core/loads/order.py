"""The order of starts that keeps the highest moment lowest."""

from __future__ import annotations

from collections.abc import Iterable

from .load import Load


def start_order(loads: Iterable[Load]) -> tuple[Load, ...]:
    """Order of starts that keeps the highest moment lowest: by (start − run), largest first.

    Optimal for one scalar quantity, by exchange of neighbours: swapping two
    neighbours that stand the other way round never raises the peak.
    """
    return tuple(sorted(loads, key=lambda load: (load.run_va - load.start_total_va, load.key)))
