"""Calculators of sound."""

from __future__ import annotations

from ..quantities import Bound, plain
from ..trade.sound import CLEAR_DB, LEAST_DB, OPEN_FIELD_N, at_distance, less_background, sum_of_levels
from ..working import Working
from .frame import Calculation, Figures, InputSpec, Result, ResultFigure


def _distance(g: Figures) -> Result:
    clean = less_background(g["level_dba"], g["background_dba"])
    there, open_field = (at_distance(clean.dba, g["r0_m"], g["r_m"], n) for n in (g["n"], OPEN_FIELD_N))
    gap = g["level_dba"] - g["background_dba"]
    how = (
        "10·log₁₀(10^(L/10) − 10^(B/10))"
        if LEAST_DB <= gap < CLEAR_DB
        else "as read: 10 dB or more above"
        if gap >= CLEAR_DB
        else "an upper bound: less than 3 dB above"
    )
    lines = (
        Working(
            f"background off: {how}",
            f"{g['level_dba']:g} over {g['background_dba']:g}",
            plain(clean.dba, "dba"),
            "sum of energies; ISO 3744",
        ),
        Working(
            "L = L₀ − n · log₁₀(r ÷ r₀)",
            f"{clean.dba:.1f} − {g['n']:g} × log₁₀({plain(g['r_m'], 'm')} ÷ {plain(g['r0_m'], 'm')})",
            plain(there, "dba"),
            "spreading from a point",
        ),
        Working(
            "in the open, n = 20",
            f"{clean.dba:.1f} − 20 × log₁₀({plain(g['r_m'], 'm')} ÷ {plain(g['r0_m'], 'm')})",
            plain(open_field, "dba"),
        ),
    )
    most = "at most " if clean.bound is Bound.AT_MOST else ""
    return Result(
        lines,
        (
            ResultFigure("there_dba", "there", there, "dba"),
            ResultFigure("open_dba", "there, in the open", open_field, "dba"),
        ),
        f"At {plain(g['r_m'], 'm')} it is {most}{there:.1f} dBA; {open_field:.1f} in the open.",
        ("Between walls n is nearer 15; a wall in between takes more off. Measure at the neighbour where you can.",),
    )


DISTANCE = Calculation(
    slug="noise-distance",
    title="Noise at a distance",
    about="A level with its background off, carried to another distance.",
    topic="Sound",
    inputs=(
        InputSpec(name="level_dba", label="Level", first="66.0", unit="dBA", low=0, high=194),
        InputSpec(name="background_dba", label="Background", first="40.0", unit="dBA", low=0, high=194),
        InputSpec(name="r0_m", label="read at", first="7.0", unit="m"),
        InputSpec(name="r_m", label="Wanted at", first="23", unit="m", exact=True),
        InputSpec(name="n", label="dB a decade of distance", first="20", exact=True),
    ),
    work=_distance,
)


def _sum(g: Figures) -> Result:
    total = sum_of_levels(g["levels_dba"])
    put_in = " + ".join(f"10^({level:g}/10)" for level in g["levels_dba"])
    lines = (Working("L = 10 · log₁₀ Σ 10^(Lᵢ/10)", put_in, plain(total, "dba"), "sum of energies, unlike sources"),)
    return Result(
        lines,
        (ResultFigure("sum_dba", "together", total, "dba"),),
        f"Together they are {total:.1f} dBA.",
        ("Two alike are 3 dB louder than one; ten are 10 dB louder.",),
    )


LEVELS = Calculation(
    slug="sum-of-levels",
    title="Sum of levels",
    about="Several sources heard together.",
    topic="Sound",
    inputs=(InputSpec(name="levels_dba", label="Levels", first="63.0 60.0", unit="dBA", many=True, low=0, high=194),),
    work=_sum,
)
SOUND = (DISTANCE, LEVELS)
