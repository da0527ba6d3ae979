"""The lines that are judged by chance: by how many of the outages that were played through they fail in."""

from __future__ import annotations

from dataclasses import replace

from ..outage.played import Chance, RowChance, Spread
from ..quantities import THIN, number, worst_grade
from ..sessions import PROTOCOLS
from ..working import Working
from .inputs import VerdictInputs
from .requirement import Evidence, Requirement, Status

RARE, UNLIKELY = 0.01, 0.05
"""A line fails in no more than this share of the outages, or it falls short; and with doubt in no more than that, or it is open."""
BEFORE_BED = "fill the tank before bed, cooled down first"
MUCH = 0.1
"""An unknown that makes less of the doubt than this is not named. Ours."""
TOGETHER = "+"
"""Between the keys of two loads that start at one moment."""
LEAST_DRAWS = 1000
"""Fewer outages cannot show that one in a hundred is not reached. Ours."""


def status_by_chance(chance: RowChance, evidence: Evidence) -> Status:
    """The status of a line by how often it fails: the first rule that applies (docs/method/verdict.md#by-chance).

    Parameters
    ----------
    chance
        In how many of the outages it fails, with doubt and as stated.
    evidence
        What its capability rests on.

    Returns
    -------
    Status
        1 the deciding reading missing or a bound that flatters: not proven; 2 the lower end and the share as stated both
        above 1 %: falls short, at any grade; 3 at grade C or D: not proven; 4 the upper end at most 1 %: carries;
        5 as stated at most 1 %, upper end at most 5 %: tight; 6 otherwise doubt decides: not proven.

    References
    ----------
    physics §12.
    """
    if evidence.missing or evidence.flatters:
        return Status.NOT_PROVEN
    low, high = chance.failed.ends
    if low > RARE and chance.stated.share > RARE:
        return Status.FALLS_SHORT
    grade = evidence.grade
    if grade is not None and chance.leans and chance.leans_grade is not None:
        grade = worst_grade(grade, chance.leans_grade)
    if grade is None or not grade.is_measured:
        return Status.NOT_PROVEN
    if high <= RARE:
        return Status.WITH_RULES if evidence.with_rules or chance.stops > RARE else Status.CARRIES
    return Status.TIGHT if chance.stated.share <= RARE and high <= UNLIKELY else Status.NOT_PROVEN


def by_chance(row: Requirement, case: VerdictInputs) -> Requirement:
    """A line as the outages that were played decide it; itself where none were, or nothing was played of it.

    Parameters
    ----------
    row
        As its margin judges it, with the evidence that it rests on.
    case
        What is judged on.

    Returns
    -------
    Requirement
        With its chance, the sentence that tells it, and what makes most of the doubt where doubt decides.
    """
    chance = chance_of(row, case) if row.chance is None else None
    if chance is None or row.evidence is None or not row.must:
        return row
    status = status_by_chance(chance, row.evidence)
    rules = (*row.rules, *((BEFORE_BED,) if chance.stops > RARE else ()))
    if chance.disturbed > RARE and status is not Status.FALLS_SHORT:
        # What was taken down by something else shows nothing: its margin stands, and the rules that it needs.
        return replace(
            row, rules=rules, status=Status.WITH_RULES if rules and row.status is Status.CARRIES else row.status
        )
    top = next((spread for spread in chance.spreads if spread.settled_by and spread.share >= MUCH), None)
    open_by_doubt = status is Status.NOT_PROVEN and row.evidence.grade is not None and row.evidence.grade.is_measured
    return replace(
        row,
        status=status,
        chance=chance,
        rules=rules,
        sentence=f"{row.sentence} {told(chance, status, top if open_by_doubt else None)}",
        settle_by=_protocol(top) if open_by_doubt and top is not None else row.settle_by,
        workings=(*row.workings, _working(chance)),
    )


def chance_of(row: Requirement, case: VerdictInputs) -> RowChance | None:
    """What was played of a line; None before enough outages were."""
    played = case.played
    if played is None or played.draws < LEAST_DRAWS:
        return None
    key = row.chance_key or row.key
    never = RowChance(failed=Chance(0, played.draws), stated=Chance(0, played.draws)) if TOGETHER in key else None
    return played.rows.get(key, never)  # of two loads only what befell is kept


def told(chance: RowChance, status: Status, top: Spread | None) -> str:
    """How often it fails, in a sentence."""
    low, high = chance.failed.ends
    outages = f"{number(chance.failed.draws)} outages played"
    if chance.failed.hits:
        said = f"Of {outages} {_pct(chance.failed.share)} fail ({_pct(low)} to {_pct(high)})"
        if chance.stated.hits != chance.failed.hits:
            said += f", with every figure as it is stated {_pct(chance.stated.share)}"
    else:
        said = f"Of {outages} none fails (at most {_pct(high)})"
    said += "."
    if chance.stops > RARE and status is Status.WITH_RULES:
        said += f" In {_pct(chance.stops)} of them the tank runs dry while nobody fills it."
    if top is not None:
        said += f" Most of the doubt is {top.name}."
    return said


def _pct(share: float) -> str:
    """A share in percent, to a tenth."""
    return f"{share * 100:.1f}{THIN}%"


def _working(chance: RowChance) -> Working:
    low, high = chance.failed.ends
    return Working(
        "share of the outages played through in which it fails, with its Wilson ends at 95 %",
        f"{chance.failed.hits} of {chance.failed.draws}; as stated {chance.stated.hits} of {chance.stated.draws}",
        f"{_pct(low)} to {_pct(high)}",
        "outage played with what is not known well drawn from its band; see Outage",
    )


def _protocol(spread: Spread) -> str:
    """The protocol that an unknown names."""
    return next((slug for slug, item in PROTOCOLS.items() if item.name == spread.settled_by), "")
