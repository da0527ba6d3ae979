"""What was understood, said back."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from ...kit import Kit, bound_of
from ...quantities import plain
from ...supply import System
from ..inspection import text_of
from ..model import Event, EventName, Item, Length, LengthOf, LookedAt, Reading, Start, Switch
from ..places import Place, Stat
from .times import MONTHS, When

UNIT_OF = {
    "v": "v",
    "a": "a",
    "w": "w",
    "va": "va",
    "pf": "pf",
    "hz": "hz",
    "dba": "dba",
    "soc_pct": "pct",
    "wh": "wh",
    "fuel_l": "l",
    "temp_c": "c",
    "rpm": "rpm",
    "gap_ms": "ms",
    "water_kg": "kg",
    "heat_s": "s",
    "thd_pct": "pct",
    "clock_s": "s",
}
"""The unit suffix each quantity is written with."""
EVENT_WORDS = {
    "trip": "it tripped",
    "dip": "it dipped",
    "stall": "stalled",
    "held": "start held",
    "code": "code",
    "flicker": "lights flickered",
    "warm": "warm",
    "hold": "hold clock started",
    "reset": "reset, live again",
    "step": "step done",
    "stands": "stands as read: no.",
    "smell": "smell",
    "noise": "odd noise",
    "cautions": "safety checks",
    "pause": "paused",
    "resume": "resumed",
    "full": "full",
    "empty": "empty",
    "refill": "tank filled",
    "burnt": "burnt",
    "through": "output live while charging",
    "cut": "output cut while charging",
    "cut_off": "output off at its cut-off",
    "beep": "beeped",
    "bog": "slowed under load without stopping",
    "back": "came back by itself",
    "adjust": "adjusted",
    "service": "serviced",
    "replug": "plugged back in",
    "fan": "fan",
    "live": "sockets live when off",
    "display": "display",
    "eco": "eco mode",
}
STAT_WORDS = {
    Stat.STEADY: "",
    Stat.LOWEST: "lowest ",
    Stat.HIGHEST: "highest ",
    Stat.BEFORE: "before it ",
    Stat.SETTLED: "settled at ",
    Stat.BACKGROUND: "background ",
}
LENGTH_WORDS = {
    LengthOf.HELD: "for",
    LengthOf.TRIP: "until it tripped:",
    LengthOf.BACK: "until it was back:",
    LengthOf.HEATED: "heated for",
}


def tell(item: Item, names: Mapping[str, str], system: System, kit: Kit | None = None) -> str:
    """Say an item back in words; the instrument only where it is not the usual one."""
    if isinstance(item, Reading):
        return _reading_text(item, system, kit or Kit())
    if isinstance(item, Switch):
        return f"{names.get(item.load, item.load)} {'on' if item.on else 'off'}"
    if isinstance(item, Start):
        how = f"{'hot ' if item.hot else ''}{'eased ' if item.eased else ''}start{' alone' if item.alone else ''}"
        return f"{names.get(item.load, item.load)} {how}"
    if isinstance(item, Length):
        return f"{LENGTH_WORDS[item.of]} {spell_length(item.for_s)}"
    if isinstance(item, Event):
        return event_text(item)
    if isinstance(item, LookedAt):
        return text_of(item)
    return f"note: {item.text}"


def spell_length(seconds: float) -> str:
    """A length of time with every second of it: ``4 min 10 s``, ``2.5 s``."""
    if seconds < 60 or seconds != round(seconds):
        return plain(round(seconds, 3), "s")
    hours, rest = divmod(round(seconds), 3600)
    minutes, left = divmod(rest, 60)
    parts = ((hours, "h"), (minutes, "min"), (left, "s"))
    return " ".join(plain(count, unit) for count, unit in parts if count)


def event_text(event: Event) -> str:
    """An event in words, with its detail."""
    words = EVENT_WORDS.get(event.name, event.name)
    if event.name == "live":
        return words
    if event.name == "cautions":
        return f"{words} {event.detail or 'passed'}"
    return f"{words} {event.detail}".strip()


def tell_when(when: When) -> str:
    """When a line says it was, in words."""
    if when.ago_s is not None:
        return f"{spell_length(when.ago_s)} ago"
    said = []
    if when.day is not None:
        said.append(f"on day {when.day}")
    if when.days_on is not None:
        said.append("the next day" if when.days_on == 1 else f"{when.days_on} days on")
    if when.date is not None:
        year, month, day = when.date
        said.append(f"on {day} {MONTHS[month - 1].title()}" + (f" {year}" if year else ""))
    if when.clock is not None:
        hour, minute, second = when.clock
        said.append(f"at {hour:02d}:{minute:02d}" + (f":{second:02d}" if not when.to_minute else ""))
    return " ".join(said)


def _reading_text(reading: Reading, system: System, kit: Kit) -> str:
    if reading.quantity == "clock_s":
        return f"mains clock {plain(reading.value, 's')} in a minute ({plain(system.hz * reading.value / 60, 'hz')})"
    where = "" if system.legs == 1 and reading.place is Place.LEG1 else reading.place.label
    written = plain(reading.value, UNIT_OF.get(reading.quantity, ""))
    if reading.quantity == "pf":
        written = f"PF {written}"
    if reading.quantity == "water_kg":
        written = f"water {written}"
    if reading.quantity == "thd_pct":
        written = f"THD {written}"
    at = f" at {plain(reading.distance_m, 'm')}" if reading.distance_m is not None else ""
    spot = f"{reading.spot} " if reading.spot else ""
    usual = reading.instrument in ("", kit.usual_for(reading.measured).slug)
    name = kit.instrument_for(reading.measured, reading.instrument).name.removeprefix("the ")
    by = "" if usual else f", by the {name}"
    doubt = "" if reading.believable else " (cannot be: kept, not used)"
    return f"{where} {STAT_WORDS[reading.stat]}{spot}{written}{at}{by}{doubt}".strip()


def slow_meters(items: Sequence[Item], start_s: Mapping[str, float], kit: Kit) -> tuple[str, ...]:
    """What the meters of a logged start must have missed, a phrase each.

    ``start_s`` maps loads to how long their start lasts [s].
    """
    start = next((item for item in items if isinstance(item, Start) and item.load in start_s), None)
    if start is None:
        return ()
    said = []
    for item in items:
        if not isinstance(item, Reading) or item.stat not in (Stat.LOWEST, Stat.HIGHEST):
            continue
        meter = kit.instrument_for(item.measured, item.instrument)
        if bound_of(meter, start_s[start.load], lowest=item.stat is Stat.LOWEST) is not None:
            most = "at most" if item.stat is Stat.LOWEST else "at least"
            figure = plain(item.value, UNIT_OF.get(item.quantity, ""))
            said.append(f"the {meter.name} is slower than this start: {most} {figure}")
    return tuple(said)


def code_meanings(items: Sequence[Item], meaning_of: Callable[[str], str]) -> list[str]:
    """What the booklet says of each code in an entry: ``F7 is: leg over its rating``; codes that are not on its list are left out.

    Parameters
    ----------
    items
        Of the entry.
    meaning_of
        The booklet: a code's meaning, empty where it has none.
    """
    codes = [item.detail for item in items if isinstance(item, Event) and item.name == EventName.CODE]
    words = [word for code in codes for word in code.split()]
    return [f"{word.upper()} is: {meaning}" for word in dict.fromkeys(words) if (meaning := meaning_of(word))]
