"""Sources side by side: the lines of their verdicts, what was measured of them, which is enough."""

from .claimed import ClaimedRow, claimed_rows
from .combinations import Combination, CombinationJudged, combinations, judged
from .comparison import ComparedSource, Comparison, compare
from .front import PricedMargin, front
from .handling import HandlingRow, handling_rows
from .ladder import MotorStep, UnitStep, ladder_of_motors, ladder_of_units
from .lines import ComparedLine, LineCell, compared_lines
from .pairs import PairJudged, PairTried, pair_judged, pairs
from .parameters import ComparedParameter, compared_parameters

__all__ = [
    "ClaimedRow",
    "Combination",
    "CombinationJudged",
    "ComparedLine",
    "ComparedParameter",
    "ComparedSource",
    "Comparison",
    "HandlingRow",
    "LineCell",
    "MotorStep",
    "PairJudged",
    "PairTried",
    "PricedMargin",
    "UnitStep",
    "claimed_rows",
    "combinations",
    "compare",
    "compared_lines",
    "compared_parameters",
    "front",
    "handling_rows",
    "judged",
    "ladder_of_motors",
    "ladder_of_units",
    "pair_judged",
    "pairs",
]
