"""What a battery gives and how it sags, what a tank holds and an engine burns, as they are drawn."""

from __future__ import annotations

import numpy as np

from ..brief import Brief
from ..character import Character
from ..character.runs import P1_USUAL, U_P1
from ..quantities import Bound, Grade, Value, worst_grade
from ..sources import Chemistry
from ..trade.batteries import PEUKERT_LEAD, USE_TO_PCT, cold_share
from .layout import Floats
from .layout import SourceColumn as U
from .unsure import UNKNOWN_SHARE, Z_90, UnsureFigure, between, known_figure, normal, times

GIVES = "what the battery gives"
IDLE_USUAL_SHARE = 0.01
"""Idle draw of what nobody measured nor claims, a share of the rating; may be half or double. Ours, grade D."""
CHARGE_USUAL_PCT, CHARGE_RATE = 85.0, 0.5
"""Of the wall's energy what the battery gives again, and the most it takes in an hour, a share of itself, where nobody said. Ours."""
EMPTY_SHARE = {Chemistry.LFP: 0.94, Chemistry.NMC: 0.86, Chemistry.LEAD: 0.97}
FULL_SHARE = {Chemistry.LFP: 1.05, Chemistry.NMC: 1.12, Chemistry.LEAD: 1.06}
"""Open-circuit volts empty and full, shares of nominal; of lead-acid at half charge, to which it is used."""
SAG_AT_RATE = 0.03
"""Volts that a battery loses at one hour's rate, a share of nominal. Ours, grade D."""
LEAD_RATED_H = 20.0
"""A lead-acid battery is rated over so many hours, unless its maker says."""
TESTED_C = 20.0
"""A run to empty is made at about room temperature, where nobody said."""


def battery_into(
    character: Character, brief: Brief, base: Floats, unsure: list[UnsureFigure], missing: list[str], *, lead: bool
) -> bool:
    """Idle draw and losses, what the battery gives at its terminals, how it takes charge and sags; False if nobody said how much it holds."""
    idle = _idle(character)
    p1 = character.get("loss_p1_pct")
    x = 1 + (p1.value / 100 if p1 is not None else P1_USUAL)
    unsure.append(idle)
    if p1 is not None:
        unsure.append(known_figure("loss with load", U.LOSS_P1, p1, "Idle", 0.01))
    else:
        unsure.append(
            UnsureFigure(
                name="loss with load",
                columns=(U.LOSS_P1,),
                stated=(P1_USUAL,),
                draw=normal(P1_USUAL, U_P1),
                grade=Grade.D,
                settled_by="Idle",
            )
        )
    p2 = character.get("loss_p2_w")
    if p2 is not None:
        base[U.LOSS_P2_PER_W] = p2.value / 1e6
    energy = _battery_energy(character, idle.stated[0], x)
    if energy is None:
        missing.append("what the battery holds: say its watt-hours, or run it from full to empty (Endurance)")
        return False
    value, run_w = energy
    as_lead = lead or character.chemistry is None
    there = cold_share(TESTED_C, lead=as_lead) if value.grade.is_measured else 1.0
    cold = min(1.0, cold_share(brief.site.temp_c, lead=as_lead) / there)
    claim = _battery_claim(character)
    if value.bound is Bound.AT_LEAST and claim is not None and claim.value > value.value:
        # It was not run to its end: it gives at least that, and is said to give so much.
        unsure.append(
            UnsureFigure(
                name=GIVES,
                columns=(U.BATTERY_WH,),
                stated=(claim.value * cold,),
                draw=between(value.value * cold, claim.value * cold),
                grade=claim.grade,
                settled_by="Endurance",
            )
        )
    else:
        unsure.append(known_figure(GIVES, U.BATTERY_WH, value, "Endurance", cold))
    rated_wh = value.value
    if lead:
        base[U.PEUKERT] = PEUKERT_LEAD - 1
        base[U.RATED_AT_W] = run_w if run_w is not None else rated_wh / (USE_TO_PCT / 100) / LEAD_RATED_H
    charge = next(
        (v for key in ("charge_pct", "charge_pct_two_runs", "charge_pct_rated") if (v := character.get(key))), None
    )
    if charge is not None:
        unsure.append(known_figure("charge", U.CHARGE_SHARE, charge, "Recharge", 0.01))
    base[U.CHARGE_MOST_W] = CHARGE_RATE * rated_wh
    _sag(character, base, rated_wh, run_w)
    return True


def _idle(character: Character) -> UnsureFigure:
    idle = character.get("idle_w") or character.get("two_runs_idle_w")
    claimed = character.best("idle_w")
    if idle is None and claimed is not None:
        idle = claimed.value
    if idle is not None:
        return known_figure("idle draw", U.IDLE_W, idle, "Idle")
    cont = character.best("cont_w")
    usual = IDLE_USUAL_SHARE * (cont.value.value if cont is not None else 1000.0)
    return UnsureFigure(
        name="idle draw", columns=(U.IDLE_W,), stated=(usual,), draw=times(usual, 2.0), grade=Grade.D, settled_by="Idle"
    )


def _battery_energy(character: Character, idle_w: float, x: float) -> tuple[Value, float | None] | None:
    """What the battery gives at its terminals, by the best that is known: two runs, the DC side counted, one run to empty, its claim.

    With the load of the run it rests on, None for a claim. A run that did not end empty is a lower bound, and taken at it.
    """
    for key in ("two_runs_wh_dc", "battery_wh_dc"):
        value = character.get(key)
        if value is not None and value.bound is not Bound.AT_LEAST:
            return value, None
    runs = [
        (float(key.rsplit("_", 1)[1]), parameter.value)
        for key, parameter in character.by_key.items()
        if key.startswith("delivered_wh_ac_")
    ]
    whole = [(w, value) for w, value in runs if value.bound is None] or runs
    if whole:
        run_w, delivered = max(whole, key=lambda item: item[0])
        hours = delivered.value / run_w
        p2 = character.get("loss_p2_w")
        squared_wh = (p2.value / 1e6 if p2 is not None else 0.0) * run_w * delivered.value
        given = x * delivered.value + squared_wh + idle_w * hours
        u = x * (delivered.u or 0.0)
        return Value(given, "wh", u, delivered.bound, delivered.grade), run_w
    claim = _battery_claim(character)
    return None if claim is None else (claim, None)


def _battery_claim(character: Character) -> Value | None:
    """What the battery is said to give: its rating, and of that the share said or usual."""
    claimed = next((claim for claim in character.claims if claim.key == "battery_wh_dc"), None)
    if claimed is None:
        return None
    usable = next((claim.value.value for claim in character.claims if claim.key == "usable_pct"), None)
    usual_pct = USE_TO_PCT if character.chemistry is Chemistry.LEAD else 100.0
    share = (usable if usable is not None else usual_pct) / 100
    return Value(claimed.value.value * share, "wh", None, None, claimed.value.grade)


def _sag(character: Character, base: Floats, rated_wh: float, run_w: float | None) -> None:
    """Where its volts stand and sag, for the cut-off: only where battery volts and cut-off are known."""
    volts, cut = character.best("battery_v"), character.best("cut_low_v")
    if volts is None or cut is None or rated_wh <= 0:
        return
    v, chemistry = volts.value.value, character.chemistry or Chemistry.LFP
    ohm = SAG_AT_RATE * v * v / rated_wh
    base[U.CUT_V], base[U.CELL_OHM] = cut.value.value, ohm
    back = character.get("cut_back_v")
    base[U.BACK_V] = back.value if back is not None else 0.0
    at_a = (run_w or rated_wh / 4) / v
    # What it gives was counted to its cut-off under the load of the run: a heavier one meets it earlier, a lighter one no later.
    base[U.EMPTY_V] = max(EMPTY_SHARE[chemistry] * v, cut.value.value + ohm * at_a)
    base[U.FULL_V] = max(FULL_SHARE[chemistry] * v, base[U.EMPTY_V] + 0.02 * v)


def tank_into(character: Character, base: Floats, unsure: list[UnsureFigure], missing: list[str]) -> bool:
    """Litres an hour and what is there to burn, by two loads that were seen, by one, by the booklet; False if nobody said."""
    tank = character.best("tank_l")
    if tank is None:
        missing.append("its tank: say the litres")
        return False
    seen = character.get("idle_lph") is not None and character.get("lph_per_kw") is not None
    if not seen and character.get("lph") is not None:
        missing.append("litres an hour at a second load: fuel is reckoned from the one that was seen (Endurance)")
        return _by_one_load(character, tank.value, base, unsure)
    a, b = character.best("idle_lph"), character.best("lph_per_kw")
    if a is None or b is None:
        missing.append(
            "what it burns: say litres an hour at half and full load, or read the tank over a run (Endurance)"
        )
        return False
    unsure += _by_line(character, a.value, b.value)
    _fill(character, tank.value, base, unsure)
    return True


def _by_line(character: Character, a: Value, b: Value) -> list[UnsureFigure]:
    """What is burnt by a line: drawn about the middle of the loads that were seen, where it is known best, with its slope.

    Level and slope at no load err together: drawn apart they would make a doubt at the home's load that nobody has.
    """
    middle = character.by_key.get("mid_lph")
    middle_w = middle.estimates[-1].at_w if middle is not None else None
    if middle is None or middle_w is None:
        return [
            known_figure("litres an hour at no load", U.IDLE_LPH, a, "Endurance"),
            known_figure("litres an hour with load", U.LPH_PER_W, b, "Endurance", 0.001),
        ]
    per_w, u_per_w = b.value / 1000, (b.u or UNKNOWN_SHARE["lph"] * b.value) / 1000
    u_lph = middle.value.u or 0.0

    def draw(rng: np.random.Generator, draws: int) -> Floats:
        level = rng.normal(a.value + per_w * middle_w, u_lph / Z_90, draws)
        slope = np.maximum(0.0, rng.normal(per_w, u_per_w / Z_90, draws))
        return np.stack([np.maximum(0.0, level - slope * middle_w), slope], axis=1)

    return [
        UnsureFigure(
            name="litres an hour",
            columns=(U.IDLE_LPH, U.LPH_PER_W),
            stated=(a.value, per_w),
            draw=draw,
            grade=worst_grade(a.grade, b.grade),
            settled_by="" if a.grade.is_measured else "Endurance",
        )
    ]


ONE_LOAD_IDLE_SHARE = (0.2, 0.6)
"""Of what an engine burns at one load, what it burns at none. Ours, from usual Willans lines."""


def _by_one_load(character: Character, tank: Value, base: Floats, unsure: list[UnsureFigure]) -> bool:
    """A line through the one load at which its use was seen, its share at no load drawn."""
    seen = character.by_key["lph"]
    w = seen.estimates[-1].at_w
    if w is None or w <= 0:
        return False
    lph, u = seen.value.value, seen.value.u or 0.1 * seen.value.value

    def draw(rng: np.random.Generator, draws: int) -> Floats:
        share = rng.uniform(*ONE_LOAD_IDLE_SHARE, draws)
        burnt = rng.normal(lph, u / Z_90, draws)
        return np.stack([share * burnt, (1 - share) * burnt / w], axis=1)

    middle = sum(ONE_LOAD_IDLE_SHARE) / 2
    unsure.append(
        UnsureFigure(
            name="litres an hour at other loads",
            columns=(U.IDLE_LPH, U.LPH_PER_W),
            stated=(middle * lph, (1 - middle) * lph / w),
            draw=draw,
            grade=Grade.B,
            settled_by="Endurance",
        )
    )
    _fill(character, tank, base, unsure)
    return True


def _fill(character: Character, tank: Value, base: Floats, unsure: list[UnsureFigure]) -> None:
    unsure.append(
        UnsureFigure(
            name="its tank",
            columns=(U.TANK_L,),
            stated=(tank.value,),
            draw=normal(tank.value, tank.value * UNKNOWN_SHARE["l"]),
            grade=tank.grade,
        )
    )
    stored = character.best("stored_fuel_l")
    base[U.STORE_L] = stored.value.value if stored is not None else 0.0
