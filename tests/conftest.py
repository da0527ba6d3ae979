"""What every test may use: a job, a source, a session, and who is writing."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from importlib import resources
from typing import Any

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from hypothesis import settings

from muster.core.brief import Brief
from muster.core.measures import Measures, show_in
from muster.core.safety.checks import KNOWN
from muster.core.sessions import Conditions
from muster.core.sources import Claims, Source, SourceKind
from muster.core.supply import SYSTEMS
from muster.demo import package
from muster.formats.jobzip import JobPackage, read_package
from muster.records.actions import jobs, sources
from muster.records.actions import loads as roll
from muster.records.actions import sessions as session_actions
from muster.records.actions.demo import load_demo
from muster.records.actions.people import local_account
from muster.records.models import Job, SessionRow, SourceRow
from tests.examples import PROVING

FERRY_HOUSE = "3_ferry_house.muster.zip"
LONGEST_FIRST = (
    "journeys/test_accessibility",
    "journeys/test_live_bench",
    "web/test_any_job",
    "web/test_command_line",
    "web/test_working",
    "web/test_healing",
    "web/test_own_folder",
    "formats/test_hostile",
    "journeys/",
    "records/recording/",
    "instruments/",
    "web/",
)
"""Files that take long begin first, so that none is left alone at the end while other workers have nothing to do."""


@cache
def ferry_house() -> JobPackage:
    """The demo's Ferry House."""
    return read_package(resources.files("muster.demo").joinpath(FERRY_HOUSE).read_bytes())


demo_package = cache(package)
"""The job of a demo file, read once."""


settings.register_profile("test", deadline=None, print_blob=True, derandomize=True, database=None)
settings.register_profile("prove", deadline=None, print_blob=True, database=None)
settings.load_profile("prove" if PROVING else "test")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Put the files that take longest first; within a file nothing moves."""

    def place(item: pytest.Item) -> int:
        return next((at for at, part in enumerate(LONGEST_FIRST) if part in item.nodeid), len(LONGEST_FIRST))

    items.sort(key=place)


@pytest.fixture(autouse=True)
def _units_as_usual() -> None:
    """What one test shows in feet, the next does not."""
    show_in(Measures())


@pytest.fixture
def who(db: Any) -> AbstractUser:
    """The local account."""
    return local_account()


@pytest.fixture
def job(who: AbstractUser) -> Job:
    """A small single-phase home with a heater, a pump and lights."""
    made = jobs.create_job("Signal Cottage", Brief(system=SYSTEMS["single-230-50"], outage_h=4), who)
    for line in ("room heater 1000w", "sump pump 400w 2/18", "lights"):
        roll.add_line(made, line, who)
    return made


@pytest.fixture
def source(job: Job, who: AbstractUser) -> SourceRow:
    """A source with plain claims."""
    claims = Claims(cont_w=2000, surge_w=4000, surge_s=5, noise_dba_7m=60)
    return sources.add_source(job, Source("the small set", SourceKind.INVERTER_SET, claims), who)


@pytest.fixture
def ladder(source: SourceRow, who: AbstractUser) -> SessionRow:
    """A ladder being run."""
    return session_actions.start_session(source, "ladder", Conditions(), who, confirmed=KNOWN)


@pytest.fixture
def demo(who: AbstractUser) -> Job:
    """The Ferry House with the first of its sources, the open-frame set."""
    whole = ferry_house()
    job = replace(whole.job, sources=whole.job.sources[:1])
    return jobs.read_in(JobPackage(job, whole.traces, whole.captures), who, demo=FERRY_HOUSE)


@pytest.fixture
def island(who: AbstractUser) -> list[Job]:
    """All three homes, whole, as the demo loads them."""
    return load_demo(who, demo_package)


@pytest.fixture
def plain(client: Client) -> Client:
    """A browser without script, on this machine."""
    return client
