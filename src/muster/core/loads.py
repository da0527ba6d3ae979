"""Loads: how each kind starts and runs, and an appliance as it sits in this home."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import StrEnum

from .errors import OutOfRange, UnknownChoice, require_above, require_between
from .quantities import Grade
from .supply import Leg

ALL_DAY = tuple(range(24))


class Tier(StrEnum):
    """How much the household needs a load to run."""

    MUST = "must"
    SHOULD = "should"
    COULD = "could"


TIERS = (Tier.MUST, Tier.SHOULD, Tier.COULD)


class Wave(StrEnum):
    """The poorest waveform a load is content with, or a source gives."""

    SINE = "sine"
    ROUGH = "rough sine"
    STEPPED = "stepped"


THD_LIMIT_PCT = {Wave.SINE: 5.0, Wave.ROUGH: 8.0}
"""THD that still counts as the class. 8 %: EN 50160; 5 %: IEEE 519 for a clean supply."""


@dataclass(frozen=True)
class Kind:
    """How a kind of load starts and runs: planning figures, grade D.

    ``start_x`` is a multiple of running **VA** for ``start_s`` seconds at
    ``start_pf``; ``floor_pct`` is the share of nominal voltage below which the
    start stalls (0 where nothing turns).
    """

    slug: str
    words: str
    start_x: float
    start_s: float
    pf: float
    start_pf: float
    floor_pct: float = 0.0
    wave: Wave = Wave.STEPPED


STALL_UNLOADED_PCT, STALL_LOADED_PCT, STALL_CAPACITOR_PCT = 70.0, 75.0, 85.0
"""Share of nominal volts a motor needs to start: unloaded; loaded; capacitor-start
compressors and anything behind a contactor. Trade figures, physics.md section 4."""

KINDS = {
    kind.slug: kind
    for kind in (
        Kind("heater", "heating element", 1.0, 0.0, 1.0, 1.0),
        Kind("filament", "filament lamp", 10.0, 0.05, 1.0, 1.0),
        Kind("electronic", "electronic supply", 10.0, 0.005, 0.80, 0.8, wave=Wave.ROUGH),
        Kind("motor", "motor, split-phase or capacitor start", 6.0, 0.4, 0.70, 0.5,
             STALL_CAPACITOR_PCT, Wave.ROUGH),
        Kind("motor_loaded", "motor under load at start", 6.0, 0.8, 0.80, 0.5,
             STALL_LOADED_PCT, Wave.ROUGH),
        Kind("compressor", "fixed-speed refrigerant compressor", 5.5, 0.4, 0.90, 0.5,
             STALL_CAPACITOR_PCT, Wave.ROUGH),
        Kind("compressor_soft", "refrigerant compressor with soft starter", 2.2, 1.0, 0.90, 0.6,
             STALL_CAPACITOR_PCT, Wave.ROUGH),
        Kind("compressor_inverter", "inverter-driven compressor", 1.1, 60.0, 0.95, 0.95,
             wave=Wave.ROUGH),
        Kind("universal", "universal motor", 2.5, 0.4, 0.95, 0.8, STALL_UNLOADED_PCT),
        Kind("fan", "fan or blower motor", 4.0, 2.0, 0.75, 0.5, STALL_UNLOADED_PCT, Wave.ROUGH),
        Kind("microwave", "microwave, transformer type", 1.8, 0.1, 0.90, 0.6, wave=Wave.ROUGH),
        Kind("welder", "welder, single-phase", 2.0, 0.5, 0.70, 0.7),
        Kind("furnace", "furnace or boiler sequence", 2.5, 1.0, 0.80, 0.6,
             STALL_CAPACITOR_PCT, Wave.SINE),
        Kind("medical", "medical device", 3.0, 0.4, 0.85, 0.6, STALL_CAPACITOR_PCT, Wave.SINE),
    )
}  # fmt: skip
"""Planning figures by kind (physics.md section 1). The last two stand for sequences
whose parts are planned one by one in a later version."""

MICROWAVE_INPUT_PER_COOKING_W = 1.5
"""Input watts of a transformer microwave per watt of cooking power."""
COLD_PICKUP_X = 3.0
"""First on-time of a thermostatic load after an outage, as a multiple of its usual one."""


def kind_of(slug: str) -> Kind:
    """Return the kind by its slug.

    Raises
    ------
    UnknownChoice
        If there is no such kind.
    """
    try:
        return KINDS[slug]
    except KeyError:
        raise UnknownChoice(f"no kind “{slug}”", where="kind", want=", ".join(KINDS)) from None


class Caller(StrEnum):
    """Who switches a load that comes and goes: its own thermostat, or somebody's hand."""

    ITSELF = "itself"
    HAND = "hand"

    @property
    def words(self) -> str:
        """The caller as it is written on screen."""
        return {"itself": "by itself", "hand": "by hand"}[self.value]


@dataclass(frozen=True)
class Duty:
    """A rhythm: ``on_min`` minutes on, ``off_min`` off; off 0 runs throughout.

    A load that calls by itself comes on at once after an outage; one used by
    hand does not.
    """

    on_min: float = 60.0
    off_min: float = 0.0
    caller: Caller = Caller.ITSELF

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
        """Whether it switches at all."""
        return self.off_min > 0


@dataclass(frozen=True)
class Load:
    """An appliance as it sits in this home.

    ``run_w`` and ``pf`` while running; ``start_va`` overrides the kind's
    planning start; ``hours`` are the hours of the day in which it may run.
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
    def start_total_va(self) -> float:
        """Apparent power at the start, the load's own running power included [VA]."""
        planned = self.kind_figures.start_x * self.run_va
        return max(planned if self.start_va is None else self.start_va, self.run_va)

    @property
    def start_s(self) -> float:
        """How long the start lasts [s]."""
        return self.kind_figures.start_s

    def has_start(self, hz: float) -> bool:
        """Whether its start lasts a cycle or more: a 5 ms electronic inrush is not a start."""
        return self.start_s * hz >= 1 and self.start_total_va > 1.05 * self.run_va

    @property
    def calls_at_once(self) -> bool:
        """Whether it comes on by itself when power returns."""
        return self.duty.caller is Caller.ITSELF

    @property
    def average_w(self) -> float:
        """Mean watts over the hours in which it may run [W]."""
        return self.run_w * self.duty.share

    @property
    def day_wh(self) -> float:
        """Energy of a whole day by its duty and hours [Wh]."""
        return self.average_w * len(self.hours)

    def share_on(self, leg: Leg) -> float:
        """Share of the load's power on a leg: 1, 0, or a half when it sits across both."""
        if self.leg is Leg.BOTH:
            return 0.5
        return 1.0 if self.leg is leg else 0.0


def short_name(load: Load) -> str:
    """A load's name up to its first comma."""
    return load.name.split(",")[0]


def start_order(loads: Iterable[Load]) -> tuple[Load, ...]:
    """Order of starts that keeps the highest moment lowest: by (start − run), largest first.

    Optimal for one scalar quantity, by exchange of neighbours: swapping two
    neighbours that stand the other way round never raises the peak.
    """
    return tuple(sorted(loads, key=lambda load: (load.run_va - load.start_total_va, load.key)))
