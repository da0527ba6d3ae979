"""One line that adds a load: ``freezer 130w l2 must 6-22 15/30``."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from ..errors import MusterError
from ..quantities import plain
from ..shelf import ShelfLoad, find_on_shelf
from ..supply import Leg
from . import ALL_DAY, Basis, Caller, Duty, Load, LoadFigure, Tier, kind_of, with_figures
from .evidence import from_code_letter, from_locked_rotor, from_nameplate_amps
from .kinds import kind_by_name

WATTS = re.compile(r"^(\d+(?:[.,]\d+)?)(kw|w)$")
POWER_FACTOR = re.compile(r"^pf(\d*[.,]?\d+)$|^(0?[.,]\d+)pf$")
START = re.compile(r"^start(\d+(?:[.,]\d+)?)(kva|va)$")
CODE = re.compile(r"^code([a-z])$")
HORSEPOWER = re.compile(r"^(\d+(?:[.,]\d+)?)hp$")
NAMEPLATE_AMPS = re.compile(r"^(\d+(?:[.,]\d+)?)a$")
PROGRAM = re.compile(r"^once(\d+(?:[.,]\d+)?)min$")
LRA = re.compile(r"^lra(\d+(?:[.,]\d+)?)a?$")
DUTY = re.compile(r"^(\d+(?:[.,]\d+)?)/(\d+(?:[.,]\d+)?)(?:min)?$")
HOURS = re.compile(r"^\d{1,2}-\d{1,2}(?:,\d{1,2}-\d{1,2})*$")
LEGS = {"l1": Leg.ONE, "leg1": Leg.ONE, "l2": Leg.TWO, "leg2": Leg.TWO, "both": Leg.BOTH, "240v": Leg.BOTH}


@dataclass(frozen=True)
class LoadEntry:
    """What a line was understood to say: the load, and the sentence that tells it back."""

    load: Load
    understood: str
    shelf: ShelfLoad | None


def _float(text: str) -> float:
    return float(text.replace(",", "."))


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


def parse_load_line(line: str, key: str, v_nominal: float, own: Iterable[ShelfLoad] = ()) -> LoadEntry:
    """Read a line into a load; what is not said comes from the shelf, else from its kind.

    Words in any order: watts (``130w``, ``1.2kw``), leg (``l1 l2 both``), tier
    (``must should could``), hours (``6-22``), on/off minutes (``15/30``), a
    program (``once45min``), power factor (``pf0.9``), and from the nameplate
    amps (``8.5a``), start (``start900va``), locked-rotor amps (``lra22a``),
    code letter and horsepower (``codeg 1.5hp``), at nominal volts, twice that
    across both legs; the rest is the name.

    ``own`` are shelf entries of the assessor's, asked first.

    Raises
    ------
    MusterError
        If there is no name, or nothing says how many watts.
    """
    result: dict[str, object] = {}
    name: list[str] = []
    for token in line.split():
        low = token.lower()
        if match := WATTS.match(low):
            result["run_w"] = _float(match[1]) * (1000 if match[2] == "kw" else 1)
        elif match := POWER_FACTOR.match(low):
            result["pf"] = _float(match[1] or match[2])
        elif match := START.match(low):
            result["start_va"] = _float(match[1]) * (1000 if match[2] == "kva" else 1)
        elif match := LRA.match(low):
            result["lra_a"] = _float(match[1])
        elif match := CODE.match(low):
            result["code"] = match[1].upper()
        elif match := HORSEPOWER.match(low):
            result["hp"] = _float(match[1])
        elif match := NAMEPLATE_AMPS.match(low):
            result["nameplate_a"] = _float(match[1])
        elif match := PROGRAM.match(low):
            result["duty"] = Duty(_float(match[1]), 0.0, Caller.HAND, once=True)
        elif match := DUTY.match(low):
            result["duty"] = Duty(_float(match[1]), _float(match[2]))
        elif HOURS.match(low):
            result["hours"] = parse_hours(low)
        elif low in LEGS:
            result["leg"] = LEGS[low]
        elif low in set(Tier):
            result["tier"] = Tier(low)
        else:
            name.append(token)
    words = " ".join(name).strip(" ,;")
    if not words:
        raise MusterError("no name in this line", where="line", want="such as “chest freezer 130w l2”")
    shelf = find_on_shelf(words, own)
    if shelf is None and not {"run_w", "nameplate_a"} & set(result):
        raise MusterError(f"“{words}” is not on the shelf", where="line", want=f"say its watts too: “{words} 300w”")
    load = _load_from(words, key, v_nominal, result, shelf)
    return LoadEntry(load, _read_back(load, shelf), shelf)


def _load_from(words: str, key: str, v_nominal: float, load_found: dict[str, object], shelf: ShelfLoad | None) -> Load:
    """The load: planned from the shelf or its kind, then settled on the best of what the line says."""
    kind = shelf.kind if shelf else kind_by_name(words.lower())
    leg = Leg(str(load_found.get("leg", Leg.ONE)))
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
        tier=Tier(str(load_found.get("tier", Tier.MUST))),
        duty=duty if isinstance(duty, Duty) else shelf.duty if shelf else Duty(),
        hours=hours if isinstance(hours, tuple) else shelf.hours if shelf else ALL_DAY,
        parts=shelf.parts if shelf else (),
        figures=tuple(figures[:1]),
    )
    return with_figures(load, LoadFigure("pf", pf, Basis.NAMEPLATE if "pf" in load_found else Basis.TOLD), *figures[1:])


def _figures(result: dict[str, object], pf: float, volts: float) -> list[LoadFigure]:
    """What the line itself says of the load's plate."""
    said = {
        name: float(str(result[name])) for name in ("run_w", "start_va", "lra_a", "hp", "nameplate_a") if name in result
    }
    figures = []
    if "run_w" in said:
        figures.append(LoadFigure("run_w", said["run_w"], Basis.NAMEPLATE))
    elif "nameplate_a" in said:
        figures.append(from_nameplate_amps(volts, said["nameplate_a"], pf))
    if "start_va" in said:
        figures.append(LoadFigure("start_va", said["start_va"], Basis.NAMEPLATE))
    if "lra_a" in said:
        figures.append(from_locked_rotor(volts, said["lra_a"]))
    if "code" in result:
        if "hp" not in said:
            raise MusterError(
                "a code letter without horsepower", where="line", want=f"such as “code{result['code']} 1.5hp”"
            )
        figures.append(from_code_letter(str(result["code"]), said["hp"]))
    return figures


def _read_back(load: Load, shelf: ShelfLoad | None) -> str:
    origin = "from the shelf" if shelf else f"taken as {load.kind_figures.label}"
    return (
        f"{load.name}, {origin} · {plain(load.run_w, 'w')} at PF {load.pf:.2f} · "
        f"start {plain(load.start_total_va, 'va')} · {load.leg.label} · {load.tier} · {load.duty.label} · "
        f"{len(load.hours)} h of the day"
    )
