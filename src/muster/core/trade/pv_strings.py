"""Panel strings against an input's window."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import require_above, require_between
from ..quantities import plain

SHORT_CIRCUIT_X = 1.25
"""Sun can be brighter than the standard test: 1.25 × Isc (NEC 690.8(A))."""
STC_C = 25.0
"""Cell temperature of the standard test conditions (IEC 61215)."""


@dataclass(frozen=True)
class SolarPanel:
    """A panel's nameplate at standard test conditions; temperature coefficients [%/K] of Voc and Vmp."""

    voc_v: float
    vmp_v: float
    isc_a: float
    imp_a: float
    voc_pct_per_k: float = -0.30
    vmp_pct_per_k: float = -0.40

    def __post_init__(self) -> None:
        for name in ("voc_v", "vmp_v", "isc_a", "imp_a"):
            require_above(getattr(self, name), 0, name)
        for name in ("voc_pct_per_k", "vmp_pct_per_k"):
            require_between(getattr(self, name), -1, 0, name)


@dataclass(frozen=True)
class SolarInput:
    """An input's window: most volts, least volts its tracker needs, most amps it uses, most short-circuit amps."""

    most_v: float
    least_v: float
    most_a: float
    most_isc_a: float
    most_w: float | None = None

    def __post_init__(self) -> None:
        for name in ("most_v", "most_a", "most_isc_a"):
            require_above(getattr(self, name), 0, name)
        require_between(self.least_v, 0, self.most_v, "least_v")


@dataclass(frozen=True)
class StringLayout:
    """So many panels in series, so many strings: what it gives, or why it is refused."""

    series: int
    parallel: int
    coldest_voc_v: float
    hottest_vmp_v: float
    isc_a: float
    watts: float
    refused: str = ""
    clipped: str = ""


def layouts(
    panel: SolarPanel, into: SolarInput, panels: int, coldest_c: float, hottest_cell_c: float
) -> tuple[StringLayout, ...]:
    """Every layout of up to so many panels on one input, the most watts first, the refused ones last with their reason.

    Voc at the coldest morning must stay within the input's volts, Vmp at the
    hottest cell must reach its tracker, and 1.25 × Isc stay within the
    short-circuit amps; amps above the input's are clipped.

    Raises
    ------
    OutOfRange
        If the number of panels is not 1 to 60.

    References
    ----------
    NEC 690.7 and 690.8; IEC 62548.
    """
    require_between(panels, 1, 60, "panels")
    string_layouts = [
        _layout(panel, into, series, parallel, coldest_c, hottest_cell_c)
        for series in range(1, panels + 1)
        for parallel in range(1, panels // series + 1)
    ]
    return tuple(sorted(string_layouts, key=lambda x: (bool(x.refused), -x.watts, x.parallel)))


def _layout(
    panel: SolarPanel, into: SolarInput, series: int, parallel: int, coldest_c: float, hottest_c: float
) -> StringLayout:
    voc = series * panel.voc_v * (1 + panel.voc_pct_per_k / 100 * (coldest_c - STC_C))
    vmp_hot = series * panel.vmp_v * (1 + panel.vmp_pct_per_k / 100 * (hottest_c - STC_C))
    isc, imp = parallel * panel.isc_a, parallel * panel.imp_a
    used_a = min(imp, into.most_a)
    watts = series * panel.vmp_v * used_a
    clipped = f"amps clipped from {imp:.1f} to {into.most_a:g}" if imp > into.most_a else ""
    if into.most_w is not None and watts > into.most_w:
        watts, clipped = into.most_w, f"{clipped}; " * bool(clipped) + f"watts clipped to {into.most_w:g}"
    reasons = [
        f"{voc:.1f} V open at {plain(coldest_c, 'c')}, over {into.most_v:g} V" if voc > into.most_v else "",
        f"{vmp_hot:.1f} V at a cell of {plain(hottest_c, 'c')}, under {into.least_v:g} V"
        if vmp_hot < into.least_v
        else "",
        f"1.25 × {isc:.1f} A short-circuit, over {into.most_isc_a:g} A"
        if SHORT_CIRCUIT_X * isc > into.most_isc_a
        else "",
    ]
    refused = "; ".join(reason for reason in reasons if reason)
    return StringLayout(
        series=series,
        parallel=parallel,
        coldest_voc_v=voc,
        hottest_vmp_v=vmp_hot,
        isc_a=isc,
        watts=0.0 if refused else watts,
        refused=refused,
        clipped=clipped,
    )
