"""Voltage, frequency, noise, safe connection."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..character import predictions
from ..character.evidence import LoadLine, heard_under
from ..fits import LEAST_LOADS, Line
from ..loads import Load, does, short_name
from ..quantities import THIN, Bound, Grade, Value, number, plain
from ..safety.checks import connection_checks
from ..sessions.replay import Outcome
from ..supply import Leg, System
from ..trade.ride_through import dip_floor_pct
from ..trade.schools import NoiseBy
from ..trade.sound import at_distance
from ..working import Working
from .inputs import VerdictInputs
from .requirement import (
    NO_HEAVIER,
    Evidence,
    Margin,
    PassOrFail,
    Requirement,
    Status,
    not_required,
    room,
    status_of,
    unproven,
)

CLAIMED_NOISE_AT_M = 7.0
AT_WINDOW = 0.2
"""A spot within so much of the neighbour's distance is at the neighbour's window. Ours."""
MOTOR_SUM_PCT = 10.0
"""Volts and hertz off a motor's plate, both in percent, together at most this (NEMA MG 1, 12.44)."""
SHOWN_S = 0.2
"""A dip that a meter showed stood for at least its window of about ten cycles (IEC 61000-4-30), whatever the load's kind says."""


def _peak_on(case: VerdictInputs, leg: Leg) -> float:
    if case.home.brief.system.legs == 1:
        return case.demand.peak_w
    return case.demand.leg_w[int(leg.value) - 1]


@dataclass(frozen=True)
class Fussiest:
    """The tightest figure among the loads, and whose it is."""

    pct: float
    load: Load
    beside_hz_pct: float | None = None
    """How far the hertz are off beside it, where volts and hertz count together."""

    @property
    def beside(self) -> tuple[str, ...]:
        """That the hertz of the moment leave less room, in words; nothing where they do not count."""
        if self.beside_hz_pct is None:
            return ()
        return (f"The hertz are {number(self.beside_hz_pct)}{THIN}% off beside it, and motors stand both together.",)

    @property
    def label(self) -> str:
        """Whose it is, in words."""
        if self.beside_hz_pct is not None:
            return (
                f"the {short_name(self.load)} is a motor: {number(MOTOR_SUM_PCT)}{THIN}% of volts and hertz together, "
                f"of which the hertz take {number(self.beside_hz_pct)}{THIN}%"
            )
        return f"{does(self.load, 'tolerates')} {number(self.pct)}{THIN}%"


def fussiest(case: VerdictInputs, name: str) -> Fussiest | None:
    """The load that tolerates least of ``v_low_pct``, ``v_high_pct``, ``hz_pct`` or ``gap_ms``; None if none minds."""
    fussiests = [Fussiest(value, load) for load in case.home.loads if (value := getattr(load, name)) is not None]
    return min(fussiests, key=lambda item: item.pct, default=None)


def _least_room(case: VerdictInputs, sign: int) -> list[tuple[float, Fussiest]]:
    """The volts below (sign −1) or above which the first load suffers, each counting from its own nameplate; empty if none minds."""
    name, v_nominal = "v_low_pct" if sign < 0 else "v_high_pct", case.home.brief.system.v_nominal
    limits = [
        (v_nominal * load.plate_x(v_nominal) * (1 + sign * pct / 100), Fussiest(pct, load))
        for load in case.home.loads
        if (pct := getattr(load, name)) is not None
    ]
    return [min(limits, key=lambda item: sign * item[0])] if limits else []


_Row = tuple[Margin, float, float, LoadLine, Leg, Fussiest, float]
"""A margin with the volts it is of, the watts, the line, the leg, who minds, and the volts that it is held against."""


def voltage(case: VerdictInputs) -> Requirement:
    """Steady voltage: from no load to the home's peak, against what the loads stand either way."""
    system = case.home.brief.system
    limits = [(v, sign < 0, who) for sign in (-1, 1) for v, who in _least_room(case, sign)]
    if not limits:
        return not_required("voltage", "No load of this home minds the volts.")
    low, high = (next((v for v, is_low, _ in limits if is_low == wanted), None) for wanted in (True, False))
    demand = _window(low, high, "V")
    rows: list[_Row] = []
    too_far: list[str] = []
    for leg in system.leg_names:
        fit = case.seen.regulation(leg)
        peak_w = _peak_on(case, leg)
        if peak_w > 0 and (fit is None or not fit.line.bears(peak_w)):
            too_far.append(_why_not(fit.line if fit else None, leg, peak_w, system))
        if fit is None:
            continue
        for w in (0.0, peak_w):
            for limit, is_low, who in limits:
                margin = room(limit, fit.line.at(w), fit.u_at(w), "v", below=not is_low)
                rows.append((margin, fit.line.at(w), w, fit, leg, who, limit))
        rows += _with_hertz(case, leg, fit, peak_w)
    if not rows:
        return unproven("voltage", demand, "No volts read against load yet.")
    margin, volts, w, fit, leg, who, limit = min(rows, key=lambda row: row[0].value)
    grade = Grade.A if fit.line.reaches(w) else Grade.B
    beyond = "" if grade is Grade.A else f" (read only to {plain(fit.line.x_high, 'w')}, the line drawn on)"
    where = f" on {leg.label}" if system.legs == 2 else ""
    return Requirement(
        key="voltage",
        demand=demand,
        capability=plain(volts, "v"),
        margin=margin,
        grade=grade,
        status=status_of(margin, Evidence(grade, missing=bool(too_far))),
        sentence=" ".join([f"{plain(volts, 'v')}{where} at {plain(w, 'w')}{beyond}.", *who.beside, *too_far]),
        workings=(
            *fit.finding.workings,
            Working(
                "margin = distance to the nearer limit",
                _room_put_in(limit, volts, margin, "v"),
                str(margin),
                f"{demand}; {who.label}: what its kind tolerates, or what was said of it; NEMA MG 1",
            ),
        ),
        seqs=fit.finding.seqs,
        findings=(fit.finding,),
    )


def _room_put_in(limit: float, value: float, margin: Margin, unit: str) -> str:
    """The difference that a margin is, its greater figure first where there is room."""
    above = math.isclose(limit - value, margin.value, abs_tol=1e-6)
    first, second = (limit, value) if above else (value, limit)
    return f"{first:.1f} − {second:.1f}" if unit == "v" else f"{first:.2f} − {second:.2f}"


def _with_hertz(case: VerdictInputs, leg: Leg, fit: LoadLine, peak_w: float) -> list[_Row]:
    """The volts of a leg against what its motors stand beside the hertz of the same moment: at the lightest of them alone, and at the peak."""
    system, droop = case.home.brief.system, case.seen.droop
    motors = [load for load in case.home.loads if load.has_start(system.hz) and load.leg in (leg, Leg.BOTH)]
    if droop is None or not motors:
        return []
    # The lightest of those with one plate: it runs where volts and hertz stand highest.
    by_plate = {load.plate_x(system.v_nominal): load for load in sorted(motors, key=lambda load: -load.run_w)}
    rows = []
    for plate_x, lightest in by_plate.items():
        share = 1.0 if system.legs == 1 else lightest.share_on(leg)
        for leg_w, whole_w in ((lightest.run_w * share, lightest.run_w), (peak_w, case.demand.peak_w)):
            off_pct = abs(droop.line.at(whole_w) / system.hz - 1) * 100
            who = Fussiest(max(0.0, MOTOR_SUM_PCT - off_pct), lightest, off_pct)
            volts = fit.line.at(leg_w)
            u = math.hypot(fit.u_at(leg_w), droop.u_at(whole_w) / system.hz * system.v_nominal)
            for sign in (-1, 1):
                limit = plate_x * system.v_nominal * (1 + sign * who.pct / 100)
                rows.append((room(limit, volts, u, "v", below=sign > 0), volts, leg_w, fit, leg, who, limit))
    return rows


def _why_not(line: Line | None, leg: Leg, peak_w: float, system: System) -> str:
    """Why the volts of a leg at the home's peak are not known."""
    where = f"{leg.label.capitalize()} " if system.legs == 2 else "It "
    if line is None:
        return f"{where}was not read against load."
    loads = f"at {line.n} loads" if line.n < LEAST_LOADS else f"to {plain(line.x_high, 'w')}"
    return f"{where}was read {loads} only: too little to tell of {plain(peak_w, 'w')}."


def _window(low: float | None, high: float | None, unit: str) -> str:
    if low is None or high is None:
        return f"≥ {low:g}{THIN}{unit}" if low is not None else f"≤ {high:g}{THIN}{unit}"
    return f"{low:g}–{high:g}{THIN}{unit}"


@dataclass(frozen=True)
class _Dip:
    """The lowest volts of a start, seen or predicted, and what must stand through it."""

    load: Load
    lowest: Value
    full_v: float
    seqs: tuple[int, ...] = ()
    findings: tuple[object, ...] = ()

    @property
    def lasts_s(self) -> float:
        return max(self.load.start_s, SHOWN_S)

    @property
    def floor_pct(self) -> float:
        return dip_floor_pct(self.lasts_s)

    @property
    def floor_v(self) -> float:
        return self.full_v * self.floor_pct / 100

    @property
    def margin(self) -> Margin:
        return room(self.floor_v, self.lowest.value, self.lowest.u, "v", below=False)


def _dips_seen(case: VerdictInputs) -> list[_Dip]:
    """The dips of starts that held, and of those that stalled on no more than the home has beneath them."""
    nominal = case.home.brief.system.v_nominal
    base_w = {start.load: start.base_w for start in case.demand.starts}
    return [
        _Dip(
            load=start.load,
            lowest=start.lowest,
            full_v=nominal * (2 if start.leg is Leg.BOTH else 1),
            seqs=(start.run.seq,),
            findings=(start.finding,),
        )
        for start in case.seen.starts
        if start.lowest is not None
        and (
            start.outcome is Outcome.HELD
            or (start.outcome is Outcome.STALLED and start.base_w <= base_w.get(start.load.key, 0.0) * NO_HEAVIER)
        )
    ]


def _dips_predicted(case: VerdictInputs, motors: Sequence[Load]) -> list[_Dip]:
    """The dips of starts that were never seen, where the character tells them better than by a guess."""
    if not case.character.start_models:
        return []
    system = case.home.brief.system
    base_w = {start.load: start.base_w for start in case.demand.starts}
    told = predictions(case.character, motors, system, base_w, case.seen.starts)
    return [
        _Dip(item.load, item.lowest, system.v_nominal * (2 if item.leg is Leg.BOTH else 1))
        for item in told
        if item.lowest is not None and item.lowest.grade.is_measured
    ]


def dips(case: VerdictInputs) -> Requirement:
    """Dips: the lowest voltage at every start that the outage will have, seen or predicted, against what electronics stand."""
    nominal = case.home.brief.system.v_nominal
    motors = [load for load in case.home.loads if load.has_start(case.home.brief.system.hz)]
    if not motors:
        return not_required("dips", "No load of this home has a start.")
    seen = _dips_seen(case)
    if not seen:
        return unproven(
            "dips", f"≥ {plain(nominal * 0.7, 'v')} for 0.5 s", "No start with its lowest voltage read yet."
        )
    told = {dip.load.key for dip in seen}
    predicted = _dips_predicted(case, [load for load in motors if load.key not in told])
    told |= {dip.load.key for dip in predicted}
    untold = [short_name(load) for load in motors if load.key not in told]
    worst = min((*seen, *predicted), key=lambda dip: dip.margin.value)
    margin, lowest = worst.margin, worst.lowest
    whole = {dip.load.key for dip in (*seen, *predicted) if dip.lowest.bound is not Bound.AT_MOST}
    deeper = list(dict.fromkeys(short_name(dip.load) for dip in seen if dip.load.key not in whole))
    status = status_of(margin, Evidence(lowest.grade, flatters=bool(deeper), missing=bool(untold) and margin.high >= 0))
    how = "" if worst.seqs else ", as predicted"
    whose = "" if short_name(worst.load) in deeper and len(deeper) == 1 else f" of the {' and the '.join(deeper)}"
    tail = f" The meter is slower than the dip{whose}: it may have been deeper." if deeper else ""
    tail += f" Neither read nor predicted: the dip of the {' and the '.join(untold)}." if untold else ""
    return Requirement(
        key="dips",
        demand=f"≥ {plain(worst.floor_v, 'v')}",
        capability=str(lowest) if lowest.bound else plain(lowest.value, "v"),
        margin=margin,
        grade=lowest.grade,
        status=status,
        sentence=f"Worst at the {short_name(worst.load)}'s start, {plain(lowest.value, 'v')}{how}.{tail}",
        workings=(
            Working(
                f"floor = {worst.floor_pct:g} % of nominal for {plain(worst.lasts_s, 's')}",
                f"{worst.full_v:.0f} V × {worst.floor_pct:g} %",
                plain(worst.floor_v, "v"),
                "ITIC envelope",
            ),
        ),
        seqs=worst.seqs,
        findings=worst.findings,
    )


def frequency(case: VerdictInputs) -> Requirement:
    """Frequency from no load to the home's peak, against what the most sensitive load tolerates."""
    hz, who = case.home.brief.system.hz, fussiest(case, "hz_pct")
    if who is None:
        return not_required("frequency", "No load of this home minds the hertz.")
    low, high = hz * (1 - who.pct / 100), hz * (1 + who.pct / 100)
    demand = _window(low, high, "Hz")
    fit = case.seen.droop
    if fit is None:
        return unproven("frequency", demand, "No hertz read against load yet.")
    peak_w = case.demand.peak_w
    ends = []
    for w in (0.0, peak_w):
        value, u = fit.line.at(w), fit.u_at(w)
        ends.append(room(low, value, u, "hz", below=False))
        ends.append(room(high, value, u, "hz", below=True))
    margin = min(ends, key=lambda end: end.value)
    grade = Grade.A if fit.line.reaches(peak_w) else Grade.B
    borne = fit.line.bears(peak_w)
    short = "" if borne else f" Read at {fit.line.n} loads, to {plain(fit.line.x_high, 'w')}: too little to tell."
    top, bottom = fit.line.at(0), fit.line.at(peak_w)
    return Requirement(
        key="frequency",
        demand=demand,
        capability=f"{number(bottom, 'hz')}–{number(top, 'hz')}{THIN}Hz",
        margin=margin,
        grade=grade,
        status=status_of(margin, Evidence(grade, missing=not borne)),
        sentence=f"{plain(top, 'hz')} unloaded, {plain(bottom, 'hz')} at the home's peak of {plain(peak_w, 'w')}.{short}",
        workings=fit.finding.workings,
        seqs=fit.finding.seqs,
        findings=(fit.finding,),
    )


def noise_by_day(case: VerdictInputs) -> Requirement:
    """Noise at the nearest neighbour by day."""
    return _noise(case, "day", case.home.brief.noise_day_dba)


def noise_by_night(case: VerdictInputs) -> Requirement:
    """Noise at the nearest neighbour in the quiet hours, where the outage reaches into them."""
    brief = case.home.brief
    return _noise(case, "night", brief.noise_night_dba if brief.covers_night() else None)


@dataclass(frozen=True)
class LevelAtNeighbour:
    """The level at the nearest neighbour, where it comes from in words, and why nothing can be staked on it if it passes."""

    level: Value
    origin: str
    flatters: str
    seqs: tuple[int, ...]
    workings: tuple[Working, ...]
    findings: tuple[object, ...] = ()
    most_dba: float | None = None
    """Under the most that the home ever draws, with its half-width; None where one level stands for all loads. [dBA]"""


def _load_heard(case: VerdictInputs, when: str) -> float:
    """The most that the home draws in an hour of the day, or of the night. [W]"""
    brief, demand = case.home.brief, case.demand
    hourly = zip(demand.hours, demand.hour_wh, strict=True)
    return max(
        (w for hour, w in hourly if (hour % 24 in brief.quiet_hours) == (when == "night")), default=demand.peak_w
    )


def _level_at_neighbour(case: VerdictInputs, when: str) -> LevelAtNeighbour | None:
    if case.home.brief.schools.noise_by is NoiseBy.AT_7M:
        return _level_at_7m(case)
    load_w = _load_heard(case, when)
    peak_w = max(load_w, case.demand.peak_w)
    heard, loudest = heard_under(case.seen.noise, load_w), heard_under(case.seen.noise, peak_w)
    if heard is not None and loudest is not None:
        most_dba = loudest.level.value + (loudest.level.u or 0.0)
        beyond = f"the home draws up to {plain(peak_w, 'w')}, and it is louder under more" if loudest.beyond else ""
        return LevelAtNeighbour(
            level=heard.level,
            origin=f"From the walk {heard.under}, with the {plain(load_w, 'w')} of the busiest hour on",
            flatters=heard.unsure or beyond or _not_read_there(case),
            seqs=heard.seqs,
            workings=heard.workings,
            findings=heard.findings,
            most_dba=max(most_dba, heard.level.value + (heard.level.u or 0.0)),
        )
    claimed = case.source.claims.noise_dba_7m
    if claimed is None:
        return None
    neighbour_m = case.home.brief.neighbour_m
    dba = at_distance(claimed, CLAIMED_NOISE_AT_M, neighbour_m)
    working = Working(
        f"level at the neighbour = claim − 20 · log10(neighbour ÷ {plain(7.0, 'm')})",
        f"{number(claimed, 'dba')} − 20 · log10({plain(neighbour_m, 'm')} ÷ {plain(7.0, 'm')})",
        plain(dba, "dba"),
        "inverse square law",
    )
    return LevelAtNeighbour(
        level=Value(dba, "dba", None, None, Grade.C),
        origin=f"From the claim at {plain(7.0, 'm')}",
        flatters="",
        seqs=(),
        workings=(working,),
    )


def _not_read_there(case: VerdictInputs) -> str:
    """That nobody read the level at the neighbour's window, where the job's school takes nothing else; else nothing."""
    if case.home.brief.schools.noise_by is not NoiseBy.AT_NEIGHBOUR:
        return ""
    there_m = case.home.brief.neighbour_m
    read = any(abs(spot.distance_m - there_m) <= AT_WINDOW * there_m for walk in case.seen.noise for spot in walk.spots)
    return "" if read else "by this job's rule only a reading at the neighbour's window counts"


def _level_at_7m(case: VerdictInputs) -> LevelAtNeighbour | None:
    """The level at 7 m, as read under load, else unloaded, else claimed: the limit is taken to be of there."""
    loaded, unloaded = case.character.get("dba_7m_loaded"), case.character.get("dba_7m_no_load")
    claimed = case.source.claims.noise_dba_7m
    level = loaded or unloaded or (Value(claimed, "dba", None, None, Grade.C) if claimed is not None else None)
    if level is None:
        return None
    how = "read under load" if loaded else "read at no load" if unloaded else "claimed"
    return LevelAtNeighbour(
        level=level,
        origin=f"At {plain(CLAIMED_NOISE_AT_M, 'm')}, {how}, as this job takes its limit to be of",
        flatters="" if loaded or not unloaded else "under load it is louder",
        seqs=(),
        workings=(),
    )


def _noise(case: VerdictInputs, when: str, limit: float | None) -> Requirement:
    key = f"noise-{when}"
    if limit is None:
        reason = "No limit set in the brief." if when == "day" else "No night limit, or no night in the outage."
        return not_required(key, reason)
    level_there = _level_at_neighbour(case, when)
    demand = f"≤ {plain(limit, 'dba')}"
    if level_there is None:
        return unproven(key, demand, "No level measured or claimed.")
    level, flatters = level_there.level, level_there.flatters
    seqs, workings = level_there.seqs, level_there.workings
    margin = room(limit, level.value, level.u, "dba", below=True)
    if level_there.most_dba is not None:
        margin = replace(margin, low=min(margin.low, limit - level_there.most_dba))
    if level.bound is Bound.AT_MOST:
        # An upper bound can show that it is quiet enough, never that it is too loud.
        margin = replace(margin, high=math.inf)
    evidence = Evidence(level.grade, flatters=bool(flatters) and margin.value >= 0)
    status = status_of(margin, evidence)
    at_7m = case.home.brief.schools.noise_by is NoiseBy.AT_7M  # what was played is of the neighbour
    return Requirement(
        key=key,
        evidence=None if at_7m else evidence,
        demand=demand,
        capability=plain(level.value, "dba"),
        margin=margin,
        grade=level.grade,
        status=status,
        sentence=f"{level_there.origin}: {plain(level.value, 'dba')}{_where(case)}{f'; {flatters}' if flatters else ''}.",
        workings=workings,
        seqs=seqs,
        findings=level_there.findings,
    )


def _where(case: VerdictInputs) -> str:
    if case.home.brief.schools.noise_by is NoiseBy.AT_7M:
        return ""
    return f" at the nearest neighbour, {plain(case.home.brief.neighbour_m, 'm')} away"


SAFETY = "safety"
"""What settles the connection: its safety checks, not a protocol."""


def connection(case: VerdictInputs) -> Requirement:
    """Safe connection: the safety checks of the wiring approach, each confirmed by name or not."""
    wiring, asked = case.home.brief.wiring.label, connection_checks(case.home, case.source)
    open_ones = [item for item in asked if item.slug not in case.passed]
    left = [open_one.title.lower() for open_one in open_ones]
    passed = PassOrFail(len(asked) - len(left), len(asked))
    working = Working(
        "every check of the connection confirmed",
        "; ".join(f"{item.title.lower()}: {'no' if item in open_ones else 'yes'}" for item in asked),
        str(passed),
        "local codes and a licensed electrician decide",
    )
    if left:
        sentence = f"Not yet confirmed: {', '.join(left)}. Local code and a licensed electrician decide."
        return replace(
            unproven("connection", wiring, sentence, capability=f"{passed} checks"),
            passed=passed,
            settle_by=SAFETY,
            workings=(working,),
        )
    return Requirement(
        key="connection",
        demand=wiring,
        capability=f"{passed} checks",
        margin=None,
        passed=passed,
        grade=Grade.B,
        status=Status.CARRIES,
        sentence="Its safety checks were confirmed by name; local code and a licensed electrician decide.",
        workings=(working,),
    )
