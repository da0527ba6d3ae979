"""What only several sessions tell together: two sources over one vessel of water, and volts under load against a cut-off."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations
from statistics import fmean

from ..loads import Wave, kind_of
from ..quantities import Grade, Value, plain
from ..sessions import Place, Stat
from ..sessions.replay import Segment
from ..working import Working
from .collect import SessionFindings
from .finding import Finding, Topic
from .heating import HeatRun
from .under_load import under_load

VOLTS_POWER = 2.0
"""Heat goes with the square of the volts in whatever is ohmic; a transformer oven lies near it (ours)."""
LEAST_RUNS = 2
"""Fewer runs on a source say little of its scatter."""
NEAR_V_SHARE = 0.05
"""Volts this near above a cut-off are told as near: a share of it. Ours."""


@dataclass(frozen=True)
class SourceSeen:
    """A source by name and wave, with what its sessions found."""

    name: str
    wave: Wave
    sessions: tuple[SessionFindings, ...]


def across_sources(sources: Sequence[SourceSeen]) -> tuple[Finding, ...]:
    """What the sessions of a job tell only together.

    Parameters
    ----------
    sources
        Of one job, with their sessions.

    Returns
    -------
    tuple of Finding
        The heating check of each two sources that ran one, then each source's volts under load against its cut-off.
    """
    heated = [heat for source in sources if (heat := _heated(source)) is not None]
    compared = (_compared(*sorted(pair, key=lambda heat: heat.per_w, reverse=True)) for pair in combinations(heated, 2))
    return (*compared, *(finding for source in sources for finding in _sags(source)))


@dataclass(frozen=True)
class _Heated:
    """Heating checks of a source, on the mean: heat [W], heat a watt drawn, volts (None: not read), relative half-width."""

    source: SourceSeen
    delivered_w: float
    per_w: float
    v: float | None
    u_share: float


def _runs(source: SourceSeen) -> list[HeatRun]:
    """The heating checks that were run on a source, and not on the mains."""
    seen = (found_there.heating for found_there in source.sessions if found_there.heating)
    return [run for heating in seen for run in heating.runs if not run.on_mains]


def _heated(source: SourceSeen) -> _Heated | None:
    runs = _runs(source)
    shares = [run.share for run in runs if run.share is not None]
    if not runs or len(shares) < len(runs):
        return None
    volts = [run.v for run in runs if run.v is not None]
    return _Heated(
        source=source,
        delivered_w=fmean(run.delivered_w for run in runs),
        per_w=fmean(shares),
        v=fmean(volts) if volts else None,
        u_share=math.hypot(*(run.u_w / run.delivered_w for run in runs)) / len(runs),
    )


def _less(ratio: float, u: float) -> str:
    """A ratio as so much less or more, with its half-width."""
    return f"{plain(abs(1 - ratio) * 100, 'pct')} {'less' if ratio < 1 else 'more'} (± {plain(u * 100, 'pct')})"


def _compared(first: _Heated, second: _Heated) -> Finding:
    """The source that gives less heat a watt against the other."""
    per_w, heat = second.per_w / first.per_w, second.delivered_w / first.delivered_w
    u = math.hypot(first.u_share, second.u_share)
    said = (
        f"{_cap(second.source.name)} puts {plain(second.per_w * 100, 'pct')} of what is drawn into the water, "
        f"{first.source.name} {plain(first.per_w * 100, 'pct')}: {_less(per_w, per_w * u)} a watt, "
        f"and {_less(heat, heat * u)} heat in the same time"
    )
    workings = [
        Working(
            "heat a watt, one over the other",
            f"{second.per_w:.4f} ÷ {first.per_w:.4f}",
            f"{per_w:.3f} ± {per_w * u:.3f}",
        ),
        Working(
            "heat, one over the other",
            f"{plain(second.delivered_w, 'w')} ÷ {plain(first.delivered_w, 'w')}",
            f"{heat:.3f} ± {heat * u:.3f}",
        ),
    ]
    if first.v and second.v:
        alike = heat * (first.v / second.v) ** VOLTS_POWER
        said += f"; at the {plain(first.v, 'v')} of the other it would be {_less(alike, alike * u)}"
        workings.append(
            Working(
                f"at one voltage = heat × (volts of the other ÷ its own)^{VOLTS_POWER:g}",
                f"{heat:.3f} × ({plain(first.v, 'v')} ÷ {plain(second.v, 'v')})^{VOLTS_POWER:g}",
                f"{alike:.3f} ± {alike * u:.3f}",
                "ohmic heat goes with the square of the volts",
            )
        )
    return Finding(
        key="heating-between",
        topic=Topic.HEATING,
        title="One source's heat against another's",
        sentence=f"{said}.{_advice(second)}",
        value=Value(per_w * 100, "pct", per_w * u * 100, None, Grade.A),
        workings=tuple(workings),
        seqs=(),
        needs="two runs more on each" if min(len(_runs(first.source)), len(_runs(second.source))) < LEAST_RUNS else "",
    )


def _cap(words: str) -> str:
    return words[:1].upper() + words[1:]


def _advice(heated: _Heated) -> str:
    """What a stepped wave means for the appliance that was heated with, where the home has one of its kind."""
    if heated.source.wave is not Wave.STEPPED:
        return ""
    kinds = {load.kind for seen_there in heated.source.sessions for load in seen_there.context.loads.values()}
    told = kind_of("microwave").stepped if "microwave" in kinds else ""
    return f" On a stepped wave the microwave: {told}." if told else ""


def _sags(source: SourceSeen) -> Iterator[Finding]:
    """How far above its cut-off the DC side stood under the heaviest load at which it was read."""
    low = next(
        (p for seen_there in reversed(source.sessions) if seen_there.cut_offs and (p := seen_there.cut_offs.of("low"))),
        None,
    )
    if low is None:
        return
    loaded = [
        (reading.value, w, seq)
        for seen_there in source.sessions
        if seen_there.cut_offs is None
        for segment in seen_there.record.segments
        for seq, _, reading, w in under_load(segment, _watts_of(seen_there), "v")
        if reading.place is Place.DC and reading.stat is Stat.STEADY and w is not None and w > 0
    ]
    if not loaded:
        return
    dc_v, w, seq = max(loaded, key=lambda read: (read[1], -read[0]))
    room_v = dc_v - low.dc_v.value
    near = room_v <= NEAR_V_SHARE * low.dc_v.value
    meaning = (
        ": a battery a little emptier, colder or older lets it go under this load, though it has energy left"
        if near
        else ""
    )
    side = "above" if room_v >= 0 else "below"
    yield Finding(
        key="cut-room",
        topic=Topic.CUT_OFFS,
        title="Volts under load against the cut-off",
        sentence=f"Under {plain(w, 'w')} the DC side of {source.name} stood at {plain(dc_v, 'v')}, "
        f"{plain(abs(room_v), 'v')} {side} its cut-off of {plain(low.dc_v.value, 'v')}{meaning}.",
        value=Value(room_v, "v", low.dc_v.u, None, Grade.B),
        workings=(
            Working(
                "room = DC volts under load − low cut-off",
                f"{plain(dc_v, 'v')} − {plain(low.dc_v.value, 'v')}",
                plain(room_v, "v"),
                "read at the terminals, two sessions",
            ),
        ),
        seqs=(seq,),
    )


def _watts_of(seen_there: SessionFindings) -> Callable[[Segment], float | None]:
    """How the watts of a session's stretches are read."""
    return lambda segment: segment.total_w(seen_there.context.system.legs)
