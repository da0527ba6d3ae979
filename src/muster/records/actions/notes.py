"""Notes and questions made into jobs."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser
from django.db import transaction
from django.utils import timezone

from muster.core.supply import SYSTEMS, System
from muster.formats.jobzip import JobPackage
from muster.formats.notes import NotesFile, read_notes, read_question, with_questions, write_notes
from muster.records import bridge
from muster.records.models import Job

from .jobs import read_in, write_out


def look_at_notes(text: str) -> NotesFile:
    """Notes read, every line told back; nothing is kept.

    Raises
    ------
    MusterError
        As ``read_notes``.
    """
    return read_notes(text, timezone.now())


@transaction.atomic
def take_notes(text: str, who: AbstractUser) -> Job:
    """Make a job of notes, or nothing of it.

    Raises
    ------
    MusterError
        As ``read_notes``.
    """
    return read_in(JobPackage(with_questions(look_at_notes(text))), who)


@transaction.atomic
def ask(question: str, who: AbstractUser) -> Job:
    """Make a job of a question in one line.

    Raises
    ------
    MusterError
        As ``read_question``.
    """
    return read_in(JobPackage(read_question(question, usual_system()).job), who)


def notes_of(job: Job) -> str:
    """A job as notes."""
    return write_notes(write_out(job).job)


def usual_system() -> System:
    """The supply of the job worked on last: that of the place, as a rule."""
    last = Job.objects.filter(demo="", archived_at=None).order_by("-changed_at").first()
    return bridge.brief_of(last).system if last else SYSTEMS["single-230-50"]
