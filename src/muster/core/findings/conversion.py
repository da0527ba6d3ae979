"""What conversion costs, and what it draws at no load: from the DC side, logged or typed."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import groupby

from ..kit import Kit
from ..quantities import Grade, Value, number, plain
from ..sessions import Place, Reading, Stat
from ..sessions.replay import Segment
from ..timeline.traces.energy import IDLE_BELOW_W, Conversion, fit_conversion
from ..working import Method, Working, rows_of
from .context import SessionContext
from .finding import Finding, Topic

SAME_LOAD_SHARE = 0.05
"""Two looks at loads no farther apart are of one load: the later counts. Ours."""


@dataclass(frozen=True)
class ConversionSeen:
    """A loss fit (None where too few loads were read) and the idle draw seen or fitted (None where neither was).

    ``u_share_pct`` is how unsure the conversion at the top is; ``top_w`` the most it was fitted to.
    """

    fit: Conversion | None
    idle: Value | None
    top_w: float
    u_share_pct: float
    log: str
    findings: tuple[Finding, ...]


def conversions(context: SessionContext) -> tuple[ConversionSeen, ...]:
    """Each log's loss fit, and that of what was typed of both sides."""
    kit = context.record.kit
    conversion_seens = [
        _analyse(kit, log.instrument, log.instrument, log.conversion, log.name, ())
        for log in context.logs
        if log.conversion is not None
    ]
    typed = _typed(context)
    return (*conversion_seens, typed) if typed is not None else tuple(conversion_seens)


@dataclass(frozen=True)
class _DcRead:
    """DC watts as typed: read, or volts times amps; how unsure, and by which instrument."""

    w: float
    u_w: float
    by: str
    seq: int


def _dc_w(context: SessionContext, segment: Segment) -> _DcRead | None:
    """The last DC watts of a stretch: read, or volts and amps of one entry, or amps with the volts last read before them."""
    power = [seq for seq, _, r in segment.readings if r.place is Place.DC and r.quantity in ("w", "a")]
    if not power:
        return None
    until = replace(segment, readings=[read for read in segment.readings if read[0] <= max(power)], levels={})
    watts, volts, amps = (until.last(q, Place.DC) for q in ("w", "v", "a"))
    return _dc_of(context, watts, volts, amps, max(power))


def _dc_of(
    context: SessionContext, watts: Reading | None, volts: Reading | None, amps: Reading | None, seq: int
) -> _DcRead | None:
    u = context.record.u
    if watts is not None:
        return _DcRead(watts.value, u(watts), watts.instrument, seq)
    if volts is None or amps is None or not volts.value or not amps.value:
        return None
    w = volts.value * amps.value
    return _DcRead(w, w * (u(volts) / volts.value + u(amps) / amps.value), amps.instrument, seq)


def _ac_w(context: SessionContext, segment: Segment) -> float | None:
    """Watts out of a stretch: read; 0 at no load in an idle session, where nobody reads them."""
    read_w = segment.total_w(context.system.legs)
    nothing_on = not segment.on and context.session.protocol == "idle"
    return 0.0 if read_w is None and nothing_on else read_w


def _pairs(context: SessionContext) -> Iterator[tuple[float, _DcRead]]:
    """Watts out with what the DC side gave for them: of each level at which one entry read both, else of a stretch as last read."""
    for segment in context.record.segments:
        levels: list[tuple[float, _DcRead]] = []
        for ac_w, read in _at_once(context, segment):
            levels = [(w, before) for w, before in levels if not _same_load(w, ac_w)] + [(ac_w, read)]
        dc, whole_w = _dc_w(context, segment), _ac_w(context, segment)
        if not levels and dc is not None and whole_w is not None:
            levels = [(whole_w, dc)]
        yield from ((w, read) for w, read in levels if read.w > 0)


def _at_once(context: SessionContext, segment: Segment) -> Iterator[tuple[float, _DcRead]]:
    """The entries that read watts out and the DC side at one moment, its volts perhaps those last read."""
    volts: Reading | None = None
    for seq, own in groupby(segment.readings, key=lambda read: read[0]):
        readings = list(own)
        dc = {r.quantity: r for _, _, r in readings if r.place is Place.DC and r.stat is Stat.STEADY}
        volts = dc.get("v", volts)
        if not dc.keys() & {"w", "a"}:
            continue
        read = _dc_of(context, dc.get("w"), volts, dc.get("a"), seq)
        ac_w = replace(segment, readings=readings, levels={}).total_w(context.system.legs)
        if read is not None and ac_w is not None:
            yield ac_w, read


def _same_load(w: float, other_w: float) -> bool:
    return abs(w - other_w) <= max(SAME_LOAD_SHARE * max(w, other_w), IDLE_BELOW_W)


def _typed(context: SessionContext) -> ConversionSeen | None:
    """From readings of both sides under one load; at no load the DC side alone is the idle draw."""
    pairs = list(_pairs(context))
    points, read = [(ac_w, dc.w) for ac_w, dc in pairs], [dc for _, dc in pairs]
    by = [
        r.instrument
        for segment in context.record.segments
        for _, _, r in segment.readings
        if r.quantity == "w" and not r.place.is_dc
    ]
    ac_by = by[-1] if by else ""
    if not points:
        return None
    seqs = tuple(dc.seq for dc in read)
    idle = [dc for (ac_w, _), dc in zip(points, read, strict=True) if ac_w < IDLE_BELOW_W]
    u_idle = max((dc.u_w for dc in idle), default=None)
    fit = fit_conversion(points, (0.0, 0.0))
    if fit is not None:
        return _analyse(context.record.kit, ac_by, read[-1].by, fit, "", seqs, u_idle)
    told = [
        _describe_point(context, ac_w, dc, ac_by)
        for (ac_w, _), dc in zip(points, read, strict=True)
        if ac_w >= IDLE_BELOW_W
    ]
    if u_idle is None:
        return ConversionSeen(fit=None, idle=None, top_w=0.0, u_share_pct=0.0, log="", findings=tuple(told))
    idle_w = sum(dc.w for dc in idle) / len(idle)
    value = Value(idle_w, "w", u_idle, None, Grade.A)
    working = Working(
        "idle = DC volts × DC amps at no load, the mean",
        f"({' + '.join(number(dc.w, 'w') for dc in idle)}) ÷ {len(idle)}",
        plain(idle_w, "w"),
    )
    stands = Finding(
        key="idle-typed",
        topic=Topic.CONVERSION,
        title="Idle",
        sentence=_idle_words(idle_w, seen=True),
        value=value,
        workings=(working,),
        seqs=seqs,
    )
    return ConversionSeen(fit=None, idle=value, top_w=0.0, u_share_pct=0.0, log="", findings=(*told, stands))


def _describe_point(context: SessionContext, ac_w: float, dc: _DcRead, ac_by: str) -> Finding:
    """One load with both sides read: what of the battery's watts reached it."""
    share_pct = ac_w / dc.w * 100
    u_pct = share_pct * (context.record.kit.u("w", ac_by, ac_w) / ac_w + dc.u_w / dc.w)
    working = Working(
        "conversion = AC ÷ DC, idle included",
        f"{plain(ac_w, 'w')} ÷ {plain(dc.w, 'w')}",
        plain(share_pct, "pct"),
        "both sides read under one load",
    )
    return Finding(
        key=f"conversion-{dc.seq}",
        topic=Topic.CONVERSION,
        title="Conversion",
        sentence=f"At {plain(ac_w, 'w')} the battery gave {plain(dc.w, 'w')}: {plain(share_pct, 'pct')} of it reached the load.",
        value=Value(share_pct, "pct", u_pct, None, Grade.A),
        workings=(working,),
        seqs=(dc.seq,),
        needs="two loads more, for its losses at any load (Idle)",
    )


def _u_dc(kit: Kit, slug: str, w: float) -> float:
    """How unsure DC watts are: read, or volts times amps whose relative errors add."""
    measure = kit.instrument_for("dc_w", slug)
    if measure.measure("dc_w") is not None:
        return kit.u("dc_w", slug, w)
    return w * (kit.u("dc_a", slug, 100.0) + kit.u("dc_v", slug, 100.0)) / 100.0


def _idle_words(idle_w: float, *, seen: bool) -> str:
    return f"It draws {plain(idle_w, 'w')} from the battery at no load{'' if seen else ', by the fit'}: {plain(idle_w * 24, 'wh')} a day."


def _analyse(
    kit: Kit, ac_by: str, dc_by: str, fit: Conversion, log: str, seqs: tuple[int, ...], u_typed_w: float | None = None
) -> ConversionSeen:
    top_w = max(fit.ac_w)
    share = fit.share_at(top_w)
    dc_w = top_w / share
    u_pct = (
        100 * (kit.u("w", ac_by, top_w) * dc_w / top_w + _u_dc(kit, dc_by, dc_w)) / dc_w * share + 100 * fit.u_w / dc_w
    )
    span = (fit.t0_s, fit.t1_s) if log else None
    curve = Working(
        "loss = DC − AC, fitted as p₀ + p₁·P + p₂·P²",
        f"{len(fit.ac_w)} steady stretches up to {plain(top_w, 'w')}",
        f"{plain(fit.p0_w, 'w')} + {fit.p1:.3f}·P + {fit.p2:.2e}·P²",
        "non-negative least squares; scatter " + plain(fit.u_w, "w"),
        rows_of(Method.LOSS, ("W of AC", "W lost"), ((ac, dc - ac) for ac, dc in zip(fit.ac_w, fit.dc_w, strict=True))),
    )
    at_top = Working(
        "conversion = AC ÷ DC, idle included", f"{number(top_w, 'w')} ÷ {number(dc_w, 'w')}", plain(share * 100, "pct")
    )
    seen = fit.idle_w is not None
    idle_w = fit.p0_w if fit.idle_w is None else fit.idle_w
    u_idle = (
        u_typed_w
        if u_typed_w is not None
        else _u_dc(kit, dc_by, idle_w) + (0.0 if seen else 2 * fit.u_w + 0.02 * idle_w)
    )
    idle = Value(idle_w, "w", u_idle, None, Grade.A if seen else Grade.B)
    put_in = f"{number(idle_w, 'w')}, as {'read' if seen else 'fitted'}"
    tail = log or "typed"
    findings = (
        Finding(
            key=f"conversion-{tail}",
            topic=Topic.CONVERSION,
            title="Conversion",
            sentence=f"Of what the battery gives, {plain(share * 100, 'pct')} reaches the load at {plain(top_w, 'w')}, "
            f"{plain(fit.share_at(top_w / 4) * 100, 'pct')} at a quarter of that.",
            value=Value(share * 100, "pct", u_pct, None, Grade.A),
            workings=(curve, at_top),
            seqs=seqs,
            needs="",
            span=span,
            log=log,
        ),
        Finding(
            key=f"idle-{tail}",
            topic=Topic.CONVERSION,
            title="Idle",
            sentence=_idle_words(idle_w, seen=seen),
            value=idle,
            workings=(Working("idle = DC watts at no load", put_in, plain(idle_w, "w")), curve),
            seqs=seqs,
            needs="" if seen else "the DC side at no load (Idle)",
            span=span,
            log=log,
        ),
    )
    return ConversionSeen(fit=fit, idle=idle, top_w=top_w, u_share_pct=u_pct, log=log, findings=findings)
