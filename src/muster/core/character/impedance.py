"""What a start meets: an impedance behind which volts fall, or a limit of amps at which they fold back."""

from __future__ import annotations

import cmath
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import NotEnoughReadings, require_above
from ..quantities import Grade

PF_APART = 0.1
"""An impedance carries over only to starts within so much of the power factor it was found at (docs/method/starts.md#what-starts-meet)."""
START_U = {Grade.A: 0.03, Grade.B: 0.10, Grade.C: 0.20, Grade.D: 0.30}
"""How far a start's amps may be out by the grade they stand at: a share of themselves. Ours."""
FOLDS_FROM_PCT = 3.0
"""A dip of less than this tells nothing of a limit."""
LEAST_U_SHARE = 0.001
"""No lowest volts are surer than this share of those before. Ours."""
UNLIKE_X = 1.15
"""Only starts whose standstill amps differ by so much can tell a limit from an impedance."""


@dataclass(frozen=True)
class Hit:
    """A start as it met the source, on one leg: volts before and lowest, all amps before and at the lowest, their power factors.

    ``nominal_v`` is the leg's (twice the leg's for a load across both). ``u_v`` is how unsure the dip is,
    ``u_share`` the amps, a share of themselves; ``i_high`` are the highest amps read, which come as the volts recover.
    """

    v_before: float
    v_min: float
    i_before: float
    i_max: float
    pf_before: float
    pf_max: float
    nominal_v: float
    u_v: float = 0.0
    i_high: float = 0.0
    u_share: float = 0.0

    @property
    def before_a(self) -> complex:
        """All amps before the start, against the volts of that moment."""
        return cmath.rect(self.i_before, -math.acos(self.pf_before))

    @property
    def lowest_a(self) -> complex:
        """All amps at the lowest volts, against the volts of that moment."""
        return cmath.rect(self.i_max, -math.acos(self.pf_max))

    @property
    def own_a(self) -> complex:
        """The start's own amps at the lowest volts: what was on before draws less as the volts fall."""
        return self.lowest_a - self.before_a * self.v_min / self.v_before

    @property
    def standstill_a(self) -> float:
        """What the load adds at nominal volts: a motor at standstill is a constant impedance."""
        return abs(self.own_a) * self.nominal_v / self.v_min

    @property
    def start_pf(self) -> float:
        """The power factor of the start's own amps."""
        return math.cos(cmath.phase(self.own_a))


def impedance_of(hit: Hit) -> float:
    """Effective source impedance that one start shows [Ω].

    ``Z = (V_before − V_min) / |I_min∠−φ_min − I_before∠−φ_before|``, both amps
    total at their moments: to take from them a base scaled by the volts gives
    the impedance in parallel with that base.

    Parameters
    ----------
    hit
        The start as it met the source.

    Returns
    -------
    float
        In magnitudes, at the power factor of this start. [Ω]

    Raises
    ------
    NotEnoughReadings
        If the amps did not rise.

    References
    ----------
    Thévenin source, in phasors; docs/method/starts.md#what-starts-meet.
    """
    require_above(hit.v_min, 0, "v_min")
    risen = abs(hit.lowest_a - hit.before_a)
    if risen <= 0:
        raise NotEnoughReadings("the amps did not rise", where="i_max", want="the highest amps of the start")
    return (hit.v_before - hit.v_min) / risen


def volts_at_start(v_before: float, z_ohm: complex, start_s: complex, base_s: complex = 0.0) -> float:
    """Lowest volts of a start not tried: ``V = E / (1 + Z·(Y + Y_base))`` with ``E = V_before·(1 + Z·Y_base)``.

    Parameters
    ----------
    v_before
        Volts before the start, what was on included. [V]
    z_ohm
        What the start meets, in phasors or in magnitudes. [Ω]
    start_s, base_s
        Admittance of the load at standstill, and of all that is on before it. [S]

    Returns
    -------
    float
        [V]

    Raises
    ------
    OutOfRange
        If volts are not above zero.

    References
    ----------
    Voltage divider with constant-impedance loads; docs/method/starts.md#what-starts-meet.
    """
    require_above(v_before, 0, "v_before")
    return abs(v_before * (1 + z_ohm * base_s) / (1 + z_ohm * (start_s + base_s)))


@dataclass(frozen=True)
class StartModel:
    """What starts met: ``kind`` is ``impedance`` (``z_ohm`` within ``PF_APART`` of ``pf``) or ``limit`` (``limit_a``).

    With starts at two power factors ``r_ohm`` and ``x_ohm`` are known apart.
    ``u`` is the 95 % half-width of the figure; ``residual_v`` the volts left
    unexplained by this and by the other form.
    """

    kind: str
    z_ohm: float
    r_ohm: float | None
    x_ohm: float | None
    limit_a: float | None
    pf: float
    u: float
    residual_v: float
    other_residual_v: float | None
    hits: tuple[Hit, ...]

    def lowest_v(self, v_base: float, base_a: float, standstill_a: float, nominal_v: float, pf: float) -> float:
        """Lowest volts of a start of so many standstill amps on a base load of so many, at these volts and unity power factor [V]."""
        if self.kind == "limit" and self.limit_a is not None:
            asked = base_a + standstill_a
            return v_base if asked <= self.limit_a else v_base * self.limit_a / asked
        return self.behind(1.0, v_base, base_a, standstill_a, nominal_v, pf)

    def behind(
        self, times: float, v_base: float, base_a: float, standstill_a: float, nominal_v: float, pf: float
    ) -> float:
        """Lowest volts of a start behind ``times`` this impedance [V]: in phasors where resistance and reactance are known apart."""
        base_s, start_s = base_a / v_base, standstill_a / nominal_v
        if self.r_ohm is None or self.x_ohm is None:
            return volts_at_start(v_base, times * self.z_ohm, start_s, base_s)
        z = times * complex(self.r_ohm, self.x_ohm)
        return volts_at_start(v_base, z, cmath.rect(start_s, -math.acos(pf)), base_s)

    def put_in(self, v_base: float, base_a: float, standstill_a: float, nominal_v: float, pf: float) -> str:
        """``lowest_v`` with its numbers in their places; j marks what is reactive."""
        if self.kind == "limit" and self.limit_a is not None:
            asked_a = f"({base_a:.2f} + {standstill_a:.2f})"
            within = base_a + standstill_a <= self.limit_a
            return f"{v_base:.1f}, as read" if within else f"{v_base:.1f} × {self.limit_a:.2f} ÷ {asked_a}"
        base, start = f"{base_a:.2f} ÷ {v_base:.1f}", f"{standstill_a:.2f} ÷ {nominal_v:.1f}"
        if self.r_ohm is None or self.x_ohm is None:
            z = f"{self.z_ohm:.4f}"
            return f"{v_base:.1f} × (1 + {z} × {base}) ÷ (1 + {z} × ({start} + {base}))"
        z, lag = f"({self.r_ohm:.4f} + {self.x_ohm:.4f}j)", f"({pf:.3f} − {math.sqrt(1 - pf * pf):.3f}j)"
        return f"{v_base:.1f} × |1 + {z} × {base}| ÷ |1 + {z} × ({start} × {lag} + {base})|"

    def carries_over(self, pf: float) -> bool:
        """Whether it is known for a start of this power factor."""
        return self.kind == "limit" or self.r_ohm is not None or abs(pf - self.pf) <= PF_APART


def fit_start_model(hits: Sequence[Hit], carried_a: float = 0.0) -> StartModel:
    """What the starts met, by the form that leaves less unexplained.

    An impedance: the mean of each start's own, weighted by its current; with
    power factors more than 0.1 apart, resistance and reactance by least
    squares of the lowest volts, in phasors. A limit: the amps at which volts
    folded, the mean over the starts that dipped. Chosen by the volts left
    between what each form predicts and what was read; without starts of
    unlike size the two cannot be told apart, and an impedance is taken. A
    limit below ``carried_a``, what was carried with the volts up, is none.

    Raises
    ------
    NotEnoughReadings
        If no start has volts before and lowest, and its amps.
    """
    usable = [hit for hit in hits if hit.v_min > 0 and hit.i_max > hit.i_before]
    if not usable:
        raise NotEnoughReadings(
            "no start with its volts and amps", where="starts", want="volts before and lowest, highest amps (Starts)"
        )
    by_z = _impedance(usable)
    by_limit = _limit(usable)
    if (
        by_limit is not None
        and by_limit.limit_a is not None
        and by_limit.limit_a > carried_a
        and by_limit.residual_v < by_z.residual_v
    ):
        return replace(by_limit, other_residual_v=by_z.residual_v)
    other = None if by_limit is None else by_limit.residual_v
    return replace(by_z, other_residual_v=other)


def _impedance(hits: Sequence[Hit]) -> StartModel:
    z = np.array([impedance_of(hit) for hit in hits])
    own_a = np.array([abs(hit.own_a) for hit in hits])
    pf = np.array([hit.start_pf for hit in hits])
    weight = own_a / own_a.sum()
    mean = float((z * weight).sum())
    parts = _parts(hits, mean) if float(np.ptp(pf)) > PF_APART else None
    read = float(
        np.max([math.hypot(hit.u_v / a, each * hit.u_share) for hit, a, each in zip(hits, own_a, z, strict=True)])
    )
    made = StartModel(
        kind="impedance",
        z_ohm=mean,
        r_ohm=parts.real if parts is not None else None,
        x_ohm=parts.imag if parts is not None else None,
        limit_a=None,
        pf=float((pf * weight).sum()),
        u=read,
        residual_v=0.0,
        other_residual_v=None,
        hits=tuple(hits),
    )
    left_v = _left(made, hits)
    fall_v = float(np.mean([hit.v_before - hit.v_min for hit in hits]))
    scatter = mean * left_v / fall_v if len(hits) > 1 and fall_v > 0 else 0.0
    return replace(made, u=math.hypot(scatter, read), residual_v=left_v)


def _parts(hits: Sequence[Hit], about_ohm: float) -> complex:
    """Resistance and reactance, neither below zero, that leave least of the lowest volts unexplained."""
    from scipy.optimize import least_squares  # a third of a second to load, and wanted for two angles alone

    doubt_v = np.array([max(hit.u_v, LEAST_U_SHARE * hit.v_before) for hit in hits])
    read_v = np.array([hit.v_min for hit in hits])

    def off(parts: np.ndarray) -> np.ndarray:
        z = complex(*parts)
        found_v = [volts_at_start(hit.v_before, z, hit.own_a / hit.v_min, hit.before_a / hit.v_before) for hit in hits]
        return np.asarray((np.array(found_v) - read_v) / doubt_v)

    best = least_squares(off, (about_ohm / 2, about_ohm / 2), bounds=(0.0, np.inf))
    return complex(*best.x)


def _limit(hits: Sequence[Hit]) -> StartModel | None:
    """The amps at which volts folded: of starts that dipped; a start that did not must stay below them."""
    dipped = [hit for hit in hits if (hit.v_before - hit.v_min) / hit.v_before * 100 > FOLDS_FROM_PCT]
    standstill = [hit.standstill_a for hit in dipped]
    if not dipped or max(standstill) < UNLIKE_X * min(standstill):
        return None
    amps = np.array([hit.i_high or hit.i_max for hit in dipped])
    spread = float(amps.std(ddof=1)) if amps.size > 1 else 0.0
    read = max(hit.u_v / hit.v_before * hit.i_max for hit in dipped)
    made = StartModel(
        kind="limit",
        z_ohm=0.0,
        r_ohm=None,
        x_ohm=None,
        limit_a=float(amps.mean()),
        pf=float(np.mean([h.start_pf for h in hits])),
        u=math.hypot(spread, read),
        residual_v=0.0,
        other_residual_v=None,
        hits=tuple(hits),
    )
    return replace(made, residual_v=_left(made, hits))


def _left(start_model: StartModel, hits: Sequence[Hit]) -> float:
    """Root mean square of the volts left between what is predicted and what was read."""
    rest = [
        start_model.lowest_v(hit.v_before, hit.i_before, hit.standstill_a, hit.nominal_v, hit.start_pf) - hit.v_min
        for hit in hits
    ]
    return math.sqrt(sum(r * r for r in rest) / len(rest))
