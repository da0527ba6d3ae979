"""The log line: what a person jots beside a running engine, understood.

``238v 12.4a 2.91kw 59.6hz`` · ``l2 118v 31a`` · ``107v min freezer start`` ·
``72db@7m`` · ``+kettle -heater`` · ``!trip`` · ``@clamp 56.7a max`` ·
``2m ago: 118v`` · ``note: said as it is``. It never refuses: what it can't
read becomes a note.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from ..kit import Kit, bound_of
from ..quantities import duration, plain
from ..supply import System
from .model import Event, Item, Note, Reading, Start, Switch
from .places import Place, Stat

AGO = re.compile(r"^\s*(\d+(?:\.\d+)?)\s*(s|sec|m|min|h)\s+ago\s*:?\s*", re.I)
CLOCK = re.compile(r"^\s*(\d{1,2}):(\d{2})(?::(\d{2}))?\s*([ap]m)?\s*:?\s+", re.I)
CLOCK_COLON = re.compile(r"^\s*(\d{1,2}):(\d{2})(?::(\d{2}))?\s*([ap]m)?\s*:(?!\d\d(?:\s|:|$))\s*", re.I)
OUTPUT = ("out", "output", "load")
"""Words beside a figure that make it one of the source's output, after the DC side or the panels were spoken of."""
NEAR_NOMINAL = 0.25
"""Volts this near nominal, as a share, are the supply's own and not a battery's."""
DISTORTION = ("thd", "distortion")
"""Words beside a percentage that make it no charge."""
NUMBER = re.compile(r"^([+-]?\d+(?:[.,]\d+)?)([a-zµ%°]*)(?:@(\d+(?:[.,]\d+)?)(m|ft)?)?$", re.I)
AT_DISTANCE = re.compile(r"^@(\d+(?:[.,]\d+)?)(m|ft)$", re.I)
NOTE = re.compile(r"^\s*note:\s*", re.I)
FT_M = 0.3048
GALLON_L = 3.785411784

UNITS = {
    "v": ("v", 1.0),
    "kv": ("v", 1e3),
    "volts": ("v", 1.0),
    "volt": ("v", 1.0),
    "a": ("a", 1.0),
    "ma": ("a", 1e-3),
    "amps": ("a", 1.0),
    "amp": ("a", 1.0),
    "w": ("w", 1.0),
    "kw": ("w", 1e3),
    "watts": ("w", 1.0),
    "watt": ("w", 1.0),
    "va": ("va", 1.0),
    "kva": ("va", 1e3),
    "pf": ("pf", 1.0),
    "hz": ("hz", 1.0),
    "hertz": ("hz", 1.0),
    "db": ("dba", 1.0),
    "dba": ("dba", 1.0),
    "%": ("soc_pct", 1.0),
    "wh": ("wh", 1.0),
    "kwh": ("wh", 1e3),
    "l": ("fuel_l", 1.0),
    "litre": ("fuel_l", 1.0),
    "litres": ("fuel_l", 1.0),
    "ml": ("water_kg", 1e-3),
    "gal": ("fuel_l", GALLON_L),
    "c": ("temp_c", 1.0),
    "°c": ("temp_c", 1.0),
    "f": ("temp_c", 5 / 9),
    "°f": ("temp_c", 5 / 9),
    "rpm": ("rpm", 1.0),
    "ms": ("gap_ms", 1.0),
    "kg": ("water_kg", 1.0),
    "s": ("heat_s", 1.0),
    "sec": ("heat_s", 1.0),
}
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
}
"""The unit suffix each quantity is written with."""
ELECTRIC = {"v", "a", "w", "va", "pf"}
PLACES = {
    "l1": Place.LEG1,
    "leg1": Place.LEG1,
    "l2": Place.LEG2,
    "leg2": Place.LEG2,
    "n": Place.NEUTRAL,
    "neutral": Place.NEUTRAL,
    "dc": Place.DC,
    "total": Place.TOTAL,
    "both": Place.TOTAL,
    "ua": Place.UNIT_A,
    "ub": Place.UNIT_B,
    "pv": Place.PANELS,
    "panels": Place.PANELS,
}
STATS = {
    "min": Stat.LOWEST,
    "lowest": Stat.LOWEST,
    "low": Stat.LOWEST,
    "max": Stat.HIGHEST,
    "peak": Stat.HIGHEST,
    "highest": Stat.HIGHEST,
    "before": Stat.BEFORE,
    "settled": Stat.SETTLED,
    "after": Stat.SETTLED,
    "bg": Stat.BACKGROUND,
    "background": Stat.BACKGROUND,
}
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
    "cautions": "cautions read",
    "pause": "paused",
    "resume": "resumed",
    "full": "full",
    "empty": "empty",
    "refill": "tank filled",
    "through": "output live while charging",
    "cut": "output cut while charging",
}
HOW_STARTED = {"hot": "hot", "eased": "eased", "soft": "eased"}
"""Words beside a start that say how it was started."""
EVENT_ALIASES = {
    "tripped": "trip",
    "dipped": "dip",
    "stalled": "stall",
    "started": "held",
    "back": "reset",
    "flickered": "flicker",
    "hot": "warm",
    "paused": "pause",
    "resumed": "resume",
}


@dataclass(frozen=True)
class When:
    """When a jotting says it was: seconds ago, or a clock time of the site; both None for now."""

    ago_s: float | None = None
    clock: tuple[int, int, int] | None = None


@dataclass(frozen=True)
class Jotting:
    """A line understood: its items, when it was, and the understanding told back phrase by phrase."""

    items: tuple[Item, ...]
    when: When = field(default_factory=When)
    told: tuple[str, ...] = ()

    @property
    def sentence(self) -> str:
        """The whole understanding as one line."""
        return " · ".join(self.told)


@dataclass
class _Reader:
    """Walks the words of a line, keeping what was said of place, instrument and stat."""

    words: list[str]
    names: Mapping[str, str]
    system: System
    kit: Kit
    items: list[Item] = field(default_factory=list)
    loose: list[str] = field(default_factory=list)
    place: Place | None = None
    instrument: str = ""
    pending: Stat | None = None
    pending_word: str = ""
    pending_at: int = 0
    after_reading: bool = False
    i: int = 0

    def run(self) -> tuple[Item, ...]:
        while self.i < len(self.words):
            word = self.words[self.i]
            self.i += 1
            was_reading, self.after_reading = self.after_reading, False
            if not self._take(word, was_reading):
                self.loose.append(word)
        self._drop_loose_start()
        if self.pending is not None:
            self.loose.insert(self.pending_at, self.pending_word)
        text = " ".join(self.loose).strip(" ,;·")
        if text:
            self._close_note(text)
        return tuple(self.items)

    def _take(self, word: str, was_reading: bool) -> bool:
        low = word.lower().rstrip(",;")
        return (
            self._take_event(word)
            or self._take_switch(word)
            or self._take_at(low)
            or self._take_number(low)
            or self._take_place(low)
            or self._take_stat(low, was_reading)
            or self._take_start(low)
        )

    def _take_place(self, low: str) -> bool:
        following = self.words[self.i].lower() if self.i < len(self.words) else ""
        if (low == "leg" and following in ("1", "2")) or (low == "unit" and following in ("a", "b")):
            low = ("leg" if low == "leg" else "u") + following
            self.i += 1
        if low in OUTPUT and self._to_output(following):
            return True
        if low not in PLACES:
            return False
        if PLACES[low] is Place.DC and self.place is None:
            self._of_dc_before()
        self.place = PLACES[low]
        return True

    def _to_output(self, following: str) -> bool:
        """``… 109v out`` or ``… out 300w``: of the output again, after the DC side or the panels."""
        if NUMBER.match(following) and self.place is not None and self.place.is_dc:
            self.place = None
            return True
        last = self.items[-1] if self.items else None
        if not isinstance(last, Reading) or last.place is not Place.DC:
            return False
        self.place = None
        self.items[-1] = replace(last, place=self._place_of(last.quantity, last.value))
        return True

    def _of_dc_before(self) -> None:
        """``24.8v dc``: the unit came first. Not where volts of the DC side follow, nor of what is the supply's own volts."""
        last = self.items[-1] if self.items else None
        if not isinstance(last, Reading) or last.quantity != "v":
            return
        nominal = self.system.v_nominal
        if any(abs(last.value - times * nominal) <= NEAR_NOMINAL * nominal for times in (1, 2)):
            return
        following = next((m for word in self.words[self.i :] if (m := NUMBER.match(word.lower().rstrip(",;")))), None)
        if following is not None and UNITS.get(following[2].lower(), ("",))[0] == "v" and not self._said_out():
            return
        self.items[-1] = replace(last, place=Place.DC)

    def _said_out(self) -> bool:
        return any(word.lower().strip(" ,;") in OUTPUT for word in self.words[self.i :])

    def _take_at(self, low: str) -> bool:
        if match := AT_DISTANCE.match(low):
            return self._set_distance(_metres(match[1], match[2]))
        if not low.startswith("@"):
            return False
        instrument_found = self.kit.named(low[1:])
        if instrument_found is None:
            return False
        self.instrument = instrument_found.slug
        return True

    def _set_distance(self, distance_m: float) -> bool:
        last = self.items[-1] if self.items else None
        if not isinstance(last, Reading):
            return False
        self.items[-1] = replace(last, distance_m=distance_m)
        return True

    def _take_number(self, low: str) -> bool:
        match = NUMBER.match(low)
        if not match:
            return False
        text, unit, at, at_unit = match.groups()
        before = self.i
        following = self.words[self.i].lower().rstrip(",;") if self.i < len(self.words) else ""
        if not unit and following in UNITS:
            unit = following
            self.i += 1
        elif not unit and self.loose and self.loose[-1].lower() == "pf":
            unit = self.loose.pop().lower()
        no_heating_time = unit in UNITS and UNITS[unit][0] == "heat_s" and not self._has("water_kg")
        if unit not in UNITS or no_heating_time or (unit == "%" and self._of_distortion()):
            self.i = before  # a note keeps its unit
            return False
        if UNITS[unit][0] in ("fuel_l", "water_kg") and self._of_water() and unit != "ml":
            unit = "kg"
        self.items.append(self._reading(text, unit, _metres(at, at_unit or "m") if at else None))
        self.after_reading = True
        return True

    def _of_water(self) -> bool:
        """Whether litres are of water: as many kilograms, and no fuel."""
        beside = [word.lower().strip(" ,;") for word in self.words[self.i : self.i + 2]]
        if beside[:1] == ["water"] or beside == ["of", "water"]:
            self.i += 1 + beside.index("water")
            return True
        return False

    def _of_distortion(self) -> bool:
        """Whether a percentage is of a waveform: kept as it was said, for it is no charge."""
        beside = [*self.loose[-1:], *self.words[self.i : self.i + 1]]
        return any(word.lower().strip(" ,;:") in DISTORTION for word in beside)

    def _has(self, quantity: str) -> bool:
        """Whether the line already holds such a reading: seconds are a heating time only beside the water heated."""
        return any(isinstance(item, Reading) and item.quantity == quantity for item in self.items)

    def _reading(self, text: str, unit: str, distance_m: float | None) -> Reading:
        quantity, factor = UNITS[unit]
        raw = float(text.replace(",", "."))
        decimals = len(re.split(r"[.,]", text)[1]) if re.search(r"[.,]", text) else 0
        value = (raw - 32) * factor if unit in ("f", "°f") else raw * factor
        reading = Reading(
            quantity=quantity,
            value=round(value, 9),
            place=self._place_of(quantity, value),
            stat=self.pending or Stat.STEADY,
            instrument=self.instrument,
            resolution=round(10**-decimals * abs(factor), 12),
            distance_m=distance_m,
        )
        self.pending = None
        return reading

    def _place_of(self, quantity: str, value: float) -> Place:
        """Where an electrical reading was taken when the line does not say.

        One leg: that leg. Two legs: watts are the total; volts near twice the
        nominal are across both; the rest is leg 1, and is told back as such.
        """
        if quantity not in ELECTRIC:
            return Place.NONE
        if self.system.legs == 1 and self.place in (None, Place.TOTAL):
            return Place.LEG1
        if self.place is not None:
            return self.place
        last = self.items[-1] if self.items else None
        if quantity == "a" and isinstance(last, Reading) and last.quantity == "v":
            return last.place
        if quantity in ("w", "va", "pf"):
            return Place.TOTAL
        return Place.TOTAL if quantity == "v" and value > 1.5 * self.system.v_nominal else Place.LEG1

    def _take_stat(self, low: str, was_reading: bool) -> bool:
        if low not in STATS or (low == "min" and not was_reading and self._after_a_bare_number()):
            return False
        stat, last = STATS[low], self.items[-1] if self.items else None
        if was_reading and isinstance(last, Reading) and last.stat is Stat.STEADY:
            self.items[-1] = replace(last, stat=stat)
        else:
            self.pending, self.pending_word, self.pending_at = stat, self.words[self.i - 1], len(self.loose)
        return True

    def _after_a_bare_number(self) -> bool:
        """``5 min`` is how long: no figure before it has a unit that it could be the lowest of."""
        match = NUMBER.match(self.loose[-1].rstrip(",;")) if self.loose else None
        return match is not None and not match[2]

    def _take_switch(self, word: str) -> bool:
        if len(word) < 2 or word[0] not in "+-" or (NUMBER.match(word) and word[1:] not in self.names):
            return False
        key, used = match_load([word[1:], *self.words[self.i :]], self.names)
        if key is None:
            return False
        self.items.append(Switch(key, on=word[0] == "+"))
        self.i += used - 1
        return True

    def _take_event(self, word: str) -> bool:
        if len(word) < 2 or word[0] != "!":
            return False
        name = re.sub(r"\W", "", word[1:].lower())
        name = EVENT_ALIASES.get(name, name)
        detail: list[str] = []
        while self.i < len(self.words) and self._is_detail(self.words[self.i]):
            detail.append(self.words[self.i])
            self.i += 1
        self.items.append(Event(name or "note", " ".join(detail)))
        return True

    def _is_detail(self, word: str) -> bool:
        match = NUMBER.match(word)
        return word[0] not in "!@+" and not (match and match[2].lower() in UNITS)

    def _take_start(self, low: str) -> bool:
        """``freezer start``: the words before name a load, and it was started."""
        if low not in ("start", "starts", "starting"):
            return False
        for count in range(min(4, len(self.loose)), 0, -1):
            key, used = match_load(self.loose[-count:], self.names)
            if key is not None and used == count:
                del self.loose[-count:]
                said = set()
                while self.loose and self.loose[-1].lower() in HOW_STARTED:
                    said.add(HOW_STARTED[self.loose.pop().lower()])
                self.items.append(Start(key, "hot" in said, "eased" in said))
                return True
        return False

    def _drop_loose_start(self) -> None:
        """``… start hot``: the word after belongs to the start."""
        how = HOW_STARTED.get(self.loose[-1].lower()) if self.loose else None
        for index, item in enumerate(self.items):
            if how is not None and isinstance(item, Start):
                self.items[index] = replace(item, hot=item.hot or how == "hot", eased=item.eased or how == "eased")
                self.loose.pop()
                return

    def _close_note(self, text: str) -> None:
        """Loose words beside a lone temperature, fuel or level say where it was; else they are a note."""
        readings = [item for item in self.items if isinstance(item, Reading)]
        spotted = {"temp_c", "fuel_l", "dba"}
        if len(self.items) == 1 and readings and readings[0].quantity in spotted and len(text) < 40:
            self.items[0] = replace(readings[0], spot="" if text == "fuel" else text)
            return
        self.items.append(Note(text))


def _metres(text: str, unit: str) -> float:
    return float(text.replace(",", ".")) * (FT_M if unit == "ft" else 1.0)


def match_load(words: Sequence[str], names: Mapping[str, str]) -> tuple[str | None, int]:
    """The load that the first words name, and how many words that took.

    ``names`` maps each load's key to its name. A key, a whole name, or a
    run of words that only one name holds (``freezer``) will do; the longest
    match wins; none gives ``(None, 0)``.
    """
    if not words:
        return None, 0
    for count in range(min(4, len(words)), 0, -1):
        said = " ".join(words[:count]).lower().strip(" ,;")
        if count == 1 and said in names:
            return said, 1
        exact = [key for key, name in names.items() if name.lower() == said]
        if len(exact) == 1:
            return exact[0], count
        held = [key for key, name in names.items() if f" {said} " in f" {_bare(name)} "]
        if len(held) == 1:
            return held[0], count
    return None, 0


def _bare(name: str) -> str:
    return " ".join(re.sub(r"[,;()]", " ", name.lower()).split())


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


def read_line(
    line: str,
    names: Mapping[str, str],
    system: System,
    start_s: Mapping[str, float] | None = None,
    kit: Kit | None = None,
) -> Jotting:
    """Understand a jotted line; never refuses.

    ``names`` maps the keys of the roll's loads to their names, ``start_s`` to
    how long their start lasts [s]; with it the telling says what a meter must
    have missed. Each reading names its instrument: the one said, else the
    first of the ``kit`` that reads its quantity.
    """
    kit = kit or Kit()
    when, rest = _read_when(line)
    if match := NOTE.match(rest):
        note = Note(rest[match.end() :].strip() or rest.strip())
        return Jotting((note,), when, (tell(note, names, system, kit),))
    words = re.sub(r"@\s+(?=\d)", "@", rest).split()
    items = tuple(_named_by(item, kit) for item in _Reader(words=words, names=names, system=system, kit=kit).run())
    if not items and line.strip():
        items = (Note(line.strip()),)
    told = (*(tell(item, names, system, kit) for item in items), *slow_meters(items, start_s or {}, kit))
    if when.ago_s is not None:
        told = (f"{duration(when.ago_s)} ago", *told)
    elif when.clock is not None:
        told = (f"at {when.clock[0]:02d}:{when.clock[1]:02d}", *told)
    return Jotting(items, when, told)


def _named_by(item: Item, kit: Kit) -> Item:
    """A reading with its instrument's name on it; anything else as it is."""
    if not isinstance(item, Reading) or item.instrument:
        return item
    return replace(item, instrument=kit.usual_for(item.measured).slug)


def _read_when(line: str) -> tuple[When, str]:
    if match := AGO.match(line):
        unit_s = {"s": 1, "sec": 1, "m": 60, "min": 60, "h": 3600}[match[2].lower()]
        return When(ago_s=float(match[1]) * unit_s), line[match.end() :]
    match = CLOCK_COLON.match(line) or CLOCK.match(line)
    if match and int(match[1]) < 24 and int(match[2]) < 60 and int(match[3] or 0) < 60:
        hour, half = int(match[1]), (match[4] or "").lower()
        hour = hour % 12 + (12 if half == "pm" else 0) if half else hour
        return When(clock=(hour, int(match[2]), int(match[3] or 0))), line[match.end() :]
    return When(), line


STAT_WORDS = {
    Stat.STEADY: "",
    Stat.LOWEST: "lowest ",
    Stat.HIGHEST: "highest ",
    Stat.BEFORE: "before it ",
    Stat.SETTLED: "settled at ",
    Stat.BACKGROUND: "background ",
}


def tell(item: Item, names: Mapping[str, str], system: System, kit: Kit | None = None) -> str:
    """Say an item back in words; the instrument only where it is not the usual one."""
    if isinstance(item, Reading):
        return _reading_text(item, system, kit or Kit())
    if isinstance(item, Switch):
        return f"{names.get(item.load, item.load)} {'on' if item.on else 'off'}"
    if isinstance(item, Start):
        return f"{names.get(item.load, item.load)} {'hot ' if item.hot else ''}{'eased ' if item.eased else ''}start"
    if isinstance(item, Event):
        words = EVENT_WORDS.get(item.name, item.name)
        return f"{words} {item.detail}".strip()
    return f"note: {item.text}"


def _reading_text(reading: Reading, system: System, kit: Kit) -> str:
    where = "" if system.legs == 1 and reading.place is Place.LEG1 else reading.place.label
    written = plain(reading.value, UNIT_OF.get(reading.quantity, ""))
    if reading.quantity == "pf":
        written = f"PF {written}"
    at = f" at {plain(reading.distance_m, 'm')}" if reading.distance_m is not None else ""
    spot = f", {reading.spot}" if reading.spot else ""
    usual = reading.instrument in ("", kit.usual_for(reading.measured).slug)
    name = kit.instrument_for(reading.measured, reading.instrument).name.removeprefix("the ")
    by = "" if usual else f", by the {name}"
    doubt = "" if reading.believable else " (cannot be: kept, not used)"
    return f"{where} {STAT_WORDS[reading.stat]}{written}{at}{spot}{by}{doubt}".strip()
