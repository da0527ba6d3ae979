"""Everything one capture carries, read off once: small, so that it can be kept."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ...errors import OutOfRange
from ...sessions import Place
from ...supply import System
from ..traces import Channel
from ..traces.trace import Floats
from .capture import Capture
from .cycles import Cycles, cycles_of, urms_half
from .events import CaptureEvent, Ending, ending, volt_events
from .start import BACK_PCT, start_in
from .waveform import Waveform, waveform_of

METHOD = 3
"""Raised when what is read off a capture changes, so that what was kept before is read again."""
LIVE_SHARE = 0.5
"""A window counts as live above this share of nominal."""
DIFFERS_PCT, DIFFERS_PT = 1.0, 0.5
"""A wave at the end is worth telling beside that at the beginning when its RMS or its distortion differ by so much."""
WINDOW_S = 0.2
"""A window of ten or twelve cycles (IEC 61000-4-7, 5.1)."""


@dataclass(frozen=True)
class WaveAt:
    """A waveform in a capture: of volts at a place, from ``t_s`` [s after the session began]; ``amps`` RMS beside it."""

    place: Place
    t_s: float
    wave: Waveform
    amps: float | None = None


MOST_BACK_ROWS = 120
"""So many half cycles of a recovery are kept."""


@dataclass(frozen=True)
class StartAt:
    """A start in a capture, at a place: cycle by cycle before, lowest, settled; amps before, highest, settled."""

    place: Place
    t_s: float
    before_v: float
    lowest_v: float
    settled_v: float
    before_a: float
    highest_a: float
    settled_a: float
    back_s: float | None
    back_within_v: float = 0.0
    """They were back once they stayed this near to where they settle."""
    back_rows: tuple[tuple[float, float], ...] = ()
    """Milliseconds after the step and the volts then, until they were back."""


@dataclass(frozen=True)
class CaptureFeatures:
    """What a capture says: its waves or why they were refused, events, starts, and how its volts ended."""

    name: str
    instrument: str
    t0_s: float
    t1_s: float
    step_s: float
    waves: tuple[WaveAt, ...] = ()
    refused: tuple[str, ...] = ()
    events: tuple[CaptureEvent, ...] = ()
    starts: tuple[StartAt, ...] = ()
    ends: tuple[Ending, ...] = ()
    why: str = ""


def read_capture(capture: Capture, system: System) -> CaptureFeatures:
    """Read everything off a capture that its channels carry: waves, dips, starts, its end.

    What cannot be judged (clipped, too short, too slow) is told in ``refused``.
    """
    waves: list[WaveAt] = []
    events: list[CaptureEvent] = []
    starts: list[StartAt] = []
    ends: list[Ending] = []
    refused: list[str] = []
    for channel in capture.channels:
        if channel.quantity != "v" or channel.place.is_dc:
            continue
        volts = np.nan_to_num(capture.of(channel))  # type: ignore[arg-type]
        amps = capture.of(Channel("a", channel.place))
        nominal = system.v_nominal * (2 if channel.place is Place.TOTAL and system.legs == 2 else 1)
        told, end, start = _moments(capture, volts, amps, channel.place, nominal, system.hz)
        events += told
        ends += [end] if end else []
        starts += [start] if start else []
        ran = volts if end is None else volts[: max(0, round((end.t_s - capture.t_s) / capture.step_s))]
        seen, why = _waves(capture, ran, amps, channel.place, nominal, system.hz, told)
        waves += seen
        refused += [f"{channel.label}: {why}"] if why else []
    return CaptureFeatures(
        name=capture.name,
        instrument=capture.instrument,
        t0_s=capture.t_s,
        t1_s=capture.end_s,
        step_s=capture.step_s,
        waves=tuple(waves),
        refused=tuple(refused),
        events=tuple(events),
        starts=tuple(starts),
        ends=tuple(ends),
        why=capture.why,
    )


def _moments(
    capture: Capture, volts: Floats, amps: Floats | None, place: Place, nominal_v: float, hz: float
) -> tuple[list[CaptureEvent], Ending | None, StartAt | None]:
    """Dips, rises and breaks; how the volts ended, if they did; a start, if they did not."""
    try:
        cycles = cycles_of(volts, capture.step_s, hz)
    except OutOfRange:
        return [], None, None
    end = ending(volts, capture.step_s, capture.t_s, cycles.hz)
    told = volt_events(volts, capture.step_s, capture.t_s, place, nominal_v, hz, cycles)
    # The end is told as an end; a break that begins with the capture was never live.
    events = [e for e in told if (end is None or e.t1_s < end.t_s) and e.t0_s > capture.t_s + capture.step_s]
    return events, end, _start(capture, volts, amps, place, cycles) if end is None else None


def _waves(
    capture: Capture,
    volts: Floats,
    amps: Floats | None,
    place: Place,
    nominal_v: float,
    hz: float,
    events: Sequence[CaptureEvent],
) -> tuple[list[WaveAt], str]:
    """The wave at the beginning, and that at the end where it is another; and why none could be judged.

    A stretch with a dip or a break in it is no wave to judge.
    """
    if not volts.size:
        return [], ""
    size = window_size(volts.size, capture.step_s)
    wave_ats: list[WaveAt] = []
    why = ""
    for first in live_windows(volts, capture.step_s, LIVE_SHARE * nominal_v):
        part = volts[first : first + size]
        t0_s = capture.t_s + first * capture.step_s
        if any(e.t0_s < t0_s + size * capture.step_s and e.t1_s > t0_s for e in events):
            continue
        try:
            wave = waveform_of(part, capture.step_s, hz)
        except OutOfRange as wrong:
            why = f"{wrong.what}; {wrong.want}"
            continue
        rms_a = None if amps is None else float(np.sqrt(np.nanmean(amps[first : first + size] ** 2)))
        seen = WaveAt(place, t0_s, wave, rms_a)
        if not wave_ats or _differs(wave_ats[0].wave, wave):
            wave_ats.append(seen)
    return wave_ats, "" if wave_ats else why


QUARTERS = 4
"""Parts of a window of which each must be live."""


def window_size(count: int, step_s: float) -> int:
    """Samples of a window for ten or twelve cycles, and a little over: no more than there are."""
    return min(count, round(WINDOW_S * 1.06 / step_s) + 2)


def live_windows(samples: Floats, step_s: float, level: float) -> tuple[int, ...]:
    """Where the first and the last window begin that are live throughout: one place where they are the same, none where it never was.

    Parameters
    ----------
    samples
        Of one channel, shape (n,).
    step_s
        Between two samples. [s]
    level
        RMS above which it is live, in the unit of the samples.

    Returns
    -------
    tuple of int
        Indices of their first samples.
    """
    size = window_size(samples.size, step_s)
    quarter = max(1, size // QUARTERS)
    count = samples.size // quarter
    live = np.sqrt((samples[: count * quarter].reshape(count, quarter) ** 2).mean(axis=1)) >= level
    whole = np.convolve(live, np.ones(min(QUARTERS, count)), mode="valid") >= min(QUARTERS, count)
    at = np.flatnonzero(whole)
    if not at.size:
        return ()
    # Where it came or went within the capture, the part in which it did is left out.
    first = int(at[0] + (at[0] > 0 and at.size > 1)) * quarter
    last = samples.size - size if bool(live[-1]) else int(at[-1] + QUARTERS - (at.size > 1)) * quarter - size
    return tuple(dict.fromkeys((min(first, samples.size - size), max(0, last))))


def _differs(waveform: Waveform, other: Waveform) -> bool:
    return (
        abs(waveform.rms - other.rms) > DIFFERS_PCT / 100 * waveform.rms
        or abs(waveform.thd_pct - other.thd_pct) > DIFFERS_PT
    )


def _start(capture: Capture, volts: Floats, amps: Floats | None, place: Place, cycles: Cycles) -> StartAt | None:
    """The start that a capture shows, cycle by cycle; None where its amps never step up."""
    if amps is None:
        return None
    v = urms_half(volts, capture.step_s, cycles)
    a = urms_half(np.nan_to_num(amps), capture.step_s, cycles)
    seen = start_in(v.t_s + capture.t_s, v.rms, a.rms, capture.t_s)
    if seen is None:
        return None
    return StartAt(
        place=place,
        t_s=seen.at_s,
        before_v=seen.before_v,
        lowest_v=seen.lowest_v,
        settled_v=seen.settled_v,
        before_a=seen.before_a,
        highest_a=seen.highest_a,
        settled_a=seen.settled_a,
        back_s=seen.back_s,
        back_within_v=BACK_PCT / 100 * seen.before_v,
        back_rows=seen.back_rows[:MOST_BACK_ROWS],
    )
