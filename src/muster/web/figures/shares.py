"""Share lines of a pair, and gauge truth: points and straight lines on plain axes."""

from __future__ import annotations

from dataclasses import dataclass

from muster.core.findings.runs import GaugeSeen
from muster.core.findings.shares import SharesSeen
from muster.core.quantities import plain

from .scales import Scale, Tick, ticks

WIDTH, HEIGHT = 440, 250
LEFT, RIGHT, TOP, BOTTOM = 52, 428, 16, 208


@dataclass(frozen=True)
class Series:
    """Points and a line of one kind, with its name."""

    name: str
    kind: str
    points: tuple[tuple[float, float], ...]
    line: str
    limit_y: float | None = None
    label_y: float = 0.0


@dataclass(frozen=True)
class XY:
    """Geometry of a drawing of series on two axes; ``mark_x`` is where something happens, ``ghost`` a line of reference."""

    width: int
    height: int
    left: int
    right: int
    top: int
    bottom: int
    series: tuple[Series, ...]
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    x_label: str
    y_label: str
    mark_x: float | None
    mark_words: str
    ghost: str
    rows: tuple[tuple[str, ...], ...]
    heads: tuple[str, ...]


def draw_shares(seen: SharesSeen, names: tuple[str, str]) -> XY:
    """Lay out the amps of each unit against the total, their limits, and where the first meets its own."""
    most = max(seen.pair.measured_a, max(s.total_a for s in seen.shares)) * 1.12
    x = Scale(0, most, LEFT, RIGHT)
    y = Scale(
        0, max(*seen.limits_a, *(s.one_a for s in seen.shares), *(s.other_a for s in seen.shares)) * 1.15, BOTTOM, TOP
    )
    xy = []
    for i, (name, line) in enumerate(zip(names, seen.pair.lines, strict=True)):
        amps = [(s.total_a, s.one_a if i == 0 else s.other_a) for s in seen.shares]
        drawn = f"M{x(0)} {y(max(0.0, line.a))}L{x(most)} {y(line.at(most))}"
        xy.append(
            Series(
                name=name,
                kind=f"leg{i + 1}",
                points=tuple((x(t), y(a)) for t, a in amps),
                line=drawn,
                limit_y=y(seen.limits_a[i]),
                label_y=y(line.at(most)),
            )
        )
    rows = tuple((plain(s.total_a, "a"), plain(s.one_a, "a"), plain(s.other_a, "a")) for s in seen.shares)
    return XY(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=RIGHT,
        top=TOP,
        bottom=BOTTOM,
        series=tuple(xy),
        x_ticks=ticks(x, 5),
        y_ticks=ticks(y, 5),
        x_label="amps in all",
        y_label="A",
        mark_x=x(seen.pair.measured_a),
        mark_words=f"{names[seen.pair.first]} at its limit",
        ghost="",
        rows=rows,
        heads=("in all", *names),
    )


def draw_gauge(seen: GaugeSeen) -> XY:
    """Lay out what a gauge showed against what was left; a true gauge runs along the diagonal."""
    x, y = Scale(100, 0, LEFT, RIGHT), Scale(0, 100, BOTTOM, TOP)
    points = tuple((x(left), y(shown)) for shown, left in seen.points)
    series = Series(
        name="shown",
        kind="leg1",
        points=points if len(points) <= 24 else (),
        line="M" + "L".join(f"{px} {py}" for px, py in points),
    )
    rows = tuple((plain(shown, "pct"), plain(round(left, 1), "pct")) for shown, left in seen.points)
    return XY(
        width=WIDTH,
        height=HEIGHT,
        left=LEFT,
        right=RIGHT,
        top=TOP,
        bottom=BOTTOM,
        series=(series,),
        x_ticks=ticks(x, 5) or tuple(Tick(x(v), f"{v}") for v in (100, 75, 50, 25, 0)),
        y_ticks=ticks(y, 5),
        x_label="really left, %; shown, % upwards",
        y_label="",
        mark_x=x(50.0),
        mark_words="half left",
        ghost=f"M{x(100)} {y(100)}L{x(0)} {y(0)}",
        rows=rows,
        heads=("shown", "left"),
    )
