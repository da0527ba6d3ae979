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
    Part("ignition", 90, 0.9, 0.0, 20.0),
    Part("burner", 160, 0.7, start_x=5.0, start_s=0.5),
    Part("circulator", 60, 0.7, 60.0, start_x=3.0, start_s=0.4),
)
"""An oil boiler's call: ignition spark while the burner lights, burner motor throughout, then the circulator."""
STOVE_PARTS = (
    Part("exhaust fan", 40, 0.7, start_x=3.0, start_s=1.0),
    Part("igniter", 130, 1.0, 30.0, 240.0),
    Part("auger and blower", 60, 0.7, 300.0, start_x=3.0, start_s=1.0),
)
WASH_PARTS = (Part("tumbles", 250, 0.7, 0.0, 1800.0, 2.5, 0.4), Part("spins", 450, 0.7, 2100.0, 480.0, 2.5, 3.0))
DISH_PARTS = (
    Part("washes", 120, 0.7, 0.0, 4200.0, 3.0, 0.4),
    Part("heats water", 1700, 1.0, 300.0, 900.0),
    Part("heats the rinse", 1700, 1.0, 3000.0, 600.0),
)
"""Programs of an ordinary cold-fill washer and of a dishwasher: watts and times rounded from common booklets."""

SHELF = (
    ShelfLoad("fridge", "fridge, 250 L", "motor", 110, Duty(15, 30), also=("refrigerator", "fridge")),
    ShelfLoad("chest-freezer", "chest freezer, 200 L", "motor", 120, Duty(15, 30), also=("chest freezer", "freezer")),
    ShelfLoad("sample-freezer", "low-temperature freezer", "compressor", 420, Duty(20, 20)),
    ShelfLoad("sump-pump", "sump pump, half horse", "motor", 520, Duty(2, 18), also=("sump pump",)),
    ShelfLoad("borehole-pump", "borehole pump, one horse", "motor_loaded", 1150, Duty(3, 27), also=("borehole pump", "well pump")),
    ShelfLoad("booster-pump", "booster pump, small", "motor", 370, Duty(2, 28), EVENING, also=("booster pump",)),
    ShelfLoad("circulator", "heating circulator", "motor", 60, Duty(20, 10), also=("circulator",)),
    ShelfLoad("oil-boiler", "oil boiler with pump", "furnace", 320, Duty(12, 18), also=("oil boiler", "boiler"), parts=BOILER_PARTS),
    ShelfLoad("furnace-blower", "warm-air furnace", "furnace", 650, Duty(10, 15), also=("furnace",)),
    ShelfLoad("heat-pump", "heat pump, fixed speed", "compressor", 2100, Duty(15, 15), also=("heat pump", "heat-pump")),
    ShelfLoad("heat-pump-inverter", "heat pump, inverter-driven", "compressor_inverter", 1200, Duty(40, 20)),
    ShelfLoad("room-cooler", "window air conditioner", "compressor", 900, Duty(15, 15), also=("air conditioner",)),
    ShelfLoad("dehumidifier", "dehumidifier", "compressor", 290, Duty(30, 30), also=("dehumidifier",)),
    ShelfLoad("bread-oven", "bread oven", "heater", 1960, Duty(8, 8, HAND), (6, 7), also=("bread oven", "oven")),
    ShelfLoad("hob-ring", "hob ring", "heater", 1500, Duty(6, 6, HAND), MEALS, also=("hob",)),
    ShelfLoad("induction-hob", "induction hob, portable", "electronic", 1800, Duty(8, 12, HAND), MEALS, 0.95, ("induction",)),
    ShelfLoad("kettle", "kettle", "heater", 1480, Duty(4, 56, HAND), EVENING, also=("kettle",)),
    ShelfLoad("toaster", "toaster", "heater", 900, Duty(3, 57, HAND), (6, 7, 8), also=("toaster",)),
    ShelfLoad("microwave", "microwave, 800 W cooking", "microwave", 800 * MICROWAVE_INPUT_PER_COOKING_W, Duty(4, 56, HAND), MEALS, also=("microwave",)),
    ShelfLoad("coffee", "coffee maker", "heater", 950, Duty(8, 52, HAND), (6, 7, 15), also=("coffee",)),
    ShelfLoad("washer", "washing machine", "universal", 450, Duty(45, 0, HAND, once=True), (9, 10), also=("washer", "washing machine"), parts=WASH_PARTS),
    ShelfLoad("dryer-heatpump", "clothes dryer, heat pump", "compressor", 800, Duty(40, 5, HAND), (10, 11)),
    ShelfLoad("water-heater", "water heater, 3 kW", "heater", 3000, Duty(15, 45), also=("water heater", "immersion")),
    ShelfLoad("room-heater", "room heater, 1 kW", "heater", 1000, Duty(10, 10), EVENING, also=("room heater", "heater")),
    ShelfLoad("lights", "LED lights of a house", "electronic", 90, Duty(), EVENING, 0.85, ("led lights", "lights")),
    ShelfLoad("filament-lamps", "filament lamps, three", "filament", 180, Duty(), EVENING, also=("lamps", "lamp")),
    ShelfLoad("seed-lights", "seed-tray lights", "electronic", 140, Duty(), tuple(range(6, 20)), 0.92, ("seed-tray lights", "grow lights")),
    ShelfLoad("television", "television", "electronic", 90, Duty(), (18, 19, 20, 21, 22), 0.90, ("television", "tv")),
    ShelfLoad("router", "router and modem", "electronic", 18, pf=0.60, also=("router", "modem")),
    ShelfLoad("laptop", "laptop charger", "electronic", 65, Duty(30, 30, HAND), WORK, 0.65, ("laptop",)),
    ShelfLoad("phone-chargers", "phone chargers", "electronic", 20, Duty(60, 60, HAND), pf=0.60, also=("phone",)),
    ShelfLoad("radio", "radio link", "electronic", 45, pf=0.70, also=("radio",)),
    ShelfLoad("oxygen", "oxygen concentrator", "medical", 350, also=("oxygen concentrator", "oxygen")),
    ShelfLoad("cpap", "breathing support at night", "electronic", 40, Duty(), (0, 1, 2, 3, 4, 5, 22, 23), 0.65),
    ShelfLoad("incubator", "egg incubator", "heater", 120, Duty(10, 20), also=("incubator",)),
    ShelfLoad("extractor", "extractor fan", "fan", 60, Duty(10, 20, HAND), MEALS, also=("extractor",)),
    ShelfLoad("vacuum", "vacuum cleaner", "universal", 900, Duty(10, 50, HAND), (10,), also=("vacuum",)),
    ShelfLoad("table-saw", "band saw", "motor_loaded", 1100, Duty(5, 25, HAND), WORK, also=("saw", "band saw")),
    ShelfLoad("compressor", "air compressor, two horse", "motor_loaded", 1600, Duty(4, 16), WORK, also=("air compressor",)),
    ShelfLoad("welder", "welder, small", "welder", 3200, Duty(2, 8, HAND), (10, 11, 14, 15), also=("welder",)),
    ShelfLoad("hoist", "hoist", "motor_loaded", 900, Duty(2, 58, HAND), WORK, also=("hoist",)),
    ShelfLoad("garage-door", "garage door opener", "motor", 550, Duty(1, 59, HAND), (7, 8, 17, 18), also=("garage door",)),
    ShelfLoad("fridge-freezer", "fridge-freezer, tall", "motor", 150, Duty(18, 27), also=("fridge-freezer", "fridge freezer")),
    ShelfLoad("wine-cooler", "drinks cooler", "motor", 85, Duty(10, 30), also=("drinks cooler", "wine cooler")),
    ShelfLoad("ice-maker", "ice maker", "compressor", 180, Duty(20, 20), (11, 12, 16, 17, 18), also=("ice maker",)),
    ShelfLoad("pool-pump", "pool pump, one horse", "motor", 1100, Duty(), tuple(range(9, 17)), also=("pool pump",)),
    ShelfLoad("sewage-pump", "sewage lift pump", "motor_loaded", 900, Duty(2, 58), also=("sewage pump", "lift pump")),
    ShelfLoad("pressure-washer", "pressure washer", "universal", 1800, Duty(10, 20, HAND), (10, 11), also=("pressure washer",)),
    ShelfLoad("attic-fan", "attic fan", "fan", 300, Duty(20, 20), tuple(range(11, 19)), also=("attic fan",)),
    ShelfLoad("ceiling-fan", "ceiling fan", "fan", 65, Duty(), tuple(range(12, 24)), also=("ceiling fan", "fan")),
    ShelfLoad("heat-recovery", "heat recovery ventilation", "electronic", 80, pf=0.6, also=("ventilation", "heat recovery")),
    ShelfLoad("mini-split", "split air conditioner, inverter-driven", "compressor_inverter", 850, Duty(40, 20), also=("mini-split", "split air conditioner")),
    ShelfLoad("central-cooler", "central air conditioner, three tons", "compressor", 3500, Duty(15, 15), also=("central air", "central air conditioner")),
    ShelfLoad("soft-cooler", "central air conditioner with soft starter", "compressor_soft", 3500, Duty(15, 15), also=("soft starter",)),
    ShelfLoad("pellet-stove", "pellet stove", "furnace", 180, Duty(30, 15), also=("pellet stove",), parts=STOVE_PARTS),
    ShelfLoad("underfloor", "electric floor heating, bathroom", "heater", 450, Duty(15, 30), EVENING, also=("floor heating",)),
    ShelfLoad("towel-rail", "towel rail", "heater", 300, Duty(), (6, 7, 19, 20), also=("towel rail",)),
    ShelfLoad("fan-heater", "fan heater, 2 kW", "heater", 2000, Duty(15, 15, HAND), EVENING, also=("fan heater",)),
    ShelfLoad("range", "cooking range, oven and two rings", "heater", 5200, Duty(10, 10, HAND), MEALS, also=("range", "cooker")),
    ShelfLoad("slow-cooker", "slow cooker", "heater", 220, Duty(20, 10), tuple(range(9, 18)), also=("slow cooker",)),
    ShelfLoad("rice-cooker", "rice cooker", "heater", 600, Duty(20, 100, HAND), (11, 17), also=("rice cooker",)),
    ShelfLoad("blender", "blender", "universal", 500, Duty(1, 59, HAND), MEALS, also=("blender", "mixer")),
    ShelfLoad("dishwasher", "dishwasher", "motor", 1820, Duty(75, 0, HAND, once=True), (19, 20), 0.97, ("dishwasher",), parts=DISH_PARTS),
    ShelfLoad("dryer-vented", "clothes dryer, vented", "heater", 2700, Duty(8, 3, HAND), (10, 11), 0.98, ("dryer", "clothes dryer")),
    ShelfLoad("iron", "clothes iron", "heater", 1600, Duty(2, 4, HAND), (10,), also=("iron",)),
    ShelfLoad("hair-dryer", "hair dryer", "universal", 1500, Duty(5, 55, HAND), (7, 8), 0.98, ("hair dryer",)),
    ShelfLoad("computer", "desktop computer and screen", "electronic", 160, Duty(), WORK, 0.92, ("computer", "desktop")),
    ShelfLoad("printer", "laser printer", "heater", 500, Duty(1, 30, HAND), WORK, also=("printer",)),
    ShelfLoad("alarm", "alarm and cameras", "electronic", 35, pf=0.6, also=("alarm", "cameras")),
    ShelfLoad("stair-lift", "stair lift", "electronic", 250, Duty(1, 29, HAND), tuple(range(7, 23)), 0.7, ("stair lift",)),
    ShelfLoad("hospital-bed", "adjustable bed and mattress pump", "medical", 120, also=("hospital bed", "mattress pump")),
    ShelfLoad("medicine-fridge", "medicine fridge", "motor", 70, Duty(12, 28), also=("medicine fridge",)),
    ShelfLoad("aquarium", "aquarium, pump and heater", "heater", 180, Duty(20, 20), also=("aquarium",)),
    ShelfLoad("car-charger", "car charging from a socket", "electronic", 2300, Duty(), (0, 1, 2, 3, 4, 5, 22, 23), 0.98, ("car charger", "car charging")),
    ShelfLoad("well-soft", "borehole pump with drive", "compressor_inverter", 1100, Duty(5, 25), also=("pump with drive",)),
    ShelfLoad("milking", "milking pump", "motor_loaded", 1500, Duty(60, 60, HAND), (5, 6, 17, 18), also=("milking pump",)),
    ShelfLoad("grinder", "bench grinder", "universal", 600, Duty(2, 28, HAND), WORK, also=("grinder",)),
    ShelfLoad("drill", "drill press", "motor", 550, Duty(3, 27, HAND), WORK, also=("drill",)),
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
        slug_of(load.name), load.name, load.kind, load.run_w, load.duty, load.hours, load.pf,
        (short_name(load).lower(),), load.parts,
    )  # fmt: skip
