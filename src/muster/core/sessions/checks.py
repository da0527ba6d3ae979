"""The checks on entries (docs/method/entries.md): each flags and explains; none changes or drops anything."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from ..kit import QUANTITIES, Kit
from ..loads import Load, Wave
from ..quantities import duration, plain
from ..supply import System
from .model import Entry, Event, Reading, Session, Start, Switch
from .places import Place, Stat
from .replay import ENDS, LIVE_AGAIN

POWER_AGREES_PCT = 10.0
"""Volts × amps × power factor should come to the watts read within this share."""
KILO_RANGE = (100.0, 10_000.0)
"""Watts so many times too small for what is on by the loads were most likely said in kilowatts."""
KILO_LEAST_W = 150.0
BEYOND_X = 2.0
"""No source gives so many times its surge steadily."""
ENERGY_AGREES_PCT = 25.0
"""Energy counted should come to watts × time within this share: watts are read but now and then."""
ENERGY_LEAST_WH = 20.0
DISPLAY_GAP_PCT = 5.0
"""A gap between display and meter beyond their accuracies and this share is worth a word."""
CHARGE_STEP_PCT = 1.0
"""A gauge rounds to whole percents: a rise of more than this is a rise."""
FAR_OFF_NOMINAL_PCT = 25.0
"""A steady voltage or frequency so far from nominal was misread, or something is badly wrong."""
CLOCK_SAID = re.compile(r"^\s*\d{1,2}:\d{2}")
STEADY = (Stat.STEADY, Stat.SETTLED)
CHANGES_LIFE = ENDS | LIVE_AGAIN
"""Events after which the output is dead, or live again."""
STANDS = "stands"
"""The event by which somebody says that a flagged entry is right as it was read; its detail is the entry's number."""


@dataclass(frozen=True)
class Check:
    """A flag on an entry: ``what`` is odd, what to ``do``; ``confirmed`` by whom, if someone said it is right."""

    seq: int
    kind: str
    what: str
    do: str
    confirmed: str = ""


@dataclass(frozen=True)
class RecordContext:
    """What the checks know of the session's surroundings."""

    system: System
    loads: Mapping[str, Load]
    kit: Kit = field(default_factory=Kit)
    can_charge: bool = False
    most_w: float | None = None
    """The most that the nameplate claims, surge included; None where nobody said what the source is. [W]"""

    def told(self, reading: Reading) -> str:
        """A reading's figure with its unit."""
        return plain(reading.value, QUANTITIES[reading.measured][1] if reading.measured in QUANTITIES else "")

    def nominal(self, place: Place) -> float:
        """Nominal volts at a place."""
        return self.system.v_nominal * (2 if place is Place.TOTAL and self.system.legs == 2 else 1)


@dataclass(frozen=True)
class _Count:
    """Energy counted at a look [Wh], and what the gauge showed beside it [%], None where it was not read."""

    t_s: float
    wh: float
    pct: float | None


ONE_LOOK_S = 180.0
"""Display and meter read further apart than this were not read of one moment. [s]"""
CHARGER_PCT = 30.0
"""A charger loses no more than this: a display that shows so much less than the wall is beyond it."""
IDLE_MOST_W = 100.0
"""No source draws more for itself: what is counted on the battery's side may hold so much more than the loads. Ours."""
JUMP_X, JUMP_LEAST_PCT, JUMP_ABOVE_PCT = 1.5, 10.0, 10.0
"""Watt-hours a point above so many times the run's own, over so many points and not below so many shown, were misread
(physics §6)."""


@dataclass(frozen=True)
class _Jump:
    """A count that rose by more than the gauge fell for: since when, by how much, and what the run so far makes of it [Wh]."""

    since: _Count
    gained_wh: float
    expected_wh: float


def _gauge_in(entry: Entry) -> float | None:
    """What the gauge showed in an entry."""
    return next((r.value for r in _readings(entry) if r.quantity == "soc_pct" and r.stat in STEADY), None)


def jump_of(reading: Reading, entry: Entry, so_far: _SoFar) -> _Jump | None:
    """How far a count rose beyond what the gauge makes of it, None where it did not, or nobody can tell."""
    now = _gauge_in(entry)
    read = [count for count in so_far.course if count.pct is not None]
    if now is None or now < JUMP_ABOVE_PCT or len(read) < 2 or entry.t_s <= read[-1].t_s:
        return None
    first, last = read[0], read[-1]
    assert first.pct is not None
    assert last.pct is not None
    fell, before = last.pct - now, first.pct - last.pct
    if fell < JUMP_LEAST_PCT or before <= 0 or last.wh <= first.wh:
        return None
    expected_wh = (last.wh - first.wh) / before * fell
    gained_wh = reading.value - last.wh
    return _Jump(last, gained_wh, expected_wh) if gained_wh > JUMP_X * expected_wh else None


def beyond_loads(reading: Reading, entry: Entry, so_far: _SoFar) -> float | None:
    """The most that everything that was on since the last count could have drawn [Wh], where a count rose by far more; else None.

    Told only where every watt read since is one that these loads could draw: else something is on that nobody named;
    an idle draw is allowed for, which a count of the battery's own or a display's holds too.
    """
    before = so_far.counted.get(f"wh {reading.instrument}")
    named = {item.load for item in entry.items if isinstance(item, Switch)} | so_far.on_since
    if before is None or not named or not named <= set(so_far.load_w) or entry.t_s <= before[1].t_s:
        return None
    most_w = sum(so_far.load_w[key] for key in named) + IDLE_MOST_W
    watts = [w for t_s, w in so_far.powers if t_s >= before[1].t_s]
    watts += [r.value for r in _readings(entry) if r.quantity == "w" and not r.place.is_dc]
    if any(w > JUMP_X * most_w for w in watts):
        return None
    most_wh = most_w * (entry.t_s - before[1].t_s) / 3600
    gained_wh = reading.value - before[0].value
    return most_wh if gained_wh > JUMP_X * most_wh + ENERGY_LEAST_WH + reading.resolution else None


def beyond_watts(reading: Reading, entry: Entry, so_far: _SoFar) -> float | None:
    """What the most watts read of late come to since the last count [Wh], where a count rose by far more; else None.

    Told only where the watts were read at three looks or more that agree: then nothing large came and went between them.
    """
    before = so_far.counted.get(f"wh {reading.instrument}")
    watts = [w for _, w in so_far.powers[-LOOKS_AGREE:]]
    watts += [r.value for r in _readings(entry) if r.quantity == "w" and not r.place.is_dc and r.value > 0]
    if before is None or so_far.legs == 2 or len(watts) < LOOKS_AGREE or entry.t_s <= before[1].t_s:
        return None
    if max(watts) > LOOKS_ALIKE_X * min(watts):
        return None
    most_wh = max(watts) * (entry.t_s - before[1].t_s) / 3600
    gained_wh = reading.value - before[0].value
    return most_wh if gained_wh > JUMP_X * most_wh + ENERGY_LEAST_WH + reading.resolution else None


LOOKS_AGREE, LOOKS_ALIKE_X = 3, 1.25
"""Watts of so many looks within this factor of one another are of one load that stood. Ours."""


@dataclass
class _SoFar:
    """What stands at a moment of the record: what is on, what was read last, whether it tripped."""

    on: set[str] = field(default_factory=set)
    last: dict[tuple[str, Place], tuple[Reading, Entry]] = field(default_factory=dict)
    counted: dict[str, tuple[Reading, Entry]] = field(default_factory=dict)
    doubted: dict[str, float] = field(default_factory=dict)
    course: list[_Count] = field(default_factory=list)
    """The energy counted so far, each with the gauge beside it; the first is the zero at which the run began."""
    gauge: tuple[float, float] | None = None
    """When the gauge was last read, and what it showed."""
    powers: list[tuple[float, float]] = field(default_factory=list)
    on_since: set[str] = field(default_factory=set)
    """Every load that was on at any time since the last count."""
    load_w: Mapping[str, float] = field(default_factory=dict)
    """What each load draws, by its key. [W]"""
    legs: int = 1
    tripped_at: int = 0
    latest_t_s: float = 0.0
    latest_seq: int = 0

    def take(self, entry: Entry) -> None:
        """Move on past an entry; what was read of other loads is not held against what comes."""
        if switches(entry):
            self.last = {}
        for item in entry.items:
            if isinstance(item, Switch):
                (self.on.add if item.on else self.on.discard)(item.load)
                self.on_since.add(item.load)
            elif isinstance(item, Event) and item.name in CHANGES_LIFE:
                self.tripped_at = entry.seq if item.name in ENDS else 0
            elif isinstance(item, Reading) and item.believable:
                self._read(item, entry)
        self.latest_t_s, self.latest_seq = max(self.latest_t_s, entry.t_s), entry.seq

    def _read(self, reading: Reading, entry: Entry) -> None:
        if reading.stat not in STEADY:
            return
        self.last[(reading.quantity, reading.place)] = (reading, entry)
        if reading.quantity == "soc_pct":
            self.gauge = entry.t_s, reading.value
            if not self.course:
                self.course.append(_Count(entry.t_s, 0.0, reading.value))
        if reading.quantity in ("wh", "soc_pct"):
            self._count(f"{reading.quantity} {reading.instrument}", reading, entry)
        if reading.quantity == "w" and reading.place in (Place.TOTAL, Place.LEG1):
            self.powers.append((entry.t_s, reading.value))

    def _count(self, key: str, reading: Reading, entry: Entry) -> None:
        """A count moves on; one lower count is doubted, a second one after it means the meter was reset."""
        before = self.counted.get(key)
        told = (jump_of, beyond_loads, beyond_watts)
        if reading.quantity == "wh" and any(tells(reading, entry, self) for tells in told):
            return  # it is this entry that is wrong, and not the right one after it
        lower = reading.quantity == "wh" and before is not None and reading.value < before[0].value
        if lower and not self.was_reset(key, reading.value):
            self.doubted[key] = reading.value
            return
        self.counted[key] = (reading, entry)
        self.doubted.pop(key, None)
        if reading.quantity == "wh":
            self.course.append(_Count(entry.t_s, reading.value, _gauge_in(entry)))
            self.on_since = set(self.on)

    def was_reset(self, key: str, value: float) -> bool:
        """Whether a lower count follows on from one that was doubted."""
        return key in self.doubted and value >= self.doubted[key]


def switches(entry: Entry) -> bool:
    """Whether an entry changes what the source carries."""
    return any(
        isinstance(item, Switch | Start) or (isinstance(item, Event) and item.name in CHANGES_LIFE)
        for item in entry.items
    )


def _readings(entry: Entry) -> Iterator[Reading]:
    return (item for item in entry.items if isinstance(item, Reading))


def _cannot_be(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    for reading in _readings(entry):
        if not reading.believable:
            yield Check(
                entry.seq, "cannot be", f"{bench.told(reading)} cannot be", "read it again; it is kept but not used"
            )


def _range(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """Outside what the instrument reads, or through more amps than it is safe with."""
    for reading in _readings(entry):
        if not reading.believable or not reading.instrument:
            continue
        instrument = bench.kit.instrument_for(reading.measured, reading.instrument)
        measure = instrument.measure(reading.measured)
        if measure is None:
            words = QUANTITIES[reading.measured][0]
            yield Check(
                entry.seq, "instrument", f"the {instrument.name} does not read {words}", "say which instrument it was"
            )
        elif not measure.low <= reading.value <= measure.high:
            span = f"{measure.low:g} to {measure.high:g}"
            yield Check(
                entry.seq,
                "range",
                f"{bench.told(reading)} is outside what the {instrument.name} reads ({span})",
                "read it with an instrument of that range",
            )
        if reading.quantity == "a" and instrument.safe_a is not None and reading.value > instrument.safe_a:
            yield Check(
                entry.seq,
                "safe current",
                f"{bench.told(reading)} is more than the {instrument.safe_a:g} A that the {instrument.name} is safe with",
                "take the load off it and feel its plugs; use a clamp",
            )


def _expected_w(so_far: _SoFar, on: Iterable[str], bench: RecordContext, place: Place) -> float:
    """Watts at a place by the loads, for what is on."""
    share = {Place.LEG1: "1", Place.LEG2: "2"}.get(place)
    loads = [bench.loads[key] for key in on if key in bench.loads]
    if place is Place.TOTAL or bench.system.legs == 1 or share is None:
        return sum(load.run_w for load in loads)
    return sum(
        load.run_w * (1 if load.leg.value == share else 0.5 if load.leg.value == "both" else 0) for load in loads
    )


def _on_after(entry: Entry, so_far: _SoFar) -> set[str]:
    on = set(so_far.on)
    for item in entry.items:
        if isinstance(item, Switch):
            (on.add if item.on else on.discard)(item.load)
    return on


def _kilowatts(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """kW typed as W: about a thousand times too small for what is on."""
    for reading in _readings(entry):
        if reading.quantity not in ("w", "va") or reading.value <= 0 or reading.place.is_dc:
            continue
        expected_w = _expected_w(so_far, _on_after(entry, so_far), bench, reading.place)
        if expected_w >= KILO_LEAST_W and KILO_RANGE[0] < expected_w / reading.value < KILO_RANGE[1]:
            yield Check(
                entry.seq,
                "kW as W",
                f"{bench.told(reading)} with {plain(expected_w, 'w')} on by the loads: most likely kilowatts typed as watts",
                f"correct it to {plain(reading.value * 1000, 'w')} if so",
            )


def _beyond(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """So much more than the nameplate's surge that a digit, or a point, is likelier than the source."""
    if bench.most_w is None:
        return
    powers = [r for r in _readings(entry) if r.quantity in ("w", "va") and r.stat in STEADY and not r.place.is_dc]
    told = [(bench.told(reading), reading.value) for reading in powers]
    both_w = sum(
        {r.place: r.value for r in powers if r.quantity == "w" and r.place in (Place.LEG1, Place.LEG2)}.values()
    )
    for said, value in [*told, (f"{plain(both_w, 'w')} on both legs", both_w)]:
        if value > BEYOND_X * bench.most_w:
            yield Check(
                entry.seq,
                "beyond the nameplate",
                f"{said} is {value / bench.most_w:.0f} times the most that the nameplate claims, {plain(bench.most_w, 'w')}",
                "read it again: a digit or a decimal point slipped, or the nameplate was misread",
            )
            return


def _power(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """Volts × amps × power factor against watts, of one entry."""
    steady = {(r.quantity, r.place): r for r in _readings(entry) if r.stat in STEADY and r.believable}
    for place in (Place.LEG1, Place.LEG2, Place.TOTAL, Place.DC):
        volts, amps, watts = (steady.get((quantity, place)) for quantity in ("v", "a", "w"))
        if volts is None or amps is None or watts is None or watts.value <= 0:
            continue
        factor = steady.get(("pf", place)) or steady.get(("pf", Place.TOTAL))
        known = factor is not None or place.is_dc
        product = volts.value * amps.value * (factor.value if factor and not place.is_dc else 1.0)
        ratio = product / watts.value if watts.value else 0.0
        low = 1 - POWER_AGREES_PCT / 100
        if ratio < low or (known and ratio > 1 + POWER_AGREES_PCT / 100):
            least = "" if known else " at most"
            yield Check(
                entry.seq,
                "V × A × PF",
                f"volts × amps{' × PF' if factor else ''} come to{least} {plain(product, 'w')}, not {plain(watts.value, 'w')}",
                "read all of them again at one moment; one may be of another leg or another load",
            )


def _energy(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """Energy counted backwards, or not what watts and time come to."""
    for reading in _readings(entry):
        key = f"wh {reading.instrument}"
        before = so_far.counted.get(key) if reading.quantity == "wh" else None
        if before is not None and reading.value < before[0].value and so_far.was_reset(key, reading.value):
            continue
        if before is None or not reading.believable or entry.t_s <= before[1].t_s:
            continue
        gained_wh = reading.value - before[0].value
        if gained_wh < 0:
            yield Check(
                entry.seq,
                "energy backwards",
                f"{bench.told(reading)} is less than the {bench.told(before[0])} of entry {before[1].seq}",
                "read the count again: a digit slipped, or the meter was reset",
            )
            continue
        watts = [w for t_s, w in so_far.powers if before[1].t_s <= t_s <= entry.t_s]
        watts += [r.value for r in _readings(entry) if r.quantity == "w" and r.place in (Place.TOTAL, Place.LEG1)]
        if len(watts) < 2 or bench.system.legs == 2:
            continue
        expected_wh = sum(watts) / len(watts) * (entry.t_s - before[1].t_s) / 3600
        if expected_wh < ENERGY_LEAST_WH:
            continue
        if abs(gained_wh - expected_wh) > ENERGY_AGREES_PCT / 100 * expected_wh + reading.resolution:
            yield Check(
                entry.seq,
                "energy against watts",
                f"{plain(gained_wh, 'wh')} since entry {before[1].seq}, but the watts read come to {plain(expected_wh, 'wh')} "
                f"in {duration(entry.t_s - before[1].t_s)}",
                "read the count again; kWh and Wh are easily taken for each other",
            )


def _jump(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """A count that rose by more than the gauge beside it fell for: that entry was misread, not the one after it."""
    if bench.can_charge:
        return
    for reading in _readings(entry):
        jump = jump_of(reading, entry, so_far) if reading.quantity == "wh" and reading.stat in STEADY else None
        if jump is not None:
            yield Check(
                entry.seq,
                "energy jump",
                f"{plain(jump.gained_wh, 'wh')} in {duration(entry.t_s - jump.since.t_s)}, where by the gauge the run so far "
                f"makes it about {plain(jump.expected_wh, 'wh')}",
                "read the count again: a digit slipped; it is left out until you do, or say that it stands",
            )
            continue
        most_wh = beyond_loads(reading, entry, so_far) if reading.quantity == "wh" and reading.stat in STEADY else None
        if most_wh is not None:
            before = so_far.counted[f"wh {reading.instrument}"]
            yield Check(
                entry.seq,
                "energy jump",
                f"{plain(reading.value - before[0].value, 'wh')} in {duration(entry.t_s - before[1].t_s)}, where all that was on "
                f"and an idle draw come to {plain(most_wh, 'wh')} at most",
                "read the count again: a digit slipped, or kWh and Wh; it is left out until you do, or say that it stands",
            )
            continue
        by_watts_wh = (
            beyond_watts(reading, entry, so_far) if reading.quantity == "wh" and reading.stat in STEADY else None
        )
        if by_watts_wh is not None:
            before = so_far.counted[f"wh {reading.instrument}"]
            yield Check(
                entry.seq,
                "energy jump",
                f"{plain(reading.value - before[0].value, 'wh')} in {duration(entry.t_s - before[1].t_s)}, where the watts read "
                f"come to {plain(by_watts_wh, 'wh')} at most",
                "read the count again: a digit slipped, or kWh and Wh; it is left out until you do, or say that it stands",
            )


def _charge(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """A percentage that rises while discharging."""
    for reading in _readings(entry):
        before = so_far.counted.get(f"soc_pct {reading.instrument}") if reading.quantity == "soc_pct" else None
        if before is None or bench.can_charge or not (so_far.on or _on_after(entry, so_far)):
            continue
        if reading.value > before[0].value + CHARGE_STEP_PCT:
            yield Check(
                entry.seq,
                "charge rising",
                f"{bench.told(reading)} after {bench.told(before[0])} at entry {before[1].seq}, while discharging",
                "read it again; if it is right, say whether something was charging it: a gauge may also correct itself",
            )


def _time(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """A clock time said that lies before what was jotted before it."""
    if CLOCK_SAID.match(entry.raw) and entry.t_s < so_far.latest_t_s - 1 and entry.supersedes is None:
        back = duration(so_far.latest_t_s - entry.t_s)
        yield Check(
            entry.seq,
            "time backwards",
            f"its time is {back} before entry {so_far.latest_seq}",
            "correct the time, or leave it if it was jotted late",
        )


def _display(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """The source's own display against a meter."""
    for reading in _readings(entry):
        before = so_far.last.get((reading.quantity, reading.place))
        here = [
            (r, entry)
            for r in _readings(entry)
            if r is not reading and (r.quantity, r.place) == (reading.quantity, reading.place)
        ]
        if before is not None and entry.t_s - before[1].t_s > ONE_LOOK_S:
            before = None  # the load may have changed since
        for other, subject in [*here, *([before] if before else [])]:
            names = {reading.instrument, other.instrument}
            if (
                "display" not in names
                or len(names) < 2
                or (reading.instrument != "display" and other in [r for r, _ in here])
            ):
                continue
            if reading.stat not in STEADY or other.stat not in STEADY or (subject is not entry and switches(entry)):
                continue
            shown, metered = (reading, other) if reading.instrument == "display" else (other, reading)
            gap = shown.value - metered.value
            sure = sum(bench.kit.u(r.measured, r.instrument, r.value, r.resolution) for r in (shown, metered))
            if not metered.value or abs(gap) <= max(sure, DISPLAY_GAP_PCT / 100 * abs(metered.value)):
                continue
            if reading.quantity == "w" and bench.can_charge and -CHARGER_PCT < gap / metered.value * 100 < 0:
                continue  # the wall before the charger, the display after it: Findings says so
            why = ": it may show the DC side, losses included" if reading.quantity == "w" and gap > 0 else ""
            yield Check(
                entry.seq,
                "display against meter",
                f"the display says {bench.told(shown)}, the {bench.kit.instrument_for(metered.measured, metered.instrument).name} "
                f"{bench.told(metered)}: {plain(gap / metered.value * 100, 'pct')} apart{why}",
                "trust the meter; note what the display counts",
            )


def _after_trip(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """A live reading after a trip, with nobody having said that it is live again."""
    if not so_far.tripped_at or any(isinstance(item, Event) and item.name in CHANGES_LIFE for item in entry.items):
        return
    live = [r for r in _readings(entry) if r.quantity in ("v", "w", "a") and r.value > 0 and not r.place.is_dc]
    if live:
        yield Check(
            entry.seq,
            "after a trip",
            f"{bench.told(live[0])} read after the trip of entry {so_far.tripped_at}, and no reset was logged",
            "log !reset at the moment it came back, or correct the reading",
        )


def _peaks(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """A highest below the steady figure, or a lowest above it."""
    own = {(r.quantity, r.place): r for r in _readings(entry) if r.stat in (*STEADY, Stat.BEFORE)}
    for reading in _readings(entry):
        if reading.stat not in (Stat.HIGHEST, Stat.LOWEST):
            continue
        key = (reading.quantity, reading.place)
        earlier = None if switches(entry) else so_far.last.get(key)
        steady = own.get(key) or (earlier[0] if earlier else None)
        if steady is None:
            continue
        high = reading.stat is Stat.HIGHEST
        if (reading.value < steady.value) if high else (reading.value > steady.value):
            word, side = ("highest", "below") if high else ("lowest", "above")
            yield Check(
                entry.seq,
                "peak",
                f"a {word} of {bench.told(reading)} is {side} the steady {bench.told(steady)}",
                "a hold of the meter that was not cleared, or the two are of different things",
            )


def _nominal(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """Steady volts or hertz far from nominal."""
    for reading in _readings(entry):
        if reading.stat not in STEADY or not reading.believable or reading.value <= 0 or reading.place.is_dc:
            continue
        nominal = bench.nominal(reading.place) if reading.quantity == "v" else bench.system.hz
        if reading.quantity not in ("v", "hz") or reading.place is Place.NEUTRAL:
            continue
        if abs(reading.value / nominal - 1) * 100 > FAR_OFF_NOMINAL_PCT:
            yield Check(
                entry.seq,
                "far from nominal",
                f"{bench.told(reading)} steady is far from {plain(nominal, reading.quantity)}",
                "read it again; if it is right, switch off what can be harmed",
            )


def _slow_wave(entry: Entry, so_far: _SoFar, bench: RecordContext) -> Iterator[Check]:
    """An average-responding meter on a stepped wave."""
    for reading in _readings(entry):
        instrument = bench.kit.instrument_for(reading.measured, reading.instrument)
        if bench.kit.wave is Wave.STEPPED and bench.kit.reads_low(reading.measured, instrument):
            yield Check(
                entry.seq,
                "wave",
                f"the {instrument.name} responds to the average: on a stepped wave it reads some 9 % low",
                "use a true-RMS meter; the figure counts as indirect",
            )
            return


CheckKind = Callable[[Entry, _SoFar, RecordContext], Iterator[Check]]
KINDS: tuple[CheckKind, ...] = (
    _cannot_be,
    _range,
    _kilowatts,
    _beyond,
    _power,
    _energy,
    _jump,
    _charge,
    _time,
    _display,
    _after_trip,
    _peaks,
    _nominal,
    _slow_wave,
)


DECIDING_KINDS: tuple[CheckKind, ...] = (_cannot_be, _range, _kilowatts, _beyond, _power, _jump)
"""Those of the powers and counts that findings rest on."""
MISREADS = frozenset({"cannot be", "range", "kW as W", "beyond the nameplate", "V × A × PF", "energy jump"})
"""Checks that say a power or a count is most likely wrong: until it is confirmed nothing rests on it."""


def misread(checks: Iterable[Check]) -> frozenset[int]:
    """The entries that wait to be confirmed."""
    return frozenset(check.seq for check in checks if check.kind in MISREADS and not check.confirmed)


def check_session(session: Session, bench: RecordContext, kinds: Sequence[CheckKind] = KINDS) -> tuple[Check, ...]:
    """Every check of a session's effective entries, in the order they were jotted; of some ``kinds`` alone where these are named.

    Entries that were undone or superseded are not checked. A ``stands`` event
    naming an entry marks its checks as confirmed.
    """
    effective = sorted(session.effective, key=lambda entry: entry.seq)
    so_far, checks = _beginning(bench), list[Check]()
    for entry in effective:
        checks += _take(entry, so_far, bench, kinds)
    return _marked(checks, _said_right(effective))


def _beginning(bench: RecordContext) -> _SoFar:
    """Nothing read yet, on a bench whose loads are known; where it may charge, a count need not be of what they draw."""
    load_w = {} if bench.can_charge else {key: load.run_w for key, load in bench.loads.items()}
    return _SoFar(load_w=load_w, legs=bench.system.legs)


def _take(entry: Entry, so_far: _SoFar, bench: RecordContext, kinds: Sequence[CheckKind]) -> list[Check]:
    checks = [check for kind in kinds for check in kind(entry, so_far, bench)]
    so_far.take(entry)
    return checks


@dataclass
class CheckedSession:
    """The checks of a session that goes on: what was checked is not checked again when an entry is added."""

    bench: RecordContext
    voided: frozenset[int] = frozenset()
    entries: tuple[Entry, ...] = ()
    so_far: _SoFar = field(default_factory=_SoFar)
    checks: list[Check] = field(default_factory=list)
    said_right: dict[int, str] = field(default_factory=dict)

    def goes_on(self, session: Session, bench: RecordContext) -> bool:
        """Whether a session is this one with entries added that take nothing back."""
        count = len(self.entries)
        return (
            len(session.entries) >= count
            and (not count or session.entries[count - 1] is self.entries[-1])
            and session.voided == self.voided
            and bench == self.bench
        )

    def check(self, session: Session) -> tuple[Check, ...]:
        """Every check of the session, as ``check_session`` gives them."""
        last = self.entries[-1].seq if self.entries else 0
        if not self.entries:
            self.so_far = _beginning(self.bench)
        added = sorted((entry for entry in session.effective if entry.seq > last), key=lambda entry: entry.seq)
        for entry in added:
            self.checks += _take(entry, self.so_far, self.bench, KINDS)
        self.said_right |= _said_right(added)
        self.entries = session.entries
        return _marked(self.checks, self.said_right)

    def before(self, entry: Entry) -> tuple[Check, ...]:
        """The checks of an entry that is about to be jotted after all that was checked: ``check_entry`` without reading it all again."""
        return tuple(check for kind in KINDS for check in kind(entry, self.so_far, self.bench))


def _said_right(effective: Sequence[Entry]) -> dict[int, str]:
    """The entries that somebody said are right, with who said so."""
    return {
        int(item.detail): entry.who or "someone"
        for entry in effective
        for item in entry.items
        if isinstance(item, Event) and item.name == STANDS and item.detail.isdigit()
    }


def _marked(checks: Iterable[Check], said_right: Mapping[int, str]) -> tuple[Check, ...]:
    """The checks, each marked with who said that its entry is right."""
    return tuple(
        replace(check, confirmed=said_right[check.seq]) if check.seq in said_right else check for check in checks
    )


def check_entry(session: Session, entry: Entry, bench: RecordContext) -> tuple[Check, ...]:
    """The checks of one entry that is about to be jotted at the end of a session."""
    whole = replace(session, entries=(*session.entries, entry))
    return tuple(check for check in check_session(whole, bench) if check.seq == entry.seq)
