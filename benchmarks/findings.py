"""A day's log at ten a second with forty captures, analysed and kept."""

from __future__ import annotations

import time

import numpy as np

from muster.core.sessions import Place
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Channel, Trace
from muster.records import judging
from muster.records.actions.captures import keep_capture
from muster.records.actions.traces import keep_trace
from muster.records.models import SessionRow

from .measuring import Row

HOURS, RATE_HZ, CAPTURES = 24, 10, 40
CAPTURE_S, CAPTURE_HZ = 2.0, 10_000
AIM_S = 5.0
CHANNELS = (
    *(Channel(q, leg) for leg in (Place.LEG1, Place.LEG2) for q in ("v", "a", "w")),
    Channel("hz"),
    Channel("v", Place.DC),
    Channel("a", Place.DC),
    Channel("soc_pct"),
    Channel("temp_c"),
    Channel("a", Place.NEUTRAL),
)


def a_day(rng: np.random.Generator) -> Trace:
    """Loads that come and go all day on a split-phase inverter, both sides logged."""
    t = np.arange(0, HOURS * 3600, 1 / RATE_HZ)
    level = np.repeat(rng.choice([60.0, 400.0, 900.0, 1800.0, 2600.0], HOURS * 12), 300 * RATE_HZ)[: t.size]
    item, two = (0.55 * level, 0.45 * level)
    volts = [120.4 - 0.0006 * w + rng.normal(0, 0.1, t.size) for w in (item, two)]
    watts = [w * (1 + rng.normal(0, 0.003, t.size)) for w in (item, two)]
    dc_w = level * 1.06 + 45 + 8e-6 * level**2
    charge = 100 - np.cumsum(dc_w) / RATE_HZ / 3600 / 600
    rows = [
        volts[0],
        watts[0] / volts[0],
        watts[0],
        volts[1],
        watts[1] / volts[1],
        watts[1],
        60 + rng.normal(0, 0.01, t.size),
    ]
    rows += [
        52 - dc_w * 2e-4,
        dc_w / 52,
        np.clip(charge, 0, 100).round(),
        25 + 20 * (1 - np.exp(-t / 1500)),
        np.abs(item - two) / 120,
    ]
    return Trace("a day at ten a second", "recorder", CHANNELS, t, np.stack(rows).astype(np.float32))


def a_capture(rng: np.random.Generator, number: int) -> Capture:
    """A start on a wave with harmonics."""
    t = np.arange(round(CAPTURE_S * CAPTURE_HZ)) / CAPTURE_HZ
    sag = np.where((t > 0.5) & (t < 0.9), 0.85, 1.0)
    angle = 2 * np.pi * 60 * t
    volts = 120 * np.sqrt(2) * sag * (np.sin(angle) + 0.03 * np.sin(3 * angle)) + rng.normal(0, 0.4, t.size)
    amps = np.sqrt(2) * np.where(t > 0.5, np.where(t < 0.9, 30.0, 6.0), 1.0) * np.sin(angle - 0.6)
    channels = (Channel("v", Place.LEG1), Channel("a", Place.LEG1))
    values = np.stack([volts, amps]).astype(np.float32)
    return Capture(f"start {number}", "scope", 60.0 + 1800 * number, 1 / CAPTURE_HZ, channels, values, "a start")


def rows(session: SessionRow) -> list[Row]:
    """The first analysis, and the same from the keep."""
    rng = np.random.default_rng(1911)
    keep_trace(session, a_day(rng), (), session.created_by)
    for number in range(CAPTURES):
        keep_capture(session, a_capture(rng, number), session.created_by)
    began = time.perf_counter()
    judging.session_findings(session)
    first = time.perf_counter() - began
    began = time.perf_counter()
    session_findings_found = judging.session_findings(session)
    again = time.perf_counter() - began
    return [
        Row(
            f"a session of {HOURS} h at {RATE_HZ} Hz × {len(CHANNELS)} channels and {CAPTURES} captures analysed",
            f"again, from the keep ({len(session_findings_found.findings)} findings)",
            f"{again:.2f} s",
            f"{first:.1f} s",
            again / first,
            f"< {AIM_S:g} s",
            first < AIM_S,
        )
    ]
