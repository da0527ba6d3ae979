"""Findings: what the source did, computed from readings, each with its working."""

from __future__ import annotations

from .collect import SessionFindings, findings_of
from .finding import Finding

__all__ = ["Finding", "SessionFindings", "findings_of"]
