"""The demo jobs, read in from the files that ship with Muster."""

from __future__ import annotations

from importlib import resources

from django.contrib.auth.models import AbstractUser

from muster.formats.jobfile import parse_job
from muster.records.models import Job

from .jobs import read_in


def load_demo(who: AbstractUser) -> list[Job]:
    """Read in each demo job that is not there yet; what was changed in one stays."""
    files = sorted(resources.files("muster.demo").iterdir(), key=lambda path: path.name)
    wanted = [
        path for path in files if path.name.endswith(".muster.json") and not Job.objects.filter(demo=path.name).exists()
    ]
    return [read_in(parse_job(path.read_text(encoding="utf-8")), who, demo=path.name) for path in wanted]
