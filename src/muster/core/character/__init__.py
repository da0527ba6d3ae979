"""The character of a source: what was measured and fitted here, with what it rests on, and what it predicts."""

from .character import Character, Parameter
from .fit import character_given, character_of
from .given import Dated, Given, dated_elsewhere, given_of
from .known_limits import known_limits, started_on
from .predict import Prediction, predictions

__all__ = [
    "Character",
    "Dated",
    "Given",
    "Parameter",
    "Prediction",
    "character_given",
    "character_of",
    "dated_elsewhere",
    "given_of",
    "known_limits",
    "predictions",
    "started_on",
]
