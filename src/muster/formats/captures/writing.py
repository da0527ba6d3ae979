"""A capture as COMTRADE: one file of the 2013 edition, samples as text."""

from __future__ import annotations

from datetime import UTC, datetime

import numpy as np

from muster.core.sessions import Place
from muster.core.timeline.captures import Capture

REVISION = 2013
FULL_SCALE = 99_998
"""Text samples hold whole numbers; the largest of a channel is written as this one."""
PHASES = {Place.LEG1: "1", Place.LEG2: "2", Place.NEUTRAL: "N", Place.DC: "DC"}


def comtrade_cff(capture: Capture, began: datetime, station: str, hz: float) -> bytes:
    """A capture as a ``.cff``: configuration, and samples scaled to whole numbers.

    ``began`` is the moment of the first sample. What was not read is written as
    the standard's mark for a missing value (an empty field).

    References
    ----------
    IEEE C37.111-2013 (IEC 60255-24:2013), clauses 7, 8 and 9.
    """
    scales = [_scale(row) for row in capture.values.astype(np.float64)]
    config = _config(capture, began, station, hz, scales)
    parts = [
        "--- file type: CFG ---",
        *config,
        "--- file type: INF ---",
        "",
        "--- file type: HDR ---",
        "",
        "--- file type: DAT ASCII ---",
        *_samples(capture, scales),
        "",
    ]
    return "\r\n".join(parts).encode()


def _scale(row: np.ndarray) -> float:
    """What one count is worth in a channel."""
    read = np.abs(row[np.isfinite(row)])
    return float(read.max()) / FULL_SCALE if read.size and read.max() > 0 else 1.0


def _config(capture: Capture, began: datetime, station: str, hz: float, scales: list[float]) -> list[str]:
    count = len(capture.channels)
    lines = [f"{_plain(station)},Muster,{REVISION}", f"{count},{count}A,0D"]
    for i, (channel, scale) in enumerate(zip(capture.channels, scales, strict=True), 1):
        place = PHASES.get(channel.place, "")
        unit = channel.quantity.upper()
        lines.append(f"{i},{channel.heading},{place},,{unit},{scale:.9e},0.0,0.0,-99999,99999,1.0,1.0,P")
    at = began.astimezone(UTC).strftime("%d/%m/%Y,%H:%M:%S.%f")
    lines += [f"{hz:g}", "1", f"{capture.rate_hz:.9g},{capture.values.shape[1]}", at, at, "ASCII", "1.0", "0,0", "0,0"]
    return lines


def _samples(capture: Capture, scales: list[float]) -> list[str]:
    counts = capture.values.astype(np.float64) / np.array(scales)[:, None]
    microseconds = np.round(np.arange(capture.values.shape[1]) * capture.step_s * 1e6).astype(np.int64)
    rows = counts.T.tolist()
    return [
        f"{number},{at}," + ",".join("" if cell != cell else str(round(cell)) for cell in row)
        for number, (at, row) in enumerate(zip(microseconds.tolist(), rows, strict=True), 1)
    ]


def _plain(text: str) -> str:
    """Text that a field can hold."""
    return " ".join(text.replace(",", " ").split())[:64]
