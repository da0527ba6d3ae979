"""Regulation and droop: voltage and frequency against load."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from ..fits import Line, fit_line, student_t
from ..quantities import Grade, Value, number, plain, signed
from ..sessions import Place, Stat
from ..sessions.replay import BenchRecord, Segment
from ..supply import System
from ..timeline.power import is_same_level
from ..timeline.traces.features import SteadyPoint, TraceFeatures
from ..working import Method, Working, rows_of
from .finding import Finding, Topic
from .under_load import since_set, under_load

UNIT_NAMES = {"v": "V", "hz": "Hz"}
UNSTEADY_SHARE = 0.0005
"""By how much of nominal a source is unsteady from one look to the next: a standard deviation, ours."""
PRIOR_FREEDOM = 1
"""So many readings' worth is that known before any: with three points alone a line's own scatter says next to nothing."""


@dataclass(frozen=True)
class LinePoint:
    """A steady reading ``y`` at a load ``w`` [W], with its entry; ``digit`` is the last digit it was read to."""

    w: float
    y: float
    u: float
    seq: int
    digit: float = 0.0


@dataclass(frozen=True)
class LoadLine:
    """A quantity against load: the points, the line through them, and the finding told from it.

    ``place`` is the leg it belongs to; ``unit`` is ``v`` or ``hz``.
    """

    place: Place
    unit: str
    nominal: float
    points: tuple[LinePoint, ...]
    line: Line
    finding: Finding

    @property
    def u_reading(self) -> float:
        """Typical half-width of one reading's uncertainty."""
        return max(point.u for point in self.points)

    @property
    def digit(self) -> float:
        """The last digit of the coarsest reading."""
        return max(point.digit for point in self.points)

    def band(self, w: float) -> float:
        """Half-width of the 95 % band of the line at a load, by its own scatter and by what sources are unsteady by.

        References
        ----------
        Confidence of the mean response, its variance pooled with a prior one; docs/method/starts.md#lines-of-volts-and-hertz.
        """
        line = self.line
        return self._spread * math.sqrt(1 / line.n + (w - line.x_mean) ** 2 / line.sxx)

    @property
    def u_slope(self) -> float:
        """Half-width of the slope, in the line's unit a watt: its scatter, and the meter's scale in the fall."""
        line = self.line
        scatter, fall = self._spread / math.sqrt(line.sxx), abs(line.b) * self.u_reading / self.nominal
        return math.hypot(scatter, fall)

    @property
    def _spread(self) -> float:
        """Student's t times the standard deviation of one reading about the line."""
        own = max(0, self.line.n - 2)
        prior = math.hypot(UNSTEADY_SHARE * self.nominal, self.digit / math.sqrt(12))
        freedom = PRIOR_FREEDOM + own
        s = math.sqrt((PRIOR_FREEDOM * prior**2 + own * (self.line.s or 0.0) ** 2) / freedom)
        return student_t(freedom) * s

    def u_at(self, w: float) -> float:
        """Half-width of what is known of the line at a load: band and instrument together."""
        return math.hypot(self.u_reading, self.band(w))


def _points(
    record: BenchRecord, quantity: str, places: Sequence[Place], watts: Callable[[Segment], float | None]
) -> tuple[LinePoint, ...]:
    """One point a level since it was last set: the last steady reading of each, against the watts of its moment."""
    line_points: list[LinePoint] = []
    for segment in since_set(record):
        if segment.bogged_seq and watts(segment) is None:
            continue  # what it bogged to is no steady state, and of no load that was read
        of_stretch: list[LinePoint] = []
        for seq, _, reading, w in under_load(segment, watts, quantity):
            steady = reading.stat in (Stat.STEADY, Stat.SETTLED) and reading.place in places
            if reading.quantity != quantity or not steady or w is None or reading.value <= 0:
                continue
            if of_stretch and is_same_level(w, of_stretch[-1].w):
                of_stretch.pop()
            of_stretch.append(LinePoint(w, reading.value, record.u(reading), seq, reading.resolution))
        line_points += of_stretch
    return tuple(line_points)


def _sentence(title: str, ends: tuple[str, str], top: str, pct: float) -> str:
    """What an owner understands; a change too small to be read is none."""
    if ends[0] == ends[1]:
        return f"{title} stays at {ends[0]} from no load to {top}."
    fell = "falls" if pct > 0 else "rises"
    return f"{title} {fell} from {ends[0]} at no load to {ends[1]} at {top}: {plain(abs(pct), 'pct')}."


def _worked(line: Line, points: Sequence[LinePoint], unit: str, nominal: float, name: str) -> tuple[Working, ...]:
    top_w = line.x_high
    y0, y1 = line.at(0), line.at(top_w)
    return (
        Working(
            "least squares line through the steady readings",
            f"{line.n} points from {plain(line.x_low, 'w')} to {plain(line.x_high, 'w')}",
            f"{plain(y0, unit)} with no load, {signed(line.b * 1000, unit)} for each kW",
            "ordinary least squares, 95 % band of the line",
            rows_of(Method.LINE, ("kW", UNIT_NAMES[unit]), ((p.w / 1000, p.y) for p in points)),
        ),
        Working(
            f"{name} % = (no load − at {plain(top_w, 'w')}) ÷ nominal × 100",
            f"({y0:.3f} − {y1:.3f}) ÷ {number(nominal, unit)} × 100",
            plain((y0 - y1) / nominal * 100, "pct"),
            "share of nominal, as in ISO 8528-5" if unit == "hz" else "share of nominal",
        ),
    )


def _load_line(
    points: tuple[LinePoint, ...],
    place: Place,
    unit: str,
    nominal: float,
    topic: Topic,
    title: str,
    log: TraceFeatures | None = None,
) -> LoadLine | None:
    if len({round(point.w) for point in points}) < 2:
        return None
    line = fit_line([p.w for p in points], [p.y for p in points])
    pct = (line.at(0) - line.at(line.x_high)) / nominal * 100
    y0, y1 = line.at(0), line.at(line.x_high)
    sentence = _sentence(title, (plain(y0, unit), plain(y1, unit)), plain(line.x_high, "w"), pct)
    needs = "" if len(points) > 2 else "a third load, which shows whether it is a line at all (Ladder)"
    finding = Finding(
        key=f"{topic}-{place.value}{'-log' if log else ''}",
        topic=topic,
        title=f"{topic.capitalize()}{', ' + place.label if place is not Place.TOTAL else ''}{', from the log' if log else ''}",
        sentence=sentence,
        value=Value(pct, "pct", None, grade=Grade.A),
        workings=_worked(line, points, unit, nominal, topic),
        seqs=tuple(point.seq for point in points if point.seq),
        needs=needs,
        span=log.span if log else None,
        log=log.name if log else "",
    )
    made = LoadLine(place=place, unit=unit, nominal=nominal, points=points, line=line, finding=finding)
    u_pct = made.u_slope * line.x_high / nominal * 100
    return replace(made, finding=replace(finding, value=replace(finding.value, u=u_pct)))


def regulation(record: BenchRecord, system: System) -> tuple[LoadLine, ...]:
    """Voltage against load of each leg: regulation in % of nominal from no load to the most measured.

    A leg counts when its volts and watts were read at two loads or more.
    """
    load_lines = []
    for leg in system.leg_names:
        place = Place(leg.value)
        points = _points(record, "v", (place,), lambda segment, place=place: segment.place_w(place))  # type: ignore[misc]
        title = "Voltage" if system.legs == 1 else f"Leg {leg.value} voltage"
        line = _load_line(points, place, "v", system.v_nominal, Topic.REGULATION, title)
        if line is not None:
            load_lines.append(line)
    return tuple(load_lines)


def _logged(
    record: BenchRecord, log: TraceFeatures, quantity: str, points: Sequence[SteadyPoint]
) -> tuple[LinePoint, ...]:
    """The steady points of a log; each is as sure as its instrument and its own scatter."""
    return tuple(LinePoint(p.w, p.y, record.kit.u(quantity, log.instrument, p.y) + p.scatter, 0) for p in points)


def regulation_logged(record: BenchRecord, system: System, log: TraceFeatures) -> tuple[LoadLine, ...]:
    """Voltage against load of each leg, from the steady stretches of a log."""
    lines = []
    for place, points in log.volts.items():
        title = "Voltage" if system.legs == 1 else f"Leg {place.value} voltage"
        logged = _logged(record, log, "v", points)
        lines.append(_load_line(logged, place, "v", system.v_nominal, Topic.REGULATION, title, log))
    return tuple(line for line in lines if line is not None)


def droop_logged(record: BenchRecord, system: System, log: TraceFeatures) -> LoadLine | None:
    """Frequency against the whole load, from the steady stretches of a log."""
    points = _logged(record, log, "hz", log.hertz)
    return _load_line(points, Place.TOTAL, "hz", system.hz, Topic.DROOP, "Frequency", log)


def droop(record: BenchRecord, system: System) -> LoadLine | None:
    """Frequency against the whole load: droop in % of nominal from no load to the most measured."""
    places = (Place.NONE, Place.TOTAL, Place.LEG1)
    points = _points(record, "hz", places, lambda segment: segment.total_w(system.legs))
    return _load_line(points, Place.TOTAL, "hz", system.hz, Topic.DROOP, "Frequency")
