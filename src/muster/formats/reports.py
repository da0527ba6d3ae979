"""Verdicts and findings as plain JSON values: the stable output of the command line."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from muster.core.character import Character, Parameter, Prediction
from muster.core.character.character import SessionEstimate
from muster.core.character.hold_curve import HoldCurve
from muster.core.character.impedance import StartModel
from muster.core.findings import Finding
from muster.core.outage.played import HourBand, OutagePlayed, RowChance
from muster.core.quantities import Value
from muster.core.sessions import PROTOCOLS
from muster.core.sources.limits import Limit
from muster.core.verdict import Margin, Requirement, Status, Verdict
from muster.core.working import Working

from .jobfile import SessionRecord


def _number(value: float) -> float | None:
    """A number as JSON can hold it: None where nothing bounds it."""
    return value if math.isfinite(value) else None


def _workings(lines: tuple[Working, ...]) -> list[dict[str, Any]]:
    return [
        {
            "formula": line.formula,
            "put_in": line.put_in,
            "result": line.result,
            "source": line.source,
            "rows": _rows(line),
        }
        for line in lines
    ]


def _rows(line: Working) -> dict[str, Any] | None:
    """What a working is reached from where that is no single expression."""
    rows = line.rows
    if rows is None:
        return None
    return {
        "method": rows.method.value,
        "columns": list(rows.columns),
        "rows": [list(row) for row in rows.rows],
        "of": rows.of,
    }


def _margin(margin: Margin | None) -> dict[str, Any] | None:
    if margin is None:
        return None
    return {
        "value": _number(margin.value),
        "low": _number(margin.low),
        "high": _number(margin.high),
        "unit": margin.unit,
    }


def requirement_report(row: Requirement) -> dict[str, Any]:
    """A line of the verdict; a margin in ``share`` is a share of the demand."""
    return {
        "key": row.key,
        "label": row.label,
        "status": row.status.value,
        "demand": row.demand,
        "capability": row.capability,
        "margin": _margin(row.margin),
        "passed": None if row.passed is None else {"met": row.passed.met, "of": row.passed.of},
        "grade": row.grade.value if row.grade else None,
        "sentence": row.sentence,
        "chance": _chance(row.chance),
        "rules": list(row.rules) if row.status is Status.WITH_RULES else [],
        "settle_by": row.settle_by or None,
        "workings": _workings(row.workings),
    }


def _chance(chance: RowChance | None) -> dict[str, Any] | None:
    """How often a line fails in the outages that were played, with its ends; None where its margin decides."""
    if chance is None:
        return None
    low, high = chance.failed.ends
    return {
        "outages": chance.failed.draws,
        "fail": chance.failed.share,
        "fail_low": low,
        "fail_high": high,
        "fail_as_stated": chance.stated.share,
        "runs_dry_unattended": chance.stops,
    }


def verdict_report(verdict: Verdict) -> dict[str, Any]:
    """A verdict with its lines."""
    return {
        "status": verdict.status.value,
        "headline": verdict.headline,
        "detail": verdict.detail,
        "next_protocol": verdict.next_protocol or None,
        "must_change": [
            {"key": change.key, "label": change.label, "ways": list(change.ways)} for change in verdict.changes
        ],
        "requirements": [requirement_report(row) for row in verdict.requirements],
        "starts": [requirement_report(row) for row in verdict.start_rows],
    }


def finding_report(finding: Finding) -> dict[str, Any]:
    """A finding with its value, uncertainty, bound, grade and working."""
    value = finding.value
    return {
        "key": finding.key,
        "topic": finding.topic,
        "title": finding.title,
        "sentence": finding.sentence,
        "value": _number(value.value),
        "unit": value.unit,
        "u": value.u,
        "bound": value.bound.value if value.bound else None,
        "grade": value.grade.value,
        "entries": list(finding.seqs),
        "needs": finding.needs or None,
        "workings": _workings(finding.workings),
    }


def character_report(character: Character, predicted: Sequence[Prediction]) -> dict[str, Any]:
    """A character: its parameters with band, grade and what they rest on, its fitted forms, and the loads predicted."""
    return {
        "source": character.source,
        "kind": character.kind,
        "sessions": list(character.sessions),
        "parameters": [parameter_report(parameter) for parameter in character.parameters],
        "starts_meet": {leg: _start_models(start_model) for leg, start_model in character.start_models.items()},
        "hold_curve": _hold(character.hold),
        "claims": [parameter_report(claim) for claim in character.claims],
        "limits": [limit_report(limit) for limit in character.limits],
        "started_w": dict(character.started_w),
        "failed_w": dict(character.failed_w),
        "waiting": list(character.waiting),
        "predicted": [prediction_report(item) for item in predicted],
    }


def value_report(value: Value | None) -> dict[str, Any] | None:
    """A value with its unit, half-width, bound and grade."""
    if value is None:
        return None
    bound = value.bound.value if value.bound else None
    return {"value": _number(value.value), "unit": value.unit, "u": value.u, "bound": bound, "grade": value.grade.value}


def parameter_report(parameter: Parameter) -> dict[str, Any]:
    """A parameter of a character, with each session's own estimate."""
    return {
        "key": parameter.key,
        "name": parameter.name,
        "value": value_report(parameter.value),
        "at": parameter.at,
        "rests_on": parameter.rests_on,
        "disagreement": parameter.apart or None,
        "estimates": [estimate_report(each) for each in parameter.estimates],
        "outdated": [estimate_report(each) for each in parameter.outdated],
    }


def estimate_report(estimate: SessionEstimate) -> dict[str, Any]:
    """What one session says of a parameter: what it rests on, under what conditions, and its share in the whole."""
    return {
        "session": estimate.session,
        "at": estimate.at,
        "basis": estimate.basis,
        "value": value_report(estimate.value),
        "entries": list(estimate.seqs),
        "log": estimate.log or None,
        "capture": estimate.capture or None,
        "conditions": estimate.conditions or None,
        "fuel": estimate.fuel or None,
        "weight": estimate.weight,
    }


def limit_report(limit: Limit) -> dict[str, Any]:
    """A limit: power, leg (null: the whole source), for how long, and what it rests on."""
    return {
        "key": limit.key,
        "name": limit.name,
        "w": limit.w,
        "leg": limit.leg.value if limit.leg else None,
        "hold_s": limit.hold_s,
        "grade": limit.grade.value,
        "basis": limit.basis,
    }


def _start_models(start_model: StartModel) -> dict[str, Any]:
    return {
        "kind": start_model.kind,
        "z_ohm": start_model.z_ohm,
        "r_ohm": start_model.r_ohm,
        "x_ohm": start_model.x_ohm,
        "limit_a": start_model.limit_a,
        "pf": start_model.pf,
        "u": start_model.u,
        "residual_v": start_model.residual_v,
        "other_residual_v": start_model.other_residual_v,
        "starts": len(start_model.hits),
    }


def _hold(curve: HoldCurve | None) -> dict[str, Any] | None:
    if curve is None:
        return None
    points = [{"w": p.w, "held_s": p.held_s, "tripped": p.tripped} for p in curve.points]
    return {"held_w": curve.held_w, "k_s": curve.k_s, "n": curve.n, "sigma": curve.sigma, "points": points}


def prediction_report(prediction: Prediction) -> dict[str, Any]:
    """A load predicted; ``hold_s`` null where nothing bounds it or nothing is known, which ``sentence`` tells apart."""
    return {
        "load": prediction.load.name,
        "key": prediction.load.key,
        "leg": prediction.leg.value,
        "base_w": prediction.base_w,
        "lowest": value_report(prediction.lowest),
        "floor_v": prediction.floor_v,
        "starts": prediction.starts,
        "volts": value_report(prediction.volts),
        "hold_s": None if prediction.hold_s is None else _number(prediction.hold_s),
        "measured": value_report(prediction.measured),
        "sentence": prediction.sentence,
    }


def outage_report(played: OutagePlayed) -> dict[str, Any]:
    """An outage played through: chances with their ends, what was served, bands by hour, and what makes the doubt."""
    chances = {
        failure.value: {
            "share": chance.share,
            "low": chance.ends[0],
            "high": chance.ends[1],
            "stated": played.stated_chances[failure].share,
        }
        for failure, chance in played.chances.items()
    }
    events = {
        name: [
            {"at_s": event.at_s, "kind": event.kind.name.lower(), "load": event.load, "value": event.value}
            for event in told
        ]
        for name, told in (("typical", played.typical_night.events), ("worst", played.worst_night.events))
    }
    return {
        "draws": played.draws,
        "seed": played.seed,
        "hours": list(played.hours),
        "chances": chances,
        "served": dict(played.served),
        "lowest_v": _band(played.lowest_v),
        "lowest_hz": _band(played.lowest_hz),
        "charge_wh": [_band(band) for band in played.charge_wh],
        "fuel_l": [_band(band) for band in played.fuel_l],
        "hour_w": [_band(band) for band in played.hour_w],
        "leg_hour_w": [[_band(band) for band in leg] for leg in played.leg_hour_w],
        "neighbour_dba": [_band(band) for band in played.neighbour_dba],
        "run_out_h": None if played.run_out_h is None else _band(played.run_out_h),
        "refuels": _band(played.refuels),
        "refuel_by_hour": list(played.refuel_by_hour),
        "burnt_l": _band(played.burnt_l),
        "sun_wh": _band(played.sun_wh),
        "causes": [
            {"kind": cause.kind.name.lower(), "load": cause.load, "in_hundred": cause.in_hundred}
            for cause in played.causes
        ],
        "together": [{"load": load, "other": other, "an_outage": often} for load, other, often in played.together],
        "spreads": {
            failure.value: [
                {"name": s.name, "share": s.share, "settled_by": s.settled_by or None, "grade": s.grade.value}
                for s in spreads
            ]
            for failure, spreads in played.spreads.items()
        },
        "missing": list(played.missing),
        "events": events,
    }


def _band(band: HourBand) -> dict[str, float | None]:
    return {"p10": _number(band.p10), "p50": _number(band.p50), "p90": _number(band.p90)}


@dataclass(frozen=True)
class SessionFound:
    """What a session of a source found."""

    source: str
    kept: SessionRecord
    findings: tuple[Finding, ...]


@dataclass(frozen=True)
class JobFindings:
    """What every session of a job found."""

    job: str
    sessions: tuple[SessionFound, ...]
    across: tuple[Finding, ...] = ()

    def parts(self) -> list[tuple[str, tuple[Finding, ...]]]:
        """A heading and the findings beneath it, session by session."""
        each = [
            (
                f"{session.source}, {_protocol(session.kept.session.protocol)}, {session.kept.started_at}",
                session.findings,
            )
            for session in self.sessions
        ]
        return [*each, ("Over several tests", self.across)] if self.across else each

    def report(self) -> dict[str, Any]:
        """As plain JSON values."""
        sessions = [
            {
                "source": session.source,
                "protocol": session.kept.session.protocol,
                "started_at": session.kept.started_at,
                "findings": [finding_report(finding) for finding in session.findings],
            }
            for session in self.sessions
        ]
        across = [finding_report(finding) for finding in self.across]
        return {"job": self.job, "sessions": sessions, "across": across}


@dataclass(frozen=True)
class LogFindings:
    """What a log on its own shows."""

    log: str
    rows: int
    notes: tuple[str, ...]
    findings: tuple[Finding, ...]

    def parts(self) -> list[tuple[str, tuple[Finding, ...]]]:
        """A heading and the findings beneath it."""
        return [("; ".join((f"{self.log}, {self.rows} rows", *self.notes)), self.findings)]

    def report(self) -> dict[str, Any]:
        """As plain JSON values."""
        result = [finding_report(finding) for finding in self.findings]
        return {"log": self.log, "rows": self.rows, "notes": list(self.notes), "findings": result}


def _protocol(slug: str) -> str:
    return PROTOCOLS[slug].name if slug in PROTOCOLS else slug
