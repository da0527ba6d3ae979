"""The assessor's pen: log lines at their times, read back by the grammar that typing goes through."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

from muster.core.loads import Load
from muster.core.sessions import Conditions, Entry, Session, Step, Switch
from muster.core.sessions.log_line import read_line
from muster.core.supply import Leg, System
from muster.formats.jobfile import SafetyCheckRecord, SessionRecord, TraceRecord

from .models import Model, leg_watts


@dataclass
class Pen:
    """Writes log lines and keeps what they were understood to say; knows what is on."""

    loads: tuple[Load, ...]
    model: Model
    t_s: float = 0.0
    on: set[str] = field(default_factory=set)
    entries: list[Entry] = field(default_factory=list)

    @property
    def system(self) -> System:
        """The home's supply."""
        return self.model.system

    def jot(self, line: str, after_s: float = 20.0) -> int:
        """Write a line some seconds later; its number comes back."""
        self.t_s += after_s
        jotting = read_line(line, {load.key: load.name for load in self.loads}, self.system)
        self.entries.append(Entry(len(self.entries) + 1, round(self.t_s, 1), jotting.items, line, who="Ishbel"))
        for item in jotting.items:
            if isinstance(item, Switch):
                (self.on.add if item.on else self.on.discard)(item.load)
        return len(self.entries)

    def correct(self, seq: int, line: str, after_s: float = 10.0) -> None:
        """Supersede a line by another at the same moment."""
        wrong = self.entries[seq - 1]
        self.jot(line, after_s)
        self.entries[-1] = replace(self.entries[-1], t_s=wrong.t_s, supersedes=seq)

    def go_to(self, want: set[str], after_s: float = 20.0) -> None:
        """Switch off what is not wanted and on what is."""
        words = [f"-{key}" for key in sorted(self.on - want)] + [f"+{key}" for key in sorted(want - self.on)]
        if words:
            self.jot(" ".join(words), after_s)

    def read(self, after_s: float, more: str = "") -> int:
        """Read volts and watts of each leg and hertz."""
        rng, model = self.model.rng, self.model
        if self.system.legs == 1:
            w = leg_watts(self.loads, self.on, None, rng)
            line = f"{model.volts(w):.1f}v {w:.0f}w {model.hertz(w):.1f}hz"
        else:
            item, two = (leg_watts(self.loads, self.on, leg, rng) for leg in (Leg.ONE, Leg.TWO))
            line = f"l1 {model.volts(item):.1f}v {item:.0f}w l2 {model.volts(two):.1f}v {two:.0f}w {model.hertz(item + two):.1f}hz"
        return self.jot(f"{line} {more}".strip(), after_s)

    def start(self, load: Load, how: str, after_s: float, meter: str = "multimeter") -> None:
        """Start a load and read its dip; ``how`` is empty, hot or stall."""
        across = load.leg is Leg.BOTH
        nominal = self.system.v_nominal * (2 if across else 1)
        leg = Leg.ONE if across else load.leg
        base_w = leg_watts(self.loads, self.on - {load.key}, leg)
        before = (self.model.no_load_v + self.model.v_per_w * base_w) * (2 if across else 1)
        lowest = self.model.lowest(before, load.start_total_va, nominal)
        amps = load.start_total_va / nominal * lowest / nominal
        place = "" if self.system.legs == 1 else "total" if across else f"l{load.leg.value}"
        settled = self.model.volts(base_w + load.run_w * load.share_on(leg)) * (2 if across else 1)
        after = "" if how == "stall" else f" {settled:.1f}v settled"
        hot = "hot " if how == "hot" else ""
        self.jot(
            f"{hot}{load.name} start {place} @{meter} {before:.1f}v before {lowest:.1f}v min{after} "
            f"@clamp {amps:.1f}a max {'!stall' if how == 'stall' else '!held'}",
            after_s,
        )
        if how != "stall":
            self.on.add(load.key)

    def session(self, protocol: str, steps: tuple[Step, ...], conditions: Conditions) -> Session:
        """The session as it was jotted."""
        return Session(protocol, steps, tuple(self.entries), conditions)


def confirmed(on: str, *slugs: str) -> tuple[SafetyCheckRecord, ...]:
    """Safety checks that Ishbel saw to one morning."""
    return tuple(SafetyCheckRecord(slug, f"{on}T08:{20 + at:02d}:00+00:00", "Ishbel") for at, slug in enumerate(slugs))


def closed(session: Session, started_at: str, traces: tuple[TraceRecord, ...] = ()) -> SessionRecord:
    """A session closed with its last entry."""
    end = datetime.fromisoformat(started_at) + timedelta(seconds=session.entries[-1].t_s)
    return SessionRecord(session, started_at, end.isoformat(), traces=traces)
