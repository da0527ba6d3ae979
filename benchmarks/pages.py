"""Pages on the server's side: a long table, the strip, the bench; against the same figures put in cell by cell."""

from __future__ import annotations

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
from muster.records.models import Job, SessionRow

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
    bench = sessions.start_session(session.source, "idle", Conditions(), who, confirmed=KNOWN)
    for i in range(300):
        sessions.log_line(bench, f"l1 {118 + i % 5}v {500 + i}w l2 119v 600w 60.0hz", who)
    url = reverse("session-line", args=[session.source.job_id, bench.pk])
    took_s = seconds(lambda: client.post(url, {"line": "l1 118v 900w"}, headers={"HX-Request": "true"}))
    rows_found.append(
        Row(
            "a line logged on a bench of 300 entries, and the bench again",
            "–",
            "–",
            ms(took_s),
            None,
            "< 250 ms",
            took_s < 0.25,
        )
    )
    names = {str(i): f"load {i}" for i in range(20)}
    line_s = seconds(
        lambda: read_line(
            "l1 118v before 107v min 117v settled load 7 start @clamp 31a max", names, SYSTEMS["split-120-240-60"]
        )
    )
    rows_found.append(Row("understand a log line", "–", "–", ms(line_s), None, "unseen, < 10 ms", line_s < 0.01))
    return rows_found
