"""What is known of a load, and from where: every figure stays, the best of them is used."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from ..errors import UnknownChoice, require_above, require_between
from ..quantities import Grade
from ..trade.motors import CODE_KVA_PER_HP, code_letter_va, locked_rotor_va
from ..working import Working

QUANTITIES = {"run_w": "w", "pf": "pf", "start_va": "va"}
"""What a figure may be of, and its unit."""
HIGHEST = {"run_w": 100_000.0, "pf": 1.0, "start_va": 1_000_000.0}


class Basis(StrEnum):
    """Where a figure comes from, in the order in which the trade trusts it."""

    MEASURED = "measured"
    INDIRECT = "indirect"
    LOCKED_ROTOR = "locked_rotor"
    CODE_LETTER = "code_letter"
    NAMEPLATE = "plate"
    TOLD = "told"
    SHELF = "shelf"

    @property
    def label(self) -> str:
        """The basis as it is written on screen."""
        return {
            "measured": "measured here",
            "indirect": "measured, by a meter that can miss it",
            "locked_rotor": "locked-rotor amps on the nameplate",
            "code_letter": "code letter and horsepower on the nameplate",
            "plate": "nameplate or booklet",
            "told": "planning figure, as told",
            "shelf": "planning figure of the shelf",
        }[self.value]

    @property
    def grade(self) -> Grade:
        """The evidence grade that follows."""
        if self is Basis.MEASURED:
            return Grade.A
        if self is Basis.INDIRECT:
            return Grade.B
        return Grade.D if self in (Basis.TOLD, Basis.SHELF) else Grade.C


ORDER = tuple(Basis)
BY_GRADE = {Grade.A: Basis.MEASURED, Grade.B: Basis.INDIRECT, Grade.C: Basis.NAMEPLATE, Grade.D: Basis.TOLD}
"""The basis of a figure of which only the grade was said."""


@dataclass(frozen=True)
class LoadFigure:
    """One figure of a load: ``run_w``, ``pf`` or ``start_va``, what it rests on, and its working in words.

    ``soft``: a start taken with the soft starter in; such a start says nothing of the bare motor.
    """

    quantity: str
    value: float
    basis: Basis
    label: str = ""
    soft: bool = False

    def __post_init__(self) -> None:
        if self.quantity not in QUANTITIES:
            raise UnknownChoice(f"got “{self.quantity}”", where="quantity", want=", ".join(QUANTITIES))
        require_above(self.value, 0, self.quantity)
        require_between(self.value, 0, HIGHEST[self.quantity], self.quantity)

    @property
    def unit(self) -> str:
        """The unit of its value."""
        return QUANTITIES[self.quantity]

    @property
    def grade(self) -> Grade:
        """The evidence grade of its basis."""
        return self.basis.grade

    def same_place(self, other: LoadFigure) -> bool:
        """Whether one takes the other's place: same quantity, same basis, same side of a soft starter."""
        return (self.quantity, self.basis, self.soft) == (other.quantity, other.basis, other.soft)


def from_locked_rotor(volts: float, lra_a: float) -> LoadFigure:
    """Starting VA by locked-rotor amps at the nameplate's volts.

    Raises
    ------
    OutOfRange
        If volts or amps are not above zero.
    """
    va = locked_rotor_va(volts, lra_a)
    return LoadFigure("start_va", va, Basis.LOCKED_ROTOR, f"{volts:g} V × {lra_a:g} A locked rotor")


def from_code_letter(letter: str, hp: float) -> LoadFigure:
    """Starting VA by code letter and horsepower, the upper end of the letter's range.

    Raises
    ------
    UnknownChoice
        If there is no such letter.
    OutOfRange
        If the horsepower is not above zero.
    """
    va = code_letter_va(letter, hp)
    kva = CODE_KVA_PER_HP[letter.strip().upper()]
    return LoadFigure("start_va", va, Basis.CODE_LETTER, f"{kva:g} kVA/hp for {letter.strip().upper()} × {hp:g} hp")


def from_nameplate_amps(volts: float, amps: float, pf: float) -> LoadFigure:
    """Running watts by the nameplate's volts and amps at the load's power factor.

    Raises
    ------
    OutOfRange
        If a figure is not above zero.
    """
    require_above(volts, 0, "volts")
    require_above(amps, 0, "amps")
    return LoadFigure("run_w", volts * amps * pf, Basis.NAMEPLATE, f"{volts:g} V × {amps:g} A × PF {pf:g}")


def from_inrush_amps(volts: float, amps: float, *, caught: bool, soft: bool = False) -> LoadFigure:
    """Starting VA by the highest amps a meter showed at the start; ``caught``: fast enough to be sure of it.

    Raises
    ------
    OutOfRange
        If volts or amps are not above zero.
    """
    require_above(volts, 0, "volts")
    require_above(amps, 0, "amps")
    basis = Basis.MEASURED if caught else Basis.INDIRECT
    return LoadFigure("start_va", volts * amps, basis, f"{volts:g} V × {amps:g} A at the start", soft)


def from_welding(arc_v: float, amps: float, efficiency: float) -> LoadFigure:
    """A welder's watts by its arc: ``U_arc · I / η``.

    Raises
    ------
    OutOfRange
        If volts or amps are not above zero, or the efficiency not 0 to 1.
    """
    require_above(arc_v, 0, "arc_v")
    require_above(amps, 0, "amps")
    require_above(efficiency, 0, "efficiency")
    require_between(efficiency, 0, 1, "efficiency")
    words = f"{arc_v:g} V arc × {amps:g} A ÷ {efficiency:g}"
    return LoadFigure("run_w", arc_v * amps / efficiency, Basis.NAMEPLATE, words)


def working_of(figure: LoadFigure, shown: str) -> Working:
    """A figure as a line of working."""
    return Working(figure.basis.label, figure.label or "as entered", shown)
