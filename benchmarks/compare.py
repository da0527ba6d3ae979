"""Eight sources side by side on one home: kept, and from nothing kept."""

from __future__ import annotations

from dataclasses import replace
from importlib import resources

from django.test import Client
from django.urls import reverse

from muster.formats.jobzip import JobPackage, read_package
from muster.records.actions import jobs
from muster.records.actions.people import local_account

from .measuring import IDLE_YARDSTICK_S, YARDSTICK_SQUARES, Row, ms, once, seconds

HOME = "3_ferry_house.muster.zip"
AIM_S, AIM_COLD_S = 0.1, 10.0


def rows() -> list[Row]:
    """The demo's Ferry House with each of its four sources twice: another eight of as many sessions."""
    package = read_package(resources.files("muster.demo").joinpath(HOME).read_bytes())
    four = package.job.sources
    bare = tuple(
        replace(
            record, source=replace(record.source, name=f"{record.source.name} again"), sessions=typed(record.sessions)
        )
        for record in four
    )
    job = jobs.read_in(
        JobPackage(replace(package.job, sources=(*four, *bare)), package.traces, package.captures, package.photos),
        local_account(),
    )
    client, url = Client(), reverse("compare", args=[job.pk])
    cold_s = once(lambda: client.get(url))
    kept_s = seconds(lambda: client.get(url))
    yardstick_s = seconds(lambda: sum(i * i for i in range(YARDSTICK_SQUARES)))
    idle_s = kept_s * IDLE_YARDSTICK_S / yardstick_s
    told = f"{ms(kept_s)}, idle {ms(idle_s)}"
    work = "page: eight sources of a home side by side"
    return [
        Row(
            f"{work}, nothing changed",
            "from nothing kept",
            ms(cold_s),
            told,
            cold_s / kept_s,
            "< 100 ms",
            idle_s < AIM_S,
        ),
        Row(f"{work}, from nothing kept", "–", "–", ms(cold_s), None, "< 10 s", cold_s < AIM_COLD_S),
    ]


def typed(sessions: tuple) -> tuple:  # type: ignore[type-arg]
    """Sessions without their logs, captures and photos: a file holds each of those once."""
    return tuple(replace(kept, traces=(), captures=(), photos=(), amendments=(), sha256="") for kept in sessions)
