"""The page that sets sources side by side: shown, hidden, sorted, pinned, downloaded; units alone by what was measured."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest
from django.contrib.auth.models import AbstractUser
from django.test import Client
from django.urls import reverse

from muster.core.character import Given, given_of
from muster.core.findings import findings_of
from muster.core.findings.lines import LoadLine
from muster.core.loads import Tier
from muster.core.quantities import plain
from muster.core.sessions import Entry, Session
from muster.core.sessions.log_line import read_line
from muster.core.sources import Claims, FaultCode, Owning, Site, Source, SourceKind
from muster.formats.codec import dump
from muster.records import bridge
from muster.records.actions import sources
from muster.records.background import Waiting
from muster.records.models import Job, SourceRow
from muster.web.compare.drawings import conversion_curves, volts_curves
from muster.web.compare.views import first_cases
from tests.core.build import SINGLE

pytestmark = pytest.mark.django_db


@pytest.fixture
def second(demo: Job, who: AbstractUser) -> SourceRow:
    claims = Claims(cont_w=9000, surge_w=12000, per_leg_w=4500, noise_dba_7m=60)
    owning = Owning(price=1800, weight_kg=88, codes=(FaultCode("F7", "leg over its rating"),))
    return sources.add_source(demo, Source("the large set", SourceKind.OPEN_FRAME, claims, owning=owning), who)


def page(client: Client, job: Job, **asked: object) -> str:
    return client.get(reverse("compare", args=[job.pk]), asked).content.decode()


def columns(text: str) -> list[str]:
    return re.findall(r'<span class="letter">(\w)</span> <a', text)


def test_one_source_alone_is_told_what_the_page_wants(client: Client, demo: Job) -> None:
    assert "It wants two of them" in page(client, demo)


def test_two_sources_stand_on_one_scale_with_what_each_asks(client: Client, demo: Job, second: SourceRow) -> None:
    text = page(client, demo)
    assert columns(text) == ["A", "B"]
    assert "None of them is enough" in text
    assert "Steady, whole source" in text
    assert "1,800" in text or "1800" in text or "1\u202f800" in text
    assert "What goes wrong most often" in text
    assert "F7 leg over its rating" in text
    assert text.count('class="markbox') > 6


def test_what_is_pinned_comes_first_and_what_is_hidden_does_not_come(
    client: Client, demo: Job, second: SourceRow
) -> None:
    assert columns(page(client, demo, pin=second.pk)) == ["B", "A"]
    assert columns(page(client, demo, sort="price")) == ["B", "A"], "what has no price stands last"
    assert columns(page(client, demo, show=second.pk)) == ["A"]
    assert columns(page(client, demo, sort="nonsense", scope="nonsense")) == ["A", "B"]


def test_the_table_is_downloaded(client: Client, demo: Job, second: SourceRow) -> None:
    text = client.get(reverse("compare-csv", args=[demo.pk])).content.decode()
    assert text.startswith("line,source,status,")
    assert "the large set" in text


def test_units_without_a_home_stand_side_by_side_by_what_was_measured(
    client: Client, demo: Job, second: SourceRow
) -> None:
    brief = replace(bridge.brief_of(demo), of_units=True)
    Job.objects.filter(pk=demo.pk).update(brief=dump(brief))
    text = page(client, demo)
    assert "As measured" in text
    assert "No-load volts" in text
    assert "Price, as said" in text
    assert "F7 leg over its rating" in text
    assert "Verdict" not in text.split("<main", 1)[1]
    table = client.get(reverse("compare-csv", args=[demo.pk])).content.decode()
    assert table.startswith("parameter,unit,measured")


def test_volts_of_several_sources_lie_within_what_motors_tolerate() -> None:
    def fell(*lines: str) -> LoadLine:
        entries = tuple(
            Entry(at, 60.0 * at, read_line(line, {}, SINGLE).items, line) for at, line in enumerate(lines, 1)
        )
        return findings_of(Session("ladder", (), entries), {}, SINGLE, 20.0).regulation[0]

    stiff, soft = fell("0w 230v", "500w 228v", "1000w 226v"), fell("0w 231v", "500w 226v", "1000w 221v")
    drawn = volts_curves([("A", stiff), ("B", soft)])
    assert drawn is not None
    assert [line.letter for line in drawn.lines] == ["A", "B"]
    low_y, high_y = drawn.window
    assert all(high_y < y < low_y for line in drawn.lines for _, y in line.points)
    assert drawn.y_label == "V"
    assert [said.count(";") for _, said in drawn.twin] == [2, 2], "each reading stands in the twin"
    assert volts_curves([("A", stiff)]) is None


def test_what_reaches_the_load_is_drawn_for_each_that_was_read_on_both_sides() -> None:
    def typed(*lines: str) -> Given:
        entries = tuple(
            Entry(at, 60.0 * at, read_line(line, {}, SINGLE).items, line) for at, line in enumerate(lines, 1)
        )
        seen = findings_of(Session("idle", (), entries), {}, SINGLE, 20.0)
        return given_of(Source("box", SourceKind.INVERTER, Claims(2000)), SINGLE, Site(), [seen])

    good = typed("0w dc 26v 0.4a", "520w dc 26v 22a", "1000w dc 25.5v 43a", "1500w dc 25v 66a")
    poor = typed("0w dc 26v 1.2a", "500w dc 26v 24a", "1000w dc 25.5v 48a", "1400w dc 25v 72a")
    drawn = conversion_curves([good, poor], [1, 0])
    assert drawn is not None
    assert [line.letter for line in drawn.lines] == ["B", "A"]
    upper = max(drawn.lines, key=lambda line: -line.label_y)
    assert upper.letter == "A", "what wastes less lies higher"
    assert f"{plain(520.0, 'w')}: {plain(100 * 520 / (26 * 22), 'pct')}" in dict(drawn.twin)["A"]
    assert conversion_curves([good], [0]) is None


def test_test_loads_alone_ask_nothing_of_a_source(client: Client, demo: Job, second: SourceRow) -> None:
    demo.load_rows.update(tier="test")
    text = page(client, demo)
    assert "list its loads" in text
    assert "not proven" not in text
    assert client.get(reverse("compare-csv", args=[demo.pk])).status_code == 404
    assert "None of them is enough" not in client.get(reverse("verdict", args=[demo.pk])).content.decode()


def test_a_look_that_takes_long_shows_the_first_source_and_leaves_the_others_to_the_next(
    demo: Job, second: SourceRow
) -> None:
    rows = list(demo.source_rows.order_by("pk"))
    ready, cases, later = first_cases(rows, Tier.MUST, Waiting(), -1.0)
    assert (ready, later) == (rows[:1], rows[1:])
    assert [case.source.name for case in cases] == [rows[0].name]
    assert first_cases(rows, Tier.MUST, Waiting())[2] == [], "all at once where nothing works beside the requests"
