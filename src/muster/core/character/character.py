"""A character: parameters, each with what it rests on, the forms fitted through many readings, and what limits it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from ..quantities import Bound, Value, worst_grade
from ..sources import Chemistry, PairSchool
from ..sources.limits import Limit
from ..sources.panels import Panels
from .hold_curve import HoldCurve
from .impedance import StartModel
from .sound import Sound


@dataclass(frozen=True)
class SessionEstimate:
    """What one session says of a parameter: the value, the session's name and date, and what it was read from.

    ``seqs`` are the entries it rests on, ``log`` and ``capture`` the recordings; ``conditions`` and ``fuel``
    those of the test. ``points`` is how many readings a line went through (0: it is no line). ``weight`` is
    its share in the parameter, None where it was not weighed with others. ``at_w`` is the load under which it
    was read, where it is of one load.
    """

    value: Value
    session: str
    at: str
    basis: str
    seqs: tuple[int, ...] = ()
    log: str = ""
    capture: str = ""
    conditions: str = ""
    fuel: str = ""
    points: int = 0
    weight: float | None = None
    at_w: float | None = None


@dataclass(frozen=True)
class Parameter:
    """One parameter: ``value`` with band and grade, ``at`` the date of its latest estimate.

    ``apart`` says in words how the sessions disagree, empty where they do not.
    """

    key: str
    name: str
    value: Value
    estimates: tuple[SessionEstimate, ...]
    apart: str = ""
    outdated: tuple[SessionEstimate, ...] = ()
    """What sessions said before it was last adjusted or serviced: of another source, and not weighed."""

    @property
    def at(self) -> str:
        """The date of the latest estimate."""
        return max((estimate.at for estimate in self.estimates), default="")

    @property
    def rests_on(self) -> str:
        """What it rests on, in words."""
        said: dict[str, str] = {}
        for estimate in self.estimates:
            said.setdefault(
                f"{estimate.session} of {estimate.at[:10]}" if estimate.at else estimate.session, estimate.basis
            )
        return "; ".join(f"{session}: {basis}" for session, basis in said.items())

    @property
    def band(self) -> tuple[float, float]:
        """Lowest and highest that it may be (a bound is open on one side)."""
        u = self.value.u or 0.0
        low = -math.inf if self.value.bound is Bound.AT_MOST else self.value.value - u
        high = math.inf if self.value.bound is Bound.AT_LEAST else self.value.value + u
        return low, high


@dataclass(frozen=True)
class Character:
    """All that is known of a source, under the conditions of the brief.

    ``parameters`` are what was measured, ``claims`` what is claimed, by the
    same keys; ``best`` gives whichever goes first. ``start_models`` is what
    starts meet, keyed by leg (``1``, ``2``, ``both``); ``limits`` are the
    nameplate's and the wiring's with what was held and where it tripped;
    ``started_w`` on how much each load was seen to start, ``failed_w`` on how little not [W]; ``sound`` how
    loud it is by load; ``waiting`` the flagged entries, on which nothing rests;
    ``chemistry`` what its battery is made of; ``panels`` those on it; ``school`` how a pair was taken.
    """

    source: str
    kind: str
    parameters: tuple[Parameter, ...]
    start_models: Mapping[str, StartModel]
    hold: HoldCurve | None = None
    sessions: tuple[str, ...] = ()
    claims: tuple[Parameter, ...] = ()
    limits: tuple[Limit, ...] = ()
    started_w: Mapping[str, float] = field(default_factory=dict)
    failed_w: Mapping[str, float] = field(default_factory=dict)
    sound: Sound | None = None
    waiting: tuple[str, ...] = ()
    chemistry: Chemistry | None = None
    panels: tuple[Panels, ...] = ()
    school: PairSchool | None = None

    @property
    def by_key(self) -> dict[str, Parameter]:
        """The parameters by their key."""
        return {parameter.key: parameter for parameter in self.parameters}

    def get(self, key: str) -> Value | None:
        """The measured value of a parameter, None where it was not measured."""
        parameter = self.by_key.get(key)
        return parameter.value if parameter else None

    def best(self, key: str) -> Parameter | None:
        """What is known of a parameter: as it was measured, else as it is claimed; None where neither is."""
        return self.by_key.get(key) or next((claim for claim in self.claims if claim.key == key), None)

    def volts_at(self, place: str, w: float) -> Value | None:
        """Steady volts of a leg (``1`` or ``2``) with so much on it [W], None where no line was read. [V]"""
        return self._line_at(f"no_load_v{place}", f"v{place}_per_kw", w)

    def hertz_at(self, w: float) -> Value | None:
        """Frequency with so much on the whole source [W], None where no line was read. [Hz]"""
        return self._line_at("no_load_hz", "hz_per_kw", w)

    def _line_at(self, level_key: str, slope_key: str, w: float) -> Value | None:
        level, slope = self.get(level_key), self.get(slope_key)
        if level is None or slope is None:
            return None
        kw = w / 1000
        u = (level.u or 0.0) + (slope.u or 0.0) * kw
        return Value(level.value + slope.value * kw, level.unit, u, None, worst_grade(level.grade, slope.grade))

    @property
    def binding_limits(self) -> tuple[Limit, ...]:
        """The limits that a load may not pass: what was held once is none, what it tripped at is."""
        return tuple(limit for limit in self.limits if not limit.key.startswith("held"))

    @property
    def held(self) -> Limit | None:
        """The most that the whole source held, None where nothing was held long enough."""
        return self._of_whole("held")

    @property
    def trip(self) -> Limit | None:
        """The least that the whole source tripped at, None where it did not."""
        return self._of_whole("trip")

    def _of_whole(self, key: str) -> Limit | None:
        return next((limit for limit in self.limits if limit.key == key and limit.leg is None), None)


def apart(parameter: Parameter, other: Parameter) -> bool:
    """Whether two estimates of one parameter differ by more than their half-widths together; bounds are not held against each other."""
    if parameter.value.bound or other.value.bound:
        return False
    return abs(parameter.value.value - other.value.value) > (parameter.value.u or 0.0) + (other.value.u or 0.0)
