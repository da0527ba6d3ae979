"""A clipboard page filled by hand, typed in afterwards: its rows become entries in the order of the plan."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ..errors import MusterError, OutOfRange
from ..plan.changes import BETWEEN_S, SWITCH_S, switched
from ..supply import System
from .model import Event, EventName, Item, Note, Reading, Start, Step, Switch
from .places import Place, Stat
from .protocols import PROTOCOLS, Box

OUTCOMES = {"held": "started and held", "stall": "stalled", "trip": "took the source down"}
START_BOXES = (("v", Stat.BEFORE), ("v", Stat.LOWEST), ("v", Stat.SETTLED), ("a", Stat.HIGHEST))


def boxes_of(protocol: str, system: System) -> tuple[Box, ...]:
    """The boxes of a row, in the order of the printed page: what the protocol reads by leg, then of the whole source."""
    legs, two = [Place(leg.value) for leg in system.leg_names], system.legs == 2
    if protocol == "starts":
        return tuple(Box(quantity, place, stat, two) for place in legs for quantity, stat in START_BOXES)
    known = PROTOCOLS[protocol]
    extra = known.boxes
    if PROTOCOLS[protocol].reads_mains:
        place = Place.TOTAL if two else Place.LEG1
        return (Box("w", place, leg_said=False), *extra)
    if protocol == "noise_walk":
        return extra
    boxes = [Box(quantity, place, leg_said=two) for place in legs for quantity in ("w", "v") if quantity in known.reads]
    if protocol == "legs":
        boxes += [Box("a", place, leg_said=two) for place in legs]
    return (*boxes, *([Box("hz", Place.NONE)] if "hz" in known.reads else []), *extra)


def look_boxes_of(protocol: str, system: System) -> tuple[Box, ...]:
    """The columns of a page of looks: what the protocol reads, and nothing besides; by leg, then the rest."""
    known, two = PROTOCOLS[protocol], system.legs == 2
    if protocol == "starts":
        return boxes_of(protocol, system)
    legs = [Place(leg.value) for leg in system.leg_names]
    if known.reads_mains or protocol in ("endurance", "parallel"):
        legs = [Place.TOTAL if two else Place.LEG1]
    boxes = [Box(q, place, leg_said=two) for place in legs for q in ("w", "v", "a", "pf") if q in known.reads]
    side = Place.PANELS if protocol == "solar_input" else Place.DC
    boxes += [Box(q, side) for q in ("v", "a", "w") if f"dc_{q}" in known.reads]
    boxes += [Box(q, Place.NONE) for q in ("hz", "soc_pct", "wh", "dba", "temp_c") if q in known.reads]
    had = {box.name for box in boxes}
    stats = {(box.quantity, box.place) for box in known.boxes if box.stat is not Stat.STEADY}
    boxes = [box for box in boxes if (box.quantity, box.place) not in stats]
    return (*boxes, *(box for box in known.boxes if box.name not in had))


@dataclass(frozen=True)
class Look:
    """One look at the instruments: when by the words on the page (empty: with the row above), figures by box, how far off [m], words."""

    when: str
    figures: Mapping[str, float]
    words: str = ""
    distance_m: float | None = None

    @property
    def empty(self) -> bool:
        """Whether nothing was filled in."""
        return not (self.figures or self.words.strip() or self.when.strip())


def look_items(look: Look, boxes: Sequence[Box], instruments: Mapping[str, str]) -> tuple[Reading, ...]:
    """The readings of a look."""
    return tuple(
        Reading(
            quantity=box.quantity,
            value=look.figures[box.name],
            place=box.place,
            stat=box.stat,
            instrument=instruments.get(box.name, ""),
            distance_m=look.distance_m if box.quantity == "dba" else None,
        )
        for box in boxes
        if box.name in look.figures
    )


@dataclass(frozen=True)
class FilledRow:
    """A step as it was filled in: figures by box, minutes held,
    when it was read [min after the session began; None: as planned], words, and how a start ended."""

    figures: Mapping[str, float]
    held_min: float | None = None
    minutes: float | None = None
    label: str = ""
    outcome: str = ""

    @property
    def empty(self) -> bool:
        """Whether nothing was filled in."""
        return not (self.figures or self.label.strip() or self.held_min is not None or self.outcome)


@dataclass(frozen=True)
class Typed:
    """What a row comes to: items, and seconds after the session began."""

    items: tuple[Item, ...]
    t_s: float


def typed_in(
    protocol: str,
    steps: Sequence[Step],
    rows: Sequence[FilledRow],
    boxes: Sequence[Box],
    instruments: Mapping[str, str],
    from_s: float = 0.0,
) -> tuple[Typed, ...]:
    """The entries of a filled page: at each step its loads are switched, held, read, and the step is done.

    A step left empty is done without an entry of its own, so that what
    follows stands at its own step. A row is read when it says, else as
    planned; a hold that was filled in ends with its reading. ``instruments``
    name what each box was read with, by the name of the box.

    Raises
    ------
    MusterError
        If nothing at all was filled in, or there are more rows than steps.
    OutOfRange
        If a time goes back.
    """
    if all(row.empty for row in rows):
        raise MusterError("nothing was filled in", where="rows", want="at least one figure")
    if len(rows) > len(steps):
        raise MusterError(f"got {len(rows)} rows for {len(steps)} steps", where="rows", want="a row a step")
    at = from_s
    on: tuple[str, ...] = ()
    typed_items = []
    for number, (step, row, count) in enumerate(zip(steps, rows, switched(steps), strict=False), 1):
        if row.empty:
            typed_items.append(Typed((Event(EventName.STEP),), at))
            continue
        held_s = (row.held_min or 0.0) * 60
        switched_s = at + SWITCH_S * count
        read_s = switched_s + max(BETWEEN_S, held_s) if row.minutes is None else from_s + row.minutes * 60
        if read_s < at:
            raise OutOfRange(
                f"step {number} at {row.minutes:g} min", where=f"minutes_{number}", want="not before the step above it"
            )
        switched_s = max(at, min(switched_s, read_s - held_s))
        starts = protocol == "starts" and bool(step.loads)
        wanted = step.loads[:-1] if starts else step.loads
        hold = (Event(EventName.HOLD),) if held_s else ()
        typed_items.append(Typed((*_switches(on, wanted), *hold), switched_s))
        read = _read(step, row, boxes, instruments)
        typed_items.append(Typed(_start(step, row, read) if starts else read, read_s))
        typed_items.append(Typed((Event(EventName.STEP),), read_s))
        at, on = read_s, wanted
    return tuple(typed for typed in typed_items if typed.items)


def _switches(on: Sequence[str], wanted: Sequence[str]) -> tuple[Switch, ...]:
    off = [Switch(key, on=False) for key in on if key not in wanted]
    return (*off, *(Switch(key, on=True) for key in wanted if key not in on))


def _start(step: Step, row: FilledRow, read: Sequence[Item]) -> tuple[Item, ...]:
    """A start of the step's last load with what was read of it; held unless it was said otherwise or nothing settled."""
    settled = any(isinstance(item, Reading) and item.stat is Stat.SETTLED for item in read)
    ended = row.outcome or ("held" if settled else "")
    outcome = (Event(ended),) if ended else ()
    return (Start(step.loads[-1], step.hot), *read, *outcome)


def _read(step: Step, row: FilledRow, boxes: Sequence[Box], instruments: Mapping[str, str]) -> tuple[Item, ...]:
    items: list[Item] = []
    for box in boxes:
        value = row.figures.get(box.name)
        if value is None:
            continue
        reading = Reading(quantity=box.quantity, value=value, place=box.place, stat=box.stat)
        if box.quantity == "dba" and step.background:
            reading = replace(reading, stat=Stat.BACKGROUND)
        elif box.quantity == "dba" and step.distance_m is not None:
            reading = replace(reading, distance_m=step.distance_m)
        items.append(replace(reading, instrument=instruments.get(box.name, "")))
    words = row.label.strip()
    return (*items, Note(words)) if words else tuple(items)
