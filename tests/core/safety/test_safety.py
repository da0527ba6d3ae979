"""Safety checks: what applies to which wiring and source, what the plan opens and shuts, and who confirmed the rest."""

from __future__ import annotations

from dataclasses import replace

import pytest

from muster.core.brief import Brief, Home, Wiring
from muster.core.kit import USUAL_KIT, Kit
from muster.core.plan import steps_of
from muster.core.safety.checks import (
    CONNECTION,
    KNOWN,
    TO_CONFIRM,
    Confirmed,
    checks_for,
    connection_checks,
    not_passed,
)
from muster.core.safety.planned import SafetyCheck, planned
from muster.core.safety.sequence import switching
from muster.core.sessions import PROTOCOLS, Step
from muster.core.sources import Claims, Site, Source, SourceKind, Wires
from muster.core.supply import Leg, System

from ..build import SINGLE, SPLIT, load

HEATER = load("1", "heater", run_w=2300)
OVEN = load("2", "oven", run_w=2400, leg=Leg.BOTH)
STEPS = (Step("no load", ()), Step("all", ("1", "2")))
ALL = dict.fromkeys(KNOWN, Confirmed("Ada", "today"))


def home(system: System = SINGLE, wiring: Wiring = Wiring.INTERLOCK, temp_c: float = 10, *more: object) -> Home:
    return Home(Brief(system=system, wiring=wiring, site=Site(0, temp_c)), (HEATER, OVEN, *more))  # type: ignore[arg-type]


def source(kind: SourceKind = SourceKind.OPEN_FRAME, wires: Wires | None = None, **claims: object) -> Source:
    return Source("x", kind, Claims(5000, **claims), wires=wires or Wires())  # type: ignore[arg-type]


def gate(
    slug: str, *, at: Home | None = None, of: Source | None = None, protocol: str = "ladder", kit: Kit | None = None
) -> SafetyCheck:
    found = checks_for(protocol, at or home(), of or source(), STEPS, kit or Kit(), ALL)
    return next(one for one in found if one.slug == slug)


def slugs(at: Home, of: Source, protocol: str = "ladder") -> set[str]:
    return {one.slug for one in checks_for(protocol, at, of, STEPS, Kit(), {})}


@pytest.mark.parametrize("kind", list(SourceKind))
@pytest.mark.parametrize("wiring", list(Wiring))
def test_every_wiring_and_source_has_its_own(kind: SourceKind, wiring: Wiring) -> None:
    found = slugs(home(wiring=wiring), source(kind))
    assert ("isolation" in found) == ("interlock" in found) == (wiring is not Wiring.CORDS)
    assert ("cords" in found) == ("unplugged" in found) == (wiring is Wiring.CORDS)
    assert ("exhaust" in found) == ("refuelling" in found) == kind.has_engine
    assert ("battery" in found) == (kind in (SourceKind.INVERTER, SourceKind.HYBRID))
    assert {"bonding", "covers", "laptop", "stop", "meter"} <= found


@pytest.mark.parametrize("protocol", list(PROTOCOLS))
def test_every_protocol_has_check_and_the_scope_its_own(protocol: str) -> None:
    found = slugs(home(), source(), protocol)
    assert found
    assert ("probe" in found) == (protocol in ("waveform", "load_steps", "transfer"))


@pytest.mark.parametrize("protocol", list(PROTOCOLS))
def test_water_is_asked_for_where_the_plan_itself_switches_on_a_heater(protocol: str) -> None:
    """Against each plan's own steps, for a list of loads that fits every protocol."""
    loads = (
        load("1", "kettle", run_w=1500),
        load("2", "oven", run_w=2400, leg=Leg.BOTH),
        load("3", "heater", run_w=1400, leg=Leg.TWO),
        load("4", "pump", "motor", 900, pf=0.8, leg=Leg.TWO),
        load("5", "boiler", "furnace", 320, pf=0.8),
    )
    at = Home(Brief(system=SPLIT), loads)
    small = Source("the set", SourceKind.OPEN_FRAME, Claims(5000, surge_w=6000))
    steps = steps_of(protocol, at, small)
    hot = any({"1", "2", "3"} & set(step.loads) for step in steps) or PROTOCOLS[protocol].any_loads
    found = {gate.slug for gate in checks_for(protocol, at, small, steps, Kit(), {})}
    assert ("water" in found) == hot


def test_a_medical_load_in_the_loads_asks_for_its_gate() -> None:
    assert "medical" not in slugs(home(), source())
    assert "medical" in slugs(home(SINGLE, Wiring.CORDS, 10, load("3", "concentrator", "medical", 350)), source())


def test_a_check_to_confirm_is_shut_until_somebody_does_and_says_who() -> None:
    found = checks_for("ladder", home(), source(), STEPS, Kit(), {"exhaust": Confirmed("Ada", "12 Oct 09:05")})
    exhaust = next(one for one in found if one.slug == "exhaust")
    assert (exhaust.passed, exhaust.reason) == (True, "confirmed by Ada, 12 Oct 09:05")
    assert {"isolation", "interlock"} <= {one.slug for one in not_passed(found)}


def test_the_most_planned_is_by_leg_and_falls_back_on_the_claim() -> None:
    split = planned("ladder", home(SPLIT), source(), STEPS)
    assert split.leg_a == pytest.approx((2300 + 1200) / 120)
    assert (split.step, split.load, split.total_w) == ("all", "heater", 4700)
    assert planned("ladder", home(), source(), ()).leg_a == pytest.approx(5000 / 230)


def test_the_meter_check_shuts_with_the_plan_and_opens_with_another_kit() -> None:
    plug_first = Kit((USUAL_KIT[1], *USUAL_KIT))
    shut_one = gate("meter", kit=plug_first)
    assert not shut_one.passed
    assert "keep it off the plug-in meter" in shut_one.reason
    assert gate("meter").passed


def test_a_lead_too_thin_or_too_long_shuts_its_gate() -> None:
    assert gate("lead", of=source(wires=Wires(lead="cord_mm2:2.5", lead_m=10))).passed
    thin = gate("lead", of=source(wires=Wires(lead="cord_mm2:1.5", lead_m=10)))
    assert "the lead carries 16" in thin.reason.replace("\u202f", " ")
    long = gate("lead", of=source(wires=Wires(lead="cord_mm2:2.5", lead_m=60)))
    assert "of nominal" in long.reason
    inlet = gate("lead", of=source(wires=Wires(lead="cord_mm2:4", lead_m=5, inlet_a=16), breaker_a=13))
    assert "inlet is for 16 A" in inlet.reason
    assert "breaker is for 13 A" in inlet.reason
    assert "lead" not in slugs(home(), source())


def test_a_dc_fuse_must_let_the_plan_run_and_guard_the_lead() -> None:
    def of(fuse_a: float, lead: str) -> Source:
        return source(
            SourceKind.INVERTER, Wires(dc_lead=lead, dc_lead_m=1, dc_fuse_a=fuse_a), battery_low_v=44, conversion_pct=90
        )

    assert gate("dc_fuse", of=of(150, "wall_75:1/0")).passed
    assert "may open" in gate("dc_fuse", of=of(100, "wall_75:1/0")).reason
    assert "does not guard" in gate("dc_fuse", of=of(200, "wall_75:1/0")).reason


def test_a_battery_below_freezing_is_not_charged() -> None:
    hybrid = source(SourceKind.HYBRID)
    assert not gate("cold_battery", at=home(temp_c=-3), of=hybrid, protocol="recharge").passed
    assert gate("cold_battery", at=home(temp_c=5), of=hybrid, protocol="recharge").passed
    assert "cold_battery" not in slugs(home(temp_c=-3), hybrid, "ladder")


def test_the_connection_rests_on_the_check_of_its_wiring() -> None:
    assert [one.slug for one in connection_checks(home(), source())] == ["isolation", "interlock", "bonding"]
    corded = connection_checks(home(wiring=Wiring.CORDS), source())
    assert [one.slug for one in corded] == ["unplugged", "bonding", "cords"]
    assert set(CONNECTION) <= set(KNOWN)


def test_no_check_ever_asks_for_a_protection_to_be_got_round() -> None:
    for one in TO_CONFIRM:
        said = f"{one.what} {one.why}".lower()
        assert not any(word in said for word in ("bypass", "defeat", "override", "jumper", "disable"))
    assert all(one.title and one.what.endswith(".") and one.why.endswith(".") for one in TO_CONFIRM)


def test_what_opens_a_computed_check_is_said() -> None:
    for one in checks_for(
        "ladder", home(), replace(source(), wires=Wires(lead="cord_mm2:0.75", lead_m=50)), STEPS, Kit(), {}
    ):
        assert one.passes_by or one.passed
        assert one.reason


IDLE = (Step("output on, nothing connected", target_w=0.0, planned_w=0.0, hold_s=900.0),)
"""A 12 V inverter on the table: 2.5 kW, walked down to 10.4 V."""


def table_inverter(**wires: object) -> Source:
    return Source(
        "x",
        SourceKind.INVERTER,
        Claims(2500, battery_low_v=10.4, conversion_pct=87),
        wires=Wires(**wires),  # type: ignore[arg-type]
    )


def told(protocol: str, of: Source, steps: tuple[Step, ...]) -> dict[str, SafetyCheck]:
    return {check.slug: check for check in checks_for(protocol, home(), of, steps, Kit(), {})}


def test_an_idle_reading_asks_for_no_fuse_of_the_full_rating() -> None:
    thin = table_inverter(dc_lead="free_mm2:25", dc_fuse_a=60)
    assert not {"dc_fuse", "dc_unsaid", "lead_unsaid"} & set(told("idle", thin, IDLE))
    assert not told("overload", thin, ())["dc_fuse"].passed


def test_a_missing_fuse_is_asked_for_before_a_loaded_test() -> None:
    asked = told("overload", table_inverter(dc_lead="free_mm2:120"), ())["dc_unsaid"]
    assert not asked.passed
    assert asked.reason.startswith("not said: fuse; the plan draws")
    assert "lead, fuse" in told("overload", table_inverter(), ())["dc_unsaid"].reason


def test_a_lead_too_thin_for_the_amps_is_told_without_any_fuse() -> None:
    """25 mm² and 194 A with no fuse said were passed over in silence."""
    claims = Claims(2500, battery_low_v=14, conversion_pct=92)
    of = Source("x", SourceKind.INVERTER, claims, wires=Wires(dc_lead="b1:25"))
    fuse = told("overload", of, ())["dc_fuse"]
    assert not fuse.passed
    assert "194\u202fA through a lead of 101" in fuse.reason


def test_parallel_pairs_are_judged_as_so_many_and_the_remedies_are_possible() -> None:
    two = told("overload", table_inverter(dc_lead="free_mm2:35", dc_leads=2, dc_fuse_a=300), ())["dc_fuse"]
    assert not two.passed
    assert "the 300 A fuse may open" in two.reason
    assert "3 pairs of this lead with a fuse of 350 A" in two.passes_by
    assert "2 pairs of 50 mm² with a fuse of 350 A" in two.passes_by
    assert told("overload", table_inverter(dc_lead="free_mm2:50", dc_leads=2, dc_fuse_a=350), ())["dc_fuse"].passed


def test_a_thicker_lead_that_is_named_would_pass() -> None:
    thin = gate("lead", of=source(wires=Wires(lead="cord_mm2:1.5", lead_m=10)))
    assert "a lead of 2.5 mm² or more" in thin.passes_by
    assert gate("lead", of=source(wires=Wires(lead="cord_mm2:2.5", lead_m=10))).passed


def test_a_test_on_the_mains_loads_no_source() -> None:
    assert not {"lead", "lead_unsaid", "dc_unsaid"} & set(told("baseline", table_inverter(lead="cord_mm2:1"), STEPS))


@pytest.mark.parametrize("kind", list(SourceKind))
@pytest.mark.parametrize("wiring", list(Wiring))
def test_the_order_of_switching_isolates_before_it_feeds(kind: SourceKind, wiring: Wiring) -> None:
    over, back = switching(wiring, kind)
    assert len(over) >= 4
    assert len(back) >= 2
    assert not any("{" in step for step in (*over, *back))
    assert any("engine" in step for step in over) == kind.has_engine
    if wiring is Wiring.INTERLOCK:
        main_off = next(i for i, step in enumerate(over) if "main breaker off" in step)
        assert main_off < next(i for i, step in enumerate(over) if "interlock over" in step)
        assert over[-1].startswith("Switch the branch breakers on")
