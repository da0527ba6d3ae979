"""What tripped: every limit in the chain, how near it was, what was seen, and the check that would tell them apart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from ..quantities import Grade, Value, duration, number, plain
from ..sessions import Event, EventName, Length, LengthOf, Note, Place
from ..sessions.log_line.telling import event_text
from ..sessions.replay import LIVE_AGAIN, EndedBy, Segment
from ..sources import Site, Source, SourceKind
from ..sources.limits import CONVERSION_PCT, Limit, limits_of
from ..working import Working
from .clues import Clue, clues_in
from .context import SessionContext
from .finding import Finding, Topic
from .holds import Held, unread_w
from .holds_told import went_empty

SEEN_WITHIN_S = 300.0
"""What is noted within so long of a trip belongs to it."""


BACK_U_S, BACK_SAID_U = 10.0, 0.1
"""How far the time until it was back may be out: between two entries [s], and a share of it where somebody said it."""


class Suspected(StrEnum):
    """What may end a load."""

    ELECTRONIC = "electronic"
    LEG = "leg"
    BREAKER = "breaker"
    BATTERY = "battery"
    DC_FUSE = "dc_fuse"
    LOW_DC = "low_dc"
    ENGINE = "engine"
    FUEL = "fuel"
    THERMAL = "thermal"


WEIGHS: Mapping[Suspected, Mapping[Clue, float]] = {
    Suspected.ELECTRONIC: {
        Clue.DC_DEAD: 0.15,
        Clue.DC_ALIVE: 2,
        Clue.DISPLAY_DARK: 0.2,
        Clue.DISPLAY_ALIVE: 4,
        Clue.BREAKER_DOWN: 0.1,
        Clue.BREAKER_UP: 1.5,
        Clue.ENGINE_RAN: 2,
        Clue.ENGINE_DIED: 0.1,
        Clue.DRY: 0.1,
        Clue.EMPTY: 0.2,
        Clue.BY_ITSELF: 1.5,
    },
    Suspected.LEG: {
        Clue.DC_DEAD: 0.1,
        Clue.DISPLAY_ALIVE: 3,
        Clue.BREAKER_DOWN: 0.2,
        Clue.BREAKER_UP: 1.5,
        Clue.ENGINE_RAN: 2,
        Clue.ENGINE_DIED: 0.1,
        Clue.DRY: 0.05,
        Clue.EMPTY: 0.1,
    },
    Suspected.BREAKER: {
        Clue.BREAKER_DOWN: 12,
        Clue.BREAKER_UP: 0.02,
        Clue.BY_ITSELF: 0.02,
        Clue.DISPLAY_ALIVE: 0.5,
        Clue.ENGINE_RAN: 2,
        Clue.ENGINE_DIED: 0.05,
        Clue.DC_DEAD: 0.3,
        Clue.DRY: 0.05,
        Clue.EMPTY: 0.1,
    },
    Suspected.BATTERY: {
        Clue.DC_DEAD: 8,
        Clue.DC_ALIVE: 0.03,
        Clue.DISPLAY_DARK: 5,
        Clue.DISPLAY_ALIVE: 0.3,
        Clue.BY_ITSELF: 1.5,
        Clue.BREAKER_DOWN: 0.1,
        Clue.BREAKER_UP: 1.2,
    },
    Suspected.DC_FUSE: {
        Clue.DC_DEAD: 5,
        Clue.DC_ALIVE: 0.02,
        Clue.DISPLAY_DARK: 5,
        Clue.DISPLAY_ALIVE: 0.1,
        Clue.BY_ITSELF: 0.0,
        Clue.BY_HAND: 0.1,
        Clue.BREAKER_DOWN: 0.1,
    },
    Suspected.LOW_DC: {
        Clue.EMPTY: 8,
        Clue.DC_ALIVE: 1.2,
        Clue.DISPLAY_ALIVE: 1.5,
        Clue.BY_ITSELF: 2,
        Clue.BREAKER_DOWN: 0.1,
        Clue.DC_DEAD: 0.3,
    },
    Suspected.ENGINE: {
        Clue.ENGINE_DIED: 12,
        Clue.ENGINE_RAN: 0.03,
        Clue.DRY: 0.2,
        Clue.BREAKER_DOWN: 0.1,
        Clue.DISPLAY_ALIVE: 0.5,
    },
    Suspected.FUEL: {Clue.DRY: 30, Clue.ENGINE_DIED: 3, Clue.ENGINE_RAN: 0.02},
    Suspected.THERMAL: {
        Clue.HOT: 8,
        Clue.BY_ITSELF: 2.5,
        Clue.DISPLAY_ALIVE: 1.5,
        Clue.DC_DEAD: 0.2,
        Clue.BREAKER_DOWN: 0.2,
        Clue.ENGINE_DIED: 0.2,
    },
}
"""How much each clue makes each suspect more (above 1) or less likely; what is not named leaves it as it was. Ours."""
CHECKS = {
    Suspected.ELECTRONIC: "the same load again from rest: it trips after the same time",
    Suspected.LEG: "the same total spread evenly over the legs: it then holds",
    Suspected.BREAKER: "look at the breaker's lever before anything is put back",
    Suspected.BATTERY: "read the DC volts at once: gone means the battery's own protection",
    Suspected.DC_FUSE: "with everything off, have the DC fuse looked at: it does not come back by itself",
    Suspected.LOW_DC: "read the DC volts at the terminals as it goes",
    Suspected.ENGINE: "listen: an engine that slows before the volts go was at its end",
    Suspected.FUEL: "look into the tank",
    Suspected.THERMAL: "the same load from cold: a trip by heat comes later, and the case is warm",
}
"""The check that would tell a suspect from the others."""
NAMES = {
    Suspected.ELECTRONIC: "its own overload protection",
    Suspected.LEG: "one leg at its limit",
    Suspected.BREAKER: "a breaker",
    Suspected.BATTERY: "the battery's own protection",
    Suspected.DC_FUSE: "the DC fuse",
    Suspected.LOW_DC: "low battery volts",
    Suspected.ENGINE: "the engine at the end of its power",
    Suspected.FUEL: "the fuel",
    Suspected.THERMAL: "its thermal protection",
}
RIVAL_SHARE = 1 / 3
"""A suspect with so much of the first one's weight is named beside it."""
MOST_BEYOND = 2.0
"""A limit used by more than this is no surer for it."""
BEYOND_WEIGHS = 4
"""How much sooner a limit goes that is used by more: the powers of a hold curve lie between 1 and 6. Ours."""
WARMS_S = 300.0
"""Heat is no suspect before so long under load."""
THERMAL_FROM = 0.75
LEG_FIRST_X = 1.05
"""A leg used by so much more than the whole is taken to have tripped first."""


@dataclass(frozen=True)
class Suspect:
    """A limit that may have tripped: how much of it was used (None: not computed), its weight among all, and why."""

    key: Suspected
    use: float | None
    weight: float
    reasons: tuple[str, ...]
    put_in: str = ""

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
    clues: tuple[Clue, ...]
    back_s: float | None
    by_itself: bool | None
    finding: Finding
    u_back_s: float = BACK_U_S

    @property
    def leg_first(self) -> bool:
        """Whether a leg was clearly nearer to its limit than the whole: then the whole's level says little."""
        use = {s.key: s.use or 0.0 for s in self.suspects}
        return use.get(Suspected.LEG, 0.0) > LEG_FIRST_X * max(
            use.get(Suspected.ELECTRONIC, 0.0), use.get(Suspected.ENGINE, 0.0)
        )

    @property
    def rivals(self) -> tuple[Suspect, ...]:
        """The likeliest, and those that fit nearly as well."""
        return tuple(s for s in self.suspects if s.weight >= RIVAL_SHARE * self.suspects[0].weight)


def by_leg(seen: Sequence[TripSeen], held: Held) -> bool:
    """Whether a level was ended by one leg."""
    w = held.w if held.measured_w is None else held.measured_w
    return held.tripped and any(t.leg_first for t in seen if t.w == w and t.held_s == held.held_s)


def trips(context: SessionContext, site: Site, holds: Sequence[Held] = ()) -> tuple[TripSeen, ...]:
    """Every trip of a session with its suspects ranked; empty where nobody said what the source is, or its cut-offs were sought."""
    if context.source is None or context.session.protocol == "cut_offs":
        return ()
    held = [h for h in holds if h.place is Place.TOTAL and not h.tripped and not h.bogged and h.held_s > 0]
    return tuple(
        _rank(context, context.source, site, segment, held)
        for segment in context.record.segments
        if segment.ended_by is EndedBy.TRIP
    )


def _after(context: SessionContext, t_s: float) -> tuple[str, float | None, float]:
    """What was said of a trip, at it and soon after, how soon it was back, and how far that may be out."""
    said: list[str] = []
    back_s, u_s = None, BACK_U_S
    for entry in context.session.effective:
        if not t_s - 1 <= entry.t_s <= t_s + SEEN_WITHIN_S:
            continue
        for item in entry.items:
            if isinstance(item, Note):
                said.append(item.text)
            elif isinstance(item, Event):
                again = f"back {item.detail}" if item.detail else ""
                said.append(again if item.name == EventName.RESET else event_text(item))
                if item.name in LIVE_AGAIN and back_s is None and entry.t_s >= t_s:
                    back_s = entry.t_s - t_s
        lengths = [item.for_s for item in entry.items if isinstance(item, Length) and item.of is LengthOf.BACK]
        if lengths:
            back_s, u_s = lengths[0], max(1.0, BACK_SAID_U * lengths[0])
    return "; ".join(said), back_s or None, u_s  # lines without a time say that it came back, and not when


def _rank(context: SessionContext, source: Source, site: Site, segment: Segment, held: Sequence[Held]) -> TripSeen:
    text, back_s, u_back_s = _after(context, segment.t1_s)
    clues = clues_in(f"{segment.trip_detail}; {text}")
    w, held_s = _load_w(context, segment), segment.held_s()
    suspects = []
    for use in _uses(context, source, site, segment, w, held):
        if use.key is Suspected.BREAKER and use.share is None and Clue.BREAKER_DOWN not in clues:
            continue  # nobody said that there is one
        weight = _nearness(use.share)
        reasons = [use.why] if use.why else []
        for clue in clues:
            factor = WEIGHS[use.key].get(clue)
            if factor is not None and factor != 1:
                weight *= factor
                reasons.append(f"{clue.label}, which {'fits' if factor > 1 else 'speaks against it'}")
        suspects.append(Suspect(use.key, use.share, weight, tuple(reasons), use.put_in))
    total = sum(s.weight for s in suspects) or 1.0
    ordered = tuple(sorted((replace(s, weight=s.weight / total) for s in suspects), key=lambda s: -s.weight))
    by_itself = True if Clue.BY_ITSELF in clues else False if Clue.BY_HAND in clues else None
    return TripSeen(
        w=w,
        held_s=held_s,
        suspects=ordered,
        clues=clues,
        back_s=back_s,
        by_itself=by_itself,
        finding=_describe(segment, w, held_s, ordered, back_s, by_itself),
        u_back_s=u_back_s,
    )


def _load_w(context: SessionContext, segment: Segment) -> float:
    read = segment.total_w(context.system.legs)
    return read if read is not None else unread_w(context.record.segments, segment, context.loads, context.system.legs)


def _nearness(use: float | None) -> float:
    """How a limit's use weighs: the more it is passed the more, well below it hardly; unknown sits between."""
    if use is None:
        return 0.25
    if use >= 1:
        return float(min(use, MOST_BEYOND) ** BEYOND_WEIGHS)
    return max(0.02, 1 - (1 - use) * 4)


def _limit_for(rated: float, for_a_moment: float | None, moment_s: float | None, stood_s: float) -> float:
    """What a level is held against of a limit that carries more for a moment: within that time the more.

    A level of no known length is held against what is carried for good.
    """
    if for_a_moment is None or not moment_s or not 0 < stood_s < moment_s:
        return rated
    return for_a_moment


@dataclass(frozen=True)
class Use:
    """How much of a limit was used, None where nobody knows, and why; ``put_in`` is how the share was reached, empty where it is taken."""

    key: Suspected
    share: float | None = None
    why: str = ""
    put_in: str = ""


def _uses(
    context: SessionContext, source: Source, site: Site, segment: Segment, w: float, held: Sequence[Held]
) -> list[Use]:
    limits = limits_of(source, context.system, site)
    uses = _overload(source, limits, segment, w, held)
    uses += _legs(context, limits, segment)
    uses += _breaker(context, source, segment, w)
    if source.kind.has_battery:
        uses += _battery(context, source, segment, w, held)
    else:
        left = [r.value for _, t, _, r in context.readings("fuel_l") if t <= segment.t1_s]
        share = None if not left else (1.0 if left[-1] < 0.5 else 0.1)
        uses.append(Use(Suspected.FUEL, share, f"{plain(left[-1], 'l')} were last read" if left else ""))
    if segment.held_s() >= WARMS_S and source.kind is not SourceKind.OPEN_FRAME:
        rated = limits[0].w
        use = w / rated
        why = f"{duration(segment.held_s())} at {plain(use * 100, 'pct')} of the rating is long enough to warm it"
        if use < THERMAL_FROM:
            put_in = f"{number(w, 'w')} ÷ {number(rated, 'w')} × {THERMAL_FROM}"
            uses.append(Use(Suspected.THERMAL, use * THERMAL_FROM, why, put_in))
        else:
            uses.append(Use(Suspected.THERMAL, 0.9, why))
    return uses


def _overload(source: Source, limits: Sequence[Limit], segment: Segment, w: float, held: Sequence[Held]) -> list[Use]:
    """The source's own rating: its electronics, or the engine's power."""
    key = Suspected.ENGINE if source.kind is SourceKind.OPEN_FRAME else Suspected.ELECTRONIC
    if w <= 0:
        return [Use(key, None, "its watts were not read")]
    rated = next(limit for limit in limits if limit.key == "continuous" and limit.leg is None)
    surge = next((limit for limit in limits if limit.key == "surge" and limit.leg is None), None)
    limit_w = _limit_for(rated.w, surge.w if surge else None, surge.hold_s if surge else None, segment.held_s())
    said = "planned for" if source.planned else "claimed here"
    why = f"{plain(w, 'w')} is {plain(w / rated.w * 100, 'pct')} of the {plain(rated.w, 'w')} {said}{_held_before(held, w, rated.w)}"
    if limit_w > rated.w and surge:
        why += f"; {plain(surge.w, 'w')} are claimed for {plain(surge.hold_s or 0.0, 's')}, and it stood {duration(segment.held_s())}"
    return [Use(key, w / limit_w, why, f"{number(w, 'w')} ÷ {number(limit_w, 'w')}")]


def _held_before(held: Sequence[Held], w: float, rated_w: float) -> str:
    """The most that was held in the session below what tripped, as a share of a limit, in words."""
    most = max((h for h in held if h.w < w), key=lambda h: (h.w, h.held_s), default=None)
    return f" ({plain(most.w / rated_w * 100, 'pct')} of it was held for {duration(most.held_s)})" if most else ""


def _legs(context: SessionContext, limits: Sequence[Limit], segment: Segment) -> list[Use]:
    if context.system.legs != 2:
        return []
    uses = []
    for place in (Place.LEG1, Place.LEG2):
        w = segment.place_w(place)
        rated = [x.w for x in limits if x.key == "continuous" and x.leg is not None and x.leg.value == place.value]
        if w is not None and rated:
            uses.append((w / rated[0], place.label, w, rated[0]))
    if not uses:
        return [Use(Suspected.LEG)]
    use, where, w, rated_w = max(uses)
    why = f"{where} carried {plain(w, 'w')}, {plain(use * 100, 'pct')} of {plain(rated_w, 'w')} a leg"
    return [Use(Suspected.LEG, use, why, f"{number(w, 'w')} ÷ {number(rated_w, 'w')}")]


def _breaker(context: SessionContext, source: Source, segment: Segment, w: float) -> list[Use]:
    rated = source.claims.breaker_a
    if rated is None:
        return [Use(Suspected.BREAKER)]
    places = (Place.LEG1, Place.LEG2)
    read = [r.value for _, _, r in segment.readings if r.quantity == "a" and r.place in places]
    by_leg = [leg_w / context.system.v_nominal for place in places if (leg_w := segment.place_w(place)) is not None]
    amps = max(read or by_leg or [w / context.system.v_nominal / context.system.legs])
    # A breaker carries 1.13 times its rating for an hour and more (IEC 60898-1): below that it is no suspect.
    use = amps / (1.13 * rated)
    why = f"{plain(amps, 'a')} on a breaker of {plain(rated, 'a')}, which holds {plain(1.13 * rated, 'a')} for an hour and more"
    return [Use(Suspected.BREAKER, use, why, f"{number(amps, 'a')} ÷ {number(1.13 * rated, 'a')}")]


def _battery(context: SessionContext, source: Source, segment: Segment, w: float, held: Sequence[Held]) -> list[Use]:
    claims, wires = source.claims, source.wires
    volts, amps = segment.last("v", Place.DC), segment.last("a", Place.DC)
    v = volts.value if volts else claims.battery_low_v
    drawn = amps.value if amps else w / ((claims.conversion_pct or CONVERSION_PCT) / 100 * v) if v and w > 0 else None
    uses: list[Use] = []
    for key, rated, more_a, more_s in (
        (Suspected.BATTERY, claims.battery_a, claims.battery_surge_a, claims.battery_surge_s),
        (Suspected.DC_FUSE, wires.dc_fuse_a, None, None),
    ):
        if rated is None or drawn is None:
            uses.append(Use(key))
            continue
        limit_a = _limit_for(rated, more_a, more_s, segment.held_s())
        how = "read" if amps else "reckoned"
        before = "" if amps else _held_before(held, w, w * rated / drawn)
        why = f"{plain(drawn, 'a')} {how} on the DC side, {plain(drawn / rated * 100, 'pct')} of {plain(rated, 'a')}{before}"
        if more_a is not None and more_s is not None and limit_a > rated:
            why += f"; it carries {plain(more_a, 'a')} for {plain(more_s, 's')}"
        uses.append(Use(key, drawn / limit_a, why, f"{number(drawn, 'a')} ÷ {number(limit_a, 'a')}"))
    shown = [r.value for _, t, _, r in context.readings("soc_pct") if t <= segment.t1_s]
    if volts and claims.battery_low_v:
        why = f"{plain(volts.value, 'v')} read on the DC side, against a lowest of {plain(claims.battery_low_v, 'v')}"
        put_in = f"{number(claims.battery_low_v, 'v')} ÷ {number(volts.value, 'v')}"
        uses.append(Use(Suspected.LOW_DC, claims.battery_low_v / volts.value, why, put_in))
    elif shown:
        share = 1.0 if shown[-1] < 12 else None
        uses.append(Use(Suspected.LOW_DC, share, f"the gauge showed {plain(shown[-1], 'pct')}"))
    else:
        uses.append(Use(Suspected.LOW_DC))
    return uses


def _describe(
    segment: Segment, w: float, held_s: float, suspects: Sequence[Suspect], back_s: float | None, by_itself: bool | None
) -> Finding:
    first = suspects[0]
    verb = "ended it" if went_empty(segment) else "tripped"
    what = f"What {verb} at {plain(w, 'w')}" if w > 0 else f"What {verb}"
    rivals = [s for s in suspects[1:] if s.weight >= RIVAL_SHARE * first.weight]
    if rivals:
        names = " or ".join([first.name, *(s.name for s in rivals[:2])])
        checks = "; ".join(dict.fromkeys(CHECKS[s.key] for s in (first, *rivals[:2])))
        said, needs = (f"{what} was {names}: both fit" if len(rivals) == 1 else f"{what} was {names}: all fit", checks)
    else:
        said, needs = (f"{what} was most likely {first.name}", CHECKS[first.key] if first.weight < 0.75 else "")
    if back_s is not None:
        way = " by itself" if by_itself else " by hand" if by_itself is False else ""
        said += f". It was back{way} after {duration(back_s)}"
    workings = tuple(
        Working(
            f"{s.name}: load ÷ limit, weighed by what was seen",
            s.put_in or "not known",
            _used(s) + _odds(s.weight),
            "; ".join(s.reasons) or "nothing read of it",
        )
        for s in suspects
        if s.weight > 0.01
    )
    return Finding(
        key=f"who-{segment.t1_s:.0f}",
        topic=Topic.TRIPS,
        title="What tripped",
        sentence=said + ".",
        value=Value(w, "w", None, None, Grade.B),
        workings=workings,
        seqs=tuple(dict.fromkeys(seq for seq, _, _ in segment.readings[-3:])),
        needs=needs,
    )


def _used(suspect: Suspect) -> str:
    """How much of its limit was used, in words; of a limit without figures so much is taken."""
    if suspect.use is None:
        return ""
    return f"{'' if suspect.put_in else 'taken as '}{number(suspect.use * 100)} % used, "


def _odds(weight: float) -> str:
    return "most likely" if weight > 0.5 else "may be" if weight > 0.15 else "unlikely"
