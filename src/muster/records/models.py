"""Rows: what is asked about is a column, what only the core reads is one JSON column."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Kept(models.Model):
    """Who made a row and when."""

    created_at = models.DateTimeField(auto_now_add=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")

    class Meta:
        abstract = True


class Job(Kept):
    """One home: its brief, roll, sources, sessions and verdicts."""

    name = models.CharField(max_length=120)
    brief = models.JSONField()
    demo = models.CharField(max_length=40, blank=True)
    archived_at = models.DateTimeField(null=True, blank=True)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-changed_at", "-pk"]

    def __str__(self) -> str:
        return self.name


class LoadRow(Kept):
    """A load in the roll; removed ones are kept so that they can be put back."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="load_rows")
    key = models.CharField(max_length=4)
    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=40)
    tier = models.CharField(max_length=10)
    leg = models.CharField(max_length=4)
    data = models.JSONField()
    removed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["job", "key"], name="one_load_a_key")]

    def __str__(self) -> str:
        return self.name


class SourceRow(Kept):
    """A source being judged for a job."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="source_rows")
    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=40)
    data = models.JSONField()
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name


class SessionRow(Kept):
    """A sheet being run on a source."""

    source = models.ForeignKey(SourceRow, models.CASCADE, related_name="session_rows")
    protocol = models.CharField(max_length=40)
    started_at = models.DateTimeField()
    closed_at = models.DateTimeField(null=True, blank=True)
    data = models.JSONField()
    sha256 = models.CharField(max_length=64, blank=True)

    class Meta:
        ordering = ["started_at", "pk"]

    def __str__(self) -> str:
        return f"{self.protocol} on {self.source}"


class EntryRow(models.Model):
    """A line of the running record. Never updated: undo and correction are rows that void it.

    ``who`` brought it into this database; ``by`` is the name it came with in a job file.
    """

    session = models.ForeignKey(SessionRow, models.CASCADE, related_name="entry_rows")
    seq = models.PositiveIntegerField()
    at = models.DateTimeField()
    logged_at = models.DateTimeField(auto_now_add=True)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    by = models.CharField(max_length=60, blank=True)
    raw = models.TextField(blank=True)
    items = models.JSONField()
    voids = models.OneToOneField("self", models.PROTECT, null=True, blank=True, related_name="voided_by")

    class Meta:
        ordering = ["seq"]
        constraints = [models.UniqueConstraint(fields=["session", "seq"], name="one_entry_a_seq")]

    def __str__(self) -> str:
        return f"{self.seq}: {self.raw}"


class DemandRow(models.Model):
    """A simulated demand kept by the digest of what went in: recomputed only when that changes."""

    digest = models.CharField(max_length=64, primary_key=True)
    data = models.JSONField()
    created_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.digest[:12]
