"""How often each line of a verdict fails, read off the draws of an outage."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from ..quantities import Grade, worst_grade
from .demand import RARE_SHARE
from .layout import MOST_BITS, PLACES, KeptDraws, OutcomeColumn
from .layout import SourceColumn as U
from .played import Chance, RowChance, Spread, pair_key
from .ready import Play
from .rhythm import HOUR_S
from .unsure import Z_90

Hits = NDArray[np.bool_]
"""Which of the draws a line fails in. (draws,)"""
HEARD = ("noise-day", "noise-night")
"""Lines whose doubt lies in what was heard, and in nothing that is drawn of the source."""
Spreads = Callable[[Hits], tuple[Spread, ...]]
HOLDING = frozenset({U.HELD_0, U.HOLD_K_S, U.HOLD_N})
"""The columns that say how much is held and for how long."""


def rows_played(play: Play, kept: KeptDraws, stated: KeptDraws, spreads: Spreads) -> dict[str, RowChance]:
    """How often each line fails, by the key it has in a verdict.

    Parameters
    ----------
    play
        What was played.
    kept, stated
        The draws with doubt, and as stated, on the same dice.
    spreads
        What makes the doubt of an outcome.

    Returns
    -------
    dict of RowChance
        ``steady-total``, ``steady-1`` and ``steady-2`` on two legs, ``energy`` where a battery or a tank is known,
        ``noise-day`` and ``noise-night`` where it was heard and a limit is set, ``starting:`` with the key of a load or
        of two with a plus between them.

    References
    ----------
    physics §12, *by chance*.
    """
    rows = {}
    with_doubt, as_stated = dict(_failing(play, kept, doubt=True)), dict(_failing(play, stated, doubt=False))
    nothing = np.zeros(kept.outcomes.shape[0], dtype=bool)
    for key in sorted(with_doubt.keys() | as_stated.keys()):
        hit, hit_stated = with_doubt.get(key, nothing), as_stated.get(key, nothing)
        leans, grade = _leans(play, kept, key)
        rows[key] = RowChance(
            failed=Chance(int(hit.sum()), hit.size),
            stated=Chance(int(hit_stated.sum()), hit_stated.size),
            spreads=spreads(hit) if key not in HEARD and hit.any() and not hit.all() else (),
            leans=leans,
            leans_grade=grade,
            disturbed=float((_taken_down(kept, key) & ~hit).mean()),
            stops=float((kept.outcomes[:, OutcomeColumn.DRY_STOPS] > 0).mean()) if key == "energy" else 0.0,
        )
    return rows


def _failing(play: Play, kept: KeptDraws, *, doubt: bool) -> Iterator[tuple[str, Hits]]:
    outcomes = kept.outcomes
    for place, key in enumerate(("total", "1", "2") if play.brief.system.legs == 2 else ("total",)):
        trips = outcomes[:, OutcomeColumn.TRIPS_0 + place] + outcomes[:, OutcomeColumn.BREAKS_0 + place]
        yield f"steady-{key}", trips > 0
    if play.capability.has_battery or play.capability.has_tank:
        yield "energy", _runs_out(play, kept)
    yield from _too_loud(play, kept, doubt=doubt)
    for i, load in enumerate(play.loads):
        if load.has_start(play.brief.system.hz):
            yield f"starting:{load.key}", kept.failed[:, i] > 0
    yield from _together(play, kept)


def _taken_down(kept: KeptDraws, key: str) -> Hits:
    """Outages in which something else than a line is about took the source down."""
    outcomes = kept.outcomes
    own = {"steady-total": (0,), "steady-1": (1,), "steady-2": (2,)}.get(key, ())
    others = [place for place in range(PLACES) if place not in own]
    trips = [*(OutcomeColumn.TRIPS_0 + p for p in others), *(OutcomeColumn.BREAKS_0 + p for p in others)]
    if not key.startswith("starting"):
        trips.append(OutcomeColumn.START_TRIPS)
    down = outcomes[:, trips].sum(axis=1) > 0
    if key != "energy":
        down |= np.isfinite(outcomes[:, OutcomeColumn.RAN_OUT_S]) & (outcomes[:, OutcomeColumn.DRY_STOPS] == 0)
    return np.asarray(down)


def _runs_out(play: Play, kept: KeptDraws) -> Hits:
    """Empty, cut off or out of fuel before the end, or with less than the reserve left: a share of all that was given."""
    outcomes, reserve = kept.outcomes, play.brief.reserve_pct / 100
    given_wh = kept.by_hour[:, 0].sum(axis=1) / HOUR_S
    fails = np.zeros(given_wh.size, dtype=bool)
    if play.capability.has_battery:
        fails |= np.isfinite(outcomes[:, OutcomeColumn.RAN_OUT_S]) & (outcomes[:, OutcomeColumn.DRY_STOPS] == 0)
        fails |= kept.charge_wh[:, -1] < reserve * given_wh
    if play.capability.has_tank:
        fails |= outcomes[:, OutcomeColumn.OUT_OF_FUEL] > 0
        fails |= kept.fuel_l[:, -1] < reserve * outcomes[:, OutcomeColumn.BURNT_L]
    return np.asarray(fails)


def _too_loud(play: Play, kept: KeptDraws, *, doubt: bool) -> Iterator[tuple[str, Hits]]:
    """Louder at the neighbour than the limit in any hour of the day or of the night, under what is on in that hour."""
    sound, brief = play.character.sound, play.brief
    if sound is None:
        return
    hours = kept.by_hour.shape[2]
    in_hour_s = np.diff(np.minimum(np.arange(hours + 1) * HOUR_S, brief.outage_h * HOUR_S))
    loads_w, levels = zip(*sound.levels_1m, strict=True)
    there = np.interp(kept.by_hour[:, 0] / in_hour_s, loads_w, levels)
    there -= sound.decay_db * math.log10(max(1.0, brief.neighbour_m))
    if doubt:
        rng = np.random.default_rng([play.seed, 31])
        there += rng.normal(0.0, sound.u_db / Z_90, (there.shape[0], 1))
    by_night = np.array([(brief.outage_from_hour + i) % 24 in brief.quiet_hours for i in range(hours)])
    for key, limit, when in (
        ("noise-day", brief.noise_day_dba, ~by_night),
        ("noise-night", brief.noise_night_dba, by_night),
    ):
        if limit is not None and when.any():
            yield key, (there[:, when] > limit).any(axis=1)


def _together(play: Play, kept: KeptDraws) -> Iterator[tuple[str, Hits]]:
    """Starts that failed at the moment of another's, by the two loads."""
    n = min(len(play.loads), MOST_BITS)
    for i in range(n):
        for j in range(i + 1, n):
            hit = (kept.failed_with[:, i] >> j & 1) | (kept.failed_with[:, j] >> i & 1)
            if hit.any():
                yield pair_key(play.loads[i].key, play.loads[j].key), hit.astype(bool)


def _leans(play: Play, kept: KeptDraws, key: str) -> tuple[bool, Grade | None]:
    """Whether a steady line lives on what is held for a while alone, and how well that is known."""
    place = {"steady-total": 0, "steady-1": 1, "steady-2": 2}.get(key)
    if place is None or (kept.outcomes[:, OutcomeColumn.OVER_0 + place] > 0).mean() <= RARE_SHARE:
        return False, None
    curve = [item.grade for item in play.capability.unsure if HOLDING & set(item.columns) - {U.HELD_0}]
    return True, worst_grade(*curve) if curve else Grade.D
