"""The heating check: heat that went into weighed water against watts drawn, on the mains and on the source."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..errors import MusterError
from ..quantities import Grade, Value, plain
from ..sessions import Reading, Stat, Step
from ..trade.heat import WATER_J_PER_KG_K, heating_w
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic

U_K, U_KG, U_S = 0.5, 0.010, 2.0
"""How well water is commonly weighed, felt with a thermometer, and timed (docs/method/waveform.md#heating-check)."""
MAINS = "mains"


@dataclass(frozen=True)
class HeatRun:
    """One run: heat delivered [W] and its half-width, watts drawn (None where not read), and whether on the mains."""

    on_mains: bool
    delivered_w: float
    u_w: float
    drawn_w: float | None
    seq: int
    put_in: str
    v: float | None = None
    """Volts meanwhile, None where they were not read."""

    @property
    def share(self) -> float | None:
        """Delivered over drawn."""
        return self.delivered_w / self.drawn_w if self.drawn_w else None


@dataclass(frozen=True)
class HeatingSeen:
    """The runs, and the source's heat over the mains' (None while only one was run)."""

    runs: tuple[HeatRun, ...]
    ratio: float | None
    u_ratio: float | None
    findings: tuple[Finding, ...]


def _run(context: SessionContext, seq: int, readings: list[Reading], step: Step | None) -> HeatRun | None:
    def latest(quantity: str, *stats: Stat) -> Reading | None:
        return next((r for r in readings if r.quantity == quantity and r.stat in stats), None)

    water, seconds = latest("water_kg", Stat.STEADY), latest("heat_s", Stat.STEADY)
    before, after = latest("temp_c", Stat.BEFORE), latest("temp_c", Stat.SETTLED)
    if water is None or seconds is None or before is None or after is None:
        return None
    try:
        w = heating_w(water.value, before.value, after.value, seconds.value)
    except MusterError:
        return None
    rise = after.value - before.value
    u_w = w * math.hypot(math.sqrt(2) * U_K / rise, U_KG / water.value, U_S / seconds.value)
    drawn, volts = latest("w", Stat.STEADY), latest("v", Stat.STEADY)
    put_in = f"{water.value:g} kg × {WATER_J_PER_KG_K:g} × {rise:g} K ÷ {seconds.value:g} s"
    on_mains = (step is not None and step.on_mains) or any(r.spot.lower() == MAINS for r in readings)
    return HeatRun(
        on_mains=on_mains,
        delivered_w=w,
        u_w=u_w,
        drawn_w=drawn.value if drawn else None,
        seq=seq,
        put_in=put_in,
        v=volts.value if volts else None,
    )


def heating(context: SessionContext) -> HeatingSeen | None:
    """Every run of a heating check, and what the source's waveform costs; None where no run is whole."""
    if context.session.protocol != "heating_check":
        return None
    by_entry: dict[int, tuple[Step | None, list[Reading]]] = {}
    for seq, _, segment, reading in context.readings("water_kg", "heat_s", "temp_c", "w", "v"):
        by_entry.setdefault(seq, (context.step_of(segment), []))[1].append(reading)
    runs = [run for seq, (step, read) in by_entry.items() if (run := _run(context, seq, read, step)) is not None]
    if not runs:
        return None
    findings = [_describe_run(run) for run in runs]
    ratio, u_ratio = _ratio(runs)
    if ratio is not None and u_ratio is not None:
        findings.insert(0, _describe_ratio(runs, ratio, u_ratio))
    return HeatingSeen(tuple(runs), ratio, u_ratio, tuple(findings))


def _mean(runs: list[HeatRun]) -> tuple[float, float]:
    """Mean of delivered over drawn (of delivered alone, where the watts were not read), and its relative half-width."""
    figures = [run.share if run.share is not None else run.delivered_w for run in runs]
    mean = sum(figures) / len(figures)
    relative = math.sqrt(sum((run.u_w / run.delivered_w) ** 2 for run in runs)) / len(runs)
    return mean, relative


def _ratio(runs: list[HeatRun]) -> tuple[float | None, float | None]:
    mains, source = [r for r in runs if r.on_mains], [r for r in runs if not r.on_mains]
    alike = len({run.drawn_w is None for run in runs}) == 1
    if not mains or not source or not alike:
        return None, None
    (base, u_base), (here, u_here) = _mean(mains), _mean(source)
    ratio = here / base
    return ratio, ratio * math.hypot(u_base, u_here)


def _describe_run(run: HeatRun) -> Finding:
    where = "On the mains" if run.on_mains else "On the source"
    subject = (
        f", {plain(run.share * 100, 'pct')} of the {plain(run.drawn_w, 'w')} drawn" if run.share and run.drawn_w else ""
    )
    working = Working(
        "heat = mass × specific heat × rise ÷ time",
        run.put_in,
        plain(run.delivered_w, "w"),
        "c 4186 J/(kg·K); ±0.5 K each, ±10 g, ±2 s",
    )
    return Finding(
        key=f"heating-{run.seq}",
        topic=Topic.HEATING,
        title="Heat into water",
        sentence=f"{where} {plain(run.delivered_w, 'w')} went into the water{subject}.",
        value=Value(run.delivered_w, "w", run.u_w, None, Grade.A),
        workings=(working,),
        seqs=(run.seq,),
        needs="" if run.drawn_w else "the watts drawn meanwhile",
    )


def _describe_ratio(runs: list[HeatRun], ratio: float, u_ratio: float) -> Finding:
    per = "per watt drawn " if runs[0].drawn_w else ""
    if abs(ratio - 1) <= u_ratio:
        said = f"Food heats as it does on the mains: {per}the source gives {plain(ratio * 100, 'pct')} of the mains' heat, which this check cannot tell from the same."
    else:
        less = "less" if ratio < 1 else "more"
        said = f"On the source {per}{plain(abs(1 - ratio) * 100, 'pct')} {less} heat reaches the food than on the mains: what its waveform costs."
    working = Working(
        "source over mains",
        f"{len([r for r in runs if not r.on_mains])} runs against {len([r for r in runs if r.on_mains])}",
        f"{ratio:.3f} ± {u_ratio:.3f}",
        "quadrature sum of the runs' half-widths",
    )
    return Finding(
        key="heating-ratio",
        topic=Topic.HEATING,
        title="What the waveform costs in heat",
        sentence=said,
        value=Value(ratio * 100, "pct", u_ratio * 100, None, Grade.A),
        workings=(working,),
        seqs=tuple(run.seq for run in runs),
        needs="two runs more on each" if len(runs) < 4 else "",
    )
