"""What a job knows of a calculator's inputs: from the brief, the nameplate, or measured here."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from ..brief import Brief
from ..character import Character
from ..quantities import Grade, Value
from ..sessions import Place, Reading
from ..sources import Claims, Source
from .frame import Calculation, InputSpec

NOISE_AT_M = 7.0
"""Distance that a source's level is told at, in a claim and in a character. [m]"""


@dataclass(frozen=True)
class Known:
    """What stands in an input because the job knows it: as it would be typed, what it rests on, and how good that is."""

    text: str
    rests_on: str
    grade: Grade


@dataclass(frozen=True)
class JobFigures:
    """What is known of a job for the calculators: its brief, a source with its character, and the latest readings."""

    brief: Brief
    source: Source | None = None
    character: Character | None = None
    latest: Mapping[tuple[str, Place], Reading] = field(default_factory=dict)

    def measured(self, key: str) -> tuple[Value, str] | None:
        """A measured parameter with what it rests on."""
        parameter = self.character.by_key.get(key) if self.character else None
        return (parameter.value, parameter.rests_on) if parameter else None

    def read(self, quantity: str, place: Place = Place.NONE) -> Reading | None:
        """The latest reading of a quantity at a place."""
        return self.latest.get((quantity, place))


Answer = tuple[float | str | None, str, Grade, float | None]
"""A figure in SI or a word, what it rests on, its grade and its half-width."""
Ask = Callable[[JobFigures], Answer | None]


def _brief(of: Callable[[Brief], float]) -> Ask:
    return lambda job: (of(job.brief), "the brief", Grade.C, None)


def _claim(of: Callable[[Claims], float | None]) -> Ask:
    def asked(job: JobFigures) -> Answer | None:
        value = of(job.source.claims) if job.source else None
        return None if value is None else (value, "the nameplate", Grade.C, None)

    return asked


def _source(of: Callable[[Source], float | str | None]) -> Ask:
    def asked(job: JobFigures) -> Answer | None:
        value = of(job.source) if job.source else None
        return None if value in (None, "") else (value, "the source’s form", Grade.C, None)

    return asked


def _measured(key: str, factor: float = 1.0) -> Ask:
    def asked(job: JobFigures) -> Answer | None:
        seen = job.measured(key)
        if seen is None:
            return None
        value, rests_on = seen
        return value.value * factor, rests_on, value.grade, None if value.u is None else value.u * factor

    return asked


def _line(at_zero: str, slope_key: str, at_w: Callable[[Claims], float]) -> Ask:
    """A measured line at the claim: what it is at no load and by how much it moves a kilowatt."""

    def asked(job: JobFigures) -> Answer | None:
        zero, slope = job.measured(at_zero), job.measured(slope_key)
        if zero is None or slope is None or job.source is None:
            return None
        kw = at_w(job.source.claims) / 1000
        u = (zero[0].u or 0.0) + (slope[0].u or 0.0) * kw
        return zero[0].value + slope[0].value * kw, zero[1], Grade.B, u

    return asked


def _read(quantity: str, place: Place) -> Ask:
    def asked(job: JobFigures) -> Answer | None:
        reading = job.read(quantity, place)
        return None if reading is None else (reading.value, "the last reading", Grade.A, None)

    return asked


EVERYWHERE: dict[str, tuple[Ask, ...]] = {
    "v_nominal": (_brief(lambda brief: brief.system.v_nominal),),
    "hz": (_brief(lambda brief: brief.system.hz),),
    "altitude_m": (_brief(lambda brief: brief.site.altitude_m),),
    "temp_c": (_brief(lambda brief: brief.site.temp_c),),
    "wanted_at_c": (_brief(lambda brief: brief.site.temp_c),),
    "outage_h": (_brief(lambda brief: brief.outage_h),),
    "reserve_pct": (_brief(lambda brief: brief.reserve_pct),),
    "r_m": (_brief(lambda brief: brief.neighbour_m),),
}
"""Inputs that mean the same in every calculator, and where they are known from: the first that knows."""
KNOWN: dict[str, dict[str, tuple[Ask, ...]]] = {
    "lead-drop": {
        "size": (_source(lambda source: source.wires.lead),),
        "length_m": (_source(lambda source: source.wires.lead_m),),
        "amps": (_claim(lambda claims: claims.breaker_a),),
    },
    "dc-amps": {
        "ac_w": (_claim(lambda claims: claims.cont_w),),
        "conversion_pct": (_measured("conversion_pct"), _claim(lambda claims: claims.conversion_pct)),
        "lowest_dc_v": (_measured("cut_low_v"), _claim(lambda claims: claims.battery_low_v)),
        "size": (_source(lambda source: source.wires.dc_lead),),
        "length_m": (_source(lambda source: source.wires.dc_lead_m),),
    },
    "split-phase-neutral": {
        "leg1_a": (_read("a", Place.LEG1),),
        "leg1_pf": (_read("pf", Place.LEG1),),
        "leg2_a": (_read("a", Place.LEG2),),
        "leg2_pf": (_read("pf", Place.LEG2),),
    },
    "rpm-hertz": {"rpm": (_read("rpm", Place.NONE),)},
    "droop-set-point": {
        "no_load_hz": (_measured("no_load_hz"),),
        "at_load_hz": (_line("no_load_hz", "hz_per_kw", lambda claims: claims.cont_w),),
        "load_w": (_claim(lambda claims: claims.cont_w),),
        "full_w": (_claim(lambda claims: claims.cont_w),),
    },
    "derating": {
        "claim_w": (_claim(lambda claims: claims.cont_w),),
        "fuel": (_source(lambda source: source.claims.fuel),),
    },
    "fuel-hours": {
        "idle_lph": (_measured("idle_lph"),),
        "full_lph": (
            _line("idle_lph", "lph_per_kw", lambda claims: claims.cont_w),
            _claim(lambda claims: claims.full_load_lph),
        ),
        "full_w": (_claim(lambda claims: claims.cont_w),),
        "tank_l": (_claim(lambda claims: claims.tank_l),),
    },
    "peukert": {"rated_ah": (_claim(lambda claims: claims.battery_ah),), "amps": (_read("a", Place.DC),)},
    "two-runs": {"conversion_pct": (_measured("conversion_pct"), _claim(lambda claims: claims.conversion_pct))},
    "string-layout": {
        "most_v": (_claim(lambda claims: claims.pv_ports[0].high_v if claims.pv_ports else None),),
        "least_v": (_claim(lambda claims: claims.pv_ports[0].low_v if claims.pv_ports else None),),
        "most_a": (_claim(lambda claims: claims.pv_ports[0].most_a if claims.pv_ports else None),),
    },
    "noise-distance": {
        "level_dba": (_measured("dba_7m_loaded"), _claim(lambda claims: claims.noise_dba_7m)),
        "r0_m": (
            lambda job: (
                (NOISE_AT_M, "what a level is told at", Grade.C, None)
                if job.measured("dba_7m_loaded") or (job.source and job.source.claims.noise_dba_7m)
                else None
            ),
        ),
        "n": (_measured("decay_db_loaded"),),
    },
}
"""By calculator, by input: where it is known from, the best first."""


def known_inputs(calculation: Calculation, job: JobFigures) -> dict[str, Known]:
    """What a job knows of the inputs of a calculator.

    Parameters
    ----------
    calculation
        The calculator.
    job
        Brief, source, character and readings.

    Returns
    -------
    dict
        By the input's name; inputs of which nothing is known are not there.
    """
    asked = {**EVERYWHERE, **KNOWN.get(calculation.slug, {})}
    known = {}
    for spec in calculation.inputs:
        if spec.choices and spec.name == "v_nominal":
            continue
        for ask in asked.get(spec.name, ()):
            answered = ask(job)
            text = _typed(spec, answered) if answered is not None else ""
            if answered is not None and text:
                known[spec.name] = Known(text, answered[1], answered[2])
                break
    return known


def _typed(spec: InputSpec, answered: Answer) -> str:
    """A figure as it would be typed, in the units that are shown; empty where the input takes no such word."""
    value, _, _, u = answered
    if isinstance(value, str):
        return value if value in dict(spec.choices) else ""
    if value is None or spec.choices:
        return ""
    scale = spec.scale
    shown = scale.shown(value) if scale else value
    unit = f" {scale.label}" if scale else ""
    half = f" ± {(u * scale.factor if scale else u):.2g}" if u else ""
    return f"{shown:.5g}{half}{unit}"


def beside_meter(hz: Value, meter: Reading | None, u_meter: float) -> str:
    """A frequency worked out beside what the meter last read: how far apart, and whether that says anything.

    Parameters
    ----------
    hz
        Worked out, by a clock or a tachometer, with its half-width. [Hz]
    meter
        The latest reading of frequency, None if there is none.
    u_meter
        Its half-width. [Hz]
    """
    if meter is None:
        return ""
    gap, open_hz = hz.value - meter.value, (hz.u or 0.0) + u_meter
    agrees = abs(gap) <= open_hz
    said = "no more than both leave open" if agrees else "more than both leave open: one of them is wrong, or it moved"
    return f"The meter last read {meter.value:.2f} Hz: this is {abs(gap):.2f} Hz {'above' if gap > 0 else 'below'} it, {said}."
