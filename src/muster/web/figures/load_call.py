"""One call of a load: what it draws from the moment it comes on, its starts as spikes."""

from __future__ import annotations

from dataclasses import dataclass

from muster.core.loads import Load
from muster.core.loads.parts import level_at, start_moment
from muster.core.quantities import duration, plain

from .scales import Scale, Tick, ticks

WIDTH, HEIGHT = 560, 220
LEFT, RIGHT, TOP, BOTTOM = 58, 548, 16, 182
LEAST_S, MOST_S = 10.0, 7200.0
SPIKE = 3.0


@dataclass(frozen=True)
class CallRow:
    """A part in the text twin."""

    name: str
    when: str
    run_w: float
    moment_va: float


@dataclass(frozen=True)
class CallFigure:
    """Geometry of one call."""

    width: int
    height: int
    left: int
    right: int
    top: int
    bottom: int
    path: str
    spikes: tuple[tuple[float, float, float, float], ...]
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    x_unit: str
    y_unit: str
    label: str
    rows: tuple[CallRow, ...]


def _span_s(load: Load) -> float:
    """How much of a call is worth drawing [s]."""
    ends = [part.end_s if part.for_s is not None else part.from_s * 1.3 for part in load.running_parts]
    wanted = max(LEAST_S, *ends, load.start_s * 8)
    return min(wanted if not load.duty.once else load.duty.on_min * 60, MOST_S)


def draw_call(load: Load) -> CallFigure:
    """Lay out a call of a load in volt-amperes against time."""
    parts, span = load.running_parts, _span_s(load)
    in_minutes = span > 300
    unit_s = 60.0 if in_minutes else 1.0
    x = Scale(0, span / unit_s, LEFT, RIGHT)
    top = max(load.start_total_va, load.run_va) * 1.08
    y = Scale(0, top, BOTTOM, TOP)
    edges = sorted({0.0, *(p.from_s for p in parts), *(p.end_s for p in parts if p.end_s < span)})
    steps = "".join(f"H{x(at / unit_s)}V{y(level_at(parts, at, 'run_va'))}" for at in edges if at <= span)
    spikes = []
    for part in parts:
        if part.start_extra_va > 0 and part.from_s <= span:
            peak, beneath = start_moment(parts, part), level_at(parts, part.from_s, "run_va")
            wide = max(SPIKE, x(part.start_s / unit_s) - x(0))
            spikes.append((x(part.from_s / unit_s), y(peak), wide, round(y(beneath) - y(peak), 1)))
    return CallFigure(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=RIGHT,
        top=TOP,
        bottom=BOTTOM,
        path=f"M{x(0)} {y(0)}{steps}H{RIGHT}V{y(0)}Z",
        spikes=tuple(spikes),
        x_ticks=ticks(x, 6),
        y_ticks=ticks(y, 4, 1000 if top >= 2000 else 1),
        x_unit="min" if in_minutes else "s",
        y_unit="kVA" if top >= 2000 else "VA",
        label=_words(load),
        rows=tuple(
            CallRow(
                part.name,
                _when(part.from_s, part.for_s),
                part.run_w,
                start_moment(parts, part) if part.start_extra_va else level_at(parts, part.from_s, "run_va"),
            )
            for part in parts
        ),
    )


def _when(from_s: float, for_s: float | None) -> str:
    begin = "at once" if from_s == 0 else f"from {duration(from_s)}"
    return begin if for_s is None else f"{begin}, for {duration(for_s)}"


def _words(load: Load) -> str:
    most = plain(load.start_total_va, "va")
    return f"One call: it reaches {most} for {duration(load.start_s)} and runs at {plain(load.run_va, 'va')}, {load.duty.label}"
