"""An appliance as it sits in this home."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from enum import StrEnum

from ..errors import OutOfRange, require_above, require_between
from ..quantities import Grade
from ..supply import Leg
from .evidence import LoadFigure
from .kinds import SOFT_START_PF, SOFT_START_S, SOFT_START_X, UNKNOWN_KIND, Kind, Wave, kind_of
from .parts import Part, call_wh, highest, start_moment

ALL_DAY = tuple(range(24))
START_ABOVE_X = 1.05
"""A start that stays within this multiple of running VA is none."""
MOST_START_X = 20.0
LEAST_PLATE_V, MOST_PLATE_V = 90.0, 500.0
"""Volts that a nameplate of something on the mains may say."""


class Tier(StrEnum):
    """How much the household needs a load to run; ``test``: it is there for the test, and the home asks nothing of it."""

    MUST = "must"
    SHOULD = "should"
    COULD = "could"
    TEST = "test"

    @property
    def rank(self) -> int:
        """How far down the household's list: 0 must; what is for tests alone is last."""
        return list(Tier).index(self)


TIERS = (Tier.MUST, Tier.SHOULD, Tier.COULD)
"""The household's own; a load for tests alone (a heater, a lamp board) belongs to none of them."""


class Caller(StrEnum):
    """Who switches a load that comes and goes: its own thermostat, or somebody's hand."""

    ITSELF = "itself"
    HAND = "hand"

    @property
    def label(self) -> str:
        """The caller as it is written on screen."""
        return {"itself": "by itself", "hand": "by hand"}[self.value]


@dataclass(frozen=True)
class Duty:
    """A rhythm: ``on_min`` minutes on, ``off_min`` off; off 0 runs throughout.

    A load that calls by itself comes on at once after an outage; one used by
    hand does not. ``once``: a program, begun once in each stretch of its hours
    and run to its end, ``on_min`` long.
    """

    on_min: float = 60.0
    off_min: float = 0.0
    caller: Caller = Caller.ITSELF
    once: bool = False

    def __post_init__(self) -> None:
        require_above(self.on_min, 0, "on_min")
        require_between(self.off_min, 0, 24 * 60, "off_min")
        require_between(self.on_min, 0, 24 * 60, "on_min")

    @property
    def share(self) -> float:
        """On-time over the whole cycle, 0 to 1."""
        return self.on_min / (self.on_min + self.off_min)

    @property
    def cycles(self) -> bool:
        """Whether it switches by its rhythm."""
        return self.off_min > 0 and not self.once

    @property
    def throughout(self) -> bool:
        """Whether it runs through its hours without a pause."""
        return not (self.cycles or self.once)

    @property
    def label(self) -> str:
        """The rhythm as it is written on screen."""
        if self.once:
            return f"a program of {self.on_min:g} min, once in each stretch of its hours"
        return f"{self.on_min:g} min on, {self.off_min:g} min off" if self.cycles else "runs throughout"


@dataclass(frozen=True)
class Weather:
    """The day on which a duty was seen: outside at ``seen_c``, the room or the cold store held at ``kept_c`` [°C]."""

    seen_c: float
    kept_c: float

    def __post_init__(self) -> None:
        require_between(self.seen_c, -60, 60, "seen_c")
        require_between(self.kept_c, -90, 95, "kept_c")
        if abs(self.seen_c - self.kept_c) < 1:
            raise OutOfRange(
                "inside and outside were alike", where="seen_c", want="a day at least a kelvin from what it keeps"
            )


@dataclass(frozen=True)
class Tolerance:
    """What this load tolerates, where that is known better than by its kind: percent off nominal, waveform, break."""

    v_low_pct: float | None = None
    v_high_pct: float | None = None
    hz_pct: float | None = None
    wave: Wave | None = None
    gap_ms: float | None = None

    def __post_init__(self) -> None:
        for name, most in (("v_low_pct", 100), ("v_high_pct", 100), ("hz_pct", 50), ("gap_ms", 3_600_000)):
            value = getattr(self, name)
            if value is not None:
                require_between(value, 0, most, name)


@dataclass(frozen=True)
class Load:
    """An appliance as it sits in this home.

    ``run_w`` and ``pf`` while running, at the highest of its parts;
    ``start_va`` overrides the planning start; both are the best of
    ``figures``, where those are kept. ``plate_v`` are the volts on its own
    nameplate, where they are not those it is fed. ``hours`` are the hours of the day in
    which it may run. ``parts`` replace those of its kind; ``soft_starter``:
    its motor is eased.
    """

    key: str
    name: str
    kind: str
    run_w: float
    pf: float
    leg: Leg = Leg.ONE
    tier: Tier = Tier.MUST
    duty: Duty = field(default_factory=Duty)
    hours: tuple[int, ...] = ALL_DAY
    start_va: float | None = None
    run_grade: Grade = Grade.D
    start_grade: Grade = Grade.D
    note: str = ""
    parts: tuple[Part, ...] = ()
    soft_starter: bool = False
    tolerance: Tolerance = field(default_factory=Tolerance)
    weather: Weather | None = None
    figures: tuple[LoadFigure, ...] = ()
    plate_v: float | None = None

    def __post_init__(self) -> None:
        kind_of(self.kind)
        if not self.name.strip():
            raise OutOfRange("a load needs a name", where="name", want="such as “chest freezer”")
        require_above(self.run_w, 0, "run_w")
        require_between(self.run_w, 0, 100_000, "run_w")
        require_above(self.pf, 0, "pf")
        require_between(self.pf, 0, 1, "pf")
        if self.start_va is not None:
            require_between(self.start_va, 0, 1_000_000, "start_va")
        if self.plate_v is not None:
            require_between(self.plate_v, LEAST_PLATE_V, MOST_PLATE_V, "plate_v")
        if any(not 0 <= hour <= 23 for hour in self.hours):
            raise OutOfRange("an hour lies outside the day", where="hours", want="0 to 23")

    @property
    def kind_figures(self) -> Kind:
        """Planning figures of the load's kind."""
        return kind_of(self.kind)

    @property
    def run_va(self) -> float:
        """Apparent power while running [VA]."""
        return self.run_w / self.pf

    @property
    def shape(self) -> tuple[Part, ...]:
        """The parts of its run in proportion: its own, else its kind's; none where its run is one level."""
        return self.parts or self.kind_figures.parts

    @property
    def planned_start_va(self) -> float:
        """The start by its kind's multiple, or by its parts, no soft starter in it [VA]."""
        if self.kind_figures.inrush:
            return self.run_va
        if not self.shape:
            return max(self.kind_figures.start_x * self.run_va, self.run_va)
        scale = self.run_va / highest(self.shape, "run_va")
        return scale * max(start_moment(self.shape, part) for part in self.shape)

    @property
    def bare_start_va(self) -> float:
        """Apparent power at the start without a soft starter [VA]."""
        if self.kind_figures.inrush:
            return self.run_va
        bare = self.start_va if self.start_va is not None and not self._start_is_soft else None
        return max(self.planned_start_va if bare is None else bare, self.run_va)

    @property
    def inrush_va(self) -> float | None:
        """What a lamp or an electronic supply draws for milliseconds as it is switched on; None for what starts [VA].

        It is no start: only a breaker or an inverter's limit that acts at once could mind it.
        """
        if not self.kind_figures.inrush:
            return None
        return self.start_va or self.kind_figures.start_x * self.run_va

    @property
    def start_unknown(self) -> bool:
        """Whether nobody knows how it starts: its kind was never said, nor a figure of its start."""
        return self.kind == UNKNOWN_KIND and self.start_va is None

    @property
    def _start_is_soft(self) -> bool:
        return any(f.soft and f.value == self.start_va for f in self.figures if f.quantity == "start_va")

    @property
    def soft_start_va(self) -> float:
        """Apparent power at the start with a soft starter: as measured, else as planned, never above the bare one [VA]."""
        measured = self.start_va if self._start_is_soft else None
        eased = SOFT_START_X * self.run_va if measured is None else measured
        return max(min(eased, self.bare_start_va), self.run_va)

    @property
    def eased(self) -> bool:
        """Whether a soft starter eases a motor in it."""
        return self.soft_starter and self.kind_figures.turns

    @property
    def start_total_va(self) -> float:
        """Apparent power at the start, the load's own running power included [VA]."""
        return self.soft_start_va if self.eased else self.bare_start_va

    @property
    def grade_of_start(self) -> Grade:
        """How well its start is known as it is now: behind a soft starter with which nobody measured it, by a planning figure alone."""
        return Grade.D if self.eased and not self._start_is_soft else self.start_grade

    @property
    def start_s(self) -> float:
        """How long the start lasts [s]."""
        if self.eased:
            return SOFT_START_S
        if self.shape:
            return max(self.shape, key=lambda part: start_moment(self.shape, part)).start_s
        return self.kind_figures.start_s

    @property
    def start_pf(self) -> float:
        """Power factor during the start."""
        return SOFT_START_PF if self.eased else self.kind_figures.start_pf

    def start_lasts(self, hz: float) -> bool:
        """Whether its start lasts a cycle or more: a 5 ms electronic inrush does not."""
        return not self.kind_figures.inrush and self.start_s * hz >= 1

    def has_start(self, hz: float) -> bool:
        """Whether there is a start worth the name: a cycle or more, and above ``START_ABOVE_X`` times what it runs at."""
        return self.start_lasts(hz) and self.start_total_va > START_ABOVE_X * self.run_va

    def moment_va(self, hz: float) -> float:
        """Apparent power to reckon with when it is switched on: at its start, if that lasts a cycle or more [VA].

        However little the start stands above running, it is counted: an order of starts is by these figures.
        """
        return self.start_total_va if self.start_lasts(hz) else self.run_va

    @property
    def running_parts(self) -> tuple[Part, ...]:
        """Its parts at the load's own watts, volt-amperes and start; a single level is one part."""
        if not self.shape:
            start_x = self.start_total_va / self.run_va
            return (
                Part(
                    name=self.name,
                    run_w=self.run_w,
                    pf=self.pf,
                    start_x=min(start_x, MOST_START_X),
                    start_s=self.start_s,
                ),
            )
        w_x = self.run_w / highest(self.shape)
        va_x = self.run_va / highest(self.shape, "run_va")
        worst = max(self.shape, key=lambda part: start_moment(self.shape, part))
        beneath = va_x * (start_moment(self.shape, worst) - worst.start_extra_va)
        parts = []
        for part in self.shape:
            w, va = part.run_w * w_x, part.run_va * va_x
            x = part.start_x
            if part is worst and self.start_total_va > beneath:
                x = 1 + (self.start_total_va - beneath) / va
            elif self.eased and part.start_x > SOFT_START_X:
                x = SOFT_START_X
            parts.append(replace(part, run_w=w, pf=min(1.0, w / va), start_x=min(max(1.0, x), MOST_START_X)))
        return tuple(parts)

    @property
    def calls_at_once(self) -> bool:
        """Whether it comes on by itself when power returns."""
        return self.duty.caller is Caller.ITSELF and not self.duty.once

    @property
    def call_wh(self) -> float:
        """Energy of one on-time [Wh]."""
        return call_wh(self.running_parts, self.duty.on_min * 60)

    @property
    def day_wh(self) -> float:
        """Energy of a whole day by its duty and hours [Wh]."""
        if self.duty.once:
            return self.call_wh * stretches(self.hours)
        if not self.duty.cycles:
            return call_wh(self.running_parts, 3600.0 * len(self.hours))
        return self.call_wh * 60 / (self.duty.on_min + self.duty.off_min) * len(self.hours)

    def share_on(self, leg: Leg) -> float:
        """Share of the load's power on a leg: 1, 0, or a half when it sits across both."""
        if self.leg is Leg.BOTH:
            return 0.5
        return 1.0 if self.leg is leg else 0.0

    def plate_x(self, v_nominal: float) -> float:
        """The volts on its nameplate over those it is fed: what a motor stands counts from its nameplate.

        Parameters
        ----------
        v_nominal
            Nominal volts of a leg. [V]

        Returns
        -------
        float
            1 where its nameplate says nothing; a 240 V motor at 230 V gives 1.04.

        References
        ----------
        NEMA MG 1-2021, 12.44: variations count from rated volts.
        """
        return 1.0 if self.plate_v is None else self.plate_v / (v_nominal * (2 if self.leg is Leg.BOTH else 1))

    def floor_v(self, v_nominal: float) -> float:
        """Below so many volts of a leg its start stalls; 0 where it has no such floor.

        Parameters
        ----------
        v_nominal
            Nominal volts of a leg. [V]

        Returns
        -------
        float
            The share of its kind (docs/method/starts.md) of the volts on its own nameplate, on a leg. [V]
        """
        return v_nominal * self.plate_x(v_nominal) * self.kind_figures.floor_pct / 100

    @property
    def v_low_pct(self) -> float | None:
        """Percent below nominal that it tolerates while running; None where it does not mind."""
        return self.kind_figures.v_low_pct if self.tolerance.v_low_pct is None else self.tolerance.v_low_pct

    @property
    def v_high_pct(self) -> float | None:
        """Percent above nominal that it tolerates; None where it does not mind."""
        return self.kind_figures.v_high_pct if self.tolerance.v_high_pct is None else self.tolerance.v_high_pct

    @property
    def hz_pct(self) -> float | None:
        """Percent off nominal hertz that it tolerates; None where it does not mind."""
        return self.kind_figures.hz_pct if self.tolerance.hz_pct is None else self.tolerance.hz_pct

    @property
    def wave(self) -> Wave:
        """The poorest waveform it is content with."""
        return self.tolerance.wave or self.kind_figures.wave

    @property
    def gap_ms(self) -> float | None:
        """The longest break of supply that it does not notice [ms]; None where it does not mind."""
        return self.kind_figures.gap_ms if self.tolerance.gap_ms is None else self.tolerance.gap_ms


def stretches(hours: tuple[int, ...]) -> int:
    """How many unbroken stretches the hours of the day make, midnight not a break."""
    painted = set(hours)
    begins = sum(1 for hour in painted if (hour - 1) % 24 not in painted)
    return begins or (1 if painted else 0)


def short_name(load: Load) -> str:
    """A load's name up to its first comma."""
    return load.name.split(",")[0]


def does(load: Load, verb: str) -> str:
    """A load with what it does, in words: ``the pump wants``, ``the lights want``; the verb as of one."""
    name = short_name(load)
    several = name.endswith("s") and not name.endswith("ss")
    return f"the {name} {verb.removesuffix('s') if several else verb}"
