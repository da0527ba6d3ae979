"""Motors and engines: starting kVA from nameplates, speed and frequency, the governor."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import OutOfRange, UnknownChoice, require_above, require_between

CODE_KVA_PER_HP = {
    "A": 3.14, "B": 3.54, "C": 3.99, "D": 4.49, "E": 4.99, "F": 5.59, "G": 6.29, "H": 7.09, "J": 7.99, "K": 8.99, "L": 9.99,
    "M": 11.19, "N": 12.49, "P": 13.99, "R": 15.99, "S": 17.99, "T": 19.99, "U": 22.39, "V": 22.4,
}  # fmt: skip
"""Locked-rotor kVA per horsepower by code letter, the upper end of each; V has none: at least (NEC 430.7(B))."""
OPEN_ENDED = "V"
WINDOW_PCT = 5.0
"""A set-point is refused that leaves nominal ± 5 %: 57 to 63 Hz, 47.5 to 52.5 Hz (docs/method/starts.md#set-point-of-a-governor)."""


def code_letter_va(letter: str, hp: float) -> float:
    """Starting apparent power from a motor's code letter and horsepower [VA], the upper end.

    For V it is the least it can be.

    Raises
    ------
    UnknownChoice
        If there is no such letter.
    OutOfRange
        If the horsepower is not above zero.

    References
    ----------
    NEC 430.7(B), table of locked-rotor indicating code letters.
    """
    require_above(hp, 0, "hp")
    try:
        return CODE_KVA_PER_HP[letter.strip().upper()] * hp * 1000
    except KeyError:
        raise UnknownChoice(f"got “{letter}”", where="letter", want=" ".join(CODE_KVA_PER_HP)) from None


def locked_rotor_va(v_nominal: float, lra_a: float) -> float:
    """Starting apparent power from locked-rotor amps [VA]: ``V_nominal · LRA``."""
    return require_above(v_nominal, 0, "v_nominal") * require_above(lra_a, 0, "lra_a")


def rpm_of(hz: float, poles: int) -> float:
    """Synchronous speed [rpm]: ``120 · f / poles``.

    Raises
    ------
    OutOfRange
        If the poles are not an even number of 2 or more.
    """
    if poles < 2 or poles % 2:
        raise OutOfRange(f"got {poles}", where="poles", want="an even number: 2, 4, 6")
    return 120 * hz / poles


def hz_of(rpm: float, poles: int) -> float:
    """Frequency of a generator turning at ``rpm`` [Hz]: ``rpm · poles / 120``.

    Raises
    ------
    OutOfRange
        If the poles are not an even number of 2 or more.
    """
    return rpm / rpm_of(1.0, poles)


def clock_hz(nominal_hz: float, clock_s: float, true_s: float) -> float:
    """Frequency by a synchronous clock [Hz]: ``f_n · clock seconds / true seconds``.

    Raises
    ------
    OutOfRange
        If a time is not above zero.
    """
    return nominal_hz * require_above(clock_s, 0, "clock_s") / require_above(true_s, 0, "true_s")


@dataclass(frozen=True)
class SetPoint:
    """Where to set the no-load frequency, and what it then is at full load; ``fits`` within nominal ± 5 %."""

    no_load_hz: float
    full_load_hz: float
    fits: bool


def set_point(
    nominal_hz: float, no_load_hz: float, at_load_hz: float, load_w: float, right_at_w: float, full_w: float
) -> SetPoint:
    """The no-load frequency that puts the droop line at nominal for a load of ``right_at_w``.

    The line's slope is taken from two readings, no load and ``load_w``; the
    governor's screw moves it without tilting it.

    Raises
    ------
    OutOfRange
        If a load is not above zero.

    References
    ----------
    Straight droop of a speed governor (ISO 8528-5, 5.1).
    """
    require_above(load_w, 0, "load_w")
    require_above(full_w, 0, "full_w")
    require_between(right_at_w, 0, full_w, "right_at_w")
    slope = (at_load_hz - no_load_hz) / load_w
    no_load = nominal_hz - slope * right_at_w
    full = no_load + slope * full_w
    low, high = nominal_hz * (1 - WINDOW_PCT / 100), nominal_hz * (1 + WINDOW_PCT / 100)
    return SetPoint(no_load, full, low <= min(no_load, full) and max(no_load, full) <= high)
