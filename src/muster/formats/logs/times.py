"""Times as files write them, turned into seconds since 1970."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from .mapping import TimeForm

DAY_S = 86400.0
YEAR_FIRST = re.compile(
    r"^(?P<y>\d{4})[-/.](?P<m>\d{1,2})[-/.](?P<d>\d{1,2})"
    r"(?:[T ,]+(?P<H>\d{1,2})[:.](?P<M>\d{2})(?:[:.](?P<S>\d{1,2}(?:[.,]\d+)?))?)?\s*(?P<z>Z|UTC|[+-]\d{2}:?\d{2})?$",
    re.I,
)
YEAR_LAST = re.compile(
    r"^(?P<a>\d{1,2})[-/.](?P<b>\d{1,2})[-/.](?P<y>\d{4}|\d{2})"
    r"(?:[T ,]+(?P<H>\d{1,2})[:.](?P<M>\d{2})(?:[:.](?P<S>\d{1,2}(?:[.,]\d+)?))?\s*(?P<p>[ap]\.?m\.?)?)?\s*(?P<z>Z|UTC|[+-]\d{2}:?\d{2})?$",
    re.I,
)
CLOCK = re.compile(
    r"^(?:(?P<D>\d+)[ dT.]+)?(?P<H>\d{1,4}):(?P<M>\d{1,2})(?::(?P<S>\d{1,2}(?:[.,]\d+)?))?\s*(?P<p>[ap]\.?m\.?)?$", re.I
)


@dataclass(frozen=True)
class Clock:
    """What a file's times are read against: the site's zone, and when an elapsed or dateless log began [s since 1970]."""

    zone: ZoneInfo
    began_s: float

    def midnight_s(self) -> float:
        """The midnight before the log began, at the site."""
        local = datetime.fromtimestamp(self.began_s, self.zone)
        return local.replace(hour=0, minute=0, second=0, microsecond=0).timestamp()


def read_time(cell: str, form: TimeForm, clock: Clock) -> tuple[float, bool] | None:
    """Seconds since 1970, and whether the hour stands twice in the site's year; None where it is no such time.

    A local time that stands twice is taken as the earlier; one that never was
    (the hour skipped in spring) is taken as if the clocks had not changed.
    """
    if form in (TimeForm.EPOCH_S, TimeForm.EPOCH_MS, TimeForm.ELAPSED_S):
        return _number(cell, form, clock)
    if form in (TimeForm.CLOCK, TimeForm.ELAPSED_CLOCK):
        seconds = _clock_s(cell)
        if seconds is None:
            return None
        return (clock.midnight_s() if form is TimeForm.CLOCK else clock.began_s) + seconds, False
    match = (YEAR_FIRST if form is TimeForm.ISO else YEAR_LAST).match(cell)
    return _dated(match, form, clock) if match else None


def _number(cell: str, form: TimeForm, clock: Clock) -> tuple[float, bool] | None:
    try:
        value = float(cell.replace(",", "."))
    except ValueError:
        return None
    if not -1e14 < value < 1e14:
        return None
    scale = 1e-3 if form is TimeForm.EPOCH_MS else 1.0
    return value * scale + (clock.began_s if form is TimeForm.ELAPSED_S else 0.0), False


def _clock_s(cell: str) -> float | None:
    match = CLOCK.match(cell)
    if not match:
        return None
    minute, second = int(match["M"]), float((match["S"] or "0").replace(",", "."))
    hour = _hour(int(match["H"]), match["p"])
    if minute > 59 or second >= 61:
        return None
    return int(match["D"] or 0) * DAY_S + hour * 3600 + minute * 60 + second


def _hour(hour: int, half: str | None) -> int:
    return hour if not half else hour % 12 + (12 if half.lower().startswith("p") else 0)


def _dated(match: re.Match[str], form: TimeForm, clock: Clock) -> tuple[float, bool] | None:
    parts = match.groupdict()
    if form is TimeForm.ISO:
        month, day = int(parts["m"]), int(parts["d"])
    else:
        first, second = int(parts["a"]), int(parts["b"])
        day, month = (first, second) if form is TimeForm.DAY_FIRST else (second, first)
    year = int(parts["y"]) + (2000 if len(parts["y"]) == 2 else 0)
    seconds = float((parts["S"] or "0").replace(",", "."))
    try:
        at = datetime(year, month, day, _hour(int(parts["H"] or 0), parts.get("p")), int(parts["M"] or 0))  # noqa: DTZ001
        zone = _zone(parts["z"])
        if zone is not None:
            return (at - zone).replace(tzinfo=UTC).timestamp() + seconds, False
        local = at.replace(tzinfo=clock.zone)
        early, late = local.timestamp(), local.replace(fold=1).timestamp()
        return early + seconds, late > early
    except (ValueError, OverflowError, OSError):
        return None


def _zone(text: str | None) -> timedelta | None:
    if not text:
        return None
    if text.upper() in ("Z", "UTC"):
        return timedelta(0)
    digits = text[1:].replace(":", "")
    offset = timedelta(hours=int(digits[:2]), minutes=int(digits[2:]))
    return -offset if text[0] == "-" else offset
