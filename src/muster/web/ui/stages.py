"""The ten stages of a job, and how far each has come."""

from __future__ import annotations

from dataclasses import dataclass

from django.urls import reverse

from muster.records.models import Job, SafetyCheckRow, SessionRow

UNTOUCHED, BEGUN, SETTLED = "untouched", "begun", "settled"


@dataclass(frozen=True)
class Stage:
    """A stage in the order of work."""

    number: int
    slug: str
    name: str


STAGES = tuple(
    Stage(number, slug, slug.capitalize())
    for number, slug in enumerate(
        ("brief", "loads", "source", "plan", "safety", "bench", "findings", "outage", "verdict", "compare"), 1
    )
)


OF_A_HOME = ("outage", "verdict")
"""Stages that a job of units alone does not have: their findings and character are its result."""


@dataclass(frozen=True)
class RailMark:
    """A stage in the rail: where it leads, and its mark."""

    stage: Stage
    url: str
    state: str
    here: bool


@dataclass(frozen=True)
class JobProgress:
    """What of a job is there: the counts that the marks rest on."""

    loads: int
    sources: int
    sessions: int
    closed: int
    gates: int = 0

    def state(self, slug: str) -> str:
        """Untouched, begun or settled."""
        states = {
            "brief": SETTLED,
            "loads": SETTLED if self.loads >= 1 else UNTOUCHED,
            "source": SETTLED if self.sources else UNTOUCHED,
            "plan": SETTLED if self.sessions else BEGUN if self.loads and self.sources else UNTOUCHED,
            "safety": SETTLED if self.sessions else BEGUN if self.gates else UNTOUCHED,
            "bench": SETTLED if self.closed else BEGUN if self.sessions else UNTOUCHED,
            "findings": SETTLED if self.closed else BEGUN if self.sessions else UNTOUCHED,
            "outage": BEGUN if self.loads else UNTOUCHED,
            "verdict": BEGUN if self.loads and self.sources else UNTOUCHED,
            "compare": BEGUN if self.sources > 1 else UNTOUCHED,
        }
        return states.get(slug, UNTOUCHED)


def progress_of(job: Job) -> JobProgress:
    """Count what a job holds."""
    sessions = list(
        SessionRow.objects.filter(source__job=job, source__archived_at=None, archived_at=None).values_list(
            "closed_at", flat=True
        )
    )
    return JobProgress(
        job.load_rows.filter(removed_at=None).count(),
        job.source_rows.filter(archived_at=None).count(),
        len(sessions),
        sum(1 for closed in sessions if closed is not None),
        SafetyCheckRow.objects.filter(source__job=job, withdrawn_at=None).count(),
    )


def marks(job: Job, here: str) -> list[RailMark]:
    """The rail of a job."""
    return rail_of(job, progress_of(job), here)


def rail_of(job: Job, progress: JobProgress, here: str) -> list[RailMark]:
    """The rail of a job that has come so far."""
    stages = [stage for stage in STAGES if not (job.brief.get("of_units") and stage.slug in OF_A_HOME)]
    return [
        RailMark(stage, reverse(stage.slug, args=[job.pk]), progress.state(stage.slug), stage.slug == here)
        for stage in stages
    ]
