"""The load shape glyph: start spike, run level and duty, 96 by 24, to scale within the job."""

from __future__ import annotations

from dataclasses import dataclass

from muster.core.loads import Load
from muster.core.loads.parts import level_at, start_moment
from muster.core.quantities import plain

WIDTH, HEIGHT = 96, 24
FLOOR, ROOM = 23.0, 21.0
SPIKE = 5.0
CYCLE = 44.0


@dataclass(frozen=True)
class Glyph:
    """A path, and what it says in words."""

    path: str
    label: str
    width: int = WIDTH
    height: int = HEIGHT


def draw_glyph(load: Load, highest_va: float) -> Glyph:
    """Draw a load's shape; ``highest_va`` is the highest start in the job, which fills the height.

    Heights go by the square root, so that a router can be seen beside a
    pump; widths show the share of time on over two cycles. A load in parts
    rises and falls by them, each with its own spike; what is too short to be
    seen stands beside it.
    """
    on = max(SPIKE + 2, CYCLE * load.duty.share)
    path = [f"M0 {FLOOR}"]
    for x in (2.0, 2.0 + CYCLE) if load.duty.cycles else (2.0,):
        path.append(f"H{x}")
        path += _one_call(load, highest_va, x, on if load.duty.cycles else WIDTH - 4)
    path.append(f"H{WIDTH}")
    return Glyph("".join(path), _words(load))


def _one_call(load: Load, highest_va: float, x: float, wide: float) -> list[str]:
    """A call's levels from ``x`` on, squeezed into its width, and down again."""
    parts = load.running_parts
    edges = sorted({0.0, *(p.from_s for p in parts), *(p.end_s for p in parts if p.for_s is not None)})
    call_s = max(load.duty.on_min * 60, edges[-1] + 1) if load.duty.cycles else max(60.0, edges[-1] * 1.3)
    drawn: list[str] = []
    reached = x
    for edge in edges:
        reached = max(reached, x + wide * edge / call_s)
        level = level_at(parts, edge, "run_va")
        spike = max((start_moment(parts, p) for p in parts if p.from_s == edge and p.start_extra_va > 0), default=0.0)
        drawn.append(f"H{round(reached, 1)}")
        if spike > 1.05 * level and any(p.start_s > 0 for p in parts if p.from_s == edge):
            reached = min(reached + SPIKE, x + wide)
            drawn.append(f"V{_y(spike, highest_va)}H{round(reached, 1)}")
        drawn.append(f"V{_y(level, highest_va)}")
    return [*drawn, f"H{round(x + wide, 1)}V{FLOOR}"]


def _y(va: float, highest_va: float) -> float:
    share = (va / highest_va) ** 0.5 if highest_va > 0 else 0.0
    return round(FLOOR - max(1.0, ROOM * min(share, 1.0)), 1)


def _words(load: Load) -> str:
    return f"starts at {plain(load.start_total_va, 'va')}, runs at {plain(load.run_va, 'va')}, {load.duty.label}"
