"""The one error tree of the core: each error says what, where and what would be right."""

import unicodedata


def _one_line(text: str) -> str:
    """A text without what would break its line: what was given may hold anything, and is quoted."""
    return "".join(" " if unicodedata.category(c) in ("Cc", "Zl", "Zp") else c for c in text)


class MusterError(ValueError):
    """Something given to Muster cannot be used; said in one line.

    Parameters
    ----------
    what : str
        What is wrong, in words a person would say.
    where : str
        The field, argument or path at fault (``loads[3].run_w``).
    want : str
        What would be right.
    """

    def __init__(self, what: str, *, where: str = "", want: str = "") -> None:
        self.what, self.where, self.want = _one_line(what), _one_line(where), _one_line(want)
        place = f"{self.where}: " if where else ""
        hint = f"; {self.want}" if want else ""
        super().__init__(f"{place}{self.what}{hint}")


class OutOfRange(MusterError):
    """A number lies outside what its quantity allows."""


class UnknownChoice(MusterError):
    """A word is not one of the words known here."""


class NotEnoughReadings(MusterError):
    """A finding was asked for that the readings at hand cannot carry."""


class Refused(MusterError):
    """The state of the record does not allow this change."""


def require_above(value: float, floor: float, where: str) -> float:
    """Return ``value`` when it is above ``floor``.

    Raises
    ------
    OutOfRange
        If it is not, or is not a number.
    """
    if not value > floor:
        raise OutOfRange(f"got {value:g}", where=where, want=f"must be above {floor:g}")
    return value


def require_between(value: float, low: float, high: float, where: str) -> float:
    """Return ``value`` when ``low <= value <= high``.

    Raises
    ------
    OutOfRange
        If it is not, or is not a number.
    """
    if not low <= value <= high:
        raise OutOfRange(f"got {value:g}", where=where, want=f"must be {low:g} to {high:g}")
    return value
