"""The field cases as somebody types them: the home, the source, and the lines in the order in which they were jotted."""

from __future__ import annotations

from dataclasses import dataclass, field

from muster.core.sources import Claims, SourceKind, Wires


@dataclass(frozen=True)
class Sitting:
    """One session of a case: its protocol, and what was typed; ``began`` as the form says it, empty for now."""

    protocol: str
    lines: tuple[str, ...]
    began: str = ""


@dataclass(frozen=True)
class FieldCase:
    """A case: the supply, the source, the loads by line, and its sittings."""

    name: str
    supply: str
    kind: SourceKind
    claims: Claims
    sittings: tuple[Sitting, ...]
    loads: tuple[str, ...] = ()
    wires: Wires = field(default_factory=Wires)


CASES = (
    FieldCase(
        name="F1 a generator climbed without pressing anything",
        supply="single-120-60",
        kind=SourceKind.INVERTER_SET,
        claims=Claims(2800),
        sittings=(
            Sitting(
                "ladder",
                (
                    "09:00 123v 60hz 54db@7m",
                    "09:02 640w 122v",
                    "09:06 1510w 121.1v",
                    "09:09 2200w 120v 63db",
                    "09:11 2790w 118.9v",
                    "09:25 2800w 118.8v 66db",
                    "09:26 3390w",
                    "09:26:31 went off, overload light",
                    "09:27 reset, back",
                ),
            ),
        ),
    ),
    FieldCase(
        name="F2 a station run empty slowly, charged, run empty fast",
        supply="single-120-60",
        kind=SourceKind.STATION,
        claims=Claims(1800, battery_wh=2200),
        sittings=(
            Sitting(
                "endurance",
                (
                    "07:30 100% on",
                    "10:30 88% 0.21kwh",
                    "15:00 70% 0.52kwh",
                    "19:30 52% 0.83kwh",
                    "next day 01:30 30% 1.21kwh",
                    "07:30 12% 1.49kwh",
                    "11:00 0%, off by itself, 1.66kwh",
                ),
            ),
            Sitting("recharge", ("12:00 0%", "12:00 drawing 520w, display 455w", "17:10 100% 2.48kwh")),
            Sitting("endurance", ("09:00 100%, 1.2kw", "10:36 0% 1.93kwh off")),
        ),
    ),
    FieldCase(
        name="F3 a furnace on a station overnight, in percent only",
        supply="single-120-60",
        kind=SourceKind.STATION,
        claims=Claims(1000, battery_wh=1100, usable_pct=85),
        loads=("furnace: blower 310 W, inducer 55 W, igniter 380 W for 35 s at each call",),
        sittings=(
            Sitting(
                "endurance",
                (
                    "20:00 100%, -6 °C outside, 18 °C inside",
                    "23:10 76%",
                    "01:40 54%",
                    "04:30 28%",
                    "07:50 1%, just quit",
                    "cord 15 m 12 AWG",
                ),
            ),
        ),
    ),
    FieldCase(
        name="F4 an overload in three goes",
        supply="single-120-60",
        kind=SourceKind.STATION,
        claims=Claims(3000, battery_wh=3000),
        sittings=(
            Sitting(
                "overload",
                (
                    "3050w 10 min fine",
                    "3600w, off after 12 s",
                    "back by itself after 8 s",
                    "4200w, off after 2.2 s",
                    "back on its own in about 8 seconds",
                ),
            ),
        ),
    ),
    FieldCase(
        name="F5 a governor moved in the middle",
        supply="single-230-50",
        kind=SourceKind.OPEN_FRAME,
        claims=Claims(3200),
        sittings=(
            Sitting(
                "set_point",
                (
                    "no load 50.0",
                    "1.6kw 48.4",
                    "turned the screw half a turn",
                    "no load 52.1",
                    "1.6kw 50.6",
                    "3.1kw 49.1",
                    "clock 63s in 60s",
                ),
            ),
        ),
    ),
    FieldCase(
        name="F6 a 12 V inverter on the table",
        supply="single-120-60",
        kind=SourceKind.INVERTER,
        claims=Claims(2500),
        wires=Wires(dc_lead="free_mm2:35", dc_lead_m=0.8, dc_leads=2, dc_fuse_a=300),
        loads=("saw 1200w",),
        sittings=(
            Sitting("idle", ("12.8v dc 0.82a idle",)),
            Sitting("starts", ("saw starts, 115v to 104 then 114",)),
            Sitting("ladder", ("2480w 10.9v dc 262a, 109v out, 11 min, warm", "59.7hz")),
            Sitting("cut_offs", ("walked down: off at 10.4v", "back at 12.6v", "up: off at 15.2", "back at 14.9")),
        ),
    ),
    FieldCase(
        name="F7 two blowers on one leg",
        supply="split-120-240-60",
        kind=SourceKind.HYBRID,
        claims=Claims(5000, per_leg_w=2500),
        sittings=(
            Sitting(
                "ladder",
                (
                    "310w l1 420w l2",
                    "both on together: clamp max 48.3a l2",
                    "error F7 came and went",
                    "4.3kw l2 0.98pf, 0.31kw l1, 5 min, neutral 33a",
                    "cords warm",
                ),
            ),
        ),
    ),
    FieldCase(
        name="F8 a noise walk in feet",
        supply="single-120-60",
        kind=SourceKind.OPEN_FRAME,
        claims=Claims(2200),
        sittings=(
            Sitting(
                "noise_walk",
                (
                    "background 46",
                    "no load: 74 @ 3 ft, 60 @ 20 ft, 55.5 @ 35 ft, 52 @ 60 ft",
                    "1.4 kw: 71 @ 10 ft, 68 @ 20 ft, 63.5 @ 35 ft, 59 @ 60 ft",
                ),
            ),
        ),
    ),
    FieldCase(
        name="F9 a microwave on two sources",
        supply="single-120-60",
        kind=SourceKind.INVERTER,
        claims=Claims(2000),
        loads=("microwave 1400w",),
        sittings=(
            Sitting("heating_check", ("0.8 L, 160 s, 15.5 to 45 °C, 117 V, 1420 W",)),
            Sitting("heating_check", ("0.8 L 160 s each, 15.5 to 35.5 °C, 121 V, 1040 W, buzzed",)),
        ),
    ),
    FieldCase(
        name="F11 a trip told in plain words",
        supply="split-120-240-60",
        kind=SourceKind.HYBRID,
        claims=Claims(5000, battery_a=100, conversion_pct=96),
        sittings=(
            Sitting(
                "overload",
                ("4.9kw for 20 min", "dc 51.2v", "5.4kw went dark after about a minute", "came back by itself in 25 s"),
            ),
        ),
    ),
)
