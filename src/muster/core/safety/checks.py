"""Safety checks: what must be so before a protocol is run on a source; computed where it can be, confirmed where it cannot.

They remind and calculate. Local codes and a licensed electrician decide, and
nothing here ever asks for an earth, an interlock or a protective device to be bypassed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace

from ..brief import Home, Wiring
from ..kit import Kit
from ..loads import Load
from ..quantities import plain
from ..sessions import PROTOCOLS, Protocol, Step
from ..sources import Source, SourceKind
from ..sources.limits import CONVERSION_PCT
from ..supply import Leg
from ..trade.leads import ampacity_a, area_mm2, dc_amps, fuse_for, lead_named, lead_ohm
from ..working import Working

DROP_MOST_PCT = 5.0
"""A lead to the home should lose no more of nominal (IEC 60364-5-52, annex G, other uses)."""
FREEZING_C = 0.0
"""Lithium iron phosphate is not charged below it (docs/method/energy.md#batteries)."""
"""Protocols whose steps leave it to the assessor which loads are on."""
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
    """

    slug: str
    title: str
    what: str
    why: str
    applies: Callable[[CheckContext], bool]
    lasts: bool = False


def _wired(check_context: CheckContext) -> bool:
    return check_context.home.brief.wiring is not Wiring.CORDS


def _corded(check_context: CheckContext) -> bool:
    return check_context.home.brief.wiring is Wiring.CORDS


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
    hot = {load.key for load in check_context.home.loads if load.kind_figures.dry_hazard}
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
CONNECTION = ("isolation", "interlock", "bonding", "cords")
"""The checks of the connection itself: the verdict's line “safe connection” rests on those that apply."""


def connection_checks(home: Home, source: Source) -> tuple[ConfirmedCheck, ...]:
    """The checks of the connection that apply to a home and a source."""
    return tuple(KNOWN[slug] for slug in CONNECTION if KNOWN[slug].applies(CheckContext("", home, source)))


@dataclass(frozen=True)
class Confirmed:
    """Who confirmed a check, and when (as it is told)."""

    who: str
    when: str


@dataclass(frozen=True)
class SafetyCheck:
    """A check as it is now: passed or not, why, and what would make it pass."""

    slug: str
    title: str
    what: str
    why: str
    passed: bool
    reason: str
    passes_by: str
    computed: bool = False
    lasts: bool = False
    workings: tuple[Working, ...] = ()


@dataclass(frozen=True)
class Planned:
    """The most that a plan puts on a leg and in one load [A]: which step, and which load."""

    leg_a: float
    step: str
    load_a: float
    load: str
    total_w: float


def planned(home: Home, source: Source, steps: Iterable[Step]) -> Planned:
    """The most amps of any step by the loads' running figures; the source's claim where no step says what is on."""
    system = home.brief.system
    most = Planned(0.0, "", 0.0, "", 0.0)
    for step in steps:
        on = [home.by_key[key] for key in step.loads if key in home.by_key]
        for leg in system.leg_names:
            amps = sum(load.run_va * _share(load, leg, system.legs) for load in on) / system.v_nominal
            if amps > most.leg_a:
                most = replace(most, leg_a=amps, step=step.label)
        most = replace(most, total_w=max(most.total_w, sum(load.run_w for load in on)))
    used = {key for step in steps for key in step.loads}
    for load in home.loads:
        amps = load.run_va / (system.v_nominal * (2 if load.leg is Leg.BOTH and system.legs == 2 else 1))
        if load.key in used and amps > most.load_a:
            most = replace(most, load_a=amps, load=load.name)
    if most.leg_a == 0:
        per_leg = source.claims.cont_w / system.legs / system.v_nominal
        most = Planned(per_leg, "the claim", most.load_a, most.load, source.claims.cont_w)
    return most


def _share(load: Load, leg: Leg, legs: int) -> float:
    return 1.0 if legs == 1 else load.share_on(leg)


def checks_for(
    protocol: str, home: Home, source: Source, steps: tuple[Step, ...], kit: Kit, confirmed: Mapping[str, Confirmed]
) -> tuple[SafetyCheck, ...]:
    """Every check of a protocol on a source: the computed ones by the plan, the others by who confirmed them."""
    most, about = planned(home, source, steps), CheckContext(protocol, home, source, steps)
    computed = [
        check
        for check in (
            _meter(most, kit),
            _lead(protocol, most, home, source),
            _dc(most, source),
            _cold(protocol, home, source),
        )
        if check is not None
    ]
    asked = [_confirmable(item, confirmed.get(item.slug)) for item in TO_CONFIRM if item.applies(about)]
    return (*computed, *asked)


def not_passed(checks: Iterable[SafetyCheck]) -> tuple[SafetyCheck, ...]:
    """Those that have not passed."""
    return tuple(check for check in checks if not check.passed)


def _confirmable(confirmed_check: ConfirmedCheck, by: Confirmed | None) -> SafetyCheck:
    said = (
        f"confirmed by {by.who}, {by.when}"
        if by
        else "not confirmed"
        if confirmed_check.lasts
        else "not confirmed today"
    )
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


def _meter(most: Planned, kit: Kit) -> SafetyCheck:
    """No instrument in circuit is put through more than it is safe with."""
    usual = kit.usual_for("w")
    too_small = [
        i
        for i in kit.instruments
        if i.safe_a is not None and (i.measure("w") or i.measure("a")) and i.safe_a < most.leg_a
    ]
    lines = (
        Working("most amps of a leg in the plan", most.step, plain(most.leg_a, "a"), "running figures of the loads"),
        *(Working(f"{i.name}: safe with", f"{i.safe_a:g} A", "not in the whole circuit") for i in too_small),
    )
    open_ = usual not in too_small
    names = ", ".join(i.name for i in too_small)
    reason = f"{plain(most.leg_a, 'a')} on a leg at {most.step}"
    reason += f"; keep it off the {names}" if too_small else "; within what the kit is safe with"
    return SafetyCheck(
        slug="meter",
        title="Meters",
        what="No instrument carries more than it is safe with.",
        why="A plug-in meter past its rating melts into its socket.",
        passed=open_,
        reason=reason,
        passes_by="another instrument first in the kit for watts, or smaller steps",
        computed=True,
        workings=lines,
    )


def _lead(protocol: str, most: Planned, home: Home, source: Source) -> SafetyCheck | None:
    """The lead to the home carries the plan, and does not lose too much; the inlet too, and the breaker unless it is tested."""
    wires = source.wires
    what, why = (
        "The lead, its inlet and its breaker carry the plan.",
        "A lead too thin is the first thing to burn, and its drop is taken for the source's.",
    )
    if not wires.lead:
        return None
    laid, size = lead_named(wires.lead)
    amps = ampacity_a(size, laid)
    lines = [
        Working(
            "lead",
            f"{size} {'AWG' if laid.is_awg else 'mm²'}, {laid.label}",
            plain(amps, "a"),
            "guidance; local code decides",
        )
    ]
    wrong = [f"{plain(most.leg_a, 'a')} planned, the lead carries {plain(amps, 'a')}"] if most.leg_a > amps else []
    if wires.inlet_a is not None and most.leg_a > wires.inlet_a:
        wrong.append(f"the inlet is for {wires.inlet_a:g} A")
    tripping = protocol == "overload"
    if source.claims.breaker_a is not None and most.leg_a > source.claims.breaker_a and not tripping:
        wrong.append(f"the breaker is for {source.claims.breaker_a:g} A")
    if wires.lead_m is not None:
        drop = lead_ohm(wires.lead_m, area_mm2(size, laid)) * most.leg_a
        pct = drop / home.brief.system.v_nominal * 100
        lines.append(
            Working(
                "drop = ρ·2L/A · I",
                f"{wires.lead_m:g} m at {most.leg_a:.1f} A",
                f"{drop:.2f} V, {pct:.1f} %",
                "IEC 60028",
            )
        )
        if pct > DROP_MOST_PCT:
            wrong.append(f"it loses {pct:.1f} % of nominal, over {DROP_MOST_PCT:g} %")
    said = "; ".join(wrong) or f"{plain(most.leg_a, 'a')} planned, {plain(amps, 'a')} carried"
    return SafetyCheck(
        slug="lead",
        title="Lead and inlet",
        what=what,
        why=why,
        passed=not wrong,
        reason=said,
        passes_by="a thicker or shorter lead, or a smaller plan",
        computed=True,
        workings=tuple(lines),
    )


def _dc(most: Planned, source: Source) -> SafetyCheck | None:
    """The DC fuse lets the plan run and guards the lead."""
    claims, wires = source.claims, source.wires
    if not source.kind.has_battery or claims.battery_low_v is None or not wires.dc_lead or wires.dc_fuse_a is None:
        return None
    laid, size = lead_named(wires.dc_lead)
    conversion = claims.conversion_pct or CONVERSION_PCT
    amps = dc_amps(most.total_w, conversion, claims.battery_low_v)
    fuse = fuse_for(amps, ampacity_a(size, laid))
    lines = (
        Working(
            "I = P ÷ (η · V), at the lowest volts",
            f"{most.total_w:.0f} ÷ ({conversion:g} % × {claims.battery_low_v:g})",
            plain(amps, "a"),
        ),
        Working("fuse at least 1.25 × I", f"1.25 × {amps:.0f}", plain(fuse.least_a, "a"), "NEC 210.20, 690.9"),
        Working("fuse at most what the lead carries", f"{size}, {laid.label}", plain(fuse.most_a, "a")),
    )
    wrong = []
    if wires.dc_fuse_a < fuse.least_a:
        wrong.append(f"the {wires.dc_fuse_a:g} A fuse may open under {plain(amps, 'a')}")
    if wires.dc_fuse_a > fuse.most_a:
        wrong.append(f"the {wires.dc_fuse_a:g} A fuse does not guard a lead of {plain(fuse.most_a, 'a')}")
    said = (
        "; ".join(wrong)
        or f"{wires.dc_fuse_a:g} A lies between {plain(fuse.least_a, 'a')} and {plain(fuse.most_a, 'a')}"
    )
    return SafetyCheck(
        slug="dc_fuse",
        title="DC fuse and lead",
        what="The fuse lets the plan run and guards the lead.",
        why="A lead without a fitting fuse is a fire waiting for a short.",
        passed=not wrong,
        reason=said,
        passes_by="a fuse between the two figures, a thicker lead, or a smaller plan",
        computed=True,
        workings=lines,
    )


def _cold(protocol: str, home: Home, source: Source) -> SafetyCheck | None:
    """A lithium battery is not charged below freezing."""
    if protocol not in PROTOCOLS or not PROTOCOLS[protocol].charges or not source.kind.has_battery:
        return None
    temp_c = home.brief.site.temp_c
    return SafetyCheck(
        slug="cold_battery",
        title="Battery above freezing",
        what="The battery is above freezing before it is charged.",
        why="Lithium plates out below 0 °C: the cell is lost, and may burn later.",
        passed=temp_c > FREEZING_C,
        reason=f"the brief says {temp_c:g} °C",
        passes_by="a warmer place, and the brief or the session saying so",
        computed=True,
    )
