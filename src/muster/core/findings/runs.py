"""Runs down and up: energy delivered and charged, what share was usable, and how true the gauge was."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..quantities import Bound, Grade, Value, duration, number, plain
from ..sessions import Place, Stat
from ..sessions.checkins import projections
from ..sources import Claims
from ..timeline.traces.features import TraceFeatures
from ..working import Working
from .context import SessionContext
from .counted import EnergyCount, count_energy
from .finding import Finding, Topic
from .holds_told import RAN_OUT

FULL_PCT, EMPTY_PCT = 97.0, 3.0
LEAST_S = 600.0
GAUGE_LEAST = 3
TRUE_WITHIN_PCT = 5.0


@dataclass(frozen=True)
class Run:
    """One run: ``down`` (the source gave) or up (it was charged).

    ``ac_wh`` was delivered, or drawn from the wall; ``dc_wh`` the battery
    gave. ``squared_w2h`` is ∫P²dt of the load [W²·h]. ``full`` and ``empty``
    say whether it began and ended so (for a charge: empty, then full).
    """

    down: bool
    ac_wh: float | None
    u_ac_wh: float
    dc_wh: float | None
    u_dc_wh: float
    hours: float
    squared_w2h: float
    first_pct: float | None
    last_pct: float | None
    whole: bool
    seqs: tuple[int, ...]
    log: str = ""
    counted: EnergyCount | None = None

    @property
    def no_counter(self) -> bool:
        """Whether no counter was read, and its energy is watts × time."""
        return self.counted is not None and self.counted.no_counter

    @property
    def mean_w(self) -> float:
        """Mean watts of the run."""
        return (self.ac_wh or 0.0) / self.hours if self.hours else 0.0


@dataclass(frozen=True)
class GaugeSeen:
    """What the gauge showed against what was left: points (shown %, left %), the largest error, and the % at half."""

    points: tuple[tuple[float, float], ...]
    worst_pt: float
    worst_at_pct: float
    half_at_pct: float | None


@dataclass(frozen=True)
class RunsSeen:
    """The run of a session, its gauge, and what is told of both."""

    run: Run
    gauge: GaugeSeen | None
    findings: tuple[Finding, ...]
    percent_w: float | None = None
    """Mean watts of a run of which nobody read but the gauge, by the nameplate's energy. [W]"""

    @property
    def mean_w(self) -> float:
        """Mean watts of the run, as counted, else by the gauge."""
        return self.run.mean_w or self.percent_w or 0.0


def runs(context: SessionContext) -> RunsSeen | None:
    """The run of an endurance or recharge session, from what was typed and what was logged; None where neither counts energy."""
    if context.session.protocol not in ("endurance", "recharge", "outage"):
        return None
    down = context.session.protocol != "recharge"
    run = _run(context, down=down)
    if run is None or run.hours * 3600 < LEAST_S:
        return None
    if (run.ac_wh or run.dc_wh or 0) <= 0:
        return _by_percent(context, run)
    gauge = gauge_truth(_gauge_points(context), whole=run.whole) if down else None
    findings = [_describe_down(context, run) if down else _describe_up(context, run)]
    if down and run.whole:
        findings += _describe_usable(context, run)
    if gauge is not None:
        findings.append(_describe_gauge(gauge, run))
    if down and not run.whole:
        findings += _describe_runtime(context)
    return RunsSeen(run, gauge, tuple(findings))


def _run(context: SessionContext, *, down: bool) -> Run | None:
    log = _best_log(context.logs, down=down)
    counted = count_energy(context, _end_s(context))
    typed = counted.points if counted else ()
    shown = [(seq, t_s, r.value) for seq, t_s, _, r in context.readings("soc_pct")]
    seqs = tuple(dict.fromkeys([*(s for s, _, _ in typed if s), *(s for s, _, _ in shown)]))
    first_pct = shown[0][2] if shown else (log.gauge[0][0] if log and log.gauge else None)
    last_pct = shown[-1][2] if shown else (log.gauge[-1][0] if log and log.gauge else None)
    whole = _whole(context, first_pct, last_pct, down=down)
    kit = context.record.kit
    if log is not None:
        ac = next((e for e in log.energies if e.place is Place.TOTAL), None)
        dc = next((e for e in log.energies if e.place is Place.DC), None)
        hours = max(e.covered_s for e in log.energies) / 3600
        return Run(
            down=down,
            ac_wh=ac.wh if ac else None,
            u_ac_wh=kit.u("w", log.instrument, ac.wh) if ac else 0.0,
            dc_wh=dc.wh if dc else None,
            u_dc_wh=kit.u("dc_w", log.instrument, dc.wh) if dc else 0.0,
            hours=hours,
            squared_w2h=ac.squared_w2h if ac else 0.0,
            first_pct=first_pct,
            last_pct=last_pct,
            whole=whole,
            seqs=seqs,
            log=log.name,
        )
    if counted is None:
        return _percent_run(context, seqs, whole=whole, down=down)
    hours = (context.record.ran_s(_end_s(context)) - context.record.ran_s(typed[0][1])) / 3600
    wh = counted.wh
    watts = [r.value for _, _, _, r in context.readings("w") if r.stat is Stat.STEADY and r.place is not Place.DC]
    mean_square = sum(w * w for w in watts) / len(watts) if watts else (wh / hours) ** 2 if hours else 0.0
    return Run(
        down=down,
        ac_wh=wh,
        u_ac_wh=counted.u_wh,
        dc_wh=None,
        u_dc_wh=0.0,
        hours=hours,
        squared_w2h=mean_square * hours,
        first_pct=first_pct,
        last_pct=last_pct,
        whole=whole,
        seqs=seqs,
        counted=counted,
    )


def _percent_run(context: SessionContext, seqs: tuple[int, ...], *, whole: bool, down: bool) -> Run | None:
    """A run of which nobody read anything but the gauge."""
    shown = [(context.record.ran_s(t_s), r.value) for _, t_s, _, r in context.readings("soc_pct")]
    if len(shown) < 2:
        return None
    return Run(
        down=down,
        ac_wh=None,
        u_ac_wh=0.0,
        dc_wh=None,
        u_dc_wh=0.0,
        hours=(context.record.ran_s(_end_s(context)) - shown[0][0]) / 3600,
        squared_w2h=0.0,
        first_pct=shown[0][1],
        last_pct=shown[-1][1],
        whole=whole,
        seqs=seqs,
    )


def _by_percent(context: SessionContext, run: Run) -> RunsSeen | None:
    """What a run in percent tells: how long it took, and its mean watts if the nameplate's energy is what the gauge counts."""
    if run.first_pct is None or run.last_pct is None or run.first_pct == run.last_pct:
        return None
    claims = context.source.claims if context.source else None
    moved_pct = abs(run.first_pct - run.last_pct)
    workings = [
        Working(
            "the gauge from the first look to the last",
            f"{plain(run.first_pct, 'pct')} to {plain(run.last_pct, 'pct')}",
            duration(run.hours * 3600),
            "a display's percent is not energy",
        )
    ]
    beside, percent_w = "", None
    if claims is not None and claims.battery_wh and run.down:
        usable_wh = claims.battery_wh * (claims.usable_pct or 100.0) / 100
        w = percent_w = usable_wh * (100.0 if run.whole else moved_pct) / 100 / run.hours
        beside = f": about {plain(w, 'w')} on average, if {plain(usable_wh, 'wh')} of it are usable"
        workings.append(
            Working(
                "mean load = usable energy ÷ hours",
                f"{plain(usable_wh, 'wh')} × {plain(100.0 if run.whole else moved_pct, 'pct')} ÷ {number(run.hours)} h",
                plain(w, "w"),
                "the nameplate's energy, grade C",
            )
        )
    verb = "It went" if run.down else "It was charged"
    ended = " It was empty then." if run.whole and run.down else ""
    finding = Finding(
        key="run-percent",
        topic=Topic.ENERGY if run.down else Topic.RECHARGE,
        title="The run, in percent",
        sentence=f"{verb}{_span(run)} in {duration(run.hours * 3600)}{beside}.{ended}",
        value=Value(run.hours, "h", None, None if run.whole else Bound.AT_LEAST, Grade.A),
        workings=tuple(workings),
        seqs=run.seqs,
        needs="a counter of energy, or the watts, read beside it",
    )
    more = _describe_runtime(context) if run.down and not run.whole else []
    return RunsSeen(run, None, (finding, *more), percent_w)


def _end_s(context: SessionContext) -> float:
    """When the run ended: at its trip, else at the last entry."""
    trips = [entry.t_s for entry, _ in context.events("trip", "empty", "full")]
    return trips[-1] if trips else context.record.end_s


def _best_log(logs: Sequence[TraceFeatures], *, down: bool) -> TraceFeatures | None:
    """The log that covers most, of those that count the load's side."""
    able = [
        log for log in logs if any(e.covered_s >= LEAST_S and (e.place is Place.TOTAL or down) for e in log.energies)
    ]
    return max(able, key=lambda log: max(e.covered_s for e in log.energies), default=None)


def _whole(context: SessionContext, first_pct: float | None, last_pct: float | None, *, down: bool) -> bool:
    """Whether it went all the way: said or shown full, and said or shown empty."""
    said = {event.name for _, event in context.events("full", "empty")}
    ended = any(RAN_OUT.search(event.detail) for _, event in context.events("trip"))
    high_pct, low_pct = (first_pct, last_pct) if down else (last_pct, first_pct)
    full = "full" in said or (high_pct is not None and high_pct >= FULL_PCT)
    empty = "empty" in said or (down and ended) or (low_pct is not None and low_pct <= EMPTY_PCT)
    return full and empty


def _gauge_points(context: SessionContext) -> list[tuple[float, float]]:
    """What the gauge showed, and the energy delivered until then [Wh]: logged, else typed side by side."""
    logged = [log.gauge for log in context.logs if len(log.gauge) >= GAUGE_LEAST]
    if logged:
        return list(max(logged, key=lambda points: len(tuple(points))))
    counted = count_energy(context, _end_s(context))
    shown = [(t_s, r.value) for _, t_s, _, r in context.readings("soc_pct")]
    if counted is None or not shown:
        return []
    base = counted.points[0][2]
    result = [(pct, wh - base) for t_s, pct in shown for _, at, wh in counted.points if abs(at - t_s) < 1]
    # A percentage that rises while it gives was misread: the check says so, and it is left out.
    kept: list[tuple[float, float]] = []
    for pct, wh in result:
        if not kept or pct <= kept[-1][0]:
            kept.append((pct, wh))
    return kept


def gauge_truth(points: Sequence[tuple[float, float]], *, whole: bool) -> GaugeSeen | None:
    """What a gauge showed against the energy really left; None for a run that did not go all the way, or too few points.

    ``points`` are (shown %, energy given so far). What is left is the share of
    all that came out.
    """
    if not whole or len(points) < GAUGE_LEAST:
        return None
    total = max(wh for _, wh in points)
    if total <= 0:
        return None
    pairs = tuple((shown, (1 - wh / total) * 100) for shown, wh in points)
    worst = max(pairs, key=lambda pair: abs(pair[0] - pair[1]))
    return GaugeSeen(pairs, worst[0] - worst[1], worst[0], _at_half(pairs))


def _at_half(pairs: Sequence[tuple[float, float]]) -> float | None:
    ordered = sorted(pairs, key=lambda pair: -pair[1])
    for (high_shown, high), (low_shown, low) in pairwise(ordered):
        if high >= 50 >= low and high > low:
            return high_shown + (low_shown - high_shown) * (high - 50) / (high - low)
    return None


def _span(run: Run) -> str:
    if run.first_pct is None or run.last_pct is None:
        return ""
    return f" from {plain(run.first_pct, 'pct')} to {plain(run.last_pct, 'pct')}"


def _needs(run: Run, to_the_end: str) -> str:
    """What would make a run surer."""
    if not run.whole:
        return to_the_end
    return "a counter of energy read beside it" if run.no_counter else ""


def _describe_down(context: SessionContext, run: Run) -> Finding:
    side = run.ac_wh if run.ac_wh is not None else run.dc_wh or 0.0
    u = run.u_ac_wh if run.ac_wh is not None else run.u_dc_wh
    verb = "It delivered" if run.ac_wh is not None else "The battery gave"
    ended = " It was empty then." if run.whole else ""
    working = Working(
        "delivered_wh_ac = mean load × hours of the run",
        f"{number(run.mean_w, 'w')} × {run.hours:.3f}",
        plain(side, "wh"),
        "the load's side" if run.ac_wh is not None else "the battery's side",
    )
    return Finding(
        key=f"run-{run.log or 'typed'}",
        topic=Topic.ENERGY,
        title="The run",
        sentence=f"{verb} {plain(side, 'wh')} in {duration(run.hours * 3600)}{_span(run)}.{ended}",
        value=Value(side, "wh", u, None if run.whole else Bound.AT_LEAST, Grade.B if run.no_counter else Grade.A),
        workings=(working, *((run.counted.working,) if run.counted else ())),
        seqs=run.seqs,
        needs=_needs(run, "the same to the end, from full to empty (Endurance)"),
        span=None,
        log=run.log,
    )


def _describe_usable(context: SessionContext, run: Run) -> list[Finding]:
    rated = context.source.claims.battery_wh if context.source else None
    if not rated or run.ac_wh is None:
        return []
    share_pct = run.ac_wh / rated * 100
    claimed = context.source.claims.usable_pct if context.source else None
    beside = f", where the booklet has {plain(claimed, 'pct')}" if claimed else ""
    working = Working(
        "usable share = delivered ÷ rated capacity",
        f"{number(run.ac_wh, 'wh')} ÷ {number(rated, 'wh')}",
        plain(share_pct, "pct"),
        "at this load; the idle draw of a slow run is in it",
    )
    return [
        Finding(
            key=f"usable-{run.log or 'typed'}",
            topic=Topic.ENERGY,
            title="Usable share",
            sentence=f"Of the {plain(rated, 'wh')} it is rated at, {plain(share_pct, 'pct')} reached the load{beside}.",
            value=Value(share_pct, "pct", run.u_ac_wh / rated * 100, None, Grade.B if run.no_counter else Grade.A),
            workings=(working,),
            seqs=run.seqs,
            needs="",
            span=None,
            log=run.log,
        )
    ]


@dataclass(frozen=True)
class Tail:
    """The end of a charge: how long it took to ``TAIL_PCT`` and from there [s]."""

    to_s: float
    from_s: float


TAIL_PCT = 80.0
"""From here on most chargers fall back."""


def tail_of(shown: Sequence[tuple[float, float]]) -> Tail | None:
    """How long a charge took to ``TAIL_PCT`` and from there to its last look, straight between looks.

    Parameters
    ----------
    shown
        Seconds run and percent at each look, in order.

    Returns
    -------
    Tail or None
        None unless it began below and ended above, with a look within.
    """
    if len(shown) < GAUGE_LEAST or not shown[0][1] < TAIL_PCT < shown[-1][1]:
        return None
    at_s = float(np.interp(TAIL_PCT, [pct for _, pct in shown], [t_s for t_s, _ in shown]))
    return Tail(at_s - shown[0][0], shown[-1][0] - at_s)


def _beside_claims(claims: Claims | None, wh: float, hours: float) -> str:
    """What the nameplate promises of a charge, in words."""
    if claims is None:
        return ""
    said = (
        f"; at the {plain(claims.charge_w, 'w')} claimed it would take {duration(wh / claims.charge_w * 3600)}"
        if claims.charge_w
        else ""
    )
    if claims.charge_h:
        said += f"; {duration(claims.charge_h * 3600)} are claimed, {plain(hours / claims.charge_h * 100, 'pct')} of that it took"
    return said


def _describe_up(context: SessionContext, run: Run) -> Finding:
    wh = run.ac_wh or 0.0
    beside = _beside_claims(context.source.claims if context.source else None, wh, run.hours)
    whole = " From empty to full." if run.whole else ""
    tail = tail_of([(context.record.ran_s(t_s), r.value) for _, t_s, _, r in context.readings("soc_pct")])
    if tail is not None:
        whole += f" To {plain(TAIL_PCT, 'pct')} it took {duration(tail.to_s)}, the rest {duration(tail.from_s)}."
    working = Working(
        "wall energy = mean load at the wall × hours",
        f"{number(run.mean_w, 'w')} × {run.hours:.3f}",
        plain(wh, "wh"),
        "charging has its own idle: it is in this",
    )
    return Finding(
        key=f"charge-{run.log or 'typed'}",
        topic=Topic.RECHARGE,
        title="Recharge",
        sentence=f"Charging took {plain(wh, 'wh')} from the wall in {duration(run.hours * 3600)}{_span(run)}{beside}.{whole}",
        value=Value(
            wh, "wh", run.u_ac_wh, None if run.whole else Bound.AT_LEAST, Grade.B if run.no_counter else Grade.A
        ),
        workings=(working, *((run.counted.working,) if run.counted else ())),
        seqs=run.seqs,
        needs=_needs(run, "from empty to full (Recharge)"),
        span=None,
        log=run.log,
    )


def _describe_gauge(gauge: GaugeSeen, run: Run) -> Finding:
    worst = abs(gauge.worst_pt)
    if worst <= TRUE_WITHIN_PCT:
        said = f"The gauge tells the truth to within {number(round(worst, 1))} points"
    else:
        way = "more" if gauge.worst_pt > 0 else "less"
        left = gauge.worst_at_pct - gauge.worst_pt
        said = f"The gauge shows {way} than is there: at {plain(gauge.worst_at_pct, 'pct')} shown, {plain(round(left), 'pct')} was left"
    half = (
        f"; half was left when it showed {plain(round(gauge.half_at_pct), 'pct')}"
        if gauge.half_at_pct is not None
        else ""
    )
    working = Working(
        "largest gap = shown − left, left = 1 − energy given so far ÷ all that came out",
        f"{number(gauge.worst_at_pct)} − {gauge.worst_at_pct - gauge.worst_pt:.2f}",
        f"{number(gauge.worst_pt)} points, of {len(gauge.points)} looks",
    )
    return Finding(
        key="gauge",
        topic=Topic.GAUGE,
        title="Gauge truth",
        sentence=f"{said}{half}.",
        value=Value(worst, "pt", None, None, Grade.A if len(gauge.points) >= 6 else Grade.B),
        workings=(working,),
        seqs=run.seqs,
        needs="" if len(gauge.points) >= 6 else "more check-ins (Endurance)",
        span=None,
        log=run.log,
    )


def _describe_runtime(context: SessionContext) -> list[Finding]:
    """How much longer a run would have gone on, by each way of reckoning, and how far they lie apart."""
    claims = context.source.claims if context.source else Claims(cont_w=1.0)
    logged = [(t_s, pct) for log in context.logs for t_s, pct in log.charge]
    ways = projections(context.session, context.record, claims, logged, context.loads, context.waiting)
    if not ways:
        return []
    low, high = min(way.left_s for way in ways), max(way.left_s for way in ways)
    spread = f", so between {duration(low)} and {duration(high)}" if len(ways) > 1 else ""
    said = f"It would have gone on for {'; '.join(way.label for way in ways)}{spread}. A display's “hours left” is for the load of that minute."
    workings = tuple(
        Working(
            "what is left ÷ what it goes by",
            way.put_in,
            f"{duration(way.left_s)} ± {duration(way.u_s)}" if way.u_s else duration(way.left_s),
            way.by,
        )
        for way in ways
    )
    return [
        Finding(
            key="runtime",
            topic=Topic.ENERGY,
            title="How much longer",
            sentence=said,
            value=Value((low + high) / 7200, "h", (high - low) / 7200, None, Grade.B),
            workings=workings,
            seqs=(),
            needs="a run to the end (Endurance)",
        )
    ]
