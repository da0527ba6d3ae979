"""The conditions of a test from a few words, and said again: ``at sea level on petrol, 10 °C``."""

from __future__ import annotations

import re
from typing import Any

from ..measures import FAHRENHEIT, FT_M
from .model import Conditions

N = r"([+−-]?\d+(?:[.,]\d+)?)"
BELIEVED = {"altitude_m": (-400.0, 6000.0), "temp_c": (-50.0, 60.0)}
"""Where a test may have stood. [m], [°C]"""
FUELS = {
    "petrol": r"petrol|gasoline|benzine",
    "diesel": r"diesel",
    "propane": r"propane|lpg",
    "natural gas": r"natural gas",
}
"""Fuels by how they are called; their names are those of ``sources.claims``."""
SEA = re.compile(r"\b(?:at )?sea level\b", re.I)
HEIGHT = re.compile(
    rf"(?<![\w.])(?:at )?(?:altitude |height |elevation )?{N} ?(m|ft|feet) (?:up|high|altitude|elevation|above sea(?: level)?)\b"
    rf"|\b(?:altitude|height|elevation) {N} ?(m|ft|feet)\b",
    re.I,
)
AIR = re.compile(rf"(?:\bair (?:at )?)?{N} ?(?:°|deg(?:rees?)? ?)?(c|f)\b(?: (?:air|outside))?", re.I)
FUEL = re.compile(
    r"\b(?:run |running )?on (?:" + "|".join(f"(?P<f{i}>{words})" for i, words in enumerate(FUELS.values())) + r")\b",
    re.I,
)
WARM = re.compile(r"\b(?:warm(?:ed up)?|hot)(?: start)?\b", re.I)
COLD = re.compile(r"\bcold(?: start)?\b", re.I)
ECO = re.compile(r"\beco(?: idle| mode)?(?: on)?\b", re.I)


def _n(text: str) -> float:
    return float(text.replace(",", ".").replace("−", "-"))


def read_conditions(words: str) -> tuple[Conditions, str]:
    """What words say of the conditions, and what they say besides.

    Parameters
    ----------
    words
        Such as the heading of a test in notes.

    Returns
    -------
    tuple
        The conditions, what nobody said None or empty; and the words that are of something else.
    """
    said: dict[str, Any] = {}
    left = words
    for pattern in (SEA, HEIGHT, AIR, FUEL, WARM, COLD, ECO):
        match = pattern.search(left)
        if match is None:
            continue
        meant = _meant(pattern, match)
        if any(not low <= meant.get(name, low) <= high for name, (low, high) in BELIEVED.items()):
            continue
        said |= meant
        left = f"{left[: match.start()]} {left[match.end() :]}"
    return Conditions(**said), re.sub(r"\s+", " ", re.sub(r"(?:\s*,\s*)+", ", ", left)).strip(" ,.")


def _meant(pattern: re.Pattern[str], match: re.Match[str]) -> dict[str, Any]:
    if pattern is SEA:
        return {"altitude_m": 0.0}
    if pattern is HEIGHT:
        value, unit = (match[1], match[2]) if match[1] else (match[3], match[4])
        return {"altitude_m": _n(value) * (FT_M if unit.lower().startswith("f") else 1.0)}
    if pattern is AIR:
        value = _n(match[1])
        return {"temp_c": FAHRENHEIT.si(value) if match[2].lower() == "f" else value}
    if pattern is FUEL:
        return {"fuel": next(fuel for i, fuel in enumerate(FUELS) if match[f"f{i}"])}
    return {WARM: {"warm": True}, ECO: {"eco": True}}.get(pattern, {})


def say_conditions(conditions: Conditions) -> str:
    """Conditions in words that read the same again; empty where nothing is known of them."""
    said = [f"{conditions.altitude_m:.12g} m up"] if conditions.altitude_m is not None else []
    said += [f"{conditions.temp_c:.12g} °C"] if conditions.temp_c is not None else []
    said += [f"on {conditions.fuel}"] if conditions.fuel else []
    said += ["warm"] if conditions.warm else []
    said += ["eco"] if conditions.eco else []
    return ", ".join(said)
