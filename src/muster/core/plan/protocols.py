"""The steps of each protocol, with the loads of this house."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace

from ..brief import Home
from ..errors import MusterError, NotEnoughReadings
from ..kit import Kit
from ..loads import Load, Tier, short_name
from ..quantities import number, plain, unit_word
from ..sessions import PROTOCOLS, Step
from ..sessions.inspection import POINTS
from ..sources import Source
from ..sources.limits import Limit, limits_of
from ..stacking.order import by_school
from ..supply import Leg
from ..trade.schools import HowHard, MotorOrder
from .changes import Changes, arranged
from .step_loads import HOLD_RATING_S, HOLD_STEP_S, STEPS_PCT, Wanted, ladder_plan, ladder_steps, no_load, within

"""Kinds whose watts follow the volts and that start softly: for steps and set-points."""
SHORT_HOLD_S = 60.0
LOADED_SHARE = 0.75
"""Of the claim: what “loaded” means on a noise walk."""
WIRED = ("inlet", "lead")
DC_WIRED = ("dc_fuse", "dc_lead")
"""Limits that no test is planned past: a wire or a fuse is not what is tested."""
OVER_PCT = (100, 105, 110, 115, 120, 130, 140, 150)
"""Steps past the claim; an overload test goes on until protection acts, the house runs out of loads, or the limit set."""


@dataclass(frozen=True)
class Planning:
    """What a protocol is planned for: the home, the source, the kit at hand, and what somebody changed."""

    protocol: str
    home: Home
    source: Source
    kit: Kit | None = None
    changes: Changes = Changes()

    @property
    def loads(self) -> list[Load]:
        """The loads without what was dropped."""
        return [load for load in self.home.every if load.key not in self.changes.dropped]

    @property
    def tested(self) -> list[Load]:
        """The loads that a test may take down: what somebody's breath or medicine hangs on is not among them."""
        return [load for load in self.loads if not load.kind_figures.medical]

    @property
    def claim_w(self) -> float:
        """What the source is claimed to give here."""
        return self._limits[0].w

    @property
    def _limits(self) -> tuple[Limit, ...]:
        return limits_of(self.source, self.home.brief.system, self.home.brief.site)

    @property
    def leg_va(self) -> float | None:
        """The most that a plan may put on a leg: its claim, breaker, inlet, lead and meter.

        An overload is to go past claim and breaker; the others bind it too.
        """
        keys = (
            WIRED if self.protocol == "overload" else (*WIRED, "breaker", *(("continuous",) if self._two_legs else ()))
        )
        result = [limit.w for limit in self._limits if limit.leg is not None and limit.key in keys]
        meter_a = safest_a(self.kit)
        if meter_a is not None:
            result.append(meter_a * self.home.brief.system.v_nominal)
        return min(result, default=None)

    @property
    def whole_va(self) -> float | None:
        """The most that a plan may put on the whole source besides its claim: what fuse, lead and battery behind it give."""
        keys = DC_WIRED if self.protocol == "overload" else (*DC_WIRED, "battery", "battery_only")
        return min((limit.w for limit in self._limits if limit.leg is None and limit.key in keys), default=None)

    @property
    def most_va(self) -> float | None:
        """The most that any step may come to, by all of it."""
        legs = None if self.leg_va is None else self.leg_va * self.home.brief.system.legs
        return min((va for va in (legs, self.whole_va) if va is not None), default=None)

    @property
    def _two_legs(self) -> bool:
        return self.home.brief.system.legs == 2

    @property
    def wanted(self) -> Wanted:
        """What steps are planned within."""
        locked = [key for key in self.changes.locked if any(load.key == key for load in self.tested)]
        legs = self.home.brief.system.legs
        return Wanted(
            claim_w=self.claim_w,
            legs=legs,
            leg_va=self.leg_va,
            locked=locked,
            dropped=self.changes.dropped,
            whole_va=self.whole_va,
        )

    def beside(self, motor: Load, base: Sequence[Load]) -> tuple[Load, ...]:
        """Those of a base that may run beside a motor, the largest left off first."""
        wanted = replace(self.wanted, locked=[motor.key])
        try:
            return tuple(load for load in within([motor, *base], wanted) if load is not motor)
        except NotEnoughReadings:  # the motor is over a limit by itself
            return ()

    def bears(self, load: Load) -> bool:
        """Whether circuit and meters let a load be on by itself."""
        try:
            return bool(within([load], self.wanted))
        except NotEnoughReadings:
            return False

    def together(self, loads: Sequence[Load]) -> tuple[Load, ...]:
        """The loads that circuit and meters let be on together, the largest left off first."""
        return within(loads, self.wanted)


def safest_a(kit: Kit | None) -> float | None:
    """The most amps that the hardiest meter of amps in a kit may be put through; None where one has no limit."""
    able = [i.safe_a for i in kit.instruments if i.measure("a")] if kit else []
    return None if not able or any(amps is None for amps in able) else max(a for a in able if a is not None)


def _as_they_are(motor: Load, base: Sequence[Load]) -> Sequence[Load]:
    del motor
    return base


def start_steps(
    loads: Sequence[Load],
    hz: float,
    locked: Collection[str] = (),
    beside: Callable[[Load, Sequence[Load]], Sequence[Load]] = _as_they_are,
    order: MotorOrder = MotorOrder.LARGEST_FIRST,
) -> tuple[Step, ...]:
    """Each motor alone, then the same on top of the loads that run throughout, then hot again; in the order of the job's school.

    Loads ``locked`` are in the base too, whatever their rhythm. ``beside``
    gives those of a base that may run beside a motor.

    Raises
    ------
    NotEnoughReadings
        If no load of this home has a start of a cycle or more.
    """
    motors = [load for load in by_school(loads, order) if load.has_start(hz)]
    if not motors:
        raise NotEnoughReadings(
            "no load of this home has a start to test", where="loads", want="add a motor, pump or compressor"
        )
    ask = "Read volts before, lowest and settled, and the highest amps; say whether it started."
    steps = []
    for motor in motors:
        name = short_name(motor)
        steps.append(Step(label=f"{name}, alone", loads=(motor.key,), target_w=None, planned_w=motor.run_w, ask=ask))
    whole = [load for load in loads if load not in motors and (load.duty.throughout or load.key in locked)]
    for motor in motors:
        name, base = short_name(motor), tuple(load.key for load in beside(motor, whole))
        steps.append(
            Step(label=f"{name}, on base load", loads=(*base, motor.key), target_w=None, planned_w=None, ask=ask)
        )
        steps.append(
            Step(
                label=f"{name}, hot again",
                loads=(*base, motor.key),
                target_w=None,
                planned_w=None,
                ask=f"{ask} Log it as a “hot start”.",
                hot=True,
            )
        )
    return tuple(steps)


def noise_steps(neighbour_m: float, loaded: Sequence[str] = ()) -> tuple[Step, ...]:
    """Background first, then at the unit and three distances, unloaded and with the loads ``loaded`` on."""
    distances = sorted({1.0, 4.0, 7.0, round(min(max(neighbour_m, 10.0), 40.0))})
    steps = [Step(label="background, source off", ask="Log it such as “background 38db”.", background=True)]
    for state, on in (("no load", ()), ("loaded", tuple(loaded))):
        steps += [
            Step(
                label=f"{plain(metres, 'm')}, {state}",
                loads=on,
                ask=f"Log it such as “64db@{number(metres, 'm')}{unit_word('m')}”.",
                distance_m=metres,
            )
            for metres in distances
        ]
    return tuple(steps)


def noise_walk_steps(planning: Planning) -> tuple[Step, ...]:
    """The noise walk, loaded with what comes nearest to three quarters of the claim."""
    if not planning.tested:
        return noise_steps(planning.home.brief.neighbour_m)
    (loaded,) = ladder_plan(planning.tested, [("loaded", LOADED_SHARE * planning.claim_w, 0.0)], planning.wanted)
    return noise_steps(planning.home.brief.neighbour_m, loaded.loads)


def idle_steps() -> tuple[Step, ...]:
    """Nothing connected: the output on, in eco mode, and off."""
    ask = "Read the DC side, or the wall side, for a quarter of an hour: such as “dc 25.6v 0.8a”."
    return (
        Step(label="output on, nothing connected", loads=(), target_w=0.0, planned_w=0.0, hold_s=900.0, ask=ask),
        Step(
            label="output on, eco mode",
            loads=(),
            target_w=0.0,
            planned_w=0.0,
            hold_s=900.0,
            ask=ask + " Say which sockets stay live.",
        ),
        Step(label="output off", loads=(), target_w=0.0, planned_w=0.0, hold_s=300.0, ask=ask),
    )


def endurance_steps() -> tuple[Step, ...]:
    """From full to empty, with a check-in each hour."""
    return (
        Step(label="full, before anything is on", ask="Read the charge or the tank: such as “100%” or “fuel 25l”."),
        Step(label="running", ask="Check in each hour: such as “81% 0.62kwh 231v 410w”; or import a recorded log."),
        Step(label="empty, or stopped", ask="Say what ended it (!trip, or a note), and read once more."),
    )


def outage_steps() -> tuple[Step, ...]:
    """A real outage, written down as it goes."""
    return (
        Step(
            label="mains gone, the source on",
            ask="Read the charge or the tank, and say what is on: such as “+boiler fuel 12l”.",
        ),
        Step(
            label="through the outage",
            ask="What happened, when it did: such as “02:14 !trip pump”, “81% 118v”, “reset”; or import its log.",
        ),
        Step(label="mains back", ask="Read the charge or the tank once more: such as “fuel 7l” or “38%”."),
    )


def _heaters(planning: Planning) -> list[Load]:
    loads = [load for load in planning.tested if load.kind_figures.plain_heat]
    if not loads:
        raise NotEnoughReadings(
            "no plain heater among the loads",
            where="loads",
            want="a kettle, a heater or an oven: its watts follow the volts",
        )
    return loads


def baseline_steps(planning: Planning) -> tuple[Step, ...]:
    """Every load on the mains, alone."""
    if not planning.loads:
        raise NotEnoughReadings("no loads yet", where="loads", want="add a load first")
    ask = "On the mains: read watts and power factor when settled, its start where the meter can, its own noise."
    return tuple(
        Step(label=short_name(load), loads=(load.key,), target_w=None, planned_w=load.run_w, hold_s=120.0, ask=ask)
        for load in planning.loads
    )


def load_step_steps(planning: Planning) -> tuple[Step, ...]:
    """Resistive steps on and off, and all off at once."""
    heaters, claim_w = _heaters(planning), planning.claim_w
    ask = "Read lowest and settled volts and hertz as it goes on; then the highest as it goes off."
    targets = [(f"{r} % on, then off", claim_w * r / 100, SHORT_HOLD_S) for r in STEPS_PCT]
    return (
        no_load(),
        *ladder_plan(heaters, targets, planning.wanted, ask),
        Step(
            label="all off at once",
            loads=(),
            target_w=0.0,
            planned_w=0.0,
            hold_s=SHORT_HOLD_S,
            ask="Read the highest volts and hertz.",
        ),
    )


def overload_steps(planning: Planning) -> tuple[Step, ...]:
    """Past the claim in fine steps, as far as the loads of the house go."""
    claim_w, most_w = planning.claim_w, sum(load.run_w for load in planning.tested)
    if most_w <= claim_w:
        raise NotEnoughReadings(
            f"all loads together are {plain(most_w, 'w')}",
            where="loads",
            want=f"loads of more than the claim of {plain(claim_w, 'w')}",
        )
    ask = "Start the hold clock; say what tripped and after how long, or that it held. Then let it cool."
    past_pct = _past_pct(planning)
    targets = [(f"{p} %", claim_w * p / 100, HOLD_STEP_S) for p in past_pct if claim_w * p / 100 <= most_w * 1.03]
    return ladder_plan(planning.tested, targets, planning.wanted, ask)


def _past_pct(planning: Planning) -> tuple[int, ...]:
    """How far past the claim the job's school goes: to the rating, to the claimed surge, or until protection acts."""
    how_hard, surge_w = planning.home.brief.schools.how_hard, planning.source.claims.surge_w
    if how_hard is HowHard.RATING:
        return OVER_PCT[:1]
    if how_hard is HowHard.SURGE and surge_w is not None:
        return tuple(pct for pct in OVER_PCT if pct <= max(100.0, surge_w / planning.source.claims.cont_w * 100))
    return OVER_PCT


def leg_steps(planning: Planning) -> tuple[Step, ...]:
    """Everything on one leg, both motors on one leg, balance, imbalance."""
    if planning.home.brief.system.legs == 1:
        raise NotEnoughReadings("this home has one leg", where="system", want="a split-phase supply")
    ask = "Read volts, amps and watts of each leg, and the neutral."
    steps = [no_load()]
    for leg in (Leg.ONE, Leg.TWO):
        loads = planning.together([load for load in planning.tested if load.leg is leg])
        if loads:
            steps.append(_all_on(f"all of {leg.label}, nothing on the other", loads, ask))
    balanced = ladder_plan(
        planning.tested, [("balance, half the claim", planning.claim_w / 2, HOLD_RATING_S)], planning.wanted, ask
    )
    return (*steps, *balanced, _all_on("all of it, as it is wired", planning.together(planning.tested), ask))


def _all_on(label: str, loads: Sequence[Load], ask: str, hold_s: float = HOLD_STEP_S) -> Step:
    """A step with just these loads on."""
    return Step(
        label=label,
        loads=tuple(load.key for load in loads),
        target_w=None,
        planned_w=sum(load.run_w for load in loads),
        hold_s=hold_s,
        ask=ask,
    )


def parallel_steps(planning: Planning) -> tuple[Step, ...]:
    """The amps of each unit at each total."""
    ask = "Read the amps of each unit and the total: such as “ua 4.1a ub 4.9a total 9a”."
    claim_w = planning.claim_w
    return (
        no_load(),
        *ladder_plan(
            planning.tested, [(f"{r} %", claim_w * r / 100, HOLD_STEP_S) for r in STEPS_PCT], planning.wanted, ask
        ),
    )


def set_point_steps(planning: Planning) -> tuple[Step, ...]:
    """No load, half, full, on plain heat: a motor would pull the frequency about."""
    claim_w = planning.claim_w
    targets = [(words, claim_w * share, SHORT_HOLD_S) for words, share in (("half load", 0.5), ("full load", 1.0))]
    return (
        no_load(),
        *ladder_plan(_heaters(planning), targets, planning.wanted, "Read hertz and volts when they stand still."),
    )


def waveform_steps(planning: Planning) -> tuple[Step, ...]:
    """Scope at no load, rated, dirty load, and while shutting down."""
    dirty = planning.together([load for load in planning.tested if not load.kind_figures.plain_heat])
    claim_w = planning.claim_w
    rated = ladder_plan(
        planning.tested, [("rated load", claim_w, SHORT_HOLD_S)], planning.wanted, "Capture ten cycles or more."
    )
    return (
        Step(
            label="no load",
            loads=(),
            target_w=0.0,
            planned_w=0.0,
            hold_s=SHORT_HOLD_S,
            ask="Capture ten cycles or more, unclipped.",
        ),
        *rated,
        *([_all_on("electronic and motor loads", dirty, "Capture ten cycles or more.", SHORT_HOLD_S)] if dirty else []),
        Step(
            label="shut down, and fuel run out",
            loads=(),
            ask="Capture the end: is it clean or ragged? Nothing sensitive connected.",
        ),
    )


def transfer_steps(planning: Planning) -> tuple[Step, ...]:
    """Mains off, the source takes over; and back."""
    on = tuple(load.key for load in planning.together([load for load in planning.tested if load.duty.throughout]))
    ask = (
        "Read the gap in milliseconds if an instrument saw it, such as “@scope 14ms”, or capture it; say what noticed."
    )
    return (
        Step(label="on the mains, as the house lives", loads=on, ask="Read volts; note what is on."),
        Step(label="mains off at its main switch", loads=on, ask=ask),
        Step(label="on the source for five minutes", loads=on, hold_s=300.0, ask="Read volts, watts and hertz."),
        Step(label="mains back", loads=on, ask=ask),
    )


def recharge_steps(planning: Planning) -> tuple[Step, ...]:
    """From empty to full, with check-ins."""
    return (
        Step(label="empty, before charging", ask="Read the charge shown, the temperature, and the wall meter's count."),
        Step(label="charging", ask="Check in each hour: such as “41% 0.62kwh 310w”; or import a recorded log."),
        Step(
            label="full, or it stopped",
            ask="Read the wall meter's count and the time; leave it an hour and read again: standing by costs too.",
        ),
    )


def solar_steps(planning: Planning) -> tuple[Step, ...]:
    """Strings against the input's window, then live input against load."""
    return (
        Step(
            label="strings as connected",
            ask="Note panels in series and strings; read open volts if those licensed to have measured them.",
        ),
        Step(
            label="in full sun, small load",
            ask="Read panel volts and watts, charge, and the load: such as “pv 148v 620w 81% 300w”; say whether the output stays on (!through) or goes off (!cut).",
        ),
        Step(label="in full sun, large load", ask="Read the same. Do the panels' watts follow the load?"),
        Step(
            label="an hour on",
            hold_s=3600.0,
            ask="Did panel volts fall by a third and stay there while the battery was not full? Note it with its time.",
        ),
    )


def cut_off_steps(planning: Planning) -> tuple[Step, ...]:
    """The DC supply walked down and up, on a bench supply or a battery emptied slowly."""
    ask = "Walk slowly; read DC volts as the output goes (“dc 45.0v !trip”), and as it comes back (“dc 48.5v !reset”)."
    return (
        Step(label="down, no load", ask=ask),
        Step(label="up again, until it recovers", ask=ask),
        Step(label="down, at half load", ask=ask + " Sag in the leads counts: read at the terminals."),
        Step(label="up to the high cut-off", ask=ask + " Stop at the booklet's maximum."),
    )


def heating_steps(planning: Planning) -> tuple[Step, ...]:
    """Weighed water on the source and on the mains, the same vessel."""
    ask = "Weigh the water, read its degrees, heat for two minutes and a half, stir, read again; read the watts drawn: such as “0.75kg 14c before 47c after 150s 930w”."
    return tuple(
        Step(label=f"on the {'mains' if on_mains else 'source'}, run {n}", ask=ask, on_mains=on_mains)
        for on_mains in (False, True)  # whoever writes down one run alone ran it on the source
        for n in (1, 2)
    )


def dedicated_steps(planning: Planning) -> tuple[Step, ...]:
    """A furnace or boiler alone: inducer, igniter, burner, blower in turn, three calls of heat."""
    furnaces = [load for load in planning.loads if load.kind == "furnace"]
    if not furnaces:
        raise NotEnoughReadings(
            "no furnace or boiler among the loads", where="loads", want="add the one to be run by cord"
        )
    ask = "Log each part as it comes: inducer, igniter, burner, blower; watts at each, and when it stopped."
    return tuple(
        Step(
            label=f"{short_name(load)}, call {n} of heat",
            loads=(load.key,),
            target_w=None,
            planned_w=load.run_w,
            ask=ask,
        )
        for load in furnaces
        for n in (1, 2, 3)
    )


def inspection_steps() -> tuple[Step, ...]:
    """Round the unit once, point by point."""
    return tuple(Step(label=point.title.lower(), target_w=0.0, planned_w=0.0, ask=point.asks) for point in POINTS)


def short_test_steps(planning: Planning) -> tuple[Step, ...]:
    """No load, the standard step, the standard motor: what a series reads of each unit."""
    alone = [load for load in planning.tested if planning.bears(load)]
    step, motor = standard_loads(alone, planning.home.brief.system.hz)
    steps = [Step(label="no load", target_w=0.0, planned_w=0.0, ask="Read volts, hertz, and the level at each spot.")]
    if step is not None:
        ask = "Read the lowest volts as it goes on, then watts, volts, hertz, and the level at each spot."
        steps.append(Step(label=f"{short_name(step)} goes on", loads=(step.key,), planned_w=step.run_w, ask=ask))
    if motor is not None:
        ask = "Read the lowest volts of its start; say whether it held."
        steps.append(Step(label=f"{short_name(motor)} starts", loads=(motor.key,), planned_w=motor.run_w, ask=ask))
    return tuple(steps)


def standard_loads(loads: Sequence[Load], hz: float) -> tuple[Load | None, Load | None]:
    """The standard step and the standard motor among some loads: the heaviest plain heat, and the heaviest start; those brought for a test first."""

    def best(fit: Callable[[Load], bool], size: Callable[[Load], float]) -> Load | None:
        return max(
            (load for load in loads if fit(load)), key=lambda load: (load.tier is Tier.TEST, size(load)), default=None
        )

    return (
        best(lambda load: load.kind_figures.plain_heat, lambda load: load.run_w),
        best(lambda load: load.has_start(hz), lambda load: load.start_total_va),
    )


PLANNERS: dict[str, Callable[[Planning], tuple[Step, ...]]] = {
    "baseline": baseline_steps,
    "idle": lambda item: idle_steps(),
    "ladder": lambda item: ladder_steps(item.tested, item.wanted),
    "starts": lambda item: start_steps(
        item.tested, item.home.brief.system.hz, item.changes.locked, item.beside, item.home.brief.schools.motor_order
    ),
    "load_steps": load_step_steps,
    "overload": overload_steps,
    "legs": leg_steps,
    "parallel": parallel_steps,
    "set_point": set_point_steps,
    "waveform": waveform_steps,
    "transfer": transfer_steps,
    "noise_walk": noise_walk_steps,
    "endurance": lambda item: endurance_steps(),
    "outage": lambda item: outage_steps(),
    "recharge": recharge_steps,
    "solar_input": solar_steps,
    "cut_offs": cut_off_steps,
    "heating_check": heating_steps,
    "dedicated": dedicated_steps,
    "short_test": short_test_steps,
    "inspection": lambda item: inspection_steps(),
}


def steps_of(
    protocol: str, home: Home, source: Source, kit: Kit | None = None, changes: Changes | None = None
) -> tuple[Step, ...]:
    """The steps of a protocol for a source in a home, with what somebody changed in the plan.

    Every step keeps within the circuit and within what the best meter of the
    kit may be put through.

    Raises
    ------
    MusterError
        If there is no such protocol, or the loads lack what it needs.
    """
    if protocol not in PLANNERS:
        raise MusterError(
            f"there is no “{protocol}”", where="protocol", want=", ".join(p.name for p in PROTOCOLS.values())
        )
    planning = Planning(protocol, home, source, kit, changes or Changes())
    return arranged(PLANNERS[protocol](planning), planning.changes)


def names_of(step: Step, loads: Sequence[Load]) -> str:
    """The loads of a step by their short names."""
    names = {load.key: short_name(load) for load in loads}
    return ", ".join(names[key] for key in step.loads if key in names)
