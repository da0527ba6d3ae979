"""Every field case gives its findings, figure by figure, from the notes alone."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from functools import cache
from pathlib import Path

import pytest

from muster.core.brief import Home
from muster.core.character import Character, Dated, character_of
from muster.core.findings import SessionFindings
from muster.core.findings.across import SourceSeen, across_sources
from muster.core.findings.collect import session_findings
from muster.core.findings.finding import Topic
from muster.core.findings.legs import neutral_a
from muster.core.findings.trips import Suspected
from muster.core.measures import showing_in
from muster.core.sessions import PROTOCOLS, Place
from muster.core.sessions.checks import RecordContext, check_entry, check_session
from muster.core.sessions.replay import replay
from muster.formats.jobfile import JobFile
from muster.formats.notes import read_notes

HERE = Path(__file__).with_name("notes")
NOW = datetime(2026, 11, 28, 12, 0, tzinfo=UTC)


@cache
def job_of(case: str) -> JobFile:
    return read_notes((HERE / f"{case}.txt").read_text(encoding="utf-8"), NOW).job


@cache
def found_of(case: str, source: int = 0) -> tuple[SessionFindings, ...]:
    job = job_of(case)
    record = job.sources[source]
    return tuple(session_findings(Home(job.brief, job.loads), record.source, kept.session) for kept in record.sessions)


def character(case: str) -> Character:
    job, record = job_of(case), job_of(case).sources[0]
    dated = [
        Dated(seen, PROTOCOLS[kept.session.protocol].name, kept.started_at)
        for seen, kept in zip(found_of(case), record.sessions, strict=True)
    ]
    return character_of(record.source, job.brief.system, job.brief.site, dated)


def said(case: str, session: int = 0, topic: Topic | None = None) -> list[str]:
    """The sentences of a session, thin spaces made plain."""
    with showing_in(job_of(case).brief.shown_in):
        findings = found_of.__wrapped__(case)[session].findings
    return [f.sentence.replace("\u202f", " ") for f in findings if topic in (None, f.topic)]


def test_f1_a_level_is_no_longer_than_its_own_readings_and_a_trip_has_two_ends() -> None:
    (seen,) = found_of("f1")
    levels = sorted((h.w, h.held_s) for h in seen.holds if not h.tripped)
    assert (2790, 840) in levels
    assert not any(h.w > 2800 for h in seen.holds if not h.tripped)
    (trip,) = (h for h in seen.holds if h.tripped)
    assert (trip.w, trip.held_s, trip.most_s) == (3390, 31, 91)
    assert said("f1", topic=Topic.HELD) == ["Held 2 790 W for 14 min, 99.6 % of its rating."]
    assert said("f1", topic=Topic.TRIPS)[0] == "Tripped at 3 390 W after 31 s, at most 91 s, 121 % of its rating."
    (held,) = (f for f in seen.findings if f.topic is Topic.HELD)
    assert "heat settled" in held.needs


def test_f1_noise_goes_with_load_and_the_volts_begin_at_no_load() -> None:
    (seen,) = found_of("f1")
    heard = [(walk.load_w, walk.spots[0].distance_m, walk.spots[0].read_dba) for walk in seen.noise]
    assert heard == [(0, 7, 54), (2200, 7, 63), (2800, 7, 66)]
    neighbours = [walk.neighbour.value for walk in seen.noise]
    assert neighbours == sorted(neighbours)
    (line,) = seen.regulation
    assert [round(p.w) for p in line.points] == [0, 640, 1510, 2200, 2800]


def test_f2_a_slow_and_a_fast_run_and_what_the_wall_gave() -> None:
    slow, charge, fast = found_of("f2")
    assert slow.runs is not None
    assert charge.runs is not None
    assert fast.runs is not None
    assert slow.runs.run.hours == pytest.approx(27.5)
    assert slow.runs.run.u_ac_wh < 40, "a hundredth of a kWh and the meter's, not a quarter"
    parameters = {key: parameter.value.value for key, parameter in character("f2").by_key.items()}
    assert parameters["usable_pct_56"] == pytest.approx(75.5, abs=0.05)
    assert parameters["usable_pct_1300"] == pytest.approx(87.7, abs=0.05)
    assert parameters["round_trip_pct_56"] == pytest.approx(66.9, abs=0.05)
    assert parameters["round_trip_pct"] == pytest.approx(77.8, abs=0.05)
    assert parameters["charge_pct_rated"] == pytest.approx(88.7, abs=0.05)
    idle, battery = (character("f2").by_key[key].value for key in ("two_runs_idle_w", "two_runs_wh_dc"))
    assert abs(idle.value - 11.3) < 1.5
    assert abs(battery.value - 2116) < (battery.u or 0)
    assert slow.runs.gauge is not None
    assert abs(slow.runs.gauge.worst_pt) < 4
    assert not [h for h in slow.holds if h.tripped and h.finding in slow.findings], "it ran out: no load tripped it"
    assert any("what comes out of the charger" in sentence for sentence in said("f2", 1, Topic.DISPLAY))
    assert said("f2", 2, Topic.TRIPS)[0].startswith("Ran out at 1 200 W after 96 min")


def test_f3_a_night_in_percent_and_a_colder_one() -> None:
    (sentence,) = said("f3", topic=Topic.DUTY)
    assert "at −16 °C that is × 1.42, and it lasts about 8 h 21 min" in sentence
    (energy,) = said("f3", topic=Topic.ENERGY)
    assert energy.startswith("It went from 100 % to 1 % in 11 h 50 min: about 79 W on average, if 935 Wh")
    (furnace,) = job_of("f3").loads
    assert {part.name: part.run_w for part in furnace.parts} == {"blower": 310, "inducer": 55, "igniter": 380}


def test_f4_the_hold_curve_with_the_nameplate_held_for_ever_and_what_would_pin_it() -> None:
    made = character("f4")
    curve = made.hold
    assert curve is not None
    assert (curve.held_w, round(curve.n, 2), round(curve.k_s, 2)) == (3000, 2.45, 0.23)
    assert curve.next_w == pytest.approx(3325)
    low_s, high_s = curve.band_s(3300)
    assert high_s > 5 * low_s, "what is held for ever is not pinned, so the band is wide"
    assert curve.hold_s(3000) == float("inf")
    assert made.by_key["held_w"].value.value == 3050
    recovers = made.by_key["recovers_s"].value
    assert (recovers.value, recovers.u) == (8, 1)


def test_f5_one_droop_line_from_after_the_screw_was_turned() -> None:
    (seen,) = found_of("f5")
    (line,) = seen.droops
    assert [(round(p.w), p.y) for p in line.points] == [(0, 52.1), (1600, 50.6), (3100, 49.1)]
    assert line.line.b * 1600 == pytest.approx(-1.55, abs=0.05)
    (clock,) = (f for f in seen.findings if f.key.startswith("clock"))
    assert (clock.value.value, clock.value.u) == (pytest.approx(52.5), pytest.approx(0.42, abs=0.01))


def test_f6_idle_conversion_cut_offs_and_how_near_the_load_came_to_them() -> None:
    idle, _, ladder, cut_offs = found_of("f6")
    (stands,) = idle.conversions
    assert stands.idle is not None
    assert stands.idle.value == pytest.approx(10.5, abs=0.05)
    (loaded,) = ladder.conversions
    assert loaded.idle is None, "under 2 480 W nothing idles"
    assert loaded.findings[0].value.value == pytest.approx(86.8, abs=0.05)
    assert cut_offs.cut_offs is not None
    assert cut_offs.cut_offs.hysteresis_v == pytest.approx(2.2)
    assert cut_offs.trips == ()
    assert any("no fault" in sentence for sentence in said("f6", 3))
    record = job_of("f6").sources[0]
    (room,) = across_sources([SourceSeen("bank", record.source.claims.wave, found_of("f6"))])
    assert room.value.value == pytest.approx(0.5)


def test_f7_two_blowers_on_a_leg_with_its_share_its_code_and_its_neutral() -> None:
    (seen,) = found_of("f7")
    assert "Held 4 300 W on leg 2 for 5 min, 172 % of its leg's rating." in said("f7", topic=Topic.HELD)
    (peak,) = said("f7", topic=Topic.STARTS)
    assert peak.startswith("At least 48.3 A on leg 2 for a moment (both on together)")
    assert seen.starts == ()
    assert neutral_a(310 / 120, 4300 / 120 - 1j * 4300 / 120 * (1 / 0.98**2 - 1) ** 0.5) == pytest.approx(
        34.0, abs=0.05
    )
    assert "The neutral carries 33 A, as the legs' difference of 34 A has it." in said("f7", topic=Topic.LEGS)
    noticed = said("f7", topic=Topic.NOTICED)
    assert noticed[0].startswith("Code F7")
    assert noticed[1] == "Warm cords, with 310 W on leg 1 and 4 300 W on leg 2 last read."


def test_f8_the_near_spot_is_left_out_and_the_louder_of_two_decays_is_used() -> None:
    (seen,) = found_of("f8")
    quiet, loaded = seen.noise
    assert [round(spot.dba, 1) for spot in quiet.spots] == [74, 60, 55.0, 50.7]
    assert [spot.left_out for spot in quiet.spots] == ["too near to be a point", "", "", ""]
    assert loaded.n == pytest.approx(15.6, abs=0.05)
    assert loaded.neighbour.value == pytest.approx(57.5, abs=0.1)
    assert loaded.neighbour_open_dba == pytest.approx(56.3, abs=0.05)
    assert "82 ft away" in said("f8", topic=Topic.NOISE)[1]


def test_f9_two_sources_over_one_vessel_of_water() -> None:
    runs = [found_of("f9", source)[0].heating for source in (0, 1)]
    assert [round(heating.runs[0].delivered_w) for heating in runs if heating] == [617, 419]
    assert not any(run.on_mains for heating in runs if heating for run in heating.runs)
    seen = [
        SourceSeen(record.source.name, record.source.claims.wave, found_of("f9", i))
        for i, record in enumerate(job_of("f9").sources)
    ]
    (between,) = across_sources(seen)
    sentence = between.sentence.replace("\u202f", " ")
    assert "puts 40.2 % of what is drawn into the water, the sine one 43.5 %: 7.43 % less" in sentence
    assert "32.2 % less (± 3.36 %) heat in the same time" in sentence
    assert "at the 117.0 V of the other it would be 36.6 % less" in sentence
    assert "On a stepped wave the microwave" in sentence


def test_f11_the_battery_first_and_the_inverter_beside_it_with_the_check_that_tells_them_apart() -> None:
    (seen,) = found_of("f11")
    (trip,) = seen.trips
    assert [s.key for s in trip.suspects[:2]] == [Suspected.BATTERY, Suspected.ELECTRONIC]
    assert trip.suspects[0].use == pytest.approx(1.10, abs=0.002)
    assert trip.suspects[1].use == pytest.approx(1.08)
    assert "99.7\u202f% of it was held for 20\u202fmin" in trip.suspects[0].reasons[0]
    assert len(trip.rivals) == 2
    assert "read the DC volts at once" in trip.finding.needs
    assert (trip.back_s, trip.by_itself) == (25, True)
    assert next(h.held_s for h in seen.holds if h.w == 4900 and h.place is Place.TOTAL) == 1200


def test_f2_the_misread_count_is_flagged_as_it_is_typed_and_the_right_one_after_it_is_not() -> None:
    text = (HERE / "f2.txt").read_text(encoding="utf-8").replace("12% 1.49kwh", "12% 1.94kwh")
    job = read_notes(text, NOW).job
    record, kept = job.sources[0], job.sources[0].sessions[0]
    session, system = kept.session, job.brief.system
    bench = RecordContext(system, {}, replay(session, system.legs).kit)
    (flag,) = [check for check in check_session(session, bench) if check.kind != "cautions"]
    entry = next(entry for entry in session.entries if entry.seq == flag.seq)
    assert (entry.raw, flag.kind) == ("07:30 12% 1.94kwh", "energy jump")
    assert check_entry(replace(session, entries=session.entries[: entry.seq - 1]), entry, bench) == (flag,)
    seen = session_findings(Home(job.brief, job.loads), record.source, session)
    assert seen.runs is not None
    assert seen.runs.run.ac_wh == 1660
    assert seen.runs.gauge is not None
    assert abs(seen.runs.gauge.worst_pt) < 4


def test_f2_a_display_after_the_charger_is_told_and_not_doubted() -> None:
    kept = job_of("f2").sources[0].sessions[1]
    system = job_of("f2").brief.system
    bench = RecordContext(system, {}, replay(kept.session, system.legs).kit, can_charge=True)
    assert [check.kind for check in check_session(kept.session, bench)] == []
