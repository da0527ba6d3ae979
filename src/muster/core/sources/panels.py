"""Solar panels of a source, in words too, and where on earth they stand."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..errors import MusterError, require_above, require_between

N = r"\d+(?:[.,]\d+)?"
COMPASS = {
    "north": 0.0,
    "north-east": 45.0,
    "east": 90.0,
    "south-east": 135.0,
    "south": 180.0,
    "south-west": 225.0,
    "west": 270.0,
    "north-west": 315.0,
}
SHORT = {
    "n": "north",
    "ne": "north-east",
    "e": "east",
    "se": "south-east",
    "s": "south",
    "sw": "south-west",
    "w": "west",
    "nw": "north-west",
}
FACING = r"north[- ]?east|south[- ]?east|north[- ]?west|south[- ]?west|north|south|east|west|[ns][ew]|[nesw]"
PANELS = re.compile(
    rf"(?<![\w.])(?:(?P<count>\d+) ?[x×] ?)?(?P<w>{N}) ?(?P<k>k?)wp?(?: of)?(?P<what>(?: (?:solar|pv))?(?: panels?)?),? "
    rf"(?:facing |looking |to the |azimuth )?(?:(?P<facing>{FACING})\b|(?P<azimuth>{N}) ?°)"
    rf"(?:,? (?:at |tilt(?:ed)? )?(?P<tilt>{N}) ?(?:°|deg(?:rees)?)(?: tilt)?)?(?:,? (?P<shade>{N}) ?% shade)?",
    re.I,
)
"""Panels as people say them: ``4 x 400 W panels facing south at 30°, 10 % shade``; towards a quarter, or degrees from north by east."""


@dataclass(frozen=True)
class Panels:
    """Panels that look one way: watts at the standard sun, tilt from the level and azimuth from north by east [°], shade [%]."""

    peak_w: float
    tilt_deg: float = 30.0
    azimuth_deg: float = 180.0
    shade_pct: float = 0.0

    def __post_init__(self) -> None:
        require_above(self.peak_w, 0, "peak_w")
        require_between(self.tilt_deg, 0, 90, "tilt_deg")
        require_between(self.azimuth_deg, 0, 360, "azimuth_deg")
        require_between(self.shade_pct, 0, 100, "shade_pct")


@dataclass(frozen=True)
class Location:
    """A place on earth: degrees north and east."""

    latitude_deg: float
    longitude_deg: float

    def __post_init__(self) -> None:
        require_between(self.latitude_deg, -90, 90, "latitude_deg")
        require_between(self.longitude_deg, -180, 180, "longitude_deg")


def panels_in(text: str) -> tuple[Panels, tuple[int, int]] | None:
    """The first panels that a text names, and where they stand in it; None where it names none.

    Parameters
    ----------
    text
        Such as ``4 x 400 W panels facing south at 30°, 10 % shade``.

    Returns
    -------
    tuple or None
        Without a tilt they lie at 30°.

    Raises
    ------
    OutOfRange
        If they cannot be.
    """
    match = next(
        (m for m in PANELS.finditer(text) if m["what"] or m["azimuth"] or m["facing"].lower() not in SHORT), None
    )
    if match is None:
        return None

    def n(name: str, otherwise: float) -> float:
        return float(match[name].replace(",", ".")) if match[name] else otherwise

    if match["azimuth"]:
        azimuth = n("azimuth", 180.0)
    else:
        word = match["facing"].lower().replace(" ", "-")
        word = SHORT.get(word, word)
        azimuth = COMPASS.get(word, COMPASS.get(re.sub(r"^(north|south)(east|west)$", r"\1-\2", word), 180.0))
    watts = n("w", 0.0) * (1000 if match["k"] else 1) * int(match["count"] or 1)
    return Panels(watts, n("tilt", 30.0), azimuth, n("shade", 0.0)), match.span()


def panels_of(line: str) -> Panels:
    """Panels in words.

    Parameters
    ----------
    line
        Such as ``800 W south 30°``.

    Returns
    -------
    Panels

    Raises
    ------
    MusterError
        If watts or the way they face are not said.
    """
    named = panels_in(line)
    if named is None:
        raise MusterError(
            f"“{line}”", where="panels", want="watts, the way they face and their tilt, such as 800 W south 30°"
        )
    return named[0]


def panels_words(panels: Panels) -> str:
    """Panels as ``panels_of`` reads them."""
    facing = next(
        (word for word, azimuth in COMPASS.items() if azimuth == panels.azimuth_deg), f"{panels.azimuth_deg:g}°"
    )
    shade = f" {panels.shade_pct:g} % shade" if panels.shade_pct else ""
    return f"{panels.peak_w:g} W {facing} {panels.tilt_deg:g}°{shade}"
