"""The search for household rules, done by a worker: asked for from a page, kept by all that it hangs on."""

from __future__ import annotations

from typing import Any

from muster.core.loads import Tier
from muster.core.outage.candidates import SourceFits, charging_w
from muster.core.outage.demand import SEED
from muster.core.outage.household import RuledHome
from muster.core.outage.played import DRAWS, FIRST_DRAWS, OutagePlayed
from muster.core.verdict.inputs import VerdictInputs
from muster.core.verdict.rule_search import RulesFound, Searching, search_rules
from muster.formats.codec import dump

from . import background
from .judging import demand_of, digest_of, keep_result, kept_already, kept_result, verdict_inputs
from .models import SourceRow
from .playing import played_of

SEARCH_METHOD = 2
"""Raised when the search changes, so that kept results are made again."""


def fits_of(case: VerdictInputs) -> SourceFits:
    """What of a source decides which rules fit it."""
    kind = case.source.kind
    return SourceFits(battery=kind.has_battery, tank=kind.has_engine, charge_w=charging_w(case.source, case.character))


def _asked(case: VerdictInputs, scope: Tier) -> dict[str, Any]:
    loads = [dump(item) for item in case.home.loads]
    return {
        "loads": loads,
        "brief": dump(case.home.brief),
        "character": dump(case.character),
        "passed": sorted(case.passed),
        "of": ["rules", SEARCH_METHOD, DRAWS, SEED, scope.value],
    }


def rules_found(source: SourceRow, scope: Tier) -> tuple[RulesFound | None, background.Waiting]:
    """What a search found for the source as it is now, None where none was asked for; and the search that goes on."""
    with background.filling():  # what it would start from is still being worked out: no search was made of that
        asked = _asked(verdict_inputs(source, scope, ()), scope)
        proposal = kept_already(RulesFound, asked)
        going = [] if proposal is not None else background.asked_for(digest_of(asked))
        return proposal, background.Waiting(going)
    return None, background.Waiting()


def ask_for_rules(source: SourceRow, scope: Tier) -> RulesFound:
    """Search the rules for a source, or find what was searched.

    Raises
    ------
    NotReady
        If it is being searched.
    """
    asked = _asked(verdict_inputs(source, scope, ()), scope)
    args = {"source": source.pk, "scope": scope.value}
    return kept_result(RulesFound, asked, "rules", args, "searching the household's rules")


@background.task("rules")
def _search(args: dict[str, Any], progress: background.WorkProgress) -> None:
    """Search them; the compiled kernels are loaded where they are used alone."""
    from muster.core.outage.play import play_with_doubt, ready
    from muster.core.outage.simulate import draws_of

    source, scope = SourceRow.objects.select_related("job").get(pk=args["source"]), Tier(args["scope"])
    case = verdict_inputs(source, scope, ())

    def glance(home: RuledHome) -> OutagePlayed:
        return play_with_doubt(ready(home.loads, home.brief, case.character, home.rules, SEED), FIRST_DRAWS)

    def play(home: RuledHome) -> OutagePlayed:
        return played_of(home, case.character, DRAWS)

    searching = Searching(case=case, demand_of=demand_of, glance_demand=draws_of(FIRST_DRAWS), glance=glance, play=play)
    proposal = search_rules(searching, fits_of(case), progress.at)
    keep_result(args["digest"], proposal)
