"""An outage played through on a source, beside the requests: a first picture at once, the whole of it following."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from muster.core.brief import Brief, Home
from muster.core.character import Character
from muster.core.loads import Load, Tier
from muster.core.outage.demand import SEED
from muster.core.outage.household import HouseholdRule, RuledHome, with_rules
from muster.core.outage.played import DRAWS, FIRST_DRAWS, OutagePlayed, played_key
from muster.core.outage.rules import Rules
from muster.core.verdict import Verdict
from muster.core.verdict.by_chance import LEAST_DRAWS
from muster.core.verdict.inputs import VerdictInputs
from muster.formats.codec import dump, load

from . import background, bridge
from .judging import character_now, judge_and_keep, keep_result, kept_already, kept_result, verdict_inputs
from .models import SourceRow


def played_on(
    source: SourceRow,
    scope: Tier,
    waits: background.Waiting,
    brief: Brief | None = None,
    rules: tuple[HouseholdRule, ...] | None = None,
) -> tuple[OutagePlayed | None, Character | None]:
    """The outage as it is played on a source: the most that is ready, while the rest is being played.

    Parameters
    ----------
    source
        The row.
    scope
        Loads of this tier and above.
    waits
        Filled with what is still being worked out.
    brief, rules
        Another day than the job's, and what the household does; the job's brief and its accepted rules where not given.

    Returns
    -------
    tuple
        What was played, of 2,000 draws or of the first 200, and the character that it was played on; None while neither is there.
    """
    home, character = bridge.home_of(source.job), None
    with background.filling(waits):
        character = character_now(source)
    if character is None:
        return None, None
    ruled = ruled_home(home, scope, bridge.rules_of(source) if rules is None else rules, brief)
    return most_played(ruled, character, waits), character


def ruled_home(home: Home, scope: Tier, rules: tuple[HouseholdRule, ...] = (), brief: Brief | None = None) -> RuledHome:
    """The loads of a tier and above, with rules of the household, on the job's day or another."""
    return with_rules(home.within(scope), brief or home.brief, rules)


def most_played(ruled: RuledHome, character: Character, waits: background.Waiting) -> OutagePlayed | None:
    """The most of an outage that is ready, the first draws or all, while the rest is being played."""
    whole = first = None
    with background.filling(waits):
        first = played_of(ruled, character, FIRST_DRAWS)
    if first is not None and background.has_workers():  # nobody is kept waiting for the whole of it
        with background.filling(waits):
            whole = played_of(ruled, character, DRAWS)
    return whole or first


def case_of(
    source: SourceRow,
    scope: Tier = Tier.MUST,
    waits: background.Waiting | None = None,
    rules: tuple[HouseholdRule, ...] | None = None,
) -> VerdictInputs:
    """All that the verdict on a source is judged on, with the outage as it was played through.

    Parameters
    ----------
    source
        The row.
    scope
        Loads of this tier and above.
    waits
        Filled with what is being played, where somebody waits for it; None where only what was played before counts.
    rules
        What the household does, where that is other than was accepted.

    Returns
    -------
    VerdictInputs
        Without an outage, so that margins decide, while it is being played; with the rules that were accepted.

    Raises
    ------
    NotReady
        If the demand, or what a log or capture shows, is being worked out.
    """
    return _played(verdict_inputs(source, scope, rules), waits)


def _played(case: VerdictInputs, waits: background.Waiting | None) -> VerdictInputs:
    """A case with its outage played, and that of the home without rules."""
    if case.without is not None:
        case = replace(case, without=_played(case.without, waits))
    if not case.home.loads:
        return case
    ruled = RuledHome(case.home.loads, case.home.brief, case.kernel_rules, case.rules)
    if waits is None or not background.has_workers():
        return replace(case, played=kept_already(OutagePlayed, _asked(ruled, case.character, DRAWS)))
    played = most_played(ruled, case.character, waits)
    return replace(case, played=played if played is not None and played.draws >= LEAST_DRAWS else None)


def verdict_on(source: SourceRow, scope: Tier = Tier.MUST) -> Verdict:
    """The verdict on a source for the loads of a tier and above, by chance where the outage was played before."""
    return judge_and_keep(source, case_of(source, scope), scope)


def _asked(ruled: RuledHome, character: Character, draws: int) -> dict[str, Any]:
    loads = [dump(item) for item in ruled.loads]
    return played_key(loads, dump(ruled.brief), dump(character), dump(ruled.rules), draws, SEED)


def played_of(ruled: RuledHome, character: Character, draws: int) -> OutagePlayed:
    """So many outages of a home with its rules on a character, from the keep or worked out.

    Raises
    ------
    NotReady
        If it is being played.
    """
    asked = _asked(ruled, character, draws)
    label = "playing the first outages" if draws == FIRST_DRAWS else f"playing {draws} outages"
    return kept_result(OutagePlayed, asked, "outage", {"asked": asked}, label)


@background.task("outage")
def _play(args: dict[str, Any], progress: background.WorkProgress) -> None:
    """Play it; the compiled kernel and the almanac are loaded where they are used alone."""
    from muster.core.outage.play import play_outage, ready

    asked = args["asked"]
    _, draws, seed = asked["of"]
    loads = [load(Load, item) for item in asked["loads"]]
    play = ready(
        loads, load(Brief, asked["brief"]), load(Character, asked["character"]), load(Rules, asked["rules"]), seed
    )
    keep_result(args["digest"], play_outage(play, draws, progress.at))
