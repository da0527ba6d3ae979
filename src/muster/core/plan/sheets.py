"""The plan: a protocol planned for this house and this source, with what each step should read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..brief import Home
from ..character.character import Character
from ..kit import QUANTITIES, Kit
from ..loads import Load
from ..quantities import Grade, Value, number, plain
from ..sessions import PROTOCOLS, Place, Protocol, Step
from ..sessions.protocols import PracticeQuestion
from ..sources import Source, SourceKind
from ..supply import Leg
from ..timeline.traces import Channel
from ..trade.schools import QUESTIONS, Schools, answer
from . import TestDuration, estimate, names_of
from .changes import BETWEEN_S, SWITCH_S, switched

BAND_PCT = {Grade.A: 3.0, Grade.B: 6.0, Grade.C: 10.0, Grade.D: 25.0}
"""How far a load's watts may lie from the load's figure, by the figure's grade (planning figures)."""
STEADY_V_PCT = {True: 5.0, False: 3.0}
"""Steady voltage of an engine set (ISO 8528-5, class G1) and of an inverter, percent of nominal either way."""
ENGINE_HZ_PCT = (-4.0, 4.0)
"""Frequency of a mechanical governor set right at half load: droop 8 % (ISO 8528-5, class G1)."""
INVERTER_HZ_PCT = (-0.5, 0.5)
STOP_ALWAYS = ("smell, smoke, or a lead too warm to hold", "a sound that changes", "anybody who says stop")


@dataclass(frozen=True)
class Predicted:
    """What a ``channel`` should read: from ``low`` to ``high``, and what that rests on."""

    label: str
    low: float
    high: float
    unit: str
    grade: Grade
    channel: Channel

    @property
    def told(self) -> str:
        """As the plan shows it."""
        if round(self.low, 1) == round(self.high, 1):
            return plain(self.low, self.unit)
        return f"{number(self.low, self.unit)}–{plain(self.high, self.unit)}"


@dataclass(frozen=True)
class SheetStep:
    """A step with its loads by name, how long it takes, and what it should read."""

    step: Step
    loads: str
    minutes: float
    predicted: tuple[Predicted, ...]


@dataclass(frozen=True)
class PlanSheet:
    """A protocol planned: what for, what it needs, step by step, when to stop, whose school."""

    protocol: Protocol
    steps: tuple[SheetStep, ...]
    kit: tuple[str, ...]
    lacking: tuple[str, ...]
    people: int
    stop: tuple[str, ...]
    schools: tuple[PracticeQuestion, ...]
    estimate: TestDuration | None = None

    @property
    def minutes(self) -> float:
        """How long it takes by its steps, or as the protocol usually does where they do not say."""
        if self.estimate is not None:
            return self.estimate.seconds / 60
        return max(
            sum(step.minutes for step in self.steps),
            self.protocol.minutes if not any(s.step.hold_s for s in self.steps) else 0.0,
        )


def build_sheet(
    protocol: str, home: Home, source: Source, steps: Sequence[Step], kit: Kit, character: Character | None = None
) -> PlanSheet:
    """Plan a protocol: each step's watts by the loads, its volts and hertz by what was measured, else by the kind of source.

    ``character`` is what earlier sessions showed of the source.
    """
    row = PROTOCOLS[protocol]
    wanted = row.reads
    able = {quantity: next((i.name for i in kit.instruments if i.measure(quantity)), None) for quantity in wanted}
    return PlanSheet(
        protocol=row,
        steps=tuple(
            _planned(protocol, step, count, home, source, character)
            for step, count in zip(steps, switched(steps), strict=True)
        ),
        kit=tuple(dict.fromkeys(f"{name} for {_all_of(able, name)}" for name in able.values() if name)),
        lacking=tuple(QUANTITIES[quantity][0] for quantity, name in able.items() if name is None),
        people=row.people,
        stop=(*row.stop_at, *STOP_ALWAYS),
        schools=tuple(_taken(item, home.brief.schools) for item in row.practice),
        estimate=estimate(protocol, home, source),
    )


def _taken(item: PracticeQuestion, schools: Schools) -> PracticeQuestion:
    """A question as this job takes it, where it is one of its settings."""
    field = next((name for name, (question, _) in QUESTIONS.items() if question == item.question), None)
    if field is None:
        return item
    taken = answer(getattr(schools, field))
    return PracticeQuestion(item.question, taken.label, taken.follows)


def _all_of(able: Mapping[str, str | None], name: str) -> str:
    return ", ".join(QUANTITIES[quantity][0] for quantity, by in able.items() if by == name)


def _planned(
    protocol: str, step: Step, switchings: int, home: Home, source: Source, character: Character | None
) -> SheetStep:
    on = [home.by_key[key] for key in step.loads if key in home.by_key]
    minutes = (step.hold_s + BETWEEN_S + SWITCH_S * switchings) / 60
    known = bool(on) or step.target_w == 0
    predicted = _predict(protocol, on, home, source, character) if known else ()
    return SheetStep(step, names_of(step, home.every), minutes, predicted)


def _predict(
    protocol: str, on: Sequence[Load], home: Home, source: Source, character: Character | None
) -> tuple[Predicted, ...]:
    """Watts and volts of each leg, and hertz; on the mains the watts alone."""
    system = home.brief.system
    predicteds: list[Predicted] = []
    for leg in system.leg_names:
        share = {load.key: 1.0 if system.legs == 1 else load.share_on(leg) for load in on}
        watts = sum(load.run_w * share[load.key] for load in on)
        spread = sum(load.run_w * share[load.key] * BAND_PCT[load.run_grade] / 100 for load in on)
        grade = max((load.run_grade for load in on if share[load.key]), default=Grade.A)
        word = "" if system.legs == 1 else f" {leg.label}"
        predicteds.append(
            Predicted(
                label=f"watts{word}",
                low=max(0.0, watts - spread),
                high=watts + spread,
                unit="w",
                grade=grade,
                channel=Channel("w", Place(leg.value)),
            )
        )
        if protocol != "baseline":
            predicteds.append(_volts(f"volts{word}", leg, watts, system.v_nominal, source, character))
    if protocol != "baseline":
        predicteds.append(_hertz(sum(load.run_w for load in on), home, source, character))
    return tuple(predicteds)


def _volts(
    words: str, leg: Leg, watts: float, nominal: float, source: Source, character: Character | None
) -> Predicted:
    channel = Channel("v", Place(leg.value))
    read = character.volts_at(leg.value, watts) if character is not None else None
    if read is not None:
        return _as_read(words, read, channel)
    half = STEADY_V_PCT[source.kind is SourceKind.OPEN_FRAME] / 100 * nominal
    return Predicted(label=words, low=nominal - half, high=nominal + half, unit="v", grade=Grade.D, channel=channel)


def _as_read(words: str, read: Value, channel: Channel) -> Predicted:
    u = read.u or 0.0
    return Predicted(
        label=words, low=read.value - u, high=read.value + u, unit=read.unit, grade=Grade.B, channel=channel
    )


def _hertz(watts: float, home: Home, source: Source, character: Character | None) -> Predicted:
    hz = home.brief.system.hz
    read = character.hertz_at(watts) if character is not None else None
    if read is not None:
        return _as_read("hertz", read, Channel("hz"))
    if source.kind is not SourceKind.OPEN_FRAME:
        return Predicted(
            label="hertz",
            low=hz * (1 + INVERTER_HZ_PCT[0] / 100),
            high=hz * (1 + INVERTER_HZ_PCT[1] / 100),
            unit="hz",
            grade=Grade.D,
            channel=Channel("hz"),
        )
    fall = (ENGINE_HZ_PCT[1] - ENGINE_HZ_PCT[0]) / 100 * hz
    middle = hz * (1 + ENGINE_HZ_PCT[1] / 100) - fall * min(1.5, watts / source.claims.cont_w)
    return Predicted(
        label="hertz", low=middle - 0.02 * hz, high=middle + 0.02 * hz, unit="hz", grade=Grade.D, channel=Channel("hz")
    )
