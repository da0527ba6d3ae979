"""The order in which a connection is switched: over to the source, and back."""

from __future__ import annotations

from ..brief import Wiring
from ..sources import SourceKind

STARTED = {
    True: "Start the engine outdoors without load; let it run up, and read volts and hertz at the source itself.",
    False: "Switch the source's output on without load, and read volts at the source itself.",
}
STOPPED = {
    True: "Let the engine run without load for some minutes, then stop it; refuel only when it has cooled.",
    False: "Switch the source's output off.",
}
OVER: dict[Wiring, tuple[str, ...]] = {
    Wiring.CORDS: (
        "Switch the appliance off and pull its plug out of the house's own socket: no cord ever goes from the source into a socket of the house.",
        "{started}",
        "Unroll the cord, plug it into the source, then the appliance into the cord.",
        "Switch the appliances on one by one, the one with the heaviest start first.",
    ),
    Wiring.INTERLOCK: (
        "Switch every branch breaker off.",
        "Switch the main breaker off, and lock it or tag it.",
        "With the source off, put the cord into the source, then into the inlet.",
        "{started}",
        "Slide the interlock over: it must not go while the main breaker is on.",
        "Switch the inlet breaker on; read volts in the panel, on both legs where there are two.",
        "Switch the branch breakers on one by one, the heaviest start first.",
    ),
    Wiring.ESSENTIAL: (
        "Switch the breakers of the essential-circuits panel off.",
        "With the source off, put the cord into the source, then into the inlet.",
        "{started}",
        "Turn the changeover switch from mains through off to source.",
        "Read volts in the panel, then switch its breakers on one by one, the heaviest start first.",
    ),
    Wiring.AUTOMATIC: (
        "Say to everybody in the house that the mains is about to go, and switch off what must not see a gap.",
        "{started}",
        "Open the mains side at its own isolator, and lock it or tag it: the transfer follows by itself.",
        "Read volts on the load side before anything heavy is switched on.",
    ),
}
BACK: dict[Wiring, tuple[str, ...]] = {
    Wiring.CORDS: (
        "Switch the appliances off, unplug them from the cord.",
        "{stopped}",
        "Put each plug back into its socket of the house.",
    ),
    Wiring.INTERLOCK: (
        "Switch the branch breakers off, then the inlet breaker.",
        "Slide the interlock back, and switch the main breaker on.",
        "Switch the branch breakers on one by one.",
        "{stopped}",
        "Take the cord out of the inlet last.",
    ),
    Wiring.ESSENTIAL: (
        "Switch the panel's breakers off.",
        "Turn the changeover switch from source through off to mains, and the breakers on.",
        "{stopped}",
        "Take the cord out of the inlet last.",
    ),
    Wiring.AUTOMATIC: ("Close the mains side at its isolator, and wait until the transfer has gone back.", "{stopped}"),
}


def switching(wiring: Wiring, kind: SourceKind) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The steps over to the source, and the steps back, in their order.

    Returns
    -------
    tuple of tuple of str
        Over, and back. They remind; the labels of the switchgear and a licensed electrician go first.
    """
    words = {"started": STARTED[kind.has_engine], "stopped": STOPPED[kind.has_engine]}
    over = tuple(step.format(**words) for step in OVER[wiring])
    return over, tuple(step.format(**words) for step in BACK[wiring])
