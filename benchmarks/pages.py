"""Pages on the server's side: a long table, the strip, the bench; against the same figures put in cell by cell."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from itertools import cycle

from django.template import Context, Engine
from django.test import Client
from django.urls import reverse

from muster.core.safety.checks import KNOWN
from muster.core.sessions import Conditions
from muster.core.sessions.log_line import read_line
from muster.core.supply import SYSTEMS
from muster.records.actions import loads as roll
from muster.records.actions import sessions
from muster.records.actions.people import local_account
from muster.records.models import EntryRow, Job, SessionRow

from .measuring import Row, ms, seconds

CELLS = Engine().from_string(
    "{% for row in rows %}<tr>{% for x in row %}<td>{{ x|floatformat:2 }}</td>{% endfor %}</tr>{% endfor %}"
)
AIM_S = 0.025


def rows(job: Job, session: SessionRow, long_trace: int) -> list[Row]:
    """Median server time of whole pages."""
    client, who = Client(), local_account()
    for i in range(200):
        roll.add_line(job, f"heater {i} {100 + i}w", who)
    table = [[i * 1.1 + j for j in range(8)] for i in range(200)]
    cells_s = seconds(lambda: CELLS.render(Context({"rows": table})))
    rows_found = []
    for words, url in (
        ("page: roll of 200 loads, each drawn, with 24 hours to paint", reverse("loads", args=[job.pk])),
        ("page: history of 200 changes", reverse("history", args=[job.pk])),
        (
            "page: strip of 96 h x 12, with its still drawing",
            reverse("strip", args=[session.source.job_id, session.pk]) + f"?trace={long_trace}",
        ),
    ):
        took_s = seconds(lambda url=url: client.get(url))
        rows_found.append(
            Row(
                words,
                "its 1,600 figures alone, floatformat a cell",
                ms(cells_s),
                ms(took_s),
                cells_s / took_s,
                "< 25 ms",
                took_s < AIM_S,
            )
        )
    rows_found += _flat(client, session)
    names = {str(i): f"load {i}" for i in range(20)}
    line_s = seconds(
        lambda: read_line(
            "l1 118v before 107v min 117v settled load 7 start @clamp 31a max", names, SYSTEMS["split-120-240-60"]
        )
    )
    rows_found.append(Row("understand a log line", "–", "–", ms(line_s), None, "unseen, < 10 ms", line_s < 0.01))
    return rows_found


FEW, SOME, MANY = 30, 300, 3000


def _flat(client: Client, session: SessionRow) -> list[Row]:
    """A line logged, and the bench again, on a record of few, some and many entries."""
    took_s = {count: seconds(_logs(client, session, count)) for count in (FEW, SOME, MANY)}
    flat = took_s[MANY] / took_s[FEW]
    told_s = {count: seconds(_tells(client, session, count)) for count in (FEW, MANY)}
    line = "a line logged, and the bench again: a record of"
    return [
        Row(f"{line} {SOME} entries", "–", "–", ms(took_s[SOME]), None, "< 30 ms", took_s[SOME] < 0.03),
        Row(f"{line} {MANY:,}", f"of {FEW}", ms(took_s[FEW]), ms(took_s[MANY]), 1 / flat, "≤ 1.5 ×", flat <= 1.5),
        Row(
            f"what a line is understood as, as it is typed: a record of {MANY:,}",
            f"of {FEW}",
            ms(told_s[FEW]),
            ms(told_s[MANY]),
            told_s[FEW] / told_s[MANY],
            "≤ 1.5 ×",
            told_s[MANY] <= 1.5 * told_s[FEW],
        ),
    ]


def _tells(client: Client, session: SessionRow, count: int) -> Callable[[], object]:
    """Says what a line would be understood as, and what it would raise, on a record of so many entries."""
    url = reverse("session-understood", args=[session.source.job_id, filled(session, count).pk])
    return lambda: client.get(url, {"line": "l1 118v 930w"}, headers={"HX-Request": "true"})


def filled(session: SessionRow, count: int) -> SessionRow:
    """A session beside another, with so many entries of readings."""
    bench = sessions.start_session(session.source, "idle", Conditions(), local_account(), confirmed=KNOWN)
    sessions.log_line(bench, "l1 118v 500w l2 119v 600w 60.0hz", local_account())
    first = bench.entry_rows.get(seq=2)
    EntryRow.objects.bulk_create(
        EntryRow(
            session=bench,
            seq=first.seq + i,
            at=first.at + timedelta(microseconds=i),
            raw=first.raw,
            items=first.items,
            by=first.by,
            who=first.who,
            logged_at=first.logged_at,
        )
        for i in range(1, count)
    )
    return bench


def _logs(client: Client, session: SessionRow, count: int) -> Callable[[], object]:
    """Logs one line more on a record of so many entries, in which a load came and went."""
    bench = filled(session, count)
    url = reverse("session-line", args=[session.source.job_id, bench.pk])
    lines = cycle(("l1 118v 900w", "l1 120v 100w", "l1 119v 500w l2 117v 900w 59.8hz"))
    return lambda: client.post(url, {"line": next(lines)}, headers={"HX-Request": "true"})
