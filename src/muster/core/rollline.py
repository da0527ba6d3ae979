"""One line that adds a load: ``freezer 130w l2 must 6-22 15/30``."""

from __future__ import annotations

import re
from dataclasses import dataclass

from .errors import MusterError
from .loads import ALL_DAY, KINDS, Duty, Load, Tier, kind_of
from .quantities import Grade, plain
from .shelf import ShelfLoad, find_on_shelf
from .supply import Leg

WATTS = re.compile(r"^(\d+(?:[.,]\d+)?)(kw|w)$")
POWER_FACTOR = re.compile(r"^pf(\d*[.,]?\d+)$|^(0?[.,]\d+)pf$")
START = re.compile(r"^start(\d+(?:[.,]\d+)?)(kva|va)$")
LRA = re.compile(r"^lra(\d+(?:[.,]\d+)?)a?$")
DUTY = re.compile(r"^(\d+(?:[.,]\d+)?)/(\d+(?:[.,]\d+)?)(?:min)?$")
HOURS = re.compile(r"^\d{1,2}-\d{1,2}(?:,\d{1,2}-\d{1,2})*$")
LEGS = {"l1": Leg.ONE, "leg1": Leg.ONE, "l2": Leg.TWO, "leg2": Leg.TWO, "both": Leg.BOTH, "240v": Leg.BOTH}
KIND_HINTS = (
    ("pump", "motor_loaded"), ("heater", "heater"), ("oven", "heater"), ("fan", "fan"),
    ("freezer", "motor"), ("fridge", "motor"), ("lamp", "filament"), ("saw", "universal"),
    ("drill", "universal"), ("compressor", "motor_loaded"), ("motor", "motor"),
)  # fmt: skip
DEFAULT_KIND = "electronic"


@dataclass(frozen=True)
class RollLine:
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


def _kind_for(words: str) -> str:
    if words in KINDS:
        return words
    return next((kind for hint, kind in KIND_HINTS if hint in words), DEFAULT_KIND)


def parse_roll_line(line: str, key: str, v_nominal: float) -> RollLine:
    """Read a line into a load; what is not said comes from the shelf, else from its kind.

    Words in any order: watts (``130w``, ``1.2kw``), leg (``l1 l2 both``), tier
    (``must should could``), hours (``6-22``), on/off minutes (``15/30``),
    power factor (``pf0.9``), start (``start900va`` or ``lra22a`` from the
    plate: ``S = V_nominal · LRA``, twice that across both legs); the rest is the name.

    Raises
    ------
    MusterError
        If there is no name, or nothing says how many watts.
    """
    found: dict[str, object] = {}
    name: list[str] = []
    for token in line.split():
        low = token.lower()
        if match := WATTS.match(low):
            found["run_w"] = _float(match[1]) * (1000 if match[2] == "kw" else 1)
        elif match := POWER_FACTOR.match(low):
            found["pf"] = _float(match[1] or match[2])
        elif match := START.match(low):
            found["start_va"] = _float(match[1]) * (1000 if match[2] == "kva" else 1)
        elif match := LRA.match(low):
            found["lra_a"] = _float(match[1])
        elif match := DUTY.match(low):
            found["duty"] = Duty(_float(match[1]), _float(match[2]))
        elif HOURS.match(low):
            found["hours"] = parse_hours(low)
        elif low in LEGS:
            found["leg"] = LEGS[low]
        elif low in set(Tier):
            found["tier"] = Tier(low)
        else:
            name.append(token)
    words = " ".join(name).strip(" ,;")
    if not words:
        raise MusterError("no name in this line", where="line", want="such as “chest freezer 130w l2”")
    shelf = find_on_shelf(words)
    if shelf is None and "run_w" not in found:
        raise MusterError(f"“{words}” is not on the shelf", where="line", want=f"say its watts too: “{words} 300w”")
    load = _load_from(words, key, v_nominal, found, shelf)
    return RollLine(load, _told_back(load, shelf), shelf)


def _load_from(words: str, key: str, v_nominal: float, found: dict[str, object], shelf: ShelfLoad | None) -> Load:
    kind = shelf.kind if shelf else _kind_for(words.lower())
    leg = Leg(str(found.get("leg", Leg.ONE)))
    start_va = found.get("start_va")
    if start_va is None and "lra_a" in found:
        volts = v_nominal * (2 if leg is Leg.BOTH else 1)
        start_va = volts * float(str(found["lra_a"]))
    run_w, pf = found.get("run_w"), found.get("pf")
    duty, hours = found.get("duty"), found.get("hours")
    return Load(
        key=key,
        name=words,
        kind=kind,
        run_w=float(str(run_w)) if run_w is not None else shelf.run_w if shelf else 0.0,
        pf=float(str(pf)) if pf is not None else shelf.planning_pf if shelf else kind_of(kind).pf,
        leg=leg,
        tier=Tier(str(found.get("tier", Tier.MUST))),
        duty=duty if isinstance(duty, Duty) else shelf.duty if shelf else Duty(),
        hours=hours if isinstance(hours, tuple) else shelf.hours if shelf else ALL_DAY,
        start_va=float(str(start_va)) if start_va is not None else None,
        run_grade=Grade.C if run_w is not None else Grade.D,
        start_grade=Grade.C if start_va is not None else Grade.D,
    )


def _told_back(load: Load, shelf: ShelfLoad | None) -> str:
    origin = "from the shelf" if shelf else f"taken as {load.kind_figures.words}"
    rhythm = f"{load.duty.on_min:g} min on, {load.duty.off_min:g} off" if load.duty.cycles else "runs throughout"
    return (
        f"{load.name}, {origin} · {plain(load.run_w, 'w')} at PF {load.pf:.2f} · "
        f"start {plain(load.start_total_va, 'va')} · {load.leg.words} · {load.tier} · {rhythm} · "
        f"{len(load.hours)} h of the day"
    )
