"""Run every benchmark and write docs/benchmarks.md: ``python -m benchmarks``."""

from __future__ import annotations

import os
import platform
import tempfile
from datetime import UTC, datetime
from pathlib import Path

TARGET = Path(__file__).parent.parent / "docs/benchmarks.md"
INTRO = """# Benchmarks

Made by `make bench` on {date}: {cores} cores of {machine}, Python {python}. Times on a shared machine drift; the ratio,
ours against the plain way in the same run, is what counts. A ratio of a whole page to its figures alone is below 1 by nature.

"""


def main() -> None:
    """Run, print and write."""
    with tempfile.TemporaryDirectory() as folder:
        os.environ |= {"MUSTER_DATA": folder, "DJANGO_SETTINGS_MODULE": "muster.web.settings"}
        import django

        django.setup()
        from django.conf import settings
        from django.core.management import call_command

        settings.ALLOWED_HOSTS.append("testserver")
        call_command("migrate", verbosity=0)
        text = INTRO.format(
            date=datetime.now(UTC).date(),
            cores=os.cpu_count(),
            machine=platform.machine(),
            python=platform.python_version(),
        )
        text += _rows(Path(folder)) + "\n"
    TARGET.write_text(text, encoding="utf-8")
    print(text)


def _rows(folder: Path) -> str:
    from muster.core.brief import Brief
    from muster.core.safety.checks import KNOWN
    from muster.core.sessions import Conditions
    from muster.core.sources import Claims, Source, SourceKind
    from muster.records.actions import jobs, sessions, sources
    from muster.records.actions.people import local_account

    from . import bench, commands, compare, findings, live, logs, pages, paint, plan, starts, traces
    from . import outage as day
    from .measuring import table, yardstick

    who = local_account()
    job = jobs.create_job("Bench", Brief(), who)
    source = sources.add_source(job, Source("the set", SourceKind.HYBRID, Claims(5000)), who)
    session = sessions.start_session(source, "endurance", Conditions(), who, confirmed=KNOWN)
    other = jobs.create_job("Long roll", Brief(), who)
    text = [yardstick(), *day.rows(), *plan.rows()]
    beside = sources.add_source(job, Source("the live set", SourceKind.HYBRID, Claims(5000)), who)
    text += live.rows(sessions.start_session(beside, "endurance", Conditions(), who, confirmed=KNOWN))
    text += bench.rows(session)
    text += logs.rows(session, folder)
    text += traces.rows(session)
    long_trace = session.trace_rows.get(name="four days").pk
    analysed = sources.add_source(job, Source("the day", SourceKind.HYBRID, Claims(5000)), who)
    text += findings.rows(sessions.start_session(analysed, "endurance", Conditions(), who, confirmed=KNOWN))
    text += pages.rows(other, session, long_trace)
    text += paint.rows(session, folder)
    text += compare.rows()
    text += commands.rows()
    text += starts.rows()
    return table(text)


if __name__ == "__main__":
    main()
