"""From the findings of a source's sessions to its character."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from ..errors import MusterError, NotEnoughReadings
from ..findings.collect import SessionFindings
from ..findings.holds import Held
from ..findings.holds_told import COUNTS_AS_HELD_S
from ..findings.lines import LoadLine
from ..findings.noise_walk import LOADED
from ..findings.runs import Run
from ..findings.starts import StartSeen
from ..findings.trips import by_leg
from ..fits import student_t
from ..loads import Load
from ..quantities import Bound, Grade, Value, plain
from ..sessions import Place, Stat
from ..sessions.replay import Outcome
from ..sources import Site, Source
from ..sources.limits import binding, limits_of
from ..supply import Leg, System
from ..trade.batteries import two_runs
from ..trade.sound import at_distance
from .character import Character, Parameter, SessionEstimate, combine
from .hold_curve import HoldCurve, HoldPoint, fit_hold_within
from .impedance import START_U, Hit, StartModel, fit_start_model

NOISE_AT_M = 7.0
PACE_X = 1.25
LEG_PF = 1.0
"""Base loads are taken at unity power factor where none was read."""


@dataclass(frozen=True)
class Dated:
    """The findings of a session, with its name and when it began (ISO)."""

    findings: SessionFindings
    name: str
    at: str


@dataclass(frozen=True)
class _Given:
    source: Source
    system: System
    site: Site
    sessions: Sequence[Dated]


Estimates = Iterator[tuple[str, str, SessionEstimate]]
"""Key and name of a parameter, and what one session says of it."""


def character_of(source: Source, system: System, site: Site, sessions: Iterable[Dated]) -> Character:
    """Fit the character of a source from all that its sessions found.

    Each session's estimate of each parameter, combined (``combine``); the
    forms that need all readings at once (what starts meet, the hold curve)
    fitted through all of them.
    """
    given = _Given(source, system, site, tuple(sessions))
    gathered: dict[str, tuple[str, list[SessionEstimate]]] = {}
    for maker in MAKERS:
        for dated in given.sessions:
            for key, name, estimate in maker(given, dated):
                gathered.setdefault(key, (name, []))[1].append(estimate)
    parameters = [combine(key, name, estimates) for key, (name, estimates) in gathered.items()]
    parameters = _contradicted(parameters) + _across_sessions(given)
    return Character(
        source=source.name,
        kind=source.kind.value,
        parameters=tuple(parameters),
        start_models=_start_models(given),
        hold=_hold(given),
        sessions=tuple(f"{dated.name}, {dated.at[:10]}" for dated in given.sessions),
    )


def _contradicted(parameters: list[Parameter]) -> list[Parameter]:
    """Where it tripped below what it held another time, both say so."""
    by_key = {parameter.key: parameter for parameter in parameters}
    held, trip = by_key.get("held_w"), by_key.get("trip_w")
    if held is None or trip is None or trip.value.value >= held.value.value:
        return parameters
    apart = (
        f"it tripped at {plain(trip.value.value, 'w')} once and held {plain(held.value.value, 'w')} another time: "
        "a leg, heat or the charge may have made the difference"
    )
    return [
        replace(parameter, apart=apart) if parameter.key in ("held_w", "trip_w") else parameter
        for parameter in parameters
    ]


def _says(dated: Dated, value: Value, basis: str) -> SessionEstimate:
    """One session's estimate; of an engine it is said whether it was warm, which moves most of what is read."""
    context = dated.findings.context
    engine = context.source is not None and context.source.kind.has_engine
    state = (", warm" if context.session.conditions.warm else ", cold") if engine else ""
    return SessionEstimate(value, dated.name, dated.at, basis + state)


def _lines(given: _Given, dated: Dated) -> Estimates:
    """Volts and hertz: at no load, and how they fall with load."""
    for line in dated.findings.regulation:
        leg = "" if given.system.legs == 1 else f", leg {line.place.value}"
        yield from _line(dated, line, f"v{line.place.value}", f"volts{leg}", "v")
    for line in dated.findings.droops:
        yield from _line(dated, line, "hz", "hertz", "hz")


def _line(dated: Dated, line: LoadLine, key: str, words: str, unit: str) -> Estimates:
    """No-load figure and slope of a line, each as sure as the scatter and the meter make it.

    The meter's scale error moves all points alike: whole on the level, its
    share of the fall on the slope.
    """
    fit, u_meter = line.line, line.u_reading
    band = fit.band(0.0)
    grade = Grade.A if fit.n > 2 else Grade.B
    level = Value(fit.at(0), unit, u_meter + (band or 0.0), None, grade)
    basis = f"{fit.n} loads up to {fit.x_high / 1000:.3g} kW"
    yield f"no_load_{key}", f"No-load {words}", _says(dated, level, basis)
    span = fit.x_high - fit.x_low
    # Readings of one meter share its scale error; what is left between them is their last digit, and their scatter.
    scatter = _t(fit.n) * fit.s / math.sqrt(fit.sxx) if fit.s is not None else 0.2 * u_meter / span
    u_b = math.hypot(scatter, (2.0 if fit.n == 2 else 1.2) * line.digit / span)
    u_b += abs(fit.b) * u_meter / abs(fit.at(0)) if fit.at(0) else 0.0
    yield (
        f"{key}_per_kw",
        f"{words.capitalize()} with load",
        _says(dated, Value(fit.b * 1000, f"{unit}_kw", u_b * 1000, None, grade), basis),
    )


def _t(n: int) -> float:
    return student_t(max(1, n - 2))


def _held_points(session_findings: SessionFindings) -> list[Held]:
    return [h for h in session_findings.holds if h.place is Place.TOTAL and not h.planned and not h.ran_out]


def _holds(given: _Given, dated: Dated) -> Estimates:
    """The most it held for ten minutes (a lower bound), and the least it tripped at (an upper one)."""
    points = _held_points(dated.findings)
    stood = [h for h in points if not h.tripped and h.held_s >= COUNTS_AS_HELD_S]
    if stood:
        best = max(stood, key=lambda h: h.w)
        value = Value(best.w, "w", best.u_w, Bound.AT_LEAST, Grade.B)
        yield "held_w", "Held for ten minutes", _says(dated, value, f"held {best.held_s / 60:.0f} min")
    tripped = [h for h in points if h.tripped and not by_leg(dated.findings.trips, h)]
    if tripped:
        least = min(tripped, key=lambda h: h.w)
        value = Value(least.w, "w", least.u_w, Bound.AT_MOST, Grade.A)
        yield "trip_w", "Tripped at", _says(dated, value, f"after {least.held_s:.0f} s")
    for place in (Place.LEG1, Place.LEG2) if given.system.legs == 2 else ():
        legs = [h for h in dated.findings.holds if h.place is place and not h.tripped and h.held_s >= COUNTS_AS_HELD_S]
        if legs:
            best = max(legs, key=lambda h: h.w)
            value = Value(best.w, "w", best.u_w, Bound.AT_LEAST, Grade.B)
            yield (
                f"held_w_{place.value}",
                f"Held on leg {place.value}",
                _says(dated, value, f"held {best.held_s / 60:.0f} min"),
            )


def _conversion(given: _Given, dated: Dated) -> Estimates:
    for seen in dated.findings.conversions:
        basis = "the DC side logged" if seen.log else "the DC side typed"
        if seen.idle is not None:
            yield "idle_w", "Idle draw", _says(dated, seen.idle, basis)
        if seen.fit is not None:
            share = Value(seen.fit.share_at(seen.top_w) * 100, "pct", seen.u_share_pct, None, Grade.A)
            basis = f"{len(seen.fit.ac_w)} loads up to {seen.top_w / 1000:.3g} kW"
            yield "conversion_pct", "Conversion at the top", _says(dated, share, basis)
            # A proportional loss cannot be told from the two meters' scale errors, which add to it whole.
            u_p1 = 0.01 * seen.u_share_pct
            yield (
                "loss_p1_pct",
                "Loss that goes with load",
                _says(dated, Value(seen.fit.p1 * 100, "pct", u_p1 * 100, None, Grade.B), basis),
            )
            p2 = seen.fit.p2 * 1e6
            yield (
                "loss_p2_w",
                "Loss that goes with the square, at 1 kW",
                _says(dated, Value(p2, "w", max(0.1 * p2, 2.0), None, Grade.B), basis),
            )


def _energy(given: _Given, dated: Dated) -> Estimates:
    runs = dated.findings.runs
    if runs is None:
        return
    run = runs.run
    how = f"{run.hours:.1f} h at {run.mean_w:.0f} W"
    bound = None if run.whole else Bound.AT_LEAST
    if run.down and run.ac_wh is not None:
        # What reaches the load hangs on how fast: idle costs a slow run, conversion a fast one. Only like runs are weighed together.
        at = _pace(run.mean_w)
        delivered = Value(run.ac_wh, "wh", run.u_ac_wh, bound, Grade.A)
        yield f"delivered_wh_ac_{at}", f"Delivered, full to empty, about {at} W", _says(dated, delivered, how)
        rated = given.source.claims.battery_wh
        if rated and run.whole:
            share = Value(run.ac_wh / rated * 100, "pct", run.u_ac_wh / rated * 100, None, Grade.A)
            yield f"usable_pct_{at}", f"Usable share of the rating, about {at} W", _says(dated, share, how)
    if run.down and run.dc_wh is not None:
        yield (
            "battery_wh_dc",
            "The battery gives",
            _says(dated, Value(run.dc_wh, "wh", run.u_dc_wh, bound, Grade.A), how),
        )
    if not run.down and run.ac_wh is not None:
        yield (
            "wall_wh",
            "From the wall, empty to full",
            _says(dated, Value(run.ac_wh, "wh", run.u_ac_wh, bound, Grade.A), how),
        )
        yield (
            "charge_w",
            "Draws while charging",
            _says(dated, Value(run.mean_w, "w", run.u_ac_wh / run.hours, None, Grade.B), how),
        )
    if runs.gauge is not None and runs.gauge.half_at_pct is not None:
        grade = Grade.A if len(runs.gauge.points) >= 6 else Grade.B
        steps = max(3.0, 100 / len(runs.gauge.points) / 2)
        half = Value(runs.gauge.half_at_pct, "pct", steps, None, grade)
        yield "half_at_pct", "Gauge when half is left", _says(dated, half, f"{len(runs.gauge.points)} looks")


def _pace(w: float) -> int:
    """A load in steps of a quarter, two figures: runs of one step are alike."""
    step = PACE_X ** round(math.log(max(w, 1.0)) / math.log(PACE_X))
    return int(round(step, -max(0, math.floor(math.log10(step)) - 1)))


def _fuel(given: _Given, dated: Dated) -> Estimates:
    seen = dated.findings.fuel
    if seen is None:
        return
    basis = f"{len(seen.points)} stretches between looks at the tank"
    u = max(p.u_lph for p in seen.points)
    if seen.line is None:
        point = seen.points[0]
        yield (
            "lph",
            "Litres an hour",
            _says(dated, Value(point.lph, "lph", point.u_lph, None, Grade.A), f"at {point.w:.0f} W"),
        )
        return
    line = seen.line
    span = line.x_high - line.x_low
    yield (
        "idle_lph",
        "Litres an hour, no load",
        _says(dated, Value(line.a, "lph", u + (line.band(0.0) or u), None, Grade.A), basis),
    )
    slope = Value(line.b * 1000, "lph_kw", (2 * u / span + _u_slope(line.s, line.sxx, line.n)) * 1000, None, Grade.A)
    yield "lph_per_kw", "Litres an hour with load", _says(dated, slope, basis)


def _u_slope(s: float | None, sxx: float, n: int) -> float:
    return 0.0 if s is None else _t(n) * s / math.sqrt(sxx)


def _heat(given: _Given, dated: Dated) -> Estimates:
    """Where each spot ends, by the load it was read under: like loads alone are weighed together."""
    for seen in dated.findings.heats:
        value = Value(seen.rise.end_c, "c", seen.rise.u_end_k, None, Grade.A if seen.rise.long_enough else Grade.B)
        at = f"_{_pace(seen.w)}" if seen.w else ""
        key = f"end_c_{seen.spot.replace(' ', '_') or 'case'}{at}"
        under = f"about {_pace(seen.w)} W" if seen.w else "under load"
        name = f"End temperature, {seen.spot + ', ' if seen.spot else ''}{under}"
        yield key, name, _says(dated, value, f"time constant {seen.rise.tau_s / 60:.0f} min")


def _noise(given: _Given, dated: Dated) -> Estimates:
    """Level at 7 m by state of load, and the decibels lost in each decade of distance."""
    loudest = {seen.state: seen for seen in dated.findings.noise}
    for seen in loudest.values():  # by load: of those under load the heaviest stands
        sure = [spot for spot in seen.heard if spot.bound is None] or list(seen.heard)
        near = min(sure, key=lambda spot: abs(spot.distance_m - NOISE_AT_M))
        u = max(spot.u_db for spot in sure)
        at_seven = at_distance(near.dba, near.distance_m, NOISE_AT_M, seen.n)
        state = "loaded" if seen.state == LOADED else "no_load"
        basis = f"{len(sure)} spots"
        bound = None if near.bound is None else Bound.AT_MOST
        yield (
            f"dba_7m_{state}",
            f"Level at {plain(NOISE_AT_M, 'm')}, {seen.state}",
            _says(dated, Value(at_seven, "dba", u, bound, Grade.A if bound is None else Grade.B), basis),
        )
        if seen.fitted:
            span = math.log10(max(s.distance_m for s in sure) / min(s.distance_m for s in sure))
            # One meter's error moves all spots alike: between spots half a decibel is left, and the background's.
            value = Value(seen.n, "db", 2 * 0.5 / span + 0.5, None, Grade.A)
            yield f"decay_db_{state}", f"Lost for each tenfold distance, {seen.state}", _says(dated, value, basis)


def _waves(given: _Given, dated: Dated) -> Estimates:
    for seen in dated.findings.waves:
        state = "loaded" if seen.on else "no_load"
        leg = "" if given.system.legs == 1 else f", leg {seen.at.place.value}"
        value = seen.finding.value
        yield (
            f"thd_pct_{state}{'_' + seen.at.place.value if leg else ''}",
            f"Distortion, {seen.state}{leg}",
            _says(dated, value, "a capture"),
        )
        crest = Value(seen.at.wave.crest, "x", 0.01, None, Grade.A)
        yield (
            f"crest_{state}{'_' + seen.at.place.value if leg else ''}",
            f"Crest factor, {seen.state}{leg}",
            _says(dated, crest, "a capture"),
        )


def _others(given: _Given, dated: Dated) -> Estimates:
    seen_there = dated.findings
    for gap in seen_there.gaps:
        yield "gap_ms", "Transfer gap", _says(dated, gap.gap_ms, "the break itself")
    if seen_there.cut_offs is not None:
        for kind, key, name in (
            ("low", "cut_low_v", "Low cut-off"),
            ("back", "cut_back_v", "Comes back at"),
            ("high", "cut_high_v", "High cut-off"),
        ):
            point = seen_there.cut_offs.of(kind, loaded=False) or seen_there.cut_offs.of(kind)
            if point is not None:
                yield key, name, _says(dated, point.dc_v, "under load" if point.loaded else "no load")
    if seen_there.shares is not None:
        volts = given.system.v_nominal * given.system.legs
        seen = seen_there.shares
        value = Value(
            seen.pair.measured_a * volts, "w", seen.u_a * volts, None, Grade.B if seen.pair.beyond else Grade.A
        )
        yield "pair_w", "The pair carries", _says(dated, value, f"{len(seen.shares)} totals")
    for trip in () if seen_there.cut_offs is not None else seen_there.trips:
        if trip.back_s is not None and trip.by_itself:
            yield (
                "recovers_s",
                "Comes back by itself after",
                _says(dated, Value(trip.back_s, "s", trip.u_back_s, None, Grade.A), "seen after a trip"),
            )


MAKERS: tuple[Callable[[_Given, Dated], Estimates], ...] = (
    _holds,
    _lines,
    _waves,
    _conversion,
    _energy,
    _fuel,
    _heat,
    _noise,
    _others,
)


def _across_sessions(given: _Given) -> list[Parameter]:
    """What two sessions say only together: charge and round trip from a run down and one up, two runs of unlike speed."""
    runs = [(dated, dated.findings.runs.run) for dated in given.sessions if dated.findings.runs is not None]
    down = [(d, r) for d, r in runs if r.down and r.whole]
    up = [(d, r) for d, r in runs if not r.down and r.whole and r.ac_wh]
    parameters: list[Parameter] = []
    two_speeds = _two_speeds(given, down)
    if up:
        charged, wall = up[-1]
        for key, name, given_wh in (("charge_pct", "Charge", _dc), ("round_trip_pct", "Round trip", _ac)):
            able = [(d, r) for d, r in down if given_wh(r)[0]]
            for index, (dated, run) in enumerate(able):
                last = index == len(able) - 1
                paced = "" if len(able) == 1 else f", about {_pace(run.mean_w)} W"
                basis = f"what it gave on {dated.at[:10]} over what the wall gave"
                told = f"{key}{'' if last else f'_{_pace(run.mean_w)}'}", f"{name}{paced}"
                parameters.append(_of_the_wall(*told, given_wh(run), charged, wall, basis, Grade.A))
        parameters += _charge_reckoned(given, two_speeds, charged, wall)
    return parameters + two_speeds


def _of_the_wall(
    key: str, name: str, wh: tuple[float | None, float], charged: Dated, wall: Run, basis: str, grade: Grade
) -> Parameter:
    """An energy over what the wall gave for it."""
    out_wh, u_wh = wh
    assert out_wh is not None
    assert wall.ac_wh is not None
    share_pct = out_wh / wall.ac_wh * 100
    u_pct = share_pct * math.hypot(u_wh / out_wh, wall.u_ac_wh / wall.ac_wh)
    value = Value(share_pct, "pct", u_pct, None, grade)
    return Parameter(key, name, value, (_says(charged, value, basis),))


def _charge_reckoned(given: _Given, two_speeds: Sequence[Parameter], charged: Dated, wall: Run) -> Iterator[Parameter]:
    """What of the wall's energy the battery took, where nobody read its own side: by two runs, and by its rating as a stand-in."""
    by_runs = next((p.value for p in two_speeds if p.key == "two_runs_wh_dc"), None)
    if by_runs is not None:
        wh = (by_runs.value, by_runs.u or 0.0)
        basis = "the battery's energy by two runs over what the wall gave"
        yield _of_the_wall("charge_pct_two_runs", "Charge, by two runs", wh, charged, wall, basis, Grade.B)
    rated_wh = given.source.claims.battery_wh
    if rated_wh:
        basis = "the rating, which stands in for what the battery gives, over what the wall gave"
        name = "Charge, if it holds its rating"
        yield _of_the_wall("charge_pct_rated", name, (rated_wh, 0.0), charged, wall, basis, given.source.claim_grade)


def _dc(run: Run) -> tuple[float | None, float]:
    return run.dc_wh, run.u_dc_wh


def _ac(run: Run) -> tuple[float | None, float]:
    return run.ac_wh, run.u_ac_wh


LEAST_UNLIKE_X = 1.5
APART_SHARE = 0.005
"""What is left between two counts of one meter, a share of them."""
INNER_LOSS, U_INNER_LOSS = 0.035, 0.03
"""What a lithium battery loses inside itself at one hour's rate, a share of its energy, and how far that may be out: planning figure, ours."""
P1_USUAL, U_P1 = 1 / 0.92 - 1, 0.04
"""Load-dependent loss where no loss curve was read: planning figure of inverters, and how far it may be out."""


def _two_speeds(given: _Given, down: Sequence[tuple[Dated, Run]]) -> list[Parameter]:
    """Energy of the battery and idle draw from a slow and a fast run: ``E_u = (1 + p₁)e + p₂∫P²dt + P₀t`` for both,
    with what the battery loses inside itself, which a fast run pays more of.

    ``p₁`` and ``p₂`` are of the loss curve where one was read. Not for
    lead-acid, whose capacity itself goes with the current.

    References
    ----------
    docs/method/energy.md#two-runs; two linear equations, their errors by moving each energy by its half-width.
    """
    able = sorted(((d, r) for d, r in down if r.ac_wh), key=lambda pair: pair[1].hours)
    if len(able) < 2 or able[-1][1].hours < LEAST_UNLIKE_X * able[0][1].hours:
        return []
    (_, fast), (slow_of, slow) = able[0], able[-1]
    fits = [seen.fit for d in given.sessions for seen in d.findings.conversions if seen.fit is not None]
    claimed = given.source.claims.conversion_pct
    p1, p2 = (fits[-1].p1, fits[-1].p2) if fits else (100 / claimed - 1 if claimed else P1_USUAL, 0.0)
    u_p1 = 0.01 if fits else U_P1

    rated_wh = given.source.claims.battery_wh or fast.ac_wh or 1.0

    def solve(slow_wh: float, fast_wh: float, x: float, inner: float) -> tuple[float, float]:
        """What the battery gave at its terminals in the slow run, and the idle draw."""
        inside = [inner * run.squared_w2h / rated_wh for run in (slow, fast)]
        squared = (p2 * slow.squared_w2h + inside[0], p2 * fast.squared_w2h + inside[1])
        two_runs_found = two_runs(slow_wh, slow.hours, fast_wh, fast.hours, 100 / (1 + x), squared)
        return two_runs_found.battery_wh - inside[0], two_runs_found.idle_w

    assert slow.ac_wh is not None
    assert fast.ac_wh is not None
    if slow.ac_wh > fast.ac_wh:
        # Idle costs the slow run: one that gave more was not a run of the same battery, full to empty.
        return []
    energy, idle = solve(slow.ac_wh, fast.ac_wh, p1, INNER_LOSS)
    # One meter counted both runs: its scale error moves them alike, and a digit or two moves them apart.
    scale = slow.u_ac_wh / slow.ac_wh
    moved = [
        solve(slow.ac_wh * (1 + scale), fast.ac_wh * (1 + scale), p1, INNER_LOSS),
        solve(slow.ac_wh, fast.ac_wh * (1 + APART_SHARE), p1, INNER_LOSS),
        solve(slow.ac_wh, fast.ac_wh, p1 + u_p1, INNER_LOSS),
        solve(slow.ac_wh, fast.ac_wh, p1, INNER_LOSS + U_INNER_LOSS),
    ]
    u_energy, u_idle = (math.sqrt(sum((m[i] - base) ** 2 for m in moved)) for i, base in enumerate((energy, idle)))
    basis = f"a slow run of {slow.hours:.1f} h and a fast one of {fast.hours:.1f} h told apart"
    return [
        Parameter(key, name, value, (_says(slow_of, value, basis),))
        for key, name, value in (
            ("two_runs_wh_dc", "The battery gives, by two runs", Value(energy, "wh", u_energy, None, Grade.B)),
            ("two_runs_idle_w", "Idle draw, by two runs", Value(idle, "w", u_idle, None, Grade.B)),
        )
    ]


def hits_of(system: System, starts: Iterable[StartSeen]) -> dict[str, list[tuple[StartSeen, Hit]]]:
    """The starts whose volts and amps were both read well enough, as they met the source, by leg."""
    result: dict[str, list[tuple[StartSeen, Hit]]] = {}
    for start in starts:
        hit = _hit(system, start)
        if hit is not None:
            leg = start.leg.value if start.leg and system.legs == 2 else "1"
            result.setdefault(leg, []).append((start, hit))
    return result


def _hit(system: System, start: StartSeen) -> Hit | None:
    lowest, highest = start.lowest, start.highest_a
    if lowest is None or highest is None or lowest.bound or highest.bound or not start.before_v or lowest.value <= 0:
        return None
    across = start.leg is Leg.BOTH and system.legs == 2
    nominal = system.v_nominal * (2 if across else 1)
    read = [r.value for r in start.run.readings if r.quantity == "a" and r.stat is Stat.BEFORE]
    share = 1.0 if across or system.legs == 1 else 0.5
    base_a = read[-1] if read else start.base_w * share / nominal
    # The dip is a difference of two readings of one meter: its scale error is in both, and in their difference by the dip's share.
    dip = start.before_v - lowest.value
    u_v = (lowest.u or 0.0) * max(0.1, dip / start.before_v)
    load = replace(start.load, soft_starter=True) if start.run.eased else start.load
    left = lowest.value / start.before_v
    at_lowest, u_share = _amps_at_lowest(load, base_a * left, highest, lowest.value / nominal, nominal)
    own_a = _own_a(at_lowest, base_a * left, load.start_pf)
    if own_a is None:
        return None
    pf = (base_a * left + own_a * load.start_pf) / at_lowest  # of all that ran then
    return Hit(
        v_before=start.before_v,
        v_min=lowest.value,
        i_before=base_a,
        i_max=at_lowest,
        pf_before=LEG_PF,
        pf_max=pf,
        nominal_v=nominal,
        u_v=u_v,
        i_high=highest.value,
        u_share=u_share,
    )


def _own_a(total_a: float, base_a: float, pf: float) -> float | None:
    """The amps of a start of a power factor that make a total beside a base at unity; None where the total is not above the base."""
    across = base_a * math.sqrt(1 - pf**2)
    if total_a <= base_a or total_a <= across:
        return None
    return math.sqrt(total_a**2 - across**2) - base_a * pf


def _amps_at_lowest(load: Load, base_a: float, highest: Value, v_share: float, nominal: float) -> tuple[float, float]:
    """Amps at the moment of the lowest volts, and how far they may be out, a share of themselves.

    The highest amps come a little later, as the volts recover. A motor at
    standstill is a constant impedance: where its standstill amps are known
    better than by its kind, what it draws at the lowest volts follows; it is
    never more than the highest that was read.
    """
    u_read = (highest.u or 0.0) / highest.value if highest.value else 0.0
    if load.start_grade is Grade.D or load.eased:
        return highest.value, u_read
    added = load.start_total_va / nominal * v_share
    sine = math.sqrt(1 - load.start_pf**2)
    total = math.hypot(base_a + added * load.start_pf, added * sine)
    return (total, START_U[load.start_grade]) if total < highest.value else (highest.value, u_read)


def carried_a(system: System, sessions: Iterable[Dated], leg: str) -> float:
    """The most amps that were carried steadily on a leg, from the watts held there."""
    place = Place.TOTAL if system.legs == 1 or leg == Leg.BOTH.value else Place(leg)
    volts = system.v_nominal * (system.legs if place is Place.TOTAL else 1)
    stood = [
        h.w for dated in sessions for h in dated.findings.holds if h.place is place and not h.tripped and not h.planned
    ]
    return max(stood, default=0.0) / volts


def _start_models(given: _Given) -> dict[str, StartModel]:
    starts = [
        start
        for dated in given.sessions
        for start in dated.findings.starts
        if start.outcome in (Outcome.HELD, Outcome.STALLED)
    ]
    start_models: dict[str, StartModel] = {}
    for leg, hits in hits_of(given.system, starts).items():
        try:
            start_models[leg] = fit_start_model([hit for _, hit in hits], carried_a(given.system, given.sessions, leg))
        except NotEnoughReadings:
            continue
    return start_models


BELOW_PLATE, TO_THE_TRIP = 0.95, 0.8
"""How far what is held for ever may lie below the nameplate, and from it towards the least that tripped. Ours."""


def _hold(given: _Given) -> HoldCurve | None:
    """The hold curve above what is held for ever: the nameplate, within what stood for three time constants and the least trip."""
    points = [
        HoldPoint(h.w, h.held_s, h.tripped)
        for dated in given.sessions
        for h in _held_points(dated.findings)
        if h.held_s > 0 and not by_leg(dated.findings.trips, h)
    ]
    least_trip = min((p.w for p in points if p.tripped), default=math.inf)
    stood = [p.w for p in points if not p.tripped and p.w < least_trip and p.held_s >= given.source.kind.settles_s]
    plate = binding(limits_of(given.source, given.system, given.site), None)
    if plate is None or not math.isfinite(least_trip):
        return None
    settled_w = max(stood, default=0.0)
    held_w = max(settled_w, min(plate.w, least_trip * BELOW_PLATE))
    low_w, high_w = max(settled_w, held_w * BELOW_PLATE), held_w + TO_THE_TRIP * (least_trip - held_w)
    try:
        return fit_hold_within(points, held_w, low_w, high_w)
    except MusterError:
        return None
