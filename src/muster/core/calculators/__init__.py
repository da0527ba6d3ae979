"""The small calculations of the trade, each with its working and its uncertainty."""

from .batteries import BATTERIES
from .engines import ENGINES
from .frame import Calculation, InputSpec, Result, ResultFigure, UncertainResult, answer
from .heat_and_waves import OTHERS
from .sound import SOUND
from .wiring import WIRING

CALCULATIONS = {item.slug: item for item in (*WIRING, *ENGINES, *BATTERIES, *SOUND, *OTHERS)}
TOPICS = tuple(dict.fromkeys(calculation.topic for calculation in CALCULATIONS.values()))

__all__ = ["CALCULATIONS", "TOPICS", "Calculation", "InputSpec", "Result", "ResultFigure", "UncertainResult", "answer"]
