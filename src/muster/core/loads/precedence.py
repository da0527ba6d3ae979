"""Of all that is known of a load, the best is used; the others stay beside it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from ..quantities import Grade, plain
from .evidence import BY_GRADE, ORDER, Basis, LoadFigure
from .kinds import kind_of
from .load import Load


@dataclass(frozen=True)
class RankedFigure:
    """A figure as the load's page lists it: ``used`` is what the plans go by."""

    figure: LoadFigure
    used: bool
    computed: bool = False


def known_figures(load: Load) -> tuple[LoadFigure, ...]:
    """What is known of a load: the figures kept, else what its own fields say."""
    kept = {(figure.quantity) for figure in load.figures}
    figures_found = list(load.figures)
    if "run_w" not in kept:
        figures_found.append(LoadFigure("run_w", load.run_w, BY_GRADE[load.run_grade]))
    if "pf" not in kept:
        figures_found.append(LoadFigure("pf", load.pf, BY_GRADE[load.run_grade]))
    if "start_va" not in kept and load.start_va:
        figures_found.append(LoadFigure("start_va", load.start_va, BY_GRADE[load.start_grade]))
    return tuple(figures_found)


def _best(figures: Iterable[LoadFigure]) -> LoadFigure | None:
    return min(figures, key=lambda figure: ORDER.index(figure.basis), default=None)


def settle(load: Load) -> Load:
    """The load running on the best of its figures: measured, then nameplate, then planned.

    A start taken with the soft starter in counts while one is fitted; without
    one, such a start says nothing.
    """
    by = {
        quantity: _best(f for f in load.figures if f.quantity == quantity and (load.eased or not f.soft))
        for quantity in ("run_w", "pf", "start_va")
    }
    if load.eased:
        by["start_va"] = _best(f for f in load.figures if f.quantity == "start_va" and f.soft) or by["start_va"]
    run, pf, start = by["run_w"], by["pf"], by["start_va"]
    return replace(
        load,
        run_w=run.value if run else load.run_w,
        run_grade=run.grade if run else load.run_grade,
        pf=pf.value if pf else load.pf,
        start_va=start.value if start else None,
        start_grade=start.grade if start else Grade.D,
    )


def with_kind(load: Load, kind: str) -> Load:
    """A load of another kind: its watts, hours and figures stay; power factor and parts follow the kind where nothing better is known.

    Raises
    ------
    UnknownChoice
        If there is no such kind.
    """
    known = kind_of(kind)
    pf_known = any(figure.quantity == "pf" and figure.basis is not Basis.TOLD for figure in load.figures)
    others = tuple(figure for figure in load.figures if figure.quantity != "pf" or figure.basis is not Basis.TOLD)
    if pf_known or not others:
        return replace(load, kind=kind, pf=load.pf if pf_known else known.pf, parts=())
    return with_figures(replace(load, kind=kind, pf=known.pf, parts=(), figures=others))


def with_figures(load: Load, *new: LoadFigure) -> Load:
    """The load with more known of it; a figure takes the place of one on the same basis, no other."""
    kept = known_figures(load)
    for figure in new:
        kept = (*(other for other in kept if not figure.same_place(other)), figure)
    return settle(replace(load, figures=kept))


def without_figure(load: Load, index: int) -> Load:
    """The load with one of its known figures struck; the last one of its running watts or power factor stays."""
    kept = known_figures(load)
    if not 0 <= index < len(kept):
        return load
    quantity = kept[index].quantity
    if quantity != "start_va" and sum(1 for figure in kept if figure.quantity == quantity) == 1:
        return load
    return settle(replace(load, figures=(*kept[:index], *kept[index + 1 :])))


def ranked_figures(load: Load) -> tuple[RankedFigure, ...]:
    """Every figure of a load, best first by quantity, the planned start among them."""
    kept = known_figures(load)
    used = {
        "run_w": _best(f for f in kept if f.quantity == "run_w"),
        "pf": _best(f for f in kept if f.quantity == "pf"),
        "start_va": next((f for f in kept if f.quantity == "start_va" and f.value == load.start_va), None),
    }
    ranked_figures_found = [RankedFigure(figure, figure is used[figure.quantity]) for figure in kept]
    ranked_figures_found.append(RankedFigure(_planned(load), load.start_va is None, computed=True))
    places = ("run_w", "pf", "start_va")
    return tuple(
        sorted(ranked_figures_found, key=lambda s: (places.index(s.figure.quantity), ORDER.index(s.figure.basis)))
    )


def _planned(load: Load) -> LoadFigure:
    if load.shape:
        words = "the highest start among its parts, the others beneath it"
    else:
        words = f"{load.kind_figures.start_x:g} × {plain(load.run_va, 'va')} for {load.kind_figures.label}"
    return LoadFigure("start_va", max(load.planned_start_va, load.run_va), Basis.SHELF, words)


def edited(load: Load, run_w: float, pf: float, run_grade: Grade, start_va: float | None, start_grade: Grade) -> Load:
    """The load after somebody typed over what it runs on.

    A figure that differs from the one in use is known from now on, at the
    grade that was said; a better one that was known before goes on being
    used. An emptied start strikes the one in use.
    """
    changed = [
        LoadFigure(quantity, typed, BY_GRADE[grade])
        for quantity, typed, used, grade, was in (
            ("run_w", run_w, load.run_w, run_grade, load.run_grade),
            ("pf", pf, load.pf, run_grade, load.run_grade),
            ("start_va", start_va, load.start_va, start_grade, load.start_grade),
        )
        if typed is not None and (typed != used or (grade != was and quantity != "pf"))
    ]
    moved = {figure.quantity for figure in changed}
    kept = tuple(f for f in known_figures(load) if not _regraded(f, load, changed))
    if start_va is None and load.start_va is not None:
        kept = tuple(f for f in kept if (f.quantity, f.value) != ("start_va", load.start_va))
    if not moved and len(kept) == len(known_figures(load)):
        return load
    return with_figures(replace(load, figures=kept), *changed)


def _regraded(figure: LoadFigure, load: Load, changed: Iterable[LoadFigure]) -> bool:
    """Whether a figure in use is said again, the same number on another basis: then the old saying goes."""
    return any(
        new.quantity == figure.quantity and new.value == figure.value == getattr(load, figure.quantity)
        for new in changed
    )
