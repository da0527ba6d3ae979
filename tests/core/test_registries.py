"""One table for each kind of thing: a forgotten or false entry is found here."""

from __future__ import annotations

import pytest

from muster.core.brief import Brief
from muster.core.findings.collect import SessionFindings
from muster.core.findings.drawn import Drawn
from muster.core.findings.finding import TOPICS, Topic, topics_of
from muster.core.findings.makers import MAKERS
from muster.core.kit import QUANTITIES
from muster.core.plan.protocols import PLANNERS
from muster.core.sessions import PROTOCOLS, Protocol
from muster.core.sessions.clipboard import boxes_of
from muster.core.supply import SYSTEMS
from muster.core.verdict.rows import ROWS, RequirementRow, row_of
from tests.core.build import case, load, set_of


def test_every_kind_of_finding_has_one_maker_and_every_maker_its_place() -> None:
    places = {name for name, field in vars(SessionFindings).items() if isinstance(field, Drawn)}
    names = [maker.name for maker in MAKERS]
    assert len(set(names)) == len(names)
    assert set(names) == places


def test_every_maker_makes_of_some_session() -> None:
    assert [maker.name for maker in MAKERS if not (maker.of_the_source or maker.of_other_sessions)] == []


@pytest.mark.parametrize("topic", list(Topic))
def test_every_topic_says_what_it_answers_and_is_answered_by_a_protocol(topic: Topic) -> None:
    assert TOPICS[topic].heading
    assert topic.protocol in PROTOCOLS
    assert topic in topics_of(topic.protocol)


@pytest.mark.parametrize("row", ROWS, ids=lambda row: row.key)
def test_every_row_of_a_verdict_is_whole(row: RequirementRow) -> None:
    assert row.label
    assert row.falls_short
    assert set(row.settled_by) | set(row.legs_by) <= set(PROTOCOLS)
    assert row_of(row.key) is row


def test_rows_have_keys_of_their_own_and_judges_keep_to_them() -> None:
    keys = [row.key for row in ROWS]
    assert len(set(keys)) == len(keys)
    judged = case((load(),), set_of(3000), Brief())
    for row in ROWS:
        lines = row.judged(judged)
        assert lines
        assert {row_of(line.key).key for line in lines} == {row.key}
        assert all(line.label for line in lines)


def test_a_key_that_no_row_has_is_refused() -> None:
    with pytest.raises(KeyError):
        row_of("luck")


@pytest.mark.parametrize("protocol", PROTOCOLS.values(), ids=PROTOCOLS)
def test_every_protocol_is_whole_planned_and_reads_what_instruments_know(protocol: Protocol) -> None:
    assert protocol.slug in PLANNERS
    assert protocol.minutes > 0
    assert protocol.reads or protocol.by_hand
    assert set(protocol.reads) <= set(QUANTITIES)
    assert protocol.people in (1, 2)
    for box in (*protocol.boxes, *boxes_of(protocol.slug, SYSTEMS["split-120-240-60"])):
        assert box.label
        assert box.quantity in QUANTITIES


def test_no_steps_are_planned_for_what_is_no_protocol() -> None:
    assert set(PLANNERS) == set(PROTOCOLS)
