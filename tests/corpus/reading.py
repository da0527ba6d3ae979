"""The corpus read: each jotting with what is meant by it."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from muster.core.supply import SYSTEMS, System

HERE = Path(__file__).parent
SUPPLIES = {
    "single 230/50": SYSTEMS["single-230-50"],
    "single 120/60": SYSTEMS["single-120-60"],
    "split 120/240/60": SYSTEMS["split-120-240-60"],
}
CORPORA = tuple(
    f"{ordinal}.txt"
    for ordinal in (
        *("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth"),
        *("eleventh", "twelfth", "thirteenth", "fourteenth", "fifteenth", "sixteenth"),
    )
)
HOUSE = ("pump", "fridge", "freezer", "heater", "kettle", "saw", "lights", "furnace", "microwave")
QUANTITIES = [
    "v",
    "a",
    "w",
    "va",
    "pf",
    "hz",
    "dba",
    "soc_pct",
    "wh",
    "fuel_l",
    "temp_c",
    "rpm",
    "gap_ms",
    "water_kg",
    "heat_s",
    "thd_pct",
    "clock_s",
]
"""``clock_s``: seconds on a mains clock in a minute."""
PLACES = ("1", "2", "total", "n", "dc", "pv", "ua", "ub", "-")
STATS = ("before", "lowest", "highest", "settled", "background")
MEANT = re.compile(
    rf"(?:(?:{'|'.join(QUANTITIES)}) (?:{'|'.join(map(re.escape, PLACES))}) -?\d+(?:\.\d+)?"
    rf"(?: @\d+(?:\.\d+)?)?(?: (?:{'|'.join(STATS)}))?"
    rf"|![a-z]+(?: .+)?|[+-](?:all|{'|'.join(HOUSE)})|start (?:{'|'.join(HOUSE)})"
    r"|t (?:\d\d:\d\d(?::\d\d)?(?: .+)?|\+\d+ s ago)|for \d+(?:\.\d+)?|note)"
)
"""How each thing meant is written: see README.md."""


@dataclass(frozen=True)
class Jotting:
    """What somebody wrote on a supply, and what is meant by it."""

    system: System
    text: str
    meant: tuple[str, ...]


def jottings(name: str) -> tuple[Jotting, ...]:
    """The jottings of a corpus."""
    system = SYSTEMS["single-230-50"]
    read = []
    for line in (HERE / name).read_text(encoding="utf-8").splitlines():
        if section := re.fullmatch(r"\[(.+)\]", line):
            system = SUPPLIES[section[1]]
        elif line.strip():
            text, _, meant = line.partition(" => ")
            read.append(Jotting(system, text, tuple(part.strip() for part in meant.split(";"))))
    return tuple(read)
