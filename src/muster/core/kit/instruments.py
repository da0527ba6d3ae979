"""The kit: what each instrument can see, and what it must have missed."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from ..errors import MusterError, OutOfRange, UnknownChoice, require_above, require_between
from ..loads import Wave
from ..quantities import THIN, UNIT_WORDS, Bound, plain

QUANTITIES = {
    "v": ("volts", "v"),
    "a": ("amps", "a"),
    "w": ("watts", "w"),
    "va": ("volt-amperes", "va"),
    "pf": ("power factor", "pf"),
    "hz": ("frequency", "hz"),
    "wh": ("energy", "wh"),
    "dba": ("sound level", "dba"),
    "dc_v": ("DC volts", "v"),
    "dc_a": ("DC amps", "a"),
    "dc_w": ("DC watts", "w"),
    "soc_pct": ("state of charge", "pct"),
    "temp_c": ("temperature", "c"),
    "fuel_l": ("fuel", "l"),
    "rpm": ("speed", "rpm"),
    "gap_ms": ("gap", "ms"),
    "water_kg": ("water", "kg"),
    "heat_s": ("heating time", "s"),
    "thd_pct": ("distortion", "pct"),
    "clock_s": ("a mains clock in a minute", "s"),
}
"""What an instrument can read: in words, and the unit suffix it is written with."""


@dataclass(frozen=True)
class Measure:
    """What an instrument reads of one quantity: lowest and highest figure, and how true it is.

    Accuracy is ``accuracy_pct`` of reading plus ``accuracy_abs`` in the reading's own unit.
    """

    quantity: str
    low: float
    high: float
    accuracy_pct: float = 0.0
    accuracy_abs: float = 0.0

    def __post_init__(self) -> None:
        if self.quantity not in QUANTITIES:
            raise UnknownChoice(f"no quantity “{self.quantity}”", where="quantity", want=", ".join(QUANTITIES))
        if not self.low < self.high:
            raise OutOfRange(f"got {self.low:g} to {self.high:g}", where="high", want="the range must rise")
        require_between(self.accuracy_pct, 0, 100, "accuracy_pct")
        require_between(self.accuracy_abs, 0, 1e6, "accuracy_abs")

    @property
    def label(self) -> str:
        """Its range and accuracy as a booklet writes them: ``volts 0 to 300 V ± 1 %``."""
        name, suffix = QUANTITIES[self.quantity]
        parts = [plain(self.accuracy_pct, "pct")] if self.accuracy_pct else []
        parts += [f"{self.accuracy_abs:g}{THIN}{UNIT_WORDS[suffix]}".strip()] if self.accuracy_abs else []
        sure = f" ±{THIN}{' + '.join(parts)}" if parts else ""
        return f"{name} {self.low:g} to {self.high:,.10g}{THIN}{UNIT_WORDS[suffix]}".replace(",", THIN).rstrip() + sure

    def u(self, value: float, resolution: float = 0.0) -> float:
        """Half-width of the uncertainty of one reading, in the reading's unit."""
        return abs(value) * self.accuracy_pct / 100 + self.accuracy_abs + resolution / 2


@dataclass(frozen=True)
class Apart:
    """How far an instrument was found to read from the others, as a share: it widens whatever hangs on that quantity."""

    quantity: str
    share: float

    def __post_init__(self) -> None:
        require_between(self.share, 0, 1, "share")


HANGS_ON = {"w": "v", "va": "v", "wh": "v"}
"""Quantities made of volts: a meter whose volts stand apart has these as far off."""


@dataclass(frozen=True)
class Instrument:
    """An instrument: a figure every ``refresh_s`` over a window of ``window_s``.

    With ``max_hold`` it keeps the highest and lowest window by itself, between
    refreshes too. ``true_rms`` is False for one that responds to the average.
    ``crest`` is the highest crest factor it reads truly, ``bandwidth_hz`` the
    highest frequency; ``safe_a`` the most amps it may be put through. None
    where nobody said. ``calibrated`` is the date on its certificate, ``checked``
    when it was held against the others (ISO 8601), ``apart`` where it stood apart then.
    """

    slug: str
    name: str
    reads: tuple[Measure, ...]
    refresh_s: float = 1.0
    window_s: float = 1.0
    max_hold: bool = False
    true_rms: bool = True
    crest: float | None = None
    bandwidth_hz: float | None = None
    safe_a: float | None = None
    note: str = ""
    calibrated: str = ""
    checked: str = ""
    apart: tuple[Apart, ...] = ()

    def __post_init__(self) -> None:
        if not re.fullmatch(r"[a-z][a-z0-9_-]{0,19}", self.slug):
            raise MusterError(
                f"got “{self.slug}”", where="slug", want="a short word to say after @: letters, digits, a dash"
            )
        if not self.name.strip():
            raise MusterError("an instrument needs a name", where="name", want="such as “clamp meter”")
        require_between(require_above(self.refresh_s, 0, "refresh_s"), 0, 86400, "refresh_s")
        require_between(require_above(self.window_s, 0, "window_s"), 0, 86400, "window_s")
        for name, low in (("crest", 1), ("bandwidth_hz", 0), ("safe_a", 0)):
            value = getattr(self, name)
            if value is not None:
                require_between(value, low, 1e7, name)

    def measure(self, quantity: str) -> Measure | None:
        """How it reads a quantity, None if it does not."""
        return next((measure for measure in self.reads if measure.quantity == quantity), None)

    def apart_share(self, quantity: str) -> float:
        """How far a quantity may be off by what the cross-check found, as a share."""
        of = HANGS_ON.get(quantity, quantity)
        return max((gap.share for gap in self.apart if gap.quantity == of), default=0.0)

    @property
    def traits(self) -> tuple[str, ...]:
        """What else is known of it, in words."""
        told = [
            "holds highest and lowest" if self.max_hold else "",
            "" if self.true_rms else "responds to the average: reads low on a stepped wave",
            "" if self.crest is None else f"crest factor up to {self.crest:g}",
            "" if self.bandwidth_hz is None else f"up to {self.bandwidth_hz:g}{THIN}Hz",
            *(f"stood {plain(gap.share * 100, 'pct')} apart in {QUANTITIES[gap.quantity][0]}" for gap in self.apart),
            f"calibrated {self.calibrated}" if self.calibrated else "",
            f"cross-checked {self.checked}" if self.checked else "",
            "" if self.safe_a is None else f"never more than {self.safe_a:g}{THIN}A",
        ]
        return tuple(words for words in told if words)

    @property
    def extreme_refresh_s(self) -> float:
        """How often its highest and lowest are renewed: without a pause when it holds them by itself."""
        return min(self.window_s, self.refresh_s) if self.max_hold else self.refresh_s


def _m(quantity: str, high: float, pct: float = 0.0, absolute: float = 0.0, low: float = 0.0) -> Measure:
    return Measure(quantity, low, high, pct, absolute)


USUAL_KIT = (
    Instrument(
        slug="meter",
        name="panel meter",
        reads=(
            _m("v", 300, 1),
            _m("a", 100, 1),
            _m("w", 25_000, 1.5),
            _m("va", 25_000, 1.5),
            _m("pf", 1, 0, 0.02),
            _m("hz", 70, 0, 0.1, 40),
            _m("wh", 1e7, 1.5),
        ),
        refresh_s=1.0,
        window_s=0.2,
        bandwidth_hz=1000,
        safe_a=100,
    ),
    Instrument(
        slug="plug",
        name="plug-in meter",
        reads=(
            _m("v", 280, 1),
            _m("a", 16, 1.5),
            _m("w", 3700, 2),
            _m("va", 3700, 2),
            _m("pf", 1, 0, 0.03),
            _m("hz", 70, 0, 0.2, 40),
            _m("wh", 1e7, 2),
        ),
        refresh_s=1.0,
        window_s=0.2,
        bandwidth_hz=1000,
        safe_a=16,
    ),
    Instrument(
        slug="clamp",
        name="clamp meter with inrush hold",
        reads=(_m("a", 400, 2, 0.2), _m("dc_a", 400, 2, 0.5, -400)),
        refresh_s=0.1,
        window_s=0.1,
        max_hold=True,
        crest=3,
        bandwidth_hz=400,
        safe_a=400,
    ),
    Instrument(
        slug="multimeter",
        name="multimeter with min/max hold",
        reads=(_m("v", 1000, 0.8, 0.2), _m("hz", 1000, 0, 0.02), _m("dc_v", 1000, 0.5, 0.02, -1000)),
        refresh_s=0.1,
        window_s=0.1,
        max_hold=True,
        crest=3,
        bandwidth_hz=1000,
        safe_a=10,
    ),
    Instrument(
        slug="scope",
        name="scope with an isolated probe",
        reads=(
            _m("v", 1000, 2),
            _m("a", 1000, 3),
            _m("hz", 1000, 0, 0.01),
            _m("gap_ms", 60_000, 0, 1),
            _m("thd_pct", 200, 5, 0.3),
        ),
        refresh_s=0.01,
        window_s=0.02,
        max_hold=True,
        bandwidth_hz=100_000,
    ),
    Instrument(
        slug="sound",
        name="sound level meter, slow",
        reads=(_m("dba", 130, 0, 1.5, 30),),
        refresh_s=1.0,
        window_s=1.0,
        max_hold=True,
    ),
    Instrument(
        slug="display",
        name="the source's own display",
        reads=(
            _m("v", 300, 3),
            _m("a", 100, 3),
            _m("w", 25_000, 3),
            _m("hz", 70, 0, 0.5, 40),
            _m("wh", 1e7, 5),
            _m("soc_pct", 100, 0, 3),
            _m("dc_v", 600, 1),
            _m("dc_a", 500, 3, 0, -500),
            _m("dc_w", 25_000, 3, 0, -25_000),
            _m("rpm", 6000, 1),
        ),
        refresh_s=1.0,
        window_s=1.0,
    ),
    Instrument(
        slug="thermometer",
        name="contact thermometer",
        reads=(_m("temp_c", 300, 0, 1, -40),),
        refresh_s=1.0,
        window_s=1.0,
    ),
    Instrument(
        slug="recorder",
        name="power recorder",
        reads=(
            _m("v", 600, 0.3),
            _m("a", 100, 0.5),
            _m("w", 50_000, 0.8),
            _m("va", 50_000, 0.8),
            _m("pf", 1, 0, 0.01),
            _m("hz", 70, 0, 0.02, 40),
            _m("wh", 1e7, 0.8),
            _m("dc_v", 600, 0.3),
            _m("dc_a", 500, 0.8, 0, -500),
            _m("dc_w", 50_000, 1, 0, -50_000),
            _m("soc_pct", 100, 0, 3),
        ),
        refresh_s=0.2,
        window_s=0.2,
        max_hold=True,
        crest=4,
        bandwidth_hz=5000,
        safe_a=100,
    ),
    Instrument(
        slug="scales",
        name="kitchen scales and a watch",
        reads=(_m("water_kg", 10, 0, 0.01), _m("heat_s", 86_400, 0, 2), _m("clock_s", 90, 0, 0.5, 30)),
        refresh_s=1.0,
        window_s=1.0,
    ),
    Instrument(slug="dipstick", name="measuring can", reads=(_m("fuel_l", 1000, 3),), refresh_s=60.0, window_s=60.0),
)
"""The usual kit: what such instruments are commonly good for. The first that reads a quantity is
the one a reading is from when nobody says."""
UNKNOWN_INSTRUMENT = Instrument(
    slug="unknown",
    name="an instrument not in the kit",
    reads=tuple(Measure(quantity, -1e9, 1e9, 5.0) for quantity in QUANTITIES),
    refresh_s=1.0,
    window_s=1.0,
)
"""Stands for an instrument that is named but not described: ±5 %, and slow."""
AVERAGE_ON_STEPPED_PCT = 9.3
"""How much an average-responding meter reads low on a three-level wave with 2/3 conduction:
1 − (π/2√2)·(2/3) ÷ √(2/3); docs/method/events.md#what-a-meter-is-sure-to-see."""


@dataclass(frozen=True)
class Kit:
    """The instruments at hand, and the waveform they are read on."""

    instruments: tuple[Instrument, ...] = USUAL_KIT
    wave: Wave = Wave.SINE

    def named(self, word: str) -> Instrument | None:
        """The instrument whose word or name begins so, None if there is none."""
        low = word.lower()
        if not low:
            return None
        exact = (i for i in self.instruments if i.slug == low)
        begun = (i for i in self.instruments if i.slug.startswith(low) or i.name.lower().startswith(low))
        return next(exact, None) or next(begun, None)

    def usual_for(self, quantity: str) -> Instrument:
        """The first instrument that reads a quantity: whose reading it is when nobody says."""
        return next((i for i in self.instruments if i.measure(quantity)), UNKNOWN_INSTRUMENT)

    def instrument_for(self, quantity: str, slug: str = "") -> Instrument:
        """The instrument a reading names, the usual one for its quantity, or a stranger under its name."""
        if not slug:
            return self.usual_for(quantity)
        known = next((i for i in self.instruments if i.slug == slug), None)
        return known or replace(UNKNOWN_INSTRUMENT, name=f"{slug}, not in the kit")

    def reads_low(self, quantity: str, instrument: Instrument) -> bool:
        """Whether the instrument responds to the average and the wave is stepped: its figure is too low."""
        return not instrument.true_rms and self.wave is Wave.STEPPED and quantity in ("v", "a")

    def u(self, quantity: str, slug: str, value: float, resolution: float = 0.0) -> float:
        """Half-width of the uncertainty of one reading, in the reading's unit.

        What stood apart from the others at the last cross-check is wider by that share.
        A figure too low for its waveform is wider by what such a meter misses;
        one that the instrument does not claim to read has a stranger's accuracy.
        """
        instrument = self.instrument_for(quantity, slug)
        measure = instrument.measure(quantity) or UNKNOWN_INSTRUMENT.measure(quantity)
        if measure is None:
            raise UnknownChoice(f"no quantity “{quantity}”", where="quantity", want=", ".join(QUANTITIES))
        low = abs(value) * AVERAGE_ON_STEPPED_PCT / 100 if self.reads_low(quantity, instrument) else 0.0
        return measure.u(value, resolution) + low + abs(value) * instrument.apart_share(quantity)


def sure_held_s(window_s: float, refresh_s: float, event_s: float) -> float:
    """Seconds of an event that one window of a meter is sure to hold.

    ``max(0, min(W, d, (W + d - T) / 2))``: a window of W s, refreshed each
    T s, against an event of d s that falls as unluckily as it can.

    Raises
    ------
    OutOfRange
        If window or refresh is not above zero or the event is negative.
    """
    require_above(window_s, 0, "window_s")
    require_above(refresh_s, 0, "refresh_s")
    if event_s < 0:
        raise OutOfRange(f"got {event_s:g}", where="event_s", want="must be 0 or more")
    return max(0.0, min(window_s, event_s, (window_s + event_s - refresh_s) / 2))


def sees_whole(instrument: Instrument, event_s: float | None) -> bool:
    """Whether an instrument is sure to see an event's extreme: ``d >= W + T``.

    An event of unknown length is never sure to be seen.
    """
    return event_s is not None and event_s >= instrument.window_s + instrument.extreme_refresh_s


def bound_of(instrument: Instrument, event_s: float | None, *, lowest: bool) -> Bound | None:
    """Which way an extreme errs: a dip was at least this deep, a surge at least this high."""
    if sees_whole(instrument, event_s):
        return None
    return Bound.AT_MOST if lowest else Bound.AT_LEAST
