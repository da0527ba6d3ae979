"""A nameplate in one line: every claim from it, nothing invented, what is missing asked."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.errors import MusterError
from muster.core.loads import Wave
from muster.core.sources import Chemistry, Claims, FuelRating, PvPort, Site, Source, SourceKind, Wires, derate
from muster.core.sources.limits import limits_of
from muster.core.sources.nameplate import kind_in, read_nameplate
from muster.core.supply import SYSTEMS
from muster.formats.notes import source_line


def test_the_line_of_a_battery_station() -> None:
    plate = read_nameplate(
        "battery station 2kWh 1800W surge 3600W 5s LFP pv 2x 12-60V 20A charge 1.2kW 25kg 1,300"
    ).source
    claims = plate.claims
    assert plate.kind is SourceKind.STATION
    assert (claims.battery_wh, claims.cont_w, claims.surge_w, claims.surge_s) == (2000, 1800, 3600, 5)
    assert claims.chemistry is Chemistry.LFP
    assert claims.pv_ports == (PvPort(12, 60, 20),) * 2
    assert (claims.charge_w, plate.owning.weight_kg, plate.owning.price) == (1200, 25, 1300)


@pytest.mark.parametrize(
    ("line", "claim", "value"),
    [
        ("open frame 3.2 kW surge 3.5 kW petrol", "surge_w", 3500),
        ("generator 3.5 kw peak 3 kw", "cont_w", 3000),
        ("generator 3 kw, 3.6 kw max", "surge_w", 3600),
        ("station 3.6 kWh, 4 kW (6 kW for 5 s)", "surge_s", 5),
        ("hybrid 5 kW, 2.5 kW a leg", "per_leg_w", 2500),
        ("hybrid 5 kW, battery 100 A continuous 200 A for 10 s", "battery_surge_a", 200),
        ("hybrid 5 kW, battery 100 A continuous 200 A for 10 s", "battery_surge_s", 10),
        ("inverter 1kVA 24V, 2x100Ah lead-acid", "battery_wh", 2400),
        ("inverter 2 kW 12 V, 200 Ah", "battery_wh", 2400),
        ("hybrid 6 kW 48V 200Ah LFP", "battery_wh", 9600),
        ("station 1 kWh 600 W usable 85%", "usable_pct", 85),
        ("hybrid 5 kW conversion 96%", "conversion_pct", 96),
        ("station 1kWh 600W full in 1.6 h", "charge_h", 1.6),
        ("generator 3 kw tank 4 gal", "tank_l", 15.141647136),
        ("generator 3 kw 68 dB at 7 m", "noise_dba_7m", 68),
        ("generator 3 kw half load 1.1 l/h full load 2 l/h", "half_load_lph", 1.1),
        ("inverter 2 kw modified sine", "wave", Wave.STEPPED),
        ("inverter set 2 kw thd < 3%", "thd_pct", 3),
        ("hybrid 5 kw transfer 20 ms", "transfer_ms", 20),
        ("generator 3 kw breaker 16 A", "breaker_a", 16),
    ],
)
def test_a_claim_in_the_words_of_the_trade(line: str, claim: str, value: object) -> None:
    assert getattr(read_nameplate(line).source.claims, claim) == value


def test_wiring_in_the_same_line() -> None:
    wires = read_nameplate("2.5 kW sine inverter, two pairs of 35 mm2 0.8 m, 300 A fuse").source.wires
    assert wires == Wires(dc_lead="free_mm2:35", dc_leads=2, dc_lead_m=0.8, dc_fuse_a=300)
    assert read_nameplate("station 1 kWh 600 W, cord 15 m 12 awg").source.wires.lead == "cord_awg:12"


def test_codes_are_told_with_their_meaning() -> None:
    owning = read_nameplate("hybrid 5 kW, codes: F7 leg over its rating, E3 battery cold").source.owning
    assert owning.meaning_of("f7") == "leg over its rating"
    assert owning.meaning_of("F9") == ""


def test_a_rating_a_fuel_is_not_derated_twice() -> None:
    """7.5 kW on petrol, 6.75 kW on propane: run on propane it is rated 6.75 kW, and 10 % less of nothing."""
    plate = read_nameplate("generator propane 6.75 kW petrol 7.5 kW").source
    assert plate.claims.on_fuels == (FuelRating("propane", 6750), FuelRating("petrol", 7500))
    assert (plate.claims.fuel, plate.claims.cont_w) == ("propane", 6750)
    (continuous, *_) = limits_of(plate, SYSTEMS["single-230-50"], Site())
    assert continuous.w == 6750
    assert derate(SourceKind.OPEN_FRAME, "propane", Site()).share == pytest.approx(0.9)


def test_one_figure_beside_a_fuel_is_no_rating_on_it() -> None:
    """7 kW propane: nobody says that the 7 kW are on propane, so the loss is taken off."""
    assert read_nameplate("generator 7 kW propane").source.claims.derated_fuel == "propane"


def test_what_nobody_said_is_asked_and_no_refusal() -> None:
    plate = read_nameplate("battery station 1.1 kWh")
    assert plate.asked == ("watts", "surge")
    assert plate.source.planned
    assert plate.source.claims.cont_w == 880


@pytest.mark.parametrize(
    ("line", "ports"),
    [
        ("station 1 kWh 600 W pv 12-60 V 20 A", (PvPort(12, 60, 20),)),
        ("hybrid 5 kW pv 2x 120-450V 16A 4kW", (PvPort(120, 450, 16, 4000),) * 2),
        ("station 3 kWh 2 kW two PV inputs 12 to 60 V, 20 A each", (PvPort(12, 60, 20),) * 2),
        ("station 1 kWh 600 W solar 200 W", (PvPort(most_w=200),)),
    ],
)
def test_the_inputs_for_panels(line: str, ports: tuple[PvPort, ...]) -> None:
    assert read_nameplate(line).source.claims.pv_ports == ports


@pytest.mark.parametrize(
    ("words", "kind"),
    [
        ("inverter generator 2 kW", SourceKind.INVERTER_SET),
        ("12 V inverter", SourceKind.INVERTER),
        ("hybrid inverter", SourceKind.HYBRID),
        ("power station", SourceKind.STATION),
        ("open-frame set", SourceKind.OPEN_FRAME),
        ("gen 3500w", SourceKind.OPEN_FRAME),
        ("a bag of apples", None),
    ],
)
def test_the_kind_is_in_the_words(words: str, kind: SourceKind | None) -> None:
    assert kind_in(words) is kind


def test_no_kind_is_one_clear_error() -> None:
    with pytest.raises(MusterError, match="names no kind of source; such as"):
        read_nameplate("six small ones")


@given(st.text(max_size=80))
def test_no_words_raise_anything_but_one_clear_error(words: str) -> None:
    try:
        read_nameplate(f"generator {words}")
    except MusterError as error:
        assert "\n" not in str(error)  # noqa: PT017 - most words are no error


WATTS = st.integers(100, 20_000).map(float)


@given(cont_w=WATTS, surge_x=st.floats(1, 3), wh=st.integers(200, 20_000), kind=st.sampled_from([SourceKind.STATION, SourceKind.HYBRID, SourceKind.INVERTER]))  # fmt: skip
def test_a_source_written_as_a_line_reads_the_same(cont_w: float, surge_x: float, wh: int, kind: SourceKind) -> None:
    claims = Claims(cont_w=cont_w, surge_w=round(cont_w * surge_x, 1), surge_s=5, battery_wh=float(wh), idle_w=12, charge_w=900)  # fmt: skip
    source = Source(name="it", kind=kind, claims=claims)
    assert read_nameplate(source_line(source), "it").source == source


@pytest.mark.parametrize(
    ("line", "claims"),
    [
        ("generator 4kW petrol surge 4.6, tank 18l", {"cont_w": 4000, "surge_w": 4600, "tank_l": 18}),
        ("generator 6500 W, surge 8000, 27 A per leg, petrol, 6.5 gal", {"surge_w": 8000, "per_leg_w": 3240}),
        ("inverter set 2.2 kW peak 2400 4 l 58 db", {"cont_w": 2200, "surge_w": 2400, "tank_l": 4}),
        ("generator peak 4500 running 3600", {"cont_w": 3600, "surge_w": 4500}),
        ("generator 5500 w surge 6.8k", {"cont_w": 5500, "surge_w": 6800}),
        (
            "generator 4 kW burns 2.1 l/h at full and 1.3 at half",
            {"full_load_lph": 2.1, "half_load_lph": 1.3, "tank_l": None},
        ),
        ("gen 3 kw, 4 gal, oil 0.6 l", {"cont_w": 3000, "tank_l": pytest.approx(15.14, abs=0.01)}),
    ],
)
def test_a_nameplate_is_read_with_its_units_left_out(line: str, claims: dict[str, float | None]) -> None:
    read = read_nameplate(line).source.claims
    assert {name: getattr(read, name) for name in claims} == claims


def test_a_peak_alone_is_no_rating_and_is_asked_about() -> None:
    plate = read_nameplate("generator peak 4500 W")
    assert "watts" in plate.asked
    assert plate.source.claims.cont_w < 4500
    assert plate.source.planned


@pytest.mark.parametrize(
    "words", ["surge 10 sec", "running 9 hours", "rated 230 volts", "peak 5 s", "rated 50 hz", "running 68 dba"]
)
def test_a_figure_with_another_unit_is_no_power(words: str) -> None:
    claims = read_nameplate(f"generator 3 kW, {words}").source.claims
    assert (claims.cont_w, claims.surge_w) == (3000, None)


@pytest.mark.parametrize(
    ("line", "cont_w", "surge_w"),
    [
        ("open frame 7500 running 9500 peak, gas, 25 L tank", 7500, 9500),
        ("open frame running 7500 peak 9500", 7500, 9500),
        ("inverter gen, 3500 start 3000 run", 3000, 3500),
        ("inverter generator 3000w, 3500 surge, petrol", 3000, 3500),
        ("station 1200w 2400w surge 1.2 kwh", 1200, 2400),
        ("station 1200w 2400w surge 100 ah", 1200, 2400),
    ],
)
def test_two_figures_stand_before_their_words_or_behind_them(line: str, cont_w: float, surge_w: float) -> None:
    claims = read_nameplate(line, "it").source.claims
    assert (claims.cont_w, claims.surge_w) == (cont_w, surge_w)
