"""A working re-done as a stranger would, from its printed line alone: every figure is known to half of its last digit."""

from __future__ import annotations

import itertools
import math
import re
from dataclasses import dataclass

NUMBER = re.compile(r"\d+(?:\.\d+)?")
UNIT = re.compile(
    r"(?<=[\d.)]) ?(?:dBA|dB|kWh|Wh|kW|VA|W|V|A|Hz|Ω|K|°C|°F|m|ft|L/h|gal/h|L|gal|kg|min|s|h|ms|points|per kW|J)(?![\w/])"
)
PLAIN = re.compile(r"[\d.+\-*/() ]+")
MOST_FIGURES = 7


def _plain(text: str) -> str:
    """An expression in Python's signs: no thin spaces, no units."""
    text = (
        text.replace("\u202f", " ")
        .replace("\u2212", "-")
        .replace("\u00a0", " ")
        .replace("log10(", "lg(")
        .replace("^", "**")
    )
    text = re.sub(r"(?<=\d) (?=\d{3}(?!\d))", "", text)
    text = re.sub(r"(\d(?:[\d.]*)) ?%", r"(\1/100)", text)
    text = UNIT.sub("", text)
    return text.replace("×", "*").replace("÷", "/").replace("·", "*")


def _spread(text: str) -> list[tuple[float, float]]:
    """Each figure's least and most: it was rounded to its last digit."""
    result = []
    for match in NUMBER.finditer(text):
        digits = match.group()
        half = 0.5 * 10.0 ** -(len(digits.partition(".")[2]))
        if "." not in digits:
            trailing = len(digits) - len(digits.rstrip("0"))
            half *= 10.0 ** min(trailing, max(0, len(digits) - 3))  # 1 200 000 was written to three figures
        result.append((float(digits) - half, float(digits) + half))
    return result


def evaluated(put_in: str) -> tuple[float, float] | None:
    """Least and most that an expression comes to; None where it is no arithmetic."""
    text = _plain(put_in)
    logs = text.replace("lg(", "(")
    if not PLAIN.fullmatch(logs) or not NUMBER.search(text) or not re.search(r"[*/+]|(?<=\d) - ", text):
        return None
    spreads = _spread(text)
    if len(spreads) > MOST_FIGURES:
        return None
    template = NUMBER.sub("{}", text)
    values = []
    for corner in itertools.product(*spreads):
        try:
            values.append(float(eval(template.format(*corner), {"__builtins__": {}}, {"lg": math.log10})))
        except (SyntaxError, ZeroDivisionError, ValueError, TypeError):
            return None
    return min(values), max(values)


@dataclass(frozen=True)
class Printed:
    """Least and most of a result as it is printed, and what the expression's own unit may be of it."""

    low: float
    high: float
    scales: tuple[float, ...]


def shown(result: str) -> Printed | None:
    """A result's first figure as it is printed; None where there is none."""
    text = result.replace("\u202f", " ").replace("\u2212", "-").replace("\u00a0", " ").replace("at least", "").strip()
    text = re.sub(r"(?<=\d) (?=\d{3}(?!\d))", "", text)
    hours = re.match(r"(\d+) h(?: (\d+) min)?(?!\w)", text)
    if hours is not None and "." not in text[: hours.end()]:
        minutes = 60 * int(hours[1]) + int(hours[2] or 0)
        return Printed(minutes - 0.5, minutes + 0.5, (1 / 60, 60.0))  # from seconds, or from hours
    match = re.match(r"([+-]?)(\d+(?:\.\d+)?)(?: ?± ?[\d.]+)? ?(%|min(?!\w))?", text)
    if match is None:
        return None
    ((low, high),) = _spread(match[2])
    sign = -1.0 if match[1] == "-" else 1.0
    low, high = sorted((sign * low, sign * high))
    return Printed(low, high, {"%": (100.0, 1.0), "min": (1 / 60, 1.0)}.get(match[3] or "", (1.0,)))


def wilson_ends(hits: int, draws: int, z: float = 1.959964) -> tuple[float, float]:
    """Ends of a share at 95 % (Wilson 1927), in percent."""
    share, extra = hits / draws, z * z / draws
    middle = (share + extra / 2) / (1 + extra)
    half = z * math.sqrt(share * (1 - share) / draws + extra / (4 * draws)) / (1 + extra)
    return max(0.0, middle - half) * 100, min(1.0, middle + half) * 100


def ends_agree(put_in: str, result: str) -> bool | None:
    """Whether so many of so many come to the ends that are printed; None where the line is not of that kind."""
    counted = re.match(r"(\d+) of (\d+);", put_in)
    ends = re.match(r"([\d.]+) ?% to ([\d.]+) ?%", result.replace("\u202f", " "))
    if counted is None or ends is None:
        return None
    low, high = wilson_ends(int(counted[1]), int(counted[2]))
    return abs(low - float(ends[1])) < 0.0501 and abs(high - float(ends[2])) < 0.0501


def agrees(put_in: str, result: str) -> bool | None:
    """Whether the figures put in come to the result that is printed; None where the line is no arithmetic."""
    counted = ends_agree(put_in, result)
    if counted is not None:
        return counted
    comes_to, printed = evaluated(put_in), shown(result)
    if comes_to is None or printed is None:
        return None
    return any(comes_to[0] * scale <= printed.high and printed.low <= comes_to[1] * scale for scale in printed.scales)
