"""The character of a source: parameters with what they rest on, what starts meet, how long it holds, what that foretells."""

from __future__ import annotations

import json
from dataclasses import dataclass

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.utils.text import slugify

from muster.core.character import Character, Parameter, Prediction, predictions
from muster.core.character.character import apart
from muster.core.character.impedance import Meets
from muster.core.character.predict import checked, how_good
from muster.core.errors import MusterError
from muster.core.outage import upper
from muster.core.quantities import THIN, plain
from muster.formats.reports import character_report
from muster.formats.tables import character_table, predictions_table
from muster.records.actions import characters as actions
from muster.records.background import filling
from muster.records.judging import demand_of
from muster.records.models import CharacterRow, SourceRow
from muster.web.figures.hold import HoldFigure, draw_hold
from muster.web.figures.shares import XY, draw_gauge, draw_shares
from muster.web.ui.answers import csv_file, download
from muster.web.ui.frame import get_job, live_sources, stage_page
from muster.web.ui.words import told

from .told import Study, asked_source, study_of


@dataclass(frozen=True)
class Row:
    """A parameter beside that of another source, or of another day; ``moved`` where their bands lie apart."""

    name: str
    one: Parameter | None
    other: Parameter | None

    @property
    def moved(self) -> bool:
        """Whether the two differ by more than their half-widths together."""
        return self.one is not None and self.other is not None and apart(self.one, self.other)


@dataclass(frozen=True)
class Beside:
    """What the character is laid beside: another source's, or its own of another day."""

    key: str
    name: str
    character: Character


def character(request: HttpRequest, job_id: int) -> HttpResponse:
    """What a source was measured to be, beside another or an earlier one where that is asked for; a POST sets it down."""
    job = get_job(job_id)
    row = asked_source(request, job)
    study = study_of(row)
    if request.method == "POST":
        return _set_down(request, study)
    others = [one for one in live_sources(job) if one.pk != row.pk]
    earlier = actions.live_characters(row)
    beside = _beside(request.GET.get("beside", ""), others, earlier)
    foretold: tuple[Prediction, ...] = ()
    with filling() as waiting:
        foretold = _foretold(study)
    context = {
        "source": row, "sources": live_sources(job), "others": others, "earlier": earlier, "beside": beside, "study": study,
        "rows": _rows(study.character, beside.character if beside else None), "meets": _meets(study.character),
        "hold": _hold(study), "foretold": foretold, "waiting": waiting, "good": how_good(checked(study.home.brief.system, study.sessions)),
        "figures": _figures(study),
    }  # fmt: skip
    return stage_page(request, job, "findings", "findings/character.html", context)


def _beside(wanted: str, others: list[SourceRow], earlier: list[CharacterRow]) -> Beside | None:
    other = next((one for one in others if wanted == f"{one.pk}"), None)
    if other is not None:
        return Beside(wanted, other.name, study_of(other).character)
    kept = next((one for one in earlier if wanted == one.beside_key), None)
    if kept is not None:
        return Beside(wanted, f"set down {kept.created_at:%d %b %Y}", actions.character_of_row(kept))
    return None


def _set_down(request: HttpRequest, study: Study) -> HttpResponse:
    """Keep the character as it stands, or put one away that was kept."""
    row = study.row
    try:
        if "away" in request.POST:
            kept = get_object_or_404(CharacterRow, pk=request.POST["away"], source=row)
            actions.put_away_character(kept, request.user)
        else:
            actions.set_down(row, study.character, request.POST.get("note", ""), request.user)
            messages.info(request, "Set down as it stands: what is measured later can be laid beside it.")
    except MusterError as error:
        messages.error(request, told(error))
    return redirect(f"{reverse('character', args=[row.job_id])}?source={row.pk}")


def _foretold(study: Study) -> tuple[Prediction, ...]:
    """Every load foretold on its worst base of the simulated outage."""
    home = study.home
    loads = home.loads
    if not loads:
        return ()
    demand = demand_of(upper(loads), home.brief)
    base = {start.load: start.base_w for start in demand.starts}
    starts = [start for dated in study.sessions for start in dated.found.starts]
    return predictions(study.character, loads, home.brief.system, base, starts)


def _rows(one: Character, other: Character | None) -> list[Row]:
    theirs = other.by_key if other else {}
    rows = [Row(p.name, p, theirs.get(p.key)) for p in one.parameters]
    known = one.by_key
    return rows + [Row(p.name, None, p) for key, p in theirs.items() if key not in known]


def _meets(character: Character) -> list[tuple[str, str]]:
    """What starts meet on each leg, in words."""
    names = {"1": "leg 1", "2": "leg 2", "both": "across both legs"}
    several = len(character.meets) > 1
    return [(names[leg] if several else "", _meets_words(meets)) for leg, meets in sorted(character.meets.items())]


def _meets_words(meets: Meets) -> str:
    rest = f"{meets.left_v:.1f}{THIN}V left unexplained over {len(meets.hits)} starts"
    other = (
        f"; as {'a limit' if meets.kind == 'impedance' else 'an impedance'} {meets.other_left_v:.1f}{THIN}V would be"
        if meets.other_left_v is not None
        else ""
    )
    if meets.kind == "limit" and meets.limit_a is not None:
        return (
            f"a limit of {plain(meets.limit_a, 'a')} ± {meets.u:.2g}{THIN}A, at which volts fold back: {rest}{other}."
        )
    apart = ""
    if meets.r_ohm is not None and meets.x_ohm is not None:
        apart = f" (resistance {meets.r_ohm:.2f}, reactance {meets.x_ohm:.2f}{THIN}Ω)"
    return f"an impedance of {meets.z_ohm:.2f} ± {meets.u:.2f}{THIN}Ω at a power factor of {meets.pf:.2f}{apart}: {rest}{other}."


def _hold(study: Study) -> HoldFigure | None:
    curve, claims = study.character.hold, study.source.claims
    return draw_hold(curve, claims.surge_w, claims.surge_s) if curve else None


def _figures(study: Study) -> list[tuple[str, XY]]:
    """Share lines and gauge truth, the latest of each."""
    found: list[tuple[str, XY]] = []
    shares = [d.found.shares for d in study.sessions if d.found.shares is not None]
    if shares:
        units = study.source.units
        found.append(("How the two share", draw_shares(shares[-1], (units[0].name, units[1].name))))
    gauges = [d.found.runs.gauge for d in study.sessions if d.found.runs is not None and d.found.runs.gauge is not None]
    if gauges:
        found.append(("Gauge truth: shown against really left", draw_gauge(gauges[-1])))
    return found


def as_json(request: HttpRequest, job_id: int) -> HttpResponse:
    """The character as JSON, as the command line writes it."""
    study = study_of(asked_source(request, get_job(job_id)))
    text = json.dumps(character_report(study.character, _foretold(study)), indent=1, ensure_ascii=False)
    return download(text.encode(), f"{slugify(study.row.name) or 'source'}.character.json")


def as_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """The parameters as a table."""
    study = study_of(asked_source(request, get_job(job_id)))
    return csv_file(character_table(study.character), f"{study.row.name} character")


def foretold_csv(request: HttpRequest, job_id: int) -> HttpResponse:
    """What is foretold of each load as a table."""
    study = study_of(asked_source(request, get_job(job_id)))
    return csv_file(predictions_table(_foretold(study)), f"{study.row.name} foretold")
