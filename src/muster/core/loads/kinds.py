"""How each kind of load starts, runs, and what it tolerates: planning figures, grade D."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from ..errors import UnknownChoice, require_above, require_between
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
    Part(name="inducer", run_w=70, pf=0.75, start_x=4.0, start_s=2.0),
    Part(name="igniter", run_w=330, pf=1.0, from_s=15.0, for_s=45.0),
    Part(name="blower", run_w=400, pf=0.75, from_s=90.0, start_x=4.0, start_s=2.0),
)
"""A furnace's call of heat: inducer throughout, a hot-surface igniter before the burner lights,
the blower once it is warm (usual timing of a control board; watts are scaled to the load's own)."""
RAMP_PARTS = (
    Part(name="creeps", run_w=40, pf=0.95),
    Part(name="ramps", run_w=20, pf=0.95, from_s=30.0),
    Part(name="ramps on", run_w=20, pf=0.95, from_s=60.0),
    Part(name="full speed", run_w=20, pf=0.95, from_s=90.0, start_x=1.5, start_s=30.0),
)
"""An inverter-driven compressor ramps up in 30 to 180 s (docs/method/loads.md#planning-figures); its last fifth
overshoots so that the whole reaches 1.1 × its running VA."""


@dataclass(frozen=True)
class Kind:
    """All that is known of a kind of load, in one row: planning figures, grade D; everything else is derived from it.

    ``start_x`` is a multiple of running **VA** for ``start_s`` seconds at
    ``start_pf``; ``floor_pct`` is the share of nominal voltage below which the
    start stalls (0 where nothing turns). ``parts`` is the shape of its run
    where that is not one level. What it tolerates: ``v_low_pct`` and
    ``v_high_pct`` off nominal and ``hz_pct`` either way, running; ``wave`` the
    poorest waveform; ``gap_ms`` the longest break that it does not notice;
    None where it does not mind. ``distorted`` and ``stepped`` say what such a
    wave means for it. ``plain_heat`` is a load that a stepped wave cannot
    harm; ``dry_hazard`` must not be switched on empty or dry; somebody depends
    on ``medical``. ``inrush``: what it draws at first is over in milliseconds or
    a few cycles and is no start that a source is judged on. ``hints`` are words in a name that tell the kind, each with
    its place among those of all kinds: the first that a name contains decides.
    For the twin: the time constant ``inrush_falls_s`` with
    which an inrush that is no motor's dies away, and whether it draws
    ``constant_power``.

    Raises
    ------
    OutOfRange
        If a figure is none that such a load can have.
    """

    slug: str
    label: str
    start_x: float
    start_s: float
    pf: float
    start_pf: float
    distorted: str
    stepped: str
    floor_pct: float = 0.0
    wave: Wave = Wave.STEPPED
    v_low_pct: float | None = MOTOR_V_PCT
    v_high_pct: float | None = MOTOR_V_PCT
    hz_pct: float | None = MOTOR_HZ_PCT
    gap_ms: float | None = None
    parts: tuple[Part, ...] = ()
    plain_heat: bool = False
    dry_hazard: bool = False
    medical: bool = False
    hints: tuple[tuple[int, str], ...] = ()
    inrush_falls_s: float = 0.0
    inrush: bool = False
    constant_power: bool = False

    def __post_init__(self) -> None:
        require_between(self.start_x, 1, MOST_START_X, "start_x")
        require_between(self.start_s, 0, MOST_START_S, "start_s")
        for name in ("pf", "start_pf"):
            require_between(require_above(getattr(self, name), 0, name), 0, 1, name)
        require_between(self.floor_pct, 0, 100, "floor_pct")
        require_between(self.inrush_falls_s, 0, MOST_START_S, "inrush_falls_s")

    @property
    def turns(self) -> bool:
        """Whether a motor starts in it, which a soft starter could ease."""
        return self.floor_pct > 0


MOST_START_X, MOST_START_S = 15.0, 120.0
"""No load starts with more, or for longer. Ours: a false entry of the table is found as it is read."""
STALL_UNLOADED_PCT, STALL_LOADED_PCT, STALL_CAPACITOR_PCT = 70.0, 75.0, 85.0
"""Share of nominal volts a motor needs to start: unloaded; loaded; capacitor-start
compressors and anything behind a contactor. Trade figures, docs/method/loads.md#planning-figures."""

MOST_UNKNOWN_X = 6.0
"""What nobody said the kind of may start with anything from its running VA to so many times it."""

KINDS = {
    kind.slug: kind
    for kind in (
        Kind(
            slug="heater",
            label="heating element",
            hints=((2, "heater"), (3, "oven"), (3, "heat gun"), (3, "hair dryer"), (3, "hairdryer")),
            start_x=1.0,
            start_s=0.0,
            pf=1.0,
            start_pf=1.0,
            v_low_pct=None,
            hz_pct=None,
            distorted="no matter",
            stepped="no matter for plain heat; a thermostat clock by zero crossings runs wrong",
            plain_heat=True,
            dry_hazard=True,
        ),
        Kind(
            slug="filament",
            label="filament lamp",
            hints=((7, "lamp"), (7, "bulb")),
            start_x=10.0,
            start_s=0.05,
            pf=1.0,
            start_pf=1.0,
            v_low_pct=None,
            hz_pct=None,
            distorted="no matter",
            stepped="no matter",
            plain_heat=True,
            inrush_falls_s=0.02,
            inrush=True,
        ),
        Kind(
            slug="electronic",
            label="electronic supply",
            start_x=10.0,
            start_s=0.005,
            pf=0.80,
            start_pf=0.8,
            wave=Wave.ROUGH,
            hz_pct=None,
            gap_ms=ITIC_GAP_MS,
            distorted="dimmers hum and cheap chargers warm up on it",
            stepped="most chargers refuse or run hot; dimmers and touch lamps fail",
            hints=tuple(
                (12, word)
                for word in (
                    "tv",
                    "television",
                    "telly",
                    "computer",
                    "laptop",
                    "modem",
                    "router",
                    "wifi",
                    "charger",
                    "phone",
                    "led",
                    "leds",
                    "light",
                    "lights",
                    "lighting",
                    "radio",
                    "alarm",
                    "camera",
                    "cameras",
                    "monitor",
                    "printer",
                    "console",
                    "stereo",
                )
            ),
            inrush_falls_s=0.002,
            inrush=True,
            constant_power=True,
        ),
        Kind(
            slug="motor",
            label="motor, split-phase or capacitor start",
            hints=((5, "freezer"), (6, "fridge"), (11, "motor")),
            start_x=6.0,
            start_s=0.4,
            pf=0.70,
            start_pf=0.5,
            floor_pct=STALL_CAPACITOR_PCT,
            wave=Wave.ROUGH,
            distorted="runs a little warmer",
            stepped="runs hot and hums: a capacitor-run motor may burn its capacitor",
        ),
        Kind(
            slug="motor_loaded",
            label="motor under load at start",
            hints=((1, "pump"), (10, "compressor")),
            start_x=6.0,
            start_s=0.8,
            pf=0.80,
            start_pf=0.5,
            floor_pct=STALL_LOADED_PCT,
            wave=Wave.ROUGH,
            distorted="runs a little warmer",
            stepped="runs hot, starts worse, hums",
        ),
        Kind(
            slug="compressor",
            label="fixed-speed refrigerant compressor",
            start_x=5.5,
            start_s=0.4,
            pf=0.90,
            start_pf=0.5,
            floor_pct=STALL_CAPACITOR_PCT,
            wave=Wave.ROUGH,
            distorted="runs a little warmer",
            stepped="runs hot; its maker will not stand by it",
        ),
        Kind(
            slug="compressor_soft",
            label="refrigerant compressor with soft starter",
            start_x=2.2,
            start_s=1.0,
            pf=0.90,
            start_pf=0.6,
            floor_pct=STALL_CAPACITOR_PCT,
            wave=Wave.ROUGH,
            distorted="runs a little warmer",
            stepped="its soft starter may not find its zero crossings",
        ),
        Kind(
            slug="compressor_inverter",
            label="inverter-driven compressor",
            start_x=1.1,
            start_s=30.0,
            pf=0.95,
            start_pf=0.95,
            wave=Wave.ROUGH,
            parts=RAMP_PARTS,
            distorted="its rectifier draws peaks",
            stepped="its input filter overheats: do not",
            inrush_falls_s=10.0,
            constant_power=True,
        ),
        Kind(
            slug="universal",
            label="universal motor",
            hints=(
                (0, "circular saw"),
                (0, "mitre saw"),
                (0, "miter saw"),
                (0, "chop saw"),
                (0, "reciprocating saw"),
                (0, "jigsaw"),
                (0, "hammer drill"),
                (0, "rotary hammer"),
                (0, "angle grinder"),
                (0, "grinder"),
                (0, "planer"),
                (0, "sander"),
                (0, "vacuum"),
                (0, "blender"),
                (0, "food processor"),
                (0, "hedge trimmer"),
                (0, "leaf blower"),
                (8, "saw"),
                (9, "drill"),
            ),
            start_x=2.5,
            start_s=0.4,
            pf=0.95,
            start_pf=0.8,
            floor_pct=STALL_UNLOADED_PCT,
            distorted="no matter",
            stepped="speed control by phase fails; else it runs",
        ),
        Kind(
            slug="fan",
            label="fan or blower motor",
            hints=((4, "fan"),),
            start_x=4.0,
            start_s=2.0,
            pf=0.75,
            start_pf=0.5,
            floor_pct=STALL_UNLOADED_PCT,
            wave=Wave.ROUGH,
            distorted="hums",
            stepped="hums loudly and runs hot",
        ),
        Kind(
            slug="microwave",
            label="microwave, transformer type",
            start_x=1.8,
            start_s=0.1,
            pf=0.90,
            start_pf=0.6,
            wave=Wave.ROUGH,
            distorted="less heat, more hum",
            stepped="much less heat for the watts it draws, and it hums: see the heating check",
            dry_hazard=True,
            inrush_falls_s=0.04,
        ),
        Kind(
            slug="welder",
            label="welder, single-phase",
            start_x=2.0,
            start_s=0.5,
            pf=0.70,
            start_pf=0.7,
            distorted="less arc",
            stepped="do not",
            inrush_falls_s=0.2,
        ),
        Kind(
            slug="furnace",
            label="furnace or boiler sequence",
            start_x=2.5,
            start_s=1.0,
            pf=0.80,
            start_pf=0.6,
            floor_pct=STALL_CAPACITOR_PCT,
            wave=Wave.SINE,
            parts=SEQUENCE_PARTS,
            distorted="its board counts zero crossings and may fault",
            stepped="its flame sensing and board are likely to fault",
        ),
        Kind(
            slug="unknown",
            label="kind not said",
            start_x=MOST_UNKNOWN_X,
            start_s=0.8,
            pf=0.80,
            start_pf=0.5,
            distorted="not known until its kind is said",
            stepped="not known until its kind is said",
            wave=Wave.SINE,
        ),
        Kind(
            slug="medical",
            label="medical device",
            start_x=3.0,
            start_s=0.4,
            pf=0.85,
            start_pf=0.6,
            floor_pct=STALL_CAPACITOR_PCT,
            wave=Wave.SINE,
            gap_ms=ITIC_GAP_MS,
            distorted="ask its maker first",
            stepped="not on this: have another supply",
            medical=True,
        ),
    )
}
"""Planning figures by kind (docs/method/loads.md#planning-figures). ``start_x`` of a kind with parts is left to
its parts. A medical device's figures are ours: ask its booklet, and never test it on a person."""

SOFT_START_X, SOFT_START_S, SOFT_START_PF = 2.2, 1.0, 0.6
"""A motor behind a soft starter: multiple of running VA, how long, power factor (docs/method/loads.md#planning-figures)."""
MICROWAVE_INPUT_PER_COOKING_W = 1.5
"""Input watts of a transformer microwave per watt of cooking power."""
COLD_PICKUP_X = 3.0
"""First on-time of a thermostatic load after an outage, as a multiple of its usual one."""


HINTS = tuple(
    (word, slug)
    for _, word, slug in sorted((place, word, kind.slug) for kind in KINDS.values() for place, word in kind.hints)
)
"""Words in the name of a load that tell its kind, in the order in which they are looked for."""
SHORT_WORD = 3
"""Words so short tell a kind only as a whole word: a *tv* is none in *outvent*."""
UNKNOWN_KIND = "unknown"
"""What a load is taken for whose name tells nothing."""


def hint_in(name: str) -> tuple[str, str] | None:
    """The word of a name, in small letters, that tells its kind, and the kind; None where none does."""
    whole = f" {name} "
    hits = [(word, slug) for word, slug in HINTS if f" {word} " in whole or f" {word}s " in whole]
    if hits:
        return max(hits, key=lambda hit: len(hit[0].split()))
    return next(((word, slug) for word, slug in HINTS if len(word) > SHORT_WORD and word in name), None)


def kind_by_name(name: str) -> str:
    """The kind that a load is taken for by its name, in small letters: its slug.

    The longest run of words decides, so that a circular saw is no band saw;
    a name that tells nothing has no kind until somebody says one.
    """
    if name in KINDS:
        return name
    hint = hint_in(name)
    return hint[1] if hint else UNKNOWN_KIND


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
