"""Sources side by side: the lines of their verdicts, what was measured of them, which is enough."""

from .comparison import ComparedSource, Comparison, compare
from .lines import ComparedLine, LineCell, compared_lines
from .parameters import ComparedParameter, compared_parameters

__all__ = [
    "ComparedLine",
    "ComparedParameter",
    "ComparedSource",
    "Comparison",
    "LineCell",
    "compare",
    "compared_lines",
    "compared_parameters",
]
