"""What a household's card says, as keys of its words and the figures put in: from rules, limits and the safety sequence."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from ..brief import BringUp, Wiring
from ..character import Parameter
from ..loads import Load, short_name
from ..outage.household import HouseholdRule, RuleKind
from ..quantities import THIN, duration, number, plain
from ..safety.sequence import SwitchStep, household_steps
from ..sources.limits import Limit
from ..stacking.order import by_school
from ..supply import Leg
from ..verdict import Verdict
from ..verdict.inputs import VerdictInputs
from .evidence import Quote, Records

COOLS_MIN = 15.0
"""An engine is let cool for so long before it is refuelled (common booklet guidance). [min]"""
TEST_RUN_MIN = 20.0
"""A monthly run under load lasts so long (common booklet guidance). [min]"""
LOOKS_A_TANK = 4
"""A tank is looked at so often while it lasts. Ours."""
MOST_LOOK_H = 4.0
"""Nobody leaves a running engine alone for longer. Ours. [h]"""
SHOWN_FIGURES = 2
"""Watts at which to stop are rounded down to so many figures: read at a glance, never above what was found."""
WATCHED_LAST_SHARE = 0.2
"""The last fifth of a battery is told as low where no rule keeps another reserve. Ours."""
LOADS_ON = (SwitchStep.LOADS_ON, SwitchStep.BRANCHES_ON, SwitchStep.ESSENTIAL_ON)
"""The step at which loads are switched on: their order stands beneath it."""


@dataclass(frozen=True)
class CardLine:
    """A line by the key of its words: ``figures`` are put in as they are written; ``rests_on`` says what they rest on.

    ``items`` are listed beneath it, each a key with its figures.
    """

    key: str
    figures: Mapping[str, str] = field(default_factory=dict)
    rests_on: str = ""
    items: tuple[CardLine, ...] = ()
    quotes: tuple[Quote, ...] = ()
    """The lines of the record, logs and captures that it rests on."""


@dataclass(frozen=True)
class CardSection:
    """A part of the card; ``ordered`` where its lines are done one after the other."""

    key: str
    lines: tuple[CardLine, ...]
    ordered: bool = False
    figures: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Card:
    """All that a card says: how far the source was found to carry the home, then its sections in the order of an outage."""

    home: str
    source: str
    state: CardLine
    sections: tuple[CardSection, ...]


def card_of(home: str, case: VerdictInputs, verdict: Verdict) -> Card:
    """The card of a home on a source.

    Parameters
    ----------
    home
        Its name.
    case
        What was judged, with its rules; the outage is told where it was played.
    verdict
        On it: a card of a source that does not carry says so before all else.

    Returns
    -------
    Card
        Every section that has anything to say. Its figures are those of the case, rounded to the safe side.
    """
    records = Records(case)
    sections = (
        CardSection(key="before", lines=tuple(_before(case))),
        CardSection(key="fails", lines=tuple(_fails(case, verdict, records)), ordered=True),
        CardSection(key="never", lines=tuple(_never(case))),
        CardSection(key="watch", lines=tuple(_watch(case, records))),
        CardSection(key="supply", lines=tuple(_supply(case, records))),
        CardSection(key="night", lines=tuple(_night(case)), figures=_quiet(case)),
        CardSection(key="trips", lines=tuple(_trips(case)), ordered=True),
        CardSection(key="returns", lines=tuple(_returns(case)), ordered=True),
        CardSection(key="cautions", lines=tuple(_cautions(case))),
    )
    return Card(
        home=home,
        source=case.source.name,
        state=_state(case, verdict, records),
        sections=tuple(section for section in sections if section.lines),
    )


def _state(case: VerdictInputs, verdict: Verdict, records: Records) -> CardLine:
    return CardLine(
        key=f"state.{verdict.status.value}",
        figures={"outage": plain(case.home.brief.outage_h, "h")},
        rests_on=verdict.headline,
        quotes=records.of_verdict(verdict),
    )


def _before(case: VerdictInputs) -> Iterator[CardLine]:
    claims = case.source.claims
    if case.source.kind.has_engine:
        if claims.tank_l and claims.stored_fuel_l:
            yield CardLine(
                key="before.fuel",
                figures={"tank": plain(claims.tank_l, "l"), "store": plain(claims.stored_fuel_l, "l")},
                rests_on="the nameplate and what the household keeps",
            )
        else:
            yield CardLine(key="before.fuel_unsaid")
        yield CardLine(key="before.engine", figures={"run": plain(TEST_RUN_MIN, "min")}, rests_on="usual maintenance")
        yield CardLine(key="before.alarm")
    else:
        yield CardLine(key="before.battery", figures={"run": plain(TEST_RUN_MIN, "min")}, rests_on="usual maintenance")
    if case.home.brief.wiring is not Wiring.AUTOMATIC:
        yield CardLine(key="before.cord")
    yield CardLine(key="before.practise")
    for rule in case.rules:
        if rule.kind in (RuleKind.SOFT_STARTER, RuleKind.OTHER_LEG):
            yield _of_rule(rule, case)


def _fails(case: VerdictInputs, verdict: Verdict, records: Records) -> Iterator[CardLine]:
    """The safe steps of this connection, the loads in their order beneath the step that switches them on."""
    over, _ = household_steps(case.home.brief.wiring, case.source.kind)
    basis = f"the connection: {case.home.brief.wiring.label}"
    together = case.home.brief.bring_up is BringUp.AT_ONCE
    for step in over:
        if step in LOADS_ON:
            key = "fails.together" if together else f"step.{step.value}"
            yield CardLine(
                key=key, rests_on="the start order of this home", items=tuple(_in_order(case, verdict, records))
            )
        else:
            yield CardLine(key=f"step.{step.value}", rests_on=basis)
    if off := _left_off(case):
        yield CardLine(
            key="fails.off", figures={"loads": off}, rests_on="they were not judged, or a rule leaves them off"
        )


def _in_order(case: VerdictInputs, verdict: Verdict, records: Records) -> Iterator[CardLine]:
    brief = case.home.brief
    for load in by_school(case.home.loads, brief.schools.motor_order, case.kernel_rules.first):
        hours = next((r for r in case.rules if r.kind is RuleKind.HOURS and r.load == load.key), None)
        name = {"load": short_name(load)}
        quotes = records.of_start(verdict, short_name(load))
        if hours is None:
            yield CardLine(key="fails.load", figures=name, rests_on=STARTED if quotes else "", quotes=quotes)
        else:
            yield CardLine(key="fails.load_hours", figures={**name, **_hours(hours)}, rests_on=ACCEPTED, quotes=quotes)


STARTED = "how it was seen to start"
ACCEPTED = "a rule that was accepted for this household"


def _left_off(case: VerdictInputs) -> str:
    """What was not judged, and what a rule leaves off: by name."""
    everything = case.without.home.by_key if case.without is not None else {}
    ruled_off = [everything[r.load] for r in case.rules if r.kind is RuleKind.OFF and r.load in everything]
    return ", ".join(short_name(load) for load in (*case.left_out, *ruled_off))


def _never(case: VerdictInputs) -> Iterator[CardLine]:
    for rule in case.rules:
        if rule.kind is RuleKind.APART:
            yield _of_rule(rule, case)


def _of_rule(rule: HouseholdRule, case: VerdictInputs) -> CardLine:
    """A rule as the household keeps it."""
    loads = case.home.by_key
    figures = {
        name: short_name(loads[key]) for name, key in (("load", rule.load), ("other", rule.other)) if key in loads
    }
    if rule.from_hour is not None:
        figures |= _hours(rule)
    if rule.share is not None:
        figures["share"] = f"{number(rule.share * 100)}{THIN}%"
    if rule.w is not None:
        figures["w"] = plain(rule.w, "w")
    if rule.tier is not None:
        figures["loads"] = ", ".join(short_name(load) for load in case.home.loads if load.tier is rule.tier)
    return CardLine(key=f"rule.{rule.kind.value}", figures=figures, rests_on=ACCEPTED)


def _hours(rule: HouseholdRule) -> dict[str, str]:
    return {"from": f"{rule.from_hour or 0:02d}:00", "to": f"{rule.to_hour or 0:02d}:00"}


def _watch(case: VerdictInputs, records: Records) -> Iterator[CardLine]:
    for leg in (None, Leg.ONE) if case.home.brief.system.legs == 2 else (None,):
        stop = stop_at(case.character.limits, leg)
        if stop is not None:
            key = "watch.watts" if leg is None else "watch.side_watts"
            yield CardLine(
                key=key,
                figures={"w": plain(rounded_down(stop.w), "w")},
                rests_on=_limit_basis(stop),
                quotes=records.of_limit(stop),
            )
    low_v, high_v = tolerated_v(case.home.loads, case.home.brief.system.v_nominal)
    if math.isfinite(low_v) and math.isfinite(high_v):
        figures = {"low": f"{math.ceil(low_v - 1e-9)}{THIN}V", "high": f"{math.floor(high_v + 1e-9)}{THIN}V"}
        yield CardLine(key="watch.volts", figures=figures, rests_on="what the most sensitive load tolerates")
    yield from _watch_battery(case, records)
    yield CardLine(key="watch.stop")


def _limit_basis(limit: Limit) -> str:
    return f"{limit.name} {plain(limit.w, 'w')}: {limit.basis} ({limit.grade.label})"


def stop_at(limits: Sequence[Limit], leg: Leg | None) -> Limit | None:
    """The limit that says at how many watts to stop: the lowest that binds for good, or that was held or tripped at.

    Parameters
    ----------
    limits
        Of the source, claimed and measured, under the conditions of the brief.
    leg
        Of one leg, the lower of the two; None of the whole.

    Returns
    -------
    Limit or None
        None where nothing of it is known. What was held for a while alone is no limit for good, but nobody saw it carry
        more: it is the number to stop at.
    """
    here = [limit for limit in limits if (limit.leg is None) == (leg is None)]
    lasting = [limit for limit in here if limit.hold_s is None and limit.key not in ("held", "held_here")]
    held = [limit for limit in here if limit.key == "held"]
    if leg is not None and held:
        held = [min(held, key=lambda limit: limit.w)]
    return min((*lasting, *held), key=lambda limit: limit.w, default=None)


def rounded_down(w: float) -> float:
    """Watts to two figures, never above what they were. [W]"""
    if w <= 0:
        return 0.0
    step = 10.0 ** (math.floor(math.log10(w)) + 1 - SHOWN_FIGURES)
    return math.floor(w / step + 1e-9) * step


def tolerated_v(loads: Sequence[Load], nominal_v: float) -> tuple[float, float]:
    """The lowest and highest volts that every load tolerates; without ends where none says. [V]"""
    low = min((load.v_low_pct for load in loads if load.v_low_pct is not None), default=math.inf)
    high = min((load.v_high_pct for load in loads if load.v_high_pct is not None), default=math.inf)
    return nominal_v * (1 - low / 100), nominal_v * (1 + high / 100)


def _watch_battery(case: VerdictInputs, records: Records) -> Iterator[CardLine]:
    if not case.source.kind.has_battery:
        return
    reserves = [rule for rule in case.rules if rule.kind is RuleKind.RESERVE]
    yield from (_of_rule(rule, case) for rule in reserves)
    low_v = case.character.best("cut_low_v")
    if low_v is not None:
        value = low_v.value.value
        yield CardLine(
            key="watch.battery_v",
            figures={"low": plain(math.ceil(value * 10) / 10, "v")},
            rests_on=f"where it cuts off: {low_v.rests_on}",
            quotes=records.of_parameters((low_v,)),
        )
    elif not reserves:
        share = f"{number(WATCHED_LAST_SHARE * 100)}{THIN}%"
        yield CardLine(key="watch.battery_share", figures={"share": share}, rests_on="usual practice")


FUEL_KEYS = ("idle_lph", "lph_per_kw", "mid_lph", "lph")
ENERGY_KEYS = ("delivered_wh", "battery_wh", "idle_w", "usable_pct")
"""What of the character says how long fuel and charge last: by the beginnings of their keys."""


def _known(case: VerdictInputs, keys: tuple[str, ...]) -> list[Parameter]:
    return [parameter for parameter in case.character.parameters if parameter.key.startswith(keys)]


def _supply(case: VerdictInputs, records: Records) -> Iterator[CardLine]:
    """How long fuel or charge lasts, what is done then, and how."""
    if case.source.kind.has_engine:
        yield from _fuel(case, records.of_parameters(_known(case, FUEL_KEYS)))
    else:
        yield from _charge(case, records.of_parameters(_known(case, ENERGY_KEYS)))


def _fuel(case: VerdictInputs, quotes: tuple[Quote, ...]) -> Iterator[CardLine]:
    played, claims = case.played, case.source.claims
    if played is not None and played.burnt_l.p90 > 0 and claims.tank_l:
        tank_h = claims.tank_l / (played.burnt_l.p90 / case.home.brief.outage_h)
        yield CardLine(
            key="supply.tank",
            figures={"lasts": _lasts(tank_h), "look": _lasts(min(MOST_LOOK_H, tank_h / LOOKS_A_TANK))},
            rests_on=f"{plain(played.burnt_l.p90, 'l')} in {plain(case.home.brief.outage_h, 'h')}, as nine in ten of {played.draws} outages burn at most",
            quotes=quotes,
        )
    else:
        yield CardLine(key="supply.tank_unknown")
    yield from (_of_rule(rule, case) for rule in case.rules if rule.kind is RuleKind.REFUEL)
    yield CardLine(key="supply.refuel", figures={"cools": plain(COOLS_MIN, "min")}, rests_on="usual practice")


def _charge(case: VerdictInputs, quotes: tuple[Quote, ...]) -> Iterator[CardLine]:
    played = case.played
    if played is not None and played.run_out_h is not None:
        figures = {"lasts": _lasts(played.run_out_h.p10)}
        yield CardLine(
            key="supply.battery",
            figures=figures,
            rests_on=f"the shortest in ten of {played.draws} outages played",
            quotes=quotes,
        )
    elif played is not None:
        figures = {"outage": plain(case.home.brief.outage_h, "h")}
        yield CardLine(
            key="supply.battery_whole", figures=figures, rests_on=f"{played.draws} outages played", quotes=quotes
        )
    else:
        yield CardLine(key="supply.battery_unknown")
    charging = [rule for rule in case.rules if rule.kind is RuleKind.CHARGE]
    yield from (_of_rule(rule, case) for rule in charging)
    if charging:
        yield CardLine(key="supply.refuel", figures={"cools": plain(COOLS_MIN, "min")}, rests_on="usual practice")
    if case.source.panels:
        yield CardLine(key="supply.sun")
    yield CardLine(key="supply.frost")


def _lasts(hours: float) -> str:
    """A length of time, to the half hour below it; of less than an hour to the minute."""
    return duration(math.floor(hours * 2) / 2 * 3600 if hours >= 1 else hours * 3600)


def _quiet(case: VerdictInputs) -> dict[str, str]:
    brief = case.home.brief
    return {"from": f"{brief.quiet_from_hour:02d}:00", "to": f"{brief.quiet_to_hour:02d}:00"}


def _night(case: VerdictInputs) -> Iterator[CardLine]:
    if not case.home.brief.covers_night():
        return
    yield CardLine(key="night.engine" if case.source.kind.has_engine else "night.battery")
    yield from (_of_rule(rule, case) for rule in case.rules if rule.kind is RuleKind.DUTY)
    yield CardLine(key="night.torch")


def _trips(case: VerdictInputs) -> Iterator[CardLine]:
    yield CardLine(key="trips.off")
    yield CardLine(key="trips.reset_engine" if case.source.kind.has_engine else "trips.reset_output")
    yield CardLine(key="trips.again")
    yield CardLine(key="trips.twice")


def _returns(case: VerdictInputs) -> Iterator[CardLine]:
    _, back = household_steps(case.home.brief.wiring, case.source.kind)
    basis = f"the connection: {case.home.brief.wiring.label}"
    yield from (CardLine(key=f"step.{step.value}", rests_on=basis) for step in back)


def _cautions(case: VerdictInputs) -> Iterator[CardLine]:
    charging = any(rule.kind is RuleKind.CHARGE for rule in case.rules)
    if case.source.kind.has_engine or charging:
        yield CardLine(key="caution.exhaust")
        yield CardLine(key="caution.refuel")
    yield CardLine(key="caution.backfeed")
    everything = (*case.home.loads, *case.left_out)
    medical = [short_name(load) for load in everything if load.kind_figures.medical]
    if medical:
        yield CardLine(key="caution.medical", figures={"loads": ", ".join(medical)})
    yield CardLine(key="caution.codes")
