"""A duty that was logged, and a run of a heating appliance, on a colder or a warmer day."""

from __future__ import annotations

from collections.abc import Iterator

from ..errors import MusterError
from ..loads import Load, short_name
from ..loads.parts import call_wh
from ..quantities import Grade, Value, duration, plain
from ..timeline.traces.energy import DutySeen
from ..trade.heat import LEAST_K, duty_at
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic
from .runs import RunsSeen

COLDER_K = (0.0, -5.0, -10.0, -20.0)
"""Days to tell of, kelvin from the day on which it was seen; a cooled load is told of warmer ones."""


def duty_in_weather(context: SessionContext) -> tuple[Finding, ...]:
    """The share of the day a logged load would run on other days; for a load whose inside temperature is known, alone in its log."""
    outside = context.session.conditions.temp_c
    if outside is None:
        return ()
    return tuple(
        _describe(load, log.name, log.duty, outside)
        for log in context.logs
        if log.duty is not None
        for load in _alone(context, log.duty)
        if load.weather is not None and abs(load.weather.kept_c - outside) >= LEAST_K
    )


def _alone(context: SessionContext, seen: DutySeen) -> Iterator[Load]:
    """The load with a weather of its own that came and went: one such was on."""
    on = {key for at in (seen.t0_s, (seen.t0_s + seen.t1_s) / 2, seen.t1_s) for key in context.on_at(at)}
    with_weather = [context.loads[key] for key in on if key in context.loads and context.loads[key].weather is not None]
    if len(with_weather) == 1:
        yield with_weather[0]


def _describe(load: Load, log: str, seen: DutySeen, outside_c: float) -> Finding:
    assert load.weather is not None
    kept = load.weather.kept_c
    way = -1 if kept < outside_c else 1
    told, workings = [], []
    for step in COLDER_K[1:]:
        day_c = outside_c + way * step
        try:
            share = duty_at(seen.share, kept, outside_c, day_c)
        except MusterError:
            continue
        told.append(f"{plain(round(share * 24, 1), 'h')} a day at {plain(day_c, 'c')}")
        workings.append(
            Working(
                "duty on another day = duty × (its difference inside to outside ÷ that of the day it was seen), at most 1",
                f"{seen.share:.2f} × ({plain(kept, 'c')} − {plain(day_c, 'c')}) ÷ ({plain(kept, 'c')} − {plain(outside_c, 'c')})",
                plain(share * 100, "pct"),
            )
        )
    name = short_name(load)
    said = f"At {plain(outside_c, 'c')} outside the {name} ran {plain(seen.share * 100, 'pct')} of the time; it would run {', '.join(told)}."
    return Finding(
        key=f"weather-{load.key}-{log}",
        topic=Topic.DUTY,
        title=f"The {name} on another day",
        sentence=said,
        value=Value(seen.share * 100, "pct", None, None, Grade.B),
        workings=tuple(workings),
        seqs=(),
        needs="",
        span=(seen.t0_s, seen.t1_s),
        log=log,
    )


INSIDE_C = 20.0
"""What a home is kept at where nobody read it."""
CALLS_MIN = (5.0, 30.0)
"""How long a call of heat commonly is, where nobody timed one. Ours."""


def run_in_weather(context: SessionContext, seen: RunsSeen | None) -> tuple[Finding, ...]:
    """How long the same battery would run the home's one heating appliance at the brief's temperature.

    Parameters
    ----------
    context
        The session; its temperatures outside and inside, as read, or outside as its conditions say.
    seen
        Its run, None where there was none.

    Returns
    -------
    tuple of Finding
        None unless the run went from full to empty, one load of the home is a furnace or boiler, and both temperatures
        are known.

    References
    ----------
    physics §1: heating duty goes with the signed difference that drives it.
    """
    load = _heating_alone(context)
    outside_c = _read_c(context, "outside", context.session.conditions.temp_c)
    if seen is None or not (seen.run.down and seen.run.whole) or load is None or outside_c is None:
        return ()
    inside_c = _read_c(context, "inside", load.weather.kept_c if load.weather else INSIDE_C)
    there_c = context.site.temp_c
    assert inside_c is not None
    if min(inside_c - outside_c, inside_c - there_c) < LEAST_K or there_c == outside_c:
        return ()
    x = (inside_c - there_c) / (inside_c - outside_c)
    low, high = sorted(_duty(load, on_min, seen.mean_w) for on_min in CALLS_MIN)
    h = seen.run.hours / min(x, 1 / high if high > 0 else x)
    workings = (
        Working(
            "duty there = duty × (inside − there) ÷ (inside − as it was)",
            f"({plain(inside_c, 'c')} − {plain(there_c, 'c')}) ÷ ({plain(inside_c, 'c')} − {plain(outside_c, 'c')})",
            f"× {x:.2f}",
            "heat flows with the difference of temperature"
            + ("" if _told(context, "inside") else f"; inside taken as {plain(inside_c, 'c')}"),
        ),
        Working(
            "duty = mean watts ÷ watts of a call",
            f"{plain(seen.mean_w, 'w')} over calls of {plain(CALLS_MIN[0], 'min')} and {plain(CALLS_MIN[1], 'min')}",
            f"{plain(low * 100, 'pct')} to {plain(high * 100, 'pct')}",
            "its parts as they come on in a call",
        ),
        Working("time there = time ÷ that", f"{duration(seen.run.hours * 3600)} ÷ {x:.2f}", duration(h * 3600)),
    )
    name = short_name(load)
    return (
        Finding(
            key=f"weather-run-{load.key}",
            topic=Topic.DUTY,
            title="The run on a colder day" if there_c < outside_c else "The run on a milder day",
            sentence=f"If the {name} was all it ran, it called {plain(low * 100, 'pct')} to {plain(high * 100, 'pct')} of the time "
            f"at {plain(outside_c, 'c')} outside; at {plain(there_c, 'c')} that is × {x:.2f}, and it lasts about {duration(h * 3600)}.",
            value=Value(h, "h", 0.1 * h, None, Grade.C),
            workings=workings,
            seqs=seen.run.seqs,
            needs="how long a call of heat lasts, and how often it comes",
        ),
    )


def _heating_alone(context: SessionContext) -> Load | None:
    """The one furnace or boiler of the home, None where there is none or more."""
    heating = [load for load in context.loads.values() if load.kind == "furnace"]
    return heating[0] if len(heating) == 1 else None


def _told(context: SessionContext, spot: str) -> list[float]:
    return [r.value for _, _, _, r in context.readings("temp_c") if r.spot == spot]


def _read_c(context: SessionContext, spot: str, otherwise: float | None) -> float | None:
    """The mean of a temperature as it was read; else what is known of it besides."""
    read = _told(context, spot)
    return sum(read) / len(read) if read else otherwise


def _duty(load: Load, on_min: float, mean_w: float) -> float:
    """The share of the time that calls of a length come to for a mean load."""
    call_w = call_wh(load.running_parts, on_min * 60) / (on_min / 60)
    return min(1.0, mean_w / call_w) if call_w > 0 else 1.0
