"""The day: simulated outages a second, against a loop over seconds."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from muster.core.brief import Brief, BringUp
from muster.core.character import Character, character_of
from muster.core.character.impedance import StartModel
from muster.core.loads import Duty, Load
from muster.core.outage import play as played_on
from muster.core.outage.play import kept_for, log_for, play_all, play_outage, ready, scales
from muster.core.outage.simulate import simulate, warm
from muster.core.sources import Claims, Site, Source, SourceKind
from muster.core.supply import SYSTEMS, Leg

from .measuring import Row, once, seconds

DRAWS = 400
AIM = 5000
BRIEF = Brief(system=SYSTEMS["single-230-50"], outage_h=24, outage_from_hour=0, bring_up=BringUp.AT_ONCE)
LOADS = tuple(
    Load(
        f"{i:02d}",
        f"load {i}",
        "motor" if i % 3 == 0 else "heater",
        100 + 40 * i,
        0.9,
        Leg.ONE,
        duty=Duty(8 + i, 20 + 2 * i),
    )
    for i in range(20)
)


def second_by_second(seed: int) -> float:
    """One day stepped a second at a time in plain Python: the highest minute [W]."""
    rng = np.random.default_rng(seed)
    on, left = [True] * len(LOADS), [load.duty.on_min * 60 * 3 for load in LOADS]
    series = []
    for _ in range(86400):
        watts = 0.0
        for i, load in enumerate(LOADS):
            if on[i]:
                watts += load.run_w
            left[i] -= 1
            if left[i] <= 0:
                on[i] = not on[i]
                span = load.duty.on_min if on[i] else load.duty.off_min
                left[i] = span * 60 * rng.uniform(0.8, 1.2)
        series.append(watts)
    minute = np.convolve(series, np.full(60, 1 / 60), "valid")
    return float(minute.max())


LEGS = (Leg.ONE, Leg.TWO, Leg.BOTH)
SPLIT_BRIEF = replace(BRIEF, system=SYSTEMS["split-120-240-60"])
SPLIT_LOADS = tuple(replace(load, leg=LEGS[i % 3]) for i, load in enumerate(LOADS))
PLAYED, FEEDBACK_AIM = 1000, 2000


def a_set() -> Character:
    """A set of 9 kW of which the starts were measured."""
    claims = Claims(9000, surge_w=12000, surge_s=5, tank_l=20, stored_fuel_l=30, half_load_lph=1.5, full_load_lph=2.5)
    meets = StartModel(
        kind="impedance",
        z_ohm=0.3,
        r_ohm=0.1,
        x_ohm=0.27,
        limit_a=None,
        pf=0.5,
        u=0.03,
        residual_v=0.5,
        other_residual_v=None,
        hits=(),
    )
    character = character_of(Source("set", SourceKind.OPEN_FRAME, claims), SPLIT_BRIEF.system, Site(), ())
    return replace(character, start_models={"1": meets, "2": meets})


def outages_a_second() -> float:
    """Outages played with feedback a second, two legs, 20 loads, on one core."""
    play = ready(SPLIT_LOADS, SPLIT_BRIEF, a_set())
    units, (run_x, start_x) = play.capability.drawn(PLAYED, 1), scales(play.loads, PLAYED, 1)

    def once_through() -> None:
        kept = kept_for(PLAYED, len(play.loads), 24)
        play_all(units, run_x, start_x, play.home, play.setting, 0, kept, log_for(0))

    return PLAYED / seconds(once_through)


def rows() -> list[Row]:
    """Days a second, 20 cycling loads; outages with feedback beside them in the same run."""
    warm()
    plain = 1 / once(lambda: second_by_second(1))
    ours = DRAWS / seconds(lambda: simulate(LOADS, BRIEF, DRAWS))
    return [
        Row(
            "simulate a day, 20 cycling loads",
            "a loop over seconds, in Python",
            f"{plain:.3g} days/s",
            f"{ours:,.0f} days/s",
            ours / plain,
            f"≥ {AIM:,} days/s a core",
            ours >= AIM,
        ),
        *_played(),
    ]


def _played() -> list[Row]:
    """The same home on two legs, with the source acting back: against the demand alone in the same run, and whole answers."""
    played_on.warm()
    alone = DRAWS / seconds(lambda: simulate(SPLIT_LOADS, SPLIT_BRIEF, DRAWS))
    acting = outages_a_second()
    play = ready(SPLIT_LOADS, SPLIT_BRIEF, a_set())
    long = ready(SPLIT_LOADS, replace(SPLIT_BRIEF, outage_h=72), a_set())
    rows = [
        Row(
            "an outage with feedback, 20 loads, two legs",
            "the demand of the same home alone",
            f"{alone:,.0f} a second",
            f"{acting:,.0f} a second",
            acting / alone,
            f"≥ {FEEDBACK_AIM:,} a second a core",
            acting >= FEEDBACK_AIM,
        )
    ]
    for label, what, draws, aim_s in (
        ("200 outages with doubt, and 200 as stated", play, 200, 0.5),
        ("2,000 outages with doubt, and 2,000 as stated", play, 2000, 1.5),
        ("the same of 72 h", long, 2000, 4.0),
    ):
        took_s = seconds(lambda what=what, draws=draws: play_outage(what, draws))  # type: ignore[misc]
        plain_s = 2 * draws / alone
        rows.append(
            Row(
                label,
                "the demand alone as often",
                f"{plain_s:.2f} s",
                f"{took_s:.2f} s",
                plain_s / took_s,
                f"≤ {aim_s} s",
                took_s <= aim_s,
            )
        )
    return rows
