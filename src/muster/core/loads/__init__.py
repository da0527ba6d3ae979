"""Loads: how each kind starts and runs, and an appliance as it sits in this home."""

from .best import Stood, known_figures, settle, stood_on, with_figures, without_figure
from .evidence import Basis, LoadFigure
from .kinds import COLD_PICKUP_X, KINDS, MICROWAVE_INPUT_PER_COOKING_W, THD_LIMIT_PCT, Kind, Wave, kind_of
from .load import ALL_DAY, TIERS, Caller, Duty, Load, Stands, Tier, Weather, short_name, stretches
from .order import Order, best_order, start_order
from .parts import Part, parse_parts, part_words
from .weather import in_weather

__all__ = [
    "ALL_DAY", "COLD_PICKUP_X", "KINDS", "MICROWAVE_INPUT_PER_COOKING_W", "THD_LIMIT_PCT", "TIERS", "Basis", "Caller", "Duty",
    "Kind", "Load", "LoadFigure", "Order", "Part", "Stands", "Stood", "Tier", "Wave", "Weather", "best_order", "in_weather", "kind_of", "known_figures",
    "parse_parts", "part_words", "settle", "short_name", "start_order", "stood_on", "stretches", "with_figures",
    "without_figure",
]  # fmt: skip
