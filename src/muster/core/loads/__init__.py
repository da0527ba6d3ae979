"""Loads: how each kind starts and runs, and an appliance as it sits in this home."""

from .evidence import Basis, LoadFigure
from .kinds import COLD_PICKUP_X, KINDS, MICROWAVE_INPUT_PER_COOKING_W, THD_LIMIT_PCT, Kind, Wave, kind_of
from .load import ALL_DAY, TIERS, Caller, Duty, Load, Tier, Tolerance, Weather, does, short_name, stretches
from .parts import Part, parse_parts, part_words
from .precedence import RankedFigure, known_figures, ranked_figures, settle, with_figures, with_kind, without_figure
from .weather import in_weather

__all__ = [
    "ALL_DAY",
    "COLD_PICKUP_X",
    "KINDS",
    "MICROWAVE_INPUT_PER_COOKING_W",
    "THD_LIMIT_PCT",
    "TIERS",
    "Basis",
    "Caller",
    "Duty",
    "Kind",
    "Load",
    "LoadFigure",
    "Part",
    "RankedFigure",
    "Tier",
    "Tolerance",
    "Wave",
    "Weather",
    "does",
    "in_weather",
    "kind_of",
    "known_figures",
    "parse_parts",
    "part_words",
    "ranked_figures",
    "settle",
    "short_name",
    "stretches",
    "with_figures",
    "with_kind",
    "without_figure",
]
