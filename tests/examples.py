"""How many examples a generated test takes: few and always the same in ``make test``, many and new ones in ``make prove``."""

from __future__ import annotations

import os

PROVING = os.environ.get("MUSTER_PROVE") == "1"
PROVE_X = 5
LEAST = 4


def examples(count: int) -> int:
    """Half so many examples in ``make test``, four at the least; five times so many in ``make prove``."""
    return count * PROVE_X if PROVING else max(LEAST, count // 2)
