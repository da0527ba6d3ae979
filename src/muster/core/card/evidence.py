"""What a line of the card rests on: the very lines of the record, logs and captures, as they were written."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from ..character import Dated, Parameter
from ..findings import Finding
from ..sources.limits import Limit
from ..verdict import Verdict
from ..verdict.inputs import VerdictInputs

MOST_QUOTED = 3
"""So many lines are quoted of one finding; the report has them all."""


@dataclass(frozen=True)
class Quote:
    """A line of a record as it was written, or the name of a log or capture; ``at`` is the day on which its session began.

    ``of`` is the line of the verdict that it decides, where it is quoted for the verdict as a whole.
    """

    session: str
    at: str
    seq: int
    text: str
    of: str = ""


class Records:
    """The sessions of a case, to be quoted from."""

    def __init__(self, case: VerdictInputs) -> None:
        self._sessions: Sequence[Dated] = case.given.sessions
        self._of_finding = {
            id(finding): dated
            for dated in self._sessions
            for finding in (*dated.findings.findings, *(held.finding for held in dated.findings.holds))
        }
        self._by_date = {(dated.name, dated.at): dated for dated in self._sessions}

    def of_findings(self, findings: Iterable[object], of: str = "") -> tuple[Quote, ...]:
        """What findings were read from; those of no session are passed over."""
        return tuple(
            dict.fromkeys(
                quote
                for finding in findings
                if isinstance(finding, Finding) and id(finding) in self._of_finding
                for quote in _quotes(self._of_finding[id(finding)], finding.seqs, finding.log or finding.capture, of)
            )
        )

    def of_limit(self, limit: Limit) -> tuple[Quote, ...]:
        """What a measured limit was read from; nothing of one that is claimed."""
        measured_by = (
            held.finding
            for dated in self._sessions
            for held in dated.findings.holds
            if limit.finding and held.finding.key == limit.finding
        )
        return self.of_findings(measured_by)

    def of_parameters(self, parameters: Iterable[Parameter]) -> tuple[Quote, ...]:
        """What parameters were read from."""
        return tuple(
            dict.fromkeys(
                quote
                for parameter in parameters
                for estimate in parameter.estimates
                if (dated := self._by_date.get((estimate.session, estimate.at))) is not None
                for quote in _quotes(dated, estimate.seqs, estimate.log or estimate.capture, "")
            )
        )

    def of_verdict(self, verdict: Verdict) -> tuple[Quote, ...]:
        """What each required line of a verdict was read from."""
        return tuple(
            quote for row in verdict.requirements if row.must for quote in self.of_findings(row.findings, row.label)
        )

    def of_start(self, verdict: Verdict, load: str) -> tuple[Quote, ...]:
        """What the start of a load, by its short name, was judged on."""
        rows = (row for row in verdict.start_rows if row.load == load)
        return tuple(quote for row in rows for quote in self.of_findings(row.findings))


def _quotes(dated: Dated, seqs: Sequence[int], recorded: str, of: str) -> Iterator[Quote]:
    entries = {entry.seq: entry.raw for entry in dated.findings.context.session.entries}
    quoted = [seq for seq in dict.fromkeys(seqs) if entries.get(seq)]
    for seq in quoted[:MOST_QUOTED]:
        yield Quote(dated.name, dated.at[:10], seq, entries[seq], of)
    if recorded:
        yield Quote(dated.name, dated.at[:10], 0, recorded, of)
