"""What two sessions say only together: charge and round trip from a run down and one up, two runs of unlike speed."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from ..findings.runs import Run
from ..quantities import Grade, Value
from ..trade.batteries import told_apart
from .character import Parameter
from .given import Dated, Given, pace, says


def across_sessions(given: Given) -> list[Parameter]:
    """What two sessions say only together: charge and round trip from a run down and one up, two runs of unlike speed."""
    runs = [(dated, dated.findings.runs.run) for dated in given.sessions if dated.findings.runs is not None]
    down = [(d, r) for d, r in runs if r.down and r.whole]
    up = [(d, r) for d, r in runs if not r.down and r.whole and r.ac_wh]
    parameters: list[Parameter] = []
    two_speeds = _two_speeds(given, down)
    if up:
        charged, wall = up[-1]
        for key, name, given_wh in (("charge_pct", "Charge", _dc), ("round_trip_pct", "Round trip", _ac)):
            able = [(d, r) for d, r in down if given_wh(r)[0]]
            for index, (dated, run) in enumerate(able):
                last = index == len(able) - 1
                paced = "" if len(able) == 1 else f", about {pace(run.mean_w)} W"
                basis = f"what it gave on {dated.at[:10]} over what the wall gave"
                told = f"{key}{'' if last else f'_{pace(run.mean_w)}'}", f"{name}{paced}"
                parameters.append(_of_the_wall(*told, given_wh(run), charged, wall, basis, Grade.A))
        parameters += _charge_reckoned(given, two_speeds, charged, wall)
    return parameters + two_speeds


def _of_the_wall(
    key: str, name: str, wh: tuple[float | None, float], charged: Dated, wall: Run, basis: str, grade: Grade
) -> Parameter:
    """An energy over what the wall gave for it."""
    out_wh, u_wh = wh
    assert out_wh is not None
    assert wall.ac_wh is not None
    share_pct = out_wh / wall.ac_wh * 100
    u_pct = share_pct * math.hypot(u_wh / out_wh, wall.u_ac_wh / wall.ac_wh)
    value = Value(share_pct, "pct", u_pct, None, grade)
    return Parameter(key=key, name=name, value=value, estimates=(says(charged, value, basis),))


def _charge_reckoned(given: Given, two_speeds: Sequence[Parameter], charged: Dated, wall: Run) -> Iterator[Parameter]:
    """What of the wall's energy the battery took, where nobody read its own side: by two runs, and by its rating as a stand-in."""
    by_runs = next((p.value for p in two_speeds if p.key == "two_runs_wh_dc"), None)
    if by_runs is not None:
        wh = (by_runs.value, by_runs.u or 0.0)
        basis = "the battery's energy by two runs over what the wall gave"
        yield _of_the_wall("charge_pct_two_runs", "Charge, by two runs", wh, charged, wall, basis, Grade.B)
    rated_wh = given.source.claims.battery_wh
    if rated_wh:
        basis = "the rating, which stands in for what the battery gives, over what the wall gave"
        name = "Charge, if it holds its rating"
        yield _of_the_wall("charge_pct_rated", name, (rated_wh, 0.0), charged, wall, basis, given.source.claim_grade)


def _dc(run: Run) -> tuple[float | None, float]:
    return run.dc_wh, run.u_dc_wh


def _ac(run: Run) -> tuple[float | None, float]:
    return run.ac_wh, run.u_ac_wh


LEAST_UNLIKE_X = 1.5
APART_SHARE = 0.005
"""What is left between two counts of one meter, a share of them."""
INNER_LOSS, U_INNER_LOSS = 0.035, 0.03
"""What a lithium battery loses inside itself at one hour's rate, a share of its energy, and how far that may be out: planning figure, ours."""
P1_USUAL, U_P1 = 1 / 0.92 - 1, 0.04
"""Load-dependent loss where no loss curve was read: planning figure of inverters, and how far it may be out."""


def _two_speeds(given: Given, down: Sequence[tuple[Dated, Run]]) -> list[Parameter]:
    """Energy of the battery and idle draw from a slow and a fast run: ``E_u = (1 + p₁)e + p₂∫P²dt + P₀t`` for both,
    with what the battery loses inside itself, which a fast run pays more of.

    ``p₁`` and ``p₂`` are of the loss curve where one was read. Not for
    lead-acid, whose capacity itself goes with the current.

    References
    ----------
    docs/method/energy.md#two-runs; two linear equations, their errors by moving each energy by its half-width.
    """
    able = sorted(((d, r) for d, r in down if r.ac_wh), key=lambda pair: pair[1].hours)
    if len(able) < 2 or able[-1][1].hours < LEAST_UNLIKE_X * able[0][1].hours:
        return []
    (_, fast), (slow_of, slow) = able[0], able[-1]
    fits = [seen.fit for d in given.sessions for seen in d.findings.conversions if seen.fit is not None]
    claimed = given.source.claims.conversion_pct
    p1, p2 = (fits[-1].p1, fits[-1].p2) if fits else (100 / claimed - 1 if claimed else P1_USUAL, 0.0)
    u_p1 = 0.01 if fits else U_P1

    rated_wh = given.source.claims.battery_wh or fast.ac_wh or 1.0

    def solve(slow_wh: float, fast_wh: float, x: float, inner: float) -> tuple[float, float]:
        """What the battery gave at its terminals in the slow run, and the idle draw."""
        inside = [inner * run.squared_w2h / rated_wh for run in (slow, fast)]
        squared = (p2 * slow.squared_w2h + inside[0], p2 * fast.squared_w2h + inside[1])
        apart = told_apart((slow_wh, fast_wh), (slow.hours, fast.hours), 1 + x, squared)
        return apart.battery_wh - inside[0], apart.idle_w

    assert slow.ac_wh is not None
    assert fast.ac_wh is not None
    energy, idle = solve(slow.ac_wh, fast.ac_wh, p1, INNER_LOSS)
    # One meter counted both runs: its scale error moves them alike, and a digit or two moves them apart.
    scale = slow.u_ac_wh / slow.ac_wh
    moved = [
        solve(slow.ac_wh * (1 + scale), fast.ac_wh * (1 + scale), p1, INNER_LOSS),
        solve(slow.ac_wh, fast.ac_wh * (1 + APART_SHARE), p1, INNER_LOSS),
        solve(slow.ac_wh, fast.ac_wh, p1 + u_p1, INNER_LOSS),
        solve(slow.ac_wh, fast.ac_wh, p1, INNER_LOSS + U_INNER_LOSS),
    ]
    u_energy, u_idle = (math.sqrt(sum((m[i] - base) ** 2 for m in moved)) for i, base in enumerate((energy, idle)))
    if idle + u_idle < 0:
        # Idle costs the slow run: one that gave so much more was not a run of the same battery, full to empty.
        return []
    basis = f"a slow run of {slow.hours:.1f} h and a fast one of {fast.hours:.1f} h told apart"
    return [
        Parameter(key=key, name=name, value=value, estimates=(says(slow_of, value, basis),))
        for key, name, value in (
            ("two_runs_wh_dc", "The battery gives, by two runs", Value(energy, "wh", u_energy, None, Grade.B)),
            ("two_runs_idle_w", "Idle draw, by two runs", Value(max(0.0, idle), "w", u_idle, None, Grade.B)),
        )
    ]
