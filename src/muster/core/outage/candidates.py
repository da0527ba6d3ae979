"""Rules that a household could keep, proposed for the lines of a verdict that are still open."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations

from ..brief import Brief, BringUp
from ..character import Character
from ..loads import Load, Tier
from ..sources import Chemistry, Source
from ..supply import Leg
from ..trade.schools import SoftStarters
from .demand import OutageDemand
from .household import HouseholdRule, RuleKind, why_not

MOST_PAIRS, MOST_LEGS, MOST_LESS = 4, 2, 3
"""So many pairs kept apart, loads moved and lesser loads spared are proposed, those that do most first. Ours."""
EXACT_TO = 12
"""Of so many proposals every set is weighed."""
TURNED_DOWN = 0.7
"""A heating turned down runs for this share of its usual time: about 3 K less where it is 10 K colder outside. Ours."""
RESERVE_SHARE = 0.5
"""The battery is kept for what must run below this share of what it gives. Ours."""
CHARGING_HOURS = (3, 6)
"""A generator charges for so many hours of the waking day. Ours."""
FIRST_CHARGING_HOUR = 10
LEAST_W = 50.0
"""What draws less is not worth a rule. Ours."""


@dataclass(frozen=True)
class SourceFits:
    """What of a source decides which rules fit it; ``charge_w`` is what its battery takes at most, 0 where that is not known."""

    battery: bool
    tank: bool
    charge_w: float = 0.0


USUAL_CHARGE_SHARE = 0.2
"""A usual charger gives a battery this share of its rated energy an hour; a lead one takes half of that. Trade practice."""


def charging_w(source: Source, character: Character) -> float:
    """What a charger on a generator draws for a battery: as measured or claimed, else as is usual for its size. [W]"""
    known = character.best("charge_w")
    if known is not None:
        return known.value.value
    lead = source.claims.chemistry is Chemistry.LEAD
    share = USUAL_CHARGE_SHARE / 2 if lead else USUAL_CHARGE_SHARE
    return share * (source.claims.battery_wh or 0.0) if source.kind.has_battery else 0.0


def candidates(
    loads: Sequence[Load], brief: Brief, fits: SourceFits, demand: OutageDemand, open_lines: Collection[str]
) -> tuple[HouseholdRule, ...]:
    """Rules that fit the home and the source and bear on a line that is open, the lightest on the household first.

    Parameters
    ----------
    loads
        That are judged.
    brief
        The outage, and how the job takes soft starters.
    fits
        What of the source decides which fit.
    demand
        What the home needs: where its energy goes.
    open_lines
        Keys of the lines that do not carry; a start has the key of its load behind a colon.

    Returns
    -------
    tuple of HouseholdRule
        None that takes hours, energy or supply from what must run, none that touches what is medical.
    """
    by_key = {load.key: load for load in loads}
    proposed = [
        rule
        for rule in dict.fromkeys(_proposed(loads, brief, fits, demand, open_lines))
        if not why_not(rule, by_key, brief) and any(rule.bears_on(line) for line in open_lines)
    ]
    return tuple(sorted(proposed, key=lambda rule: rule.burden))


def _proposed(
    loads: Sequence[Load], brief: Brief, fits: SourceFits, demand: OutageDemand, open_lines: Collection[str]
) -> Iterator[HouseholdRule]:
    starting = {line.partition(":")[2] for line in open_lines if line.startswith("starting:")}
    motors = sorted((load for load in loads if load.has_start(brief.system.hz)), key=lambda load: -load.start_total_va)
    hard = [load for load in motors if load.key in starting] or motors[:1]
    yield from (HouseholdRule(kind=RuleKind.FIRST, load=load.key) for load in hard[:2])
    if brief.bring_up is BringUp.AT_ONCE:
        yield HouseholdRule(kind=RuleKind.ONE_BY_ONE)
    yield from _apart(loads, starting, brief)
    if fits.tank:
        yield HouseholdRule(kind=RuleKind.REFUEL)
    if fits.battery:
        yield from _of_the_battery(loads, brief, fits)
    yield from _of_lesser_loads(loads, brief, demand)
    if brief.schools.soft_starters is SoftStarters.WITH:
        yield from (HouseholdRule(kind=RuleKind.SOFT_STARTER, load=load.key) for load in hard[:2] if not load.eased)
    yield from _to_the_other_leg(loads, brief, demand)


def _apart(loads: Sequence[Load], starting: Collection[str], brief: Brief) -> Iterator[HouseholdRule]:
    """Pairs that ask most together; a start that fails with what runs beneath it before all."""
    legs = brief.system.legs

    def asks(pair: tuple[Load, Load]) -> tuple[bool, float]:
        first, second = pair
        starts = max(load.start_total_va - load.run_va if load.has_start(brief.system.hz) else 0.0 for load in pair)
        return not {first.key, second.key} & set(starting), -(first.run_va + second.run_va + starts)

    worth = [
        pair
        for pair in combinations((load for load in loads if load.run_w >= LEAST_W), 2)
        if legs == 1 or _share_a_leg(*pair)
    ]
    fitting = (HouseholdRule(kind=RuleKind.APART, load=a.key, other=b.key) for a, b in sorted(worth, key=asks))
    by_key = {load.key: load for load in loads}
    yield from [rule for rule in fitting if not why_not(rule, by_key, brief)][:MOST_PAIRS]


def _share_a_leg(load: Load, other: Load) -> bool:
    return any(load.share_on(leg) * other.share_on(leg) > 0 for leg in (Leg.ONE, Leg.TWO)) or (
        Leg.BOTH in (load.leg, other.leg)
    )


def _of_the_battery(loads: Sequence[Load], brief: Brief, fits: SourceFits) -> Iterator[HouseholdRule]:
    lesser = [tier for tier in (Tier.COULD, Tier.SHOULD) if any(load.tier is tier for load in loads)]
    for tier in lesser:
        yield HouseholdRule(kind=RuleKind.RESERVE, tier=tier, share=RESERVE_SHARE)
    if fits.charge_w > 0:
        for first, last in _waking(brief):
            yield HouseholdRule(kind=RuleKind.CHARGE, w=fits.charge_w, from_hour=first, to_hour=last)


def _waking(brief: Brief) -> Iterator[tuple[int, int]]:
    """Stretches of the waking day to charge in, within the outage: up to the quiet hours, so that they begin full, and by noon."""
    covered = {(brief.outage_from_hour + i) % 24 for i in range(math.ceil(brief.outage_h))}
    awake = covered - brief.quiet_hours
    for hours in CHARGING_HOURS:
        for first in ((brief.quiet_from_hour - hours) % 24, FIRST_CHARGING_HOUR):
            span = {(first + i) % 24 for i in range(hours)}
            if span <= awake:
                yield first, (first + hours) % 24


def _of_lesser_loads(loads: Sequence[Load], brief: Brief, demand: OutageDemand) -> Iterator[HouseholdRule]:
    """What does not have to run: turned down, at other hours, or left off; the greatest users first."""
    lesser = sorted(
        (load for load in loads if load.tier is not Tier.MUST), key=lambda load: -demand.load_wh.get(load.key, 0.0)
    )[:MOST_LESS]
    for load in lesser:
        if not load.duty.once and load.calls_at_once:
            yield HouseholdRule(kind=RuleKind.DUTY, load=load.key, share=TURNED_DOWN)
        yield HouseholdRule(kind=RuleKind.OFF, load=load.key)
    for load in loads:
        if load.duty.once and brief.quiet_hours & set(load.hours):
            yield HouseholdRule(kind=RuleKind.HOURS, load=load.key, from_hour=10, to_hour=16)


def _to_the_other_leg(loads: Sequence[Load], brief: Brief, demand: OutageDemand) -> Iterator[HouseholdRule]:
    """From the heavier leg what comes nearest to half of what lies between the two."""
    if brief.system.legs < 2 or len(demand.leg_w) < 2:
        return
    between_w = demand.leg_w[0] - demand.leg_w[1]
    heavy, light = (Leg.ONE, Leg.TWO) if between_w > 0 else (Leg.TWO, Leg.ONE)
    here = sorted(
        (load for load in loads if load.leg is heavy and load.run_w >= LEAST_W),
        key=lambda load: abs(load.run_w - abs(between_w) / 2),
    )
    yield from (HouseholdRule(kind=RuleKind.OTHER_LEG, load=load.key, leg=light) for load in here[:MOST_LEGS])
