"""The Stack: what stands on the source, the limits that bind, and the next start on top."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from muster.core.loads import Load, short_name
from muster.core.quantities import plain
from muster.core.sources.limits import Limit
from muster.core.stacking.what_if import stack_va
from muster.core.supply import Leg, System

from .scales import Scale, Tick, spread, ticks

WIDTH, HEIGHT = 440, 566
TOP, BASE = 26, 508
LEFT, COLUMN, SPINE = 44, 104, 8
LIMITS_END, LABELS = 276, 284
LEAST_LABEL = 15
LABEL_GAP = 33


@dataclass(frozen=True)
class Slab:
    """A load standing on the source: a rectangle with its name when there is room."""

    x: float
    y: float
    width: float
    height: float
    name: str
    css: str
    labelled: bool

    @property
    def letters(self) -> int:
        """How many letters of its name fit."""
        return int(self.width // 7)

    @property
    def middle(self) -> tuple[float, float]:
        """Where its name goes."""
        return round(self.x + self.width / 2, 1), round(self.y + self.height / 2 + 4, 1)


@dataclass(frozen=True)
class LimitLine:
    """A limit across the columns, and its label spread clear of its neighbours."""

    y: float
    label_y: float
    x1: float
    x2: float
    figure: str
    basis: str
    css: str


@dataclass(frozen=True)
class LegFoot:
    """What stands below a column."""

    x: float
    name: str
    va: str
    w: str
    css: str


@dataclass(frozen=True)
class Stack:
    """Geometry of the Stack, in a box of ``width`` by ``height``."""

    width: int
    height: int
    slabs: tuple[Slab, ...]
    start: tuple[Slab, ...]
    start_name: str
    limits: tuple[LimitLine, ...]
    ticks: tuple[Tick, ...]
    feet: tuple[LegFoot, ...]
    spine: bool
    spine_to: float
    base: int
    top: int
    left: int
    labels_x: int
    description: str
    highest_va: float


def _columns(system: System) -> dict[Leg, float]:
    if system.legs == 1:
        return {Leg.ONE: LEFT + 50.0}
    return {Leg.ONE: float(LEFT), Leg.TWO: float(LEFT + COLUMN + SPINE)}


def draw_stack(on: Sequence[Load], starting: Load | None, limits: Sequence[Limit], system: System) -> Stack:
    """Lay out the Stack in volt-amperes: largest at the bottom, loads across both legs as one slab.

    ``starting`` is drawn as a hatched cap on what is on, before it is
    switched on. Limits of the whole source are drawn for a single leg only;
    those given in watts stand at unity power factor.
    """
    columns = _columns(system)
    shown = [limit for limit in limits if limit.leg is not None or system.legs == 1]
    with_start = [*on, starting] if starting else list(on)
    tops = [stack_va(with_start, leg, system, starting) for leg in columns]
    highest = max([*tops, *(limit.w for limit in shown), 500.0]) * 1.06
    scale = Scale(0, highest, BASE, TOP)
    slabs, heights = _slabs(on, columns, system, scale)
    start = _start(starting, columns, heights, system, scale) if starting else ()
    return Stack(
        width=WIDTH,
        height=HEIGHT,
        slabs=tuple(slabs),
        start=tuple(start),
        start_name=short_name(starting) if starting else "",
        limits=_limit_lines(shown, columns, system, scale),
        ticks=ticks(scale, 6, 1000),
        feet=tuple(_foot(leg, x, on, system) for leg, x in columns.items()),
        spine=system.legs == 2,
        spine_to=_spine_end(on, system, scale),
        base=BASE,
        top=TOP,
        left=LEFT,
        labels_x=LABELS,
        description=describe(on, starting, limits, system),
        highest_va=round(highest, 1),
    )


def _spine_end(on: Sequence[Load], system: System, scale: Scale) -> float:
    """The spine stands on the loads across both legs."""
    return scale(sum(load.run_va / 2 for load in on if load.leg is Leg.BOTH)) if system.legs == 2 else BASE


def _ordered(on: Sequence[Load], leg: Leg) -> list[Load]:
    return sorted((load for load in on if load.leg is leg), key=lambda load: -load.run_va)


def _slabs(
    on: Sequence[Load], columns: dict[Leg, float], system: System, scale: Scale
) -> tuple[list[Slab], dict[Leg, float]]:
    heights = dict.fromkeys(columns, 0.0)
    slabs = []
    if system.legs == 2:
        wide = COLUMN * 2 + SPINE
        for load in _ordered(on, Leg.BOTH):
            slabs.append(_slab(load, LEFT, wide, heights[Leg.ONE], load.run_va / 2, scale, "both"))
            heights = {leg: h + load.run_va / 2 for leg, h in heights.items()}
        rest = {leg: _ordered(on, leg) for leg in columns}
    else:
        rest = {Leg.ONE: sorted(on, key=lambda load: -load.run_va)}
    for leg, x in columns.items():
        for load in rest[leg]:
            slabs.append(_slab(load, x, COLUMN, heights[leg], load.run_va, scale, f"leg{leg.value}"))
            heights[leg] += load.run_va
    return slabs, heights


def _slab(load: Load, x: float, width: float, from_va: float, va: float, scale: Scale, css: str) -> Slab:
    y, bottom = scale(from_va + va), scale(from_va)
    height = round(bottom - y, 1)
    return Slab(x=x, y=y, width=width, height=height, name=short_name(load), css=css, labelled=height >= LEAST_LABEL)


def _start(
    load: Load, columns: dict[Leg, float], heights: dict[Leg, float], system: System, scale: Scale
) -> list[Slab]:
    caps = []
    for leg, x in columns.items():
        share = 1.0 if system.legs == 1 else load.share_on(leg)
        if share:
            caps.append(_slab(load, x, COLUMN, heights[leg], load.moment_va(system.hz) * share, scale, "start"))
    return caps


def _limit_lines(
    limits: Sequence[Limit], columns: dict[Leg, float], system: System, scale: Scale
) -> tuple[LimitLine, ...]:
    """One line a limit; the same limit of both legs is one line across both."""
    result: dict[tuple[str, float, str], list[Limit]] = {}
    for limit in limits:
        result.setdefault((limit.key, round(limit.w), limit.basis), []).append(limit)
    groups = sorted(result.values(), key=lambda group: -group[0].w)
    labels = spread([scale(group[0].w) for group in groups], LABEL_GAP, TOP - 6)
    last = max(columns.values()) + COLUMN
    lines = []
    for group, label_y in zip(groups, labels, strict=True):
        limit = group[0]
        lone = limit.leg if len(group) == 1 and system.legs == 2 else None
        x1 = columns[lone] - 4 if lone else LEFT - 4
        where = f", {lone.label}" if lone else ""
        css = "trip" if limit.key == "trip" else "measured" if limit.grade.is_measured else limit.key
        lines.append(
            LimitLine(
                y=scale(limit.w),
                label_y=label_y,
                x1=x1,
                x2=max(last, LIMITS_END) if lone is not Leg.ONE else LIMITS_END,
                figure=f"{plain(limit.w, 'va' if limit.key == 'breaker' else 'w')} {limit.name}",
                basis=f"{limit.basis}{where}",
                css=css,
            )
        )
    return tuple(lines)


def _foot(leg: Leg, x: float, on: Sequence[Load], system: System) -> LegFoot:
    watts = sum(load.run_w * (1.0 if system.legs == 1 else load.share_on(leg)) for load in on)
    name = "Leg " + leg.value if system.legs == 2 else "Source"
    return LegFoot(x + COLUMN / 2, name, plain(stack_va(on, leg, system), "va"), plain(watts, "w"), f"leg{leg.value}")


def describe(on: Sequence[Load], starting: Load | None, limits: Sequence[Limit], system: System) -> str:
    """The Stack as sentences, for a reader and for print."""
    if on:
        names = ", ".join(f"{short_name(load)} {plain(load.run_va, 'va')}" for load in on)
        said = f"On now: {names}."
    else:
        said = "No load is on."
    for leg in system.leg_names:
        place = f"Leg {leg.value}" if system.legs == 2 else "The source"
        said += f" {place} carries {plain(stack_va(on, leg, system), 'va')}."
    if starting:
        said += f" Next: {short_name(starting)}, {plain(starting.moment_va(system.hz), 'va')} at its start."
    bounds = "; ".join(
        f"{limit.name}{' ' + limit.leg.label if limit.leg else ''} {plain(limit.w, 'va')} ({limit.basis})"
        for limit in limits
    )
    return f"{said} Limits: {bounds}." if bounds else said
