"""What one session says of each parameter: a maker a question, in one table."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

from ..findings.holds_told import COUNTS_AS_HELD_S
from ..findings.lines import LoadLine
from ..findings.noise_walk import LOADED
from ..findings.trips import by_leg
from ..fits import student_t
from ..loads import short_name
from ..quantities import Bound, Grade, Value, plain
from ..sessions import Place, Switch
from ..trade.sound import at_distance
from .given import Dated, Estimates, Given, held_points, pace, says

NOISE_AT_M = 7.0


def _lines(given: Given, dated: Dated) -> Estimates:
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
    fit = line.line
    grade = Grade.A if fit.n > 2 else Grade.B
    level = Value(fit.at(0), unit, line.u_at(0.0), None, grade)
    basis = f"{fit.n} loads up to {fit.x_high / 1000:.3g} kW"
    yield f"no_load_{key}", f"No-load {words}", says(dated, level, basis, line.finding, fit.n)
    slope = Value(fit.b * 1000, f"{unit}_kw", line.u_slope * 1000, None, grade)
    yield f"{key}_per_kw", f"{words.capitalize()} with load", says(dated, slope, basis, line.finding, fit.n)


def _slope_t(n: int) -> float:
    return student_t(max(1, n - 2))


def _holds(given: Given, dated: Dated) -> Estimates:
    """The most it held for ten minutes (a lower bound), and the least it tripped at (an upper one)."""
    points = held_points(given, dated)
    stood = [h for h in points if not h.tripped and h.held_s >= COUNTS_AS_HELD_S]
    if stood:
        best = max(stood, key=lambda h: h.w)
        value = Value(best.w, "w", best.u_w, Bound.AT_LEAST, Grade.B)
        yield "held_w", "Held for ten minutes", says(dated, value, f"held {best.held_s / 60:.0f} min", best.finding)
    tripped = [h for h in points if h.tripped and not by_leg(dated.findings.trips, h)]
    if tripped:
        least = min(tripped, key=lambda h: h.w)
        value = Value(least.w, "w", least.u_w, Bound.AT_MOST, Grade.A)
        yield "trip_w", "Tripped at", says(dated, value, f"after {least.held_s:.0f} s", least.finding)
    for place in (Place.LEG1, Place.LEG2) if given.system.legs == 2 else ():
        legs = [h for h in given.holds_of(dated) if h.place is place and not h.tripped and h.held_s >= COUNTS_AS_HELD_S]
        if legs:
            best = max(legs, key=lambda h: h.w)
            value = Value(best.w, "w", best.u_w, Bound.AT_LEAST, Grade.B)
            yield (
                f"held_w_{place.value}",
                f"Held on leg {place.value}",
                says(dated, value, f"held {best.held_s / 60:.0f} min", best.finding),
            )


def _conversion(given: Given, dated: Dated) -> Estimates:
    for seen in dated.findings.conversions:
        basis = "the DC side logged" if seen.log else "the DC side typed"
        if seen.idle is not None:
            yield "idle_w", "Idle draw", says(dated, seen.idle, basis)
        if seen.fit is not None:
            share = Value(seen.fit.share_at(seen.top_w) * 100, "pct", seen.u_share_pct, None, Grade.A)
            basis = f"{len(seen.fit.ac_w)} loads up to {seen.top_w / 1000:.3g} kW"
            yield "conversion_pct", "Conversion at the top", says(dated, share, basis)
            # A proportional loss cannot be told from the two meters' scale errors, which add to it whole.
            u_p1 = 0.01 * seen.u_share_pct
            yield (
                "loss_p1_pct",
                "Loss that goes with load",
                says(dated, Value(seen.fit.p1 * 100, "pct", u_p1 * 100, None, Grade.B), basis),
            )
            p2 = seen.fit.p2 * 1e6
            yield (
                "loss_p2_w",
                "Loss that goes with the square, at 1 kW",
                says(dated, Value(p2, "w", max(0.1 * p2, 2.0), None, Grade.B), basis),
            )


def _energy(given: Given, dated: Dated) -> Estimates:
    runs = dated.findings.runs
    if runs is None:
        return
    run = runs.run
    how = f"{run.hours:.1f} h at {run.mean_w:.0f} W"
    bound = None if run.whole else Bound.AT_LEAST
    if run.down and run.ac_wh is not None:
        # What reaches the load hangs on how fast: idle costs a slow run, conversion a fast one. Only like runs are weighed together.
        at = pace(run.mean_w)
        delivered = Value(run.ac_wh, "wh", run.u_ac_wh, bound, Grade.A)
        yield f"delivered_wh_ac_{at}", f"Delivered, full to empty, about {at} W", says(dated, delivered, how)
        rated = given.source.claims.battery_wh
        if rated and run.whole:
            share = Value(run.ac_wh / rated * 100, "pct", run.u_ac_wh / rated * 100, None, Grade.A)
            yield f"usable_pct_{at}", f"Usable share of the rating, about {at} W", says(dated, share, how)
    if run.down and run.dc_wh is not None:
        yield (
            "battery_wh_dc",
            "The battery gives",
            says(dated, Value(run.dc_wh, "wh", run.u_dc_wh, bound, Grade.A), how),
        )
    if not run.down and run.ac_wh is not None:
        yield (
            "wall_wh",
            "From the wall, empty to full",
            says(dated, Value(run.ac_wh, "wh", run.u_ac_wh, bound, Grade.A), how),
        )
        yield (
            "charge_w",
            "Draws while charging",
            says(dated, Value(run.mean_w, "w", run.u_ac_wh / run.hours, None, Grade.B), how),
        )
    if runs.gauge is not None and runs.gauge.half_at_pct is not None:
        grade = Grade.A if len(runs.gauge.points) >= 6 else Grade.B
        steps = max(3.0, 100 / len(runs.gauge.points) / 2)
        half = Value(runs.gauge.half_at_pct, "pct", steps, None, grade)
        yield "half_at_pct", "Gauge when half is left", says(dated, half, f"{len(runs.gauge.points)} looks")


def _fuel(given: Given, dated: Dated) -> Estimates:
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
            replace(
                says(dated, Value(point.lph, "lph", point.u_lph, None, Grade.A), f"at {point.w:.0f} W"), at_w=point.w
            ),
        )
        return
    line = seen.line
    span = line.x_high - line.x_low
    yield (
        "idle_lph",
        "Litres an hour, no load",
        says(dated, Value(max(0.0, line.a), "lph", u + (line.band(0.0) or u), None, Grade.A), basis, points=line.n),
    )
    middle_w = (line.x_low + line.x_high) / 2
    at_middle = Value(line.at(middle_w), "lph", u / math.sqrt(line.n) + (line.band(middle_w) or 0.0), None, Grade.A)
    yield (
        "mid_lph",
        "Litres an hour, between the loads seen",
        replace(says(dated, at_middle, f"at {middle_w:.0f} W", points=line.n), at_w=middle_w),
    )
    slope = Value(line.b * 1000, "lph_kw", (2 * u / span + _u_slope(line.s, line.sxx, line.n)) * 1000, None, Grade.A)
    yield (
        "lph_per_kw",
        "Litres an hour with load",
        says(dated, replace(slope, value=max(0.0, slope.value)), basis, points=line.n),
    )


def _u_slope(s: float | None, sxx: float, n: int) -> float:
    return 0.0 if s is None else _slope_t(n) * s / math.sqrt(sxx)


def _heat(given: Given, dated: Dated) -> Estimates:
    """Where each spot ends, by the load it was read under: like loads alone are weighed together."""
    for seen in dated.findings.heats:
        value = Value(seen.rise.end_c, "c", seen.rise.u_end_k, None, Grade.A if seen.rise.long_enough else Grade.B)
        at = f"_{pace(seen.w)}" if seen.w else ""
        key = f"end_c_{seen.spot.replace(' ', '_') or 'case'}{at}"
        under = f"about {pace(seen.w)} W" if seen.w else "under load"
        name = f"End temperature, {seen.spot + ', ' if seen.spot else ''}{under}"
        yield key, name, says(dated, value, f"time constant {seen.rise.tau_s / 60:.0f} min", seen.finding)


def _noise(given: Given, dated: Dated) -> Estimates:
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
            says(dated, Value(at_seven, "dba", u, bound, Grade.A if bound is None else Grade.B), basis, seen.finding),
        )
        if seen.fitted:
            span = math.log10(max(s.distance_m for s in sure) / min(s.distance_m for s in sure))
            # One meter's error moves all spots alike: between spots half a decibel is left, and the background's.
            value = Value(seen.n, "db", 2 * 0.5 / span + 0.5, None, Grade.A)
            yield (
                f"decay_db_{state}",
                f"Lost for each tenfold distance, {seen.state}",
                says(dated, value, basis, seen.finding),
            )


def _waves(given: Given, dated: Dated) -> Estimates:
    for seen in dated.findings.waves:
        state = "loaded" if seen.on else "no_load"
        leg = "" if given.system.legs == 1 else f", leg {seen.at.place.value}"
        value = seen.finding.value
        yield (
            f"thd_pct_{state}{'_' + seen.at.place.value if leg else ''}",
            f"Distortion, {seen.state}{leg}",
            says(dated, value, "a capture", seen.finding),
        )
        crest = Value(seen.at.wave.crest, "x", 0.01, None, Grade.A)
        yield (
            f"crest_{state}{'_' + seen.at.place.value if leg else ''}",
            f"Crest factor, {seen.state}{leg}",
            says(dated, crest, "a capture", seen.finding),
        )


def _others(given: Given, dated: Dated) -> Estimates:
    seen_there = dated.findings
    for gap in seen_there.gaps:
        yield "gap_ms", "Transfer gap", says(dated, gap.gap_ms, "the break itself", gap.finding)
    if seen_there.cut_offs is not None:
        for kind, key, name in (
            ("low", "cut_low_v", "Low cut-off"),
            ("back", "cut_back_v", "Comes back at"),
            ("high", "cut_high_v", "High cut-off"),
        ):
            point = seen_there.cut_offs.of(kind, loaded=False) or seen_there.cut_offs.of(kind)
            if point is not None:
                yield key, name, says(dated, point.dc_v, "under load" if point.loaded else "no load")
    sun = seen_there.solar
    if sun is not None and sun.most is not None and not sun.stuck:  # of a tracker that stuck nobody knows what it takes
        yield "pv_most_w", "Takes from panels at most", says(dated, sun.most, "what the panels gave", sun.taken)
    if seen_there.shares is not None:
        volts = given.system.v_nominal * given.system.legs
        seen = seen_there.shares
        value = Value(
            seen.pair.measured_a * volts, "w", seen.u_a * volts, None, Grade.B if seen.pair.beyond else Grade.A
        )
        yield "pair_w", "The pair carries", says(dated, value, f"{len(seen.shares)} totals", seen.finding)
    for trip in () if seen_there.cut_offs is not None else seen_there.trips:
        if trip.back_s is not None and trip.by_itself:
            yield (
                "recovers_s",
                "Comes back by itself after",
                says(dated, Value(trip.back_s, "s", trip.u_back_s, None, Grade.A), "seen after a trip", trip.finding),
            )


def _standard(given: Given, dated: Dated) -> Estimates:
    """Lowest volts under the standard step and the standard motor of a short test: what sets units side by side."""
    context = dated.findings.context
    if context.session.protocol != "short_test":
        return
    for start in dated.findings.starts:
        if start.lowest is not None:
            failed = ", it failed" if start.outcome.failed else ", it held"
            name = f"Lowest volts as the {short_name(start.load)} starts"
            yield (
                f"lowest_v_{start.load.key}",
                name,
                says(dated, start.lowest, f"the standard motor{failed}", start.finding),
            )
    switched = {
        entry.seq: item.load
        for entry in context.session.effective
        for item in entry.items
        if isinstance(item, Switch) and item.on and item.load in context.loads
    }
    for dip in dated.findings.dips:
        key = next((switched[seq] for seq in dip.finding.seqs if seq in switched), "")
        if key:
            name = f"Lowest volts as the {short_name(context.loads[key])} goes on"
            yield f"lowest_v_{key}", name, says(dated, dip.lowest, "the standard step", dip.finding)


MAKERS: tuple[Callable[[Given, Dated], Estimates], ...] = (
    _holds,
    _lines,
    _waves,
    _conversion,
    _energy,
    _fuel,
    _heat,
    _noise,
    _others,
    _standard,
)
