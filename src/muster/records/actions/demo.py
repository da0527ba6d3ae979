"""The demo jobs, read in from the files that ship with Muster."""

from __future__ import annotations

from importlib import resources

from django.contrib.auth.models import AbstractUser

from muster.formats.jobzip import read_package
from muster.records.models import Job

from .jobs import read_in


def load_demo(who: AbstractUser) -> list[Job]:
    """Read in each demo job that is not there yet; what was changed in one stays."""
    files = sorted(resources.files("muster.demo").iterdir(), key=lambda path: path.name)
    wanted = [
        path
        for path in files
        if path.name.endswith((".muster.json", ".muster.zip")) and not Job.objects.filter(demo=path.name).exists()
    ]
    return [read_in(read_package(path.read_bytes()), who, demo=path.name) for path in wanted]
