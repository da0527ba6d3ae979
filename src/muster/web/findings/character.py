"""The character of a source: parameters with what they rest on, what starts meet, how long it holds, what that predicts."""

from __future__ import annotations

import json
from dataclasses import dataclass

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.utils.text import slugify

from muster.core.character import Character, Given, Parameter, Prediction, predictions
from muster.core.character.character import SessionEstimate, apart
from muster.core.character.impedance import StartModel
from muster.core.character.predict import checked, how_good
from muster.core.character.predicted_before import how_predicted, predicted_before
from muster.core.errors import MusterError
from muster.core.outage import upper
from muster.core.quantities import THIN, plain
from muster.formats.reports import character_report
from muster.formats.tables import character_table, predictions_table
from muster.records.actions import characters as actions
from muster.records.background import filling
from muster.records.judging import demand_of
from muster.records.models import CharacterRow, SessionRow, SourceRow
from muster.web.figures.hold import HoldFigure, draw_hold
from muster.web.figures.shares import XY, draw_gauge, draw_shares
from muster.web.ui.downloads import csv_file, download
from muster.web.ui.error_text import error_sentence
from muster.web.ui.frame import get_job, live_sources, stage_page

from .study import Study, asked_source, study_of


@dataclass(frozen=True)
class EstimateRow:
    """What one session says of a parameter, how much it weighs, and where it can be read."""

    estimate: SessionEstimate
    url: str
    share_pct: float | None
    outdated: bool


@dataclass(frozen=True)
class ParameterRow:
    """A parameter beside that of another source, or of another day; ``moved`` where their bands lie apart."""

    name: str
    this: Parameter | None
    other: Parameter | None
    claim: Parameter | None = None
    estimates: tuple[EstimateRow, ...] = ()

    @property
    def moved(self) -> bool:
        """Whether the two differ by more than their half-widths together."""
        return self.this is not None and self.other is not None and apart(self.this, self.other)


@dataclass(frozen=True)
class Beside:
    """What the character is laid beside: another source's, or its own of another day."""

    key: str
    name: str
    character: Character


def character(request: HttpRequest, job_id: int) -> HttpResponse:
    """What a source was measured to be, beside another or an earlier one where that is asked for; a POST saves it."""
    job = get_job(job_id)
    row = asked_source(request, job)
    study = study_of(row)
    if request.method == "POST":
        return _set_down(request, study)
    others = [source_row for source_row in live_sources(job) if source_row.pk != row.pk]
    earlier = actions.live_characters(row)
    beside = _beside(request.GET.get("beside", ""), others, earlier)
    predicted: tuple[Prediction, ...] = ()
    with filling() as waiting:
        predicted = _predicted(study)
    before = predicted_before(Given(study.source, study.home.brief.system, study.home.brief.site, study.sessions))
    context = {
        "source": row,
        "sources": live_sources(job),
        "others": others,
        "earlier": earlier,
        "beside": beside,
        "study": study,
        "rows": _rows(study, beside.character if beside else None),
        "claimed": [claim for claim in study.character.claims if claim.key not in study.character.by_key],
        "meets": _start_models(study.character),
        "hold": _hold(study),
        "predicted": predicted,
        "waiting": waiting,
        "before": before,
        "how_predicted": how_predicted(before),
        "good": how_good(checked(study.home.brief.system, study.sessions)),
        "figures": _figures(study),
    }
    return stage_page(request, job, "findings", "findings/character.html", context)


def _beside(wanted: str, others: list[SourceRow], earlier: list[CharacterRow]) -> Beside | None:
    other = next((other for other in others if wanted == f"{other.pk}"), None)
    if other is not None:
        return Beside(wanted, other.name, study_of(other).character)
    kept = next((item for item in earlier if wanted == item.beside_key), None)
    if kept is not None:
        return Beside(wanted, f"saved {kept.created_at:%d %b %Y}", actions.character_of_row(kept))
    return None


def _set_down(request: HttpRequest, study: Study) -> HttpResponse:
    """Save the character as it is now, or archive a saved one."""
    row = study.row
    try:
        if "away" in request.POST:
            kept = get_object_or_404(CharacterRow, pk=request.POST["away"], source=row)
            actions.put_away_character(kept, request.user)
        else:
            actions.set_down(row, study.character, request.POST.get("note", ""), request.user)
            messages.info(request, "Saved: what is measured later can be set beside it.")
    except MusterError as error:
        messages.error(request, error_sentence(error))
    return redirect(f"{reverse('character', args=[row.job_id])}?source={row.pk}")


def _predicted(study: Study) -> tuple[Prediction, ...]:
    """Every load predicted on its worst base of the simulated outage."""
    home = study.home
    loads = home.loads
    if not loads:
        return ()
    demand = demand_of(upper(loads), home.brief)
    base = {start.load: start.base_w for start in demand.starts}
    starts = [start for dated in study.sessions for start in dated.findings.starts]
    return predictions(study.character, loads, home.brief.system, base, starts)


def _rows(study: Study, other: Character | None) -> list[ParameterRow]:
    theirs, known = other.by_key if other else {}, study.character.by_key
    claims = {claim.key: claim for claim in study.character.claims}
    rows = [
        ParameterRow(
            name=p.name,
            this=p,
            other=theirs.get(p.key),
            claim=claims.get(p.key),
            estimates=(*_estimates(study, p.estimates), *_estimates(study, p.outdated, outdated=True)),
        )
        for p in study.character.parameters
    ]
    return rows + [ParameterRow(p.name, None, p) for key, p in theirs.items() if key not in known]


def _estimates(study: Study, estimates: tuple[SessionEstimate, ...], *, outdated: bool = False) -> list[EstimateRow]:
    rows = {row.started_at.isoformat(): row for row in study.rows}
    return [
        EstimateRow(
            estimate=estimate,
            url=_url_of(rows.get(estimate.at), estimate),
            share_pct=None if estimate.weight is None else estimate.weight * 100,
            outdated=outdated,
        )
        for estimate in estimates
    ]


def _url_of(row: SessionRow | None, estimate: SessionEstimate) -> str:
    """Where an estimate can be read: at its first entry, or in its session."""
    if row is None:
        return ""
    at = f"?all=1#entry-{min(estimate.seqs)}" if estimate.seqs else ""
    return reverse("session", args=[row.source.job_id, row.pk]) + at


def _start_models(character: Character) -> list[tuple[str, str]]:
    """What starts meet on each leg, in words."""
    names = {"1": "leg 1", "2": "leg 2", "both": "across both legs"}
    several = len(character.start_models) > 1
    return [
        (names[leg] if several else "", _start_model_text(start_model))
        for leg, start_model in sorted(character.start_models.items())
    ]


def _start_model_text(start_model: StartModel) -> str:
    rest = f"{start_model.residual_v:.1f}{THIN}V left unexplained over {len(start_model.hits)} starts"
    other = (
        f"; as {'a limit' if start_model.kind == 'impedance' else 'an impedance'} {start_model.other_residual_v:.1f}{THIN}V would be"
        if start_model.other_residual_v is not None
        else ""
    )
    if start_model.kind == "limit" and start_model.limit_a is not None:
        return f"a limit of {plain(start_model.limit_a, 'a')} ± {start_model.u:.2g}{THIN}A, at which volts fold back: {rest}{other}."
    apart = ""
    if start_model.r_ohm is not None and start_model.x_ohm is not None:
        apart = f" (resistance {start_model.r_ohm:.2f}, reactance {start_model.x_ohm:.2f}{THIN}Ω)"
    return f"an impedance of {start_model.z_ohm:.2f} ± {start_model.u:.2f}{THIN}Ω at a power factor of {start_model.pf:.2f}{apart}: {rest}{other}."


def _hold(study: Study) -> HoldFigure | None:
    curve, claims = study.character.hold, study.source.claims
    return draw_hold(curve, claims.surge_w, claims.surge_s) if curve else None


def _figures(study: Study) -> list[tuple[str, XY]]:
    """Share lines and gauge truth, the latest of each."""
    result: list[tuple[str, XY]] = []
    shares = [d.findings.shares for d in study.sessions if d.findings.shares is not None]
    if shares:
        units = study.source.units
        result.append(("How the two share", draw_shares(shares[-1], (units[0].name, units[1].name))))
    gauges = [
        d.findings.runs.gauge
        for d in study.sessions
        if d.findings.runs is not None and d.findings.runs.gauge is not None
    ]
    if gauges:
        result.append(("Gauge truth: shown against really left", draw_gauge(gauges[-1])))
    return result


def as_json(request: HttpRequest, job_id: int) -> HttpResponse:
    """The character as JSON, as the command line writes it."""
    study = study_of(asked_source(request, get_job(job_id)))
    text = json.dumps(character_report(study.character, _predicted(study)), indent=1, ensure_ascii=False)
    return download(text.encode(), f"{slugify(study.row.name) or 'source'}.character.json")


def as_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """The parameters as a table."""
    study = study_of(asked_source(request, get_job(job_id)))
    return csv_file(character_table(study.character), f"{study.row.name} character")


def predicted_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """What is predicted of each load as a table."""
    study = study_of(asked_source(request, get_job(job_id)))
    return csv_file(predictions_table(_predicted(study)), f"{study.row.name} predicted")
