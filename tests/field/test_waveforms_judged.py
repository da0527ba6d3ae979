"""F13 in the verdict: a clean sine, one that rings, one that stops, a stepped wave, each on a home with a boiler.

What an experienced person says was written down before it was run: the clean one and the one that stops do; six per
cent of ringing and steps do not; a clean one read with nothing on proves nothing of the load.
"""

from __future__ import annotations

import numpy as np
import pytest

from muster.core.brief import Brief
from muster.core.findings.collect import findings_of
from muster.core.sessions import Place
from muster.core.timeline.captures import Capture, read_capture
from muster.core.timeline.traces import Channel
from muster.core.verdict import Requirement, Status, judge

from ..core.build import SINGLE, case, load, session, set_of

STEP_S, NOMINAL = 1 / 20_000, 230.0
T_S = np.arange(0, 1, STEP_S)
SINE = NOMINAL * np.sqrt(2) * np.sin(2 * np.pi * 50 * T_S)
RINGING = SINE + 0.06 * NOMINAL * np.sqrt(2) * np.sin(2 * np.pi * 3100 * T_S)
STOPS = np.where(T_S < 0.4, SINE, 0.0)
STEPPED = np.where(np.abs(SINE) > 150, np.sign(SINE) * 270.0, 0.0)
BOILER = load("1", "boiler", "furnace", 200, pf=0.9)
HEATER = load("2", "heater", "heater", 800)
BRIEF = Brief(system=SINGLE, outage_h=4, outage_from_hour=18)


def judged(volts: np.ndarray, loads: tuple = (BOILER, HEATER), *, loaded: bool = True) -> Requirement:
    lines = [(0.0, "230v 50.0hz"), (10.0, "+1 +2 980w 229v" if loaded else "230v"), (60.0, "230v")]
    shot = Capture("x", "scope", 20.0, STEP_S, (Channel("v", Place.LEG1),), volts[None].astype(np.float32))
    record = session(lines, loads, SINGLE, protocol="waveform")
    seen = findings_of(record, {item.key: item for item in loads}, SINGLE, 20, captures=[read_capture(shot, SINGLE)])
    inputs = case(loads, set_of(3000), BRIEF, seen, draws=5)
    return next(row for row in judge(inputs).requirements if row.key == "waveform")


@pytest.mark.parametrize(
    ("wave", "status", "says"),
    [
        (SINE, Status.CARRIES, "clean"),
        (RINGING, Status.FALLS_SHORT, "ringing"),
        (STOPS, Status.CARRIES, "clean"),
        (STEPPED, Status.FALLS_SHORT, "stepped"),
    ],
    ids=["clean", "ringing", "stops", "stepped"],
)
def test_a_wave_under_load_is_judged_as_an_experienced_person_does(wave: np.ndarray, status: Status, says: str) -> None:
    row = judged(wave)
    assert row.status is status, row.sentence
    assert says in f"{row.sentence} {row.capability}", row
    assert "the boiler wants" in row.sentence


def test_a_clean_wave_with_nothing_on_proves_nothing_of_the_load() -> None:
    row = judged(SINE, loaded=False)
    assert row.status is Status.NOT_PROVEN
    assert "under load it may be worse" in row.sentence


def test_plain_heat_minds_no_wave() -> None:
    assert judged(STEPPED, (HEATER,)).status is Status.NOT_REQUIRED
