"""Two units in parallel as one source: its capacity by each school, and the limits that follow from the chosen one."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import MusterError
from ..quantities import Grade, plain
from ..supply import System
from ..trade.pair import pair_capacity
from .claims import PairSchool, Source


@dataclass(frozen=True)
class BySchool:
    """What a pair carries by one school [W]; None where its readings are missing."""

    school: PairSchool
    w: float | None
    surge_w: float | None
    basis: str
    grade: Grade


def by_schools(source: Source, system: System) -> tuple[BySchool, ...]:
    """The capacity of a pair by all three schools; empty for a source of one unit.

    Amps are taken at the supply's whole voltage. The measured line has no
    surge of its own: the sum of the claims stands in for it.
    """
    if len(source.units) != 2:
        return ()
    ratings = [unit.cont_w for unit in source.units]
    surges = [unit.surge_w or unit.cont_w for unit in source.units]
    smaller = min(range(2), key=lambda i: ratings[i])
    return (
        BySchool(
            PairSchool.TWICE_SMALLER,
            2 * min(ratings),
            2 * min(surges),
            f"2 × {plain(ratings[smaller], 'w')} of {source.units[smaller].name}",
            source.claim_grade,
        ),
        BySchool(
            PairSchool.SUM, sum(ratings), sum(surges), " + ".join(plain(w, "w") for w in ratings), source.claim_grade
        ),
        _measured(source, system),
    )


def _measured(source: Source, system: System) -> BySchool:
    volts = system.v_nominal * system.legs
    limits_a = (source.units[0].cont_w / volts, source.units[1].cont_w / volts)
    surge_w = sum(unit.surge_w or unit.cont_w for unit in source.units)
    try:
        pair = pair_capacity(
            [share.total_a for share in source.shares],
            [share.one_a for share in source.shares],
            [share.other_a for share in source.shares],
            limits_a,
        )
    except MusterError as error:
        want = "read the amps of each unit at two totals or more" if len(source.shares) < 2 else error.what
        return BySchool(PairSchool.MEASURED, None, None, want, Grade.D)
    reached = f"{source.units[pair.first].name} meets its rating at {plain(pair.measured_a, 'a')} in all"
    beyond = ", followed past what was read" if pair.beyond else ""
    return BySchool(
        PairSchool.MEASURED, pair.measured_a * volts, surge_w, reached + beyond, Grade.B if pair.beyond else Grade.A
    )


def chosen(source: Source, system: System) -> BySchool | None:
    """The school the source goes by; twice the smaller while the shares are not read. None for one unit."""
    by_school_found = {by_school.school: by_school for by_school in by_schools(source, system)}
    wanted = by_school_found.get(source.school)
    return wanted if wanted is not None and wanted.w is not None else by_school_found.get(PairSchool.TWICE_SMALLER)
