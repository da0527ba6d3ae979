"""The protocols, a row each: how a test is done, what is read, how many it takes, when to stop, and what follows from its kind."""

from __future__ import annotations

from dataclasses import dataclass

from .places import Place, Stat


@dataclass(frozen=True)
class Box:
    """A box of the page: which quantity, where."""

    quantity: str
    place: Place
    stat: Stat = Stat.STEADY
    leg_said: bool = True

    @property
    def name(self) -> str:
        """Its name in a form."""
        tail = "" if self.stat is Stat.STEADY else f"_{self.stat.value}"
        return f"{self.quantity}_{self.place.name.lower()}{tail}"

    @property
    def label(self) -> str:
        """What stands above its column."""
        legs, plain = (Place.LEG1, Place.LEG2), (Place.NONE, Place.TOTAL)
        told = self.place not in plain and (self.leg_said or self.place not in legs)
        place = (
            f" {self.place.label}" if told else " in all" if self.quantity == "a" and self.place is Place.TOTAL else ""
        )
        return f"{BOX_LABELS[self.quantity]}{place}{'' if self.stat is Stat.STEADY else f', {self.stat.value}'}"


BOX_LABELS = {
    "v": "volts",
    "w": "watts",
    "a": "amps",
    "pf": "PF",
    "hz": "hertz",
    "dba": "dBA",
    "temp_c": "°C",
    "soc_pct": "%",
    "wh": "Wh",
    "gap_ms": "ms",
    "water_kg": "kg of water",
    "heat_s": "seconds",
}


@dataclass(frozen=True)
class PracticeQuestion:
    """A point on which practice differs, what this plan does, and what follows from that."""

    question: str
    taken: str
    follows: str


@dataclass(frozen=True)
class Protocol:
    """A kind of test: how it is done, what it gives, roughly how long it takes.

    ``reads`` are the quantities that are read; ``people`` how many it takes;
    ``stop_at`` when to stop, beside what always stops a test; ``practice``
    where practice differs; ``boxes`` what its page has beside volts, watts and
    hertz. ``reads_mains``: the mains is read, watts in all, no volts and no
    hertz of a source; ``of_the_source``: its readings are of the source's
    output alone; ``long``: it goes on for hours, with check-ins; ``charges``:
    a battery is charged in it; ``scoped``: a scope's probe is on live parts;
    ``any_loads``: its steps leave it to the assessor which loads are on;
    ``by_hand``: nothing runs in it, it is looked at alone.
    How its steps are planned is in ``plan/protocols.py``.
    """

    slug: str
    name: str
    how: str
    gives: str
    minutes: int
    reads: tuple[str, ...]
    people: int = 1
    stop_at: tuple[str, ...] = ()
    practice: tuple[PracticeQuestion, ...] = ()
    boxes: tuple[Box, ...] = ()
    reads_mains: bool = False
    of_the_source: bool = True
    long: bool = False
    charges: bool = False
    scoped: bool = False
    any_loads: bool = False
    by_hand: bool = False


PROTOCOLS = {
    protocol.slug: protocol
    for protocol in (
        Protocol(
            slug="baseline",
            name="Baseline",
            how="Every load on the mains, alone: watts, PF, start, its own noise.",
            gives="the demand at grade A",
            minutes=60,
            reads=("w", "pf"),
            boxes=(Box("pf", Place.NONE),),
            reads_mains=True,
            of_the_source=False,
        ),
        Protocol(
            slug="idle",
            name="Idle",
            how="Source on, nothing connected; DC amps or watts, fans, noise.",
            gives="idle watts",
            minutes=15,
            reads=("dc_a", "dc_v", "dba"),
            boxes=(Box("v", Place.DC), Box("a", Place.DC)),
        ),
        Protocol(
            slug="ladder",
            name="Ladder",
            how="Loads added step by step to 25, 50, 75, 100 % of the claim and past it as far as the job allows; hold at the rating.",
            gives="held and trip points, regulation, droop",
            minutes=60,
            reads=("v", "w", "hz", "a", "dba", "temp_c"),
            stop_at=("volts outside 10 % of nominal for 10 s", "hertz outside 5 % of nominal for 10 s"),
            practice=(
                PracticeQuestion(
                    "how hard to test",
                    "to the rating, held 10 min; past it only by the overload plan",
                    "the trip point stays unknown until that is run",
                ),
            ),
            boxes=(Box("dba", Place.NONE),),
        ),
        Protocol(
            slug="starts",
            name="Starts",
            how="Each motor alone, then on top of base load, then again after a pause.",
            gives="inrush, dip, recovery, start held or stalled",
            minutes=40,
            reads=("v", "a"),
            people=2,
            stop_at=("a motor that hums and does not turn: off within 3 s", "volts below 70 % of nominal"),
            practice=(
                PracticeQuestion(
                    "big motor first or last",
                    "alone first, then on base load, then hot",
                    "both an empty source and the household's case are proved",
                ),
                PracticeQuestion(
                    "soft starters",
                    "assess without, as the worst case",
                    "with one fitted the verdict can only get better",
                ),
            ),
        ),
        Protocol(
            slug="load_steps",
            name="Load steps",
            how="Resistive steps on and off, and all off at once.",
            gives="transient voltage and frequency, class of an engine set",
            minutes=25,
            reads=("v", "hz", "w"),
            people=2,
            stop_at=("hertz outside 10 % of nominal",),
            scoped=True,
        ),
        Protocol(
            slug="overload",
            name="Overload",
            how="Past the claim in fine steps until protection acts, or to the limit set.",
            gives="hold-time curve and trip point",
            minutes=40,
            reads=("v", "w", "temp_c"),
            people=2,
            stop_at=(
                "protection acts, or the limit you set is reached",
                "volts below 85 % of nominal for 10 s",
                "the source's case hotter than its booklet allows",
            ),
            practice=(
                PracticeQuestion(
                    "how hard to test",
                    "until protection acts",
                    "the hold-time curve is known; wear and heat are the source's",
                ),
            ),
        ),
        Protocol(
            slug="legs",
            name="Legs",
            how="Everything on one leg; both motors on one leg; balance and imbalance held.",
            gives="per-leg limit, neutral current",
            minutes=30,
            reads=("v", "a", "w"),
        ),
        Protocol(
            slug="parallel",
            name="Parallel",
            how="Two units; share of current at each total.",
            gives="capacity of the pair",
            minutes=45,
            reads=("a", "w"),
            people=2,
            practice=(
                PracticeQuestion(
                    "capacity of two unlike units",
                    "the measured share line",
                    "twice the smaller and the sum are shown beside it",
                ),
            ),
            boxes=(Box("a", Place.UNIT_A), Box("a", Place.UNIT_B), Box("a", Place.TOTAL)),
        ),
        Protocol(
            slug="set_point",
            name="Set-point",
            how="No load, the load of interest, full.",
            gives="where to set the governor",
            minutes=20,
            reads=("hz", "v", "w"),
            practice=(
                PracticeQuestion(
                    "where to set a governor",
                    "measured at half and full load, so that any school can be chosen after",
                    "the calculator “Governor set-point” gives each school's figures",
                ),
            ),
        ),
        Protocol(
            slug="waveform",
            name="Waveform",
            how="Scope at no load, rated load, dirty load, and while shutting down.",
            gives="THD, crest factor, wave class",
            minutes=25,
            reads=("v", "hz"),
            practice=(
                PracticeQuestion(
                    "stepped waveforms",
                    "accepted for plain heat only, with the penalty measured",
                    "the heating check says what it costs",
                ),
            ),
            scoped=True,
        ),
        Protocol(
            slug="transfer",
            name="Transfer",
            how="Mains off, source takes over; and back.",
            gives="gap in milliseconds",
            minutes=20,
            reads=("v",),
            people=2,
            boxes=(Box("gap_ms", Place.NONE),),
            scoped=True,
            of_the_source=False,
        ),
        Protocol(
            slug="noise_walk",
            name="Noise walk",
            how="Background first; at the unit, then three or more distances; idle and loaded.",
            gives="level against distance, level at the neighbour",
            minutes=25,
            reads=("dba",),
            people=2,
            practice=(
                PracticeQuestion(
                    "noise",
                    "a ladder of distances and the neighbour's window",
                    "one figure at 7 m follows from it, not the other way",
                ),
            ),
            boxes=(Box("dba", Place.NONE),),
        ),
        Protocol(
            slug="endurance",
            name="Endurance",
            how="One load or a mix until empty, with check-ins.",
            gives="runtime, gauge truth, usable energy, heat",
            minutes=480,
            reads=("wh", "w", "soc_pct", "temp_c"),
            stop_at=("the cut-off of the source itself", "charge at the reserve, if it must serve tonight"),
            practice=(
                PracticeQuestion(
                    "capacity test",
                    "one load until empty",
                    "slow counts idle, fast counts conversion: run both to tell them apart",
                ),
            ),
            boxes=(Box("wh", Place.NONE), Box("soc_pct", Place.NONE)),
            long=True,
            any_loads=True,
        ),
        Protocol(
            slug="recharge",
            name="Recharge",
            how="From empty to full, from the mains or the sun.",
            gives="wall energy, charge efficiency",
            minutes=300,
            reads=("wh", "w", "soc_pct"),
            stop_at=("a battery below freezing", "a charger too hot to touch"),
            boxes=(Box("wh", Place.NONE), Box("soc_pct", Place.NONE)),
            reads_mains=True,
            long=True,
            charges=True,
            of_the_source=False,
        ),
        Protocol(
            slug="solar_input",
            name="Solar input",
            how="Panel strings against the input's window; live input against load.",
            gives="string layout, tracker behaviour",
            minutes=60,
            reads=("dc_v", "dc_w", "soc_pct"),
            boxes=(Box("v", Place.PANELS), Box("w", Place.PANELS), Box("soc_pct", Place.NONE)),
            charges=True,
            of_the_source=False,
        ),
        Protocol(
            slug="cut_offs",
            name="Cut-offs",
            how="DC supply walked down and up.",
            gives="cut-offs and recovery points",
            minutes=30,
            reads=("dc_v", "v"),
            stop_at=("the booklet's highest or lowest DC volts",),
            boxes=(Box("v", Place.DC),),
        ),
        Protocol(
            slug="heating_check",
            name="Heating check",
            how="Weighed water in a microwave or kettle, on two sources.",
            gives="what a poor waveform costs",
            minutes=20,
            reads=("temp_c", "w"),
            boxes=(
                Box("water_kg", Place.NONE),
                Box("temp_c", Place.NONE, Stat.BEFORE),
                Box("temp_c", Place.NONE, Stat.SETTLED),
                Box("heat_s", Place.NONE),
            ),
            any_loads=True,
            of_the_source=False,
        ),
        Protocol(
            slug="dedicated",
            name="Dedicated circuit",
            how="A furnace or boiler run by cord: inducer, igniter, blower in turn.",
            gives="start sequence, duty, hours",
            minutes=60,
            reads=("w", "a", "v"),
        ),
        Protocol(
            slug="inspection",
            name="Inspection",
            how="The unit looked over, switched off: leads, lugs, fuse, sockets, what stays live, display, cooling, covers; photos.",
            gives="the handling rows of a comparison, and what must be minded",
            minutes=15,
            reads=(),
            stop_at=("anything that would have to be opened by those not licensed to",),
            of_the_source=False,
            by_hand=True,
        ),
        Protocol(
            slug="short_test",
            name="Short test",
            how="A few figures of a unit, the same of many in one sitting: levels unloaded and loaded, a dip under a standard step and a standard motor.",
            gives="what sets units side by side",
            minutes=12,
            reads=("v", "hz", "dba"),
            practice=(
                PracticeQuestion(
                    "units side by side",
                    "the same loads, spots and instruments for each, in one sitting",
                    "what differs is the units; capacity and heat stay unknown until a ladder is run",
                ),
            ),
            boxes=(Box("dba", Place.NONE),),
        ),
        Protocol(
            slug="outage",
            name="Real outage",
            how="What happened when the mains really failed: written down meanwhile or afterwards, or by the source's own log.",
            gives="whether the outage went as it was predicted",
            minutes=30,
            reads=("v", "w", "soc_pct", "wh"),
            stop_at=("exhaust smelled indoors, or an alarm: everybody out, the set off",),
            boxes=(Box("soc_pct", Place.NONE),),
            long=True,
            any_loads=True,
        ),
    )
}
