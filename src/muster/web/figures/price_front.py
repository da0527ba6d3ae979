"""Price against the tightest margin: each source a letter, those joined than which no other is both cheaper and better."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from muster.core.compare import PricedMargin
from muster.core.quantities import signed

from .compare_rows import letter_of
from .scales import Scale, Tick, ticks

WIDTH, HEIGHT = 460, 260
LEFT, RIGHT, TOP, BOTTOM = 58, 436, 16, 216
MOST_SHARE = 2.0
"""A margin above so many times its demand is drawn there."""


@dataclass(frozen=True)
class PriceMark:
    """A source: its letter, where it lies, and whether it is on the front."""

    letter: str
    x: float
    y: float
    on_front: bool


@dataclass(frozen=True)
class PriceFront:
    """Geometry of the drawing; ``rows`` its text twin: letter, price, margin, whether nothing beats it."""

    marks: tuple[PriceMark, ...]
    path: str
    zero_y: float
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    rows: tuple[tuple[str, str, str, bool], ...]
    width: int = WIDTH
    height: int = HEIGHT
    left: int = LEFT
    right: int = RIGHT
    top: int = TOP
    bottom: int = BOTTOM


def draw_price(priced: Sequence[PricedMargin], best: Sequence[PricedMargin]) -> PriceFront | None:
    """Lay out prices against margins.

    Parameters
    ----------
    priced
        Every source that has both.
    best
        Those of them that nothing beats, the cheapest first.

    Returns
    -------
    PriceFront or None
        None where fewer than two have both.
    """
    if len(priced) < 2:
        return None
    margins = [min(MOST_SHARE, item.margin) for item in priced]
    prices = [item.price for item in priced]
    pad_x, pad_y = (max(prices) - min(prices)) * 0.08 or 1.0, (max([*margins, 0.0]) - min([*margins, 0.0])) * 0.1 or 0.1
    x = Scale(min(prices) - pad_x, max(prices) + pad_x, LEFT, RIGHT)
    y = Scale(min([*margins, 0.0]) - pad_y, max([*margins, 0.0]) + pad_y, BOTTOM, TOP)

    def place(item: PricedMargin) -> tuple[float, float]:
        return x(item.price), y(min(MOST_SHARE, item.margin))

    fronted = {item.at for item in best}
    return PriceFront(
        marks=tuple(PriceMark(letter_of(item.at), *place(item), item.at in fronted) for item in priced),
        path="M" + "L".join(f"{px} {py}" for px, py in map(place, best)) if len(best) > 1 else "",
        zero_y=y(0.0),
        x_ticks=ticks(x, 5),
        y_ticks=tuple(Tick(tick.at, f"{float(tick.label) * 100:g} %") for tick in ticks(y, 5)),
        rows=tuple(
            (letter_of(item.at), f"{item.price:,.0f}", signed(item.margin * 100, "pct"), item.at in fronted)
            for item in priced
        ),
    )
