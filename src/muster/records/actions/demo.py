"""The demo jobs, read in from the files that ship with Muster."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from importlib.resources.abc import Traversable

from django.contrib.auth.models import AbstractUser
from django.db import transaction

from muster.demo import files, package
from muster.formats.codec import dump
from muster.formats.jobzip import JobPackage
from muster.instruments.link import Link
from muster.instruments.protocols import OUTLET_STRIP
from muster.instruments.standins.servers import HOST, PANEL
from muster.records import bridge
from muster.records.models import InstrumentRow, Job, SourceRow, StripRow

from .evidence import keep
from .jobs import read_in
from .kit import kit_rows

STANDS_FOR = {
    "display": "sunspec",
    "meter": "panel",
    "recorder": "scpi",
    "sound": "sound",
    "thermometer": "thermometer",
}
"""Which instrument of the usual kit each stand-in takes the place of."""
ON_STRIP = "3_ferry_house.muster.zip"
"""Whose loads hang on the stand-in's outlets, in the order of the loads."""


def load_demo(who: AbstractUser, read: Callable[[Traversable], JobPackage] = package) -> list[Job]:
    """Read in each demo job that is not there yet; what was changed in one stays. ``read`` gives the job of a file."""
    wanted = [path for path in files() if not Job.objects.filter(demo=path.name).exists()]
    jobs = [read_in(read(path), who, demo=path.name) for path in wanted]
    for source in SourceRow.objects.filter(job__in=jobs).exclude(elsewhere=None):
        taken = bridge.taken_of(source)
        if taken is not None:
            keep(taken.measured, who)  # the demo's shelf has it too
    return jobs


@transaction.atomic
def link_standins(ports: Mapping[str, int], who: AbstractUser) -> None:
    """Give the kit's instruments the addresses of the stand-ins; one that leads to another machine is left alone."""
    kit_rows(who)
    for slug, stand_in in STANDS_FOR.items():
        row = InstrumentRow.objects.filter(slug=slug).first()
        if row is not None and (row.link is None or row.link["host"] == HOST):
            row.link = dump(_link(stand_in, ports[stand_in]))
            row.save(update_fields=["link"])
    strip = StripRow.objects.first() or StripRow(name="outlet strip", created_by=who, link={"host": HOST})
    if strip.link["host"] == HOST:
        strip.link = dump(Link(speaks=OUTLET_STRIP, host=HOST, port=ports["strip"]))
        home = Job.objects.filter(demo=ON_STRIP).first()
        if home is not None and str(home.pk) not in strip.outlets:
            keys = home.load_rows.values_list("key", flat=True)
            strip.outlets = {**strip.outlets, str(home.pk): {key: i for i, key in enumerate(keys)}}
        strip.save()


def _link(stand_in: str, port: int) -> Link:
    if stand_in == "panel":
        return Link(speaks="modbus", host=HOST, port=port, registers=PANEL.registers, inputs=PANEL.inputs)
    return Link(speaks=stand_in, host=HOST, port=port)
