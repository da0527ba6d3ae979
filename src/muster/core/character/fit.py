"""From the findings of a source's sessions to its character."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace

from ..errors import MusterError
from ..findings.trips import by_leg
from ..measures import shown_in
from ..quantities import plain
from ..sources import Site, Source
from ..sources.limits import binding, limits_of
from ..supply import System
from .character import Character, Parameter, SessionEstimate
from .claimed import claims_of
from .estimates import MAKERS
from .given import Dated, Given, held_points
from .hold_curve import HoldCurve, HoldPoint, fit_hold_within
from .known_limits import failed_on, known_limits, started_on
from .runs import across_sessions
from .seen_running import ALONE_W, seen_running
from .set_since import SetSince
from .sound import sound_of
from .starts import start_models_of
from .weighing import combine


def character_given(given: Given) -> Character:
    """All that is known of a source, drawn once of what is given and for the units shown: kept with it, and gone with it.

    Parameters
    ----------
    given
        The source with its sessions.

    Returns
    -------
    Character
        As ``character_of``.
    """
    shown = shown_in()
    if shown not in given.drawn:
        given.drawn[shown] = character_of(given.source, given.system, given.site, given.sessions)
    kept: Character = given.drawn[shown]
    return kept


def character_of(source: Source, system: System, site: Site, sessions: Iterable[Dated]) -> Character:
    """All that is known of a source: by what its sessions found, and by what is claimed of it.

    Each session's estimate of each parameter, weighed together (``combine``);
    the forms that need all readings at once (what starts meet, the hold curve)
    fitted through all of them.

    Parameters
    ----------
    source
        What is claimed of it.
    system, site
        Supply and conditions of the brief, under which all powers are told.
    sessions
        What each found, in any order.

    Returns
    -------
    Character
        Its claims stand at their own grade; what was measured goes before them.
    """
    given = Given(source, system, site, tuple(sorted(sessions, key=lambda dated: dated.at)))
    since = SetSince(given.sessions)
    gathered: dict[str, tuple[str, list[SessionEstimate]]] = {}
    outdated: dict[str, list[SessionEstimate]] = {}
    for maker in MAKERS:
        for index, dated in enumerate(given.sessions):
            for key, name, estimate in maker(given, dated):
                if since.is_outdated(index, key):
                    outdated.setdefault(key, []).append(estimate)
                else:
                    gathered.setdefault(key, (name, []))[1].append(estimate)
    parameters = [
        replace(combine(key, name, estimates), outdated=tuple(outdated.get(key, ())))
        for key, (name, estimates) in gathered.items()
    ]
    parameters = _contradicted(parameters) + across_sessions(given)
    starts = [
        start for index, seen in enumerate(given.starts) if not since.is_outdated(index, "started_w") for start in seen
    ]
    ran = [
        key
        for index, dated in enumerate(given.sessions)
        if not since.is_outdated(index, "started_w")
        for key in seen_running(dated.findings)
    ]
    return Character(
        source=source.name,
        kind=source.kind.value,
        parameters=tuple(parameters),
        start_models=start_models_of(given),
        hold=_hold(given, since),
        sessions=tuple(f"{dated.name}, {dated.at[:10]}" for dated in given.sessions),
        claims=claims_of(source, site),
        limits=known_limits(given, since),
        started_w={**dict.fromkeys(ran, ALONE_W), **started_on(starts)},
        failed_w=failed_on(starts),
        sound=sound_of([walk for dated in given.sessions for walk in dated.findings.noise]),
        waiting=_waiting(given),
        chemistry=source.claims.chemistry,
        panels=source.panels,
        school=source.school if source.units else None,
    )


def _waiting(given: Given) -> tuple[str, ...]:
    """The entries that wait to be confirmed, as they were jotted: nothing here rests on them."""
    return tuple(
        entry.raw
        for dated in given.sessions
        for entry in dated.findings.context.session.effective
        if entry.seq in dated.findings.context.waiting
    )


def _contradicted(parameters: list[Parameter]) -> list[Parameter]:
    """Where it tripped below what it held another time, both say so."""
    by_key = {parameter.key: parameter for parameter in parameters}
    held, trip = by_key.get("held_w"), by_key.get("trip_w")
    if held is None or trip is None or trip.value.value >= held.value.value:
        return parameters
    apart = (
        f"it tripped at {plain(trip.value.value, 'w')} once and held {plain(held.value.value, 'w')} another time: "
        "a leg, heat or the charge may have made the difference"
    )
    return [
        replace(parameter, apart=apart) if parameter.key in ("held_w", "trip_w") else parameter
        for parameter in parameters
    ]


BELOW_PLATE, TO_THE_TRIP = 0.95, 0.8
"""How far what is held for ever may lie below the nameplate, and from it towards the least that tripped. Ours."""


def _hold(given: Given, since: SetSince) -> HoldCurve | None:
    """The hold curve above what is held for ever: the nameplate, within what stood for three time constants and the least trip."""
    points = [
        HoldPoint(h.w, h.held_s, h.tripped)
        for dated in given.sessions
        for h in held_points(given, dated)
        if h.held_s > 0 and not by_leg(dated.findings.trips, h)
    ]
    least_trip = min((p.w for p in points if p.tripped), default=math.inf)
    stood = [p.w for p in points if not p.tripped and p.w < least_trip and p.held_s >= given.source.kind.settles_s]
    plate = binding(limits_of(given.source, given.system, given.site), None)
    if plate is None or not math.isfinite(least_trip):
        return None
    settled_w = max(stood, default=0.0)
    held_w = max(settled_w, min(plate.w, least_trip * BELOW_PLATE))
    low_w, high_w = max(settled_w, held_w * BELOW_PLATE), held_w + TO_THE_TRIP * (least_trip - held_w)
    try:
        return fit_hold_within(points, held_w, low_w, high_w)
    except MusterError:
        return None
