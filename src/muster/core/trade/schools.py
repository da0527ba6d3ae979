"""Where practitioners differ: each question a setting of the job, with what follows from every answer."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

from ..loads import Load


class HowHard(StrEnum):
    """How hard to test."""

    RATING = "rating"
    SURGE = "surge"
    PROTECTION = "protection"


class SetPointSchool(StrEnum):
    """Which load is to have the nominal frequency."""

    HALF = "half"
    THREE_QUARTERS = "three_quarters"
    MOST_USED = "most_used"
    LEAST_WORST = "least_worst"

    @property
    def label(self) -> str:
        """The school as it is written on screen."""
        return ANSWERS[type(self)][self].label

    @property
    def follows(self) -> str:
        """What follows from it."""
        return ANSWERS[type(self)][self].follows


class MotorOrder(StrEnum):
    """Big motor first or last."""

    LARGEST_FIRST = "largest_first"
    LARGEST_LAST = "largest_last"


class SurgeFrom(StrEnum):
    """What the start of a motor is reckoned from that nobody measured."""

    NAMEPLATE = "nameplate"
    MULTIPLE = "multiple"
    MEASURED = "measured"


class SteppedWave(StrEnum):
    """What a stepped waveform is good for."""

    ACCEPT = "accept"
    REFUSE = "refuse"


class SoftStarters(StrEnum):
    """Whether soft starters count."""

    WITH = "with"
    WITHOUT = "without"


class CapacityTest(StrEnum):
    """Which run says what a battery gives."""

    BOTH = "both"
    SLOW = "slow"
    FAST = "fast"


class UsableOf(StrEnum):
    """What usable energy is a share of."""

    RATED = "rated"
    RECHARGE = "recharge"


class NoiseBy(StrEnum):
    """What noise is judged by."""

    LADDER = "ladder"
    AT_7M = "at_7m"
    AT_NEIGHBOUR = "at_neighbour"


@dataclass(frozen=True)
class SchoolTold:
    """How an answer is written on screen, and what follows from it."""

    label: str
    follows: str


ANSWERS: dict[type[StrEnum], dict[StrEnum, SchoolTold]] = {
    HowHard: {
        HowHard.RATING: SchoolTold(
            "to the rating only", "the trip point stays unknown; nothing is worn beyond its claim"
        ),
        HowHard.SURGE: SchoolTold("to the claimed surge", "the claim is tried; how long it holds beyond stays unknown"),
        HowHard.PROTECTION: SchoolTold(
            "until protection acts", "the hold-time curve is known; wear and heat are the source's"
        ),
    },
    SetPointSchool: {
        SetPointSchool.HALF: SchoolTold("right at half load", "as far above at no load as below at full load"),
        SetPointSchool.THREE_QUARTERS: SchoolTold(
            "right at three quarters", "true when it works hard, fast when it idles"
        ),
        SetPointSchool.MOST_USED: SchoolTold(
            "right at the load most used", "true for most of the day, whatever that is worth at its ends"
        ),
        SetPointSchool.LEAST_WORST: SchoolTold(
            "least worst over the day", "the largest error of the home's own day is as small as it can be"
        ),
    },
    MotorOrder: {
        MotorOrder.LARGEST_FIRST: SchoolTold(
            "largest first, onto an empty source", "the highest moment is as low as it can be"
        ),
        MotorOrder.LARGEST_LAST: SchoolTold(
            "creep up, largest last", "the base-load case is proved; the moment is higher than it need be"
        ),
    },
    SurgeFrom: {
        SurgeFrom.NAMEPLATE: SchoolTold(
            "locked-rotor amps or code letter, else a multiple", "the maker's own figure where there is one"
        ),
        SurgeFrom.MULTIPLE: SchoolTold(
            "a multiple of running watts", "one rule for all; single motors lie far on either side"
        ),
        SurgeFrom.MEASURED: SchoolTold(
            "measured only", "a start that nobody read is not proven, whatever the nameplate says"
        ),
    },
    SteppedWave: {
        SteppedWave.ACCEPT: SchoolTold(
            "accepted for plain heat and what does not mind", "the penalty is told; what wants a sine is refused"
        ),
        SteppedWave.REFUSE: SchoolTold("refused", "a stepped wave falls short for every home"),
    },
    SoftStarters: {
        SoftStarters.WITH: SchoolTold("assessed with them", "the verdict holds only while they are fitted and work"),
        SoftStarters.WITHOUT: SchoolTold(
            "assessed without, as the worst case", "with one fitted it can only get better"
        ),
    },
    CapacityTest: {
        CapacityTest.BOTH: SchoolTold("both, the nearest in load counts", "idle and conversion loss are told apart"),
        CapacityTest.SLOW: SchoolTold("slow, with a small load", "idle loss counts in full"),
        CapacityTest.FAST: SchoolTold("fast, with a large load", "conversion loss counts in full, idle hardly"),
    },
    UsableOf: {
        UsableOf.RATED: SchoolTold("a share of the rated capacity", "a rating that flatters lowers the share"),
        UsableOf.RECHARGE: SchoolTold(
            "a share of what recharging took", "charging loss is in it; the rating is not asked"
        ),
    },
    NoiseBy: {
        NoiseBy.LADDER: SchoolTold("a ladder of distances", "the level at the neighbour is predicted with its doubt"),
        NoiseBy.AT_7M: SchoolTold(
            "one figure at 7 m", "the limit is taken to be of 7 m; the neighbour is not looked at"
        ),
        NoiseBy.AT_NEIGHBOUR: SchoolTold(
            "read at the neighbour's window", "nothing is predicted: without a reading there it is not proven"
        ),
    },
}
"""Every answer to every question, in the order in which they are offered."""


@dataclass(frozen=True)
class Schools:
    """How a job takes each question on which practitioners differ; the answers here are those that Muster takes by itself."""

    how_hard: HowHard = HowHard.PROTECTION
    governor: SetPointSchool = SetPointSchool.HALF
    motor_order: MotorOrder = MotorOrder.LARGEST_FIRST
    surge_from: SurgeFrom = SurgeFrom.NAMEPLATE
    stepped: SteppedWave = SteppedWave.ACCEPT
    soft_starters: SoftStarters = SoftStarters.WITH
    capacity_test: CapacityTest = CapacityTest.BOTH
    usable_of: UsableOf = UsableOf.RATED
    noise_by: NoiseBy = NoiseBy.LADDER


QUESTIONS: dict[str, tuple[str, type[StrEnum]]] = {
    "how_hard": ("how hard to test", HowHard),
    "governor": ("where to set a governor", SetPointSchool),
    "motor_order": ("big motor first or last", MotorOrder),
    "surge_from": ("surge from nameplate", SurgeFrom),
    "stepped": ("stepped waveforms", SteppedWave),
    "soft_starters": ("soft starters", SoftStarters),
    "capacity_test": ("capacity test", CapacityTest),
    "usable_of": ("usable energy", UsableOf),
    "noise_by": ("noise", NoiseBy),
}
"""Each field of ``Schools`` with its question, as the trade asks it. How the house is connected is the brief's own, how two
unlike units count the source's."""


def answer(school: StrEnum) -> SchoolTold:
    """How an answer is told, and what follows from it."""
    return ANSWERS[type(school)][school]


def as_judged(load: Load, schools: Schools) -> Load:
    """A load as a job's schools take it: without its soft starter, or with its start by a multiple.

    Parameters
    ----------
    load
        As it is.
    schools
        Those of the job.

    Returns
    -------
    Load
        Itself where nothing of it is taken otherwise; what was measured is never set aside for a multiple.
    """

    if schools.soft_starters is SoftStarters.WITHOUT and load.soft_starter:
        load = replace(load, soft_starter=False)
    if schools.surge_from is SurgeFrom.MULTIPLE and load.start_va is not None and not load.start_grade.is_measured:
        load = replace(load, start_va=None)
    return load
