"""The demo jobs, read in from the files that ship with Muster."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser

from muster.demo import files
from muster.formats.jobzip import read_package
from muster.records.models import Job

from .jobs import read_in


def load_demo(who: AbstractUser) -> list[Job]:
    """Read in each demo job that is not there yet; what was changed in one stays."""
    wanted = [path for path in files() if not Job.objects.filter(demo=path.name).exists()]
    return [read_in(read_package(path.read_bytes()), who, demo=path.name) for path in wanted]
