"""One line that adds a load: ``freezer 130w l2 must 6-22 15/30``."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import cast

from ..errors import MusterError
from ..quantities import plain
from ..shelf import SHELF, ShelfLoad, find_on_shelf
from ..supply import Leg
from . import ALL_DAY, Basis, Caller, Duty, Load, LoadFigure, Tier, kind_of, with_figures
from .evidence import from_code_letter, from_locked_rotor, from_nameplate_amps
from .kinds import UNKNOWN_KIND, hint_in, kind_by_name
from .load import LEAST_PLATE_V, MOST_PLATE_V
from .parts import Part, highest
from .said_parts import parts_said

WATTS = re.compile(r"^(\d+(?:[.,]\d+)?)(kw|w)$")
POWER_FACTOR = re.compile(r"^pf(\d*[.,]?\d+)$|^(0?[.,]\d+)pf$")
START = re.compile(r"^start(\d+(?:[.,]\d+)?)(kva|va|kw|w)$")
START_X = re.compile(r"^start(?:(\d+(?:[.,]\d+)?)-)?(\d+(?:[.,]\d+)?)x$")
START_A = re.compile(r"^start(\d+(?:[.,]\d+)?)a$")
PEAK = re.compile(r"^peak(\d+(?:[.,]\d+)?)(kw|w)$")
HEAT = re.compile(r"^(\d+(?:[.,]\d+)?)(btu|ton)$")
CODE = re.compile(r"^code([a-z])$")
HORSEPOWER = re.compile(r"^(\d+(?:[.,]\d+)?)hp$")
NAMEPLATE_AMPS = re.compile(r"^(\d+(?:[.,]\d+)?)a$")
PLATE_VOLTS = re.compile(r"^plate(\d+(?:[.,]\d+)?)v$")
SPLIT_BELOW_V, BOTH_FROM_X = 150.0, 1.6
"""A leg of fewer volts is one of two; a load rated for so many times its volts sits across both."""
PROGRAM = re.compile(r"^once(\d+(?:[.,]\d+)?)min$")
LRA = re.compile(r"^lra(\d+(?:[.,]\d+)?)a?$")
DUTY = re.compile(r"^(\d+(?:[.,]\d+)?)/(\d+(?:[.,]\d+)?)(?:min)?$")
HOURS = re.compile(r"^\d{1,2}-\d{1,2}(?:,\d{1,2}-\d{1,2})*$")
NUMBER = r"(\d+(?:[.,]\d+)?)"
THOUSANDS = re.compile(r"[1-9]\d{0,2},\d{3}")
AS_SAID: tuple[tuple[re.Pattern[str], str], ...] = tuple(
    (re.compile(words, re.I), said)
    for words, said in (
        (
            rf"\b(?:starts?|starting|surge|inrush)(?: (?:at|with|is|of|said to be))? {NUMBER} ?(?:-|–|to) ?{NUMBER} ?(?:x|times)\b",
            r"start\1-\2x",
        ),
        (rf"\b(?:starts?|starting|surge|inrush)(?: (?:at|with|is|of))? {NUMBER} ?(?:x|times)\b", r"start\1x"),
        (
            rf"\b(?:starts?|starting|surge|inrush)(?: (?:at|with|is|of))? {NUMBER} ?(k?va|k?w|a)(?:mps?)?\b",
            r"start\1\2",
        ),
        (rf"\b{NUMBER} ?(k?va)(?: at(?: the)?)? (?:starts?|starting|start-?up)\b(?! ?\d)", r"start\1\2"),
        (rf"\bpeaks?(?: (?:at|of|to))? {NUMBER} ?(k?w)\b", r"peak\1\2"),
        (rf"\b{NUMBER} ?(k?w) peak\b", r"peak\1\2"),
        (rf"\b{NUMBER} ?(?:tons?|tonnes?)\b", r"\1ton"),
        (rf"\b{NUMBER} ?t(?= (?:air|split|central|mini|ac\b|a/c|heat|cooling|cooler|unit|conditioner))", r"\1ton"),
        (rf"\b{NUMBER} ?btu(?:/h)?(?!\w)", r"\1btu"),
        (rf"\b{NUMBER} (k?w)(?:atts?)?\b", r"\1\2"),
        (rf"\b{NUMBER} ?kilowatts?\b", r"\1kw"),
        (rf"\b{NUMBER} ?watts?\b", r"\1w"),
        (rf"\b{NUMBER} ?(?:amps?|a)\b", r"\1a"),
        (rf"\b{NUMBER} ?hp\b", r"\1hp"),
        (rf"\b(?:(?:name)?plate|rated)(?: (?:at|for|of|says))? ?{NUMBER} ?v(?:olts?)?\b", r"plate\1v"),
        (rf"\b{NUMBER} ?v(?:olts?)? (?:on (?:its|the) |by its )?(?:name)?plate\b", r"plate\1v"),
        (rf"\b(?:pf|power factor) ?{NUMBER}\b", r"pf\1"),
        (rf"\blra ?{NUMBER}(?: ?a)?\b", r"lra\1"),
        (rf"\bonce(?: for)? {NUMBER} ?min(?:utes?)?\b", r"once\1min"),
        (rf"\b{NUMBER} ?min(?:ute)? (?:program(?:me)?|cycle)\b", r"once\1min"),
        (rf"\b(?:a )?(?:program(?:me)?|cycle)(?: (?:of|lasts))? {NUMBER}(?: ?min(?:utes?)?)?(?![\w/-])", r"once\1min"),
        (rf"\b{NUMBER} ?min(?:utes?)? on,? {NUMBER} ?(?:min(?:utes?)? )?off\b", r"\1/\2"),
        (r"\ball day(?: long)?\b|\bround the clock\b|\balways on\b|\b24/7\b|\b24 ?h(?:ours?|rs?)?\b(?! ?\d)", "0-24"),
        (r"\b(?:in the |of an )?mornings?\b", "6-10"),
        (r"\b(?:in the |of an )?evenings?\b", "17-23"),
        (r"\b(?:at |in the |over|by )?nights?\b|\bovernight\b", "22-6"),
        (r"\b(?:in the )?daytime\b|\bby day\b|\bduring the day\b", "8-18"),
        (r"\bmeal ?times?\b", "7-8,12-13,18-19"),
    )
)
"""How people say a figure, and the one word that the line holds it as."""
BARE = re.compile(r"\d{2,5}(?:[.,]\d+)?,?")
COUNTED = frozenset(
    ["l", "litre", "litres", "liter", "liters", "inch", "in", "cm", "mm", "m", "ft", "gal", "gallon", "gallons", "kg"]
)
"""What a number before it counts, and no watts."""
CLOCK_HOURS = re.compile(
    r"\b(?:from |between )?(\d{1,2})(?::00)? ?(am|pm)?(?:h| o'clock)? ?(?:-|–|to|till|until|and) ?(\d{1,2})(?::00)? ?(am|pm|h|o'clock)\b"
    r"|\b(?:from|between) (\d{1,2})(?::00)? (?:to|till|until|and) (\d{1,2})(?::00)?\b",
    re.I,
)
HOURS_LISTED = re.compile(r"(?<![\w.,/-])(?:at (?:hours? )?)?(\d{1,2}(?:, ?\d{1,2}){2,})(?![\w.,/:-]|,? ?\d)")
"""``7,8,18,19``: three hours or more, each of them one in which a load may run; of two it could be a decimal comma."""
TON_W, BTU_W = 3516.85, 0.293071
"""A ton of refrigeration, and a BTU an hour [W of heat]."""
COOLING_COP, HEAT_PUMP_COP = 2.9, 1.9
"""Heat a watt of input: planning figures whose ±25 % covers air conditioners at 2.3 to 4.4 and heat pumps at 1.5
to 4 from below (docs/method/loads.md#planning-figures); grade D."""
BY_HAND_KINDS = (UNKNOWN_KIND, "universal", "welder")
"""Kinds that nobody leaves on all day without saying so."""
MEASURED = frozenset({"measured", "metered"})
"""Words by which watts of a load were read before, and are not those of its nameplate."""
LEGS = {
    "l1": Leg.ONE,
    "leg1": Leg.ONE,
    "l2": Leg.TWO,
    "leg2": Leg.TWO,
    "both": Leg.BOTH,
    "l1+l2": Leg.BOTH,
    "l1/l2": Leg.BOTH,
    "240v": Leg.BOTH,
}


@dataclass(frozen=True)
class LoadEntry:
    """What a line was understood to say: the load, and the sentence that tells it back."""

    load: Load
    understood: str
    shelf: ShelfLoad | None


def _float(text: str) -> float:
    """A number as people write it: ``1,500`` is thousands, ``1,5`` a decimal comma."""
    return float(text.replace(",", "" if THOUSANDS.fullmatch(text) else "."))


def parse_hours(text: str) -> tuple[int, ...]:
    """Hours of the day from ranges such as ``6-9,17-22`` (the end hour not included).

    A range may pass midnight (``22-6``).

    Raises
    ------
    MusterError
        If a range does not lie in 0 to 24.
    """
    hours: set[int] = set()
    for part in text.split(","):
        start, end = (int(x) for x in part.split("-"))
        if start > 23 or end > 24:
            raise MusterError(f"“{part}” is not in the day", where="hours", want="such as 6-22")
        span = range(start, end if end > start else end + 24)
        hours.update(hour % 24 for hour in span)
    return tuple(sorted(hours))


def as_said(line: str) -> str:
    """The line with figures and hours as people say them written as its own words."""
    line = HOURS_LISTED.sub(_listed_hours, CLOCK_HOURS.sub(_hours_word, line))
    for words, said in AS_SAID:
        line = words.sub(said, line)
    return line


def _listed_hours(match: re.Match[str]) -> str:
    """Each hour that a list names, as a range; what is no list of hours of a day stays as it was."""
    hours = [int(hour) for hour in re.split(r"[ ,]+", match[1])]
    if any(hour > 23 for hour in hours) or hours != sorted(set(hours)):
        return match[0]
    return ",".join(f"{hour}-{hour + 1}" for hour in hours)


def _hours_word(match: re.Match[str]) -> str:
    if match[5] is not None:
        return f"{int(match[5])}-{int(match[6])}"
    half = (match[4] or "").lower()
    begin = _hour(int(match[1]), (match[2] or "").lower())
    return f"{begin}-{_hour(int(match[3]), half) or 24}"


def _hour(hour: int, half: str) -> int:
    return hour % 12 + (12 if half == "pm" else 0) if half in ("am", "pm") else hour


def parse_load_line(line: str, key: str, v_nominal: float, own: Iterable[ShelfLoad] = ()) -> LoadEntry:
    """Read a line into a load; what is not said comes from the shelf, else from its kind.

    Words in any order: watts (``130w``, ``1.2kw``), leg (``l1 l2 both``), tier
    (``must should could``, ``test`` for what is there for tests alone), hours (``6-22``), on/off minutes (``15/30``), a
    program (``once45min``), power factor (``pf0.9``), and from the nameplate
    amps (``8.5a``), start (``start900va``), locked-rotor amps (``lra22a``),
    code letter and horsepower (``codeg 1.5hp``), at nominal volts, twice that
    across both legs; ``measured`` where its watts were read before; volts on its own nameplate (``plate 240v``); a start as a multiple (``start 3-7x``: the upper end is
    reckoned with), a peak, heat in ``btu`` or tons; hours and minutes as people
    say them. The rest is the name.

    A name that neither the shelf nor its words explain has no kind, is
    ``should``, and runs at no hour until somebody says when.

    ``own`` are shelf entries of the assessor's, asked first.

    Raises
    ------
    MusterError
        If there is no name, or nothing says how many watts.
    """
    result: dict[str, object] = {}
    line, parts = parts_said(line)
    if parts:
        result |= {"parts": parts, "run_w": highest(parts)}
    named, line = _shelf_name_first(line, own)
    name: list[str] = [named] if named else []
    for token in as_said(line).split():
        low = token.lower().rstrip(",;")  # words set off by commas are words all the same
        if match := WATTS.match(low):
            result["run_w"] = _float(match[1]) * (1000 if match[2] == "kw" else 1)
        elif match := POWER_FACTOR.match(low):
            result["pf"] = _float(match[1] or match[2])
        elif match := START.match(low):
            result["start_va"] = _float(match[1]) * (1000 if match[2].startswith("k") else 1)
        elif match := START_X.match(low):
            result["start_x"], result["start_x_low"] = _float(match[2]), _float(match[1] or match[2])
        elif match := START_A.match(low):
            result["lra_a"] = _float(match[1])
        elif match := PEAK.match(low):
            result["peak_w"] = _float(match[1]) * (1000 if match[2] == "kw" else 1)
        elif match := HEAT.match(low):
            result["heat_w"] = _float(match[1]) * (TON_W if match[2] == "ton" else BTU_W)
        elif match := LRA.match(low):
            result["lra_a"] = _float(match[1])
        elif match := CODE.match(low):
            result["code"] = match[1].upper()
        elif match := HORSEPOWER.match(low):
            result["hp"] = _float(match[1])
        elif match := NAMEPLATE_AMPS.match(low):
            result["nameplate_a"] = _float(match[1])
        elif match := PLATE_VOLTS.match(low):
            # Other volts are of what stands behind an adaptor: they say nothing of the mains.
            if LEAST_PLATE_V <= _float(match[1]) <= MOST_PLATE_V:
                result["plate_v"] = _float(match[1])
        elif match := PROGRAM.match(low):
            result["duty"] = Duty(_float(match[1]), 0.0, Caller.HAND, once=True)
        elif match := DUTY.match(low):
            result["duty"] = Duty(_float(match[1]), _float(match[2]))
        elif HOURS.match(low):
            result["hours"] = parse_hours(low)
        elif low in MEASURED:
            result["measured"] = True
        elif low in LEGS:
            result["leg"] = LEGS[low]
        elif low in set(Tier):
            result["tier"] = Tier(low)
        else:
            name.append(token)
    if not {"run_w", "nameplate_a", "peak_w", "heat_w"} & set(result):
        _take_bare_watts(name, result)
    words = " ".join(name).strip(" ,;")
    if not words:
        raise MusterError("no name in this line", where="line", want="such as “chest freezer 130w l2”")
    shelf = _on_shelf(words, own)
    if "heat_w" in result and "run_w" not in result:
        result["run_w"], result["heat_told"] = _input_of_heat(float(str(result["heat_w"])), words)
    if shelf is None and not {"run_w", "nameplate_a", "peak_w"} & set(result):
        raise MusterError(f"“{words}” is not on the shelf", where="line", want=f"say its watts too: “{words} 300w”")
    load = _load_from(words, key, v_nominal, result, shelf)
    return LoadEntry(load, _read_back(load, shelf, result), shelf)


def _take_bare_watts(name: list[str], result: dict[str, object]) -> None:
    """``toaster 850``: the one bare number after a name is watts, unless what follows says what it counts."""
    bare = [
        index
        for index, token in enumerate(name)
        if index and BARE.fullmatch(token) and " ".join(name[index + 1 : index + 2]).lower() not in COUNTED
    ]
    if len(bare) == 1:
        result["run_w"] = _float(name.pop(bare[0]))


def _shelf_name_first(line: str, own: Iterable[ShelfLoad]) -> tuple[str, str]:
    """A shelf entry's whole name that the line begins with, and the rest: figures in a name are none of the load's."""
    plain_line = " ".join(line.split())
    names = [entry.name for entry in (*own, *SHELF) if f"{plain_line.lower()} ".startswith(f"{entry.name.lower()} ")]
    longest = max(names, key=len, default="")
    return plain_line[: len(longest)], plain_line[len(longest) :]


def _on_shelf(words: str, own: Iterable[ShelfLoad]) -> ShelfLoad | None:
    """The shelf's entry by the whole name: where the name's own words tell another kind more closely, none."""
    shelf = find_on_shelf(words, own)
    hint = hint_in(" ".join(words.lower().split()))
    if shelf is None or hint is None or shelf.kind == hint[1]:
        return shelf
    entry_words = max(
        (len(alias.split()) for alias in (shelf.name, *shelf.also) if alias.lower() in words.lower()), default=1
    )
    return None if len(hint[0].split()) > entry_words else shelf


def _input_of_heat(heat_w: float, words: str) -> tuple[float, str]:
    """Watts drawn for so many watts of heat, and how that was reckoned."""
    low = words.lower()
    cop = HEAT_PUMP_COP if "heat pump" in low else 1.0 if re.search(r"\bheater\b", low) else COOLING_COP
    return round(heat_w / cop), f"{plain(heat_w, 'w')} of heat at a COP of {cop:g}"


def _load_from(words: str, key: str, v_nominal: float, load_found: dict[str, object], shelf: ShelfLoad | None) -> Load:
    """The load: planned from the shelf or its kind, then settled on the best of what the line says."""
    kind = shelf.kind if shelf else kind_by_name(words.lower())
    if kind == UNKNOWN_KIND and "parts" in load_found:
        kind = "furnace"
    leg = Leg(str(load_found.get("leg", _leg_by_volts(v_nominal, load_found))))
    duty, hours = load_found.get("duty"), load_found.get("hours")
    pf = float(str(load_found["pf"])) if "pf" in load_found else shelf.planning_pf if shelf else kind_of(kind).pf
    figures = _figures(load_found, pf, v_nominal * (2 if leg is Leg.BOTH else 1))
    if shelf:
        figures.insert(0, LoadFigure("run_w", shelf.run_w, Basis.SHELF, shelf.name))
    first_w = next(figure.value for figure in figures if figure.quantity == "run_w")
    load = Load(
        key=key,
        name=words,
        kind=kind,
        run_w=first_w,
        pf=pf,
        leg=leg,
        tier=Tier(str(load_found.get("tier", Tier.MUST if shelf else Tier.SHOULD))),
        duty=duty if isinstance(duty, Duty) else shelf.duty if shelf else Duty(),
        hours=hours if isinstance(hours, tuple) else _hours_by_silence(kind, shelf, load_found),
        parts=cast("tuple[Part, ...]", load_found.get("parts", shelf.parts if shelf else ())),
        figures=tuple(figures[:1]),
        plate_v=cast("float | None", load_found.get("plate_v")),
    )
    return with_figures(load, LoadFigure("pf", pf, Basis.NAMEPLATE if "pf" in load_found else Basis.TOLD), *figures[1:])


def _leg_by_volts(v_nominal: float, load_found: Mapping[str, object]) -> Leg:
    """The leg of a load of which none was said: across both where its nameplate says about twice a leg's volts."""
    plate_v = cast("float | None", load_found.get("plate_v"))
    return Leg.BOTH if v_nominal < SPLIT_BELOW_V and (plate_v or 0.0) > BOTH_FROM_X * v_nominal else Leg.ONE


def _hours_by_silence(kind: str, shelf: ShelfLoad | None, load_found: Mapping[str, object]) -> tuple[int, ...]:
    """The hours of a load of which none were said: of a tool, or what nobody knows the kind of, none, unless it must run."""
    if shelf is not None:
        return shelf.hours
    return () if kind in BY_HAND_KINDS and load_found.get("tier") is not Tier.MUST else ALL_DAY


def _figures(result: dict[str, object], pf: float, volts: float) -> list[LoadFigure]:
    """What the line itself says of the load's plate."""
    said = {
        name: float(str(result[name])) for name in ("run_w", "start_va", "lra_a", "hp", "nameplate_a") if name in result
    }
    figures = []
    if "run_w" in said:
        figures.append(LoadFigure("run_w", said["run_w"], Basis.MEASURED if "measured" in result else Basis.NAMEPLATE))
    elif "nameplate_a" in said:
        figures.append(from_nameplate_amps(volts, said["nameplate_a"], pf))
    if "peak_w" in result:
        peak_w, label = float(str(result["peak_w"])), "its peak"
        label += f", {plain(said['run_w'], 'w')} besides" if "run_w" in said else ""
        figures[:] = [LoadFigure("run_w", peak_w, Basis.NAMEPLATE, label)]
    if "start_x" in result and figures:
        times, least = float(str(result["start_x"])), float(str(result["start_x_low"]))
        label = f"said to be {least:g} to {times:g} times" if least != times else f"said to be {times:g} times"
        figures.append(LoadFigure("start_va", times * figures[0].value / pf, Basis.TOLD, label))
    if "start_va" in said:
        # How fast a meter it was read with nobody said: it may have missed some of it.
        figures.append(
            LoadFigure("start_va", said["start_va"], Basis.INDIRECT if "measured" in result else Basis.NAMEPLATE)
        )
    if "lra_a" in said:
        figures.append(from_locked_rotor(volts, said["lra_a"]))
    if "code" in result:
        if "hp" not in said:
            raise MusterError(
                "a code letter without horsepower", where="line", want=f"such as “code{result['code']} 1.5hp”"
            )
        figures.append(from_code_letter(str(result["code"]), said["hp"]))
    return figures


def _read_back(load: Load, shelf: ShelfLoad | None, result: Mapping[str, object]) -> str:
    origin = f"the shelf's {shelf.name}" if shelf else f"taken as {load.kind_figures.label}"
    if load.parts and "parts" in result:
        origin += ", its " + ", ".join(f"{part.name} {plain(part.run_w, 'w')}" for part in load.parts)
    if load.start_unknown:
        origin = "what kind of load it is was not said"
    start = f"start {plain(load.start_total_va, 'va')}"
    if load.start_unknown:
        start = f"start not known, {plain(load.run_va, 'va')} to {plain(load.start_total_va, 'va')}"
    if load.inrush_va is not None:
        start = "no start, an inrush of milliseconds"
    if "start_x" in result and result["start_x_low"] != result["start_x"]:
        low_va = float(str(result["start_x_low"])) * load.run_va
        start = f"start {plain(low_va, 'va')} to {plain(load.start_total_va, 'va')}, the most is reckoned with"
    plate = f" · {plain(load.plate_v, 'v')} on its nameplate" if load.plate_v is not None else ""
    heat = f" ({result['heat_told']})" if "heat_told" in result else ""
    hours = f"{len(load.hours)} h of the day" if load.hours else "hours not said: it runs at none until you do"
    if load.tier is Tier.TEST:
        hours = "no part of what the home needs"
    return (
        f"{load.name}, {origin} · {plain(load.run_w, 'w')}{heat} at PF {load.pf:.2f}{plate} · "
        f"{start} · {load.leg.label} · {load.tier} · {load.duty.label} · {hours}"
    )
