"""The drawings of a comparison: what several sources were measured to be, over one another."""

from __future__ import annotations

import math
from collections.abc import Sequence

from muster.core.character import Character, Given
from muster.core.findings.lines import LoadLine
from muster.core.loads.kinds import MOTOR_V_PCT
from muster.core.measures import FT_M, shown_in
from muster.core.quantities import duration, plain
from muster.core.sources import Source
from muster.web.figures.compare_rows import letter_of
from muster.web.figures.overlaid_curves import Axis, OverlaidCurves, SourceCurve, draw_curves

NEAREST_M, FARTHEST_M = 1.5, 60.0
CURVE_STEPS = 24
CONVERTS_FROM = 0.04
"""A conversion curve is drawn from such a share of its highest load: below, next to nothing comes out."""
HOLD_MARKS_S = (0.1, 1.0, 10.0, 60.0, 600.0, 3600.0, 36000.0)
MOST_HOLD_S, LEAST_HOLD_S = 36000.0, 0.05
HOLD_FROM, HOLD_TO = 1.02, 1.6
"""A hold curve is drawn from so many times what is held for ever to so many."""


def volts_curves(lines: Sequence[tuple[str, LoadLine]]) -> OverlaidCurves | None:
    """Volts against load by each source's letter, with the window that motors tolerate; all of one nominal."""
    if not lines:
        return None
    nominal = lines[0][1].nominal
    curves = [
        SourceCurve(
            letter,
            tuple((w, fit.line.at(w)) for w in (0.0, fit.line.x_high)),
            tuple((point.w, point.y) for point in fit.points),
        )
        for letter, fit in lines
    ]
    window = tuple(nominal * (1 + sign * MOTOR_V_PCT / 100) for sign in (-1, 1))
    load = Axis(label="load, kW", shown=lambda w: plain(w, "w"), divide=1000)
    return draw_curves(curves, load, Axis(label="V", shown=lambda v: plain(v, "v"), window=window))


def noise_curves(
    given: Sequence[Given], characters: Sequence[Character], order: Sequence[int]
) -> OverlaidCurves | None:
    """Noise against distance under the heaviest load that each was heard under, in the order shown."""
    curves = []
    for at in order:
        sound = characters[at].sound
        if sound is None:
            continue
        level = sound.at_1m(sound.loaded_w)
        spots = [
            (spot.distance_m, spot.dba)
            for dated in given[at].sessions
            for seen in dated.findings.noise
            if seen.load_w == sound.loaded_w
            for spot in seen.heard
        ]
        if not spots:
            continue
        ends = (max(NEAREST_M, min(m for m, _ in spots)), min(FARTHEST_M, 2 * max(m for m, _ in spots)))
        curve = tuple((m, level - sound.decay_db * math.log10(m)) for m in _tenfold(*ends))
        curves.append(SourceCurve(letter_of(at), curve, tuple(sorted(spots))))
    feet = shown_in().length == "ft"
    marks = (3, 10, 20, 35, 60, 120) if feet else (1, 3, 7, 12, 25, 50)
    unit, scale = ("ft", FT_M) if feet else ("m", 1.0)
    axis = Axis(
        label=f"distance, {unit}",
        shown=lambda m: plain(m, "m"),
        by_tenfold=True,
        marks=tuple((mark * scale, f"{mark}") for mark in marks),
    )
    return draw_curves(curves, axis, Axis(label="dBA", shown=lambda dba: plain(dba, "dba")))


def _tenfold(low: float, high: float) -> list[float]:
    return [low * (high / low) ** (step / CURVE_STEPS) for step in range(CURVE_STEPS + 1)]


def hold_curves(
    sources: Sequence[Source], characters: Sequence[Character], order: Sequence[int]
) -> OverlaidCurves | None:
    """How long each holds what share of its rating, in the order shown."""
    curves = []
    for at in order:
        hold, rated_w = characters[at].hold, sources[at].claims.cont_w
        if hold is None or rated_w <= 0:
            continue
        levels = [
            hold.held_w * (1 + (HOLD_FROM - 1) * ((HOLD_TO - 1) / (HOLD_FROM - 1)) ** (step / CURVE_STEPS))
            for step in range(CURVE_STEPS + 1)
        ]
        drawn = [(w / rated_w * 100, hold.hold_s(w)) for w in levels]
        curve = tuple((share, s) for share, s in drawn if LEAST_HOLD_S <= s <= MOST_HOLD_S)
        read = tuple(
            (point.w / rated_w * 100, point.held_s) for point in hold.points if point.tripped and point.held_s > 0
        )
        curves.append(SourceCurve(letter_of(at), curve, read))
    axis = Axis(label="held for", shown=duration, by_tenfold=True, marks=tuple((s, duration(s)) for s in HOLD_MARKS_S))
    return draw_curves(curves, Axis(label="% of its rating", shown=lambda share: plain(share, "pct")), axis)


def conversion_curves(given: Sequence[Given], order: Sequence[int]) -> OverlaidCurves | None:
    """How much of what its battery gives reaches the load, by the last fit of each, in the order shown."""
    curves = []
    for at in order:
        fits = [seen.fit for dated in given[at].sessions for seen in dated.findings.conversions if seen.fit is not None]
        if not fits:
            continue
        fit, top_w = fits[-1], max(fits[-1].ac_w)
        loads = [top_w * (CONVERTS_FROM + (1 - CONVERTS_FROM) * step / CURVE_STEPS) for step in range(CURVE_STEPS + 1)]
        read = sorted((ac, 100 * ac / dc) for ac, dc in zip(fit.ac_w, fit.dc_w, strict=True) if ac >= loads[0])
        curves.append(SourceCurve(letter_of(at), tuple((w, 100 * fit.share_at(w)) for w in loads), tuple(read)))
    load = Axis(label="load, kW", shown=lambda w: plain(w, "w"), divide=1000)
    return draw_curves(curves, load, Axis(label="% reaches it", shown=lambda share: plain(share, "pct")))
