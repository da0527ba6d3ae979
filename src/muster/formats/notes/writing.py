"""A job written as notes again: what notes can hold, so that reading them gives the same."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict, replace
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from muster.core.brief import Brief, BringUp, Home
from muster.core.brief_words import WIRINGS
from muster.core.errors import MusterError
from muster.core.loads import Load, Tier
from muster.core.loads.line_parser import parse_load_line
from muster.core.loads.load import stretches
from muster.core.loads.said_parts import parts_words
from muster.core.measures import CHOICE_WORDS
from muster.core.quantities import THIN
from muster.core.sessions import PROTOCOLS, Entry, Event, EventName, Item, Note, Session
from muster.core.sessions.condition_words import say_conditions
from muster.core.sessions.log_line import tell
from muster.core.sessions.log_line.marks import FIRST, MarkedLine
from muster.core.sessions.log_line.times import MONTHS, take_when
from muster.core.sessions.writing_up import Circumstances, read_in_context
from muster.core.sources import Claims, Source, SourceKind, Wires
from muster.core.trade.leads import lead_named

from ..jobfile import JobFile, SessionRecord, SourceRecord
from .model import OPEN
from .reading import circumstances

KIND_WORDS = {
    SourceKind.OPEN_FRAME: "open frame generator",
    SourceKind.INVERTER_SET: "inverter set",
    SourceKind.INVERTER: "inverter",
    SourceKind.HYBRID: "hybrid",
    SourceKind.STATION: "battery station",
}
CLAIM_WORDS = {
    "cont_w": "{:.12g} W",
    "per_leg_w": "leg {:.12g} W",
    "battery_only_w": "without sun {:.12g} W",
    "battery_wh": "{:.12g} Wh",
    "usable_pct": "usable {:.12g}%",
    "idle_w": "idle {:.12g} W",
    "conversion_pct": "conversion {:.12g}%",
    "charge_w": "charge {:.12g} W",
    "charge_h": "full in {:.12g} h",
    "battery_low_v": "lowest {:.12g} V",
    "transfer_ms": "transfer {:.12g} ms",
    "thd_pct": "thd {:.12g}%",
    "noise_dba_7m": "{:.12g} dB",
    "tank_l": "tank {:.12g} l",
    "half_load_lph": "half load {:.12g} l/h",
    "full_load_lph": "full load {:.12g} l/h",
    "breaker_a": "breaker {:.12g} A",
    "battery_v": "{:.12g} V",
    "battery_ah": "{:.12g} Ah",
}
"""How the nameplate line says each claim."""
CHEMISTRY_WORDS = {"lfp": "LFP", "nmc": "NMC", "lead": "lead-acid"}


def write_notes(job: JobFile) -> str:
    """A job as notes: home and brief, loads, and each source with its tests, a line an entry.

    Parameters
    ----------
    job
        Recorded logs, captures, photos, plans, household rules and seals are not in notes; nor are entries that were undone.
    """
    kept = [line for line in job.brief.notes.splitlines() if line and not line.startswith(OPEN)]
    lines = [f"{'Units' if job.brief.of_units else 'Home'}: {job.name}", _brief(job.brief), *kept]
    for heading, loads in (
        ("Loads", [load for load in job.loads if load.tier is not Tier.TEST]),
        ("Test loads", [load for load in job.loads if load.tier is Tier.TEST]),
    ):
        if loads:
            lines += ["", heading, *(load_line(load, job.brief.system.v_nominal) for load in loads)]
    home = Home(job.brief, job.loads)
    for record in job.sources:
        lines += ["", *_source_lines(record, home)]
    return "\n".join(lines) + "\n"


def _brief(brief: Brief) -> str:
    said = [
        brief.system.label,
        f"outage {brief.outage_h:g} h from {brief.outage_from_hour}:00",
        f"reserve {brief.reserve_pct:g}%",
        f"quiet {brief.quiet_from_hour}:00 to {brief.quiet_to_hour}:00",
        f"neighbour {brief.neighbour_m:g} m",
    ]
    if brief.noise_day_dba is not None:
        said.append(f"day {brief.noise_day_dba:g} dB")
    if brief.noise_night_dba is not None:
        said.append(f"night {brief.noise_night_dba:g} dB")
    said += [f"altitude {brief.site.altitude_m:g} m", f"{brief.site.temp_c:g} °C"]
    said.append(
        {
            wiring: words
            for words, wiring in zip(("cords", "interlock", "essential", "automatic"), WIRINGS.values(), strict=True)
        }[brief.wiring]
    )
    said += [{BringUp.ONE_BY_ONE: "one by one", BringUp.AT_ONCE: "all at once"}[brief.bring_up], f"zone {brief.zone}"]
    chosen = [CHOICE_WORDS[unit] for unit in asdict(brief.measures).values() if unit]
    said.append(f"units {' '.join(chosen) or 'as is usual'}")
    return ", ".join(said)


def load_line(load: Load, v_nominal: float) -> str:
    """A load as the line that adds it: no more said than reading it needs.

    Parameters
    ----------
    load
        What it holds beside watts, start, power factor, leg, tier, rhythm and hours is not in notes.
    v_nominal
        Leg to neutral [V], for a load said in amps.
    """
    lines = [_line_of(load, v_nominal, run, start) for run, start in _ways(load, v_nominal)]
    same = [line for line in lines if _parsed([line], load, v_nominal) == load]
    return min(same, key=len) if same else lines[0]


def _ways(load: Load, v_nominal: float) -> list[tuple[str, str]]:
    """The ways in which its running and its start may have been said: watts or amps, a multiple."""
    volts = v_nominal * (2 if load.leg.value == "both" else 1)
    runs = [f"{load.run_w:.12g}w", f"{load.run_w / (volts * load.pf):.6g}a", f"peak{load.run_w:.12g}w"]
    if load.parts:
        runs.insert(0, parts_words(load.parts))
    if load.start_va is None:
        return [(run, "") for run in runs]
    starts = [
        f"start{load.start_va:.12g}va",
        f"start{load.start_va / volts:.6g}a",
        f"start{load.start_va / load.run_va:.6g}x",
    ]
    return [(run, start) for run in runs for start in starts]


def _line_of(load: Load, v_nominal: float, run: str, start: str) -> str:
    words: list[str] = [load.name, run]
    for name, said in (
        ("tier", load.tier.value),
        ("leg", {"1": "l1", "2": "l2", "both": "both"}[load.leg.value]),
        ("pf", f"pf{load.pf:.3g}"),
        ("start_va", start),
        ("duty", _rhythm(load)),
        ("hours", _hours(load.hours)),
    ):
        if said and getattr(_parsed(words, load, v_nominal), name, None) != getattr(load, name):
            words.append(said)
    return " ".join(words)


def _rhythm(load: Load) -> str:
    duty = load.duty
    if duty.once:
        return f"once{duty.on_min:.12g}min"
    return f"{duty.on_min:.12g}/{duty.off_min:.12g}" if duty.cycles else ""


def _parsed(words: list[str], load: Load, v_nominal: float) -> Load | None:
    try:
        return parse_load_line(" ".join(words), load.key, v_nominal).load
    except MusterError:
        return None


def _hours(hours: tuple[int, ...]) -> str:
    if not hours or not stretches(hours):
        return ""
    starts = [hour for hour in hours if (hour - 1) % 24 not in hours] or [hours[0]]
    said = []
    for start in starts:
        end = start
        while end % 24 in hours and end - start < 24:
            end += 1
        said.append(f"{start}-{end if end <= 24 else end - 24}")
    return ",".join(said)


def source_line(source: Source) -> str:
    """A source as the line that describes it."""
    claims: Claims = source.claims
    said = [KIND_WORDS[source.kind]]
    for name, words in CLAIM_WORDS.items():
        value = getattr(claims, name)
        if value is not None and not (name == "cont_w" and claims.on_fuels):
            said.append(words.format(value))
    if claims.surge_w is not None:
        said.append(f"surge {claims.surge_w:g} W" + (f" {claims.surge_s:g} s" if claims.surge_s else ""))
    if claims.battery_a is not None:
        surge = (
            f" {claims.battery_surge_a:.12g} A for {claims.battery_surge_s:g} s"
            if claims.battery_surge_a and claims.battery_surge_s
            else ""
        )
        said.append(f"battery {claims.battery_a:g} A{surge}")
    if claims.chemistry:
        said.append(CHEMISTRY_WORDS[claims.chemistry.value])
    said += _panel_words(claims)
    said += [f"{rating.cont_w:g} W {rating.fuel}" for rating in claims.on_fuels]
    if source.kind.has_engine and not claims.on_fuels:
        said.append(claims.fuel)
    if claims.wave.value == "stepped":
        said.append("stepped")
    said += _wire_words(source.wires)
    own = source.owning
    for value, words in (
        (own.weight_kg, "{:.12g} kg"),
        (own.warranty_years, "warranty {:.12g} y"),
        (own.service_h, "service every {:.12g} h"),
        (own.price, "price {:.12g}"),
    ):
        if value is not None:
            said.append(words.format(value))
    if own.size:
        said.append(own.size)
    if source.planned:
        said.append("planning figures")
    if own.codes:
        said.append("codes: " + ", ".join(f"{code.code} {code.meaning}" for code in own.codes))
    return ", ".join(said)


def _panel_words(claims: Claims) -> list[str]:
    if not claims.pv_ports:
        return []
    port = claims.pv_ports[0]
    window = f" {port.low_v:g}-{port.high_v:g} V" if port.low_v and port.high_v else ""
    amps = f" {port.most_a:g} A" if port.most_a else ""
    watts = f" {port.most_w:g} W" if port.most_w else ""
    return [f"pv {len(claims.pv_ports)}x{window}{amps}{watts}"] if window else [f"pv{watts}"]


def _wire_words(wires: Wires) -> list[str]:
    said = []
    if wires.dc_fuse_a:
        said.append(f"fuse {wires.dc_fuse_a:g} A")
    if wires.inlet_a:
        said.append(f"inlet {wires.inlet_a:g} A")
    for prefix, lead, metres, count in (
        ("dc lead", wires.dc_lead, wires.dc_lead_m, wires.dc_leads),
        ("cord", wires.lead, wires.lead_m, 1),
    ):
        if lead:
            laid, size = lead_named(lead)
            unit = "awg" if laid.is_awg else "mm2"
            words = f"{count} pairs of {size} {unit}" if count > 1 else f"{prefix} {size} {unit}"
            said.append(words + (f" {metres:g} m" if metres else ""))
    return said


def _source_lines(record: SourceRecord, home: Home) -> Iterator[str]:
    source = record.source
    yield f"Source: {source.name.replace(',', ';')}, {source_line(source)}"
    if source.note:
        yield source.note
    for kept in record.sessions:
        yield ""
        yield from _session_lines(kept, source, home)


def _session_lines(kept: SessionRecord, source: Source, home: Home) -> Iterator[str]:
    zone = ZoneInfo(home.brief.zone)
    began = datetime.fromisoformat(kept.started_at).astimezone(zone)
    of = circumstances(source, home)
    conditions = say_conditions(kept.session.conditions)
    yield f"{PROTOCOLS[kept.session.protocol].name}: {_date(began)}{f', {conditions}' if conditions else ''}"
    day, soon = began.date(), replace(kept.session, entries=())
    for entry in kept.session.effective:
        if _is_cautions(entry.items):
            continue
        at = began + timedelta(seconds=round(entry.t_s))
        clock = f"{at:%H:%M:%S}" if at.second else f"{at:%H:%M}"
        if at.date() != day:
            clock, day = f"{_date(at)} {clock}", at.date()
        yield f"{clock} {_words(entry, soon, of)}"
        soon = replace(soon, entries=(*soon.entries, entry))


def _date(at: datetime) -> str:
    return f"{at.day} {MONTHS[at.month - 1]} {at.year}"


def _is_cautions(items: tuple[Item, ...]) -> bool:
    return len(items) == 1 and isinstance(items[0], Event) and items[0].name == EventName.CAUTIONS


def _words(entry: Entry, session: Session, of: Circumstances) -> str:
    """An entry as it was jotted where that reads the same, else as it is told back, else as a note."""
    raw = _without_time(entry.raw)
    told = " · ".join(tell(item, of.names, of.system, of.kit) for item in entry.items).replace(THIN, " ")
    for words in (raw, told):
        if words and "\n" not in words and read_in_context(f"00:00 {words}", session, of).items == entry.items:
            return words
    notes = [item.text for item in entry.items if isinstance(item, Note)]
    return told if len(notes) < len(entry.items) else f"note: {', '.join(notes)}"


def _without_time(raw: str) -> str:
    """A jotted line without the time that it begins with."""
    line = MarkedLine(raw)
    take_when(line)
    if not line.low.lstrip().startswith(FIRST["T"]):
        return raw.strip()
    taken = max(i for i, covered in enumerate(line.covered) if covered) + 1
    return line.text[taken:].strip(" :,;-")
