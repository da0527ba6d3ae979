"""What captures add: starts cycle by cycle, dips and breaks to the half cycle, the wave, and how it ends."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from ..kit import Instrument, Kit
from ..loads import Load
from ..quantities import Grade, Value, duration, number, plain
from ..sessions import Place, Reading, Stat
from ..sessions.replay import BenchRecord, Outcome, StartRun
from ..supply import Leg, System
from ..timeline.captures.events import CaptureEvent, Ending
from ..timeline.captures.features import CaptureFeatures, StartAt, WaveAt
from ..trade.ride_through import VoltEventKind
from ..working import Method, Working, rows_of
from .context import SessionContext
from .finding import Finding, Topic, Warns
from .from_logs import MATCH_S, worked_depth, worked_envelope

RINGING_ADVICE = (
    " It heats filters and surge protectors, may disturb radio, meters and dimmers, and electronics that count crossings: "
    "a filter of the maker's, or another source for those."
)
THD_U_PT = 0.1
"""Half-width of a distortion read from an undisturbed capture [points]: what the tests hold it to."""


def captured_as(capture: CaptureFeatures) -> str:
    """The word under which a capture, read cycle by cycle, stands in the kit."""
    return f"{capture.instrument[:14]}-wave"


def _cycle_meter(kit: Kit, capture: CaptureFeatures, hz: float) -> Instrument:
    """The capture's instrument as it reads cycle by cycle: a window of one, renewed every half, missing none."""
    instrument = kit.instrument_for("v", capture.instrument)
    return replace(
        instrument,
        slug=captured_as(capture),
        name=f"{instrument.name}, cycle by cycle",
        refresh_s=0.5 / hz,
        window_s=1 / hz,
        max_hold=True,
        true_rms=True,
    )


def with_captures(
    record: BenchRecord, captures: Sequence[CaptureFeatures], loads: Mapping[str, Load], system: System
) -> BenchRecord:
    """The record with each start that a capture shows filled in from it, cycle by cycle."""
    shown = [(capture, capture.starts) for capture in captures if capture.starts]
    if not shown:
        return record
    starts = list(record.starts)
    for capture, seen in shown:
        at = seen[0].t_s
        near = [i for i, run in enumerate(starts) if abs(run.t_s - at) <= MATCH_S]
        read = _readings(capture, seen)
        if near:
            i = min(near, key=lambda i: abs(starts[i].t_s - at))
            starts[i] = replace(starts[i], readings=(*read, *starts[i].readings))
            continue
        switched = [on for on in record.switched_on if abs(on.t_s - at) <= MATCH_S and on.load in loads]
        on = min(switched, key=lambda on: abs(on.t_s - at), default=None)
        if on is not None and loads[on.load].has_start(system.hz):
            starts.append(
                StartRun(
                    seq=on.seq,
                    load=on.load,
                    hot=False,
                    base=on.base,
                    readings=read,
                    outcome=Outcome.HELD,
                    base_w=on.base_w,
                    t_s=at,
                )
            )
    added = [_cycle_meter(record.kit, capture, system.hz) for capture, _ in shown]
    kit = Kit((*record.kit.instruments, *added), record.kit.wave)
    return replace(record, starts=tuple(sorted(starts, key=lambda run: run.t_s)), kit=kit)


def _readings(capture: CaptureFeatures, seen: Iterable[StartAt]) -> tuple[Reading, ...]:
    by = captured_as(capture)
    return tuple(
        Reading(quantity=quantity, value=value, place=start.place, stat=stat, instrument=by)
        for start in seen
        for quantity, stat, value in (
            ("v", Stat.BEFORE, start.before_v),
            ("v", Stat.LOWEST, start.lowest_v),
            ("v", Stat.SETTLED, start.settled_v),
            ("a", Stat.HIGHEST, start.highest_a),
            ("a", Stat.BEFORE, start.before_a),
        )
    )


@dataclass(frozen=True)
class WaveSeen:
    """A waveform and what was on beneath it; ``state`` is ``no load`` or ``under load``."""

    at: WaveAt
    on: tuple[str, ...]
    state: str
    finding: Finding


def waves_seen(context: SessionContext) -> tuple[WaveSeen, ...]:
    """The wave of each capture: its distortion, crest, kind, and what was on."""
    return tuple(_wave(context, capture, at) for capture in context.captures for at in capture.waves)


def _on_there(context: SessionContext, at: WaveAt) -> tuple[str, ...]:
    """The loads that were on, on the leg that was captured."""
    on = context.on_at(at.t_s)
    if context.system.legs == 1 or at.place not in (Place.LEG1, Place.LEG2):
        return on
    leg = Leg(at.place.value)
    return tuple(key for key in on if key not in context.loads or context.loads[key].share_on(leg) > 0)


def _wave(context: SessionContext, capture: CaptureFeatures, at: WaveAt) -> WaveSeen:
    on, wave = _on_there(context, at), at.wave
    state = "under load" if on else "no load"
    beneath = f"with {context.names(on)} on" if on else "at no load"
    where = "" if context.system.legs == 1 else f" on {at.place.label}"
    odd = max(wave.harmonics, key=lambda item: item.pct)
    workings: tuple[Working, ...] = (
        Working(
            "THD = √(sum of squares of harmonics 2 to 40) ÷ fundamental",
            f"{wave.cycles} whole cycles of {wave.hz:.2f} Hz, brought into step with themselves; most in harmonic "
            f"{odd.order}, {odd.pct:.2f} %",
            f"{wave.thd_pct:.2f} %",
            "IEC 61000-4-7, THD_F",
            rows_of(
                Method.ROOT_OF_SQUARES, ("harmonic", "% of the fundamental"), ((h.order, h.pct) for h in wave.harmonics)
            ),
        ),
        Working(
            "crest factor = peak ÷ RMS",
            f"{number(wave.peak, 'v')} ÷ {number(wave.rms, 'v')}",
            f"{wave.crest:.3f}",
            "1.414 for a sine",
        ),
    )
    rings = wave.rings
    if rings:
        workings = (
            *workings,
            Working(
                "what rings = RMS of what is neither the fundamental nor a harmonic to the 40th ÷ fundamental",
                f"{wave.cycles} whole cycles",
                f"{wave.residual_pct:.1f} %",
                "above 3 % a wave is no clean sine; ours",
            ),
        )
    above = f", {wave.residual_pct:.1f} % above the 40th harmonic" if rings else ""
    advice = RINGING_ADVICE if rings else ""
    sentence = f"The wave{where} {beneath} is {wave.shape.label}: THD {wave.thd_pct:.1f} %{above}, crest factor {wave.crest:.2f}.{advice}"
    finding = Finding(
        key=f"wave-{capture.name[:40]}-{at.place.value}-{at.t_s:.3f}",
        topic=Topic.WAVEFORM,
        title=f"Waveform, {state}",
        sentence=sentence,
        value=Value(wave.thd_pct, "pct", THD_U_PT, None, Grade.A),
        workings=workings,
        seqs=(),
        needs="",
        span=(at.t_s - 1, at.t_s + 1),
    )
    return WaveSeen(at, on, state, replace(finding, capture=capture.name))


def describe_captures(context: SessionContext) -> tuple[Finding, ...]:
    """Dips, rises and breaks that belong to no start, endings, and captures that could not be judged."""
    of_starts = [run.t_s for run in context.record.starts]
    told: list[Finding] = []
    for capture in context.captures:
        findings: list[Finding] = []
        apart = [e for e in capture.events if not any(abs(e.t0_s - t_s) <= MATCH_S for t_s in of_starts)]
        # A transfer's breaks are told as gaps.
        findings += [_event(context, capture, event) for event in apart if context.session.protocol != "transfer"]
        findings += [_recovery(context, start) for start in capture.starts]
        findings += [_ending(capture, end) for end in capture.ends]
        findings += [_refused(capture, why) for why in capture.refused]
        told += [replace(finding, capture=capture.name) for finding in findings]
    return tuple(told)


def _event(context: SessionContext, capture: CaptureFeatures, event: CaptureEvent) -> Finding:
    where = "" if context.system.legs == 1 else f" on {event.place.label}"
    u_v = context.record.kit.u("v", capture.instrument, event.extreme_v)
    value = Value(event.extreme_v, "v", u_v, event.bound, Grade.B if event.bound else Grade.A)
    took = f"{event.duration_s * 1000:.0f} ms"
    if event.kind is VoltEventKind.INTERRUPTION:
        sentence = f"The output{where} was gone for {took}."
    else:
        way = "fell" if event.kind is VoltEventKind.DIP else "rose"
        sentence = f"Volts{where} {way} to {value}, {plain(event.residual_pct, 'pct')} of nominal, for {took}."
    workings = [
        Working(
            "residual = worst whole cycle ÷ nominal",
            f"{number(event.extreme_v, 'v')} ÷ {number(event.nominal_v, 'v')}",
            plain(event.residual_pct, "pct"),
            "IEC 61000-4-30, Urms(1/2): from zero crossing to the next but one, each half cycle",
        ),
        Working(
            "length = from 90 % to 92 % of nominal by half cycles", f"{event.t0_s:.3f} s to {event.t1_s:.3f} s", took
        ),
    ]
    if event.kind != "interruption" or event.duration_s > 0.02:
        workings.append(worked_envelope(event.residual_pct, event.duration_s))
    if event.before_v:
        workings.append(worked_depth(event.before_v, event.extreme_v))
    topic = Topic.TRIPS if event.kind is VoltEventKind.INTERRUPTION else Topic.DIPS
    title = {"interruption": "Output gone", "dip": "Dip", "rise": "Rise"}[event.kind]
    return Finding(
        key=f"{event.kind}-wave-{event.place.value}-{event.t0_s:.3f}",
        topic=topic,
        title=f"{title}, from a capture",
        sentence=sentence,
        value=value,
        workings=tuple(workings),
        seqs=(),
        needs="",
        span=(event.t0_s - 1, event.t1_s + 1),
    )


def _recovery(context: SessionContext, start: StartAt) -> Finding:
    """How soon the volts of a start were back, and what it drew against what it then ran on."""
    where = "" if context.system.legs == 1 else f" on {start.place.label}"
    added = start.settled_a - start.before_a
    inrush = (
        f"; {number((start.highest_a - start.before_a) / added)} times the amps it then ran on" if added > 0.3 else ""
    )
    if start.back_s is None:
        said, ms = f"Volts{where} were not back when the capture ended{inrush}.", float("nan")
    else:
        said, ms = f"Volts{where} were back {start.back_s * 1000:.0f} ms after the start{inrush}.", start.back_s * 1000
    working = Working(
        "back = when they stay within 2 % of what stood before of where they settle",
        f"lowest {number(start.lowest_v, 'v')}; within {start.back_within_v:.2f} of {start.settled_v:.2f}",
        "not seen" if start.back_s is None else f"{ms:.0f} ms",
        "cycle by cycle, Urms(1/2)",
        rows_of(Method.BACK, ("ms", "V"), start.back_rows) if start.back_rows else None,
    )
    return Finding(
        key=f"recovery-{start.place.value}-{start.t_s:.2f}",
        topic=Topic.STARTS,
        title="Recovery",
        sentence=said,
        value=Value(ms, "ms", 1000 / context.system.hz, None, Grade.A),
        workings=(working,),
        seqs=(),
        needs="a longer capture" if start.back_s is None else "",
        span=(start.t_s - 1, start.t_s + 3),
    )


def _ending(capture: CaptureFeatures, end: Ending) -> Finding:
    """Clean or ragged, and what that means for what is connected."""
    took = f"{end.dying_s * 1000:.0f} ms"
    how = []
    if end.lingers:
        how.append(f"it hung between full and nothing for {took}")
    if end.rises_pct > 0 and end.ragged:
        how.append(f"came back up by {end.rises_pct:.0f} % on the way")
    sentence = (
        f"It ended raggedly: {' and '.join(how) or 'it overshot'}. Switch what is sensitive off before it runs out or is shut down."
        if end.ragged
        else f"It ended cleanly, within {took}."
    )
    working = Working(
        "ragged = back up by more than 8 %, above 110 %, or more than 5 cycles on the way from 90 to 10 %",
        f"{took}, up by {end.rises_pct:.1f} %, at most {end.highest_pct:.0f} % of what stood before",
        "ragged" if end.ragged else "clean",
        "half-cycle RMS; the thresholds are ours",
    )
    return Finding(
        key=f"end-{capture.name[:40]}-{end.t_s:.3f}",
        topic=Topic.WAVEFORM,
        title="Its end",
        sentence=sentence,
        value=Value(end.dying_s * 1000, "ms", 500 / end.hz, None, Grade.A),
        workings=(working,),
        seqs=(),
        needs="",
        span=(end.t_s - 1, end.t_s + 2),
        warns=Warns.RAGGED_END if end.ragged else None,
    )


def _refused(capture: CaptureFeatures, why: str) -> Finding:
    return Finding(
        key=f"refused-{capture.name[:40]}-{capture.t0_s:.3f}",
        topic=Topic.WAVEFORM,
        title="A capture that cannot be judged",
        sentence=f"The capture “{capture.name}” of {duration(capture.t1_s - capture.t0_s)} gives no waveform ({why}).",
        value=Value(float("nan"), "pct", None, None, Grade.D),
        workings=(),
        seqs=(),
        needs="another capture (Waveform)",
        span=(capture.t0_s, capture.t1_s),
    )
