"""Leads, cords and fuses: resistance, drop, and what a gauge may carry.

Ampacities are guidance; local code and the maker's own figure decide.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from ..errors import OutOfRange, UnknownChoice, require_above, require_between
from ..measures import shown_in

RHO_20 = {"copper": 0.01724, "aluminium": 0.0282}
"""Resistivity at 20 °C [Ω·mm²/m] (IEC 60028 for annealed copper)."""
PER_K = 0.00393
"""Change of copper's resistance with temperature [1/K] at 20 °C (IEC 60028); aluminium's is close to it."""


class Laid(StrEnum):
    """How a conductor is laid and of what family of standards its table is."""

    CORD_AWG = "cord_awg"
    CORD_MM2 = "cord_mm2"
    WALL_60 = "wall_60"
    WALL_75 = "wall_75"
    WALL_90 = "wall_90"
    B1 = "b1"
    FREE_75 = "free_75"
    FREE_90 = "free_90"
    FREE_MM2 = "free_mm2"

    @property
    def label(self) -> str:
        """The way as it is written on screen."""
        return {
            "cord_awg": "flexible cord, AWG (NEC 400.5, two conductors carrying)",
            "cord_mm2": "flexible cord, mm² (BS 7671 4F3A, single-phase)",
            "wall_60": "wire in a wall or conduit, AWG, 60 °C terminals (NEC 310.16)",
            "wall_75": "wire in a wall or conduit, AWG, 75 °C terminals (NEC 310.16)",
            "wall_90": "wire in a wall or conduit, AWG, 90 °C (NEC 310.16)",
            "b1": "wire in conduit on a wall, mm² (IEC 60364-5-52, method B1, PVC)",
            "free_75": "single wire in free air, AWG, 75 °C (NEC 310.17)",
            "free_90": "single wire in free air, AWG, 90 °C (NEC 310.17)",
            "free_mm2": "two single wires touching in free air, mm² (IEC 60364-5-52, method F, PVC)",
        }[self.value]

    @property
    def is_awg(self) -> bool:
        """Whether its sizes are AWG."""
        return self not in (Laid.CORD_MM2, Laid.B1, Laid.FREE_MM2)

    @property
    def unit(self) -> str:
        """What its sizes are in."""
        return "AWG" if self.is_awg else "mm²"


def awg_mm2(gauge: str) -> float:
    """Area of an AWG size [mm²]: ``0.012668 · 92^((36 − n)/19.5)``; ``2/0`` is n = −1.

    Raises
    ------
    UnknownChoice
        If it is no gauge.

    References
    ----------
    ASTM B258: 39 steps from 4/0 (0.46 in) to 36 (0.005 in).
    """
    text = gauge.strip()
    try:
        n = 1 - int(text[:-2]) if text.endswith("/0") else int(text)
    except ValueError:
        raise UnknownChoice(f"got “{gauge}”", where="gauge", want="such as 12, 4 or 2/0") from None
    if not -3 <= n <= 40:
        raise UnknownChoice(f"got “{gauge}”", where="gauge", want="4/0 to 40")
    return float(0.012668 * 92 ** ((36 - n) / 19.5))


AMPACITY: dict[Laid, dict[str, float]] = {
    Laid.CORD_AWG: {"18": 10, "16": 13, "14": 18, "12": 25, "10": 30, "8": 40, "6": 55, "4": 70, "2": 95},
    Laid.CORD_MM2: {"0.75": 6, "1": 10, "1.25": 13, "1.5": 16, "2.5": 25, "4": 32},
    Laid.WALL_60: {"14": 15, "12": 20, "10": 30, "8": 40, "6": 55, "4": 70, "3": 85, "2": 95, "1": 110, "1/0": 125,
                   "2/0": 145, "3/0": 165, "4/0": 195},
    Laid.WALL_75: {"14": 20, "12": 25, "10": 35, "8": 50, "6": 65, "4": 85, "3": 100, "2": 115, "1": 130, "1/0": 150,
                   "2/0": 175, "3/0": 200, "4/0": 230},
    Laid.WALL_90: {"14": 25, "12": 30, "10": 40, "8": 55, "6": 75, "4": 95, "3": 115, "2": 130, "1": 145, "1/0": 170,
                   "2/0": 195, "3/0": 225, "4/0": 260},
    Laid.B1: {"1.5": 17.5, "2.5": 24, "4": 32, "6": 41, "10": 57, "16": 76, "25": 101, "35": 125, "50": 151, "70": 192,
              "95": 232, "120": 269},
    Laid.FREE_75: {"14": 30, "12": 35, "10": 50, "8": 70, "6": 95, "4": 125, "3": 145, "2": 170, "1": 195, "1/0": 230,
                   "2/0": 265, "3/0": 310, "4/0": 360},
    Laid.FREE_90: {"14": 35, "12": 40, "10": 55, "8": 80, "6": 105, "4": 140, "3": 165, "2": 190, "1": 220, "1/0": 260,
                   "2/0": 300, "3/0": 350, "4/0": 405},
    Laid.FREE_MM2: {"25": 131, "35": 162, "50": 196, "70": 251, "95": 304, "120": 352},
}  # fmt: skip
"""Amps a copper conductor may carry, by size, smallest first: NEC 2023 tables 400.5(A)(1) column B and
310.16 (30 °C, up to three conductors carrying) and 310.17 (30 °C, free air); BS 7671 table 4F3A; IEC 60364-5-52 tables
B.52.2 method B1 and B.52.10 method F."""
FUSES_A = (5, 10, 15, 20, 25, 30, 40, 50, 60, 80, 100, 125, 150, 175, 200, 225, 250, 300, 350, 400, 500, 600)
"""Ratings in which battery fuses are commonly made."""
FUSE_X = 1.25
"""A fuse for a load that runs for hours: at least 1.25 × its current (NEC 210.20, 690.9)."""


def area_mm2(size: str, laid: Laid) -> float:
    """Area of a size of a table [mm²].

    Raises
    ------
    UnknownChoice
        If the table does not hold it.
    """
    if size not in AMPACITY[laid]:
        raise UnknownChoice(f"got “{size}”", where="size", want=", ".join(AMPACITY[laid]))
    return awg_mm2(size) if laid.is_awg else float(size)


def lead_named(name: str, where: str = "lead") -> tuple[Laid, str]:
    """The table and size of a lead such as ``cord_mm2:2.5``.

    Raises
    ------
    UnknownChoice
        If there is no such table or size.
    """
    table, _, size = name.partition(":")
    try:
        laid = Laid(table)
    except ValueError:
        raise UnknownChoice(f"got “{name}”", where=where, want="such as cord_mm2:2.5 or cord_awg:10") from None
    area_mm2(size, laid)
    return laid, size


def ampacity_a(size: str, laid: Laid) -> float:
    """Amps a size may carry by its table.

    Raises
    ------
    UnknownChoice
        If the table does not hold it.
    """
    area_mm2(size, laid)
    return AMPACITY[laid][size]


def lead_text(name: str, count: int = 1) -> str:
    """A lead in words: ``2 × 35 mm², two single wires touching in free air, …``."""
    laid, size = lead_named(name)
    text = f"{size} {laid.unit}, {laid.label}"
    return f"{count} × {text}" if count > 1 else text


def lead_choices() -> tuple[tuple[str, str], ...]:
    """Every lead of the tables by its name, in words; those in the units of the job first."""
    awg = shown_in().wire == "awg"
    tables = sorted(Laid, key=lambda laid: laid.is_awg != awg)
    names = [f"{laid.value}:{size}" for laid in tables for size in AMPACITY[laid]]
    return tuple((name, lead_text(name)) for name in names)


def size_for(amps: float, laid: Laid) -> str | None:
    """The smallest size of a table that carries so many amps, None if none does."""
    return next((size for size, most in AMPACITY[laid].items() if most >= amps), None)


def lead_ohm(length_m: float, mm2: float, metal: str = "copper", temp_c: float = 20.0) -> float:
    """Resistance of a lead, there and back [Ω]: ``ρ · 2L / A``, with temperature.

    Raises
    ------
    OutOfRange
        If length or area is not above zero.
    UnknownChoice
        If the metal is not known.

    References
    ----------
    IEC 60028; Ohm's law for a uniform conductor.
    """
    require_above(length_m, 0, "length_m")
    require_above(mm2, 0, "mm2")
    require_between(temp_c, -60, 250, "temp_c")
    if metal not in RHO_20:
        raise UnknownChoice(f"got “{metal}”", where="metal", want=" or ".join(RHO_20))
    return RHO_20[metal] * 2 * length_m / mm2 * (1 + PER_K * (temp_c - 20))


def dc_amps(ac_w: float, conversion_pct: float, lowest_dc_v: float) -> float:
    """Battery current for an AC load [A]: ``P_ac / (η · V_dc)`` at the lowest volts expected.

    Raises
    ------
    OutOfRange
        If conversion is not in (0, 100] or the volts are not above zero.
    """
    require_above(conversion_pct, 0, "conversion_pct")
    require_between(conversion_pct, 0, 100, "conversion_pct")
    require_above(lowest_dc_v, 0, "lowest_dc_v")
    return ac_w / (conversion_pct / 100 * lowest_dc_v)


@dataclass(frozen=True)
class FuseChoice:
    """A fuse that lets the load run and guards the lead: ``least_a`` it must be, ``most_a`` it may be; None fits none."""

    least_a: float
    most_a: float
    fuse_a: float | None


def fuse_for(amps: float, lead_a: float) -> FuseChoice:
    """The smallest common fuse at or above 1.25 × the current and at or below what the lead may carry.

    Raises
    ------
    OutOfRange
        If the current is negative or the lead carries nothing.
    """
    if not (math.isfinite(amps) and amps >= 0):
        raise OutOfRange(f"got {amps:g}", where="amps", want="0 or more")
    require_above(lead_a, 0, "lead_a")
    least = FUSE_X * amps
    return FuseChoice(least, lead_a, next((f for f in FUSES_A if least <= f <= lead_a), None))
