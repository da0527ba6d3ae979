"""The shelf: planning figures for the appliances a home is likely to hold (grade D)."""

from __future__ import annotations

from dataclasses import dataclass

from .loads import ALL_DAY, MICROWAVE_INPUT_PER_COOKING_W, Caller, Duty, Kind, kind_of


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

    @property
    def kind_figures(self) -> Kind:
        """Planning figures of its kind."""
        return kind_of(self.kind)

    @property
    def planning_pf(self) -> float:
        """Power factor: its own, else that of its kind."""
        return self.kind_figures.pf if self.pf is None else self.pf


HAND = Caller.HAND
MEALS = (6, 7, 11, 12, 16, 17, 18)
EVENING = (6, 7, 16, 17, 18, 19, 20, 21, 22)
WORK = tuple(range(8, 18))

SHELF = (
    ShelfLoad("fridge", "fridge, 250 L", "motor", 110, Duty(15, 30), also=("refrigerator", "fridge")),
    ShelfLoad("chest-freezer", "chest freezer, 200 L", "motor", 120, Duty(15, 30), also=("chest freezer", "freezer")),
    ShelfLoad("sample-freezer", "low-temperature freezer", "compressor", 420, Duty(20, 20)),
    ShelfLoad("sump-pump", "sump pump, half horse", "motor", 520, Duty(2, 18), also=("sump pump",)),
    ShelfLoad("borehole-pump", "borehole pump, one horse", "motor_loaded", 1150, Duty(3, 27), also=("borehole pump", "well pump")),
    ShelfLoad("booster-pump", "booster pump, small", "motor", 370, Duty(2, 28), EVENING, also=("booster pump",)),
    ShelfLoad("circulator", "heating circulator", "motor", 60, Duty(20, 10), also=("circulator",)),
    ShelfLoad("oil-boiler", "oil boiler with pump", "furnace", 320, Duty(12, 18), also=("oil boiler", "boiler")),
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
    ShelfLoad("washer", "washing machine", "universal", 450, Duty(10, 5, HAND), (9, 10), also=("washer", "washing machine")),
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
    ShelfLoad("cpap", "breathing support at night", "electronic", 40, Duty(), (22, 23, 0, 1, 2, 3, 4, 5), 0.65),
    ShelfLoad("incubator", "egg incubator", "heater", 120, Duty(10, 20), also=("incubator",)),
    ShelfLoad("extractor", "extractor fan", "fan", 60, Duty(10, 20, HAND), MEALS, also=("extractor",)),
    ShelfLoad("vacuum", "vacuum cleaner", "universal", 900, Duty(10, 50, HAND), (10,), also=("vacuum",)),
    ShelfLoad("table-saw", "band saw", "motor_loaded", 1100, Duty(5, 25, HAND), WORK, also=("saw", "band saw")),
    ShelfLoad("compressor", "air compressor, two horse", "motor_loaded", 1600, Duty(4, 16), WORK, also=("air compressor",)),
    ShelfLoad("welder", "welder, small", "welder", 3200, Duty(2, 8, HAND), (10, 11, 14, 15), also=("welder",)),
    ShelfLoad("hoist", "hoist", "motor_loaded", 900, Duty(2, 58, HAND), WORK, also=("hoist",)),
    ShelfLoad("garage-door", "garage door opener", "motor", 550, Duty(1, 59, HAND), (7, 8, 17, 18), also=("garage door",)),
)  # fmt: skip
"""Trade planning figures, rounded; every entry grade D until something better is known."""

BY_SLUG = {entry.slug: entry for entry in SHELF}


def find_on_shelf(words: str) -> ShelfLoad | None:
    """The shelf entry that these words name, or None: exact name first, then the longest alias."""
    text = " ".join(words.lower().split())
    if not text:
        return None
    for entry in SHELF:
        if text in (entry.slug, entry.name.lower()):
            return entry
    hits = [
        (len(alias), entry)
        for entry in SHELF
        for alias in (entry.name.lower(), *entry.also)
        if f" {alias} " in f" {text} "
    ]
    return max(hits, key=lambda hit: hit[0])[1] if hits else None
