"""Rules of the household: what it does in an outage so that a source carries it, each with its words, its cost and its caution."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from ..brief import Brief, BringUp
from ..errors import OutOfRange, require_above, require_between
from ..loads import Duty, Load, Tier, short_name, with_figures
from ..quantities import THIN, number, plain
from ..supply import Leg
from .rules import Charging, Rules


class RuleKind(StrEnum):
    """What a household can do."""

    FIRST = "first"
    ONE_BY_ONE = "one_by_one"
    APART = "apart"
    REFUEL = "refuel_before_bed"
    RESERVE = "reserve"
    HOURS = "hours"
    DUTY = "duty"
    CHARGE = "charge"
    OFF = "left_off"
    SOFT_STARTER = "soft_starter"
    OTHER_LEG = "other_leg"

    @property
    def label(self) -> str:
        """It as it is offered on screen."""
        return WORDS[self].label

    @property
    def caution(self) -> str:
        """What to mind, for it can hurt."""
        return WORDS[self].caution

    @property
    def asks(self) -> str:
        """What it asks of the household, beside what the outages played say."""
        return WORDS[self].asks


@dataclass(frozen=True)
class RuleWords:
    """How a kind of rule is written: its label, what it asks of the household, what to mind; ``burden`` from 1 (a word in passing) to 6 (a bill).

    ``bears_on``: the rows of a verdict that it can change at all, by key.
    """

    label: str
    asks: str
    caution: str
    burden: int
    needs: tuple[str, ...]
    bears_on: frozenset[str]


CAPACITY = frozenset({"steady", "starting", "voltage", "dips", "frequency", "endurance", "legs"})
ANYTHING = CAPACITY | {"noise", "energy"}
MEDICAL = "Whoever lives by a medical device keeps a plan of its own: no rule touches it."
ELECTRICIAN = "Work in a panel is for a licensed electrician, under local code."
WORDS: dict[RuleKind, RuleWords] = {
    RuleKind.FIRST: RuleWords(
        label="start this first",
        asks="everything else stays off at its switch until it runs",
        caution="Switch off at the breakers before power returns; never pull a plug under load.",
        burden=1,
        needs=("load",),
        bears_on=frozenset({"starting", "dips", "steady"}),
    ),
    RuleKind.ONE_BY_ONE: RuleWords(
        label="bring up one by one",
        asks="somebody switches the loads on again in their order, and does not leave them to come back together",
        caution="Switch off at the breakers before power returns; never pull a plug under load.",
        burden=1,
        needs=(),
        bears_on=frozenset({"steady", "starting", "dips", "endurance", "voltage", "frequency", "legs"}),
    ),
    RuleKind.APART: RuleWords(
        label="never together",
        asks="whichever comes second waits until the first has finished",
        caution=f"A cold store waits with its door shut. {MEDICAL}",
        burden=1,
        needs=("load", "other"),
        bears_on=CAPACITY,
    ),
    RuleKind.REFUEL: RuleWords(
        label="fill the tank before bed",
        asks="somebody stops the set before the quiet hours, lets it cool, and fills it",
        caution=(
            "Refuel a cold engine only, outdoors, with no flame near, by daylight or a torch; exhaust away from every window."
        ),
        burden=2,
        needs=(),
        bears_on=frozenset({"energy"}),
    ),
    RuleKind.RESERVE: RuleWords(
        label="keep a reserve for what must run",
        asks="somebody looks at the battery and leaves the lesser loads off below that share",
        caution=f"Watch rooms that could freeze while their heating is off. {MEDICAL}",
        burden=2,
        needs=("tier", "share"),
        bears_on=frozenset({"energy", "steady", "starting", "endurance", "dips", "voltage"}),
    ),
    RuleKind.HOURS: RuleWords(
        label="at other hours",
        asks="it runs at those hours alone",
        caution=f"What heats or cooks is not left alone to run. {MEDICAL}",
        burden=2,
        needs=("load", "from_hour", "to_hour"),
        bears_on=ANYTHING,
    ),
    RuleKind.DUTY: RuleWords(
        label="turned down",
        asks="its thermostat is set lower, and the room with it",
        caution="Keep pipes from freezing, and the room fit for whoever is frail.",
        burden=3,
        needs=("load", "share"),
        bears_on=ANYTHING,
    ),
    RuleKind.CHARGE: RuleWords(
        label="charge by a generator",
        asks="a generator is run and watched for those hours",
        caution=(
            "A generator stands outdoors, away from every door, window and vent: its exhaust kills. Refuel it cold. "
            "No lithium battery is charged at or below freezing."
        ),
        burden=4,
        needs=("w", "from_hour", "to_hour"),
        bears_on=frozenset({"energy"}),
    ),
    RuleKind.OFF: RuleWords(
        label="left off",
        asks="the household does without it for the whole outage",
        caution=f"Keep pipes from freezing, and food safe by its hours without cold. {MEDICAL}",
        burden=4,
        needs=("load",),
        bears_on=ANYTHING,
    ),
    RuleKind.SOFT_STARTER: RuleWords(
        label="a soft starter",
        asks="it is bought, fitted, and its start tried on this source before it is relied on",
        caution=f"It must suit the motor. {ELECTRICIAN}",
        burden=5,
        needs=("load",),
        bears_on=frozenset({"starting", "dips", "steady", "voltage"}),
    ),
    RuleKind.OTHER_LEG: RuleWords(
        label="on the other leg",
        asks="its circuit is moved in the panel",
        caution=ELECTRICIAN,
        burden=6,
        needs=("load", "leg"),
        bears_on=frozenset({"steady", "legs", "starting", "dips", "voltage", "endurance"}),
    ),
}
"""Every kind, the lightest on the household first. Burdens are ours."""


@dataclass(frozen=True)
class HouseholdRule:
    """One thing that the household does, by its kind and what that kind needs.

    ``load`` and ``other`` are keys of loads; ``share`` is of the usual duty, or of what the battery gives; ``w`` what a
    charger draws [W].
    """

    kind: RuleKind
    load: str = ""
    other: str = ""
    from_hour: int | None = None
    to_hour: int | None = None
    share: float | None = None
    w: float | None = None
    tier: Tier | None = None
    leg: Leg | None = None

    def __post_init__(self) -> None:
        for name in WORDS[self.kind].needs:
            if getattr(self, name) in ("", None):
                raise OutOfRange(f"a rule “{self.kind.label}” needs it", where=name, want="which one, or how much")
        if self.kind is RuleKind.APART and self.load == self.other:
            raise OutOfRange("a load is not kept apart from itself", where="other", want="another load")
        for name in ("from_hour", "to_hour"):
            if getattr(self, name) is not None:
                require_between(getattr(self, name), 0, 24, name)
        if self.share is not None:
            require_above(self.share, 0, "share")
            require_between(self.share, 0, 1, "share")
        if self.w is not None:
            require_above(self.w, 0, "w")
        if self.leg is Leg.BOTH:
            raise OutOfRange("a load is moved to one leg", where="leg", want="leg 1 or leg 2")

    @property
    def burden(self) -> int:
        """How much it asks of the household, from 1 to 6."""
        return WORDS[self.kind].burden

    def bears_on(self, line: str) -> bool:
        """Whether it can change a line of a verdict at all, by the line's key."""
        return any(line == row or line.startswith((f"{row}-", f"{row}:")) for row in WORDS[self.kind].bears_on)

    def described(self, loads: Mapping[str, Load]) -> str:
        """It as the household reads it."""
        name = f"the {short_name(loads[self.load])}" if self.load in loads else "a load that is gone"
        other = f"the {short_name(loads[self.other])}" if self.other in loads else "a load that is gone"
        hours = f"from {self.from_hour:02d}:00 to {self.to_hour:02d}:00" if self.from_hour is not None else ""
        share = f"{number((self.share or 0) * 100)}{THIN}%"
        leg = self.leg.label if self.leg else ""
        return {
            RuleKind.FIRST: f"start {name} first, before anything else but what is medical",
            RuleKind.ONE_BY_ONE: "bring the loads up one by one, in their order",
            RuleKind.APART: f"never run {name} and {other} together",
            RuleKind.REFUEL: "fill the tank before bed, cooled down first",
            RuleKind.RESERVE: f"leave off what {self.tier or ''} run while the battery is below {share}",
            RuleKind.HOURS: f"run {name} {hours} alone",
            RuleKind.DUTY: f"turn {name} down to {share} of its usual time",
            RuleKind.CHARGE: f"charge the battery at {plain(self.w or 0, 'w')} by a generator {hours}, the quiet hours on the battery",
            RuleKind.OFF: f"leave {name} off",
            RuleKind.SOFT_STARTER: f"a soft starter on {name}",
            RuleKind.OTHER_LEG: f"{name} on {leg}",
        }[self.kind]


NOT_OF_MUST = (RuleKind.DUTY, RuleKind.OFF)
"""Kinds that take energy: none of them of what must run."""
ON_A_LOAD = (
    RuleKind.FIRST,
    RuleKind.APART,
    RuleKind.HOURS,
    RuleKind.DUTY,
    RuleKind.OFF,
    RuleKind.SOFT_STARTER,
    RuleKind.OTHER_LEG,
)


def why_not(rule: HouseholdRule, loads: Mapping[str, Load], brief: Brief) -> str:
    """Why a rule cannot be kept in a home; empty where it can.

    Parameters
    ----------
    rule
        Any rule.
    loads
        Of the home, by key, those of every tier.
    brief
        Its supply.

    Returns
    -------
    str
        A load that is gone; medical; must run and would lose hours, energy or supply; or a supply of one leg.
    """
    for key in (rule.load, rule.other) if rule.kind in ON_A_LOAD else ():
        if not key:
            continue
        if key not in loads:
            return "it names a load that is gone"
        if loads[key].kind_figures.medical:
            return f"the {short_name(loads[key])} is medical: no rule touches it"
    load = loads.get(rule.load)
    if rule.kind in NOT_OF_MUST and load is not None and load.tier is Tier.MUST:
        return f"the {short_name(load)} must run: no rule takes energy from it"
    if rule.kind is RuleKind.HOURS and load is not None and load.tier is Tier.MUST and _loses_hours(rule, load):
        return f"the {short_name(load)} must run: no rule takes hours from it"
    if rule.kind is RuleKind.APART and load is not None:
        return _never_lets_in(load, loads[rule.other]) or _never_lets_in(loads[rule.other], load)
    if rule.kind is RuleKind.RESERVE and rule.tier is Tier.MUST:
        return "what must run is never left off"
    if rule.kind is RuleKind.OTHER_LEG and (
        brief.system.legs < 2 or (load is not None and load.leg in (Leg.BOTH, rule.leg))
    ):
        return "it has no other leg to go to" if brief.system.legs < 2 else "it is not on one other leg"
    if rule.kind is RuleKind.SOFT_STARTER and load is not None and not load.kind_figures.turns:
        return f"the {short_name(load)} has no motor that starts"
    return ""


def _loses_hours(rule: HouseholdRule, load: Load) -> bool:
    """Whether other hours are fewer than its own; a program needs as many as it lasts."""
    span = len(_hours(rule))
    return span * 60 < load.duty.on_min if load.duty.once else span < len(load.hours)


def _never_lets_in(load: Load, other: Load) -> str:
    """Whether a load runs through hours of another, so that kept apart from it that one runs in none of them.

    Of what must run none may be lost; of the rest not all.
    """
    lost = set(other.hours) & set(load.hours)
    if not load.duty.throughout or not lost:
        return ""
    if lost == set(other.hours):
        return f"the {short_name(load)} runs throughout: the {short_name(other)} would never run"
    if other.tier is Tier.MUST:
        return f"the {short_name(load)} runs throughout: the {short_name(other)} must run, and would lose those hours"
    return ""


def _hours(rule: HouseholdRule) -> tuple[int, ...]:
    """The hours of the day of a rule, from its first to its last."""
    first, last = int(rule.from_hour or 0), int(rule.to_hour or 0)
    return tuple((first + i) % 24 for i in range((last - first) % 24 or 24))


@dataclass(frozen=True)
class RuledHome:
    """A home as it is with rules kept: its loads and brief, what the play follows, and the rules that could not be kept, with why."""

    loads: tuple[Load, ...]
    brief: Brief
    rules: Rules
    kept: tuple[HouseholdRule, ...]
    left: tuple[tuple[HouseholdRule, str], ...] = ()


def with_rules(loads: Sequence[Load], brief: Brief, rules: Iterable[HouseholdRule]) -> RuledHome:
    """A home with the rules of its household.

    Parameters
    ----------
    loads
        As the job's schools take them.
    brief
        The outage.
    rules
        Accepted ones, in any order.

    Returns
    -------
    RuledHome
        A rule that does not fit the home changes nothing and is named with its reason.
    """
    rules, by_key = tuple(rules), {load.key: load for load in loads}
    reasons = [(rule, why_not(rule, by_key, brief)) for rule in rules]
    kept = tuple(rule for rule, reason in reasons if not reason)
    for rule in kept:
        if rule.load in by_key and rule.kind in CHANGED:
            by_key[rule.load] = CHANGED[rule.kind](by_key[rule.load], rule)
    off = {rule.load for rule in kept if rule.kind is RuleKind.OFF}
    one_by_one = any(rule.kind in (RuleKind.ONE_BY_ONE, RuleKind.FIRST) for rule in kept)
    charge = next((rule for rule in kept if rule.kind is RuleKind.CHARGE), None)
    return RuledHome(
        loads=tuple(by_key[load.key] for load in loads if load.key not in off),
        brief=replace(brief, bring_up=BringUp.ONE_BY_ONE) if one_by_one else brief,
        rules=Rules(
            apart=tuple((rule.load, rule.other) for rule in kept if rule.kind is RuleKind.APART),
            first=tuple(rule.load for rule in kept if rule.kind is RuleKind.FIRST),
            shed_below=tuple(
                (rule.tier, rule.share) for rule in kept if rule.kind is RuleKind.RESERVE and rule.tier and rule.share
            ),
            charging=None
            if charge is None
            else Charging(charge.w or 0.0, (charge.from_hour or 0) % 24, charge.to_hour or 0),
            refuel_before_bed=any(rule.kind is RuleKind.REFUEL for rule in kept),
        ),
        kept=kept,
        left=tuple((rule, reason) for rule, reason in reasons if reason),
    )


def _turned_down(load: Load, rule: HouseholdRule) -> Load:
    """On for a share of its usual time: what cycles rests longer, what runs throughout cycles by the hour."""
    share, duty = rule.share or 1.0, load.duty
    if duty.once:
        return replace(load, duty=replace(duty, on_min=duty.on_min * share))
    on_min = duty.on_min if duty.cycles else 60.0 * share
    off_min = (duty.on_min + duty.off_min) / share - duty.on_min if duty.cycles else 60.0 * (1 - share)
    return replace(load, duty=Duty(on_min=on_min, off_min=min(off_min, 24 * 60.0), caller=duty.caller))


def _at_other_hours(load: Load, rule: HouseholdRule) -> Load:
    return replace(load, hours=tuple(sorted(_hours(rule))))


def _eased(load: Load, rule: HouseholdRule) -> Load:
    del rule
    return with_figures(replace(load, soft_starter=True))  # a start that was taken with one counts from now on


def _moved(load: Load, rule: HouseholdRule) -> Load:
    return replace(load, leg=rule.leg or load.leg)


CHANGED: dict[RuleKind, Callable[[Load, HouseholdRule], Load]] = {
    RuleKind.HOURS: _at_other_hours,
    RuleKind.DUTY: _turned_down,
    RuleKind.SOFT_STARTER: _eased,
    RuleKind.OTHER_LEG: _moved,
}
"""What a rule makes of its load."""
