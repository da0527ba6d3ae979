"""The numbers behind the drawings and the lists, as tables for a spreadsheet.

Headings are quantities with their unit suffix; figures are written whole, not
rounded for reading.
"""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from muster.core.character import Character, Prediction
from muster.core.compare import ComparedParameter, Comparison
from muster.core.findings import Finding
from muster.core.findings.lines import LoadLine
from muster.core.loads import Load
from muster.core.outage import OutageDemand
from muster.core.outage.played import OutagePlayed
from muster.core.sessions import Step
from muster.core.sessions.steps import StepSeen
from muster.core.sources.limits import Limit
from muster.core.stacking.best_sets import Stacks
from muster.core.stacking.order import Order
from muster.core.verdict import Verdict

Cell = str | float | int | bool | None


@dataclass(frozen=True)
class Table:
    """Headings and rows."""

    headings: tuple[str, ...]
    rows: tuple[tuple[Cell, ...], ...]


def csv_text(table: Table) -> str:
    """A table as CSV: empty where there is nothing, a dot as the decimal sign."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(table.headings)
    writer.writerows([_written(cell) for cell in row] for row in table.rows)
    return out.getvalue()


def _written(cell: Cell) -> str | float:
    if isinstance(cell, bool):
        return "yes" if cell else "no"
    if cell is None or (isinstance(cell, float) and not math.isfinite(cell)):
        return ""
    if isinstance(cell, str):
        return harmless(cell)
    return round(cell, 6) if isinstance(cell, float) else cell


FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""A spreadsheet takes text that begins so for something to be worked out."""
GUARD = "'"


def harmless(text: str) -> str:
    """A text that a spreadsheet shows as it is: behind an apostrophe where it begins like a formula, or like such a guard."""
    return GUARD + text if _like_a_formula(text) else text


def unharmed(cell: str) -> str:
    """The text of a cell that ``harmless`` wrote."""
    return cell[1:] if cell.startswith(GUARD) and _like_a_formula(cell) else cell


def _like_a_formula(text: str) -> bool:
    """Whether it begins like one, guards before it or not; a sign alone does not."""
    bare = text.lstrip(GUARD)
    return bare.startswith(FORMULA) and len(bare) > 1


def loads_table(loads: Sequence[Load]) -> Table:
    """The loads with the shape of each load: running, start, rhythm, hours."""
    headings = (
        "key",
        "name",
        "kind",
        "tier",
        "leg",
        "run_w",
        "pf",
        "run_va",
        "run_grade",
        "start_va",
        "start_s",
        "start_grade",
        "on_min",
        "off_min",
        "hours",
        "day_wh",
    )
    return Table(
        headings,
        tuple(
            (
                load.key,
                load.name,
                load.kind,
                load.tier.value,
                load.leg.value,
                load.run_w,
                load.pf,
                load.run_va,
                load.run_grade.value,
                load.start_total_va,
                load.start_s,
                load.start_grade.value,
                load.duty.on_min,
                load.duty.off_min,
                " ".join(map(str, load.hours)),
                load.day_wh,
            )
            for load in loads
        ),
    )


def call_table(load: Load) -> Table:
    """One call of a load, part by part: when, running, and what its start adds."""
    return Table(
        ("part", "from_s", "for_s", "run_w", "run_va", "start_adds_va", "start_s"),
        tuple((p.name, p.from_s, p.for_s, p.run_w, p.run_va, p.start_extra_va, p.start_s) for p in load.running_parts),
    )


def stack_table(on: Sequence[Load], starting: Load | None, limits: Sequence[Limit]) -> Table:
    """The Stack: what is on, what would start next, and the limits."""
    rows: list[tuple[Cell, ...]] = [("on", load.name, load.leg.value, load.run_w, load.run_va, None, "") for load in on]
    if starting is not None:
        start_va = starting.start_total_va
        rows.append(("next start", starting.name, starting.leg.value, starting.run_w, start_va, starting.start_s, ""))
    for limit in limits:
        leg = limit.leg.value if limit.leg else "whole"
        rows.append(("limit", limit.name, leg, limit.w, limit.w, limit.hold_s, limit.basis))
    return Table(("what", "name", "leg", "w", "va", "for_s", "rests_on"), tuple(rows))


def stacks_table(stacks: Stacks) -> Table:
    """The best sets of loads that hold together: how many of each tier, what they draw, what must be off."""
    legs = ["leg1_va", "leg2_va"] if any(each_set.leg_va for each_set in stacks.sets) else []
    rows: tuple[tuple[Cell, ...], ...] = tuple(
        (
            *each_set.tiers,
            each_set.va,
            *each_set.leg_va,
            "; ".join(load.name for load in each_set.loads),
            "; ".join(load.name for load in each_set.out),
        )
        for each_set in stacks.sets
    )
    return Table(("must", "should", "could", "va", *legs, "together", "off"), rows)


def order_table(order: Order) -> Table:
    """An order of starts with what runs beneath each and what stands at its moment, by leg."""
    legs = range(1, len(order.moments[0].moment_a) + 1) if order.moments else range(0)
    headings = ("load", *(f"beneath_leg{i}_a" for i in legs), *(f"moment_leg{i}_a" for i in legs))
    rows: list[tuple[Cell, ...]] = [(m.load.name, *m.beneath_a, *m.moment_a) for m in order.moments]
    return Table(headings, tuple(rows))


def ladder_table(steps: Sequence[Step], seen: Sequence[StepSeen]) -> Table:
    """A ladder's steps, planned and measured."""
    rows = [(s.label, s.target_w, s.planned_w, r.w, r.held_s, r.tripped) for s, r in zip(steps, seen, strict=True)]
    return Table(("rung", "target_w", "planned_w", "measured_w", "held_s", "tripped"), tuple(rows))


def line_table(fit: LoadLine) -> Table:
    """A quantity against load: each point, the line there, and its 95 % band."""
    headings = ("place", "load_w", f"measured_{fit.unit}", f"u_{fit.unit}", f"line_{fit.unit}", f"band_{fit.unit}")
    return Table(headings, tuple((fit.place.value, p.w, p.y, p.u, fit.line.at(p.w), fit.band(p.w)) for p in fit.points))


def played_table(played: OutagePlayed) -> Table:
    """The hours of an outage as it is played on a source: load, what is left at the end of each, level at the neighbour."""
    stored, unit = (played.charge_wh, "wh") if played.charge_wh else (played.fuel_l, "l")
    names = [f"{what}_{p}" for what in ("load_w", f"left_{unit}", "neighbour_dba") for p in ("p10", "p50", "p90")]
    rows = []
    for i, hour in enumerate(played.hours):
        heard = played.neighbour_dba[i] if played.neighbour_dba else None
        bands = (played.hour_w[i], stored[i + 1] if stored else None, heard)
        cells = [c for band in bands for c in ((band.p10, band.p50, band.p90) if band else (None, None, None))]
        rows.append((hour, *(None if cell is None else round(cell, 3) for cell in cells)))
    return Table(("hour", *names), tuple(rows))


def outage_table(demand: OutageDemand) -> Table:
    """Energy of each hour of the outage: mean, median, 90th percentile, and by leg."""
    legs = [f"leg{leg}_wh" for leg in range(1, len(demand.leg_hour_wh) + 1)]
    rows = zip(
        range(len(demand.hours)),
        demand.hours,
        demand.hour_wh,
        demand.hour_p50_wh,
        demand.hour_p90_wh,
        *demand.leg_hour_wh,
        strict=True,
    )
    return Table(("hour_of_outage", "hour_of_day", "mean_wh", "p50_wh", "p90_wh", *legs), tuple(rows))


def verdict_table(verdict: Verdict) -> Table:
    """The verdict a requirement at a time; a margin in ``share`` is a share of the demand."""
    headings = (
        "key",
        "what_is_asked",
        "status",
        "demand",
        "capability",
        "margin",
        "margin_low",
        "margin_high",
        "margin_unit",
        "grade",
        "why",
        "settled_by",
        "fails_share",
        "fails_low",
        "fails_high",
    )
    return Table(
        headings,
        tuple(
            (
                row.key,
                row.label,
                row.status.value,
                row.demand,
                row.capability,
                *((m.value, m.low, m.high, m.unit) if (m := row.margin) else (None, None, None, "")),
                row.grade.value if row.grade else "",
                row.sentence,
                row.settle_by,
                *((row.chance.failed.share, *row.chance.failed.ends) if row.chance else (None, None, None)),
            )
            for row in (*verdict.requirements, *verdict.start_rows)
        ),
    )


def findings_table(table: Iterable[tuple[str, str, Finding]]) -> Table:
    """Findings with the session each is of: (protocol, when it began, finding)."""
    headings = (
        "protocol",
        "began",
        "key",
        "topic",
        "title",
        "value",
        "unit",
        "u",
        "bound",
        "grade",
        "sentence",
        "entries",
        "needs",
        "working",
    )
    return Table(
        headings,
        tuple(
            (
                protocol,
                began,
                f.key,
                f.topic,
                f.title,
                f.value.value,
                f.value.unit,
                f.value.u,
                f.value.bound or "",
                f.value.grade.value,
                f.sentence,
                " ".join(map(str, f.seqs)),
                f.needs,
                "; ".join(f"{line.formula}: {line.put_in} = {line.result}" for line in f.workings),
            )
            for protocol, began, f in table
        ),
    )


def character_table(character: Character) -> Table:
    """The parameters of a character: value, half-width, bound, grade, what each rests on, and how sessions disagree."""
    rows = tuple(
        (
            parameter.key,
            parameter.name,
            parameter.value.value,
            parameter.value.unit,
            parameter.value.u,
            parameter.value.bound.value if parameter.value.bound else "",
            parameter.value.grade.value,
            parameter.at[:10],
            len(parameter.estimates),
            parameter.rests_on,
            parameter.apart,
        )
        for parameter in character.parameters
    )
    return Table(
        ("key", "parameter", "value", "unit", "u", "bound", "grade", "date", "estimates", "rests_on", "disagreement"),
        rows,
    )


def predictions_table(predicted: Sequence[Prediction]) -> Table:
    """What is predicted of each load: its base, lowest volts with their half-width, what it needs, whether it starts, how long the whole is held."""
    rows = tuple(
        (
            item.load.key,
            item.load.name,
            item.leg.value,
            item.base_w,
            item.lowest.value if item.lowest else None,
            item.lowest.u if item.lowest else None,
            item.floor_v or None,
            item.starts,
            item.volts.value if item.volts else None,
            item.hold_s,
            item.measured.value if item.measured else None,
        )
        for item in predicted
    )
    return Table(
        ("key", "load", "leg", "base_w", "lowest_v", "u_v", "needed_v", "starts", "running_v", "hold_s", "measured_v"),
        rows,
    )


def parameters_table(names: Sequence[str], parameters: Iterable[ComparedParameter]) -> Table:
    """What was measured of units: a row a parameter and unit, with half-width, bound and grade, and whether units can be told apart."""
    headings = ("parameter", "unit", "measured", "in", "half_width", "bound", "grade", "no_difference")
    return Table(
        headings,
        tuple(
            (
                parameter.name,
                name,
                value.value.value,
                value.value.unit,
                value.value.u,
                value.value.bound.value if value.value.bound else "",
                value.value.grade.value,
                parameter.alike,
            )
            for parameter in parameters
            for name, value in zip(names, parameter.measured, strict=True)
            if value is not None
        ),
    )


def comparison_table(comparison: Comparison) -> Table:
    """Lines by sources: each line's margin, its ends, its status, and its place among the others."""
    headings = (
        "line",
        "source",
        "status",
        "status_without_rules",
        "margin",
        "margin_low",
        "margin_high",
        "margin_unit",
        "place",
        "no_difference",
        "grade",
        "why",
    )
    return Table(
        headings,
        tuple(
            (
                line.label,
                source.name,
                cell.status.value,
                cell.without.value if cell.without else "",
                *((m.value, m.low, m.high, m.unit) if (m := cell.margin) else (None, None, None, "")),
                cell.place,
                line.alike,
                cell.grade.value if cell.grade else "",
                cell.sentence,
            )
            for line in comparison.lines
            for source, cell in zip(comparison.sources, line.cells, strict=True)
            if cell is not None
        ),
    )
