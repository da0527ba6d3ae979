"""The verdict: requirement by requirement, what is needed, what the source can give, and what that rests on."""

from __future__ import annotations

from .judge import Verdict, judge, requirements, worth_testing
from .must_change import MustChange
from .next_test import NextTest
from .requirement import Margin, Requirement, Status

__all__ = [
    "Margin",
    "MustChange",
    "NextTest",
    "Requirement",
    "Status",
    "Verdict",
    "judge",
    "requirements",
    "worth_testing",
]
