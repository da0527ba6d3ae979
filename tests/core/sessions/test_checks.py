"""The checks on entries: each slip an honest hand makes is flagged, explained, and changes nothing."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from muster.core.kit import USUAL_KIT, Kit
from muster.core.loads import Load, Wave
from muster.core.sessions import Entry, Event, Note, Session
from muster.core.sessions.checks import STANDS, Check, CheckedSession, RecordContext, check_entry, check_session
from muster.core.sessions.log_line import read_line
from muster.core.supply import System

from ..build import SINGLE, SPLIT, load, session

HEATER = load("1", "heater", run_w=1000)
PUMP = load("2", "pump", "motor", run_w=400, pf=0.7)
LOADS = (HEATER, PUMP)


def checks(
    *lines: str | tuple[float, str], system: System = SINGLE, loads: tuple[Load, ...] = LOADS, **bench: object
) -> list[Check]:
    """The checks of these lines, 20 s apart unless timed."""
    timed = [(20.0 * i, line) if isinstance(line, str) else line for i, line in enumerate(lines)]
    around = RecordContext(system, {x.key: x for x in loads}, **bench)  # type: ignore[arg-type]
    return list(check_session(session(timed, loads, system), around))


def kinds(*lines: str | tuple[float, str], **more: object) -> list[tuple[int, str]]:
    return [(check.seq, check.kind) for check in checks(*lines, **more)]  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("lines", "expected"),
    [
        (["3083db"], [(1, "cannot be")]),
        (["@plug 19a"], [(1, "range"), (1, "safe current")]),
        (["@plug 15.9a"], []),
        (["@clamp 72db"], [(1, "instrument")]),
        (["+1", "230v 1.02w"], [(2, "kW as W")]),
        (["+1", "230v 1.02kw"], []),
        (["+1", "230v 4.4a 1010w 1pf"], []),
        (["+1", "230v 5.4a 1010w 1pf"], [(2, "V × A × PF")]),
        (["+1", "230v 3.4a 1010w"], [(2, "V × A × PF")]),
        (["+2", "230v 2.6a 410w"], []),
        (["230v 0.9pf", "230v 1000w 2.2a 0.7pf"], [(2, "V × A × PF")]),
        (["dc 25.6v 40a 1024w"], []),
        (["dc 25.6v 40a 1400w"], [(1, "V × A × PF")]),
        (["0.62kwh", "0.26kwh"], [(2, "energy backwards")]),
        (["0.62kwh", "0.02kwh", "0.03kwh", "0.04kwh"], [(2, "energy backwards")]),
        (["0.62kwh", "0.26kwh", "0.64kwh"], [(2, "energy backwards")]),
        (["+1", "81%", "84%"], [(3, "charge rising")]),
        (["+1", "81%", "82%", "78%"], []),
        (["81%", "84%"], []),
        (["!trip", "230v"], [(2, "after a trip")]),
        (["!trip", "!reset", "230v"], []),
        (["!trip", "0v"], []),
        (["!trip", "dc 51v"], []),
        (["1000w", "900w max"], [(2, "peak")]),
        (["230v", "235v min"], [(2, "peak")]),
        (["230v", "201v min"], []),
        (["118v before 119v min pump start"], [(1, "peak")]),
        (["120v"], [(1, "far from nominal")]),
        (["35hz"], [(1, "range"), (1, "far from nominal")]),
        (["0v"], []),
        (["1000w", "@display 1200w"], [(2, "display against meter")]),
        (["1000w", "@display 1030w"], []),
        (["@display 1200w", "1000w"], [(2, "display against meter")]),
        (["+1", "1000w", "+2", "@display 1420w"], []),
        (["1000w @display 1200w"], [(1, "display against meter")]),
    ],
)
def test_a_slip_is_flagged_and_a_sound_entry_is_not(lines: list[str], expected: list[tuple[int, str]]) -> None:
    assert kinds(*lines) == expected


def test_energy_is_held_against_watts_and_time() -> None:
    right = [(0.0, "+1"), (10.0, "1000w 0wh"), (3610.0, "1000w 1000wh")]
    assert kinds(*right) == []
    wrong = [*right[:2], (3610.0, "1000w 10wh")]
    (check,) = checks(*wrong)
    assert (check.kind, "come to 1\u202f000\u202fWh" in check.what) == ("energy against watts", True)


def test_a_count_that_no_load_could_have_made_flags_itself_and_not_the_right_one_after_it() -> None:
    run = [(0.0, "+1"), (10.0, "0wh"), (3610.0, "980wh"), (7210.0, "9.2kwh"), (10810.0, "2950wh")]
    (check,) = checks(*run)
    assert (check.seq, check.kind) == (4, "energy jump")
    assert "come to 1\u202f100\u202fWh at most" in check.what
    assert kinds(*run[:3], (7210.0, "1.96kwh"), run[4]) == []


def test_a_count_above_the_loads_named_is_no_slip_where_the_watts_say_that_more_is_on() -> None:
    assert kinds((0.0, "+1"), (10.0, "2600w 0wh"), (3610.0, "2600wh")) == []
    assert kinds((0.0, "0wh"), (3600.0, "2600wh")) == [], "nobody said what is on"


def test_a_count_that_holds_more_than_the_loads_draw_is_no_slip() -> None:
    """Idle draw stands in what a battery gives and in what many a display counts; a charger's in what a wall gives."""
    router = (load("r", "router", run_w=12),)
    for by in ("dc ", "@display ", ""):
        assert kinds((0.0, "+r"), (10.0, f"{by}0wh"), (36010.0, f"{by}900wh"), loads=router) == []
    assert kinds((0.0, "+2"), (10.0, "0wh"), (36010.0, "9kwh"), can_charge=True) == []


def test_a_hybrid_or_a_recharge_may_gain_charge() -> None:
    assert kinds("+1", "81%", "84%", can_charge=True) == []


def test_a_clock_time_before_what_was_jotted_is_asked_about() -> None:
    assert kinds((600.0, "230v"), (120.0, "14:02: 231v")) == [(2, "time backwards")]
    assert kinds((600.0, "230v"), (120.0, "8m ago: 231v")) == []


def test_an_average_responding_meter_on_a_stepped_wave_is_named() -> None:
    cheap = replace(USUAL_KIT[1], true_rms=False)
    stepped = Kit((cheap,), Wave.STEPPED)
    assert kinds("@plug 230v", kit=stepped) == [(1, "wave")]
    assert kinds("@plug 230v", kit=Kit((cheap,), Wave.SINE)) == []


def test_on_two_legs_kilowatts_are_held_against_the_leg_they_were_read_on() -> None:
    both = load("3", "oven", run_w=2000, leg="both")
    lines = ["+3", "l1 120v 1.01w"]
    assert kinds(*lines, system=SPLIT, loads=(both,)) == [(2, "kW as W")]
    assert kinds("+3", "l1 120v 1010w", system=SPLIT, loads=(both,)) == []


def test_a_flag_that_somebody_confirmed_stays_with_who_said_so() -> None:
    (check,) = checks("!trip", "230v", "!stands 2")
    assert check.confirmed == "someone"


def test_an_entry_undone_or_superseded_is_no_longer_flagged() -> None:
    whole = session([(0.0, "0.62kwh"), (20.0, "0.26kwh")], LOADS, SINGLE)
    bench = RecordContext(SINGLE, {x.key: x for x in LOADS})
    better = Entry(3, 20.0, session([(0.0, "0.66kwh")], LOADS, SINGLE).entries[0].items, "0.66kwh", supersedes=2)
    assert len(check_session(whole, bench)) == 1
    assert check_session(replace(whole, entries=(*whole.entries, better)), bench) == ()


WORDS = st.lists(
    st.sampled_from(
        [
            "230v",
            "1000w",
            "1.2w",
            "0.5kwh",
            "20wh",
            "81%",
            "90%",
            "+1",
            "-1",
            "+2",
            "!trip",
            "!reset",
            "@display",
            "@plug",
            "4.4a",
            "99a",
            "0.7pf",
            "50hz",
            "72db@7m",
            "max",
            "min",
            "5m ago:",
            "14:05:",
            "pump start",
            "fuel 2l",
            "!stands 1",
        ]
    ),
    min_size=1,
    max_size=6,
).map(" ".join)


@given(st.lists(WORDS, min_size=1, max_size=12), st.sampled_from([SINGLE, SPLIT]))
def test_checks_never_fail_and_an_entry_is_flagged_alike_before_and_after_it_is_kept(
    lines: list[str], system: System
) -> None:
    """What is said beside the line before Enter is what stands beside the entry after it."""
    timed = [(20.0 * i, line) for i, line in enumerate(lines)]
    whole = session(timed, LOADS, system)
    bench = RecordContext(system, {x.key: x for x in LOADS})
    last = whole.entries[-1]
    before = check_entry(replace(whole, entries=whole.entries[:-1]), last, bench)
    after = tuple(check for check in check_session(whole, bench) if check.seq == last.seq)
    assert before == after
    assert all(check.what and check.do for check in after)


def test_a_note_is_never_flagged() -> None:
    whole = session([(0.0, "x")], LOADS, SINGLE)
    assert isinstance(whole.entries[0].items[0], Note)
    assert check_session(whole, RecordContext(SINGLE, {})) == ()


@given(st.lists(st.sampled_from(["231v 4.3a 990w", "0.99w", "+1", "-1", "went off", "12kw", "0.4kwh", "0.2kwh", "80%", "", "confirm"]), max_size=14))  # fmt: skip
def test_a_session_checked_as_it_goes_on_is_flagged_as_the_whole_of_it(lines: list[str]) -> None:
    """An empty line undoes the one before it; ``confirm`` says that the first is right."""
    bench = RecordContext(SINGLE, {x.key: x for x in LOADS}, most_w=3000.0)
    names = {x.key: x.name for x in LOADS}
    entries: list[Entry] = []
    going = CheckedSession(bench)
    for seq, line in enumerate(lines, 1):
        items = (Event(STANDS, "1"),) if line == "confirm" else read_line(line, names, SINGLE).items if line else ()
        entries.append(Entry(seq, 60.0 * seq, items, line, None if line or seq < 2 else seq - 1))
        session = Session("ladder", (), tuple(entries))
        if line and line != "confirm" and going.entries:
            told = check_entry(Session("ladder", (), tuple(entries[:-1])), entries[-1], bench)
            assert going.before(entries[-1]) == told, "what is about to be jotted is flagged as it will be"
        if not going.goes_on(session, bench):
            going = CheckedSession(bench, session.voided)
        assert going.check(session) == check_session(session, bench)
