"""All that is known of a source stands in one value: measured before claimed, newest after a screw was turned, under the brief's conditions."""

from __future__ import annotations

from dataclasses import replace

import pytest

from muster.core.brief import Brief, Home
from muster.core.character import Character, Dated, Given, character_of, given_of
from muster.core.character.character import SessionEstimate
from muster.core.character.known_limits import RECKONED
from muster.core.character.predicted_before import how_predicted, predicted_before
from muster.core.character.weighing import combine
from muster.core.findings import findings_of
from muster.core.loads import Tier
from muster.core.outage.simulate import simulate
from muster.core.quantities import Grade, Value
from muster.core.sessions import Conditions
from muster.core.sources import Claims, Site, Source, SourceKind
from muster.core.verdict import Status, judge
from muster.core.verdict.inputs import gather_inputs
from tests.core.build import SINGLE, SPLIT, load, session

SET = Source("set", SourceKind.OPEN_FRAME, Claims(5000, breaker_a=25, idle_w=12, noise_dba_7m=68, tank_l=10))
HOT, PLAIN = Site(altitude_m=1500, temp_c=25), Site(altitude_m=0, temp_c=25)
HELD = [(0.0, "no load 236v 52hz"), (9.0, "2kw 231v 51hz"), (20.0, "4kw 226v 50hz"), (1000.0, "4kw 226v 50hz")]


def told(
    *sessions: tuple[str, list[tuple[float, str]]], site: Site = PLAIN, conditions: Conditions | None = None
) -> Character:
    dated = [
        Dated(
            findings_of(
                replace(session(lines, (), SINGLE), conditions=conditions or Conditions()),
                {},
                SINGLE,
                20.0,
                source=SET,
                site=site,
            ),
            "Ladder",
            at,
        )
        for at, lines in sessions
    ]
    return character_of(SET, SINGLE, site, dated)


def test_one_question_has_one_answer_measured_before_claimed_with_its_grade() -> None:
    known = told(("2026-05-01", [*HELD, (1100.0, "71db at 7m")]))
    measured, claimed = known.best("dba_7m_loaded"), known.best("idle_w")
    assert measured is not None
    assert claimed is not None
    assert measured.value.value == pytest.approx(71, abs=1)
    assert (claimed.value.value, claimed.value.grade) == (12, Grade.C)
    assert known.get("idle_w") is None, "nobody measured it"
    assert known.best("round_trip_pct") is None


def test_what_the_shelf_says_is_of_grade_d() -> None:
    shelved = character_of(replace(SET, planned=True), SINGLE, PLAIN, ())
    assert {claim.value.grade for claim in shelved.claims} == {Grade.D}


def test_an_estimate_says_what_it_rests_on_and_how_it_was_weighed() -> None:
    at_20 = Conditions(temp_c=20, altitude_m=0, fuel="petrol")
    known = told(("2026-05-01", HELD), ("2026-06-01", HELD), conditions=at_20)
    level = known.by_key["no_load_v1"]
    assert [estimate.seqs != () for estimate in level.estimates] == [True, True]
    assert {(estimate.conditions, estimate.fuel, estimate.points) for estimate in level.estimates} == {
        ("20\u202f°C, 0\u202fm", "petrol", 3)
    }
    assert sum(estimate.weight or 0 for estimate in level.estimates) == pytest.approx(1)


def said(value: float, u: float, points: int) -> SessionEstimate:
    return SessionEstimate(
        value=Value(value, "hz", u, None, Grade.A), session="Ladder", at="2026-05-01", basis="", points=points
    )


def test_a_line_through_two_points_never_weighs_more_than_one_through_five() -> None:
    both = combine("no_load_hz", "Hertz", [said(52.0, 0.01, 2), said(51.0, 0.2, 5)])
    two, five = both.estimates
    assert (two.weight or 0) <= (five.weight or 0)
    assert both.apart, "and that they disagree is said"


def test_after_a_screw_was_turned_the_older_lines_are_of_another_set() -> None:
    turned = [(0.0, "adjusted the governor"), (5.0, "no load 233v 50.5hz"), (60.0, "4kw 225v 49hz")]
    known = told(("2026-05-01", HELD), ("2026-06-01", turned))
    hertz = known.by_key["no_load_hz"]
    assert hertz.value.value == pytest.approx(50.5)
    assert [estimate.at for estimate in hertz.outdated] == ["2026-05-01"]
    assert known.held is not None, "a screw changes nothing of what it holds"
    assert known.held.w == 4000


def test_after_a_service_what_it_held_before_counts_no_longer() -> None:
    serviced = [(0.0, "air filter changed"), (5.0, "no load 236v"), (60.0, "2kw 231v"), (900.0, "2kw 231v")]
    known = told(("2026-05-01", HELD), ("2026-06-01", serviced))
    assert known.held is not None
    assert known.held.w == 2000


def test_what_was_measured_is_told_under_the_conditions_of_the_brief() -> None:
    at_the_sea = Conditions(temp_c=25, altitude_m=0)
    known = told(("2026-05-01", [*HELD, (1010.0, "5kw"), (1020.0, "tripped")]), site=HOT, conditions=at_the_sea)
    share = next(limit.w for limit in known.limits if limit.key == "continuous" and limit.leg is None) / 5000
    assert known.held is not None
    assert known.trip is not None
    assert known.held.w == pytest.approx(4000 * share)
    assert known.trip.w == pytest.approx(5000 * share)
    assert known.by_key["held_w"].value.value == pytest.approx(4000 * share)


def test_what_waits_to_be_confirmed_is_named_and_nothing_rests_on_it() -> None:
    known = told(("2026-05-01", [(0.0, "1kw 230v"), (60.0, "9000kw"), (1000.0, "1kw 230v")]))
    assert known.waiting == ("9000kw",)
    assert known.held is None or known.held.w <= 1000


def test_limits_of_legs_and_of_the_whole_stand_side_by_side() -> None:
    lines = [(0.0, "l1 1kw l2 1kw"), (900.0, "l1 1kw l2 1kw"), (910.0, "l1 2.5kw l2 1kw"), (930.0, "tripped")]
    seen = findings_of(session(lines, (), SPLIT), {}, SPLIT, 20.0, source=SET)
    known = character_of(SET, SPLIT, PLAIN, [Dated(seen, "Ladder", "2026-05-01")])
    measured = {(limit.key, limit.leg): limit.w for limit in known.limits if limit.key in ("held", "trip")}
    assert {leg for _, leg in measured} >= {None}
    assert known.held is not None
    assert known.held.w == 2000


def test_a_verdict_goes_by_the_set_as_it_is_since_its_service() -> None:
    heater = (load("1", "heater", "heater", 3500),)
    home = Home(Brief(system=SINGLE), heater)

    def steady(*sessions: tuple[str, list[tuple[float, str]]]) -> Status:
        seen = [
            findings_of(session(lines, heater, SINGLE), home.by_key, SINGLE, 20.0, source=SET) for _, lines in sessions
        ]
        given = given_of(SET, SINGLE, home.brief.site, seen, [at for at, _ in sessions])
        inputs = gather_inputs(home, given, Tier.MUST, lambda loads, brief: simulate(loads, brief, 20))
        return next(row.status for row in judge(inputs).requirements if row.key.startswith("steady"))

    held = [(0.0, "4kw 230v 1 pf"), (4000.0, "4kw 230v"), (8000.0, "4kw 230v")]
    serviced = [(0.0, "carb cleaned"), (60.0, "1kw 231v"), (900.0, "1kw 231v")]
    before, after = steady(("2026-05-01", held)), steady(("2026-05-01", held), ("2026-06-01", serviced))
    assert (before, after) == (Status.CARRIES, Status.NOT_PROVEN)


def given(*sessions: tuple[str, list[tuple[float, str]]]) -> Given:
    dated = [
        Dated(findings_of(session(lines, (), SINGLE), {}, SINGLE, 20.0, source=SET), "Ladder", at)
        for at, lines in sessions
    ]
    return Given(SET, SINGLE, PLAIN, dated)


def test_a_later_session_is_laid_beside_what_the_earlier_ones_predicted_of_it() -> None:
    alike = [(0.0, "no load 236v 52hz"), (60.0, "3kw 228.5v 50.5hz")]
    other = [(0.0, "no load 236v 52hz"), (60.0, "3kw 205v 47hz")]
    read_alike = predicted_before(given(("2026-05-01", HELD), ("2026-06-01", alike)))
    assert [figure.within for figure in read_alike] == [True, True]
    assert (
        how_predicted(read_alike)
        == "Of 2 figures that earlier sessions predicted of later ones, 2 came out within the band."
    )
    assert not any(figure.within for figure in predicted_before(given(("2026-05-01", HELD), ("2026-06-01", other))))
    assert how_predicted(()) == ""


def test_nothing_is_predicted_of_a_set_that_was_adjusted_since() -> None:
    turned = [(0.0, "adjusted the governor"), (5.0, "no load 233v 50.5hz"), (60.0, "4kw 225v 49hz")]
    assert predicted_before(given(("2026-05-01", HELD), ("2026-06-01", turned))) == ()


def test_a_hold_on_a_mountain_is_reckoned_at_the_sea_at_grade_c_and_never_past_plate_or_trip() -> None:
    mountain = Conditions(temp_c=25, altitude_m=2500)
    known = told(("2026-05-01", [*HELD[:2], (1000.0, "2kw 231v 51hz")]), conditions=mountain)
    here = next(limit for limit in known.limits if limit.key == RECKONED)
    assert (here.grade, here.leg) == (Grade.C, None)
    assert here.w == pytest.approx(2000 / 0.965 ** (2500 / 300), rel=0.001)
    assert known.held is not None
    assert known.held.w == 2000, "what was held stays what was held"
    assert here not in known.binding_limits
    high = told(("2026-05-01", HELD), conditions=mountain)
    assert next(limit.w for limit in high.limits if limit.key == RECKONED) == 5000, "no more than its nameplate"
    tripped = told(("2026-05-01", [*HELD, (1010.0, "4.2kw"), (1020.0, "tripped")]), conditions=mountain)
    assert all(limit.w <= 5000 for limit in tripped.limits if limit.key == RECKONED)
    assert not [limit for limit in told(("2026-05-01", HELD)).limits if limit.key == RECKONED], "where nothing differs"


def test_what_a_hold_would_be_at_the_sea_is_told_and_settles_nothing() -> None:
    heater = (load("1", "heater", "heater", 4500),)
    home = Home(Brief(system=SINGLE, site=PLAIN), heater)
    lines = [(0.0, "4kw 230v"), (4000.0, "4kw 230v"), (8000.0, "4kw 230v")]
    tested = replace(session(lines, heater, SINGLE), conditions=Conditions(temp_c=25, altitude_m=2500))
    seen = findings_of(tested, home.by_key, SINGLE, 20.0, source=SET, site=PLAIN)
    told = given_of(SET, SINGLE, home.brief.site, [seen], ["2026"])
    inputs = gather_inputs(home, told, Tier.MUST, lambda loads, brief: simulate(loads, brief, 20))
    row = next(row for row in judge(inputs).requirements if row.key.startswith("steady"))
    assert row.status is Status.NOT_PROVEN
    assert "would be 5\u202f000\u202fW, reckoned and not seen (grade C)" in row.sentence


def test_what_failed_to_start_is_known_with_the_least_on_which_it_did_until_the_source_is_serviced() -> None:
    pump = load("1", "pump", "motor", 400, pf=0.7)
    tried = [
        (0.0, "pump on top of 1kw, 229v before 160v min, stalled"),
        (60.0, "pump start 230v before 205v min, held"),
    ]

    def starts(*sessions: tuple[str, list[tuple[float, str]]]) -> Character:
        dated = [
            Dated(findings_of(session(lines, (pump,), SINGLE), {"1": pump}, SINGLE, 20.0, source=SET), "Starts", at)
            for at, lines in sessions
        ]
        return character_of(SET, SINGLE, PLAIN, dated)

    known = starts(("2026-05-01", tried))
    assert (dict(known.failed_w), dict(known.started_w)) == ({"1": 1000}, {"1": 0})
    serviced = starts(("2026-05-01", tried), ("2026-06-01", [(0.0, "carb cleaned"), (60.0, "1kw 231v")]))
    assert (dict(serviced.failed_w), dict(serviced.started_w)) == ({}, {})
