"""Panels and where they stand, as people say them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.brief import Brief, Sky
from muster.core.brief_words import read_brief
from muster.core.errors import MusterError, OutOfRange
from muster.core.sources.nameplate import read_nameplate
from muster.core.sources.panels import Location, Panels, panels_of, panels_words


@pytest.mark.parametrize(
    ("line", "panels"),
    [
        ("800 W south 30°", Panels(800, 30, 180)),
        ("4 x 400 W panels facing south at 35°, 10 % shade", Panels(1600, 35, 180, 10)),
        ("2x200w panels SE", Panels(400, 30, 135)),
        ("1.2 kWp solar panels to the north-west 15 degrees", Panels(1200, 15, 315)),
        ("600 W 200° 20°", Panels(600, 20, 200)),
        ("2,4 kW of panels to the west", Panels(2400, 30, 270)),
    ],
)
def test_panels_are_read_as_they_are_said(line: str, panels: Panels) -> None:
    assert panels_of(line) == panels


@given(
    st.builds(
        Panels,
        peak_w=st.integers(50, 20_000).map(float),
        tilt_deg=st.integers(0, 90).map(float),
        azimuth_deg=st.integers(0, 359).map(float),
        shade_pct=st.integers(0, 99).map(float),
    )
)
def test_panels_told_back_are_the_same_panels(panels: Panels) -> None:
    assert panels_of(panels_words(panels)) == panels


@pytest.mark.parametrize(
    "line", ["12-60 V 20 A 400 W", "2000 W, 5 s", "800 w w/ lead", "3 kW sine wave", "surge 6 kW 5 s"]
)
def test_what_names_no_way_they_face_is_no_panels(line: str) -> None:
    with pytest.raises(MusterError, match="panels"):
        panels_of(line)


def test_a_source_is_read_with_the_panels_on_it_and_an_engine_has_none() -> None:
    hybrid = read_nameplate("hybrid 6 kW 10 kWh battery, 8x 410 W panels facing south at 35°").source
    assert (hybrid.panels, hybrid.claims.cont_w, hybrid.claims.battery_wh) == ((Panels(3280, 35, 180),), 6000, 10_000)
    assert read_nameplate("open frame 3 kW petrol tank 15 l, 800 W south 30°").source.panels == ()
    station = read_nameplate("battery station 1.8 kW 2 kWh, solar 12-60 V 20 A 400 W").source
    assert station.panels == ()
    assert station.claims.pv_ports[0].most_w == 400


def test_panels_that_cannot_be_are_refused() -> None:
    with pytest.raises(OutOfRange):
        Panels(400, 120, 180)
    with pytest.raises(OutOfRange):
        Location(95, 0)


def test_a_brief_says_where_when_and_under_what_sky_and_who_resets() -> None:
    words = "outage 24 h from 18, 57.2 N 6.9 W, in January, overcast, resets it within 5 min by day, 30 min at night"
    brief, left = read_brief(words, Brief())
    assert brief.place == Location(57.2, -6.9)
    assert (brief.month, brief.sky, brief.reset_min, brief.reset_night_min) == (1, Sky.OVERCAST, 5, 30)
    assert left == ""
    assert read_brief("lat -33.9, lon 18.4, clear skies", Brief())[0].place == Location(-33.9, 18.4)


def test_the_day_is_warmest_in_the_afternoon_and_swings_about_its_mean() -> None:
    brief = Brief(swing_k=5.0)
    by_hour = [brief.air_c(hour) for hour in range(24)]
    assert max(by_hour) == by_hour[15] == brief.site.temp_c + 5
    assert min(by_hour) == by_hour[3] == brief.site.temp_c - 5
    assert sum(by_hour) / 24 == pytest.approx(brief.site.temp_c)
