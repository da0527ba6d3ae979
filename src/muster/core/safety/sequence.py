"""The order in which a connection is switched: over to the source, and back."""

from __future__ import annotations

from enum import StrEnum

from ..brief import Wiring
from ..sources import SourceKind


class SwitchStep(StrEnum):
    """One step of switching over to a source, or back; ``START`` and ``STOP`` are an engine's, the outputs' those of any other."""

    UNPLUG_FROM_HOUSE = "unplug_from_house"
    BRANCHES_OFF = "branches_off"
    MAIN_OFF = "main_off"
    CORD_IN = "cord_in"
    START = "start"
    OUTPUT_ON = "output_on"
    CORD_TO_LOADS = "cord_to_loads"
    LOADS_ON = "loads_on"
    INTERLOCK_OVER = "interlock_over"
    INLET_ON = "inlet_on"
    BRANCHES_ON = "branches_on"
    ESSENTIAL_OFF = "essential_off"
    CHANGE_OVER = "change_over"
    ESSENTIAL_ON = "essential_on"
    SAY_SO = "say_so"
    MAINS_SIDE_OPEN = "mains_side_open"
    READ_VOLTS = "read_volts"
    LOADS_OFF = "loads_off"
    STOP = "stop"
    OUTPUT_OFF = "output_off"
    PLUG_BACK = "plug_back"
    BRANCHES_AND_INLET_OFF = "branches_and_inlet_off"
    INTERLOCK_BACK = "interlock_back"
    BRANCHES_ON_AGAIN = "branches_on_again"
    CORD_OUT = "cord_out"
    CHANGE_BACK = "change_back"
    MAINS_SIDE_CLOSED = "mains_side_closed"
    TRANSFER_GOES_OVER = "transfer_goes_over"
    TRANSFER_GOES_BACK = "transfer_goes_back"


STEP_TEXT: dict[SwitchStep, str] = {
    SwitchStep.UNPLUG_FROM_HOUSE: "Switch the appliance off and pull its plug out of the house's own socket: no cord ever goes from the source into a socket of the house.",
    SwitchStep.BRANCHES_OFF: "Switch every branch breaker off.",
    SwitchStep.MAIN_OFF: "Switch the main breaker off, and lock it or tag it.",
    SwitchStep.CORD_IN: "With the source off, put the cord into the source, then into the inlet.",
    SwitchStep.START: "Start the engine outdoors without load; let it run up, and read volts and hertz at the source itself.",
    SwitchStep.OUTPUT_ON: "Switch the source's output on without load, and read volts at the source itself.",
    SwitchStep.CORD_TO_LOADS: "Unroll the cord, plug it into the source, then the appliance into the cord.",
    SwitchStep.LOADS_ON: "Switch the appliances on one by one, the one with the heaviest start first.",
    SwitchStep.INTERLOCK_OVER: "Slide the interlock over: it must not go while the main breaker is on.",
    SwitchStep.INLET_ON: "Switch the inlet breaker on; read volts in the panel, on both legs where there are two.",
    SwitchStep.BRANCHES_ON: "Switch the branch breakers on one by one, the heaviest start first.",
    SwitchStep.ESSENTIAL_OFF: "Switch the breakers of the essential-circuits panel off.",
    SwitchStep.CHANGE_OVER: "Turn the changeover switch from mains through off to source.",
    SwitchStep.ESSENTIAL_ON: "Read volts in the panel, then switch its breakers on one by one, the heaviest start first.",
    SwitchStep.SAY_SO: "Say to everybody in the house that the mains is about to go, and switch off what must not see a gap.",
    SwitchStep.MAINS_SIDE_OPEN: "Open the mains side at its own isolator, and lock it or tag it: the transfer follows by itself.",
    SwitchStep.READ_VOLTS: "Read volts on the load side before anything heavy is switched on.",
    SwitchStep.LOADS_OFF: "Switch the appliances off, unplug them from the cord.",
    SwitchStep.STOP: "Let the engine run without load for some minutes, then stop it; refuel only when it has cooled.",
    SwitchStep.OUTPUT_OFF: "Switch the source's output off.",
    SwitchStep.PLUG_BACK: "Put each plug back into its socket of the house.",
    SwitchStep.BRANCHES_AND_INLET_OFF: "Switch the branch breakers off, then the inlet breaker.",
    SwitchStep.INTERLOCK_BACK: "Slide the interlock back, and switch the main breaker on.",
    SwitchStep.BRANCHES_ON_AGAIN: "Switch the branch breakers on one by one.",
    SwitchStep.CORD_OUT: "Take the cord out of the inlet last.",
    SwitchStep.CHANGE_BACK: "Turn the changeover switch from source through off to mains, and the breakers on.",
    SwitchStep.MAINS_SIDE_CLOSED: "Close the mains side at its isolator, and wait until the transfer has gone back.",
    SwitchStep.TRANSFER_GOES_OVER: "Wait until the transfer has gone over to the source by itself.",
    SwitchStep.TRANSFER_GOES_BACK: "Wait until the transfer has gone back to the mains by itself.",
}
"""Each step as an assessor reads it; a household's card has words of its own for the same steps."""
OVER: dict[Wiring, tuple[SwitchStep, ...]] = {
    Wiring.CORDS: (SwitchStep.UNPLUG_FROM_HOUSE, SwitchStep.START, SwitchStep.CORD_TO_LOADS, SwitchStep.LOADS_ON),
    Wiring.INTERLOCK: (
        SwitchStep.BRANCHES_OFF,
        SwitchStep.MAIN_OFF,
        SwitchStep.CORD_IN,
        SwitchStep.START,
        SwitchStep.INTERLOCK_OVER,
        SwitchStep.INLET_ON,
        SwitchStep.BRANCHES_ON,
    ),
    Wiring.ESSENTIAL: (
        SwitchStep.ESSENTIAL_OFF,
        SwitchStep.CORD_IN,
        SwitchStep.START,
        SwitchStep.CHANGE_OVER,
        SwitchStep.ESSENTIAL_ON,
    ),
    Wiring.AUTOMATIC: (SwitchStep.SAY_SO, SwitchStep.START, SwitchStep.MAINS_SIDE_OPEN, SwitchStep.READ_VOLTS),
}
BACK: dict[Wiring, tuple[SwitchStep, ...]] = {
    Wiring.CORDS: (SwitchStep.LOADS_OFF, SwitchStep.STOP, SwitchStep.PLUG_BACK),
    Wiring.INTERLOCK: (
        SwitchStep.BRANCHES_AND_INLET_OFF,
        SwitchStep.INTERLOCK_BACK,
        SwitchStep.BRANCHES_ON_AGAIN,
        SwitchStep.STOP,
        SwitchStep.CORD_OUT,
    ),
    Wiring.ESSENTIAL: (SwitchStep.ESSENTIAL_OFF, SwitchStep.CHANGE_BACK, SwitchStep.STOP, SwitchStep.CORD_OUT),
    Wiring.AUTOMATIC: (SwitchStep.MAINS_SIDE_CLOSED, SwitchStep.STOP),
}
WITHOUT_ENGINE = {SwitchStep.START: SwitchStep.OUTPUT_ON, SwitchStep.STOP: SwitchStep.OUTPUT_OFF}
"""What takes the place of a step where nothing turns."""


def switch_steps(wiring: Wiring, kind: SourceKind) -> tuple[tuple[SwitchStep, ...], tuple[SwitchStep, ...]]:
    """The steps over to the source, and the steps back, in their order.

    Parameters
    ----------
    wiring
        How the source feeds the home.
    kind
        What the source is.

    Returns
    -------
    tuple of tuple of SwitchStep
        Over, and back. They remind; the labels of the switchgear and a licensed electrician go first.
    """
    other = {} if kind.has_engine else WITHOUT_ENGINE
    over, back = OVER[wiring], BACK[wiring]
    return tuple(other.get(step, step) for step in over), tuple(other.get(step, step) for step in back)


BY_ITSELF = (SwitchStep.TRANSFER_GOES_OVER, SwitchStep.LOADS_ON), (SwitchStep.TRANSFER_GOES_BACK,)
"""What an automatic transfer leaves to a household when the mains fails: nothing is opened by hand, as a test does."""


def household_steps(wiring: Wiring, kind: SourceKind) -> tuple[tuple[SwitchStep, ...], tuple[SwitchStep, ...]]:
    """The steps of a household whose mains has failed: as ``switch_steps``, but what an automatic transfer does by itself."""
    over, back = switch_steps(wiring, kind)
    if wiring is not Wiring.AUTOMATIC:
        return over, back
    start = [step for step in over if step in (SwitchStep.START, SwitchStep.OUTPUT_ON)]
    stop = [step for step in back if step in (SwitchStep.STOP, SwitchStep.OUTPUT_OFF)]
    return (*start, *BY_ITSELF[0]), (*BY_ITSELF[1], *stop)


def switching(wiring: Wiring, kind: SourceKind) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The steps of ``switch_steps`` as an assessor reads them."""
    over, back = switch_steps(wiring, kind)
    return tuple(STEP_TEXT[step] for step in over), tuple(STEP_TEXT[step] for step in back)
