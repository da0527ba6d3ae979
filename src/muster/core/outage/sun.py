"""What panels give over an outage: position of the sun, clear sky and the plane of the panels, by pvlib; three skies.

pvlib takes a second to load, and is loaded here when it is first asked.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from ..brief import Brief
from ..errors import MusterError
from ..sources.panels import Location, Panels
from .layout import Floats

LINKE_TURBIDITY = 3.0
"""Of a clear sky over the year in temperate air (Ineichen and Perez 2002: 2 clean and cold to 5 humid)."""
PERFORMANCE = 0.82
"""What panels give of what the sun on them would make at the standard test: warmth, leads, dirt, tracker. Ours, grade D."""
OVERCAST_SHARE = 0.20
"""Of a clear sky's light what comes through an overcast one, all of it diffuse (Kasten and Czeplak 1980: 0.25 at eight oktas)."""
STANDARD_SUN = 1000.0
"""[W/m²]"""
YEAR, MIDDLE_DAY = 2025, 15
"""A month is played by its middle day."""
ALBEDO = 0.2


def harvest_w(
    panels: Sequence[Panels], place: Location, brief: Brief, month: int, at_s: Floats, most_w: float | None = None
) -> tuple[Floats, Floats]:
    """What all panels give under a clear and under an overcast sky.

    Parameters
    ----------
    panels
        Each with its own tilt, azimuth and shade.
    place
        Degrees north and east.
    brief
        The hour at which the outage begins, the site's zone and height.
    month
        1 to 12.
    at_s
        Moments of the outage. [s]
    most_w
        What the inputs take at most, None where nobody said. [W]

    Returns
    -------
    tuple of array
        Clear and overcast, at each moment. [W]

    Raises
    ------
    MusterError
        If there are no panels.

    References
    ----------
    pvlib (Anderson et al. 2023): Ineichen clear sky, isotropic sky on the plane of the array; docs/method/outage.md#sun.
    """
    if not panels:
        raise MusterError("no panels", where="panels", want="their watts, tilt and azimuth")
    clear, grey = np.zeros(at_s.size), np.zeros(at_s.size)
    hours = tuple(np.round(brief.outage_from_hour + at_s / 3600, 4))
    for each in panels:
        bright, dull = _on_plane(each, place, brief.zone, brief.site.altitude_m, month, hours)
        x = each.peak_w / STANDARD_SUN * PERFORMANCE * (1 - each.shade_pct / 100)
        clear += bright * x
        grey += dull * x
    most = np.inf if most_w is None else most_w
    return np.minimum(clear, most), np.minimum(grey, most)


@lru_cache(maxsize=256)
def _on_plane(
    panels: Panels, place: Location, zone: str, altitude_m: float, month: int, hours: tuple[float, ...]
) -> tuple[Floats, Floats]:
    """Light on the plane of panels under a clear and an overcast sky, at hours counted from midnight. [W/m²]"""
    import pandas as pd
    from pvlib import atmosphere, clearsky, irradiance, solarposition

    midnight = pd.Timestamp(YEAR, month, MIDDLE_DAY, tz=zone)
    # Each day of a long outage is played by the same day of the month.
    times = pd.DatetimeIndex([midnight + pd.Timedelta(hours=float(hour) % 24) for hour in hours])
    sun = solarposition.get_solarposition(times, place.latitude_deg, place.longitude_deg, altitude=altitude_m)
    pressure = atmosphere.alt2pres(altitude_m)
    mass = atmosphere.get_absolute_airmass(atmosphere.get_relative_airmass(sun["apparent_zenith"]), pressure)
    sky = clearsky.ineichen(sun["apparent_zenith"], mass, LINKE_TURBIDITY, altitude=altitude_m)

    def on_plane(dni: Floats, ghi: Floats, dhi: Floats) -> Floats:
        total = irradiance.get_total_irradiance(
            panels.tilt_deg, panels.azimuth_deg, sun["apparent_zenith"], sun["azimuth"], dni, ghi, dhi, albedo=ALBEDO
        )
        return np.maximum(0.0, np.nan_to_num(np.asarray(total["poa_global"], dtype=np.float64)))

    dull = OVERCAST_SHARE * sky["ghi"]
    return on_plane(sky["dni"], sky["ghi"], sky["dhi"]), on_plane(0 * sky["dni"], dull, dull)
