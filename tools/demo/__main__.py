"""Write the demo jobs again: ``python -m tools.demo``. The same seeds give the same bytes."""

from __future__ import annotations

from collections.abc import Collection
from pathlib import Path

from muster.formats.jobzip import JobPackage
from muster.formats.jobzip_out import write_package

from .carried import with_taken
from .ferry_house import ferry_house
from .net_loft import net_loft
from .sealing import sealed
from .signal_cottage import signal_cottage
from .six_sets import six_sets

TARGET = Path(__file__).parents[2] / "src/muster/demo"


HOMES = {
    "1_net_loft": net_loft,
    "2_signal_cottage": signal_cottage,
    "3_ferry_house": ferry_house,
    "5_six_sets": six_sets,
}
"""What makes each demo job, by the name of its file; the order of the board is the last first."""
CARRIED_FROM, CARRIED_TO = ("1_net_loft", 1), "2_signal_cottage"
"""The bank measured in the loft is judged for the cottage too: as measured elsewhere."""


def packages(names: Collection[str] = tuple(HOMES)) -> dict[str, JobPackage]:
    """The demo jobs of these names, what is carried from one to another among them."""
    made = {name: sealed(make()) for name, make in HOMES.items() if name in names}
    home, at = CARRIED_FROM
    if {home, CARRIED_TO} <= set(made):
        made[CARRIED_TO] = with_taken(made[CARRIED_TO], made[home], at)
    return made


def main() -> None:
    """Write the files."""
    for old in TARGET.glob("*.muster.*"):
        old.unlink()
    for name, package in packages().items():
        path = TARGET / f"{name}{package.suffix}"
        path.write_bytes(write_package(package))
        print(path, path.stat().st_size)


if __name__ == "__main__":
    main()
