"""A recorder left running beside a session: what it wrote, a row a step, from the record of what was switched."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from muster.core.loads import Load
from muster.core.sessions import Entry, Event, Place, Start, Switch
from muster.core.supply import Leg
from muster.core.timeline.traces import Channel, Trace
from muster.formats.jobfile import TraceRecord

from .models import Model

SURGE_X = 1.3
"""A load that starts gently shows no surge."""
LEGS = ((Leg.ONE, Place.LEG1), (Leg.TWO, Place.LEG2))


@dataclass(frozen=True)
class Change:
    """At a time: what is on from then, and a start that begins there."""

    t_s: float
    on: frozenset[str]
    start: str = ""
    stalled: bool = False
    dead: bool = False


def changes(entries: list[Entry]) -> list[Change]:
    """What the record says was switched, started and tripped; a thumb is some seconds late."""
    on: set[str] = set()
    changes_found = [Change(-60.0, frozenset())]
    for entry in entries:
        names = {item.name for item in entry.items if isinstance(item, Event)}
        started = next((item.load for item in entry.items if isinstance(item, Start)), "")
        for item in entry.items:
            if isinstance(item, Switch):
                (on.add if item.on else on.discard)(item.load)
                started = item.load if item.on else started
        stalled = "stall" in names
        if started and not stalled:
            on.add(started)
        if "trip" in names:
            changes_found.append(Change(entry.t_s - 2, frozenset(on), dead=True))
        elif started or frozenset(on) != changes_found[-1].on:
            changes_found.append(Change(entry.t_s - 3, frozenset(on), started, stalled))
    return changes_found


def record(
    name: str,
    model: Model,
    loads: tuple[Load, ...],
    entries: list[Entry],
    step_s: float,
    dc: bool = False,
    charge: float = 1.0,
    end_s: float | None = None,
) -> Trace:
    """Sample the model through a session: volts, amps and watts of each leg, hertz, and the DC side."""
    by_key = {load.key: load for load in loads}
    plan = changes(entries)
    rng = np.random.default_rng(model.rng.randrange(2**32))
    t_s = np.arange(-30.0, (end_s if end_s is not None else entries[-1].t_s) + 20, step_s) + 0.013
    at = np.searchsorted([change.t_s for change in plan], t_s, side="right") - 1
    dead = np.array([change.dead for change in plan])[at]
    pairs = LEGS[: model.system.legs]
    watts, volts, amps = ([np.zeros(t_s.size) for _ in pairs] for _ in range(3))
    for place, (leg, _) in enumerate(pairs):
        run_w = np.array([sum(by_key[k].run_w * by_key[k].share_on(leg) for k in c.on) for c in plan])
        run_va = np.array([sum(by_key[k].run_va * by_key[k].share_on(leg) for k in c.on) for c in plan])
        w = run_w[at] * (1 + rng.normal(0, 0.002, t_s.size))
        v = model.no_load_v + model.v_per_w * w + rng.normal(0, 0.12, t_s.size)
        a = run_va[at] / model.system.v_nominal * (1 + rng.normal(0, 0.002, t_s.size))
        for change in plan:
            load = by_key.get(change.start)
            if load is None or not load.share_on(leg) or load.start_total_va < SURGE_X * load.run_va:
                continue
            if not load.has_start(model.system.hz):
                continue
            seconds = 3.0 if change.stalled else load.start_s
            hit = (t_s >= change.t_s) & (t_s < change.t_s + seconds)
            across = load.leg is Leg.BOTH
            nominal = model.system.v_nominal * (2 if across else 1)
            before = model.no_load_v + model.v_per_w * run_w[plan.index(change) - 1]
            lowest = model.lowest(before * (2 if across else 1), load.start_total_va, nominal) / (2 if across else 1)
            v[hit] = lowest + rng.normal(0, 0.3, int(hit.sum()))
            base = plan.index(change) - 1
            surge_a = load.start_total_va / nominal * lowest / model.system.v_nominal
            a[hit] = run_va[base] / model.system.v_nominal + surge_a
            w[hit] = run_w[base] + v[hit] * surge_a * load.kind_figures.start_pf
        for series, into in ((w, watts), (v, volts), (a, amps)):
            into[place] = np.where(dead, 0.0, series)
    total = np.sum(watts, axis=0)
    hertz = np.where(dead, np.nan, model.no_load_hz + model.hz_per_w * total + rng.normal(0, 0.03, t_s.size))
    channels: list[tuple[Channel, np.ndarray]] = []
    for place, (_, where) in enumerate(pairs):
        channels += [
            (Channel("v", where), volts[place].round(2)),
            (Channel("a", where), amps[place].round(2)),
            (Channel("w", where), watts[place].round(1)),
        ]
    channels.append((Channel("hz"), hertz.round(2)))
    if dc:
        channels += _dc_side(model, t_s, total, dead, charge, rng)
    values = np.array([samples for _, samples in channels], dtype=np.float32)
    return Trace(name, "recorder", tuple(channel for channel, _ in channels), t_s.round(3), values)


def _dc_side(
    model: Model, t_s: np.ndarray, total: np.ndarray, dead: np.ndarray, charge: float, rng: np.random.Generator
) -> list[tuple[Channel, np.ndarray]]:
    dc_w = np.where(dead, 0.0, model.dc_w(total))
    taken_wh = np.concatenate([[0.0], np.cumsum(dc_w[:-1] * np.diff(t_s))]) / 3600
    left = np.clip(charge - taken_wh / model.battery_wh, 0.0, 1.0)
    dc_v = np.array([model.dc_v(float(c), float(w)) for c, w in zip(left, dc_w, strict=True)])
    dc_v += rng.normal(0, 0.01, t_s.size)
    return [
        (Channel("v", Place.DC), dc_v.round(2)),
        (Channel("a", Place.DC), (dc_w / dc_v).round(2)),
        (Channel("soc_pct"), np.round(left * 100)),
    ]


def listed(trace: Trace, file: str) -> TraceRecord:
    """The trace as the job lists it."""
    return TraceRecord(trace.name, trace.instrument, file, int(trace.t_s.size))
