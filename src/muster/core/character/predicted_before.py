"""What was predicted of each session by what was known before it, against what it then read."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ..quantities import THIN, Value, number
from ..sessions import Place
from ..supply import Leg
from .character import Character
from .fit import character_of
from .given import Dated, Given
from .predict import predictions
from .set_since import SetSince


@dataclass(frozen=True)
class PredictedBefore:
    """A figure that the sessions before one predicted of it, and what it read."""

    name: str
    session: str
    at: str
    predicted: Value
    read: Value

    @property
    def off(self) -> float:
        """Read less predicted, in its own unit."""
        return self.read.value - self.predicted.value

    @property
    def within(self) -> bool:
        """Whether they agree within both half-widths."""
        return abs(self.off) <= math.hypot(self.predicted.u or 0.0, self.read.u or 0.0)


def predicted_before(given: Given) -> tuple[PredictedBefore, ...]:
    """Every figure of a later session that the earlier ones predicted: steady volts and hertz, and lowest volts of starts.

    Parameters
    ----------
    given
        The source and its sessions, the earliest first.

    Returns
    -------
    tuple of PredictedBefore
        In the order of the sessions; of a line the point farthest from what was read before stands for it.
    """
    told: list[PredictedBefore] = []
    for index in range(1, len(given.sessions)):
        before = character_of(given.source, given.system, given.site, given.sessions[:index])
        since = SetSince(given.sessions[: index + 1])
        if since.is_outdated(index - 1, "held_w"):
            continue  # it was serviced: what was known before is of another source
        if not since.is_outdated(index - 1, "no_load_hz"):
            told += _lines(before, given.sessions[index])
        told += _starts(before, given, given.sessions[index])
    return tuple(told)


def _lines(before: Character, session: Dated) -> Iterator[PredictedBefore]:
    seen = session.findings
    for line in (*seen.regulation, *seen.droops):
        volts = line.unit == "v"
        heaviest = max(line.points, key=lambda point: point.w)
        expected = before.volts_at(line.place.value, heaviest.w) if volts else before.hertz_at(heaviest.w)
        if expected is None:
            continue
        where = f" of leg {line.place.value}" if volts and line.place is Place.LEG2 else ""
        yield PredictedBefore(
            name=f"{'volts' if volts else 'hertz'}{where} at {number(heaviest.w)}{THIN}W",
            session=session.name,
            at=session.at,
            predicted=expected,
            read=Value(heaviest.y, line.unit, heaviest.u, None, expected.grade),
        )


def _starts(before: Character, given: Given, session: Dated) -> Iterator[PredictedBefore]:
    if not before.start_models:
        return
    for start in session.findings.starts:
        if start.lowest is None or start.lowest.bound is not None or start.leg is None:
            continue
        (prediction,) = predictions(before, [start.load], given.system, {start.load.key: start.base_w})
        if prediction.lowest is not None and prediction.leg is (start.leg if given.system.legs == 2 else Leg.ONE):
            yield PredictedBefore(
                name=f"lowest volts as the {start.load.name.split(',')[0]} starts",
                session=session.name,
                at=session.at,
                predicted=prediction.lowest,
                read=start.lowest,
            )


def how_predicted(figures: Sequence[PredictedBefore]) -> str:
    """How well the sessions predicted one another, in a sentence; empty where nothing was predicted."""
    if not figures:
        return ""
    right = sum(figure.within for figure in figures)
    return f"Of {len(figures)} figures that earlier sessions predicted of later ones, {right} came out within the band."
