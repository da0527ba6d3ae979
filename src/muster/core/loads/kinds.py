"""How each kind of load starts, runs, and what it tolerates: planning figures, grade D."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from ..errors import UnknownChoice
from .parts import Part


class Wave(StrEnum):
    """The poorest waveform a load is content with, or a source gives."""

    SINE = "sine"
    ROUGH = "rough sine"
    STEPPED = "stepped"


THD_LIMIT_PCT = {Wave.SINE: 5.0, Wave.ROUGH: 8.0}
"""THD that still counts as the class. 8 %: EN 50160; 5 %: IEEE 519 for a clean supply."""


MOTOR_V_PCT, MOTOR_HZ_PCT = 10.0, 5.0
"""Motors tolerate ±10 % of nominal volts and ±5 % of nominal hertz (NEMA MG 1-12.44)."""
ITIC_GAP_MS = 20.0
"""The longest break of supply that electronics ride through (ITIC envelope)."""

SEQUENCE_PARTS = (
    Part("inducer", 70, 0.75, start_x=4.0, start_s=2.0),
    Part("igniter", 330, 1.0, 15.0, 45.0),
    Part("blower", 400, 0.75, 90.0, start_x=4.0, start_s=2.0),
)
"""A furnace's call of heat: inducer throughout, a hot-surface igniter before the burner lights,
the blower once it is warm (usual timing of a control board; watts are scaled to the load's own)."""
RAMP_PARTS = (
    Part("creeps", 40, 0.95),
    Part("ramps", 20, 0.95, 30.0),
    Part("ramps on", 20, 0.95, 60.0),
    Part("full speed", 20, 0.95, 90.0, start_x=1.5, start_s=30.0),
)
"""An inverter-driven compressor ramps up in 30 to 180 s (physics.md section 1); its last fifth
overshoots so that the whole reaches 1.1 × its running VA."""


@dataclass(frozen=True)
class Kind:
    """How a kind of load starts and runs: planning figures, grade D.

    ``start_x`` is a multiple of running **VA** for ``start_s`` seconds at
    ``start_pf``; ``floor_pct`` is the share of nominal voltage below which the
    start stalls (0 where nothing turns). ``parts`` is the shape of its run
    where that is not one level. What it tolerates: ``v_low_pct`` and
    ``v_high_pct`` off nominal and ``hz_pct`` either way, running; ``wave`` the
    poorest waveform; ``gap_ms`` the longest break that it does not notice;
    None where it does not mind.
    """

    slug: str
    label: str
    start_x: float
    start_s: float
    pf: float
    start_pf: float
    floor_pct: float = 0.0
    wave: Wave = Wave.STEPPED
    v_low_pct: float | None = MOTOR_V_PCT
    v_high_pct: float | None = MOTOR_V_PCT
    hz_pct: float | None = MOTOR_HZ_PCT
    gap_ms: float | None = None
    parts: tuple[Part, ...] = ()

    @property
    def turns(self) -> bool:
        """Whether a motor starts in it, which a soft starter could ease."""
        return self.floor_pct > 0


STALL_UNLOADED_PCT, STALL_LOADED_PCT, STALL_CAPACITOR_PCT = 70.0, 75.0, 85.0
"""Share of nominal volts a motor needs to start: unloaded; loaded; capacitor-start
compressors and anything behind a contactor. Trade figures, physics.md section 4."""

KINDS = {
    kind.slug: kind
    for kind in (
        Kind("heater", "heating element", 1.0, 0.0, 1.0, 1.0, v_low_pct=None, hz_pct=None),
        Kind("filament", "filament lamp", 10.0, 0.05, 1.0, 1.0, v_low_pct=None, hz_pct=None),
        Kind("electronic", "electronic supply", 10.0, 0.005, 0.80, 0.8, wave=Wave.ROUGH, hz_pct=None, gap_ms=ITIC_GAP_MS),
        Kind("motor", "motor, split-phase or capacitor start", 6.0, 0.4, 0.70, 0.5,
             STALL_CAPACITOR_PCT, Wave.ROUGH),
        Kind("motor_loaded", "motor under load at start", 6.0, 0.8, 0.80, 0.5,
             STALL_LOADED_PCT, Wave.ROUGH),
        Kind("compressor", "fixed-speed refrigerant compressor", 5.5, 0.4, 0.90, 0.5,
             STALL_CAPACITOR_PCT, Wave.ROUGH),
        Kind("compressor_soft", "refrigerant compressor with soft starter", 2.2, 1.0, 0.90, 0.6,
             STALL_CAPACITOR_PCT, Wave.ROUGH),
        Kind("compressor_inverter", "inverter-driven compressor", 1.1, 30.0, 0.95, 0.95,
             wave=Wave.ROUGH, parts=RAMP_PARTS),
        Kind("universal", "universal motor", 2.5, 0.4, 0.95, 0.8, STALL_UNLOADED_PCT),
        Kind("fan", "fan or blower motor", 4.0, 2.0, 0.75, 0.5, STALL_UNLOADED_PCT, Wave.ROUGH),
        Kind("microwave", "microwave, transformer type", 1.8, 0.1, 0.90, 0.6, wave=Wave.ROUGH),
        Kind("welder", "welder, single-phase", 2.0, 0.5, 0.70, 0.7),
        Kind("furnace", "furnace or boiler sequence", 2.5, 1.0, 0.80, 0.6,
             STALL_CAPACITOR_PCT, Wave.SINE, parts=SEQUENCE_PARTS),
        Kind("medical", "medical device", 3.0, 0.4, 0.85, 0.6, STALL_CAPACITOR_PCT, Wave.SINE, gap_ms=ITIC_GAP_MS),
    )
}  # fmt: skip
"""Planning figures by kind (physics.md section 1). ``start_x`` of a kind with parts is left to
its parts. A medical device's figures are ours: ask its booklet, and never test it on a person."""

SOFT_START_X, SOFT_START_S, SOFT_START_PF = 2.2, 1.0, 0.6
"""A motor behind a soft starter: multiple of running VA, how long, power factor (physics.md section 1)."""
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
