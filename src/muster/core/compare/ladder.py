"""The starts of a home as a ladder of motors: which of them each source starts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..character import Given
from ..loads import Load, short_name
from ..verdict import Verdict
from ..verdict.requirement import Status


@dataclass(frozen=True)
class MotorStep:
    """A motor with the VA of its start, and how each source stands to it, in their order; None where it is not asked."""

    name: str
    start_va: float
    statuses: tuple[Status | None, ...]


def ladder_of_motors(loads: Sequence[Load], verdicts: Sequence[Verdict], hz: float) -> tuple[MotorStep, ...]:
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
    tuple of MotorStep
        Without those that no verdict has a line of.
    """
    motors = sorted((load for load in loads if load.has_start(hz)), key=lambda load: load.start_total_va)
    steps = [
        MotorStep(
            name=short_name(load),
            start_va=load.start_total_va,
            statuses=tuple(_status(verdict, short_name(load)) for verdict in verdicts),
        )
        for load in motors
    ]
    return tuple(step for step in steps if any(status is not None for status in step.statuses))


@dataclass(frozen=True)
class UnitStep:
    """A motor that units were tried with, and whether each started it, in their order; None where it was not tried."""

    name: str
    start_va: float
    started: tuple[bool | None, ...]


def ladder_of_units(given: Sequence[Given]) -> tuple[UnitStep, ...]:
    """The motors that any of several units was tried with, from the smallest start up.

    Parameters
    ----------
    given
        One a unit, of one job.

    Returns
    -------
    tuple of UnitStep
        A unit that failed once did not start it.
    """
    seen = [[start for dated in unit.sessions for start in dated.findings.starts] for unit in given]
    motors = {start.load.key: start.load for starts in seen for start in starts}
    steps = [
        UnitStep(
            name=short_name(load),
            start_va=load.start_total_va,
            started=tuple(
                all(not start.outcome.failed for start in tries) if tries else None
                for tries in ([start for start in starts if start.load.key == load.key] for starts in seen)
            ),
        )
        for load in motors.values()
    ]
    return tuple(sorted(steps, key=lambda step: step.start_va))


def _status(verdict: Verdict, load: str) -> Status | None:
    return next((row.status for row in verdict.start_rows if row.load == load), None)
