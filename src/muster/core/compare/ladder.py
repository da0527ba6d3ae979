"""The starts of a home as a ladder of motors: which of them each source starts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..loads import Load, short_name
from ..verdict import Verdict
from ..verdict.requirement import Status


@dataclass(frozen=True)
class MotorRung:
    """A motor with the VA of its start, and how each source stands to it, in their order; None where it is not asked."""

    name: str
    start_va: float
    statuses: tuple[Status | None, ...]


def ladder_of_motors(loads: Sequence[Load], verdicts: Sequence[Verdict], hz: float) -> tuple[MotorRung, ...]:
    """The motors of a home from the smallest start up.

    Parameters
    ----------
    loads
        Of the home, as they are judged.
    verdicts
        One a source.
    hz
        Of the supply: what starts within a cycle is no start. [Hz]

    Returns
    -------
    tuple of MotorRung
        Without those that no verdict has a line of.
    """
    motors = sorted((load for load in loads if load.has_start(hz)), key=lambda load: load.start_total_va)
    rungs = [
        MotorRung(
            name=short_name(load),
            start_va=load.start_total_va,
            statuses=tuple(_status(verdict, short_name(load)) for verdict in verdicts),
        )
        for load in motors
    ]
    return tuple(rung for rung in rungs if any(status is not None for status in rung.statuses))


def _status(verdict: Verdict, load: str) -> Status | None:
    return next((row.status for row in verdict.start_rows if row.load == load), None)
