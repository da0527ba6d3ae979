"""Volts and hertz for a moment, as loads come and go: part of the rows of volts and of hertz."""

from __future__ import annotations

from collections.abc import Iterable

from ..character.evidence import SwingSeen
from ..loads import does
from ..quantities import Grade, plain
from ..sessions import Place
from ..trade.ride_through import rise_ceiling_pct
from ..working import Working
from .inputs import VerdictInputs
from .requirement import ORDER, Evidence, Margin, Requirement, room, status_of

RISE_S = 0.5
"""Volts are back after a load went in about so long; what stood longer is read as steady volts."""
HZ_UP_PCT, HZ_DOWN_PCT = 12.0, 10.0
"""Hertz gained as all is shed, and lost as a load comes, of performance class G2, for loads as the mains feeds them (ISO 8528-5)."""
AS_MUCH_X = 1.1
"""A swing under more than the home's peak, and a tenth, says nothing of the home."""


def with_volts_swung(row: Requirement, case: VerdictInputs) -> Requirement:
    """The row of volts, or what a rise for a moment makes of it where a home has electronics and that is worse."""
    fussy = next((load for load in case.home.loads if load.gap_ms is not None), None)
    if fussy is None or not row.must:
        return row
    ceiling = rise_ceiling_pct(RISE_S) / 100
    rows = []
    for swing in _swings(case, "v"):
        if swing.highest:
            nominal = case.home.brief.system.v_nominal * (2 if _is_across(case, swing) else 1)
            limit = nominal * ceiling
            rows.append(
                _judged(
                    row,
                    swing,
                    room(limit, swing.value.value, swing.value.u, "v", below=True),
                    limit,
                    f"{does(fussy, 'stands')} {plain(limit, 'v')} for half a second",
                )
            )
    return _worst([row, *rows])


def _is_across(case: VerdictInputs, swing: SwingSeen) -> bool:
    return case.home.brief.system.legs == 2 and swing.place is Place.TOTAL


def with_hertz_swung(row: Requirement, case: VerdictInputs) -> Requirement:
    """The row of hertz, or what a swing for a moment makes of it where that is worse."""
    if not row.must:
        return row
    hz, rows = case.home.brief.system.hz, []
    for swing in _swings(case, "hz"):
        limit = hz * (1 + HZ_UP_PCT / 100) if swing.highest else hz * (1 - HZ_DOWN_PCT / 100)
        margin = room(limit, swing.value.value, swing.value.u, "hz", below=swing.highest)
        rows.append(
            _judged(row, swing, margin, limit, f"{plain(limit, 'hz')} is what loads of the mains stand (class G2)")
        )
    return _worst([row, *rows])


def _swings(case: VerdictInputs, quantity: str) -> Iterable[SwingSeen]:
    """Those since it was last set, under no more than the home would have on."""
    most_w = AS_MUCH_X * case.demand.peak_w
    return [swing for swing in case.seen.swings(quantity) if swing.under_w is None or swing.under_w <= most_w]


def _judged(row: Requirement, swing: SwingSeen, margin: Margin, limit: float, whose: str) -> Requirement:
    unit = swing.value.unit
    way = "≤" if swing.highest else "≥"
    verb = "Rose" if swing.highest else "Fell"
    under = f" with {plain(swing.under_w, 'w')} coming or going" if swing.under_w else ""
    return Requirement(
        key=row.key,
        demand=f"{way} {plain(limit, unit)} for a moment",
        capability=plain(swing.value.value, unit),
        margin=margin,
        grade=swing.value.grade,
        status=status_of(margin, Evidence(Grade.A)),
        sentence=f"{verb} to {plain(swing.value.value, unit)}{under}; {whose}.",
        workings=(
            Working("margin = distance to what is stood for a moment", whose, str(margin), "ITIC envelope; ISO 8528-5"),
        ),
        seqs=(swing.seq,) if swing.seq else (),
        findings=(swing.finding,) if swing.finding is not None else (),
    )


def _worst(rows: list[Requirement]) -> Requirement:
    """The worst; a row that carries steady says nothing of its moments where they have more room."""
    return min(rows, key=lambda row: ORDER.index(row.status))
