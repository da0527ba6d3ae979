"""Waveform and transfer: what was captured, else the nameplate."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ..brief import Wiring
from ..character.evidence import WaveSeen, rings_of, wave_class
from ..loads import THD_LIMIT_PCT, Load, Wave, does
from ..quantities import THIN, Bound, Grade, Value, plain
from ..trade.schools import SteppedWave
from .inputs import VerdictInputs
from .quality import fussiest
from .requirement import Evidence, Margin, Requirement, Status, not_required, room, status_of, unproven

ORDER = (Wave.SINE, Wave.ROUGH, Wave.STEPPED)


def waveform(case: VerdictInputs) -> Requirement:
    """Waveform: what the most sensitive load needs, against the worst capture, else the nameplate."""
    if not case.home.loads:
        return not_required("waveform", "No loads yet.")
    pickiest = min(case.home.loads, key=lambda load: ORDER.index(load.wave))
    if pickiest.wave is Wave.STEPPED and case.home.brief.schools.stepped is SteppedWave.REFUSE:
        # By the job's school no home is content with it.
        pickiest = replace(pickiest, tolerance=replace(pickiest.tolerance, wave=Wave.ROUGH))
    if pickiest.wave is Wave.STEPPED:
        return not_required("waveform", "No load of this home minds the waveform.")
    worst = max(case.seen.waves, key=lambda seen: seen.at.wave.distortion_pct, default=None)
    return _captured(case, pickiest, worst) if worst is not None else _claimed(case, pickiest)


def _captured(case: VerdictInputs, pickiest: Load, worst: WaveSeen) -> Requirement:
    """The worst wave seen; with nothing but unloaded captures it may be worse under load."""
    limit, wave = THD_LIMIT_PCT[pickiest.wave], worst.at.wave
    shape = wave_class(worst)
    margin = room(limit, wave.distortion_pct, worst.finding.value.u, "pt", below=True)
    unloaded = not any(seen.on for seen in case.seen.waves)
    passes = ORDER.index(shape) <= ORDER.index(pickiest.wave)
    rings = f" with {plain(wave.residual_pct, 'pct')} of ringing" if rings_of(worst) else ""
    status = status_of(margin, Evidence(Grade.A, flatters=unloaded and passes))
    tail = " Seen at no load: under load it may be worse." if unloaded else ""
    return Requirement(
        key="waveform",
        demand=f"{pickiest.wave}, THD ≤ {limit:g}{THIN}%",
        capability=f"{wave.shape}, THD {plain(wave.thd_pct, 'pct')}{rings}",
        margin=margin,
        grade=Grade.A,
        status=status,
        sentence=f"Captured {worst.state}: {wave.shape.label}; {does(pickiest, 'wants')} {limit:g}{THIN}% or less.{tail}",
        workings=worst.finding.workings,
        findings=(worst.finding,),
    )


def _claimed(case: VerdictInputs, pickiest: Load) -> Requirement:
    need, claims = pickiest.wave, case.source.claims
    limit = THD_LIMIT_PCT[need]
    demand = f"{need}, THD ≤ {limit:g}{THIN}%"
    who = f"{does(pickiest, 'wants')} it"
    if claims.wave is Wave.STEPPED:
        gap = Margin(-1.0, -1.0, -1.0, "pt")
        return Requirement(
            key="waveform",
            demand=demand,
            capability="stepped",
            margin=gap,
            grade=Grade.C,
            status=Status.FALLS_SHORT,
            sentence=f"A stepped wave by the nameplate; {who}.",
        )
    if claims.thd_pct is None:
        return unproven("waveform", demand, f"No capture yet; {who}.")
    margin = room(limit, claims.thd_pct, None, "pt", below=True)
    status = status_of(margin, Evidence(Grade.C))
    return Requirement(
        key="waveform",
        demand=demand,
        capability=f"THD {plain(claims.thd_pct, 'pct')}",
        margin=margin,
        grade=Grade.C,
        status=status,
        sentence=f"By the nameplate alone; {who}.",
    )


def transfer(case: VerdictInputs) -> Requirement:
    """Transfer: the gap when the source takes over, measured or claimed, against the shortest break that a load notices."""
    if case.home.brief.wiring is not Wiring.AUTOMATIC:
        return not_required("transfer", "Connected by hand, so the house is dark until then.")
    who = fussiest(case, "gap_ms")
    if who is None:
        return not_required("transfer", "No load of this home minds a break.")
    demand, whose = f"gap ≤ {plain(who.pct, 'ms')}", f"{does(who.load, 'notices')} more"
    seen = case.seen.gaps
    if seen:
        longest = max(seen, key=lambda gap: gap.gap_ms.value)
        return _gap(demand, who.pct, longest.gap_ms, f"Measured, the longest of {len(seen)}; {whose}.", longest.finding)
    claimed = case.source.claims.transfer_ms
    if claimed is None:
        return unproven("transfer", demand, f"The gap has not been measured; {whose}.")
    return _gap(demand, who.pct, Value(claimed, "ms", None, None, Grade.C), f"By the booklet; {whose}.")


def _gap(demand: str, limit_ms: float, gap: Value, sentence: str, finding: Any = None) -> Requirement:
    margin = room(limit_ms, gap.value, gap.u, "ms", below=True)
    status = status_of(margin, Evidence(gap.grade, flatters=gap.bound is Bound.AT_LEAST))
    return Requirement(
        key="transfer",
        demand=demand,
        capability=plain(gap.value, "ms"),
        margin=margin,
        grade=gap.grade,
        status=status,
        sentence=sentence,
        workings=(),
        seqs=finding.seqs if finding is not None else (),
        findings=(finding,) if finding is not None else (),
    )
