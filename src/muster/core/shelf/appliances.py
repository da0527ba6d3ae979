"""The shelf: planning figures for the appliances a home is likely to hold (grade D)."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from ..errors import MusterError, OutOfRange, require_above, require_between
from ..loads import ALL_DAY, MICROWAVE_INPUT_PER_COOKING_W, Caller, Duty, Kind, Load, Part, kind_of, short_name


@dataclass(frozen=True)
class ShelfLoad:
    """A kind of appliance with planning figures; ``also`` are other words for it."""

    slug: str
    name: str
    kind: str
    run_w: float
    duty: Duty = Duty()
    hours: tuple[int, ...] = ALL_DAY
    pf: float | None = None
    also: tuple[str, ...] = ()
    parts: tuple[Part, ...] = ()

    def __post_init__(self) -> None:
        if not re.fullmatch(r"[a-z0-9][a-z0-9-]{0,39}", self.slug):
            raise MusterError(
                f"got “{self.slug}”", where="slug", want="letters, digits and dashes, such as chest-freezer"
            )
        if not self.name.strip():
            raise MusterError("an entry needs a name", where="name", want="such as chest freezer, 200 L")
        kind_of(self.kind)
        require_above(self.run_w, 0, "run_w")
        require_between(self.run_w, 0, 100_000, "run_w")
        if self.pf is not None:
            require_above(self.pf, 0, "pf")
            require_between(self.pf, 0, 1, "pf")
        if any(not 0 <= hour <= 23 for hour in self.hours):
            raise OutOfRange("an hour lies outside the day", where="hours", want="0 to 23")

    @property
    def kind_figures(self) -> Kind:
        """Planning figures of its kind."""
        return kind_of(self.kind)

    @property
    def in_parts(self) -> bool:
        """Whether its run is more than one level."""
        return bool(self.parts or self.kind_figures.parts)

    @property
    def planning_pf(self) -> float:
        """Power factor: its own, else that of its kind."""
        return self.kind_figures.pf if self.pf is None else self.pf


HAND = Caller.HAND
MEALS = (6, 7, 11, 12, 16, 17, 18)
EVENING = (6, 7, 16, 17, 18, 19, 20, 21, 22)
WORK = tuple(range(8, 18))

BOILER_PARTS = (
    Part(name="ignition", run_w=90, pf=0.9, from_s=0.0, for_s=20.0),
    Part(name="burner", run_w=160, pf=0.7, start_x=5.0, start_s=0.5),
    Part(name="circulator", run_w=60, pf=0.7, from_s=60.0, start_x=3.0, start_s=0.4),
)
"""An oil boiler's call: ignition spark while the burner lights, burner motor throughout, then the circulator."""
STOVE_PARTS = (
    Part(name="exhaust fan", run_w=40, pf=0.7, start_x=3.0, start_s=1.0),
    Part(name="igniter", run_w=130, pf=1.0, from_s=30.0, for_s=240.0),
    Part(name="auger and blower", run_w=60, pf=0.7, from_s=300.0, start_x=3.0, start_s=1.0),
)
WASH_PARTS = (
    Part(name="tumbles", run_w=250, pf=0.7, from_s=0.0, for_s=1800.0, start_x=2.5, start_s=0.4),
    Part(name="spins", run_w=450, pf=0.7, from_s=2100.0, for_s=480.0, start_x=2.5, start_s=3.0),
)
DISH_PARTS = (
    Part(name="washes", run_w=120, pf=0.7, from_s=0.0, for_s=4200.0, start_x=3.0, start_s=0.4),
    Part(name="heats water", run_w=1700, pf=1.0, from_s=300.0, for_s=900.0),
    Part(name="heats the rinse", run_w=1700, pf=1.0, from_s=3000.0, for_s=600.0),
)
"""Programs of an ordinary cold-fill washer and of a dishwasher: watts and times rounded from common booklets."""

SHELF = (
    ShelfLoad(slug="fridge", name="fridge, 250 L", kind="motor", run_w=110, duty=Duty(15, 30), also=("refrigerator", "fridge")),
    ShelfLoad(slug="chest-freezer", name="chest freezer, 200 L", kind="motor", run_w=120, duty=Duty(15, 30), also=("chest freezer", "freezer")),
    ShelfLoad(slug="sample-freezer", name="low-temperature freezer", kind="compressor", run_w=420, duty=Duty(20, 20)),
    ShelfLoad(slug="sump-pump", name="sump pump, half horse", kind="motor", run_w=520, duty=Duty(2, 18), also=("sump pump",)),
    ShelfLoad(slug="borehole-pump", name="borehole pump, one horse", kind="motor_loaded", run_w=1150, duty=Duty(3, 27), also=("borehole pump", "well pump")),
    ShelfLoad(slug="booster-pump", name="booster pump, small", kind="motor", run_w=370, duty=Duty(2, 28), hours=EVENING, also=("booster pump",)),
    ShelfLoad(slug="circulator", name="heating circulator", kind="motor", run_w=60, duty=Duty(20, 10), also=("circulator",)),
    ShelfLoad(slug="oil-boiler", name="oil boiler with pump", kind="furnace", run_w=320, duty=Duty(12, 18), also=("oil boiler", "boiler"), parts=BOILER_PARTS),
    ShelfLoad(slug="furnace-blower", name="warm-air furnace", kind="furnace", run_w=650, duty=Duty(10, 15), also=("furnace",)),
    ShelfLoad(slug="heat-pump", name="heat pump, fixed speed", kind="compressor", run_w=2100, duty=Duty(15, 15), also=("heat pump", "heat-pump")),
    ShelfLoad(slug="heat-pump-inverter", name="heat pump, inverter-driven", kind="compressor_inverter", run_w=1200, duty=Duty(40, 20)),
    ShelfLoad(slug="room-cooler", name="window air conditioner", kind="compressor", run_w=900, duty=Duty(15, 15), also=("air conditioner",)),
    ShelfLoad(slug="dehumidifier", name="dehumidifier", kind="compressor", run_w=290, duty=Duty(30, 30), also=("dehumidifier",)),
    ShelfLoad(slug="bread-oven", name="bread oven", kind="heater", run_w=1960, duty=Duty(8, 8, HAND), hours=(6, 7), also=("bread oven", "oven")),
    ShelfLoad(slug="hob-ring", name="hob ring", kind="heater", run_w=1500, duty=Duty(6, 6, HAND), hours=MEALS, also=("hob",)),
    ShelfLoad(slug="induction-hob", name="induction hob, portable", kind="electronic", run_w=1800, duty=Duty(8, 12, HAND), hours=MEALS, pf=0.95, also=("induction",)),
    ShelfLoad(slug="griddle", name="griddle", kind="heater", run_w=1700, duty=Duty(10, 10, HAND), hours=MEALS, also=("griddle", "hotplate")),
    ShelfLoad(slug="kettle", name="kettle", kind="heater", run_w=1480, duty=Duty(4, 56, HAND), hours=EVENING, also=("kettle",)),
    ShelfLoad(slug="toaster", name="toaster", kind="heater", run_w=900, duty=Duty(3, 57, HAND), hours=(6, 7, 8), also=("toaster",)),
    ShelfLoad(slug="microwave", name="microwave, 800 W cooking", kind="microwave", run_w=800 * MICROWAVE_INPUT_PER_COOKING_W, duty=Duty(4, 56, HAND), hours=MEALS, also=("microwave",)),
    ShelfLoad(slug="coffee", name="coffee maker", kind="heater", run_w=950, duty=Duty(8, 52, HAND), hours=(6, 7, 15), also=("coffee",)),
    ShelfLoad(slug="washer", name="washing machine", kind="universal", run_w=450, duty=Duty(45, 0, HAND, once=True), hours=(9, 10), also=("washer", "washing machine"), parts=WASH_PARTS),
    ShelfLoad(slug="dryer-heatpump", name="clothes dryer, heat pump", kind="compressor", run_w=800, duty=Duty(40, 5, HAND), hours=(10, 11)),
    ShelfLoad(slug="water-heater", name="water heater, 3 kW", kind="heater", run_w=3000, duty=Duty(15, 45), also=("water heater", "immersion")),
    ShelfLoad(slug="room-heater", name="room heater, 1 kW", kind="heater", run_w=1000, duty=Duty(10, 10), hours=EVENING, also=("room heater", "heater")),
    ShelfLoad(slug="lights", name="LED lights of a house", kind="electronic", run_w=90, duty=Duty(), hours=EVENING, pf=0.85, also=("led lights", "lights")),
    ShelfLoad(slug="filament-lamps", name="filament lamps, three", kind="filament", run_w=180, duty=Duty(), hours=EVENING, also=("lamps", "lamp")),
    ShelfLoad(slug="seed-lights", name="seed-tray lights", kind="electronic", run_w=140, duty=Duty(), hours=tuple(range(6, 20)), pf=0.92, also=("seed-tray lights", "grow lights")),
    ShelfLoad(slug="television", name="television", kind="electronic", run_w=90, duty=Duty(), hours=(18, 19, 20, 21, 22), pf=0.90, also=("television", "tv")),
    ShelfLoad(slug="router", name="router and modem", kind="electronic", run_w=18, pf=0.60, also=("router", "modem", "wifi", "wi-fi", "broadband")),
    ShelfLoad(slug="laptop", name="laptop charger", kind="electronic", run_w=65, duty=Duty(30, 30, HAND), hours=WORK, pf=0.65, also=("laptop",)),
    ShelfLoad(slug="phone-chargers", name="phone chargers", kind="electronic", run_w=20, duty=Duty(60, 60, HAND), pf=0.60, also=("phone",)),
    ShelfLoad(slug="radio", name="radio link", kind="electronic", run_w=45, pf=0.70, also=("radio",)),
    ShelfLoad(slug="oxygen", name="oxygen concentrator", kind="medical", run_w=350, also=("oxygen concentrator", "oxygen")),
    ShelfLoad(slug="cpap", name="breathing support at night", kind="electronic", run_w=40, duty=Duty(), hours=(0, 1, 2, 3, 4, 5, 22, 23), pf=0.65),
    ShelfLoad(slug="incubator", name="egg incubator", kind="heater", run_w=120, duty=Duty(10, 20), also=("incubator",)),
    ShelfLoad(slug="extractor", name="extractor fan", kind="fan", run_w=60, duty=Duty(10, 20, HAND), hours=MEALS, also=("extractor",)),
    ShelfLoad(slug="vacuum", name="vacuum cleaner", kind="universal", run_w=900, duty=Duty(10, 50, HAND), hours=(10,), also=("vacuum",)),
    ShelfLoad(slug="table-saw", name="band saw", kind="motor_loaded", run_w=1100, duty=Duty(5, 25, HAND), hours=WORK, also=("saw", "band saw")),
    ShelfLoad(slug="compressor", name="air compressor, two horse", kind="motor_loaded", run_w=1600, duty=Duty(4, 16), hours=WORK, also=("air compressor",)),
    ShelfLoad(slug="welder", name="welder, small", kind="welder", run_w=3200, duty=Duty(2, 8, HAND), hours=(10, 11, 14, 15), also=("welder",)),
    ShelfLoad(slug="hoist", name="hoist", kind="motor_loaded", run_w=900, duty=Duty(2, 58, HAND), hours=WORK, also=("hoist",)),
    ShelfLoad(slug="garage-door", name="garage door opener", kind="motor", run_w=550, duty=Duty(1, 59, HAND), hours=(7, 8, 17, 18), also=("garage door",)),
    ShelfLoad(slug="fridge-freezer", name="fridge-freezer, tall", kind="motor", run_w=150, duty=Duty(18, 27), also=("fridge-freezer", "fridge freezer")),
    ShelfLoad(slug="wine-cooler", name="drinks cooler", kind="motor", run_w=85, duty=Duty(10, 30), also=("drinks cooler", "wine cooler")),
    ShelfLoad(slug="ice-maker", name="ice maker", kind="compressor", run_w=180, duty=Duty(20, 20), hours=(11, 12, 16, 17, 18), also=("ice maker",)),
    ShelfLoad(slug="pool-pump", name="pool pump, one horse", kind="motor", run_w=1100, duty=Duty(), hours=tuple(range(9, 17)), also=("pool pump",)),
    ShelfLoad(slug="sewage-pump", name="sewage lift pump", kind="motor_loaded", run_w=900, duty=Duty(2, 58), also=("sewage pump", "lift pump")),
    ShelfLoad(slug="pressure-washer", name="pressure washer", kind="universal", run_w=1800, duty=Duty(10, 20, HAND), hours=(10, 11), also=("pressure washer",)),
    ShelfLoad(slug="attic-fan", name="attic fan", kind="fan", run_w=300, duty=Duty(20, 20), hours=tuple(range(11, 19)), also=("attic fan",)),
    ShelfLoad(slug="ceiling-fan", name="ceiling fan", kind="fan", run_w=65, duty=Duty(), hours=tuple(range(12, 24)), also=("ceiling fan", "fan")),
    ShelfLoad(slug="heat-recovery", name="heat recovery ventilation", kind="electronic", run_w=80, pf=0.6, also=("ventilation", "heat recovery")),
    ShelfLoad(slug="mini-split", name="split air conditioner, inverter-driven", kind="compressor_inverter", run_w=850, duty=Duty(40, 20), also=("mini-split", "split air conditioner")),
    ShelfLoad(slug="central-cooler", name="central air conditioner, three tons", kind="compressor", run_w=3500, duty=Duty(15, 15), also=("central air", "central air conditioner")),
    ShelfLoad(slug="soft-cooler", name="central air conditioner with soft starter", kind="compressor_soft", run_w=3500, duty=Duty(15, 15), also=("soft starter",)),
    ShelfLoad(slug="pellet-stove", name="pellet stove", kind="furnace", run_w=180, duty=Duty(30, 15), also=("pellet stove",), parts=STOVE_PARTS),
    ShelfLoad(slug="underfloor", name="electric floor heating, bathroom", kind="heater", run_w=450, duty=Duty(15, 30), hours=EVENING, also=("floor heating",)),
    ShelfLoad(slug="towel-rail", name="towel rail", kind="heater", run_w=300, duty=Duty(), hours=(6, 7, 19, 20), also=("towel rail",)),
    ShelfLoad(slug="fan-heater", name="fan heater, 2 kW", kind="heater", run_w=2000, duty=Duty(15, 15, HAND), hours=EVENING, also=("fan heater",)),
    ShelfLoad(slug="range", name="cooking range, oven and two rings", kind="heater", run_w=5200, duty=Duty(10, 10, HAND), hours=MEALS, also=("range", "cooker")),
    ShelfLoad(slug="slow-cooker", name="slow cooker", kind="heater", run_w=220, duty=Duty(20, 10), hours=tuple(range(9, 18)), also=("slow cooker",)),
    ShelfLoad(slug="rice-cooker", name="rice cooker", kind="heater", run_w=600, duty=Duty(20, 100, HAND), hours=(11, 17), also=("rice cooker",)),
    ShelfLoad(slug="blender", name="blender", kind="universal", run_w=500, duty=Duty(1, 59, HAND), hours=MEALS, also=("blender", "mixer")),
    ShelfLoad(slug="dishwasher", name="dishwasher", kind="motor", run_w=1820, duty=Duty(75, 0, HAND, once=True), hours=(19, 20), pf=0.97, also=("dishwasher",), parts=DISH_PARTS),
    ShelfLoad(slug="dryer-vented", name="clothes dryer, vented", kind="heater", run_w=2700, duty=Duty(8, 3, HAND), hours=(10, 11), pf=0.98, also=("dryer", "clothes dryer")),
    ShelfLoad(slug="iron", name="clothes iron", kind="heater", run_w=1600, duty=Duty(2, 4, HAND), hours=(10,), also=("iron",)),
    ShelfLoad(slug="hair-dryer", name="hair dryer", kind="universal", run_w=1500, duty=Duty(5, 55, HAND), hours=(7, 8), pf=0.98, also=("hair dryer",)),
    ShelfLoad(slug="computer", name="desktop computer and screen", kind="electronic", run_w=160, duty=Duty(), hours=WORK, pf=0.92, also=("computer", "desktop")),
    ShelfLoad(slug="printer", name="laser printer", kind="heater", run_w=500, duty=Duty(1, 30, HAND), hours=WORK, also=("printer",)),
    ShelfLoad(slug="alarm", name="alarm and cameras", kind="electronic", run_w=35, pf=0.6, also=("alarm", "cameras")),
    ShelfLoad(slug="stair-lift", name="stair lift", kind="electronic", run_w=250, duty=Duty(1, 29, HAND), hours=tuple(range(7, 23)), pf=0.7, also=("stair lift",)),
    ShelfLoad(slug="hospital-bed", name="adjustable bed and mattress pump", kind="medical", run_w=120, also=("hospital bed", "mattress pump")),
    ShelfLoad(slug="medicine-fridge", name="medicine fridge", kind="motor", run_w=70, duty=Duty(12, 28), also=("medicine fridge",)),
    ShelfLoad(slug="aquarium", name="aquarium, pump and heater", kind="heater", run_w=180, duty=Duty(20, 20), also=("aquarium",)),
    ShelfLoad(slug="car-charger", name="car charging from a socket", kind="electronic", run_w=2300, duty=Duty(), hours=(0, 1, 2, 3, 4, 5, 22, 23), pf=0.98, also=("car charger", "car charging")),
    ShelfLoad(slug="well-soft", name="borehole pump with drive", kind="compressor_inverter", run_w=1100, duty=Duty(5, 25), also=("pump with drive",)),
    ShelfLoad(slug="milking", name="milking pump", kind="motor_loaded", run_w=1500, duty=Duty(60, 60, HAND), hours=(5, 6, 17, 18), also=("milking pump",)),
    ShelfLoad(slug="grinder", name="bench grinder", kind="universal", run_w=600, duty=Duty(2, 28, HAND), hours=WORK, also=("grinder",)),
    ShelfLoad(slug="drill", name="drill press", kind="motor", run_w=550, duty=Duty(3, 27, HAND), hours=WORK, also=("drill",)),
)  # fmt: skip
"""Trade planning figures, rounded; every entry grade D until something better is known."""

BY_SLUG = {entry.slug: entry for entry in SHELF}


def find_on_shelf(words: str, own: Iterable[ShelfLoad] = ()) -> ShelfLoad | None:
    """The shelf entry that these words name, or None: exact name first, then the longest alias; one's ``own`` come first."""
    text = " ".join(words.lower().split())
    if not text:
        return None
    entries = (*own, *SHELF)
    for entry in entries:
        if text in (entry.slug, entry.name.lower()):
            return entry
    hits = [
        (len(alias), entry)
        for entry in entries
        for alias in (entry.name.lower(), *entry.also)
        if f" {alias} " in f" {text} "
    ]
    return max(hits, key=lambda hit: hit[0])[1] if hits else None


def slug_of(name: str) -> str:
    """A slug for a name: lower case, dashes between words."""
    return re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40].strip("-") or "entry"


def from_load(load: Load) -> ShelfLoad:
    """A load of a home as a shelf entry of one's own: its figures, its rhythm, its parts."""
    return ShelfLoad(
        slug=slug_of(load.name), name=load.name, kind=load.kind, run_w=load.run_w, duty=load.duty, hours=load.hours, pf=load.pf,
        also=(short_name(load).lower(),), parts=load.parts,
    )  # fmt: skip
