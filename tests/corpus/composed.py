"""Jottings composed of parts whose meaning is known: in any company a part must mean what it means alone."""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import dataclass

from muster.core.supply import SYSTEMS

from .reading import Jotting

TIMES = (
    ("14:05", "t 14:05"),
    ("2:05 pm", "t 14:05"),
    ("at 21:30", "t 21:30"),
    ("06:50", "t 06:50"),
    ("3 min ago", "t +180 s ago"),
    ("next day 08:15", "t 08:15 next day"),
    ("day 2 07:40", "t 07:40 day 2"),
)
ELECTRIC = (
    ("231v", "v 1 231"),
    ("228.4 volts", "v 1 228.4"),
    ("2.35kw", "w 1 2350"),
    ("880 w", "w 1 880"),
    ("1,450 watts", "w 1 1450"),
    ("10.4a", "a 1 10.4"),
    ("9.1 amps", "a 1 9.1"),
    ("49.7hz", "hz - 49.7"),
    ("51.2 hz", "hz - 51.2"),
    ("pf 0.74", "pf 1 0.74"),
    ("1.9kva", "va 1 1900"),
    ("thd 6.2%", "thd_pct 1 6.2"),
)
OTHERS = (
    ("66db at 7m", "dba - 66 @7"),
    ("71 dB 3 m", "dba - 71 @3"),
    ("background 38 db", "dba - 38 background"),
    ("used 1.3 l", "fuel_l - 1.3; !burnt"),
    ("gap 14 ms", "gap_ms - 14"),
    ("3020 rpm", "rpm - 3020"),
    ("plug 47c", "temp_c - 47"),
    ("clock 60.2s in 60s", "clock_s - 60.2"),
    ("72%", "soc_pct - 72"),
    ("1.24kwh", "wh - 1240"),
    ("lowest 194v", "v 1 194 lowest"),
    ("dipped to 189v", "v 1 189 lowest"),
    ("peak 28a", "a 1 28 highest"),
    ("max 31 amps", "a 1 31 highest"),
)
SIDES = (
    ("pv 340w", "w pv 340"),
    ("panels 37v", "v pv 37"),
    ("25.4v dc", "v dc 25.4"),
    ("dc 24.9v", "v dc 24.9"),
    ("battery 25.1v", "v dc 25.1"),
    ("61a dc", "a dc 61"),
    ("dc 24.2v 58a", "v dc 24.2; a dc 58"),
)
"""Of the other sides; amps that stand beside them in a line are of theirs."""
SWITCHED = (
    ("heater on", "+heater"),
    ("turned the heater on", "+heater"),
    ("switched on the lights", "+lights"),
    ("added the fridge", "+fridge"),
    ("microwave on too", "+microwave"),
    ("plugged in the freezer", "+freezer"),
    ("kettle off", "-kettle"),
    ("turned off the saw", "-saw"),
    ("switched the lights off", "-lights"),
    ("unplugged the freezer", "-freezer"),
    ("switched off the heater and the kettle", "-heater; -kettle"),
    ("fridge and freezer on", "+fridge; +freezer"),
    ("lights and fridge off", "-lights; -fridge"),
)
STARTED = (
    ("pump start", "start pump"),
    ("start of the pump", "start pump"),
    ("saw started ok", "start saw; !held"),
    ("fridge starts", "start fridge"),
    ("freezer start held", "start freezer; !held"),
)
EVENTS = (
    ("tripped", "!trip"),
    ("it went off", "!trip"),
    ("shut itself down", "!trip"),
    ("tripped again", "!trip"),
    ("breaker tripped", "!trip"),
    ("came back by itself", "!back"),
    ("reset", "!reset"),
    ("reset the breaker", "!reset"),
    ("bogged down", "!bog"),
    ("lights flicker", "!flicker"),
    ("beeping", "!beep"),
    ("code F3", "!code"),
    ("error 12", "!code"),
    ("overload light on", "!code"),
    ("low oil light", "!code"),
    ("plug warm", "!warm"),
    ("smell of hot plastic", "!smell"),
    ("smoke", "!smell"),
    ("fan on", "!fan"),
    ("loud buzz", "!noise"),
    ("refuelled", "!refill"),
    ("oil changed", "!service"),
    ("adjusted the governor", "!adjust"),
    ("ran dry", "!empty"),
    ("sockets live when off", "!live"),
    ("screen went dark", "!display"),
)
NOTES = (
    "sun low",
    "moved the meter",
    "cord is 15 m",
    "label says 2.8kw",
    "supposed to do 3kw",
    "nothing got warm",
    "no smell",
    "did not trip",
    "never beeped",
    "kids home",
    "wind from the north",
    "window shut",
    "bought used",
    "gate open",
    "looks dusty",
    "will try the saw tomorrow",
    "neighbour came over",
    "rain again",
    "wheels are flat",
    "fell by 9 volts",
    "lost 6%",
    "droop 2.4 hz",
    "tank 3/4",
    "2 c warmer than before",
    "8% an hour",
)
BETWEEN = (", ", ", ", "; ", ". ", " - ", ", then ")
LONE = {"background 38 db", "kettle off"}


@dataclass(frozen=True)
class Part:
    """Words, what they mean, and of which sort they are."""

    text: str
    meant: tuple[str, ...]
    sort: str


def _parts() -> dict[str, list[Part]]:
    lists = {
        "electric": ELECTRIC,
        "other": OTHERS,
        "side": SIDES,
        "switched": SWITCHED,
        "started": STARTED,
        "event": EVENTS,
    }
    parts = {
        sort: [Part(text=text, meant=tuple(meant.split("; ")), sort=sort) for text, meant in rows]
        for sort, rows in lists.items()
    }
    parts["note"] = [Part(text=text, meant=(), sort="note") for text in NOTES]
    return parts


def _of(meant: str) -> str:
    """What a part is of: no two parts of a line may speak of the same thing."""
    words = meant.split()
    return words[-1] if words[0] == "start" else meant.lstrip("+-!").split()[0]


def _clash(part: Part, other: Part) -> bool:
    """Whether two parts would mean something else beside one another than alone: amps beside a DC side are of it."""
    exclusive = part.sort == other.sort and part.sort in ("started", "event", "switched", "side")
    amps = any(
        meant.startswith(("a ", "w ")) for which in (part, other) if which.sort != "side" for meant in which.meant
    )
    return exclusive or (amps and "side" in (part.sort, other.sort))


def composed(seed: int, count: int) -> Iterator[Jotting]:
    """Jottings of two to four parts, some with a time before them."""
    chance = random.Random(seed)
    parts = _parts()
    for _ in range(count):
        chosen: list[Part] = []
        for _ in range(chance.randint(2, 4)):
            sort = chance.choice(("electric", "electric", "other", "side", "switched", "started", "event", "note"))
            part = chance.choice(parts[sort])
            taken = {_of(meant) for other in chosen for meant in other.meant}
            if (
                part not in chosen
                and not any(_clash(part, other) for other in chosen)
                and not taken & {_of(meant) for meant in part.meant}
            ):
                chosen.append(part)
        time = chance.choice(TIMES) if chance.random() < 0.3 else None
        between = chance.choice(BETWEEN)
        text = between.join(part.text for part in chosen)
        meant = [meant for part in chosen for meant in part.meant]
        if time:
            text, meant = f"{time[0]} {text}", [time[1], *meant]
        yield Jotting(system=SYSTEMS["single-230-50"], text=text, meant=tuple(meant) or ("note",))
