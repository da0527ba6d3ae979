"""One line that describes a source: ``battery station 2kWh 1800W surge 3600W 5s LFP pv 2x 12-60V 20A charge 1.2kW 25kg``."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ..errors import MusterError
from ..loads import Wave
from ..measures import FT_M, GALLON_L, LB_KG
from ..quantities import plain
from ..trade.leads import lead_named
from .claims import Chemistry, Claims, FaultCode, FuelRating, Owning, PvPort, Source, SourceKind, Wires
from .panels import Panels, panels_in, panels_words

KINDS: tuple[tuple[str, SourceKind], ...] = (
    (r"(?:portable )?(?:battery|power) (?:station|box|bank)s?|solar generators?|stations?", SourceKind.STATION),
    (r"hybrid(?: inverter)?s?", SourceKind.HYBRID),
    (r"inverter[ -](?:generator|set|genny|genset|gen|type)s?|(?:quiet|suitcase) (?:set|generator)s?", SourceKind.INVERTER_SET),
    (r"open[- ]frame(?: (?:generator|set|genny))?s?|generators?|gennys?|gensets?|gen(?= \d)|engine sets?|(?:petrol|diesel|propane|gas) sets?", SourceKind.OPEN_FRAME),
    (r"inverters?", SourceKind.INVERTER),
)  # fmt: skip
"""Words for a kind of source; the first that stands in the line counts."""
FUELS = {"petrol": "petrol", "gasoline": "petrol", "benzine": "petrol", "gas": "petrol", "diesel": "diesel"} | {
    "propane": "propane", "lpg": "propane", "natural gas": "natural gas",
}  # fmt: skip
FUEL = "|".join(sorted(FUELS, key=len, reverse=True))
CHEMISTRIES = {
    r"lfp|life ?po4|lithium iron(?: phosphate)?": Chemistry.LFP,
    r"nmc|li-?ion|lithium(?:-ion)?(?! iron)": Chemistry.NMC,
    r"lead(?:[- ]acid)?|agm|gel|flooded|vrla": Chemistry.LEAD,
}
USUAL_BATTERY_V = 12.0
"""A battery of so many Ah whose volts nobody said."""
LONGEST_PLATE = 2000
STATION_W_PER_WH, LEAST_STATION_W = 0.8, 100.0
"""What a battery station gives of its Wh where its watts are not said: the low end of the kind, grade D."""
PLANNED = re.compile(r"\b(?:planning|reference|shelf) figures\b", re.I)
"""Said of a source whose nameplate nobody has read."""
N = r"(\d+(?:[.,]\d+)?)"
PER_HOUR = rf"{N} ?(l|lit(?:re|er)s?|gal(?:lon)?s?) ?(?:/|per|an|a) ?h(?:our|r)?\b"
WATTS = rf"{N} ?(k?)(?:w|va)(?:atts?)?(?!h)\b"


def _n(text: str) -> float:
    """A number as people write it: ``1,300`` is thousands, ``1,5`` a decimal comma."""
    if re.fullmatch(r"\d{1,3}(?:,\d{3})+(?:\.\d+)?", text):
        return float(text.replace(",", ""))
    return float(text.replace(",", "."))


def _w(match: re.Match[str], at: int = 1) -> float:
    return _n(match[at]) * (1000 if match[at + 1] else 1)


@dataclass
class _Said:
    """What has been understood of a line so far."""

    claims: dict[str, Any] = field(default_factory=dict)
    wires: dict[str, Any] = field(default_factory=dict)
    owning: dict[str, Any] = field(default_factory=dict)
    told: list[str] = field(default_factory=list)
    batteries: int = 1
    panels: tuple[Panels, ...] = ()


Put = Callable[[_Said, re.Match[str]], None]


def _claim(name: str, factor: float = 1.0) -> Put:
    return lambda plate, match: plate.claims.__setitem__(name, _n(match[1]) * factor)


def _claim_w(name: str) -> Put:
    return lambda plate, match: plate.claims.__setitem__(name, _w(match))


def _own(name: str, factor: float = 1.0) -> Put:
    return lambda plate, match: plate.owning.__setitem__(name, _n(match[1]) * factor)


def _surge(plate: _Said, match: re.Match[str]) -> None:
    plate.claims["surge_w"] = _w(match)
    if match[3]:
        plate.claims["surge_s"] = _n(match[3])


def _on_fuel(plate: _Said, match: re.Match[str]) -> None:
    groups = match.groupdict()
    fuel = FUELS[groups["fuel"].lower()]
    cont_w = _n(groups["n"]) * (1000 if groups["k"] else 1)
    ratings = [kept for kept in plate.claims.get("on_fuels", ()) if kept.fuel != fuel]
    plate.claims["on_fuels"] = (*ratings, FuelRating(fuel, cont_w))


def _battery_amps(plate: _Said, match: re.Match[str]) -> None:
    plate.claims["battery_a"] = _n(match[1])
    if match[2]:
        plate.claims["battery_surge_a"] = _n(match[2])
        plate.claims["battery_surge_s"] = _n(match[3]) if match[3] else None


def _per_hour(name: str) -> Put:
    def put(plate: _Said, match: re.Match[str]) -> None:
        value, unit = (match[1], match[2]) if match[1] else (match[3], match[4])
        plate.claims[name] = _n(value) * (GALLON_L if unit.lower().startswith("g") else 1.0)

    return put


def _amp_hours(plate: _Said, match: re.Match[str]) -> None:
    count = match[1] or ""
    plate.batteries = {"two ": 2, "three ": 3, "four ": 4, "": 1}.get(count) or int(re.match(r"\d+", count)[0])  # type: ignore[index]
    plate.claims["battery_ah"] = _n(match[2])


def _panels(plate: _Said, match: re.Match[str]) -> None:
    groups = match.groupdict()
    words = {"two": 2, "three": 3, "four": 4}
    count = words.get(groups["count"] or "") or int(groups["count"] or 1)
    amps, watts = groups["a"], groups["w"]
    port = PvPort(
        low_v=_n(groups["low"]) if groups["low"] else None,
        high_v=_n(groups["high"]) if groups["high"] else None,
        most_a=_n(amps) if amps else None,
        most_w=_n(watts) * (1000 if groups["wk"] else 1) if watts else None,
    )
    plate.claims["pv_ports"] = (port,) * count


def _lead(prefix: str) -> Put:
    def put(plate: _Said, match: re.Match[str]) -> None:
        groups = match.groupdict()
        size, is_awg = groups["size"].replace(",", "."), groups["unit"].lower().startswith(("awg", "ga"))
        table = {("", True): "cord_awg", ("", False): "cord_mm2", ("dc_", True): "free_75", ("dc_", False): "free_mm2"}
        plate.wires[f"{prefix}lead"] = f"{table[prefix, is_awg]}:{size.removesuffix('.0')}"
        if groups["m"]:
            plate.wires[f"{prefix}lead_m"] = _n(groups["m"]) * (FT_M if groups["mu"].startswith("f") else 1.0)
        if prefix and groups.get("pairs"):
            plate.wires["dc_leads"] = {"two": 2, "three": 3}.get(groups["pairs"]) or int(groups["pairs"])

    return put


def _codes(plate: _Said, match: re.Match[str]) -> None:
    listed = re.findall(r"([a-z]{1,3}-?\d{1,3})\s*(?:=|:|\s)\s*([^,;]+)", match[1], re.I)
    plate.owning["codes"] = tuple(FaultCode(code.upper(), meaning.strip()) for code, meaning in listed)


def _wave(wave: Wave) -> Put:
    return lambda plate, _: plate.claims.__setitem__("wave", wave)


def _bare(name: str) -> Put:
    """``surge 4.6``, ``running 3600``: in kilowatts where so few watts would be none."""

    def put(plate: _Said, match: re.Match[str]) -> None:
        value = _n(match[1])
        plate.claims.setdefault(name, value * 1000 if match[2] or value < LEAST_BARE_W else value)

    return put


def _two_bare(first: str, other: str) -> Put:
    """``7500 running 9500 peak``: each figure before its word."""

    def put(plate: _Said, match: re.Match[str]) -> None:
        plate.claims[first], plate.claims[other] = _n(match[1]), _n(match[2])

    return put


def _plain_surge(plate: _Said, match: re.Match[str]) -> None:
    """``3500 surge``: watts left out."""
    plate.claims.setdefault("surge_w", _n(match[1]))


def _bare_tank(plate: _Said, match: re.Match[str]) -> None:
    """``petrol, 6.5 gal``: what its tank holds."""
    plate.claims.setdefault("tank_l", _n(match[1]) * (GALLON_L if match[2].lower().startswith("g") else 1.0))


def _both_loads(plate: _Said, match: re.Match[str]) -> None:
    """``2.1 l/h at full and 1.3 at half``."""
    litres = GALLON_L if match[2].lower().startswith("g") else 1.0
    first, other = ("full", "half") if match["first"].lower() == "full" else ("half", "full")
    plate.claims[f"{first}_load_lph"] = _n(match[1]) * litres
    plate.claims[f"{other}_load_lph"] = _n(match[4]) * litres


LEG_V = 120.0
"""Volts of a leg where a source has two."""
LEAST_BARE_W = 100.0
BARE = rf"{N} ?(k?)(?= ?$| ?[,;/]| [a-z\d])(?! ?(?:v\w*|a\w*|s|sec\w*|h\w*|min\w*|l\w*|gal\w*|db\w*|kg|kwh|wh|w\w*|ms|%|x)(?!\w))"
"""A power with its watts left out."""
OTHER_UNIT = r"(?:k?wh|ah|v|hz|l|gal|lbs?|kg|db\w*)\b"
"""What a figure behind ``2400 w surge`` is no surge of."""
PLAIN_W = r"(\d{3,5}|\d{1,2},\d{3})(?: ?w(?:atts?)?)?"
"""Watts as a plate has them, the word left out perhaps."""
SECONDS = rf"(?:,? ?(?:for )?{N} ?s(?:ec(?:onds?)?)?\b)?"
PHRASES: tuple[tuple[str, Put], ...] = (
    (r"codes?:? (.+)$", _codes),
    (rf"(?:surge|peak|starting|start|max(?:imum)?)(?: of| is)? {WATTS}{SECONDS}", _surge),
    (rf"{WATTS} (?:surge|peak|starting|max(?:imum)?)\b(?! (?:\d{{3,}}\b|\d\.\d)(?!\d* ?{OTHER_UNIT}))(?! \d+(?:[.,]\d+)? ?k?w(?!h)){SECONDS}", _surge),
    (rf"(?:ups(?: mode)?|switch(?:es)? ?over|change-?over)(?: in| time)?:? ?[<≤~]? ?{N} ?ms\b|[<≤] ?{N} ?ms(?: ups| switch-?over| change-?over)?\b", lambda plate, m: plate.claims.__setitem__("transfer_ms", _n(m[1] or m[2]))),
    (rf"{WATTS} (?:for )?{N} ?s(?:ec(?:onds?)?)?\b", _surge),
    (rf"(?:running|rated|continuous|cont)(?: of| is)? {PLAIN_W}[,/ ]*(?:and )?(?:peak|surge|starting|start|max)(?: of| is)? {PLAIN_W}(?! ?k)\b", _two_bare("cont_w", "surge_w")),
    (rf"{PLAIN_W} ?(?:running|run|rated|continuous|cont)\b[,/ ]*(?:and )?{PLAIN_W} ?(?:peak|surge|starting|start|max)\b", _two_bare("cont_w", "surge_w")),
    (rf"{PLAIN_W} ?(?:peak|surge|starting|start|max)\b[,/ ]*(?:and )?{PLAIN_W} ?(?:running|run|rated|continuous|cont)\b", _two_bare("surge_w", "cont_w")),
    (rf"{PLAIN_W} (?:surge|peak)(?= ?$| ?[,;/])", _plain_surge),
    (rf"(?:surge|peak|starting)(?: of| is)? {BARE}", _bare("surge_w")),
    (rf"(?:running|rated|continuous|cont)(?: of| is)? {BARE}", _bare("cont_w")),
    (r"(?P<count>\d|two|three|four) ?x? ?(?:pv|solar|panel|mppt) (?:inputs?|ports?):? (?P<low>\d+(?:[.,]\d+)?) ?v? ?(?:-|–|to) ?(?P<high>\d+(?:[.,]\d+)?) ?v\b(?:,? ?(?P<a>\d+(?:[.,]\d+)?) ?a\b(?: each)?)?(?:,? ?(?P<w>\d+(?:[.,]\d+)?) ?(?P<wk>k?)w\b(?: each)?)?", _panels),
    (r"(?:pv|solar|panels?|mppt)(?: inputs?| ports?)?:? (?:(?P<count>\d|two|three|four) ?(?:x ?|inputs? ?|ports? ?|of )+)?(?P<low>\d+(?:[.,]\d+)?) ?v? ?(?:-|–|to) ?(?P<high>\d+(?:[.,]\d+)?) ?v\b(?:,? ?(?P<a>\d+(?:[.,]\d+)?) ?a\b(?: each)?)?(?:,? ?(?P<w>\d+(?:[.,]\d+)?) ?(?P<wk>k?)w\b(?: each)?)?", _panels),
    (r"(?:pv|solar|panels?|mppt)(?: inputs?| ports?)?:?(?P<count>)(?P<low>)(?P<high>)(?P<a>) (?:up to )?(?P<w>\d+(?:[.,]\d+)?) ?(?P<wk>k?)w\b", _panels),
    (rf"(?:charg(?:es?|ing|er)|recharges?)(?: at| from the mains| input)* {WATTS}", _claim_w("charge_w")),
    (rf"(?:charg(?:es?|ing|ed)|recharges?|full)(?: in| time)+ {N} ?h(?:ours?|rs?)?\b", _claim("charge_h")),
    (rf"(?:each leg|per leg|leg) {WATTS}|{WATTS} (?:a|per|each) leg", lambda plate, m: plate.claims.__setitem__("per_leg_w", _w(m, 1) if m[1] else _w(m, 3))),
    (rf"{N} ?a(?:mps?)? (?:a|per|each) leg", _claim("per_leg_w", LEG_V)),
    (rf"(?:without sun|battery only|from (?:the )?battery) {WATTS}", _claim_w("battery_only_w")),
    (rf"idle(?: draw)?(?: of| is)? {N} ?w\b", _claim("idle_w")),
    (rf"{N} ?w idle\b", _claim("idle_w")),
    (rf"{N} ?kwh\b", _claim("battery_wh", 1000.0)),
    (rf"{N} ?wh\b", _claim("battery_wh")),
    (rf"((?:\d+ ?x ?)|two |three |four )?{N} ?ah\b", _amp_hours),
    (rf"battery(?: protection)?(?: trips at)? {N} ?a(?: cont(?:inuous)?\.?)?(?:,? (?:and |/ ?)?{N} ?a(?: for)? ?(?:{N} ?s)?)?(?!h)\b", _battery_amps),
    (rf"usable {N} ?%|{N} ?% usable", lambda plate, m: plate.claims.__setitem__("usable_pct", _n(m[1] or m[2]))),
    (rf"(?:conversion|efficiency|efficient) {N} ?%|{N} ?% (?:conversion|efficien\w+)", lambda plate, m: plate.claims.__setitem__("conversion_pct", _n(m[1] or m[2]))),
    (rf"(?:battery |dc )(?:low|lowest|min(?:imum)?|cut[- ]?off)(?: at)? {N} ?v\b|(?:cut[- ]?off|lowest)(?: at)? {N} ?v\b", lambda plate, m: plate.claims.__setitem__("battery_low_v", _n(m[1] or m[2]))),
    (rf"thd ?<? ?{N} ?%|{N} ?% thd", lambda plate, m: plate.claims.__setitem__("thd_pct", _n(m[1] or m[2]))),
    (rf"{N} ?db(?:a|\(a\))?(?: ?(?:@|at) ?(?:7 ?m|7 metres|23 ?ft))?(?!\w)", _claim("noise_dba_7m")),
    (rf"(?:transfer|changeover|switchover|gap|ups) {N} ?ms\b|{N} ?ms (?:transfer|changeover|gap)", lambda plate, m: plate.claims.__setitem__("transfer_ms", _n(m[1] or m[2]))),
    (rf"{N} ?l(?:it\w+)? (?:more )?(?:in (?:jerry ?)?cans?|stored|in store|at hand|in reserve|in the shed)", _claim("stored_fuel_l")),
    (rf"{N} ?gal\w* (?:more )?(?:in (?:jerry ?)?cans?|stored|in store|at hand|in reserve|in the shed)", _claim("stored_fuel_l", GALLON_L)),
    (rf"tank(?: of| holds)? {N} ?l(?:it\w+)?\b|{N} ?l(?:it\w+)? tank", lambda plate, m: plate.claims.__setitem__("tank_l", _n(m[1] or m[2]))),
    (rf"tank(?: of| holds)? {N} ?gal\w*|{N} ?gal\w* tank", lambda plate, m: plate.claims.__setitem__("tank_l", _n(m[1] or m[2]) * GALLON_L)),
    (rf"(?:burns |uses |drinks )?{PER_HOUR} at (?P<first>full|half)(?: load)?,? ?(?:and |/ ?)?{N}(?: ?(?:l|gal) ?/ ?h)? at (?:full|half)(?: load)?", _both_loads),
    (rf"(?:half load|50 ?%)(?: load)? {PER_HOUR}|{PER_HOUR} (?:at )?(?:half load|half|50 ?%)", _per_hour("half_load_lph")),
    (rf"(?:full load|100 ?%)(?: load)? {PER_HOUR}|{PER_HOUR} (?:at )?(?:full load|full|100 ?%)", _per_hour("full_load_lph")),
    (rf"(?:dc )?fuse {N} ?a\b|{N} ?a (?:dc )?fuse\b", lambda plate, m: plate.wires.__setitem__("dc_fuse_a", _n(m[1] or m[2]))),
    (rf"breaker {N} ?a\b|{N} ?a breaker\b", lambda plate, m: plate.claims.__setitem__("breaker_a", _n(m[1] or m[2]))),
    (rf"inlet {N} ?a\b|{N} ?a inlet\b", lambda plate, m: plate.wires.__setitem__("inlet_a", _n(m[1] or m[2]))),
    (r"(?:(?P<pairs>two|three|\d) (?:pairs? )(?:of )?)(?:dc )?(?:leads? |cables? )?(?P<size>\d+(?:[.,/]\d+)?) ?(?P<unit>mm2|mm²|awg|ga)(?: dc)?(?: leads?| cables?)?(?:,? ?(?P<m>\d+(?:[.,]\d+)?) ?(?P<mu>m|ft|feet)\b)?", _lead("dc_")),
    (r"dc (?:leads? |cables? )?(?P<pairs>)(?P<size>\d+(?:[.,/]\d+)?) ?(?P<unit>mm2|mm²|awg|ga)(?:,? ?(?P<m>\d+(?:[.,]\d+)?) ?(?P<mu>m|ft|feet)\b)?", _lead("dc_")),
    (r"(?:cord|lead|cable)s?,? (?P<m>\d+(?:[.,]\d+)?) ?(?P<mu>m|ft|feet),? (?:of )?(?P<size>\d+(?:[.,]\d+)?) ?(?P<unit>mm2|mm²|awg|ga)", _lead("")),
    (r"(?:cord|lead|cable)s?,? (?P<size>\d+(?:[.,]\d+)?) ?(?P<unit>mm2|mm²|awg|ga)(?:,? ?(?P<m>\d+(?:[.,]\d+)?) ?(?P<mu>m|ft|feet)\b)?", _lead("")),
    (r"stepped(?: sine| wave)?|modified(?: sine)?(?: wave)?|quasi[- ]?sine", _wave(Wave.STEPPED)),
    (r"(?:pure |clean |true )?sine(?:[- ]?wave)?", _wave(Wave.SINE)),
    (rf"(?<!oil )(?<!used )(?<!burns ){N} ?(gal\w*|l(?:it\w+)?)\b(?! ?/)(?= ?$| ?[,;\N{{WHITE SQUARE}}]| (?:petrol|fuel|gas|\d))", _bare_tank),
    *((words, lambda plate, _, chemistry=chemistry: plate.claims.__setitem__("chemistry", chemistry)) for words, chemistry in CHEMISTRIES.items()),
    (rf"{N} ?kg\b", _own("weight_kg")),
    (rf"{N} ?(?:lbs?|pounds)\b", _own("weight_kg", LB_KG)),
    (r"(\d+(?:[.,]\d+)? ?x ?\d+(?:[.,]\d+)? ?x ?\d+(?:[.,]\d+)? ?(?:cm|mm|m|in|inch(?:es)?))\b", lambda plate, m: plate.owning.__setitem__("size", m[1])),
    (rf"warranty {N} ?y(?:ears?|rs?)?|{N} ?y(?:ears?|rs?)? warranty", lambda plate, m: plate.owning.__setitem__("warranty_years", _n(m[1] or m[2]))),
    (rf"(?:oil|service)(?: change)?(?: and filter)? every {N} ?h(?:ours?|rs?)?\b", _own("service_h")),
    (r"(?:price|paid|costs?)(?: of| is| was)? ?[$€£]? ?(\d[\d,.]*)|[$€£] ?(\d[\d,.]*)", lambda plate, m: plate.owning.__setitem__("price", _n((m[1] or m[2]).rstrip(".,")))),
    (r"(?<![\w.])(\d{1,3}(?:,\d{3})+)(?= ?$| ?[,;])", _own("price")),
    (rf"{WATTS}(?: cont(?:inuous)?\.?| rated| running| nominal)?", _claim_w("cont_w")),
    (r"(\d+(?:[.,]\d+)?) ?v(?:olts?)?(?: dc| battery| bank)?\b", _claim("battery_v")),
)  # fmt: skip
"""What may be said of a source, tried in this order; what one has taken the next does not see."""
SPOKEN = tuple((re.compile(rf"(?<![\w.]){words}", re.I), put) for words, put in PHRASES)


@dataclass(frozen=True)
class Nameplate:
    """A line understood: the source, what was taken for it in words, what stays a question, and the words left over."""

    source: Source
    told: tuple[str, ...]
    asked: tuple[str, ...] = ()
    left: str = ""

    @property
    def sentence(self) -> str:
        """The whole understanding as one line."""
        return " · ".join((*self.told, *(f"not said: {question}" for question in self.asked)))


def kind_in(line: str) -> SourceKind | None:
    """The kind of source that words name; None if they name none."""
    plate = [(match.start(), order, kind) for order, (words, kind) in enumerate(KINDS) if (match := re.search(rf"\b(?:{words})\b", line, re.I))]  # fmt: skip
    return min(plate, key=lambda known: (known[1], known[0]))[2] if plate else None


def read_nameplate(line: str, name: str = "", kind: SourceKind | None = None) -> Nameplate:
    """Understand a line about a source: claims in any order, units before or after as people write them.

    Parameters
    ----------
    line
        Such as ``open frame 3.2 kW surge 3.5 kW petrol, tank 15 l, 68 dB``.
    name
        What it is called; what is left of the line where it is empty.
    kind
        Its kind where that is known; else the words of the line say it.

    Returns
    -------
    Nameplate
        ``asked`` lists what a verdict will need and nobody said. Watts that nobody said are a planning figure,
        and the source is marked as planned.

    Raises
    ------
    MusterError
        If nothing says what kind of source it is, or a claim cannot be.
    """
    if len(line) > LONGEST_PLATE:
        raise MusterError(f"{len(line)} characters", where="source", want=f"at most {LONGEST_PLATE} in one line")
    kind = kind or kind_in(f"{line} {name}")
    if kind is None:
        raise MusterError(
            f"“{line.strip()}” names no kind of source",
            where="source",
            want="such as generator, inverter set, inverter, hybrid or battery station",
        )
    left, plate = _take(line)
    _take_fuel(left, plate, kind)
    asked = _complete(plate, kind)
    words = _words(left)
    claims = Claims(**plate.claims)
    source = Source(
        name=name.strip() or _quoted(line) or _note(words) or _kind_said(line) or kind.label,
        kind=kind,
        claims=claims,
        note=_note(words) if name.strip() else "",
        wires=Wires(**plate.wires),
        planned="watts" in asked or bool(PLANNED.search(line)),
        owning=Owning(**plate.owning),
        panels=plate.panels if kind.has_battery else (),
    )
    return Nameplate(source, tuple(_told(source)), tuple(asked), words)


def _quoted(line: str) -> str:
    """What a source is called in quotation marks: ``power station "the slab" 2400w``."""
    named = re.search(r"[“\"]([^“”\"]{2,40})[”\"]", line)
    return named[1].strip() if named else ""


def _take(line: str) -> tuple[str, _Said]:
    """Take every phrase out of a line."""
    left, plate = " ".join(line.split()), _Said()
    while (named := panels_in(left)) is not None:
        panels, (start, end) = named
        plate.panels = (*plate.panels, panels)
        left = f"{left[:start]}\N{WHITE SQUARE}{left[end:]}"
    left = _take_ratings(left, plate)
    for spoken, put in SPOKEN:
        while match := spoken.search(left):
            if "cont_w" in plate.claims and put is SPOKEN[-2][1]:
                break
            put(plate, match)
            left = f"{left[: match.start()]}\N{WHITE SQUARE}{left[match.end() :]}"
    return left, plate


def _take_ratings(line: str, plate: _Said) -> str:
    """Ratings by fuel, where there are two or more of them: each fuel before its watts, or each after."""
    watts, fuel = r"(?P<n>\d+(?:[.,]\d+)?) ?(?P<k>k?)w", rf"(?P<fuel>{FUEL})"
    for words in (rf"\b{fuel}:? {watts}\b", rf"(?<![\w.]){watts} (?:on )?{fuel}\b"):
        matches = list(re.finditer(words, line, re.I))
        first = re.search(rf"\b{FUEL}\b|{watts}\b", line, re.I)
        if len(matches) > 1 and first and matches[0].start() == first.start():
            for match in matches:
                _on_fuel(plate, match)
            return re.sub(words, "\N{WHITE SQUARE}", line, flags=re.I)
    return line


def _take_fuel(left: str, plate: _Said, kind: SourceKind) -> None:
    """The fuel it is used with: the one named, else that of the first rating."""
    if not kind.has_engine:
        return
    ratings = plate.claims.get("on_fuels", ())
    named = re.search(rf"\b({FUEL})\b", left, re.I)
    fuel = FUELS[named[1].lower()] if named else ratings[0].fuel if ratings else "petrol"
    plate.claims["fuel"] = fuel
    rated = next((rating for rating in ratings if rating.fuel == fuel), ratings[0] if ratings else None)
    if rated and "cont_w" not in plate.claims:
        plate.claims["cont_w"] = rated.cont_w


def _complete(plate: _Said, kind: SourceKind) -> list[str]:
    """Work out what follows from what was said, and list what is missing."""
    claims, asked = plate.claims, []
    if kind.has_battery:
        _battery(plate)
    else:
        claims.pop("battery_v", None)  # ``230 v`` on an engine's nameplate is its output
    if "cont_w" not in claims:
        asked.append("watts")
        by_battery_w = max(LEAST_STATION_W, STATION_W_PER_WH * claims.get("battery_wh", 0.0))
        claims["cont_w"] = max(by_battery_w, claims.get("surge_w", 0.0) / 2)  # until somebody says: asked
    if claims.get("surge_w", claims["cont_w"]) < claims["cont_w"]:
        claims["cont_w"], claims["surge_w"] = claims["surge_w"], claims["cont_w"]  # ``peak 3 kw 3.5 kw``
    if "surge_w" not in claims:
        asked.append("surge")
    if kind.has_battery and "battery_wh" not in claims:
        asked.append("battery Wh")
    if kind.has_engine and "tank_l" not in claims:
        asked.append("tank")
    return asked


def _battery(plate: _Said) -> None:
    """Wh from volts and Ah: batteries of 12 V where nobody said otherwise, so many as make up the bank."""
    claims = plate.claims
    volts = claims.get("battery_v")
    if volts is not None and volts > 100:
        claims.pop("battery_v")  # ``230 v``: its output
        volts = None
    if "battery_ah" in claims and "battery_wh" not in claims:
        each_v = USUAL_BATTERY_V if plate.batteries > 1 or volts is None else volts
        claims["battery_wh"] = plate.batteries * each_v * claims["battery_ah"]
        claims["battery_v"] = volts or each_v
        claims["battery_ah"] = claims["battery_wh"] / claims["battery_v"]


def _words(left: str) -> str:
    """What is left of a line as words."""
    plain_words = re.sub(r"\N{WHITE SQUARE}|[,;|]+", " ", left)
    return " ".join(plain_words.split()).strip(" .,:;-–()/")


def _kind_said(line: str) -> str:
    """The words that name its kind."""
    plate = [match[0] for words, _ in KINDS if (match := re.search(rf"\b(?:{words})\b", line, re.I))]
    return max(plate, key=len, default="").lower()


WIRED = r"(?:wired )?in (?:series|parallel)"
"""How batteries are wired: the volts and Ah say it, and it is no source's name."""


NO_NAMES = re.compile(
    r"\b(?:battery|batteries|bank|tank|surge|peak|starting|running|rated|continuous|panels?|solar|with|and|plus|the|burns|uses|drinks|per|each|leg|oil|output|volts?|amps?|watts?)\b",
    re.I,
)
"""What stands beside figures, and is no source's name by itself."""
LONGEST_UNIT = 2


def _note(words: str) -> str:
    """What is left of a line beside the words for its kind and its fuel."""
    for known in (*(spelt for spelt, _ in KINDS), FUEL, PLANNED.pattern, WIRED):
        words = re.sub(rf"\b(?:{known})\b", " ", words, flags=re.I)
    left = " ".join(words.split()).strip(" .,:;-–")
    return left if any(len(word) > LONGEST_UNIT for word in re.findall(r"[^\W\d_]+", NO_NAMES.sub(" ", left))) else ""


TOLD: Mapping[str, tuple[str, str]] = {
    "cont_w": ("continuous {}", "w"),
    "surge_w": ("surge {}", "w"),
    "surge_s": ("for {}", "s"),
    "per_leg_w": ("each leg {}", "w"),
    "breaker_a": ("breaker {}", "a"),
    "thd_pct": ("THD {}", "pct"),
    "noise_dba_7m": ("{} at 7 m", "dba"),
    "tank_l": ("tank {}", "l"),
    "stored_fuel_l": ("{} at hand beside it", "l"),
    "half_load_lph": ("{} at half load", "lph"),
    "full_load_lph": ("{} at full load", "lph"),
    "battery_wh": ("battery {}", "wh"),
    "battery_v": ("{} DC", "v"),
    "usable_pct": ("{} usable", "pct"),
    "idle_w": ("idle {}", "w"),
    "transfer_ms": ("gap {}", "ms"),
    "battery_only_w": ("without sun {}", "w"),
    "battery_a": ("battery {}", "a"),
    "battery_surge_a": ("battery {} for a moment", "a"),
    "battery_low_v": ("lowest {}", "v"),
    "conversion_pct": ("conversion {}", "pct"),
    "charge_w": ("charges at {}", "w"),
}


def _told(source: Source) -> list[str]:
    """A source told back, claim by claim."""
    claims, said = source.claims, [source.kind.label]
    for name, (words, unit) in TOLD.items():
        value = getattr(claims, name)
        if value is not None:
            said.append(words.format(plain(value, unit)))
    if claims.chemistry:
        said.append(claims.chemistry.label)
    if claims.pv_ports:
        port, count = claims.pv_ports[0], len(claims.pv_ports)
        window = f" {port.low_v:g} to {port.high_v:g} V" if port.low_v and port.high_v else ""
        amps = f" {port.most_a:g} A" if port.most_a else ""
        watts = f" {plain(port.most_w, 'w')}" if port.most_w else ""
        said.append(f"{count} input{'s' if count > 1 else ''} for panels{window}{amps}{watts}")
    said += [f"panels {panels_words(panels)}" for panels in source.panels]
    said += [f"{plain(rating.cont_w, 'w')} on {rating.fuel}" for rating in claims.on_fuels]
    if source.kind.has_engine and not claims.on_fuels:
        said.append(claims.fuel)
    if claims.charge_h:
        said.append(f"full in {claims.charge_h:g} h")
    if claims.wave is not Wave.SINE:
        said.append(claims.wave.value)
    said += _wires_told(source.wires)
    owning = source.owning
    for value, words in (
        (owning.weight_kg, "{:g} kg"),
        (owning.price, "price {:g}"),
        (owning.warranty_years, "warranty {:g} years"),
        (owning.service_h, "service every {:g} h"),
    ):
        if value is not None:
            said.append(words.format(value))
    if owning.size:
        said.append(owning.size)
    if owning.codes:
        said.append(f"{len(owning.codes)} code{'s' if len(owning.codes) > 1 else ''} of its booklet")
    return said


def _wires_told(wires: Wires) -> list[str]:
    """The wiring told back."""
    said = []
    if wires.dc_fuse_a:
        said.append(f"DC fuse {wires.dc_fuse_a:g} A")
    for name, lead, metres, count in (
        ("DC lead", wires.dc_lead, wires.dc_lead_m, wires.dc_leads),
        ("cord", wires.lead, wires.lead_m, 1),
    ):
        if lead:
            laid, size = lead_named(lead)
            pairs = f"{count} pairs of " if count > 1 else ""
            said.append(f"{name} {pairs}{size} {laid.unit}" + (f", {plain(metres, 'm')}" if metres else ""))
    if wires.inlet_a:
        said.append(f"inlet {wires.inlet_a:g} A")
    return said


def ports_of(line: str) -> PvPort:
    """An input for panels in words: ``12-60 V 20 A 400 W``.

    Raises
    ------
    MusterError
        If nothing of it is understood.
    """
    ports: tuple[PvPort, ...] = _take(f"pv {line}")[1].claims.get("pv_ports", ())
    if not ports:
        raise MusterError(f"“{line}”", where="ports", want="such as 12-60 V 20 A 400 W")
    return ports[0]


def port_words(port: PvPort) -> str:
    """An input for panels as ``ports_of`` reads it."""
    window = f"{port.low_v:.12g}-{port.high_v:.12g} V" if port.low_v and port.high_v else ""
    amps = f"{port.most_a:.12g} A" if port.most_a else ""
    watts = f"{port.most_w:.12g} W" if port.most_w else ""
    return " ".join(part for part in (window, amps, watts) if part)


def ratings_of(line: str) -> FuelRating:
    """A rating on a fuel in words: ``propane 6750 W``.

    Raises
    ------
    MusterError
        If it names no fuel, or no watts.
    """
    fuel = re.search(rf"\b({FUEL})\b", line, re.I)
    watts = re.search(WATTS, line, re.I)
    if fuel is None or watts is None:
        raise MusterError(f"“{line}”", where="ratings", want="such as propane 6750 W")
    return FuelRating(FUELS[fuel[1].lower()], _w(watts))


def codes_of(line: str) -> FaultCode:
    """A code of a booklet in words: ``F7 leg over its rating``.

    Raises
    ------
    MusterError
        If no meaning follows the code.
    """
    code, _, meaning = line.replace(":", " ").replace("=", " ").partition(" ")
    if not meaning.strip():
        raise MusterError(f"“{line}”", where="codes", want="the code and its meaning, such as F7 leg over its rating")
    return FaultCode(code.upper(), meaning.strip())
