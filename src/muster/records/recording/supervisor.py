"""A recording at work, in a process of its own: instruments into traces, outlets after the record, a plan run by itself.

The outlets follow the session's record: whoever logs a load on or off, a
thumb, the log line or the run, its outlet follows. An undo may switch off but
never on. The strip's own watchdog switches everything off if this process dies.
"""

from __future__ import annotations

import contextlib
import os
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import DatabaseError, connection
from django.utils import timezone

from muster.core.errors import MusterError
from muster.core.plan.run import LadderRun, Pace, Say, StopAt, steps_to_run
from muster.core.quantities import duration
from muster.core.sessions import Note, Place, Switch
from muster.core.sessions.replay import replay
from muster.core.timeline.traces import Channel
from muster.formats.codec import load
from muster.instruments.driver import Driver, Garbled, NoAnswer
from muster.instruments.link import Link, driver_of, strip_of
from muster.instruments.outlets import OutletStrip

from .. import bridge
from ..actions.captures import keep_capture
from ..actions.recordings import MUSTER, WATCHDOG_S
from ..actions.sessions import log_items
from ..models import EntryRow, RecordingRow
from . import alive
from .recorder import Recorder, RecorderMessage, SteadyClock
from .scope import Scope

POLL_S = 0.1
"""So often everything read is committed, the flags looked at, and the outlets brought to what the record says."""
REPORT_S = 1.0
"""So often it writes that it is alive."""
STRIP_MISSES = 2
"""So many answers missed in a row are silence: one may be lost on the way, and both together are over before the watchdog is."""
STRIP_AGAIN_S = 2.0
"""A strip that fell silent is tried again so often: each try may take a second, and the readings must not wait for it."""
DIP_PCT = 90.0
STRIP = "outlet strip"


class Supervisor:
    """One recording from its first reading to whole traces. ``poll`` does one round; ``run`` polls until it is told to stop."""

    def __init__(
        self,
        row: RecordingRow,
        *,
        drivers: Mapping[str, Driver] | None = None,
        strip: OutletStrip | None = None,
        clock: SteadyClock | None = None,
        silent_s: Callable[[], float] = alive.silent_s,
    ) -> None:
        self._silent_s = silent_s
        self._unserved = False
        self.row, self.session = row, row.session
        self.who: AbstractUser = row.created_by
        self.clock = clock or SteadyClock()
        links = {slug: load(Link, data) for slug, data in row.links.items()}
        self.drivers = dict(drivers) if drivers is not None else {slug: driver_of(link) for slug, link in links.items()}
        self.strip = strip if strip is not None or row.strip is None else strip_of(load(Link, row.strip))
        self.recorder = Recorder(self.session, self.drivers, self.who, row.every_s, self.clock, patient=True)
        self.zero = self.session.started_at.timestamp()
        self.scopes = [
            Scope(slug=slug, driver=driver_of(link), clock=self.clock)  # type: ignore[arg-type]
            for slug, link in links.items()
            if link.protocol.keeps_waves
        ]
        self.system = bridge.brief_of(self.session.source.job).system
        self.kit = bridge.session_data(self.session).kit_on()
        self.auto: LadderRun | None = None
        self._set: dict[int, bool] = {}
        self._on: tuple[str, ...] = ()
        self._last_entry = self._version = -1
        self._strip_missed = 0
        self._logged = False
        self._told = self._renewed = self._strip_again = 0.0
        self._low = False

    # the round

    def run(self, stop: threading.Event) -> None:
        """Record until ``stop`` is set or the page asks for it; then make whole what was kept.

        Raises
        ------
        MusterError
            If the disk takes no more: everything is switched off first.
        """
        self.row.pid = os.getpid()
        self.row.save(update_fields=["pid"])
        self.recorder.start()
        try:
            while not stop.is_set() and not self.row.stop_asked:
                began = time.monotonic()
                self.poll()
                stop.wait(max(0.0, POLL_S - (time.monotonic() - began)))
        finally:
            self._let_go()
        self.finish()

    def poll(self) -> list[RecorderMessage]:
        """One round: commit, follow the record, run the plan, keep captures, say how it goes.

        Raises
        ------
        MusterError
            If the disk takes no more.
        """
        try:
            return self._round()
        except DatabaseError as error:
            raise MusterError(
                f"nothing more can be kept: {error}", where="disk", want="room on the disk; what was kept stays"
            ) from None

    def _round(self) -> list[RecorderMessage]:
        if slept := self.clock.slept():
            self._note(f"the machine slept: nothing was recorded for {duration(slept)}")
        told = self.recorder.flush()
        written = self._others_wrote()
        if written:
            self.row.refresh_from_db(fields=["stop_asked", "halt_asked", "auto"])
        for each_item in told:
            self._mark(each_item)
        heard = {item.instrument for item in told if item.what == "kept"}
        self._look_for_dips(heard)
        self._look_for_server()
        self._run_sheet(heard)
        self._follow_record(look=written)
        self._keep_captures()
        self._describe(bool([item for item in told if item.what != "kept"]))
        return told

    def finish(self) -> None:
        """Whole traces of what was kept; the recording has ended."""
        for scope in self.scopes:
            scope.close()
        self.recorder.finish()
        self.row.state = RecordingRow.State.ENDED
        self.row.save(update_fields=["state"])

    def _mark(self, told: RecorderMessage) -> None:
        if told.what == "gone":
            self.row.gone[told.instrument] = told.label
            self._note(f"{told.instrument} fell silent: {told.label}")
        elif told.what == "clock":
            self._note(f"this machine’s clock was put back: times of {told.instrument} are moved on by {told.label} s")
        elif told.what == "back":
            self.row.gone.pop(told.instrument, None)
            self._note(f"{told.instrument} is back")

    def _note(self, words: str) -> None:
        if self.session.closed_at is None:
            log_items(self.session, [Note(words)], "the recorder", self.who, MUSTER)

    def _describe(self, now: bool) -> None:
        """Write that it is alive: each second, and at once when an instrument is gone or back."""
        if not now and self.clock() - self._told < REPORT_S:
            return
        self._told = self.clock()
        self.row.polled_at, self.row.state = timezone.now(), RecordingRow.State.RUNNING
        self.row.save(update_fields=["polled_at", "state", "gone"])

    # the server

    @property
    def _attended(self) -> bool:
        """Whether loads may be on: the server lives, or this was meant to go on without it for so long."""
        begun_s = (timezone.now() - self.row.created_at).total_seconds()
        return self._silent_s() < alive.SILENT_S or begun_s < self.row.unattended_h * 3600

    def _look_for_server(self) -> None:
        """Drop every load once nobody could press stop: a run ends, the outlets go off, and the record says so."""
        if self.strip is None:
            return
        gone = not self._attended
        if gone and not self._unserved:
            self._note(f"Muster’s server was silent for {alive.SILENT_S:g} s: every outlet goes off")
            if self.auto is not None:
                self._log(self.auto.stop("Muster’s server was silent"))
                self._report_auto()
                self.auto = None
            if lost := [key for key in self._on if key in self.row.outlets]:
                self._switch_off(lost, "all off: Muster’s server was silent")
        elif self._unserved and not gone:
            self._note("Muster’s server is back; the outlets stay off until they are switched on")
        self._unserved = gone

    # outlets

    def _others_wrote(self) -> bool:
        """Whether anybody else wrote to the database since the last round: costs microseconds, and most rounds nobody did."""
        with connection.cursor() as cursor:
            version = cursor.execute("PRAGMA data_version").fetchone()[0]
        before, self._version = self._version, version
        return bool(version != before)

    def _follow_record(self, *, look: bool) -> None:
        """Bring the outlets to what the record says is on; ``look`` where somebody else may have logged something."""
        if look or self._logged:
            self._read_record()
        if self.strip is not None:
            self._follow_with(self.strip)

    def _read_record(self) -> None:
        """Who is on by the record. A load is switched on only where somebody logged it on since the recording was asked for:
        an undo, or what was on before, does not."""
        self._logged = False
        new = list(EntryRow.objects.filter(session=self.session, pk__gt=self._last_entry).order_by("pk"))
        if not new:
            return
        self._last_entry = new[-1].pk
        on = replay(bridge.session_of(self.session), self.system.legs).on
        said = [row for row in new if row.supersedes_id is None and row.logged_at >= self.row.created_at]
        told = {key for row in said for key in _switched_on(row)}
        for key in on:
            if key in told and key not in self._on:
                self._want_capture(f"start of {self._name(key)}")
        self._on = tuple(key for key in on if key in told or key in self._on)
        stray = [key for key in on if key not in self._on and key in self.row.outlets]
        if self.strip is not None and stray:
            self._switch_off(stray, "stays off: switch it on to have it on")
        elif self.strip is None:
            self._on = on

    def _switch_off(self, keys: Sequence[str], words: str) -> None:
        """Log loads off: their outlets are."""
        self._logged = True
        log_items(self.session, [Switch(key, on=False) for key in keys], words, self.who, MUSTER)

    def _follow_with(self, strip: OutletStrip) -> None:
        if self.clock() < self._strip_again:
            return
        try:
            self._hear_of_drop(strip)
            self._switch(strip, {outlet: key in self._on for key, outlet in self.row.outlets.items()})
            if self.clock() - self._renewed >= REPORT_S:
                self._renewed = self.clock()
                strip.watch(WATCHDOG_S)
                self._strip_missed = 0
                if self.row.gone.pop(STRIP, None):
                    self._set = {}
        except (NoAnswer, Garbled) as error:
            self._strip_missed += 1
            if self._strip_missed < STRIP_MISSES:
                return
            self._strip_again = self.clock() + STRIP_AGAIN_S
            if STRIP not in self.row.gone:
                self.row.gone[STRIP] = str(error)
                self._note(f"the outlet strip fell silent, its watchdog drops them: {error}")
                self._dropped([key for key in self._on if key in self.row.outlets], "the outlet strip fell silent")

    def _hear_of_drop(self, strip: OutletStrip) -> None:
        """Where this came too late to renew the strip's watchdog, it dropped what was on, and the record says so."""
        late = self._renewed and self.clock() - self._renewed > WATCHDOG_S
        if not late or not any(self._set.values()):
            return
        states = strip.states()
        lost = [key for key, outlet in self.row.outlets.items() if self._set.get(outlet) and not states[outlet]]
        if not lost:
            return
        self._set = {outlet: on and states[outlet] for outlet, on in self._set.items()}
        self._on = tuple(key for key in self._on if key not in lost)
        self._dropped(lost, "the strip’s watchdog dropped its loads")

    def _dropped(self, lost: Sequence[str], why: str) -> None:
        """Loads that the strip dropped: a run ends, and the record has them off."""
        if self.auto is not None:
            self._log(self.auto.stop(why))
        elif lost:
            self._switch_off(lost, "all off: the strip’s watchdog dropped them")

    def _switch(self, strip: OutletStrip, wanted: Mapping[int, bool]) -> None:
        for on in (False, True):
            for outlet, wish in wanted.items():
                if wish is on and self._set.get(outlet) is not on:
                    strip.switch(outlet, on=on)
                    self._set[outlet] = on

    def _let_go(self) -> None:
        """Everything off first, then the record says so, if the disk still takes it."""
        if self.strip is not None:
            self._all_off(self.strip)
        with contextlib.suppress(DatabaseError, MusterError):
            if self.auto is not None:
                self._log(self.auto.stop("the recording was stopped"))
                self._report_auto()
            on = replay(bridge.session_of(self.session), self.system.legs).on
            off = [key for key in on if key in self.row.outlets]
            if self.strip is not None and off:
                self._switch_off(off, "all off")

    def _all_off(self, strip: OutletStrip) -> None:
        try:
            strip.all_off()
            strip.watch(0)
        except (NoAnswer, Garbled) as error:
            with contextlib.suppress(DatabaseError, MusterError):
                self._note(f"the outlet strip did not hear “all off”, its watchdog drops them: {error}")
        strip.close()

    def _name(self, key: str) -> str:
        text = self.session.source.job.load_rows.filter(key=key).values_list("name", flat=True).first()
        return str(text or key)

    # a plan run by itself

    def _run_sheet(self, heard: set[str]) -> None:
        asked = self.row.auto
        if self.auto is None and asked and asked.get("state") == "asked":
            self._begin(asked)
        if self.auto is None:
            return
        if self.row.halt_asked:
            self.row.halt_asked = False
            self.row.save(update_fields=["halt_asked"])
            self._log(self.auto.stop("your stop key"))
        else:
            self._log(self.auto.tick(self.clock(), self._seen(heard)))
        self._report_auto()
        if self.auto.doing.over:
            self.auto = None

    def _begin(self, asked: Mapping[str, Any]) -> None:
        session = bridge.session_of(self.session)
        record = replay(session, self.system.legs)
        try:
            steps = steps_to_run(session.steps, self.row.outlets, record.step)
        except MusterError as error:
            self.row.auto = {**asked, "state": "refused", "why": str(error)}
            self.row.save(update_fields=["auto"])
            return
        self.auto = LadderRun(
            steps=steps,
            loads=bridge.loads_of(self.session.source.job),
            system=self.system,
            stop_at=load(StopAt, asked["stop_at"]),
            pace=load(Pace, asked["pace"]),
            instruments=self._instruments(),
            base=record.on,
        )

    def _instruments(self) -> dict[Channel, str]:
        """For each channel the first instrument of the kit that reads it: the run's readings are from that one alone."""
        result: dict[Channel, str] = {}
        for slug, driver in self.drivers.items():
            for channel in driver.channels:
                if self.kit.instrument_for(channel.measured, slug).measure(channel.measured) is not None:
                    result.setdefault(channel, slug)
        return result

    def _seen(self, heard: set[str]) -> dict[Channel, float] | None:
        owner = self._instruments()
        seen = {
            channel: value
            for slug in heard
            for channel, value in self.recorder.latest[slug].items()
            if owner.get(channel) == slug
        }
        return seen or None

    def _log(self, said: Sequence[Say]) -> None:
        for item in said:
            self._logged = True
            log_items(self.session, item.items, item.raw, self.who, MUSTER)

    def _report_auto(self) -> None:
        assert self.auto is not None
        now = {
            "doing": self.auto.doing.value,
            "step": self.auto.step + 1,
            "of": len(self.auto.steps),
            "why": self.auto.why,
            "state": "over" if self.auto.doing.over else "running",
        }
        if {**(self.row.auto or {}), **now} != self.row.auto:
            self.row.auto = {**(self.row.auto or {}), **now}
            self.row.save(update_fields=["auto"])

    # captures

    def _want_capture(self, why: str) -> None:
        for scope in self.scopes:
            scope.want(self.clock(), why)

    def _look_for_dips(self, heard: set[str]) -> None:
        volts = [
            value
            for slug in heard
            for channel, value in self.recorder.latest[slug].items()
            if channel.quantity == "v" and channel.place in (Place.LEG1, Place.LEG2)
        ]
        if not volts:
            return
        low = min(volts) < DIP_PCT / 100 * self.system.v_nominal
        if low and not self._low:
            self._want_capture("volts fell")
        self._low = low

    def _keep_captures(self) -> None:
        for scope in self.scopes:
            scope.look(self.clock(), self.zero)
            while not scope.captures.empty():
                keep_capture(self.session, scope.captures.get(), self.who)


def _switched_on(row: EntryRow) -> tuple[str, ...]:
    """The loads that an entry switches on."""
    return tuple(item["load"] for item in row.items if item["type"] == "switch" and item["on"])
