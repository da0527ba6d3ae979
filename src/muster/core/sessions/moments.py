"""The moment a jotted line speaks of, from what it says of time and what was jotted before."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from .log_line.times import When

LATE = timedelta(minutes=30)
"""A clock time so little before the entry above it was jotted late; one further back is of the next day."""
SOON = timedelta(minutes=1)
"""Clocks differ by so much."""


def moment_of(
    when: When, *, spoken: datetime, began: datetime, last: datetime, zone: str, written_up: bool
) -> datetime:
    """The moment that a line speaks of.

    Parameters
    ----------
    when : When
        What the line says.
    spoken : datetime
        When it was typed, or the moment a session written up afterwards stands at.
    began, last : datetime
        When the session began, and its latest entry.
    zone : str
        The site's time zone: clock times are of there.
    written_up : bool
        Whether it is written up afterwards: then clock times go on from the entry before, over midnight and on.

    Returns
    -------
    datetime
        It may lie before ``began``: then the session began earlier than it was said to.
    """
    if when.ago_s is not None:
        return max(began, spoken - timedelta(seconds=when.ago_s))
    if not when.said:
        return max(began, spoken)
    local = (last if written_up else spoken).astimezone(ZoneInfo(zone))
    if when.clock is None:
        hour, minute, second = local.hour, local.minute, local.second
    else:
        hour, minute, second = when.clock
    at = local.replace(hour=hour, minute=minute, second=second, microsecond=0)
    if when.day is not None:
        first = began.astimezone(ZoneInfo(zone)).date()
        return _on(at, first + timedelta(days=when.day - 1))
    if when.date is not None:
        return _on(at, _date(when.date, spoken.astimezone(ZoneInfo(zone)).date()))
    if when.days_on is not None:
        return _on(at, last.astimezone(ZoneInfo(zone)).date() + timedelta(days=when.days_on))
    if not written_up:
        return at if at <= local + SOON else at - timedelta(days=1)
    if when.to_minute and at <= last < at + timedelta(minutes=1):
        return last
    return at if at >= last - LATE else at + timedelta(days=1)


def _on(at: datetime, day: date) -> datetime:
    return at.replace(year=day.year, month=day.month, day=day.day)


def _date(said: tuple[int | None, int, int], today: date) -> date:
    """A date without a year is the last one that has been."""
    year, month, day = said
    for guess in (year,) if year else (today.year, today.year - 1, today.year - 2, today.year - 3, today.year - 4):
        try:
            found_day = date(guess, month, day)
        except ValueError:
            continue
        if year or found_day <= today + timedelta(days=1):
            return found_day
    return today
