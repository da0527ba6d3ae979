"""Sessions that go deeper: waves, load steps, shares, overloads, runs, cut-offs, the panels' tracker, heat into water."""

from __future__ import annotations

import random
from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from muster.core.sessions import Conditions, Place, Session
from muster.core.supply import System
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Channel, Trace
from muster.formats.jobfile import CaptureRecord, SessionRecord, TraceRecord
from muster.twin.waves import Waveshape, samples

from .pen import Pen, closed
from .scripts import SEEN_TO

SCOPE, RATE_HZ = "scope", 10_000.0


def jotted(
    pen: Pen, protocol: str, lines: Iterable[tuple[float, str]], conditions: Conditions, steps: tuple = ()
) -> Session:
    """A session of lines, each so many seconds after the one before."""
    pen.jot(SEEN_TO, 0)
    for after_s, line in lines:
        pen.jot(line, after_s)
    return pen.session(protocol, steps, conditions)


def capture(
    name: str,
    wave: Waveshape,
    rms_v: float,
    hz: float,
    at_s: float,
    rng: np.random.Generator,
    seconds: float = 0.4,
    **how: float,
) -> Capture:
    """A scope's capture of volts on the first leg."""
    volts = samples(wave, rms_v, hz, RATE_HZ, seconds, rng, noise_v=0.4, **how)
    return Capture(
        name, SCOPE, at_s, 1 / RATE_HZ, (Channel("v", Place.LEG1),), volts[None, :].round(2).astype(np.float32), name
    )


def listed_captures(file: str, shots: Iterable[Capture], into: dict[str, Capture]) -> tuple[CaptureRecord, ...]:
    """Captures as the job lists them; their files into the package."""
    capture_records = []
    for number, shot in enumerate(shots, 1):
        path = f"captures/{file}-{number}.csv"
        into[path] = shot
        capture_records.append(
            CaptureRecord(shot.name, shot.instrument, path, shot.t_s, shot.step_s, shot.values.shape[1], why=shot.why)
        )
    return tuple(capture_records)


def dipping(system: System, at_s: float, gap_ms: float, rng: np.random.Generator) -> Capture:
    """A capture of a transfer: the mains goes, nothing, the source takes over."""
    volts = samples(Waveshape(), system.v_nominal, system.hz, RATE_HZ, 0.4, rng, noise_v=0.3)
    t = np.arange(volts.size) / RATE_HZ
    dead = (t >= 0.163) & (t < 0.163 + gap_ms / 1000)
    volts = np.where(dead, volts * 0.03, volts)
    return Capture(
        "mains off, the hybrid takes over",
        SCOPE,
        at_s,
        1 / RATE_HZ,
        (Channel("v", Place.LEG1),),
        volts[None, :].round(2).astype(np.float32),
        "transfer",
    )


def swinging(
    name: str,
    steps: list[tuple[float, float]],
    no_load: tuple[float, float],
    slopes: tuple[float, float],
    rng: np.random.Generator,
    end_s: float,
    nominal_w: float,
) -> Trace:
    """A fast log of an engine set through steps of load: hertz and volts fall or rise past where they settle, and come back.

    ``no_load`` and ``slopes`` are of hertz and volts; ``steps`` are (when, watts from then).
    """
    t = np.arange(0.0, end_s, 0.1)
    at = np.searchsorted([when for when, _ in steps], t, side="right") - 1
    watts = np.where(at >= 0, np.array([w for _, w in steps])[np.maximum(at, 0)], 0.0)
    hertz, volts = (level + slope * watts for level, slope in zip(no_load, slopes, strict=True))
    was = 0.0
    for when, w in steps:
        since = t - when
        live = since >= 0
        share = (w - was) / nominal_w
        hertz = hertz - np.where(live, 4.6 * share * np.exp(-since / 0.9) * np.cos(since * 1.4), 0.0)
        volts = volts - np.where(live, 27.0 * share * np.exp(-since / 0.35), 0.0)
        was = w
    watts = watts * (1 + rng.normal(0, 0.002, t.size))
    channels = (Channel("v", Place.LEG1), Channel("w", Place.LEG1), Channel("hz"))
    values = np.stack([volts + rng.normal(0, 0.15, t.size), watts, hertz + rng.normal(0, 0.02, t.size)])
    return Trace(name, "recorder", channels, t.round(1), values.round(2).astype(np.float32))


def panels_log(rng: np.random.Generator) -> Trace:
    """A forenoon of panels at 5 s: the sun climbs, the tracker sticks for eleven minutes, and is plugged in again."""
    t = np.arange(0.0, 3 * 3600.0, 5.0)
    sun = 0.35 + 0.55 * np.sin(np.pi * (t + 2400) / (4.4 * 3600)) + 0.03 * np.sin(t / 190)
    volts = 148 + 6 * sun + rng.normal(0, 0.4, t.size)
    watts = 2900 * sun
    stuck = (t > 5400) & (t < 6060)
    volts, watts = np.where(stuck, 74 + rng.normal(0, 0.5, t.size), volts), np.where(stuck, watts * 0.22, watts)
    charge = np.clip(41 + np.cumsum(watts * 5 / 3600) / 102.4 * 0.95, 0, 100)
    channels = (Channel("v", Place.PANELS), Channel("w", Place.PANELS), Channel("soc_pct"))
    values = np.stack([volts, watts + rng.normal(0, 4, t.size), charge.round()])
    return Trace("panels, a forenoon", "recorder", channels, t.round(1), values.round(2).astype(np.float32))


def with_trace(session: Session, at: str, trace: Trace, file: str, into: dict[str, Trace]) -> SessionRecord:
    """A closed session with one log."""
    into[file] = trace
    return closed(session, at, (TraceRecord(trace.name, trace.instrument, file, int(trace.t_s.size)),))


def with_captures(record: SessionRecord, captures: tuple[CaptureRecord, ...]) -> SessionRecord:
    """A session record with captures."""
    return replace(record, captures=captures)


def rngs(seed: int) -> tuple[random.Random, np.random.Generator]:
    """Chance of its own, so that what was written before stays as it was."""
    return random.Random(seed), np.random.default_rng(seed)
