"""Rows: what is searched by is a column, what only the core reads is one JSON column."""

from __future__ import annotations

from django.conf import settings
from django.db import models

BEING_RECORDED = "being recorded"
"""The note of a trace that a recorder is filling, or was when it was killed: it is never forgotten."""


class Kept(models.Model):
    """Who made a row and when."""

    created_at = models.DateTimeField(auto_now_add=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")

    class Meta:
        abstract = True


class Job(Kept):
    """One home: its brief, loads, sources, sessions and verdicts."""

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
    """A load of the home; removed ones are kept so that they can be put back."""

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


class ShelfRow(Kept):
    """An appliance on the assessor's own shelf; it serves every job. Removed ones are kept so that they can be put back."""

    slug = models.CharField(max_length=40, unique=True)
    data = models.JSONField()
    removed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["slug"]

    def __str__(self) -> str:
        return self.slug


class MeasuredRow(Kept):
    """A source measured on a job and put on the shelf, with its whole evidence; removed ones are kept so that they can be put back."""

    name = models.CharField(max_length=120)
    digest = models.CharField(max_length=64, unique=True)
    data = models.JSONField()
    removed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["name", "-pk"]

    def __str__(self) -> str:
        return self.name


class SourceRow(Kept):
    """A source being judged for a job."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="source_rows")
    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=40)
    data = models.JSONField()
    plans = models.JSONField(default=dict)
    rules = models.JSONField(default=list)
    """What the household does in an outage on this source, as the assessor accepted it."""
    card = models.JSONField(default=dict)
    """What the assessor chose of the words of the household's card."""
    card_given = models.JSONField(null=True, default=None)
    """When that card was last printed or saved, by whom, and the digest of the data it was made from."""
    elsewhere = models.JSONField(null=True, default=None)
    """Where it was taken from the shelf: the digest of its evidence, and whether it was ``serviced`` since."""
    judged = models.JSONField(null=True, default=None)
    """The verdict for the loads that must run as it was last worked out: ``status``, ``headline``, ``at`` (ISO 8601, UTC)."""
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name


class SessionRow(Kept):
    """A plan being run on a source."""

    source = models.ForeignKey(SourceRow, models.CASCADE, related_name="session_rows")
    protocol = models.CharField(max_length=40)
    started_at = models.DateTimeField()
    dated = models.BooleanField(default=True)
    """Whether its date is known; where only clock times were said, it is the last day that they can be of."""
    closed_at = models.DateTimeField(null=True, blank=True)
    archived_at = models.DateTimeField(null=True, blank=True)
    data = models.JSONField()
    sha256 = models.CharField(max_length=80, blank=True)

    class Meta:
        ordering = ["started_at", "pk"]

    def __str__(self) -> str:
        return f"{self.protocol} on {self.source}"


class EntryRow(models.Model):
    """A line of the running record. Undo and correction are rows that supersede it: nothing said is ever updated.

    ``once`` is the browser's own key of what it sent: sent twice, it is taken once.

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
    supersedes = models.ForeignKey("self", models.PROTECT, null=True, blank=True, related_name="superseding")
    amendment = models.ForeignKey("AmendmentRow", models.PROTECT, null=True, blank=True, related_name="entry_rows")
    once = models.CharField(max_length=40, blank=True)

    class Meta:
        ordering = ["seq"]
        constraints = [
            models.UniqueConstraint(fields=["session", "seq"], name="one_entry_a_seq"),
            models.UniqueConstraint(fields=["session", "once"], condition=~models.Q(once=""), name="each_press_once"),
        ]

    def __str__(self) -> str:
        return f"{self.seq}: {self.raw}"


class AmendmentRow(models.Model):
    """Something set right in a sealed session: when, by whom and why, with the seal that stood before it."""

    session = models.ForeignKey(SessionRow, models.CASCADE, related_name="amendment_rows")
    number = models.PositiveIntegerField()
    at = models.DateTimeField()
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    by = models.CharField(max_length=60, blank=True)
    reason = models.TextField()
    sealed = models.CharField(max_length=80)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["session", "number"], name="one_amendment_a_number")]

    def __str__(self) -> str:
        return f"{self.number}: {self.reason}"


class ResultRow(models.Model):
    """A computed result kept by the digest of what went in: computed again only when that changes."""

    digest = models.CharField(max_length=64, primary_key=True)
    data = models.JSONField()
    created_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.digest[:12]


class LinkRow(models.Model):
    """An address that lets one browser in, once: the digest of its token, in which role, and until when."""

    digest = models.CharField(max_length=64, primary_key=True)
    role = models.CharField(max_length=20)
    ends_at = models.DateTimeField()

    def __str__(self) -> str:
        return f"{self.role} until {self.ends_at}"


class WorkRow(models.Model):
    """A piece of long work that was asked for: done by a worker process, looked at and stopped from a page.

    ``key`` names what is wanted, so that the same is not asked twice; ``args``
    are the task's own; ``share`` 0 to 1 is how far it has come; ``pid`` whose
    hands it is in; ``result`` what came of it, where that is more than a row
    elsewhere.
    """

    class State(models.TextChoices):
        """How far it has come."""

        WAITING = "waiting"
        WORKING = "working"
        DONE = "done"
        FAILED = "failed"
        STOPPED = "stopped"

    task = models.CharField(max_length=20)
    key = models.CharField(max_length=80, unique=True)
    args = models.JSONField()
    label = models.CharField(max_length=120)
    state = models.CharField(max_length=10, choices=State.choices, default=State.WAITING)
    share = models.FloatField(default=0.0)
    message = models.TextField(blank=True)
    result = models.JSONField(default=dict)
    stop_asked = models.BooleanField(default=False)
    pid = models.PositiveIntegerField(null=True)
    asked_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["state"], name="work_by_state")]

    def __str__(self) -> str:
        return f"{self.label}: {self.state}"

    @property
    def can_again(self) -> bool:
        """Whether it can be tried once more: a file that was sent is not kept for that."""
        return self.state in (self.State.FAILED, self.State.STOPPED) and self.task not in (
            "read-in",
            "log-import",
            "capture-in",
        )

    @property
    def over(self) -> bool:
        """Whether nothing more will come of it by itself."""
        return self.state not in (self.State.WAITING, self.State.WORKING)


class ChangeRow(models.Model):
    """A change to a job's brief, loads or sources, with what was before: so that it can be undone.

    ``of`` names the table and ``target`` the row; ``before`` and ``after`` are
    the row's own values, empty where there was or is none.
    """

    job = models.ForeignKey(Job, models.CASCADE, related_name="change_rows")
    of = models.CharField(max_length=10)
    target = models.PositiveBigIntegerField()
    label = models.CharField(max_length=200)
    before = models.JSONField(null=True)
    after = models.JSONField(null=True)
    at = models.DateTimeField(auto_now_add=True)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="+")
    undone_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.label


class CalculationRow(Kept):
    """A calculation saved with a job: what was typed, and the sentence that came of it."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="calculation_rows")
    slug = models.CharField(max_length=40)
    typed = models.JSONField()
    sentence = models.TextField()
    removed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.sentence


class SafetyCheckRow(Kept):
    """A safety check confirmed for a source: that it was checked, ``by`` whom and ``at`` what time.

    ``withdrawn_at`` once it no longer holds.
    """

    source = models.ForeignKey(SourceRow, models.CASCADE, related_name="safety_rows")
    slug = models.CharField(max_length=40)
    note = models.CharField(max_length=200, blank=True)
    at = models.DateTimeField()
    by = models.CharField(max_length=60, blank=True)
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.slug


class InstrumentRow(Kept):
    """An instrument of the kit at hand, in the order in which readings fall to them; ``link`` is how it is reached, if it is."""

    slug = models.CharField(max_length=20, unique=True)
    data = models.JSONField()
    link = models.JSONField(null=True, blank=True)
    place = models.PositiveIntegerField()
    removed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["place", "pk"]

    def __str__(self) -> str:
        return self.slug


class StripRow(Kept):
    """An outlet strip that Muster may switch; ``outlets`` remembers for each job which load hangs on which outlet."""

    name = models.CharField(max_length=60)
    link = models.JSONField()
    outlets = models.JSONField(default=dict)
    removed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name


class RecordingRow(Kept):
    """Instruments being recorded into a session by a process of its own, which writes here how it goes.

    ``links`` maps each instrument's word to how it is reached; ``gone`` to
    why it is silent. ``outlets`` maps loads to the outlets of ``strip``.
    ``auto`` is a plan run by itself: how it was asked for, and how far it is.
    ``unattended_h`` is for how many hours outlets may stay on while no server
    lives; ``message`` says why it failed.
    """

    class State(models.TextChoices):
        """How it stands."""

        STARTING = "starting"
        RUNNING = "running"
        ENDED = "ended"
        FAILED = "failed"

    session = models.ForeignKey(SessionRow, models.CASCADE, related_name="recording_rows")
    state = models.CharField(max_length=10, choices=State.choices, default=State.STARTING)
    links = models.JSONField()
    every_s = models.FloatField(default=0.1)
    strip = models.JSONField(null=True, blank=True)
    outlets = models.JSONField(default=dict)
    unattended_h = models.FloatField(default=0.0)
    gone = models.JSONField(default=dict)
    auto = models.JSONField(null=True, blank=True)
    stop_asked = models.BooleanField(default=False)
    halt_asked = models.BooleanField(default=False)
    pid = models.PositiveIntegerField(null=True, blank=True)
    polled_at = models.DateTimeField(null=True, blank=True)
    message = models.TextField(blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"recording {self.pk} of {self.session}"


class CaptureRow(Kept):
    """A scope's few seconds, or a waveform file imported: samples channel by channel as float32, little-endian."""

    session = models.ForeignKey(SessionRow, models.CASCADE, related_name="capture_rows")
    name = models.CharField(max_length=120)
    instrument = models.CharField(max_length=20)
    channels = models.JSONField()
    t0_s = models.FloatField()
    t1_s = models.FloatField()
    step_s = models.FloatField()
    why = models.CharField(max_length=120, blank=True)
    samples = models.BinaryField()
    sha256 = models.CharField(max_length=80)
    removed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["t0_s", "pk"]

    def __str__(self) -> str:
        return self.name


class PhotoRow(Kept):
    """A photo at an entry: the digest that names its file beside the database, its size [px], and what it shows."""

    session = models.ForeignKey(SessionRow, models.CASCADE, related_name="photo_rows")
    entry = models.ForeignKey(EntryRow, models.PROTECT, related_name="photo_rows")
    sha256 = models.CharField(max_length=64)
    caption = models.CharField(max_length=120, blank=True)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    removed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.caption or f"photo at entry {self.entry_id}"


class CharacterRow(Kept):
    """The character of a source as it stood on a day, saved so that a later one can be laid beside it."""

    source = models.ForeignKey(SourceRow, models.CASCADE, related_name="character_rows")
    data = models.JSONField()
    note = models.CharField(max_length=120, blank=True)
    removed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.source}, {self.created_at:%d %b %Y}"

    @property
    def beside_key(self) -> str:
        """What an address names it by."""
        return f"c{self.pk}"


class TraceRow(Kept):
    """A recorded log of a session. While it is being imported it is ``staged`` and nobody sees it.

    ``unchecked``: it came in a file whose digest was of an earlier form, and could not be verified.
    """

    session = models.ForeignKey(SessionRow, models.CASCADE, related_name="trace_rows")
    name = models.CharField(max_length=120)
    instrument = models.CharField(max_length=20)
    channels = models.JSONField()
    rows = models.PositiveIntegerField(default=0)
    t0_s = models.FloatField(default=0.0)
    t1_s = models.FloatField(default=0.0)
    block_s = models.FloatField(default=60.0)
    notes = models.JSONField(default=list)
    sha256 = models.CharField(max_length=80, blank=True)
    unchecked = models.BooleanField(default=False)
    staged = models.BooleanField(default=True)
    removed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.name


class BlockRow(models.Model):
    """A minute or more of a trace: times as float64 seconds after the session began, samples channel by channel.

    ``low``, ``mean`` and ``high`` hold one float32 a channel, and ``held`` two
    float64 (figure times how long it stood; how long anything was read), so
    that a wide view reads no samples; they stand before these, so that it
    reads past none either. All little-endian. Blocks written before have their
    times as float32 seconds after ``t0_s``.
    """

    trace = models.ForeignKey(TraceRow, models.CASCADE, related_name="block_rows")
    t0_s = models.FloatField()
    t1_s = models.FloatField()
    low = models.BinaryField()
    mean = models.BinaryField()
    high = models.BinaryField()
    held = models.BinaryField()
    times = models.BinaryField()
    samples = models.BinaryField()

    class Meta:
        ordering = ["t0_s", "pk"]
        indexes = [models.Index(fields=["trace", "t0_s"], name="block_by_time")]

    def __str__(self) -> str:
        return f"{self.t0_s} s"


class LiveRow(models.Model):
    """A second or so of a trace being recorded: committed, and so acknowledged, before anything is said of it.

    Times as float64 seconds after the session began, then samples channel by
    channel as float32. Little-endian.
    """

    trace = models.ForeignKey(TraceRow, models.CASCADE, related_name="live_rows")
    times = models.BinaryField()
    samples = models.BinaryField()

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{len(self.times) // 8} samples"


class ImportRow(Kept):
    """A log file being imported: looked at, mapped, read in the background, done, failed or stopped."""

    class State(models.TextChoices):
        """How far it has come."""

        MAPPING = "mapping"
        READING = "reading"
        DONE = "done"
        FAILED = "failed"
        STOPPED = "stopped"

    session = models.ForeignKey(SessionRow, models.CASCADE, related_name="import_rows")
    file_name = models.CharField(max_length=200)
    path = models.CharField(max_length=400)
    size_bytes = models.PositiveBigIntegerField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.MAPPING)
    mapping = models.JSONField(null=True)
    done_bytes = models.PositiveBigIntegerField(default=0)
    rows = models.PositiveIntegerField(default=0)
    message = models.TextField(blank=True)
    stop_asked = models.BooleanField(default=False)
    trace = models.OneToOneField(TraceRow, models.SET_NULL, null=True, blank=True, related_name="import_row")

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.file_name


class MappingRow(models.Model):
    """How the columns of an instrument's files are read, remembered by the instrument and its headings."""

    instrument = models.CharField(max_length=20)
    headings = models.CharField(max_length=64)
    data = models.JSONField()
    used_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-used_at"]
        constraints = [models.UniqueConstraint(fields=["instrument", "headings"], name="one_mapping_a_file_kind")]

    def __str__(self) -> str:
        return self.instrument


class SeriesRow(Kept):
    """One short plan over many units in one sitting: what is read of each, and which entry holds each figure.

    ``plan`` is a ``SeriesPlan``; ``sessions`` maps a unit to its session, ``cells`` a unit to its cells, each the entry
    that holds it and the figure as it was typed; ``shared`` the figures that are read once for all, by cell.
    """

    job = models.ForeignKey(Job, models.CASCADE, related_name="series_rows")
    plan = models.JSONField()
    units = models.JSONField()
    sessions = models.JSONField(default=dict)
    cells = models.JSONField(default=dict)
    shared = models.JSONField(default=dict)
    confirmed = models.JSONField(default=list)
    """The safety checks of the place and the people, confirmed once for the whole sitting."""
    closed_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"series of {len(self.units)} units"
