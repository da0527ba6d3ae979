"""Figures as they are typed into a calculator, with what is not known of them."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..errors import MusterError
from ..measures import F_AT_0_C, F_PER_K, FT_M, GALLON_L, LB_KG

FIGURE = re.compile(
    r"^\s*([+−-]?(?:\d+(?:[.,]\d*)?|[.,]\d+))\s*(?:(?:±|\+/?-)\s*(\d+(?:[.,]\d*)?|[.,]\d+)\s*(%)?)?\s*((?:[^\W\d_]|[°%])[^\W\d_/°]{0,6}[²³]?(?:/[^\W\d_]{1,3})?)?\s*$"
)
KILO = 1000.0
IN_M = 0.0254
"""International inch."""
OTHER_UNITS: dict[str, dict[str, float]] = {
    "m": {"cm": 0.01, "mm": 0.001, "km": KILO, "ft": FT_M, "feet": FT_M, "in": IN_M, "yd": 3 * FT_M},
    "L": {"ml": 0.001, "gal": GALLON_L, "gallons": GALLON_L},
    "L/h": {"gal/h": GALLON_L},
    "kg": {"g": 0.001, "lb": LB_KG, "lbs": LB_KG},
    "W": {"kw": KILO},
    "VA": {"kva": KILO},
    "Wh": {"kwh": KILO},
    "A": {"ma": 0.001},
    "V": {"mv": 0.001, "kv": KILO},
    "s": {"ms": 0.001, "min": 60.0, "h": 3600.0},
    "min": {"s": 1 / 60, "h": 60.0},
    "h": {"min": 1 / 60, "d": 24.0},
    "dBA": {"db": 1.0},
}
"""Units that an input may be typed in beside its own, and what one of each is of it."""
FAHRENHEIT = ("°f", "f")


@dataclass(frozen=True)
class Input:
    """A figure with the half-width of what is not known of it."""

    value: float
    u: float = 0.0


def _float(text: str) -> float:
    return float(text.replace(",", ".").replace("−", "-"))


def _in_unit(given: Input, typed: str, unit: str, where: str) -> Input:
    """A figure typed in another unit, in that of the input; a unit that is no such thing is refused, never left out."""
    low = typed.lower().rstrip(".")
    if not unit or not low or low == unit.lower() or low == unit.lower().lstrip("°"):
        return given
    if unit == "°C" and low in FAHRENHEIT:
        return Input((given.value - F_AT_0_C) / F_PER_K, given.u / F_PER_K)
    factor = OTHER_UNITS.get(unit, {}).get(low)
    if factor is None:
        others = OTHER_UNITS.get(unit, {"°F": 1.0} if unit == "°C" else {})
        raise MusterError(f"got “{typed[:12]}”", where=where, want=f"{unit}{''.join(f', {o}' for o in others)}")
    return Input(given.value * factor, given.u * factor)


def read_input(text: str, where: str, *, exact: bool = False, unit: str = "") -> Input:
    """A figure such as ``12.4``, ``12,4 ± 0,2`` or ``230 ±1%``.

    Where nothing is said, half the last digit typed is not known; of an
    ``exact`` figure (a count, a nominal) nothing is. Another unit than the
    input's own ``unit`` may stand after it: ``49 ft`` where metres are asked.

    Raises
    ------
    MusterError
        If it is no figure.
    """
    match = FIGURE.match(text)
    if match is None:
        raise MusterError(f"got “{text.strip()[:30]}”", where=where, want="a figure such as 12.4, or 12.4 ± 0.2")
    value = _float(match[1])
    if match[2] is not None:
        u = _float(match[2])
        return _in_unit(Input(value, abs(value) * u / 100 if match[3] else u), match[4] or "", unit, where)
    decimals = len(re.split(r"[.,]", match[1])[1]) if re.search(r"[.,]", match[1]) else 0
    return _in_unit(Input(value, 0.0 if exact else 0.5 * 10.0**-decimals), match[4] or "", unit, where)


def read_many(text: str, where: str) -> tuple[Input, ...]:
    """Several figures, with blanks or semicolons between.

    Raises
    ------
    MusterError
        If one is no figure, or there is none.
    """
    inputs = tuple(read_input(part, where) for part in re.split(r"[;\s]+", text.strip()) if part)
    if not inputs:
        raise MusterError("nothing given", where=where, want="figures with blanks between")
    return inputs
