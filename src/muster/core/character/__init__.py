"""The character of a source: what was measured and fitted here, with what it rests on, and what it predicts."""

from .character import Character, Parameter
from .fit import Dated, character_of
from .predict import Prediction, predictions

__all__ = ["Character", "Dated", "Parameter", "Prediction", "character_of", "predictions"]
