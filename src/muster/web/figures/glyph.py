"""The load shape glyph: start spike, run level and duty, 96 by 24, to scale within the job."""

from __future__ import annotations

from dataclasses import dataclass

from muster.core.loads import Load
from muster.core.quantities import plain

WIDTH, HEIGHT = 96, 24
FLOOR, ROOM = 23.0, 21.0
SPIKE = 5.0
CYCLE = 44.0


@dataclass(frozen=True)
class Glyph:
    """A path, and what it says in words."""

    path: str
    words: str
    width: int = WIDTH
    height: int = HEIGHT


def draw_glyph(load: Load, highest_va: float) -> Glyph:
    """Draw a load's shape; ``highest_va`` is the highest start in the job, which fills the height.

    Heights go by the square root, so that a router can be seen beside a
    pump; widths show the share of time on over two cycles.
    """
    run_y = _y(load.run_va, highest_va)
    start_y = _y(load.start_total_va, highest_va)
    spikes = load.start_s > 0 and load.start_total_va > 1.05 * load.run_va
    on = max(SPIKE + 2, CYCLE * load.duty.share)
    parts = [f"M0 {FLOOR}"]
    for x in (2.0, 2.0 + CYCLE) if load.duty.cycles else (2.0,):
        end = round(x + (on if load.duty.cycles else WIDTH - 4), 1)
        parts.append(f"H{x}")
        if spikes:
            parts.append(f"V{start_y}H{round(x + SPIKE, 1)}")
        parts.append(f"V{run_y}H{end}V{FLOOR}")
    parts.append(f"H{WIDTH}")
    return Glyph("".join(parts), _words(load))


def _y(va: float, highest_va: float) -> float:
    share = (va / highest_va) ** 0.5 if highest_va > 0 else 0.0
    return round(FLOOR - max(1.0, ROOM * min(share, 1.0)), 1)


def _words(load: Load) -> str:
    rhythm = f"{load.duty.on_min:g} min on, {load.duty.off_min:g} min off" if load.duty.cycles else "throughout"
    return f"starts at {plain(load.start_total_va, 'va')}, runs at {plain(load.run_va, 'va')}, {rhythm}"
