"""A real outage written down: what came of it, and whether it went as it was predicted."""

from __future__ import annotations

import numpy as np
import pytest

from muster.core.advice.foresight import foresight, told_over_all
from muster.core.brief import Brief
from muster.core.findings import findings_of
from muster.core.findings.lived import OutageLived
from muster.core.kit import Kit
from muster.core.loads import Duty
from muster.core.outage.play import play_outage, ready
from muster.core.outage.played import OutagePlayed
from muster.core.quantities import Grade
from muster.core.sessions import Place
from muster.core.sources.limits import Limit
from muster.core.timeline.traces import Channel, Trace
from muster.core.timeline.traces.features import extract_features

from ..build import SINGLE, load, session
from ..outage.building import known, parameter

HEATER = load("1", "heater", run_w=300, duty=Duty(60, 0))
HOUR = 3600.0


def lived(*lines: tuple[float, str], protocol: str = "outage") -> OutageLived | None:
    record = session(list(lines), (HEATER,), SINGLE, protocol=protocol)
    return findings_of(record, {"1": HEATER}, SINGLE, 20).lived


def test_what_went_wrong_is_counted_with_its_minutes() -> None:
    seen = lived(
        (0.0, "+1 100% 231v 300w"),
        (2 * HOUR, "81% 229v 305w"),
        (3 * HOUR, "!trip"),
        (3 * HOUR + 720, "reset"),
        (3 * HOUR + 780, "228v 300w"),
        (6 * HOUR, "38% 224v"),
    )
    assert seen is not None
    assert (seen.trips, seen.without_s, seen.length_s) == (1, 720.0, 6 * HOUR)
    assert (seen.from_pct, seen.left_pct, seen.lowest_v) == (100, 38, 224)
    assert seen.on == {"1"}
    said = seen.findings[0].sentence.replace("\u202f", " ")
    assert said.startswith("Power for 5 h 48 min of 6 h; without it 1 time, 12 min in all; charge from 100 % to 38 %")


def test_without_a_reset_the_next_live_reading_says_that_it_is_back_and_without_any_it_stayed_away() -> None:
    back = lived((0.0, "230v 300w"), (HOUR, "!trip"), (HOUR + 600, "231v 290w"), (2 * HOUR, "230v 300w"))
    gone = lived((0.0, "230v 300w"), (HOUR, "!trip"), (2 * HOUR, "mains back"))
    assert back is not None
    assert gone is not None
    assert back.without_s == 600
    assert gone.without_s == HOUR


def test_a_dead_meter_is_no_lowest_volts_and_fuel_is_what_the_tank_lost_between_fillings() -> None:
    seen = lived(
        (0.0, "230v fuel 12l"), (2 * HOUR, "0v !trip"), (2 * HOUR + 60, "reset 226v"), (4 * HOUR, "fuel 9l"),
        (4 * HOUR + 60, "refilled, 14l fuel"), (8 * HOUR, "fuel 10l 229v"),
    )  # fmt: skip
    assert seen is not None
    assert seen.lowest_v == 226
    assert seen.burnt_l == pytest.approx(7.0)


def test_only_an_outage_is_one() -> None:
    assert lived((0.0, "230v 300w"), (HOUR, "230v"), protocol="ladder") is None
    assert lived((0.0, "230v 300w")) is None


def played() -> OutagePlayed:
    """Six hours of 300 W on a battery of 4 kWh: about half of it is left, and nothing trips."""
    limit = Limit(key="continuous", name="continuous", w=2000.0, leg=None, basis="", grade=Grade.C)
    idle, energy = parameter("idle_w", 10, "w", 0.1), parameter("two_runs_wh_dc", 4000, "wh", 100)
    source = known(kind="station", limits=(limit,), parameters=(energy, idle))
    brief = Brief(system=SINGLE, outage_h=6, outage_from_hour=17)
    return play_outage(ready((HEATER,), brief, source), 60)


def test_what_went_as_predicted_is_said_to_have_and_what_did_not_is_not() -> None:
    outage = played()
    left = round(100 * outage.charge_wh[-1].p50 / outage.charge_wh[0].p50)
    as_told = lived((0.0, "+1 100% 231v"), (6 * HOUR, f"{left}% 229v"))
    otherwise = lived((0.0, "+1 100% 231v"), (HOUR, "!trip"), (2 * HOUR, "231v"), (6 * HOUR, "12% 229v"))
    assert as_told is not None
    assert otherwise is not None
    good, bad = foresight(as_told, outage), foresight(otherwise, outage)
    assert {row.label: row.inside for row in good} == {
        "without power": True, "times tripped": True, "charge left": True, "lowest volts": None,
    }  # fmt: skip
    assert [row.inside for row in bad] == [False, False, False, None]
    assert told_over_all([*good, *bad], 2).startswith("Of 6 figures of 2 outages, 3 lay within")


def test_a_battery_that_was_not_full_when_it_began_is_told_and_not_counted() -> None:
    seen = lived((0.0, "+1 60% 231v"), (6 * HOUR, "20% 229v"))
    assert seen is not None
    row = next(row for row in foresight(seen, played()) if row.label == "charge left")
    assert row.inside is None
    assert "not full" in row.remark


def test_the_sources_own_log_says_when_there_was_no_power_and_how_low_the_volts_went() -> None:
    """Six hours at one sample in two seconds: five minutes without volts, a dip to 190 V, the charge falling to 40 %."""
    t_s = np.arange(0.0, 6 * HOUR, 2.0)
    volts = np.full(t_s.size, 231.0)
    volts[(t_s >= HOUR) & (t_s < HOUR + 300)] = 0.0
    volts[(t_s >= 2 * HOUR) & (t_s < 2 * HOUR + 6)] = 190.0
    charge = np.linspace(100, 40, t_s.size).round()
    channels = (Channel("v", Place.LEG1), Channel("w", Place.LEG1), Channel("soc_pct"))
    values = np.stack([volts, np.where(volts > 0, 300.0, 0.0), charge]).astype(np.float32)
    log = extract_features(Trace("its own", "recorder", channels, t_s, values), Kit(), SINGLE)
    record = session([(0.0, "+1")], (HEATER,), SINGLE, protocol="outage")
    seen = findings_of(record, {"1": HEATER}, SINGLE, 20, logs=[log]).lived
    assert seen is not None
    assert seen.length_s == pytest.approx(6 * HOUR, abs=4)
    assert seen.without_s == pytest.approx(300, abs=4)
    assert seen.lowest_v == pytest.approx(190, abs=1)
    assert (seen.from_pct, seen.left_pct) == (100, 40)
