"""A job opened in one go: its brief, what must run, and the source, each as it is said."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.db import transaction

from muster.core.brief import Brief
from muster.core.errors import MusterError
from muster.core.sources.nameplate import read_nameplate
from muster.formats.notes.headings import listed
from muster.records.models import Job

from .jobs import create_job
from .loads import add_line
from .measures import follow_typed
from .sources import add_source


@transaction.atomic
def open_job(name: str, brief: Brief, who: AbstractUser, *, loads: str = "", source: str = "") -> Job:
    """Open a job with its loads, a line or a comma each, and its source in one line; either may be left for later.

    Raises
    ------
    MusterError
        If a load or the source is not understood: ``where`` is ``loads`` or ``source``, and nothing is kept.
    """
    job = create_job(name, brief, who)
    for line in (part for whole in loads.splitlines() for part in listed(whole.strip())):
        try:
            add_line(job, line, who)
        except MusterError as error:
            raise MusterError(f"“{line}”: {error.what}", where="loads", want=error.want) from None
    if source.strip():
        try:
            add_source(job, read_nameplate(source).source, who)
        except MusterError as error:
            raise MusterError(error.what, where="source", want=error.want) from None
    follow_typed(job, f"{loads} {source}")
    return job
