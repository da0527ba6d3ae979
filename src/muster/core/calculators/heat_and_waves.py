"""Calculators of heat, weather and waveform."""

from __future__ import annotations

import math

from ..quantities import plain
from ..trade.heat import WATER_J_PER_KG_K, duty_at, heating_w
from ..trade.waves import HIGHEST, stepped_harmonic, stepped_rms, stepped_thd_pct
from ..working import Working
from .frame import Calculation, Figures, InputSpec, Result, ResultFigure


def _heating(g: Figures) -> Result:
    got = heating_w(g["litres"], g["from_c"], g["to_c"], g["seconds"])
    share = got / g["drawn_w"] * 100
    lines = (
        Working(
            "P = m · c · ΔT ÷ t",
            f"{g['litres']:g} × {WATER_J_PER_KG_K:g} × ({g['to_c']:g} − {g['from_c']:g}) ÷ {g['seconds']:g}",
            f"{got:.1f} W",
            "heat capacity of water",
        ),
        Working("delivered ÷ drawn", f"{got:.1f} ÷ {g['drawn_w']:g}", f"{share:.1f} %"),
    )
    return Result(
        lines,
        (
            ResultFigure("got_w", "went into the water", got, "w"),
            ResultFigure("share_pct", "of what was drawn", share, "pct"),
        ),
        f"{plain(got, 'w')} went into the water, {share:.0f} % of what was drawn.",
        (
            "Water in the vessel before power, always; stir before reading.",
            "Do it on the mains and on the source, same vessel, same fill: the ratio is what a poor waveform costs.",
        ),
    )


HEATING = Calculation(
    slug="heating-check",
    title="Heating check",
    about="Heat delivered to weighed water against the watts drawn.",
    topic="Heat, weather, waveform",
    inputs=(
        InputSpec(name="litres", label="Water", first="0.75 ± 0.01", unit="L"),
        InputSpec(name="from_c", label="from", first="14 ± 0.5", unit="°C"),
        InputSpec(name="to_c", label="to", first="47 ± 0.5", unit="°C"),
        InputSpec(name="seconds", label="in", first="150 ± 2", unit="s"),
        InputSpec(name="drawn_w", label="Drawn meanwhile", first="1210 ± 2%", unit="W"),
    ),
    work=_heating,
    as_line=lambda g: (
        f"{g['litres']:g} L water, {g['seconds']:g} s, {g['from_c']:g} to {g['to_c']:g} C, {g['drawn_w']:g} w"
    ),
)


def _duty(g: Figures) -> Result:
    seen = g["on_min"] / (g["on_min"] + g["off_min"])
    share = duty_at(seen, g["inside_c"], g["seen_at_c"], g["wanted_at_c"])
    cycle = g["on_min"] + g["off_min"]
    lines = (
        Working(
            "duty seen = on ÷ (on + off)",
            f"{g['on_min']:g} ÷ ({g['on_min']:g} + {g['off_min']:g})",
            f"{seen * 100:.1f} %",
        ),
        Working(
            "duty = duty seen · ΔT₂ ÷ ΔT₁, at most 1",
            f"{seen * 100:.1f} % × {g['wanted_at_c'] - g['inside_c']:g} ÷ {g['seen_at_c'] - g['inside_c']:g}",
            f"{share * 100:.1f} %",
            "loss follows the difference inside to outside",
        ),
        Working("hours a day", f"24 × {share:.3f}", plain(24 * share, "h")),
        Working("energy a day", f"{g['run_w']:g} × {24 * share:.2f}", plain(g["run_w"] * 24 * share, "wh")),
    )
    never = " It runs throughout and may not hold." if share >= 1 else ""
    return Result(
        lines,
        (
            ResultFigure("share_pct", "duty", share * 100, "pct"),
            ResultFigure("on_min", "minutes on of such a cycle", cycle * share, "min"),
            ResultFigure("day_wh", "a day", g["run_w"] * 24 * share, "wh"),
        ),
        f"At {plain(g['wanted_at_c'], 'c')} outside it runs {share * 100:.0f} % of the time.{never}",
        ("Sun, wind and people move it too: one day's duty is one day's duty.",),
    )


DUTY = Calculation(
    slug="duty-weather",
    title="Duty by weather",
    about="How much more a heater or cooler runs on another day.",
    topic="Heat, weather, waveform",
    inputs=(
        InputSpec(name="on_min", label="Seen: minutes on", first="12", unit="min"),
        InputSpec(name="off_min", label="minutes off", first="18", unit="min"),
        InputSpec(name="inside_c", label="Inside", first="20", unit="°C"),
        InputSpec(name="seen_at_c", label="Outside then", first="5", unit="°C"),
        InputSpec(name="wanted_at_c", label="Outside on the day asked", first="-6", unit="°C", exact=True),
        InputSpec(name="run_w", label="Running", first="320", unit="W"),
    ),
    work=_duty,
    gives_load="duty",
)


def _thd(g: Figures) -> Result:
    share = g["conduction_pct"] / 100
    thd = stepped_thd_pct(share)
    first = stepped_harmonic(1, share)
    rms = stepped_rms(share)
    crest = 1 / rms
    low_pct = (1 - math.pi / (2 * math.sqrt(2)) * share / rms) * 100
    strongest = sorted(range(3, HIGHEST + 1, 2), key=lambda n: -abs(stepped_harmonic(n, share)))[:3]
    lines = (
        Working(
            "bₙ = 4/(nπ) · sin(n·π·d/2), n odd",
            f"d = {share:.3f}, n = 1",
            f"{first:.4f} of its height",
            "Fourier series of a quasi-square wave",
        ),
        Working("THD = √Σ bₙ² ÷ b₁, n to 40", "3, 5, 7 … 39", f"{thd:.2f} %", "IEC 61000-4-7"),
        Working(
            "largest harmonics",
            ", ".join(f"{n}th" if n > 3 else "3rd" for n in strongest),
            ", ".join(f"{abs(stepped_harmonic(n, share)) / first * 100:.1f} %" for n in strongest),
        ),
        Working("crest = 1 ÷ √d", f"1 ÷ √{share:.3f}", f"{crest:.3f}"),
        Working(
            "an average-responding meter reads low by 1 − (π/2√2) · √d",
            f"1 − 1.1107 × √{share:.3f}",
            f"{low_pct:.1f} %",
        ),
    )
    return Result(
        lines,
        (ResultFigure("thd_pct", "THD", thd, "pct"), ResultFigure("crest", "crest factor", crest, "x")),
        f"A three-level wave standing {g['conduction_pct']:g} % of the time has {thd:.1f} % THD.",
        (
            "8 % is what mains may have (EN 50160): motors run hotter on this, clocks that count zero crossings may err.",
        ),
    )


THD = Calculation(
    slug="stepped-thd",
    title="THD of a stepped wave",
    about="Distortion of a three-level (“modified”) wave from its shape alone.",
    topic="Heat, weather, waveform",
    inputs=(
        InputSpec(name="conduction_pct", label="The plateau stands", first="66.667 ± 0.5", unit="% of the half wave"),
    ),
    work=_thd,
)
OTHERS = (HEATING, DUTY, THD)
