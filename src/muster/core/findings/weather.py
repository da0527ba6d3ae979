"""A duty that was logged, on a colder or a warmer day."""

from __future__ import annotations

from collections.abc import Iterator

from ..errors import MusterError
from ..loads import Load, short_name
from ..quantities import Grade, Value, plain
from ..timeline.traces.energy import DutySeen
from ..trade.heat import duty_at
from ..working import Working
from .context import SessionContext
from .finding import Finding, Topic

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
        if load.weather is not None and abs(load.weather.kept_c - outside) > 2
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
