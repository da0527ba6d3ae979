"""A waveform file imported: COMTRADE (one file or two) or CSV; its channels taken by their units and names."""

from __future__ import annotations

import csv
import io
import math
import re
import tempfile
import warnings
from array import array
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

import comtrade  # type: ignore[import-untyped]
import numpy as np

from muster.core.errors import MusterError
from muster.core.sessions import Place
from muster.core.timeline.captures import Capture
from muster.core.timeline.traces import Channel, channel_named
from muster.core.timeline.traces.trace import Floats, Samples
from muster.formats.bounds import MOST_CAPTURE, MOST_CHANNELS

UNEVEN = 0.02
"""Steps that differ by more than this share are not one step: such a file is refused."""
UNITS = {
    "v": ("v", 1.0),
    "kv": ("v", 1e3),
    "mv": ("v", 1e-3),
    "volt": ("v", 1.0),
    "volts": ("v", 1.0),
    "a": ("a", 1.0),
    "ka": ("a", 1e3),
    "ma": ("a", 1e-3),
    "amp": ("a", 1.0),
    "amps": ("a", 1.0),
}
TIME_UNITS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "": 1.0}
SECOND = re.compile(r"(?:^|[^a-z0-9])(?:l?2|b|leg ?2|ch(?:annel)? ?2)(?:$|[^a-z0-9])|[a-z]2$", re.I)
NEUTRAL = re.compile(r"(?:^|[^a-z])(?:n|neutral)(?:$|[^a-z])|[a-z]n$", re.I)
DC = re.compile(r"dc", re.I)
HEADING = re.compile(r"^\s*(?P<name>.*?)\s*[\[(]?\s*(?P<unit>kV|mV|V|volts?|kA|mA|A|amps?)?\s*[\])]?\s*$", re.I)
TIME_HEADING = re.compile(r"^\s*(?:t|time|t_s|seconds?)\b\s*[\[(_]?\s*(?P<unit>s|ms|us|µs)?\s*[\])]?\s*$", re.I)


@dataclass(frozen=True, eq=False)
class CaptureFile:
    """What a file holds: channels and samples at an even step; when it began, where it says so; channels left out."""

    name: str
    step_s: float
    channels: tuple[Channel, ...]
    values: Samples
    began: datetime | None = None
    left_out: tuple[str, ...] = ()

    def capture(self, t_s: float, instrument: str) -> Capture:
        """The capture, its first sample ``t_s`` seconds after the session began."""
        return Capture(
            name=self.name,
            instrument=instrument,
            t_s=t_s,
            step_s=self.step_s,
            channels=self.channels,
            values=self.values,
            why="imported",
        )


def read_capture_files(files: Mapping[str, bytes]) -> CaptureFile:
    """Read a waveform file: a ``.cff``, a ``.cfg`` with its ``.dat``, or a CSV.

    Raises
    ------
    MusterError
        If it is none of these, a part is missing or damaged, its steps are
        uneven, or none of its channels is volts or amps.
    """
    if sum(len(data) for data in files.values()) > MOST_CAPTURE:
        raise MusterError(f"larger than {MOST_CAPTURE // 1_000_000} MB", where="file", want="a shorter capture")
    by_kind = {Path(name).suffix.lower(): name for name in files}
    if ".cff" in by_kind or ".cfg" in by_kind:
        if ".cff" not in by_kind and ".dat" not in by_kind:
            raise MusterError("the .dat is missing", where="file", want="the .cfg and its .dat together, or one .cff")
        return _comtrade(files, by_kind)
    if {".csv", ".txt", ".tsv"} & set(by_kind):
        name = next(iter(files))
        return _csv(files[name], Path(name).stem)
    if ".dat" in by_kind:
        raise MusterError("the .cfg is missing", where="file", want="the .cfg and its .dat together, or one .cff")
    raise MusterError("no waveform file", where="file", want="COMTRADE (.cff, or .cfg with .dat) or .csv")


COUNTS = re.compile(rb"^\s*(\d+)\s*,\s*(\d+)\s*A\s*,\s*(\d+)\s*D\s*$", re.I | re.M)
RATE = re.compile(rb"^\s*[\d.eE+]*\s*,\s*(\d+)\s*$", re.M)
LEAST_BYTES_A_FIGURE = 2
"""A digit and a comma, or two bytes of a binary file."""


def require_what_it_promises(head: bytes, held_bytes: int, where: str) -> None:
    """Refuse a record that promises more channels or samples than its bytes can hold: room would be made for all of them.

    Raises
    ------
    MusterError
        If it does.
    """
    counts = COUNTS.search(head)
    if counts is None:
        return
    if any(len(group) > 9 for group in counts.groups()):
        raise MusterError("more channels than any recorder has", where=where, want="IEEE C37.111-1999 or 2013")
    analogue, digital = int(counts[2]), int(counts[3])
    if analogue + digital > head.count(b"\n") + 1:
        raise MusterError(f"{analogue + digital} channels in so few lines", where=where, want="a line for each channel")
    for rate in RATE.finditer(head, counts.end()):
        samples = int(rate[1][:18])
        if samples * (1 + analogue) * LEAST_BYTES_A_FIGURE > held_bytes:
            raise MusterError(f"{samples} samples promised in {held_bytes} bytes", where=where, want="the whole record")


def _comtrade(files: Mapping[str, bytes], by_kind: Mapping[str, str]) -> CaptureFile:
    """Through the library, which reads by path; whatever it stumbles over is one error."""
    head = by_kind.get(".cff") or by_kind[".cfg"]
    require_what_it_promises(files[head], sum(len(data) for data in files.values()), head)
    with tempfile.TemporaryDirectory(prefix="muster-") as folder:
        for suffix, name in by_kind.items():
            if suffix in (".cff", ".cfg", ".dat"):
                (Path(folder) / f"capture{suffix}").write_bytes(files[name])
        record = comtrade.Comtrade(ignore_warnings=True, use_numpy_arrays=True)
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")
                record.load(str(Path(folder) / f"capture{Path(head).suffix.lower()}"))
            return _of_record(record, Path(head).stem)
        except MusterError:
            raise
        except Exception as error:
            raise MusterError(
                f"not COMTRADE as the standard has it: {type(error).__name__} {error}"[:160],
                where=head,
                want="IEEE C37.111-1999 or 2013",
            ) from None


def _of_record(record: Any, name: str) -> CaptureFile:
    times = np.asarray(record.time, dtype=np.float64)
    floatses: dict[Channel, Floats] = {}
    left = []
    for i, channel in enumerate(record.cfg.analog_channels):
        wanted = _channel(f"{channel.name} {channel.ph}", str(channel.uu))
        if wanted is None or wanted[0] in floatses:
            left.append(str(channel.name))
            continue
        factor = wanted[1] * _primary(channel)
        floatses[wanted[0]] = np.asarray(record.analog[i], dtype=np.float64) * factor
    return _whole(name, times, floatses, tuple(left), record.start_timestamp)


def _primary(channel: Any) -> float:
    """What turns a channel's figures into primary ones: a file may hold what the transformer's other side saw."""
    primary, secondary = float(channel.primary), float(channel.secondary)
    return primary / secondary if str(channel.pors).upper() == "S" and secondary else 1.0


def _csv(data: bytes, name: str) -> CaptureFile:
    text = data.decode("utf-8-sig", "replace")
    rows = csv.reader(io.StringIO(text, newline=None), delimiter=_delimiter(text))
    try:
        headings = next((row for row in rows if row and TIME_HEADING.match(row[0])), None)
        if headings is None:
            raise MusterError("no column of times", where=name, want="a heading such as t_s or time [ms] first")
        if len(headings) > MOST_CHANNELS:
            raise MusterError(f"{len(headings)} columns", where=name, want=f"at most {MOST_CHANNELS}")
        table = _numbers(rows, len(headings), name)
    except csv.Error as error:
        raise MusterError(f"no table: {error}", where=name, want="rows of numbers under their headings") from None
    match = TIME_HEADING.match(headings[0])
    unit = TIME_UNITS[(match["unit"] or "").lower()] if match else 1.0
    floatses: dict[Channel, Floats] = {}
    left = []
    for place, heading in enumerate(headings[1:], 1):
        wanted = _headed(heading)
        if wanted is None or wanted[0] in floatses:
            left.append(heading)
            continue
        floatses[wanted[0]] = table[:, place] * wanted[1]
    return _whole(name, table[:, 0] * unit, floatses, tuple(left), None)


def _delimiter(text: str) -> str:
    return max(",;\t", key=text[:2000].count)


def _numbers(rows: Any, width: int, name: str) -> Floats:
    cells = array("d")
    for row in rows:
        number = rows.line_num
        if not any(cell.strip() for cell in row):
            continue
        if len(row) != width:
            raise MusterError(f"{len(row)} cells", where=f"{name}, row {number}", want=f"{width} cells")
        try:
            cells.extend([float(cell.replace(",", ".")) if cell.strip() else math.nan for cell in row])
        except ValueError:
            raise MusterError("not all numbers", where=f"{name}, row {number}", want="a number in each cell") from None
    return np.array(cells, dtype=np.float64).reshape(-1, width)


def _headed(heading: str) -> tuple[Channel, float] | None:
    """The channel of a CSV heading: ours (``l1_v``), or a name with its unit."""
    try:
        own = channel_named(heading.strip())
        return (own, 1.0) if own.quantity in ("v", "a") else None
    except MusterError:
        match = HEADING.match(heading)
        return _channel(match["name"], match["unit"] or "") if match else None


def _channel(name: str, unit: str) -> tuple[Channel, float] | None:
    """Volts or amps at a place, by unit and name; None for anything else."""
    known = UNITS.get(unit.strip().lower())
    if known is None:
        return None
    place = (
        Place.DC
        if DC.search(name)
        else Place.NEUTRAL
        if NEUTRAL.search(name)
        else Place.LEG2
        if SECOND.search(name)
        else Place.LEG1
    )
    if place is Place.NEUTRAL and known[0] == "v":
        return None
    return Channel(known[0], place), known[1]


def _whole(
    name: str, times: Floats, floatses: Mapping[Channel, Floats], left: tuple[str, ...], began: Any
) -> CaptureFile:
    """The file as a capture's parts, if its steps are even and it holds something.

    Raises
    ------
    MusterError
        If not.
    """
    if not floatses:
        held = ", ".join(left)[:80] or "none at all"
        raise MusterError(f"no volts or amps among its channels: {held}", where=name, want="channels in V or A")
    steps = np.diff(times)
    step_s = float(np.median(steps)) if steps.size else 0.0
    if not (step_s > 0 and np.isfinite(steps).all()):
        raise MusterError("the times do not rise", where=name, want="a sample each so many microseconds")
    uneven = float(np.abs(steps / step_s - 1).max())
    if uneven > UNEVEN and abs(times[-1] - times[0] - step_s * steps.size) > step_s:
        raise MusterError("the steps are uneven", where=name, want="one sampling rate throughout")
    step_s = float((times[-1] - times[0]) / steps.size)
    values = np.stack([np.asarray(part) for part in floatses.values()]).astype(np.float32)
    when = began if isinstance(began, datetime) else None
    CaptureFile(name=name, step_s=step_s, channels=tuple(floatses), values=values).capture(0.0, "scope")
    return CaptureFile(name=name, step_s=step_s, channels=tuple(floatses), values=values, began=when, left_out=left)
