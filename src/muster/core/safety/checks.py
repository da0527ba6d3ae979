"""Safety checks: what must be so before a protocol is run on a source; computed where it can be, confirmed where it cannot.

They remind and calculate. Local codes and a licensed electrician decide, and
nothing here ever asks for an earth, an interlock or a protective device to be bypassed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

from ..brief import Home, Wiring
from ..kit import Kit
from ..quantities import plain
from ..sessions import PROTOCOLS, Protocol, Step
from ..sources import Source, SourceKind
from .computed import cold_check, dc_check, lead_check, meter_check
from .planned import Planned, SafetyCheck, planned

HOLDS_H = 12.0
"""What must be confirmed on the day is asked again after so many hours."""


@dataclass(frozen=True)
class CheckContext:
    """What a check is asked about: a protocol (empty: the connection alone) with its steps."""

    protocol: str
    home: Home
    source: Source
    steps: tuple[Step, ...] = ()

    @property
    def test(self) -> Protocol | None:
        """The protocol; None for the connection alone."""
        return PROTOCOLS.get(self.protocol)


@dataclass(frozen=True)
class ConfirmedCheck:
    """A check that somebody confirms: what must be so, what goes wrong otherwise, and where it applies.

    ``lasts`` is one that stands until it is reopened; the others are asked again each day.
    ``asks`` says what is to be looked at in this plan, where that can be computed.
    """

    slug: str
    title: str
    what: str
    why: str
    applies: Callable[[CheckContext], bool]
    lasts: bool = False
    asks: Callable[[CheckContext, Planned], str] | None = None


def _wired(check_context: CheckContext) -> bool:
    return check_context.home.brief.wiring is not Wiring.CORDS


def _corded(check_context: CheckContext) -> bool:
    return check_context.home.brief.wiring is Wiring.CORDS


def _lead_unsaid(check_context: CheckContext) -> bool:
    """Whether the test loads a source of which no lead or cord is said."""
    most = _most(check_context)
    return check_context.test is not None and most.source_loaded and not check_context.source.wires.lead


def _dc_unsaid(check_context: CheckContext) -> bool:
    """Whether the test loads a bank through a lead, a fuse or volts that nobody said."""
    if check_context.test is None or not _bank(check_context) or not _most(check_context).source_loaded:
        return False
    claims, wires = check_context.source.claims, check_context.source.wires
    return not wires.dc_lead or wires.dc_fuse_a is None or claims.battery_low_v is None


def _most(check_context: CheckContext) -> Planned:
    return planned(check_context.protocol, check_context.home, check_context.source, check_context.steps)


def _ask_lead(check_context: CheckContext, most: Planned) -> str:
    return f"no lead or cord is said; the plan puts {plain(most.leg_a, 'a')} on it at {most.step}"


def _ask_dc(check_context: CheckContext, most: Planned) -> str:
    claims, wires = check_context.source.claims, check_context.source.wires
    missing = [
        name
        for name, said in (
            ("lead", bool(wires.dc_lead)),
            ("fuse", wires.dc_fuse_a is not None),
            ("lowest battery volts", claims.battery_low_v is not None),
        )
        if not said
    ]
    return f"not said: {', '.join(missing)}; the plan draws {plain(most.total_w, 'w')} through them"


def _engine(check_context: CheckContext) -> bool:
    return check_context.source.kind.has_engine


def _bank(check_context: CheckContext) -> bool:
    return check_context.source.kind in (SourceKind.INVERTER, SourceKind.HYBRID)


def _scoped(check_context: CheckContext) -> bool:
    return check_context.test is not None and check_context.test.scoped


def _medical(check_context: CheckContext) -> bool:
    return any(load.kind_figures.medical for load in check_context.home.loads)


def _heats(check_context: CheckContext) -> bool:
    """Whether the plan switches on what must not be dry, or leaves it open and the home has such a load."""
    hot = {load.key for load in check_context.home.every if load.kind_figures.dry_hazard}
    if check_context.test is not None and check_context.test.any_loads:
        return check_context.protocol == "heating_check" or bool(hot)
    return any(hot & set(step.loads) for step in check_context.steps)


def _always(check_context: CheckContext) -> bool:
    return True


TO_CONFIRM = (
    ConfirmedCheck(
        slug="isolation",
        title="Mains isolated",
        what="The mains is isolated and locked off before the source feeds the panel.",
        why="Backfeed through a service transformer kills line workers, and the mains coming back wrecks the source.",
        applies=_wired,
    ),
    ConfirmedCheck(
        slug="unplugged",
        title="Loads off the mains",
        what="What the source feeds is unplugged from the house's sockets; a load wired to the house, such as a furnace or a pump, is isolated from the mains before a cord feeds it.",
        why="A load on two supplies puts one onto the other, and a cord into a socket of the house feeds the street.",
        applies=_corded,
    ),
    ConfirmedCheck(
        slug="interlock",
        title="Transfer switch or interlock",
        what="A transfer switch or interlock is fitted and was seen to work, by a licensed electrician.",
        why="Without it nothing but care keeps source and mains apart.",
        applies=_wired,
        lasts=True,
    ),
    ConfirmedCheck(
        slug="bonding",
        title="Neutral and earth",
        what="The neutral is bonded to earth as the local code asks, in one place, and it is known where.",
        why="With a floating neutral a meter to earth reads anything, and an RCD or GFCI may not trip on a fault; with two bonds it trips for none.",
        applies=_always,
        lasts=True,
    ),
    ConfirmedCheck(
        slug="cords",
        title="Cords",
        what="Cords are whole, unrolled, dry, not under a carpet, and none has a plug at both ends.",
        why="A cord on its reel burns; a cord with two plugs puts mains on bare pins.",
        applies=_corded,
    ),
    ConfirmedCheck(
        slug="lead_unsaid",
        title="Lead or cord not said",
        what="Every lead and cord between source and loads, its plugs and its inlet, was looked at and carries the plan's amps.",
        why="A lead too thin is the first thing to burn; say it in the source and Muster computes it.",
        applies=_lead_unsaid,
        asks=_ask_lead,
    ),
    ConfirmedCheck(
        slug="dc_unsaid",
        title="Battery lead or fuse not said",
        what="A fuse stands close to the battery, of at least 1.25 times the amps drawn and at most what the lead may carry, and both were looked at.",
        why="A battery lead without a fitting fuse is a fire waiting for a short; say lead, fuse and lowest volts in the source and Muster computes it.",
        applies=_dc_unsaid,
        asks=_ask_dc,
    ),
    ConfirmedCheck(
        slug="exhaust",
        title="Exhaust",
        what="The engine stands outdoors, its exhaust away from doors, windows and vents, and a carbon monoxide alarm is on indoors.",
        why="Carbon monoxide kills without smell, through an open window metres away.",
        applies=_engine,
    ),
    ConfirmedCheck(
        slug="refuelling",
        title="Refuelling",
        what="Fuel is kept away from the engine, and it is refuelled only stopped and cooled.",
        why="Petrol on a hot exhaust is the commonest way these tests end badly.",
        applies=_engine,
    ),
    ConfirmedCheck(
        slug="battery",
        title="Battery side",
        what="The battery's terminals are covered, its fuse is close to it, tools are insulated, rings and watches are off.",
        why="A battery gives thousands of amps into a spanner, and an arc of direct current does not go out.",
        applies=_bank,
    ),
    ConfirmedCheck(
        slug="probe",
        title="Scope",
        what="The scope's probe is isolated, or the scope runs on its own battery with no earth of its own.",
        why="An earthed probe clip on a live or floating conductor is a short circuit through the scope.",
        applies=_scoped,
    ),
    ConfirmedCheck(
        slug="water",
        title="Water in it",
        what="There is water in every heater, kettle and microwave before it is switched on.",
        why="A dry element burns out in seconds; an empty microwave feeds its own magnetron.",
        applies=_heats,
    ),
    ConfirmedCheck(
        slug="covers",
        title="Covers",
        what="No cover is off while anything is live; what must be read inside is read by those licensed to.",
        why="Live parts behind a cover are within reach of a dropped probe.",
        applies=_always,
    ),
    ConfirmedCheck(
        slug="medical",
        title="Medical loads",
        what="Nobody depends on a medical load while it is tested, and another supply for it is at hand.",
        why="A source under test may stop at any moment.",
        applies=_medical,
    ),
    ConfirmedCheck(
        slug="laptop",
        title="This machine",
        what="What Muster runs on is not fed by the source under test.",
        why="When the source trips the record must not.",
        applies=_always,
    ),
    ConfirmedCheck(
        slug="stop",
        title="When to stop",
        what="Everybody present knows to stop at smell, smoke, a lead too warm to hold, or a sound that changes.",
        why="The first sign is often the only one.",
        applies=_always,
    ),
)
"""What is confirmed by name, in the order in which it is confirmed."""
KNOWN = {item.slug: item for item in TO_CONFIRM}
CONNECTION = ("isolation", "unplugged", "interlock", "bonding", "cords")
"""The checks of the connection itself: the verdict's line “safe connection” rests on those that apply."""


def connection_checks(home: Home, source: Source) -> tuple[ConfirmedCheck, ...]:
    """The checks of the connection that apply to a home and a source."""
    return tuple(KNOWN[slug] for slug in CONNECTION if KNOWN[slug].applies(CheckContext("", home, source)))


@dataclass(frozen=True)
class Confirmed:
    """Who confirmed a check, and when (as it is told)."""

    who: str
    when: str


def checks_for(
    protocol: str, home: Home, source: Source, steps: tuple[Step, ...], kit: Kit, confirmed: Mapping[str, Confirmed]
) -> tuple[SafetyCheck, ...]:
    """Every check of a protocol on a source: the computed ones by the plan, the others by who confirmed them."""
    most, about = planned(protocol, home, source, steps), CheckContext(protocol, home, source, steps)
    computed = [
        check
        for check in (
            meter_check(most, kit),
            lead_check(protocol, most, home, source),
            dc_check(most, source),
            cold_check(protocol, home, source),
        )
        if check is not None
    ]
    wanted = [item for item in TO_CONFIRM if item.applies(about) and (not _by_hand(about) or item.slug in BY_HAND)]
    asked = [_confirmable(item, confirmed.get(item.slug), about, most) for item in wanted]
    return tuple(asked) if _by_hand(about) else (*computed, *asked)


BY_HAND = frozenset({"covers", "battery", "refuelling"})
"""The checks before a unit is looked over that does not run."""


def _by_hand(about: CheckContext) -> bool:
    return about.test is not None and about.test.by_hand


def not_passed(checks: Iterable[SafetyCheck]) -> tuple[SafetyCheck, ...]:
    """Those that have not passed."""
    return tuple(check for check in checks if not check.passed)


def _confirmable(
    confirmed_check: ConfirmedCheck, by: Confirmed | None, about: CheckContext, most: Planned
) -> SafetyCheck:
    said = (
        f"confirmed by {by.who}, {by.when}"
        if by
        else "not confirmed"
        if confirmed_check.lasts
        else "not confirmed today"
    )
    if confirmed_check.asks is not None:
        said = f"{confirmed_check.asks(about, most)}; {said}"
    return SafetyCheck(
        slug=confirmed_check.slug,
        title=confirmed_check.title,
        what=confirmed_check.what,
        why=confirmed_check.why,
        passed=by is not None,
        reason=said,
        passes_by="somebody who has checked it confirms it",
        lasts=confirmed_check.lasts,
    )
