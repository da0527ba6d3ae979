"""What the played outage takes from a character: each figure as it is stated, and with what doubt it is drawn."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from ..brief import Brief
from ..character import Character
from ..character.hold_curve import N_USUAL
from ..character.impedance import StartModel
from ..character.predict import start_model_for
from ..quantities import Grade, Value
from ..sources import Chemistry, SourceKind
from ..supply import Leg
from .holding import holds_into
from .layout import UNITS, Floats
from .layout import SourceColumn as U
from .stores import CHARGE_USUAL_PCT, battery_into, tank_into
from .unsure import Z_90, UnsureFigure, known_figure, normal

UNKNOWN_V_SHARE, UNKNOWN_HZ = 0.02, 0.2
"""Half-widths that nobody knows, a share of nominal volts, and hertz (physics §10)."""
STARTS_UNREAD = "what starts meet: start a motor with its lowest volts and highest amps read, by a meter fast enough for it (Starts)"
TIME_CONSTANTS = 3
"""Heat has settled after so many."""
NEVER = 1e30
"""A limit that nothing reaches."""


@dataclass(frozen=True)
class Capability:
    """A source as it is played: ``unsure`` fill the columns of a row, ``missing`` says what could not be told.

    ``by_va``: its limits are of amps (electronics), not of an engine's watts.
    """

    unsure: tuple[UnsureFigure, ...]
    by_va: bool
    has_battery: bool
    has_tank: bool
    recovers_alone: bool
    lead: bool
    battery_alone_w: float = 0.0
    missing: tuple[str, ...] = ()
    base: Floats = field(default_factory=lambda: np.zeros(UNITS))

    def stated(self, draws: int) -> Floats:
        """Rows of a source at its stated values. (draws, columns)"""
        rows = np.tile(self.base, (draws, 1))
        for figure in self.unsure:
            rows[:, figure.columns] = figure.stated
        return rows

    def drawn(self, draws: int, seed: int) -> Floats:
        """Rows of a source with what is not known well drawn from its band. (draws, columns)"""
        rows = self.stated(draws)
        for index, figure in enumerate(self.unsure):
            rows[:, figure.columns] = figure.draw(np.random.default_rng([seed, index]), draws)
        return rows


def capability_of(character: Character, brief: Brief) -> Capability:
    """What of a character the outage is played on.

    Parameters
    ----------
    character
        All that is known of the source, under the brief's conditions.
    brief
        Its supply, its air, and the sun there is.

    Returns
    -------
    Capability
        With what is missing named; a limit that nobody knows never binds.

    References
    ----------
    docs/method/outage.md; half-widths that nobody knows: physics §10.
    """
    kind = SourceKind(character.kind)
    unsure: list[UnsureFigure] = []
    missing: list[str] = []
    base = _nothing_binds(brief)
    holds_into(character, brief, kind, base, unsure, missing)
    _volts(character, brief, unsure)
    _starts(character, brief, unsure, missing)
    back = character.best("recovers_s")
    if back is not None:
        unsure.append(known_figure("time to come back by itself", U.BACK_S, back.value, "Overload"))
    cools_s = back.value.value if back else kind.settles_s / TIME_CONSTANTS
    base[U.COOLS_S] = max(1.0, cools_s)
    lead = character.chemistry is Chemistry.LEAD
    battery = kind.has_battery and battery_into(character, brief, base, unsure, missing, lead=lead)
    tank = kind.has_engine and tank_into(character, base, unsure, missing)
    return Capability(
        unsure=tuple(unsure),
        by_va=kind is not SourceKind.OPEN_FRAME,
        has_battery=battery,
        has_tank=tank,
        recovers_alone=back is not None,
        lead=lead,
        battery_alone_w=_without_sun(character),
        missing=tuple(missing),
        base=base,
    )


def _without_sun(character: Character) -> float:
    """What a hybrid is said to give without sun, where it was not seen to hold more; else 0. [W]"""
    said = next((limit.w for limit in character.limits if limit.key == "battery_only"), 0.0)
    return 0.0 if character.held is not None and character.held.w >= said else said


def _nothing_binds(brief: Brief) -> Floats:
    """A row of a source of which nothing is known: nominal volts and hertz, and no limit."""
    base = np.zeros(UNITS)
    for column in (U.HELD_0, U.HELD_1, U.HELD_2, U.BREAKER_0, U.BREAKER_1, U.BREAKER_2):
        base[column] = NEVER
    base[U.HOLD_K_S], base[U.HOLD_N], base[U.COOLS_S] = 1.0, N_USUAL, 1.0
    base[U.NO_LOAD_V1] = base[U.NO_LOAD_V2] = brief.system.v_nominal
    base[U.NO_LOAD_HZ] = brief.system.hz
    base[U.LIMIT_1_A] = base[U.LIMIT_2_A] = math.inf
    base[U.RATED_AT_W], base[U.FULL_V], base[U.CHARGE_SHARE] = NEVER, 1.0, CHARGE_USUAL_PCT / 100
    base[U.SUN_X] = 1.0
    return base


def _volts(character: Character, brief: Brief, unsure: list[UnsureFigure]) -> None:
    """Lines of volts and hertz; what was not read is nominal, with the half-width that nobody knows."""
    lines = [("1", U.NO_LOAD_V1, U.V1_PER_W)] + ([("2", U.NO_LOAD_V2, U.V2_PER_W)] if brief.system.legs == 2 else [])
    for leg, level_at, slope_at in lines:
        name = "volts" if brief.system.legs == 1 else f"volts of leg {leg}"
        half = UNKNOWN_V_SHARE * brief.system.v_nominal
        nominal = Value(brief.system.v_nominal, "v", half, None, Grade.D)
        unsure.append(known_figure(f"no-load {name}", level_at, character.get(f"no_load_v{leg}") or nominal, "Ladder"))
        slope = character.get(f"v{leg}_per_kw")
        if slope is not None:
            unsure.append(_signed(f"{name} with load", slope_at, slope))
    hertz = Value(brief.system.hz, "hz", UNKNOWN_HZ, None, Grade.D)
    unsure.append(known_figure("no-load hertz", U.NO_LOAD_HZ, character.get("no_load_hz") or hertz, "Ladder"))
    slope = character.get("hz_per_kw")
    if slope is not None:
        unsure.append(_signed("hertz with load", U.HZ_PER_W, slope))


def _signed(name: str, column: int, value: Value) -> UnsureFigure:
    """A slope a kilowatt, which may lie on either side of nothing."""
    v, half = value.value / 1000, (value.u or 0.2 * abs(value.value)) / 1000
    return UnsureFigure(
        name=name,
        columns=(column,),
        stated=(v,),
        draw=normal(v, half, -math.inf),
        grade=value.grade,
        settled_by="" if value.grade.is_measured else "Ladder",
    )


def _starts(character: Character, brief: Brief, unsure: list[UnsureFigure], missing: list[str]) -> None:
    """What starts meet on each leg, as it is predicted from; half of what is known across both where that is all."""
    if not character.start_models:
        missing.append(STARTS_UNREAD)
        return
    for index, leg in enumerate(brief.system.leg_names):
        where = "" if brief.system.legs == 1 else f" on leg {leg.value}"
        model = start_model_for(character, leg)
        if model is not None:
            unsure.append(_start_model(model, index, 1.0, where))
        elif (across := character.start_models.get(Leg.BOTH.value)) is not None:
            unsure.append(_start_model(across, index, 0.5, where))


def _start_model(model: StartModel, leg: int, x: float, where: str) -> UnsureFigure:
    if model.kind == "limit" and model.limit_a is not None:
        return UnsureFigure(
            name=f"the limit that starts meet{where}",
            columns=(U.LIMIT_1_A + leg,),
            stated=(model.limit_a,),
            draw=normal(model.limit_a, model.u),
            grade=Grade.A,
        )
    r, x_ohm = (model.z_ohm, 0.0) if model.r_ohm is None or model.x_ohm is None else (model.r_ohm, model.x_ohm)
    share = model.u / model.z_ohm if model.z_ohm else 0.0

    def draw(rng: np.random.Generator, draws: int) -> Floats:
        times = np.maximum(0.0, rng.normal(1.0, share / Z_90, (draws, 1)))
        return np.asarray(times * np.array([[r * x, x_ohm * x]]))

    return UnsureFigure(
        name=f"what starts meet{where}",
        columns=(U.R1_OHM + 2 * leg, U.X1_OHM + 2 * leg),
        stated=(r * x, x_ohm * x),
        draw=draw,
        grade=Grade.A,
    )
