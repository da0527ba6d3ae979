"""How an engine set takes steps of load, and the performance class it meets."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..quantities import Grade, Value, number, plain
from ..sessions import Place, Reading, Stat
from ..sources import SourceKind
from ..timeline.traces.step_changes import LoadStep, Swing
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic
from .lines import LoadLine

CLASSES = ("G1", "G2", "G3")
LIMITS: dict[str, tuple[str, tuple[float, float, float], str]] = {
    "droop": ("frequency droop", (8, 5, 3), "pct"),
    "hz_band": ("steady frequency band", (2.5, 1.5, 0.5), "pct"),
    "hz_on": ("frequency lost at a load step", (15, 10, 7), "pct"),
    "hz_off": ("frequency gained as all is shed", (18, 12, 10), "pct"),
    "hz_back": ("frequency back after", (10, 5, 3), "s"),
    "v_band": ("steady voltage, ±", (5, 2.5, 1), "pct"),
    "v_on": ("voltage lost at a load step", (25, 20, 15), "pct"),
    "v_off": ("voltage gained as all is shed", (35, 25, 20), "pct"),
    "v_back": ("voltage back after", (10, 6, 4), "s"),
}
"""Each line of the class with its limits for G1, G2, G3 (ISO 8528-5, operating limit values)."""
SMALL_VA = 10_000.0
"""Sets of 10 kVA or less may be sold to wider limits agreed between maker and buyer (ISO 8528-8)."""
FULL_SHARE = 0.6
"""A step of this share of the claim or more counts as shedding full load; a smaller one is a lower bound."""


@dataclass(frozen=True)
class ClassLine:
    """One line of the class: what was seen, its limits, and the best class it meets (None: not even G1)."""

    key: str
    label: str
    seen: float
    limits: tuple[float, float, float]
    unit: str

    @property
    def best(self) -> int | None:
        """Index of the best class met."""
        return next((i for i in (2, 1, 0) if self.seen <= self.limits[i]), None)


@dataclass(frozen=True)
class ClassSeen:
    """The lines seen, the best class all of them meet (empty: none), and the line that keeps it from the next."""

    lines: tuple[ClassLine, ...]
    missing: tuple[str, ...]
    best: str
    keeper: ClassLine | None
    finding: Finding


def iso_class(context: SessionContext, droop: LoadLine | None, regulation: Sequence[LoadLine]) -> ClassSeen | None:
    """The class an engine set meets on resistive steps; None for another source, or where no step was read.

    References
    ----------
    ISO 8528-5, operating limit values for performance classes G1 to G3.
    """
    source = context.source
    if source is None or source.kind is not SourceKind.OPEN_FRAME:
        return None
    steps = [
        *_typed(context),
        *(step for log in context.logs for step in log.load_steps if _resistive(context, step.t_s)),
    ]
    if not steps:
        return None
    figures = _figures(context, steps, droop, regulation)
    lines = tuple(
        ClassLine(key, LIMITS[key][0], figures[key], LIMITS[key][1], LIMITS[key][2]) for key in LIMITS if key in figures
    )
    if not lines:
        return None
    missing = tuple(words for key, (words, _, _) in LIMITS.items() if key not in figures)
    met = min((-1 if line.best is None else line.best for line in lines), default=-1)
    keeper = None if met == 2 else next(line for line in lines if (-1 if line.best is None else line.best) == met)
    best = CLASSES[met] if met >= 0 else ""
    return ClassSeen(lines, missing, best, keeper, _describe(context, lines, missing, best, met, keeper))


def _resistive(context: SessionContext, t_s: float) -> bool:
    """Whether what came or went at a time was plain heat: a motor's start is no load step."""
    if context.session.protocol == "load_steps":
        return True
    before, after = set(context.on_at(t_s - 6)), set(context.on_at(t_s + 3))
    moved = before ^ after
    return bool(moved) and all(context.loads[key].kind_figures.plain_heat for key in moved if key in context.loads)


Steady = dict[str, float | None]


def _typed(context: SessionContext) -> list[LoadStep]:
    """Steps of a load-steps session as read by meters that hold their extremes."""
    if context.session.protocol != "load_steps":
        return []
    load_steps: list[LoadStep] = []
    last_w: float | None = None
    standing: Steady = {}
    for segment in context.record.segments:
        w = segment.total_w(context.system.legs) if segment.on else 0.0
        if w is None:
            continue
        hz, v = (_swing(segment.readings, q, standing.get(q)) for q in ("hz", "v"))
        if last_w is not None and abs(w - last_w) > 1 and (hz or v):
            load_steps.append(LoadStep(segment.t0_s, last_w, w, hz, v))
        last_w = w
        standing |= {q: value for q in ("hz", "v") if (value := _steady(segment.readings, q)) is not None}
    return load_steps


def _steady(readings: Sequence[tuple[int, float, Reading]], quantity: str) -> float | None:
    hits = [
        r.value
        for _, _, r in readings
        if r.quantity == quantity
        and r.stat in (Stat.STEADY, Stat.SETTLED)
        and r.place in (Place.LEG1, Place.TOTAL, Place.NONE)
    ]
    return hits[-1] if hits else None


def _swing(read: Sequence[tuple[int, float, Reading]], quantity: str, before: float | None) -> Swing | None:
    readings = [r for _, _, r in read if r.quantity == quantity]
    extremes = [
        r.value for r in readings if r.stat in (Stat.LOWEST, Stat.HIGHEST) and r.place in (Place.LEG1, Place.NONE)
    ]
    said = [r.value for r in readings if r.stat is Stat.BEFORE]
    settled = [r.value for r in readings if r.stat in (Stat.STEADY, Stat.SETTLED)]
    start = said[-1] if said else before
    if not extremes or start is None:
        return None
    return Swing(start, extremes[-1], settled[-1] if settled else start, (None, None, None))


def _figures(
    context: SessionContext, steps: Sequence[LoadStep], droop: LoadLine | None, regulation: Sequence[LoadLine]
) -> dict[str, float]:
    hz, nominal_v = context.system.hz, context.system.v_nominal
    # Droop and steady volts are asked from no load to the rating: the lines are followed there.
    full_w = context.source.claims.cont_w if context.source else 0.0
    result: dict[str, float] = {}
    if droop is not None:
        result["droop"] = max(0.0, (droop.line.at(0) - droop.line.at(full_w)) / hz * 100)
    bands = [4 * point.scatter / hz * 100 for log in context.logs for point in log.hertz]
    if bands:
        result["hz_band"] = max(bands)
    if regulation:
        volts = [line.line.at(w) for line in regulation for w in (0.0, full_w / context.system.legs)]
        result["v_band"] = (max(volts) - min(volts)) / 2 / nominal_v * 100
    for quantity, nominal in (("hz", hz), ("v", nominal_v)):
        swings = [(step, swing) for step in steps if (swing := getattr(step, quantity)) is not None]
        on = [(s.before - s.extreme) / nominal * 100 for step, s in swings if step.step_w > 0]
        off = [(s.extreme - s.before) / nominal * 100 for step, s in swings if step.step_w < 0]
        back = [s.back_s[1] for _, s in swings if s.back_s[1] is not None]
        if on:
            result[f"{quantity}_on"] = max(0.0, *on)
        if off:
            result[f"{quantity}_off"] = max(0.0, *off)
        if back:
            result[f"{quantity}_back"] = max(back)
    return result


def _describe(
    context: SessionContext,
    lines: Sequence[ClassLine],
    missing: Sequence[str],
    best: str,
    met: int,
    keeper: ClassLine | None,
) -> Finding:
    assert context.source is not None

    def figure(line: ClassLine) -> str:
        return plain(line.seen, line.unit)

    said = f"On resistive steps it meets class {best}" if best else "On resistive steps it does not meet class G1"
    if keeper is not None:
        limit = plain(keeper.limits[met + 1], keeper.unit)
        said += f"; {keeper.label} of {figure(keeper)} keeps it from {CLASSES[met + 1]}, which allows {limit}"
    if missing:
        said += f"; not read: {', '.join(missing)}"
    workings = tuple(
        Working(
            line.label,
            f"{number(line.seen)} > {number(line.limits[0])}"
            if line.best is None
            else f"{number(line.seen)} ≤ {number(line.limits[line.best])}",
            "not even G1" if line.best is None else CLASSES[line.best],
            f"ISO 8528-5, G1 to G3: {', '.join(number(x) for x in line.limits)} {'s' if line.unit == 's' else '%'}",
        )
        for line in lines
    )
    small = context.source.claims.cont_w <= SMALL_VA
    note = Working(
        "sets of 10 kVA or less may have wider limits by agreement",
        f"{number(context.source.claims.cont_w, 'w')} ≤ {number(SMALL_VA, 'va')}",
        "ask what was agreed; the classes above are the general ones",
        "ISO 8528-8",
    )
    return Finding(
        key="iso-class",
        topic=Topic.STEPS,
        title="How it takes a load",
        sentence=said + ".",
        value=Value(met + 1, "n", None, None, Grade.B if missing else Grade.A),
        workings=(*workings, note) if small else workings,
        seqs=(),
        needs="a fast log of volts and hertz through the steps (Load steps)" if missing else "",
    )
