"""Where to set a governor: four schools on the measured droop line, and what each would make of the day."""

from __future__ import annotations

from dataclasses import dataclass

from ..character import Character
from ..errors import require_above
from ..outage import OutageDemand
from ..quantities import plain
from ..trade.motors import WINDOW_PCT, set_point
from ..trade.schools import SetPointSchool


@dataclass(frozen=True)
class Droop:
    """A droop line: hertz at no load, hertz for each watt (negative), and the nominal."""

    no_load_hz: float
    hz_per_w: float
    nominal_hz: float

    def at(self, w: float) -> float:
        """Hertz at a load."""
        return self.no_load_hz + self.hz_per_w * w

    def set_to(self, no_load_hz: float) -> Droop:
        """The same governor with its screw turned: the line moves and does not tilt."""
        return Droop(no_load_hz, self.hz_per_w, self.nominal_hz)


@dataclass(frozen=True)
class OutageLoads:
    """The loads that matter for a set-point [W]: full, the one most used, lowest and highest of the home's day."""

    full_w: float
    used_w: float
    low_w: float
    high_w: float


def outage_loads(full_w: float, demand: OutageDemand | None, outage_h: float) -> OutageLoads:
    """The loads that matter: the claim, and what a simulated outage uses (all of the claim's range where none was)."""
    if demand is None:
        return OutageLoads(full_w, full_w / 2, 0.0, full_w)
    used, low, high = demand.total_wh / outage_h, min(demand.hour_wh), demand.peak_w
    return OutageLoads(full_w, min(full_w, used), min(full_w, low), min(full_w, high))


@dataclass(frozen=True)
class Advice:
    """One setting: the no-load frequency, what it gives at the loads that matter, and whether it may be so.

    ``refused`` says why not, empty where it may.
    """

    school: SetPointSchool | None
    right_at_w: float
    no_load_hz: float
    used_hz: float
    full_hz: float
    worst_hz: float
    refused: str


def advice(droop: Droop, loads: OutageLoads) -> tuple[Advice, ...]:
    """What each school sets, on the measured line.

    Raises
    ------
    OutOfRange
        If the full load is not above zero.

    References
    ----------
    Straight droop of a speed governor (ISO 8528-5).
    """
    require_above(loads.full_w, 0, "full_w")
    right_at = {
        SetPointSchool.HALF: loads.full_w / 2,
        SetPointSchool.THREE_QUARTERS: 0.75 * loads.full_w,
        SetPointSchool.MOST_USED: loads.used_w,
        SetPointSchool.LEAST_WORST: (loads.low_w + loads.high_w) / 2,
    }
    full, top, bottom = loads.full_w, droop.at(0.0), droop.at(loads.full_w)
    advices = {
        school: set_point(droop.nominal_hz, top, bottom, full, min(w, full), full) for school, w in right_at.items()
    }
    return tuple(
        _made(school, droop.set_to(item.no_load_hz), right_at[school], loads) for school, item in advices.items()
    )


def set_by_hand(droop: Droop, no_load_hz: float, loads: OutageLoads) -> Advice:
    """What a no-load frequency of one's own makes of the same loads."""
    line = droop.set_to(no_load_hz)
    right_at = (droop.nominal_hz - no_load_hz) / droop.hz_per_w if droop.hz_per_w else 0.0
    return _made(None, line, right_at, loads)


def _made(school: SetPointSchool | None, line: Droop, right_at_w: float, loads: OutageLoads) -> Advice:
    low, high = (line.nominal_hz * (1 + sign * WINDOW_PCT / 100) for sign in (-1, 1))
    top, full = line.at(0.0), line.at(loads.full_w)
    worst = max((line.at(w) for w in (loads.low_w, loads.high_w)), key=lambda hz: abs(hz - line.nominal_hz))
    refused = ""
    if top > high:
        refused = f"{plain(top, 'hz')} at no load is above {plain(high, 'hz')}"
    elif full < low:
        refused = f"{plain(full, 'hz')} at full load is below {plain(low, 'hz')}"
    return Advice(
        school=school,
        right_at_w=right_at_w,
        no_load_hz=top,
        used_hz=line.at(loads.used_w),
        full_hz=full,
        worst_hz=worst,
        refused=refused,
    )


def droop_of(character: Character, nominal_hz: float) -> Droop | None:
    """The droop line of a character, None where it is not known or does not fall."""
    level, slope = character.get("no_load_hz"), character.get("hz_per_kw")
    if level is None or slope is None or slope.value >= 0:
        return None
    return Droop(level.value, slope.value / 1000, nominal_hz)
