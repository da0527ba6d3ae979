"""A working re-done as a stranger would, from what is printed of it alone: its line, and the rows beneath it.

Every figure is known to half of its last digit; bare whole numbers that formulas are made of are exact.
"""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy.optimize import curve_fit, nnls

from .reading import ReadWorking

NUMBER = re.compile(r"\d+(?:\.\d+)?(?:e[+-]?\d+)?")
UNIT = re.compile(
    r"(?<=[\d.)]) ?(?:dBA|dB|kWh|Wh|kW|VA|W|V|A|Hz|Ω|K|°C|°F|m|ft|L/h|gal/h|L|gal|kg|min|s|h|ms|points|per kW|J)(?![\w/])"
)
PLAIN = re.compile(r"[\d.+\-*/() j,<>=]+")
EXACT = {"0", "1", "2", "10", "100", "1000", "3600"}
"""Bare whole numbers that stand in formulas: no reading, so nothing was rounded."""
MOST_FIGURES = 15


def _digits(text: str) -> str:
    """A text in Python's signs: no thin spaces, thousands joined."""
    text = text.replace("\u202f", " ").replace("\u2212", "-").replace("\u00a0", " ")
    return re.sub(r"(?<=\d) (?=\d{3}(?!\d))", "", text)


def _plain(text: str) -> str:
    """An expression in Python's signs, without units; a figure with a unit is marked, so that it is not exact."""
    text = _digits(text).replace("log10(", "lg(").replace("^", "**").replace("≤", "<=")
    text = re.sub(r"\|([^|]+)\|", r"abs(\1)", text)
    text = re.sub(r"(\d(?:[\d.]*)) ?%", r"(\1/100)", text)
    return UNIT.sub("", text).replace("×", "*").replace("÷", "/").replace("·", "*")


def _spread(digits: str) -> tuple[float, float]:
    """A figure's least and most: it was rounded to its last digit."""
    mantissa, _, power = digits.partition("e")
    half = 0.5 * 10.0 ** -(len(mantissa.partition(".")[2]))
    if "." not in mantissa:
        trailing = len(mantissa) - len(mantissa.rstrip("0"))
        half *= 10.0 ** min(trailing, max(0, len(mantissa) - 3))  # 1 200 000 was written to three figures
    half *= 10.0 ** int(power or 0)
    return float(digits) - half, float(digits) + half


def _ends(digits: str) -> tuple[float, ...]:
    return (float(digits),) if digits in EXACT else _spread(digits)


CALLS: dict[str, Callable[..., float]] = {"lg": math.log10, "abs": abs, "max": max, "min": min}


def evaluated(put_in: str) -> tuple[float, float] | None:
    """Least and most that an expression comes to; None where it is no arithmetic."""
    as_read = re.match(r"([\d.]+)(?: \w+)?, as \w+$", _digits(put_in))
    if as_read is not None:
        return _spread(as_read[1])
    text = _plain(put_in)
    if not PLAIN.fullmatch(re.sub(r"\b(?:lg|abs|max|min)\(", "(", text)) or not re.search(
        r"[*/+<>]|(?<=\d) - |,", text
    ):
        return None
    spreads = [_ends(match) for match in NUMBER.findall(text)]
    if not spreads or len(spreads) > MOST_FIGURES:
        return None
    try:
        code = compile(NUMBER.sub(_Names(), text), "working", "eval")
        values = [
            float(abs(eval(code, {"__builtins__": {}}, _bound(corner))))
            if "j" in text
            else float(eval(code, {"__builtins__": {}}, _bound(corner)))
            for corner in itertools.product(*spreads)
        ]
    except (SyntaxError, ZeroDivisionError, ValueError, TypeError):
        return None
    return min(values), max(values)


class _Names:
    """Puts a name in the place of each number: n0, n1, …; of an imaginary one its name times 1j."""

    def __init__(self) -> None:
        self.count = itertools.count()

    def __call__(self, match: re.Match[str]) -> str:
        name = f"n{next(self.count)}"
        is_imaginary = match.string[match.end() : match.end() + 1] == "j"
        return f"{name}*i" if is_imaginary else name  # the j that follows makes it 1j


def _bound(corner: tuple[float, ...]) -> dict[str, object]:
    return {**CALLS, "ij": 1j, **{f"n{at}": value for at, value in enumerate(corner)}}


@dataclass(frozen=True)
class Printed:
    """Least and most of a result as it is printed, and what the expression's own unit may be of it."""

    low: float
    high: float
    scales: tuple[float, ...]


def shown(result: str) -> Printed | None:
    """A result's first figure as it is printed; None where there is none."""
    text = _digits(result).replace("at least", "").replace("at most", "").replace("taken as", "").strip()
    hours = re.match(r"(\d+) h(?: (\d+) min)?(?!\w)", text)
    if hours is not None and "." not in text[: hours.end()]:
        minutes = 60 * int(hours[1]) + int(hours[2] or 0)
        return Printed(minutes - 0.5, minutes + 0.5, (1 / 60, 60.0))  # from seconds, or from hours
    match = re.match(r"(?:× )?([+-]?)(\d+(?:\.\d+)?)(?: ?± ?[\d.]+)? ?(%|min(?!\w))?", text)
    if match is None:
        return None
    low, high = _spread(match[2])
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
    if re.search(r"[≤>]", put_in):
        return evaluated(put_in.replace("≤", "-").replace(">", "-")) is not None and _holds(put_in)
    if re.search(r"\b(?:yes|no)\b", put_in) and (met := re.match(r"(\d+) of (\d+)$", result)):
        answers = re.findall(r": (yes|no)\b", put_in)
        return (answers.count("yes"), len(answers)) == (int(met[1]), int(met[2]))
    comes_to, printed = evaluated(put_in), shown(result)
    if comes_to is None or printed is None:
        return None
    return any(comes_to[0] * scale <= printed.high and printed.low <= comes_to[1] * scale for scale in printed.scales)


def _holds(put_in: str) -> bool:
    """Whether an inequality holds within the last digits printed."""
    left, sign, right = re.split(r"([≤>])", _digits(put_in))
    low, high = (_spread(NUMBER.findall(part)[0]) for part in (left, right))
    return low[0] <= high[1] if sign == "≤" else low[1] > high[0]


# What is reached from rows


def _line(rows: np.ndarray, of: int) -> list[float]:
    del of
    slope, level = np.polyfit(rows[:, 0], rows[:, 1], 1)
    return [level, slope]


def _decades(rows: np.ndarray, of: int) -> list[float]:
    del of
    return [-float(np.polyfit(np.log10(rows[:, 0]), rows[:, 1], 1)[0])]


def _loss(rows: np.ndarray, of: int) -> list[float]:
    del of
    x = rows[:, 0]
    scale = x.max()
    parts, _ = nnls(np.stack([np.ones_like(x), x / scale, (x / scale) ** 2], axis=1), rows[:, 1])
    return [parts[0], parts[1] / scale, parts[2] / scale**2]


def _highest(rows: np.ndarray, of: int) -> list[float]:
    falling = rows[:, -1]
    assert (np.diff(falling) <= 0).all()
    place = 0.99 * (of - 1)
    above = of - 1 - int(place)  # so many lie above the one just below the percentile
    lower, upper = falling[above], falling[max(0, above - 1)]
    return [lower + (place - int(place)) * (upper - lower)]


def _rise(rows: np.ndarray, of: int) -> list[float]:
    del of
    t, y = rows[:, 0] - rows[0, 0], rows[:, 1]
    guess = (y[0], max(1.0, y[-1] - y[0]), max(t[-1] / 2, 1.0))
    (start, rise, _), _ = curve_fit(lambda x, a, r, tau: a + r * (1 - np.exp(-x / tau)), t, y, guess, maxfev=20_000)
    return [start + rise]


METHODS: dict[str, Callable[[np.ndarray, int], list[float]]] = {
    "line": _line,
    "decades": _decades,
    "loss": _loss,
    "highest": _highest,
    "rise": _rise,
    "root_of_squares": lambda rows, of: [math.sqrt(float((rows[:, -1] ** 2).sum()))],
    "lowest": lambda rows, of: [float(rows[:, -1].min())],
    "mean": lambda rows, of: [float(rows[:, -1].mean())],
    "sum_of_products": lambda rows, of: [float(rows.prod(axis=1).sum())],
}
SLACK = 2e-3
"""Rows are printed to six figures and a fit of them wanders by as much."""


def _near(value: float, digits: str) -> bool:
    low, high = sorted(_spread(digits.lstrip("-")))
    sign = -1 if digits.startswith("-") else 1
    slack = SLACK * abs(value)
    return low - slack <= sign * value <= high + slack


def _back(item: ReadWorking) -> bool:
    """From when on the volts stay within the band that is put in."""
    within, settled = (float(n) for n in re.search(r"within ([\d.]+) of ([\d.]+)", _digits(item.put_in)).groups())  # type: ignore[union-attr]
    away = [at for at, (_, volts) in enumerate(item.rows) if abs(volts - settled) > within]
    back_ms = item.rows[away[-1] + 1][0] if away else 0.0
    return _near(back_ms, re.search(r"\d+", item.result)[0])  # type: ignore[index]


def redone(item: ReadWorking) -> bool | None:
    """Whether a working comes to its result, by its rows or else by its line; None where it says no figure that can be re-done."""
    if item.method == "back":
        return _back(item)
    if not item.method:
        return agrees(item.put_in, item.result)
    values = METHODS[item.method](np.array(item.rows), item.of)
    if item.method == "rise":
        return abs(values[0] - _celsius(item.result)) < 0.6
    printed = re.findall(r"-?\d+(?:\.\d+)?(?:e[+-]?\d+)?", _digits(item.result).replace("+ -", "+ ").replace("p₀", ""))
    scale = 1000.0 if "kWh" in item.result and item.method == "sum_of_products" else 1.0
    return all(_near(value / scale, digits) for value, digits in zip(values, printed, strict=False))


def _celsius(text: str) -> float:
    value = float(re.search(r"[\d.]+", _digits(text))[0])  # type: ignore[index]
    return (value - 32) / 1.8 if "°F" in text else value


def says_a_figure(item: ReadWorking) -> bool:
    """Whether a working says a figure: what is taken by rule, or answered in words alone, is none."""
    return bool(re.search(r"\d", item.result)) and not item.result.startswith("taken as")
