"""Who let go: every limit in the chain, how near it was, what was seen, and the check that would tell them apart."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..bench import Segment
from ..limits import CONVERSION_PCT, Limit, limits_of
from ..quantities import Grade, Value, duration, number, plain
from ..sessions import Note, Place
from ..sources import Site, Source, SourceKind
from ..working import Working
from .finding import Finding
from .holds import Held
from .sitting import Sitting

SEEN_WITHIN_S = 300.0
"""What is noted within so long of a trip belongs to it."""
CLUES: Mapping[str, str] = {
    "dc_dead": r"\b(dc|battery|bms)\b[^,;.]*\b(dead|gone|off|open|0\s?v|nothing)\b|\bbms (trip|cut|open)",
    "dc_alive": r"\b(dc|battery)\b[^,;.]*\b(alive|live|still there|stands|there)\b",
    "display_dark": r"\b(screen|display|panel|lamps?|lights?)\b[^,;.]*\b(dark|dead|blank|black|off)\b",
    "display_alive": r"\b(screen|display)\b[^,;.]*\b(show|shows|showed|lit|on|alive|says|said)\b|\bcode\b|\boverload\b|\balarm\b|\bfault\b",
    "breaker_down": r"\bbreakers?\b[^,;.]*\b(down|tripped|off|opened|open|popped|out|jumped)\b",
    "breaker_up": r"\bbreakers?\b[^,;.]*\b(up|closed|held)\b",
    "engine_ran": r"\bengines?\b[^,;.]*\b(ran on|running|kept|went on|still)\b",
    "engine_died": r"\bengines?\b[^,;.]*\b(died|stopped|stalled|bogged|laboured|quit|slowed)\b|\bstalled\b",
    "dry": r"\b(out of fuel|ran dry|tank (is |was )?empty|fuel (gone|out))\b",
    "empty": r"\b(empty|flat|low battery|low volts|discharged)\b",
    "hot": r"\b(hot|overheat\w*|thermal|temperature|fan)\b",
    "by_itself": r"\b(by itself|on its own|itself)\b",
    "by_hand": r"\b(button|by hand|reset|restart\w*|switched back)\b",
}
"""Words a person says of a trip, and what they are a clue to."""
WORDS = {
    "dc_dead": "the DC side was dead", "dc_alive": "the DC side was alive", "display_dark": "its display was dark",
    "display_alive": "its display stayed alive and said so", "breaker_down": "a breaker was down", "breaker_up": "the breakers stayed up",
    "engine_ran": "the engine ran on", "engine_died": "the engine died", "dry": "it was out of fuel", "empty": "it was empty",
    "hot": "heat was spoken of", "by_itself": "it came back by itself", "by_hand": "it had to be put back by hand",
}  # fmt: skip
WEIGHS: Mapping[str, Mapping[str, float]] = {
    "electronic": {"dc_dead": 0.15, "dc_alive": 2, "display_dark": 0.2, "display_alive": 4, "breaker_down": 0.1, "breaker_up": 1.5, "engine_ran": 2, "engine_died": 0.1, "dry": 0.1, "empty": 0.2, "by_itself": 1.5},
    "leg": {"dc_dead": 0.1, "display_alive": 3, "breaker_down": 0.2, "breaker_up": 1.5, "engine_ran": 2, "engine_died": 0.1, "dry": 0.05, "empty": 0.1},
    "breaker": {"breaker_down": 12, "breaker_up": 0.02, "by_itself": 0.02, "display_alive": 0.5, "engine_ran": 2, "engine_died": 0.05, "dc_dead": 0.3, "dry": 0.05, "empty": 0.1},
    "battery": {"dc_dead": 8, "dc_alive": 0.03, "display_dark": 5, "display_alive": 0.3, "by_itself": 1.5, "breaker_down": 0.1, "breaker_up": 1.2},
    "dc_fuse": {"dc_dead": 5, "dc_alive": 0.02, "display_dark": 5, "display_alive": 0.1, "by_itself": 0.0, "by_hand": 0.1, "breaker_down": 0.1},
    "low_dc": {"empty": 8, "dc_alive": 1.2, "display_alive": 1.5, "by_itself": 2, "breaker_down": 0.1, "dc_dead": 0.3},
    "engine": {"engine_died": 12, "engine_ran": 0.03, "dry": 0.2, "breaker_down": 0.1, "display_alive": 0.5},
    "fuel": {"dry": 30, "engine_died": 3, "engine_ran": 0.02},
    "thermal": {"hot": 8, "by_itself": 2.5, "display_alive": 1.5, "dc_dead": 0.2, "breaker_down": 0.2, "engine_died": 0.2},
}  # fmt: skip
"""How much each clue makes each suspect more (above 1) or less likely; what is not named leaves it as it was. Ours."""
CHECKS = {
    "electronic": "the same load again from rest: it lets go after the same time",
    "leg": "the same total spread evenly over the legs: it then holds",
    "breaker": "look at the breaker's lever before anything is put back",
    "battery": "read the DC volts at once: gone means the battery's own protection",
    "dc_fuse": "with everything off, have the DC fuse looked at: it does not come back by itself",
    "low_dc": "read the DC volts at the terminals as it goes",
    "engine": "listen: an engine that slows before the volts go was at its end",
    "fuel": "look into the tank",
    "thermal": "the same load from cold: a trip by heat comes later, and the case is warm",
}
"""The check that would tell a suspect from the others."""
NAMES = {
    "electronic": "its own overload protection", "leg": "one leg at its limit", "breaker": "a breaker", "battery": "the battery's own protection",
    "dc_fuse": "the DC fuse", "low_dc": "low battery volts", "engine": "the engine at the end of its power", "fuel": "the fuel", "thermal": "its thermal protection",
}  # fmt: skip
RIVAL_SHARE = 1 / 3
"""A suspect with so much of the first one's weight is named beside it."""
WARMS_S = 300.0
"""Heat is no suspect before so long under load."""
THERMAL_FROM = 0.75
LEG_FIRST_X = 1.05
"""A leg used by so much more than the whole is taken to have let go first."""


@dataclass(frozen=True)
class Suspect:
    """A limit that may have let go: how much of it was used (None: not computed), its weight among all, and why."""

    key: str
    use: float | None
    weight: float
    reasons: tuple[str, ...]

    @property
    def name(self) -> str:
        """The suspect in words."""
        return NAMES[self.key]


@dataclass(frozen=True)
class TripSeen:
    """A trip with its suspects, likeliest first; ``back_s`` how long until it came back, None if that was not seen."""

    w: float
    held_s: float
    suspects: tuple[Suspect, ...]
    clues: tuple[str, ...]
    back_s: float | None
    by_itself: bool | None
    finding: Finding

    @property
    def leg_first(self) -> bool:
        """Whether a leg was clearly nearer to its limit than the whole: then the whole's level says little."""
        use = {s.key: s.use or 0.0 for s in self.suspects}
        return use.get("leg", 0.0) > LEG_FIRST_X * max(use.get("electronic", 0.0), use.get("engine", 0.0))

    @property
    def rivals(self) -> tuple[Suspect, ...]:
        """The likeliest, and those that fit nearly as well."""
        return tuple(s for s in self.suspects if s.weight >= RIVAL_SHARE * self.suspects[0].weight)


def by_leg(seen: Sequence[TripSeen], held: Held) -> bool:
    """Whether a level was ended by one leg."""
    return held.tripped and any(t.leg_first for t in seen if t.w == held.w and t.held_s == held.held_s)


def trips(sitting: Sitting, site: Site) -> tuple[TripSeen, ...]:
    """Every trip of a session with its suspects ranked; empty where nobody said what the source is."""
    if sitting.source is None:
        return ()
    return tuple(
        _rank(sitting, sitting.source, site, segment)
        for segment in sitting.record.segments
        if segment.ended_by == "trip"
    )


def _after(sitting: Sitting, t_s: float) -> tuple[str, float | None]:
    """What was said of a trip, at it and soon after, and how soon it was back."""
    said: list[str] = []
    back_s = None
    for entry in sitting.session.standing:
        if not t_s - 1 <= entry.t_s <= t_s + SEEN_WITHIN_S:
            continue
        for item in entry.items:
            if isinstance(item, Note):
                said.append(item.text)
            elif item.type == "event":
                said.append(f"{item.name} {item.detail}" if item.name == "code" else item.detail)
                if item.name == "reset" and back_s is None and entry.t_s >= t_s:
                    back_s = entry.t_s - t_s
    return "; ".join(said), back_s


def clues_in(text: str) -> tuple[str, ...]:
    """The clues that words hold."""
    found = tuple(clue for clue, pattern in CLUES.items() if re.search(pattern, text, re.I))
    return tuple(clue for clue in found if clue != "breaker_up" or "breaker_down" not in found)


def _rank(sitting: Sitting, source: Source, site: Site, segment: Segment) -> TripSeen:
    text, back_s = _after(sitting, segment.t1_s)
    clues = clues_in(f"{segment.trip_detail}; {text}")
    w, held_s = _load_w(sitting, segment), segment.held_s()
    suspects = []
    for key, use, why in _uses(sitting, source, site, segment, w):
        weight = _nearness(use)
        reasons = [why] if why else []
        for clue in clues:
            factor = WEIGHS[key].get(clue)
            if factor is not None and factor != 1:
                weight *= factor
                reasons.append(f"{WORDS[clue]}, which {'fits' if factor > 1 else 'speaks against it'}")
        suspects.append(Suspect(key, use, weight, tuple(reasons)))
    total = sum(s.weight for s in suspects) or 1.0
    ordered = tuple(
        sorted((Suspect(s.key, s.use, s.weight / total, s.reasons) for s in suspects), key=lambda s: -s.weight)
    )
    by_itself = True if "by_itself" in clues else False if "by_hand" in clues else None
    return TripSeen(w, held_s, ordered, clues, back_s, by_itself, _tell(segment, w, held_s, ordered, back_s, by_itself))


def _load_w(sitting: Sitting, segment: Segment) -> float:
    read = segment.total_w(sitting.system.legs)
    return read if read is not None else sum(sitting.loads[k].run_w for k in segment.on if k in sitting.loads)


def _nearness(use: float | None) -> float:
    """How a limit's use weighs: over it counts whole, well below it hardly; unknown sits between."""
    if use is None:
        return 0.25
    return 1.0 if use >= 1 else max(0.02, 1 - (1 - use) * 4)


Use = tuple[str, float | None, str]


def _uses(sitting: Sitting, source: Source, site: Site, segment: Segment, w: float) -> list[Use]:
    limits = limits_of(source, sitting.system, site)
    found = _overload(source, limits, segment, w)
    found += _legs(sitting, limits, segment)
    found += _breaker(sitting, source, segment, w)
    if source.kind.has_battery:
        found += _battery(sitting, source, segment, w)
    else:
        left = [r.value for _, t, _, r in sitting.readings("fuel_l") if t <= segment.t1_s]
        found.append(
            (
                "fuel",
                None if not left else (1.0 if left[-1] < 0.5 else 0.1),
                f"{plain(left[-1], 'l')} were last read" if left else "",
            )
        )
    if segment.held_s() >= WARMS_S and source.kind is not SourceKind.OPEN_FRAME:
        rated = limits[0].w
        use = w / rated
        why = f"{duration(segment.held_s())} at {plain(use * 100, 'pct')} of the rating is long enough to warm it"
        found.append(("thermal", min(1.0, use / (1 / THERMAL_FROM)) if use < THERMAL_FROM else 0.9, why))
    return found


def _overload(source: Source, limits: Sequence[Limit], segment: Segment, w: float) -> list[Use]:
    """The source's own rating: its electronics, or the engine's power."""
    rated = next(limit for limit in limits if limit.key == "continuous" and limit.leg is None)
    use = w / rated.w
    why = f"{plain(w, 'w')} is {plain(use * 100, 'pct')} of the {plain(rated.w, 'w')} claimed here"
    return [("engine" if source.kind is SourceKind.OPEN_FRAME else "electronic", use, why)]


def _legs(sitting: Sitting, limits: Sequence[Limit], segment: Segment) -> list[Use]:
    if sitting.system.legs != 2:
        return []
    uses = []
    for place in (Place.LEG1, Place.LEG2):
        w = segment.place_w(place)
        rated = [x.w for x in limits if x.key == "continuous" and x.leg is not None and x.leg.value == place.value]
        if w is not None and rated:
            uses.append((w / rated[0], place.words, w, rated[0]))
    if not uses:
        return [("leg", None, "")]
    use, where, w, rated_w = max(uses)
    return [("leg", use, f"{where} carried {plain(w, 'w')}, {plain(use * 100, 'pct')} of {plain(rated_w, 'w')} a leg")]


def _breaker(sitting: Sitting, source: Source, segment: Segment, w: float) -> list[Use]:
    rated = source.claims.breaker_a
    if rated is None:
        return []
    read = [r.value for _, _, r in segment.readings if r.quantity == "a" and r.place in (Place.LEG1, Place.LEG2)]
    amps = max(read) if read else w / sitting.system.v_nominal / sitting.system.legs
    # A breaker carries 1.13 times its rating for an hour and more (IEC 60898-1): below that it is no suspect.
    use = amps / (1.13 * rated)
    why = f"{plain(amps, 'a')} on a breaker of {plain(rated, 'a')}, which holds {plain(1.13 * rated, 'a')} for an hour and more"
    return [("breaker", use, why)]


def _battery(sitting: Sitting, source: Source, segment: Segment, w: float) -> list[Use]:
    claims, wires = source.claims, source.wires
    volts, amps = segment.last("v", Place.DC), segment.last("a", Place.DC)
    v = volts.value if volts else claims.battery_low_v
    drawn = amps.value if amps else w / ((claims.conversion_pct or CONVERSION_PCT) / 100 * v) if v else None
    found: list[Use] = []
    for key, rated in (("battery", claims.battery_a), ("dc_fuse", wires.dc_fuse_a)):
        if rated is not None and drawn is not None:
            how = "read" if amps else "reckoned"
            found.append(
                (
                    key,
                    drawn / rated,
                    f"{plain(drawn, 'a')} {how} on the DC side, {plain(drawn / rated * 100, 'pct')} of {plain(rated, 'a')}",
                )
            )
        else:
            found.append((key, None, ""))
    shown = [r.value for _, t, _, r in sitting.readings("soc_pct") if t <= segment.t1_s]
    if volts and claims.battery_low_v:
        found.append(
            (
                "low_dc",
                claims.battery_low_v / volts.value,
                f"{plain(volts.value, 'v')} read on the DC side, against a lowest of {plain(claims.battery_low_v, 'v')}",
            )
        )
    elif shown:
        found.append(("low_dc", 1.0 if shown[-1] < 12 else None, f"the gauge showed {plain(shown[-1], 'pct')}"))
    else:
        found.append(("low_dc", None, ""))
    return found


def _tell(
    segment: Segment, w: float, held_s: float, suspects: Sequence[Suspect], back_s: float | None, by_itself: bool | None
) -> Finding:  # fmt: skip
    first = suspects[0]
    rivals = [s for s in suspects[1:] if s.weight >= RIVAL_SHARE * first.weight]
    if rivals:
        names = " or ".join([first.name, *(s.name for s in rivals[:2])])
        checks = "; ".join(dict.fromkeys(CHECKS[s.key] for s in (first, *rivals[:2])))
        said, needs = (
            f"What let go at {plain(w, 'w')} was {names}: both fit"
            if len(rivals) == 1
            else f"What let go at {plain(w, 'w')} was {names}: all fit",
            checks,
        )
    else:
        said, needs = (
            f"What let go at {plain(w, 'w')} was most likely {first.name}",
            CHECKS[first.key] if first.weight < 0.75 else "",
        )
    if back_s is not None:
        way = " by itself" if by_itself else " by hand" if by_itself is False else ""
        said += f". It was back{way} after {duration(back_s)}"
    workings = tuple(
        Working(
            s.name, "; ".join(s.reasons) or "nothing read of it",
            ("use not known" if s.use is None else f"{number(s.use * 100)} % used") + f", {_odds(s.weight)}", "nearness to the limit × what was seen",
        )
        for s in suspects
        if s.weight > 0.01
    )  # fmt: skip
    return Finding(
        f"who-{segment.t1_s:.0f}", "trips", "Who let go", said + ".", Value(w, "w", None, None, Grade.B), workings,
        tuple(dict.fromkeys(seq for seq, _, _ in segment.readings[-3:])), needs,
    )  # fmt: skip


def _odds(weight: float) -> str:
    return "most likely" if weight > 0.5 else "may be" if weight > 0.15 else "unlikely"
