"""Check-ins as a calendar that phones read: iCalendar, an alarm at each."""

from __future__ import annotations

from datetime import UTC, datetime

MOST_LINE = 73
"""Octets a line holds before it is folded, its line end not counted (RFC 5545, 3.1: 75 with what marks a fold)."""


def checkins_ics(title: str, first: datetime, every_s: float, count: int, uid: str, now: datetime) -> bytes:
    """A calendar of ``count`` check-ins from ``first`` on, each with an alarm.

    References
    ----------
    RFC 5545 (iCalendar): VEVENT with RRULE, VALARM.
    """
    lines = [
        "BEGIN:VCALENDAR",
        "VERSION:2.0",
        "PRODID:-//Muster//check-ins//EN",
        "BEGIN:VEVENT",
        f"UID:{uid}",
        f"DTSTAMP:{_stamp(now)}",
        f"DTSTART:{_stamp(first)}",
        "DURATION:PT5M",
        f"RRULE:FREQ=MINUTELY;INTERVAL={max(1, round(every_s / 60))};COUNT={count}",
        f"SUMMARY:{_text(title)}",
        "BEGIN:VALARM",
        "ACTION:DISPLAY",
        "TRIGGER:PT0S",
        f"DESCRIPTION:{_text(title)}",
        "END:VALARM",
        "END:VEVENT",
        "END:VCALENDAR",
    ]
    return "".join(f"{_folded(line)}\r\n" for line in lines).encode()


def _stamp(at: datetime) -> str:
    return at.astimezone(UTC).strftime("%Y%m%dT%H%M%SZ")


def _text(words: str) -> str:
    """Text with what means something escaped (RFC 5545, 3.3.11)."""
    for mark in ("\\", ";", ","):
        words = words.replace(mark, f"\\{mark}")
    return words.replace("\n", "\\n")


def _folded(line: str) -> str:
    """A line folded so that no piece is longer than the standard allows, counted in octets."""
    pieces, piece = [], ""
    for letter in line:
        if len((piece + letter).encode()) > MOST_LINE:
            pieces.append(piece)
            piece = ""
        piece += letter
    return "\r\n ".join([*pieces, piece])
