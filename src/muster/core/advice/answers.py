"""The findings of a source as sentences an owner understands, in order of consequence."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from enum import IntEnum

from ..brief import Home
from ..character import Character, Dated
from ..findings import Finding
from ..findings.finding import Topic, Warns
from ..findings.starts import StartSeen
from ..loads import Load, Wave, short_name
from ..loads.kinds import MOTOR_HZ_PCT, MOTOR_V_PCT
from ..quantities import duration, number, plain
from ..sessions import PROTOCOLS
from ..sessions.replay import Outcome
from ..sources import Source, SourceKind
from ..timeline.captures.waveform import Shape

STANDBY_SHARE = 0.15
"""Standing by for a day that costs more of what a battery gives than this is to be minded."""


class Weight(IntEnum):
    """How much hangs on an answer: it stops something, it is to be minded, it is good to know."""

    STOPS = 0
    MIND = 1
    KNOW = 2


@dataclass(frozen=True)
class Answer:
    """A sentence with what it leads to: the finding (``key``) of a session (its place in the sequence given).

    ``needs`` names the test that would settle what is open, empty where nothing is.
    """

    weight: Weight
    sentence: str
    session: int | None = None
    key: str = ""
    needs: str = ""


@dataclass(frozen=True)
class _Subject:
    home: Home
    source: Source
    sessions: Sequence[Dated]
    character: Character

    def findings(self, *topics: Topic) -> Iterator[tuple[int, Finding]]:
        """Findings of some topics, the latest session first."""
        for i in range(len(self.sessions) - 1, -1, -1):
            for finding in self.sessions[i].findings.findings:
                if finding.topic in topics:
                    yield i, finding


def answers(home: Home, source: Source, sessions: Sequence[Dated], character: Character) -> tuple[Answer, ...]:
    """What all sessions of a source come to, in order of consequence; ``sessions`` from the first to the latest."""
    asked = _Subject(home, source, sessions, character)
    answers_found = [answer for maker in MAKERS for answer in maker(asked)]
    return tuple(sorted(answers_found, key=lambda answer: answer.weight))


def _first(result: Iterable[tuple[int, Finding]], start: str = "") -> tuple[int | None, str]:
    """Where a finding stands whose key begins so."""
    return next(((i, finding.key) for i, finding in result if finding.key.startswith(start)), (None, ""))


def _power(asked: _Subject) -> Iterator[Answer]:
    """What it held and where it tripped, and of what."""
    held = asked.character.held
    trip = asked.character.trip or next((limit for limit in asked.character.limits if limit.key == "trip"), None)
    if held is None and trip is None:
        return
    said = f"It held {plain(held.w, 'w')} {held.basis}" if held else ""
    claim = asked.source.claims.cont_w
    short = held is not None and trip is not None and trip.w < 0.97 * claim
    at = _first(asked.findings(Topic.HELD), held.finding if held else "")
    needs = ""
    if trip is not None:
        after = f" after {duration(trip.seen_s)}" if trip.seen_s else ""
        said = (
            f"{said} and tripped at {plain(trip.w, 'w')}{after}"
            if said
            else f"It tripped at {plain(trip.w, 'w')}{after}"
        )
        at = _first(asked.findings(Topic.TRIPS), trip.finding)
        who = next((t.finding for d in asked.sessions for t in d.findings.trips if t.held_s == trip.seen_s), None)
        if who is not None and held is not None:
            said += f". {who.sentence.rstrip('.')}"
            needs = who.needs
    if held is not None and held.w < 0.97 * claim and trip is None:
        needs = f"a hold at the {plain(claim, 'w')} claimed (Ladder)"
    if held is not None and held.w >= 0.97 * claim:
        said += f". That is what its nameplate claims, {plain(claim, 'w')}" if trip is None else ""
    yield Answer(Weight.STOPS if short else Weight.MIND if trip else Weight.KNOW, f"{said}.", *at, needs)


def _starts(asked: _Subject) -> Iterator[Answer]:
    """Which loads it started, and which it did not."""
    by_load: dict[str, list[tuple[int, StartSeen]]] = {}
    for i, dated in enumerate(asked.sessions):
        for start in dated.findings.starts:
            if start.outcome is not Outcome.UNKNOWN:
                by_load.setdefault(start.run.load, []).append((i, start))
    started = [key for key, seen in by_load.items() if any(s.outcome is Outcome.HELD for _, s in seen)]
    for key, seen in by_load.items():
        failed = [(i, s) for i, s in seen if s.outcome.failed]
        if not failed:
            continue
        i, worst = min(failed, key=lambda item: item[1].lowest.value if item[1].lowest else 1e9)
        how = "stalled" if worst.outcome is Outcome.STALLED else "took the source down"
        low = f", volts down to {plain(worst.lowest.value, 'v')}" if worst.lowest else ""
        always, some = ("always ", "; at other times it started") if key in started else ("", "")
        yield Answer(
            Weight.STOPS,
            f"It does not {always}start the {short_name(worst.load)}: {how}{low}{some}.",
            i,
            worst.finding.key,
        )
    if started:
        names = _names([short_name(by_load[key][0][1].load) for key in started])
        i, worst = min(
            ((i, s) for key in started for i, s in by_load[key] if s.lowest is not None),
            key=lambda item: (
                item[1].lowest.value / (2 if item[1].leg and item[1].leg.value == "both" else 1)
                if item[1].lowest
                else 0.0
            ),
            default=by_load[started[0]][0],
        )
        low = f"; the deepest dip was to {worst.lowest} at the {short_name(worst.load)}" if worst.lowest else ""
        yield Answer(Weight.KNOW, f"It starts the {names}{low}.", i, worst.finding.key, worst.finding.needs)
    untried = [
        load for load in asked.home.loads if load.has_start(asked.home.brief.system.hz) and load.key not in by_load
    ]
    if untried and by_load:
        names = _names([short_name(load) for load in untried])
        yield Answer(
            Weight.MIND,
            f"Not started yet: the {names}. The character predicts them.",
            None,
            "",
            "the start itself (Starts)",
        )


def _names(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def _legs(asked: _Subject) -> Iterator[Answer]:
    for i, finding in asked.findings(Topic.LEGS):
        if finding.warns in (Warns.NEUTRAL, Warns.STRAY_CURRENT):
            yield Answer(Weight.STOPS, finding.sentence, i, finding.key, finding.needs)
            return


def _volts(asked: _Subject) -> Iterator[Answer]:
    """Steady volts and hertz, against what motors stand."""
    system = asked.home.brief.system
    ends = []
    for leg in system.leg_names:
        level, slope = asked.character.get(f"no_load_v{leg.value}"), asked.character.get(f"v{leg.value}_per_kw")
        top = max(
            (
                line.line.x_high
                for d in asked.sessions
                for line in d.findings.regulation
                if line.place.value == leg.value
            ),
            default=0.0,
        )
        if level is not None and slope is not None:
            ends += [level.value, level.value + slope.value * top / 1000]
    if ends:
        out = max(abs(v - system.v_nominal) for v in ends) > MOTOR_V_PCT / 100 * system.v_nominal
        tail = f": outside the ±{MOTOR_V_PCT:g} % that motors stand" if out else ""
        said = f"Steady volts lie between {plain(min(ends), 'v')} and {plain(max(ends), 'v')}{tail}."
        yield Answer(Weight.STOPS if out else Weight.KNOW, said, *_first(asked.findings(Topic.REGULATION)))
    level, slope = asked.character.get("no_load_hz"), asked.character.get("hz_per_kw")
    if level is None or slope is None:
        return
    top = max((line.line.x_high for d in asked.sessions for line in d.findings.droops), default=0.0)
    full = level.value + slope.value * top / 1000
    out = max(abs(hz - system.hz) for hz in (level.value, full)) > MOTOR_HZ_PCT / 100 * system.hz
    fast = (level.value / system.hz - 1) * 100
    if abs(fast) < 0.5 and abs(full - level.value) < 0.01 * system.hz:
        yield Answer(
            Weight.KNOW, f"Frequency is {plain(level.value, 'hz')} at any load.", *_first(asked.findings(Topic.DROOP))
        )
        return
    off_pct = abs(round(fast, 1))
    clocks = f"; unloaded, clocks run {number(off_pct)} % {'fast' if fast > 0 else 'slow'}" if off_pct else ""
    tail = f": outside the ±{MOTOR_HZ_PCT:g} % that motors stand, so the governor wants setting" if out else ""
    said = f"Frequency falls from {plain(level.value, 'hz')} at no load to {plain(full, 'hz')} at {plain(top, 'w')}{tail}{clocks}."
    yield Answer(
        Weight.STOPS if out else Weight.KNOW,
        said,
        *_first(asked.findings(Topic.DROOP)),
        "where to set it (Set-point)" if out else "",
    )


MOST_ADVISED = 4


def _wave(asked: _Subject) -> Iterator[Answer]:
    seen = [(i, wave) for i, dated in enumerate(asked.sessions) for wave in dated.findings.waves]
    if seen:
        i, worst = max(seen, key=lambda item: item[1].at.wave.distortion_pct)
        bad = worst.at.wave.shape not in (Shape.SINE, Shape.ROUGH)
        minds = [load for load in asked.home.loads if load.wave.value != "stepped"]
        whose = f" The {_names([short_name(load) for load in minds[:4]])} will mind it." if bad and minds else ""
        said = f"Its wave is {worst.at.wave.shape.label}, {number(worst.at.wave.distortion_pct)} % distortion at worst.{whose}"
        loaded = any(wave.on for _, wave in seen)
        yield Answer(
            Weight.STOPS if bad and minds else Weight.KNOW,
            said,
            i,
            worst.finding.key,
            "" if loaded else "a capture under load (Waveform)",
        )
    elif asked.source.claims.wave is Wave.STEPPED:
        advice = {
            load.kind_figures.stepped: short_name(load) for load in asked.home.loads if load.wave is not Wave.STEPPED
        }
        told = "; ".join(f"{name}: {words}" for words, name in list(advice.items())[:MOST_ADVISED])
        said = f"Its wave is stepped by the nameplate{'. ' + told[0].upper() + told[1:] if told else ''}."
        yield Answer(Weight.STOPS if told else Weight.KNOW, said, None, "", "a capture (Waveform)")
    for i, finding in asked.findings(Topic.WAVEFORM):
        if finding.warns is Warns.RAGGED_END:
            yield Answer(Weight.MIND, finding.sentence, i, finding.key)
            return


def _gap(asked: _Subject) -> Iterator[Answer]:
    """The longest break of all that were seen."""
    seen = [(i, gap) for i, dated in enumerate(asked.sessions) for gap in dated.findings.gaps]
    if seen:
        i, longest = max(seen, key=lambda item: item[1].gap_ms.value)
        many = f", the longest of {len(seen)} breaks" if len(seen) > 1 else ""
        said = f"When the mains goes the house is without for {plain(longest.gap_ms.value, 'ms')}{many}."
        yield Answer(Weight.KNOW, said, i, longest.finding.key)


def _told(topic: Topic, start: str, weight: Weight) -> Callable[[_Subject], Iterator[Answer]]:
    """The latest finding of a topic, in its own words."""

    def make(asked: _Subject) -> Iterator[Answer]:
        for i, finding in asked.findings(topic):
            if finding.key.startswith(start):
                yield Answer(weight, finding.sentence, i, finding.key, finding.needs)
                return

    return make


def _energy(asked: _Subject) -> Iterator[Answer]:
    """What it gives from full to empty, what standing by costs, and whether the gauge can be believed."""
    character = asked.character
    runs = [
        (i, dated.findings.runs)
        for i, dated in enumerate(asked.sessions)
        if dated.findings.runs is not None and dated.findings.runs.run.down and asked.source.kind.has_battery
    ]  # what an engine gave until its tank was dry is told by its fuel
    whole = [(i, seen) for i, seen in runs if seen.run.whole and seen.run.ac_wh]
    rated, given_wh = asked.source.claims.battery_wh, 0.0
    if whole:
        told = [f"{plain(seen.run.ac_wh or 0, 'wh')} to a load of {plain(seen.run.mean_w, 'w')}" for _, seen in whole]
        given_wh = max(seen.run.ac_wh or 0.0 for _, seen in whole)
        subject = f", at best {plain(given_wh / rated * 100, 'pct')} of what it is rated at" if rated else ""
        i, seen = whole[-1]
        yield Answer(Weight.MIND, f"From full to empty it gives {_names(told)}{subject}.", i, seen.findings[0].key)
    elif runs:
        i, seen = runs[-1]
        yield Answer(
            Weight.MIND,
            f"{seen.findings[0].sentence.rstrip('.')}, and was not empty.",
            i,
            seen.findings[0].key,
            "a run to the end (Endurance)",
        )
    idle = character.by_key.get("idle_w")
    if idle is not None:
        day_wh = idle.value.value * 24
        share = f", {plain(day_wh / given_wh * 100, 'pct')} of what it gives" if given_wh else ""
        said = f"Standing by costs it {plain(idle.value.value, 'w')}, {plain(day_wh, 'wh')} a day{share}."
        much = bool(given_wh) and day_wh > STANDBY_SHARE * given_wh
        yield Answer(Weight.MIND if much else Weight.KNOW, said, *_first(asked.findings(Topic.CONVERSION), "idle"))
    gauges = list(asked.findings(Topic.GAUGE))
    if gauges:
        i, worst = max(gauges, key=lambda item: item[1].value.value)
        yield Answer(Weight.MIND if worst.value.value > 10 else Weight.KNOW, worst.sentence, i, worst.key, worst.needs)
    round_trip = character.get("round_trip_pct")
    if round_trip is not None:
        yield Answer(
            Weight.KNOW,
            f"Of what charging takes from the wall, {plain(round_trip.value, 'pct')} comes back to the load.",
            *_first(asked.findings(Topic.RECHARGE)),
        )


def _noise(asked: _Subject) -> Iterator[Answer]:
    for i in range(len(asked.sessions) - 1, -1, -1):
        walks = asked.sessions[i].findings.noise
        if not walks:
            continue
        seen = walks[-1]
        brief = asked.home.brief
        limits = [x for x in (brief.noise_day_dba, brief.noise_night_dba) if x is not None]
        loud = (
            seen.neighbour.bound is None
            and bool(limits)
            and seen.neighbour.value - (seen.neighbour.u or 0) > min(limits)
        )
        limit = f", {plain(min(limits), 'dba')} allowed" if limits else ""
        most = "at most " if seen.neighbour.bound else ""
        said = f"At the nearest neighbour, {plain(seen.neighbour_m, 'm')} away, it is {most}{plain(seen.neighbour.value, 'dba')} {seen.under}{limit}."
        yield Answer(Weight.STOPS if loud else Weight.KNOW, said, i, seen.finding.key, seen.finding.needs)
        return


def _open(asked: _Subject) -> Iterator[Answer]:
    """What nothing was found of yet, with the protocol that would."""
    topics = {f.topic for dated in asked.sessions for f in dated.findings.findings}
    battery = asked.source.kind.has_battery
    wanted = [
        (Topic.HELD, "ladder"),
        (Topic.STARTS, "starts"),
        (Topic.WAVEFORM, "waveform"),
        (Topic.NOISE, "noise_walk"),
    ]
    wanted += [(Topic.ENERGY, "endurance"), (Topic.CONVERSION, "idle")] if battery else [(Topic.FUEL, "endurance")]
    wanted += [(Topic.STEPS, "load_steps")] if asked.source.kind is SourceKind.OPEN_FRAME else []
    missing = [PROTOCOLS[slug].name for topic, slug in wanted if topic not in topics]
    if missing and asked.sessions:
        yield Answer(Weight.KNOW, f"Still to be tested: {_names(missing)}.", None, "", missing[0])


MAKERS: tuple[Callable[[_Subject], Iterator[Answer]], ...] = (
    _legs,
    _power,
    _starts,
    _volts,
    _wave,
    _gap,
    _told(Topic.STEPS, "", Weight.KNOW),
    _told(Topic.SOLAR, "stuck", Weight.MIND),
    _told(Topic.SOLAR, "through", Weight.MIND),
    _energy,
    _told(Topic.FUEL, "", Weight.KNOW),
    _told(Topic.SHARES, "", Weight.MIND),
    _told(Topic.CUT_OFFS, "cut-hysteresis", Weight.KNOW),
    _told(Topic.HEATING, "heating-ratio", Weight.MIND),
    _told(Topic.HEAT, "", Weight.KNOW),
    _told(Topic.DISPLAY, "", Weight.KNOW),
    _noise,
    _open,
)


def wave_advice(load: Load, shape: Shape) -> str:
    """What a kind of wave means for a load, in a phrase; clocks by zero crossing apart, which any clean crossing serves."""
    if shape in (Shape.SINE, Shape.ROUGH):
        return "as on the mains" if shape is Shape.SINE or load.wave.value != "sine" else "wants better than this"
    kind = load.kind_figures
    return kind.distorted if shape in (Shape.DISTORTED, Shape.RINGING) else kind.stepped
