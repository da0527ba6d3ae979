"""Steps of earlier plans say in fields what only their labels said."""

from __future__ import annotations

from muster.formats.upgrades import flag_steps, upgraded


def test_labels_that_muster_gave_are_read_once_into_fields() -> None:
    steps = [
        {"label": "sump pump, hot again"},
        {"label": "background, source off"},
        {"label": "7 m, loaded"},
        {"label": "on the mains, run 2"},
        {"label": "25 %"},
        {"label": "hot water on"},
    ]
    flag_steps(steps)
    assert [{k: v for k, v in step.items() if k != "label"} for step in steps] == [
        {"hot": True},
        {"background": True},
        {"distance_m": 7.0},
        {"on_mains": True},
        {},
        {},
    ]


def test_what_says_so_already_is_left_alone() -> None:
    steps = [{"label": "on the mains, run 1", "on_mains": False}]
    flag_steps(steps)
    assert steps == [{"label": "on the mains, run 1", "on_mains": False}]


def test_what_is_no_job_is_left_to_be_refused() -> None:
    for odd in (None, [], {"sources": 3}, {"sources": [{"sessions": [{"session": {"steps": "x"}}]}]}):
        assert upgraded(odd) == odd
