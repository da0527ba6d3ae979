"""The parts of a load's run: what switches when, from the moment it is called.

A furnace's inducer, igniter and blower, an inverter-driven compressor's ramp
and a washer's program are all of this one shape. Watts give proportions: they
are scaled so that the highest moment is the load's own running power.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from ..errors import MusterError, require_above, require_between

MOST_PARTS = 12
DAY_S = 86_400.0


@dataclass(frozen=True)
class Part:
    """One part: on from ``from_s`` after the call for ``for_s`` (None: until the call ends).

    ``start_x`` is its start as a multiple of its own running VA, for ``start_s``.
    """

    name: str
    run_w: float
    pf: float = 1.0
    from_s: float = 0.0
    for_s: float | None = None
    start_x: float = 1.0
    start_s: float = 0.0

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise MusterError("a part needs a name", where="name", want="such as igniter")
        require_above(self.run_w, 0, "run_w")
        require_between(self.run_w, 0, 100_000, "run_w")
        require_above(self.pf, 0, "pf")
        require_between(self.pf, 0, 1, "pf")
        require_between(self.from_s, 0, DAY_S, "from_s")
        if self.for_s is not None:
            require_above(self.for_s, 0, "for_s")
            require_between(self.for_s, 0, DAY_S, "for_s")
        require_between(self.start_x, 1, 20, "start_x")
        require_between(self.start_s, 0, 600, "start_s")

    @property
    def run_va(self) -> float:
        """Apparent power while running [VA]."""
        return self.run_w / self.pf

    @property
    def start_extra_va(self) -> float:
        """What its start adds to its running VA."""
        return self.run_va * (self.start_x - 1)

    @property
    def end_s(self) -> float:
        """When it goes off again after the call; infinite: when the call ends."""
        return float("inf") if self.for_s is None else self.from_s + self.for_s

    def on_at(self, at_s: float) -> bool:
        """Whether it is on so many seconds after the call."""
        return self.from_s <= at_s < self.end_s


def level_at(parts: Sequence[Part], at_s: float, what: str = "run_w") -> float:
    """What the parts that are on draw, so many seconds after the call: ``run_w`` or ``run_va``."""
    return float(sum(getattr(part, what) for part in parts if part.on_at(at_s)))


def highest(parts: Sequence[Part], what: str = "run_w") -> float:
    """The highest level: it can only rise where a part comes on."""
    return max((level_at(parts, part.from_s, what) for part in parts), default=0.0)


def start_moment(parts: Sequence[Part], part: Part) -> float:
    """Apparent power at the moment a part starts, the others that are on beneath it [VA]."""
    return level_at(parts, part.from_s, "run_va") + part.start_extra_va


def call_wh(parts: Sequence[Part], call_s: float) -> float:
    """Energy of one call of so many seconds [Wh]."""
    return sum(part.run_w * max(0.0, min(part.end_s, call_s) - part.from_s) for part in parts) / 3600


LINE = re.compile(r"^(?P<name>.*?)\s+(?P<w>\d+(?:[.,]\d+)?)\s*(?P<kilo>k?)w\b(?P<rest>.*)$", re.IGNORECASE | re.DOTALL)
FROM = re.compile(r"\bfrom\s+(\d+(?:[.,]\d+)?)\s*(s|min)\b", re.IGNORECASE)
FOR = re.compile(r"\bfor\s+(\d+(?:[.,]\d+)?)\s*(s|min)\b", re.IGNORECASE)
FACTOR = re.compile(r"\bpf\s*(\d*[.,]?\d+)", re.IGNORECASE)
START = re.compile(r"\bstart\s*[x×]\s*(\d+(?:[.,]\d+)?)\s+(?:over|in)\s+(\d+(?:[.,]\d+)?)\s*s\b", re.IGNORECASE)
EXAMPLE = "igniter 330 W from 15 s for 45 s"


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def _seconds(match: re.Match[str] | None) -> float | None:
    if match is None:
        return None
    return _number(match[1]) * (60 if match[2].lower() == "min" else 1)


def parse_part(line: str) -> Part:
    """A part from a line as one would say it: ``blower 400 W pf 0.75 from 90 s, start x4 over 2 s``.

    Watts must be said; from 0 s, until the call ends, at power factor 1 and
    without a start is taken where nothing else is.

    Raises
    ------
    MusterError
        If the name or its watts are missing, or a number cannot be.
    """
    match_found = LINE.match(line.strip())
    if match_found is None or not match_found["name"].strip(" :,"):
        raise MusterError(f"“{line.strip()}” is not a part", where="parts", want=f"such as “{EXAMPLE}”")
    rest = match_found["rest"]
    factor, start = FACTOR.search(rest), START.search(rest)
    try:
        return Part(
            name=match_found["name"].strip(" :,"),
            run_w=_number(match_found["w"]) * (1000 if match_found["kilo"] else 1),
            pf=_number(factor[1]) if factor else 1.0,
            from_s=_seconds(FROM.search(rest)) or 0.0,
            for_s=_seconds(FOR.search(rest)),
            start_x=_number(start[1]) if start else 1.0,
            start_s=_number(start[2]) if start else 0.0,
        )
    except MusterError as error:
        raise MusterError(f"“{line.strip()}”: {error.what}", where="parts", want=error.want) from None


def parse_parts(text: str) -> tuple[Part, ...]:
    """Parts from lines, one each; empty lines are passed over.

    Raises
    ------
    MusterError
        As ``parse_part``, or if there are more than twelve.
    """
    parts = tuple(parse_part(line) for line in text.splitlines() if line.strip())
    if len(parts) > MOST_PARTS:
        raise MusterError(f"got {len(parts)} parts", where="parts", want=f"{MOST_PARTS} or fewer")
    return parts


def part_words(part: Part) -> str:
    """A part as a line that ``parse_part`` reads back."""
    said = f"{part.name} {_plain(part.run_w)} W"
    if part.pf != 1:
        said += f" pf {_plain(part.pf)}"
    if part.from_s:
        said += f" from {_plain(part.from_s)} s"
    if part.for_s is not None:
        said += f" for {_plain(part.for_s)} s"
    if part.start_x > 1:
        said += f" start x{_plain(part.start_x)} over {_plain(part.start_s)} s"
    return said


def _plain(value: float) -> str:
    return f"{value:.10g}"
