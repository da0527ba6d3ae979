"""Meters on the bench: each sees through its own window, at its own pace, with its own errors."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from muster.core.kit import Instrument
from muster.core.sessions import Place
from muster.core.timeline.traces import Channel

from .bench import Bench, Sample


def truth(sample: Sample, channel: Channel, bench: Bench, distance_m: float = 7.0) -> float:
    """What a perfect meter would show of a channel; NaN where the bench has none of it."""
    at = {Place.LEG1: 0, Place.LEG2: 1}.get(channel.place)
    if at is not None:
        if at >= len(sample.leg_v):
            return float("nan")
        va = sample.leg_v[at] * sample.leg_a[at]
        by = {"v": sample.leg_v[at], "a": sample.leg_a[at], "w": sample.leg_w[at], "va": va}
        return by.get(channel.quantity, sample.leg_w[at] / va if va else 1.0)
    if channel.place is Place.TOTAL:
        va = sum(v * a for v, a in zip(sample.leg_v, sample.leg_a, strict=True))
        by = {"v": sum(sample.leg_v), "a": max(sample.leg_a), "w": sample.total_w, "va": va}
        return by.get(channel.quantity, sample.total_w / va if va else 1.0)
    if channel.place is Place.NEUTRAL:
        return sample.neutral_a
    if channel.place is Place.DC:
        return {"v": sample.dc_v, "a": sample.dc_a, "w": sample.dc_v * sample.dc_a}[channel.quantity]
    plain = {"hz": sample.f_hz, "soc_pct": sample.soc_pct, "temp_c": sample.temp_c, "fuel_l": sample.fuel_l}
    return bench.dba(distance_m) if channel.quantity == "dba" else plain.get(channel.quantity, float("nan"))


@dataclass
class Meter:
    """An instrument of the kit on this bench: a mean over its window, shown at its refresh, with a scale error of its own.

    The scale error is drawn once, within the accuracy; each figure is rounded
    to ``digits`` and kept between refreshes. With max-hold the extremes of
    every window are kept too.
    """

    instrument: Instrument
    channels: tuple[Channel, ...]
    bench: Bench
    distance_m: float = 7.0
    shown: dict[Channel, float] = field(default_factory=dict)
    lowest: dict[Channel, float] = field(default_factory=dict)
    highest: dict[Channel, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self._scale = {channel: self.bench.rng.uniform(-0.6, 0.6) for channel in self.channels}
        self._windows: dict[Channel, list[tuple[float, float]]] = {channel: [] for channel in self.channels}
        self._due_s = self.bench.t_s

    def look(self, bench: Bench) -> None:
        """Take in a moment of the bench; to be called after each of its steps."""
        sample = bench.sample()
        due = bench.t_s >= self._due_s - 1e-9
        for channel in self.channels:
            window = self._windows[channel]
            window.append((bench.t_s, truth(sample, channel, bench, self.distance_m)))
            while window and window[0][0] < bench.t_s - self.instrument.window_s:
                window.pop(0)
            if due or self.instrument.max_hold:
                self._show(channel, due=due)
        if due:
            self._due_s = bench.t_s + self.instrument.refresh_s

    def _show(self, channel: Channel, *, due: bool) -> None:
        figures = np.array([value for _, value in self._windows[channel]])
        square = channel.quantity in ("v", "a")
        value = self._erring(channel, float(np.sqrt(np.mean(figures**2)) if square else np.mean(figures)))
        self.lowest[channel] = min(value, self.lowest.get(channel, value))
        self.highest[channel] = max(value, self.highest.get(channel, value))
        if due:
            self.shown[channel] = value

    def _erring(self, channel: Channel, value: float) -> float:
        measure = self.instrument.measure(channel.measured)
        if measure is None or not np.isfinite(value):
            return float("nan")
        u = abs(value) * measure.accuracy_pct / 100 + measure.accuracy_abs
        return float(np.clip(value + self._scale[channel] * u, measure.low, measure.high))

    def forget_extremes(self) -> None:
        """Clear what max-hold kept."""
        self.lowest, self.highest = {}, {}
