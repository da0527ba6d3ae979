"""Verdicts and findings as plain JSON values: the stable output of the command line."""

from __future__ import annotations

import math
from typing import Any

from muster.core.findings import Finding
from muster.core.verdict import Margin, Requirement, Verdict
from muster.core.working import Working


def _number(value: float) -> float | None:
    """A number as JSON can hold it: None where nothing bounds it."""
    return value if math.isfinite(value) else None


def _workings(lines: tuple[Working, ...]) -> list[dict[str, str]]:
    return [
        {"formula": line.formula, "put_in": line.put_in, "result": line.result, "source": line.source} for line in lines
    ]


def _margin(margin: Margin | None) -> dict[str, Any] | None:
    if margin is None:
        return None
    return {
        "value": _number(margin.value), "low": _number(margin.low), "high": _number(margin.high),
        "unit": "share" if margin.unit == "pct" else margin.unit,
    }  # fmt: skip


def requirement_report(row: Requirement) -> dict[str, Any]:
    """A line of the verdict; a margin in ``share`` is a share of the demand."""
    return {
        "key": row.key, "label": row.label, "status": row.status.value, "demand": row.demand,
        "capability": row.capability, "margin": _margin(row.margin), "grade": row.grade.value if row.grade else None,
        "sentence": row.sentence, "settle_by": row.settle_by or None, "workings": _workings(row.workings),
    }  # fmt: skip


def verdict_report(verdict: Verdict) -> dict[str, Any]:
    """A verdict with its lines."""
    return {
        "status": verdict.status.value, "headline": verdict.headline, "detail": verdict.detail,
        "next_protocol": verdict.next_protocol or None,
        "requirements": [requirement_report(row) for row in verdict.requirements],
        "starts": [requirement_report(row) for row in verdict.start_rows],
    }  # fmt: skip


def finding_report(finding: Finding) -> dict[str, Any]:
    """A finding with its value, uncertainty, bound, grade and working."""
    value = finding.value
    return {
        "key": finding.key, "topic": finding.topic, "title": finding.title, "sentence": finding.sentence,
        "value": _number(value.value), "unit": value.unit, "u": value.u, "bound": value.bound.value if value.bound else None,
        "grade": value.grade.value, "entries": list(finding.seqs), "needs": finding.needs or None,
        "workings": _workings(finding.workings),
    }  # fmt: skip
