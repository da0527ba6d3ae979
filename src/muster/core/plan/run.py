"""A plan run by itself over switched outlets: what to switch when, what to read, and when to stop it all.

Pure: told the time and what the instruments show, it answers with what is to
be logged; the loads that should be on follow from that record.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from ..errors import MusterError, require_above, require_between
from ..loads import Load
from ..quantities import plain
from ..sessions import Event, EventName, Item, Note, Place, Reading, Step, Switch
from ..stacking.order import start_order
from ..supply import System
from ..timeline.traces import Channel
from ..timeline.traces.events import OFF_PCT

GRACE_S = 10.0
"""Volts or hertz outside their band for so long stop the run: as the plan of a ladder says."""
AT_ONCE_PCT = 70.0
AT_ONCE_S = 1.5
"""Volts below this share of nominal for longer than a start takes stop it at once."""
AMPS_S = 1.0
"""Amps over the limit for so long stop it: longer than a start of a small motor."""
SILENT_S = 3.0
"""A run that has heard nothing of the volts for so long is blind, and stops."""
MEAN_S = 5.0
"""A reading logged is the mean of the last so many seconds, less where the load stood shorter."""


@dataclass(frozen=True)
class StopAt:
    """Where a run stops by itself: volts and hertz in percent of nominal either way, amps a leg, degrees of the source."""

    v_pct: float = 10.0
    hz_pct: float = 5.0
    leg_a: float | None = None
    temp_c: float | None = None

    def __post_init__(self) -> None:
        require_between(require_above(self.v_pct, 0, "v_pct"), 0, 30, "v_pct")
        require_between(require_above(self.hz_pct, 0, "hz_pct"), 0, 15, "hz_pct")
        for name in ("leg_a", "temp_c"):
            value = getattr(self, name)
            if value is not None:
                require_above(value, 0, name)

    @property
    def label(self) -> str:
        """The stop conditions in a sentence."""
        more = [f"a leg over {self.leg_a:g} A"] if self.leg_a else []
        more += [f"the source over {plain(self.temp_c, 'c')}"] if self.temp_c else []
        return ", ".join(
            [
                f"volts {self.v_pct:g} % off for {GRACE_S:g} s",
                f"hertz {self.hz_pct:g} % off for {GRACE_S:g} s",
                *more,
                "a trip",
                "an instrument that falls silent",
                "your stop key",
            ]
        )


@dataclass(frozen=True)
class Pace:
    """How fast a run goes: seconds between two switchings, to settle after the last, and the most that a step is held."""

    between_s: float = 3.0
    settle_s: float = 5.0
    hold_s: float = 1200.0

    def __post_init__(self) -> None:
        require_between(self.between_s, 0.2, 600, "between_s")
        require_between(self.settle_s, 0.2, 600, "settle_s")
        require_between(self.hold_s, 0.0, 12 * 3600.0, "hold_s")


class Doing(StrEnum):
    """What a run is at."""

    SWITCHING = "switching"
    SETTLING = "settling"
    HOLDING = "holding"
    DONE = "done"
    STOPPED = "stopped"

    @property
    def label(self) -> str:
        """As it is written on screen."""
        return {
            "switching": "switching loads",
            "settling": "letting it settle",
            "holding": "holding",
            "done": "done, all off",
            "stopped": "stopped, all off",
        }[self.value]

    @property
    def over(self) -> bool:
        """Whether it has ended."""
        return self in (Doing.DONE, Doing.STOPPED)


class Cause(StrEnum):
    """Why a run ends by itself."""

    BLIND = "blind"
    TRIP = "trip"
    VOLTS_GONE = "volts_gone"
    VOLTS = "volts"
    HERTZ = "hertz"
    AMPS = "amps"
    HEAT = "heat"


@dataclass(frozen=True)
class Say:
    """Something to log: its items, and the words it is logged under."""

    items: tuple[Item, ...]
    raw: str


def steps_to_run(steps: Sequence[Step], outlets: Mapping[str, int], from_step: int = 0) -> tuple[Step, ...]:
    """The steps that a run goes through, all of whose loads hang on outlets.

    Raises
    ------
    MusterError
        If a step names no loads at all, or one that hangs on no outlet.
    """
    left = tuple(steps[from_step:])
    if not left:
        raise MusterError("every step is done", where="steps", want="a session with steps still to do")
    for number, step in enumerate(left, from_step + 1):
        if not step.loads and step.target_w != 0:
            raise MusterError(
                f"step {number}, {step.label}, is done by hand",
                where="steps",
                want="a plan whose every step says its loads",
            )
        missing = [key for key in step.loads if key not in outlets]
        if missing:
            raise MusterError(
                f"load {', '.join(missing)} of step {number} hangs on no outlet",
                where="outlets",
                want="an outlet for each load of the plan",
            )
    return left


@dataclass
class LadderRun:
    """The state of a run. ``tick`` is called a few times a second until it is over.

    ``instruments`` names for each channel the instrument that a reading of it
    is from; ``base`` are the loads on when it began.
    """

    steps: Sequence[Step]
    loads: Sequence[Load]
    system: System
    stop_at: StopAt = field(default_factory=StopAt)
    pace: Pace = field(default_factory=Pace)
    instruments: Mapping[Channel, str] = field(default_factory=dict)
    base: Sequence[str] = ()
    doing: Doing = Doing.SWITCHING
    step: int = 0
    why: str = ""

    def __post_init__(self) -> None:
        self.on: list[str] = list(self.base)
        self._since_s: float | None = None
        self._heard: list[tuple[float, dict[Channel, float]]] = []
        self._latest: dict[Channel, float] = {}
        self._wrong: dict[Cause, float] = {}
        self._was_live = False
        self._last_heard_s: float | None = None

    def tick(self, now_s: float, seen: Mapping[Channel, float] | None) -> list[Say]:
        """What to log now. ``seen`` is what was read since the last tick, None for nothing."""
        if self.doing.over:
            return []
        if self._since_s is None:
            self._since_s = self._last_heard_s = now_s
        if seen:
            self._hear(now_s, seen)
        if stop := self._must_stop(now_s):
            cause, why = stop
            return self._end(why, tripped=cause is Cause.TRIP)
        return self._go_on(now_s)

    def stop(self, why: str) -> list[Say]:
        """End it: everything off."""
        return [] if self.doing.over else self._end(why)

    def _hear(self, now_s: float, seen: Mapping[Channel, float]) -> None:
        read = {channel: value for channel, value in seen.items() if math.isfinite(value)}
        self._latest |= read
        self._heard = [(at, old) for at, old in self._heard if at >= now_s - MEAN_S]
        self._heard.append((now_s, read))
        if any(channel.quantity == "v" and channel.place is not Place.DC for channel in read):
            self._last_heard_s = now_s

    def _go_on(self, now_s: float) -> list[Say]:
        assert self._since_s is not None
        stood = now_s - self._since_s
        step = self.steps[self.step]
        if self.doing is Doing.SWITCHING:
            following = self._next_switch(step)
            if following is None:
                self._into(Doing.SETTLING, now_s)
                return []
            if stood < self.pace.between_s and self.on != list(self.base):
                return []
            self._into(Doing.SWITCHING, now_s)
            return [self._switch(following)]
        if self.doing is Doing.SETTLING:
            if stood < self.pace.settle_s:
                return []
            self._into(Doing.HOLDING, now_s)
            return self._readings(now_s)
        if stood < min(step.hold_s, self.pace.hold_s):
            return []
        said = [*self._readings(now_s), Say((Event(EventName.STEP),), "step done")]
        self.step += 1
        if self.step == len(self.steps):
            return [*said, *self._end("")]
        self._into(Doing.SWITCHING, now_s)
        return said

    def _into(self, doing: Doing, now_s: float) -> None:
        self.doing, self._since_s = doing, now_s
        if doing is Doing.SWITCHING:
            self._heard = []

    def _next_switch(self, step: Step) -> Switch | None:
        """What is to be switched next: first what is no longer wanted, then what is, in the order that keeps the peak low."""
        for key in self.on:
            if key not in step.loads:
                return Switch(key, on=False)
        missing = [load for load in self.loads if load.key in step.loads and load.key not in self.on]
        if not missing:
            return None
        return Switch(start_order(missing)[0].key, on=True)

    def _switch(self, switch: Switch) -> Say:
        if switch.on:
            self.on.append(switch.load)
        else:
            self.on.remove(switch.load)
        return Say((switch,), f"{'+' if switch.on else '-'}{switch.load}")

    def _readings(self, now_s: float) -> list[Say]:
        """The mean of each channel over the last seconds of this load."""
        late = [read for at, read in self._heard if at >= now_s - MEAN_S]
        channels = dict.fromkeys(channel for read in late for channel in read)
        items = tuple(
            Reading(
                quantity=channel.quantity,
                value=round(float(np.mean([read[channel] for read in late if channel in read])), 3),
                place=channel.place,
                instrument=self.instruments.get(channel, ""),
            )
            for channel in channels
        )
        return [Say(items, "read by Muster")] if items else []

    def _must_stop(self, now_s: float) -> tuple[Cause, str] | None:
        assert self._last_heard_s is not None
        if now_s - self._last_heard_s > SILENT_S:
            return Cause.BLIND, "nothing was heard of the volts"
        read = self._latest
        volts = [
            value
            for channel, value in read.items()
            if channel.quantity == "v" and channel.place in (Place.LEG1, Place.LEG2)
        ]
        nominal = self.system.v_nominal
        live = bool(volts) and min(volts) >= OFF_PCT / 100 * nominal
        if volts and not live and self._was_live:
            return Cause.TRIP, "it tripped"
        self._was_live = self._was_live or live
        off_pct = max((abs(value / nominal - 1) * 100 for value in volts), default=0.0)
        hz = read.get(Channel("hz"), self.system.hz)
        amps = [
            value
            for channel, value in read.items()
            if channel.quantity == "a" and channel.place in (Place.LEG1, Place.LEG2)
        ]
        heat = read.get(Channel("temp_c"), -math.inf)
        stop = self.stop_at
        checks = (
            (
                Cause.VOLTS_GONE,
                "volts far below nominal",
                bool(volts) and min(volts) < AT_ONCE_PCT / 100 * nominal,
                AT_ONCE_S,
            ),
            (Cause.VOLTS, f"volts more than {stop.v_pct:g} % off", off_pct > stop.v_pct, GRACE_S),
            (
                Cause.HERTZ,
                f"hertz more than {stop.hz_pct:g} % off",
                abs(hz / self.system.hz - 1) * 100 > stop.hz_pct,
                GRACE_S,
            ),
            (
                Cause.AMPS,
                f"a leg over {stop.leg_a or 0:g} A",
                stop.leg_a is not None and max(amps, default=0.0) > stop.leg_a,
                AMPS_S,
            ),
            (
                Cause.HEAT,
                f"hotter than {plain(stop.temp_c or 0.0, 'c')}",
                stop.temp_c is not None and heat > stop.temp_c,
                0.0,
            ),
        )
        for cause, words, wrong, for_s in checks:
            if not wrong:
                self._wrong.pop(cause, None)
            elif now_s - self._wrong.setdefault(cause, now_s) >= for_s:
                return cause, words
        return None

    def _end(self, why: str, *, tripped: bool = False) -> list[Say]:
        """All off; a trip is logged before that, so that it belongs to the load it happened under."""
        self.doing, self.why = Doing.STOPPED if why else Doing.DONE, why
        said = [Say((Event(EventName.TRIP),), "!trip")] if tripped else []
        off = tuple(Switch(key, on=False) for key in self.on)
        self.on = []
        if off:
            said.append(Say(off, "all off"))
        told = f"run by Muster stopped: {why}" if why else "run by Muster done"
        return [*said, Say((Note(told),), told)]
