"""What a character predicts of loads that were never tried, and how well it predicted those that were."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from ..errors import MusterError
from ..findings.starts import StartSeen
from ..loads import Load
from ..quantities import THIN, Grade, Value, duration, plain, worst_grade
from ..sessions.replay import Outcome
from ..supply import Leg, System
from .character import Character
from .given import Dated
from .impedance import START_U, Hit, StartModel, fit_start_model
from .starts import carried_a, hits_of

MAGNITUDES_U = 0.03
"""What reckoning in magnitudes may be out where no angle is known: a share of the fall (docs/method/starts.md#what-starts-meet)."""
FOR_EVER_S = 24 * 3600.0


@dataclass(frozen=True)
class Prediction:
    """What is predicted of one load on one leg, on top of ``base_w``.

    ``lowest`` volts at its start (None: it has no start, or nothing is known
    of what starts meet), ``floor_v`` what it needs; ``volts`` it then runs at;
    ``hold_s`` how long the whole is held with its band (None: not known, inf: for ever).
    """

    load: Load
    leg: Leg
    base_w: float
    lowest: Value | None
    floor_v: float
    volts: Value | None
    hold_s: float | None
    hold_band_s: tuple[float, float] | None
    measured: Value | None = None
    put_in: str = ""
    """How the lowest volts were reached."""

    @property
    def starts(self) -> bool | None:
        """Whether it starts: True or False when its band lies clear of what it needs, None when it does not, or nothing is known."""
        if self.lowest is None or self.floor_v <= 0:
            return None
        u = self.lowest.u or 0.0
        if self.lowest.value - u >= self.floor_v:
            return True
        return False if self.lowest.value + u < self.floor_v else None

    @property
    def sentence(self) -> str:
        """What is predicted, as a person would say it."""
        parts = []
        if self.lowest is not None:
            said = (
                {True: "will start", False: "will stall", None: "may or may not start"}[self.starts]
                if self.floor_v
                else "starts"
            )
            parts.append(
                f"{said}, volts down to {plain(self.lowest.value, 'v')} (needs {plain(self.floor_v, 'v')})"
                if self.floor_v
                else f"volts down to {plain(self.lowest.value, 'v')}"
            )
        if self.volts is not None:
            parts.append(f"then {plain(self.volts.value, 'v')}")
        if self.hold_s is not None and self.hold_s < FOR_EVER_S:
            parts.append(f"trips after about {duration(self.hold_s)}")
        return "; ".join(parts) or "nothing is known that would predict it"


def predictions(
    character: Character,
    loads: Iterable[Load],
    system: System,
    base_w: Mapping[str, float] | None = None,
    starts: Sequence[StartSeen] = (),
) -> tuple[Prediction, ...]:
    """Predict every load of a home on the source: its start, the volts it then runs at, how long the whole is held.

    ``base_w`` is the worst load running when each starts (0 where not given);
    ``starts`` are those seen, to set the measured beside the predicted.
    """
    bases = base_w or {}
    return tuple(_predict(character, load, system, bases.get(load.key, 0.0), starts) for load in loads)


def _predict(
    character: Character, load: Load, system: System, base_w: float, starts: Sequence[StartSeen]
) -> Prediction:
    across = load.leg is Leg.BOTH and system.legs == 2
    leg = load.leg if system.legs == 2 else Leg.ONE
    nominal = system.v_nominal * (2 if across else 1)
    share = 1.0 if across or system.legs == 1 else 0.5
    before = _volts_at(character, leg, base_w * share, system)
    v_base = before or Value(nominal, "v", 0.03 * nominal, None, Grade.D)
    start_model = start_model_for(character, leg)
    lowest, put_in = None, ""
    if start_model is not None and load.has_start(system.hz):
        base_a = base_w * share / nominal
        lowest = _lowest(start_model, load, v_base, base_a, nominal)
        put_in = start_model.put_in(v_base.value, base_a, load.start_total_va / nominal, nominal, load.start_pf)
    running = _volts_at(character, leg, base_w * share + load.run_w, system)
    total = base_w + load.run_w
    hold, band = _hold(character, total)
    floor = load.floor_v(system.v_nominal) * (2 if across else 1)
    # A start that held below what its kind is said to need shows that this one needs less.
    held = [
        s.lowest.value
        for s in starts
        if s.run.load == load.key and s.outcome is Outcome.HELD and s.lowest and s.leg is leg
    ]
    floor = min([floor, *held])
    seen = [
        s.lowest
        for s in starts
        if s.run.load == load.key and s.lowest is not None and s.lowest.bound is None and s.leg is leg
    ]
    return Prediction(
        load=load,
        leg=leg,
        base_w=base_w,
        lowest=lowest,
        floor_v=floor,
        volts=running,
        hold_s=hold,
        hold_band_s=band,
        measured=seen[-1] if seen else None,
        put_in=put_in,
    )


def _volts_at(character: Character, leg: Leg, w: float, system: System) -> Value | None:
    """Steady volts of a leg (both: their sum) at a load on it."""
    if leg is Leg.BOTH and system.legs == 2:
        each = [_volts_at(character, leg_name, w / 2, system) for leg_name in system.leg_names]
        known = [v for v in each if v is not None]
        if len(known) < 2:
            return None
        return Value(
            sum(v.value for v in known), "v", sum(v.u or 0 for v in known), None, worst_grade(*(v.grade for v in known))
        )
    return character.volts_at(leg.value, w)


def start_model_for(character: Character, leg: Leg) -> StartModel | None:
    """What a start on a leg meets: that leg's own, else the other's (they are wound alike); across both, twice a leg's."""
    if leg.value in character.start_models:
        return character.start_models[leg.value]
    others = [m for key, m in character.start_models.items() if key in ("1", "2")]
    if not others:
        return None
    other = others[0]
    if leg is not Leg.BOTH:
        return other
    r, x = (None if part is None else 2 * part for part in (other.r_ohm, other.x_ohm))
    u = other.u if other.kind == "limit" else 2 * other.u
    return replace(other, z_ohm=2 * other.z_ohm, u=u, r_ohm=r, x_ohm=x)


def _lowest(start_model: StartModel, load: Load, v_base: Value, base_a: float, nominal: float) -> Value:
    """Lowest volts of a start, its band from what starts meet, from the start's own amps, and from the volts before it."""
    amps = load.start_total_va / nominal
    pf = load.start_pf
    volts = start_model.lowest_v(v_base.value, base_a, amps, nominal, pf)
    u_a = START_U[load.grade_of_start] * amps
    if start_model.kind == "limit":
        by_start = abs(volts - start_model.lowest_v(v_base.value, base_a, amps + u_a, nominal, pf))
        by_start_model = volts * start_model.u / (start_model.limit_a or 1.0) if volts < v_base.value else 0.0
    else:
        by_start = abs(volts - start_model.lowest_v(v_base.value, base_a, amps + u_a, nominal, pf))
        by_start_model = _by_doubt(start_model, volts, v_base.value, base_a, amps, nominal, pf)
    u = math.sqrt(by_start**2 + by_start_model**2 + (v_base.u or 0.0) ** 2 + (2 * start_model.residual_v) ** 2)
    grade = Grade.B if start_model.carries_over(pf) else Grade.D
    return Value(volts, "v", u, None, worst_grade(grade, v_base.grade if v_base.grade is Grade.D else Grade.B))


def _by_doubt(
    start_model: StartModel, volts: float, v_base: float, base_a: float, amps: float, nominal: float, pf: float
) -> float:
    """How far the lowest volts may be out for an impedance that is: by its own half-width, and by reckoning in magnitudes."""
    more = 1 + start_model.u / start_model.z_ohm if start_model.z_ohm else 1.0
    by_width = abs(volts - start_model.behind(more, v_base, base_a, amps, nominal, pf))
    return by_width if start_model.r_ohm is not None else math.hypot(by_width, MAGNITUDES_U * (v_base - volts))


def _hold(character: Character, total_w: float) -> tuple[float | None, tuple[float, float] | None]:
    curve = character.hold
    if curve is not None:
        return curve.hold_s(total_w), curve.band_s(total_w)
    held = character.get("held_w")
    return (math.inf, None) if held is not None and total_w <= held.value else (None, None)


@dataclass(frozen=True)
class Checked:
    """A start predicted from all the others, against what was read."""

    load: Load
    predicted: Value
    read: Value

    @property
    def off_v(self) -> float:
        """Read less predicted [V]."""
        return self.read.value - self.predicted.value

    @property
    def within(self) -> bool:
        """Whether they agree within both bands."""
        return abs(self.off_v) <= math.hypot(self.predicted.u or 0.0, self.read.u or 0.0)


def checked(system: System, sessions: Sequence[Dated]) -> tuple[Checked, ...]:
    """Each start that was read well, predicted from the others on its leg: how good the character is."""
    checkeds = []
    starts = [start for dated in sessions for start in dated.findings.starts]
    for leg, hits in hits_of(system, starts).items():
        carried = carried_a(system, sessions, leg)
        for i, (start, hit) in enumerate(hits):
            others = [other for j, (_, other) in enumerate(hits) if j != i]
            try:
                start_model = fit_start_model(others, carried)
            except MusterError:
                continue
            if start.lowest is not None:
                checkeds.append(Checked(start.load, _predicted(start_model, hit), start.lowest))
    return tuple(checkeds)


def _predicted(start_model: StartModel, hit: Hit) -> Value:
    volts = start_model.lowest_v(hit.v_before, hit.i_before, hit.standstill_a, hit.nominal_v, hit.start_pf)
    if start_model.kind == "limit":
        by_start_model = volts * start_model.u / (start_model.limit_a or 1.0)
    else:
        by_start_model = _by_doubt(
            start_model, volts, hit.v_before, hit.i_before, hit.standstill_a, hit.nominal_v, hit.start_pf
        )
    u = math.hypot(by_start_model, 2 * start_model.residual_v, hit.u_v)
    return Value(volts, "v", u, None, Grade.B if start_model.carries_over(hit.start_pf) else Grade.D)


def how_good(checks: Sequence[Checked]) -> str:
    """How well the character predicts, in a sentence; empty where nothing can be checked."""
    if not checks:
        return ""
    right = sum(check.within for check in checks)
    off = math.sqrt(sum(check.off_v**2 for check in checks) / len(checks))
    return f"Of {len(checks)} starts, each predicted from the others, {right} came out within the band; typically {off:.1f}{THIN}V off."
