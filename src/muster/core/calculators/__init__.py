"""The small calculations of the trade, each with its working and its uncertainty."""

from .batteries import BATTERIES
from .engines import ENGINES
from .frame import Calculation, InputSpec, Result, ResultFigure, UncertainResult, answer, record_line
from .heat_and_waves import OTHERS
from .known import JobFigures, Known, beside_meter, known_inputs
from .sound import SOUND
from .wiring import WIRING

CALCULATIONS = {item.slug: item for item in (*WIRING, *ENGINES, *BATTERIES, *SOUND, *OTHERS)}
TOPICS = tuple(dict.fromkeys(calculation.topic for calculation in CALCULATIONS.values()))

__all__ = [
    "CALCULATIONS",
    "TOPICS",
    "Calculation",
    "InputSpec",
    "JobFigures",
    "Known",
    "Result",
    "ResultFigure",
    "UncertainResult",
    "answer",
    "beside_meter",
    "known_inputs",
    "record_line",
]
