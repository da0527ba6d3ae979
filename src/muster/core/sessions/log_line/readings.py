"""From figures to readings: of what, where, with which instrument, and at which moment."""

from __future__ import annotations

import re
from dataclasses import replace

from ..model import Reading
from ..places import Place, Stat
from .draft import ELECTRIC, LEAST_BATTERY_V, NEAR_NOMINAL, OUT
from .figures import LEAST_HZ, MOST_DC_V, Figure
from .placing import Placing
from .stats import Stats
from .unreal import is_of_oil

KW_MOST = 30.0
"""A bare number after ``at`` up to this is kilowatts."""
UNBALANCED_SUM = 0.06
"""With a neutral that gives way the legs part, and their sum stays that of both, as a share."""
LIKE_BEFORE = 0.15
"""A bare figure within this share of a battery's volts before it is of the battery again."""
BARE_OF_INSTRUMENT = {"clamp": "a"}
NO_LOAD = r"(?:at |on |with )?(?:nl(?= ?<F>| ?$)|no[- ]load|off[- ]load|unloaded|nothing (?:connected|plugged in|attached|on it)|zero load|not loaded|nothing (?:on|running)(?! it))"
IDLE = r"idle|idling|standby|standing by"


class Reader(Stats, Placing):
    """Makes readings of the figures of a line."""

    def run(self) -> list[tuple[int, Reading]]:
        """Every figure that came to be known, as a reading, with its place in the line."""
        self._no_load()
        self._in_and_out()
        self._pairs()
        self._instrument_words()
        self._place_words()
        self._bare_legs()
        self._listed()
        self._bare_by_nominal()
        self._chains()
        self._dips()
        self._for_a_moment()
        self._stat_words()
        self._bare_by_context()
        self._chains()
        self._ends_of_heating()
        self._no_such_hz()
        self._oil()
        self._water()
        self._idle()
        self._far_from_nominal()
        self._watts_beside_dc()
        self._charging()
        self._amps_of_the_battery()
        self._of_no_leg()
        for i, span in self.stat_words.items():
            if not self.figures[i].quantity:
                self.line.undo(*span)
        readings = [
            (f.start, reading)
            for i, f in enumerate(self.figures)
            if f.quantity and f.quantity != "degrees"
            for reading in self._of_both_legs(self._reading(i, f))
        ]
        nowhere = Place.LEG1 if self.system.legs == 1 else Place.TOTAL
        return sorted(
            [*readings, *((at, Reading(quantity="w", value=0.0, place=nowhere)) for at in self.zero_at)],
            key=lambda pair: pair[0],
        )

    def _pairs(self) -> None:
        """``61/56 a``: leg 1 and leg 2."""
        for i in range(len(self.figures) - 1):
            left, right = self.figures[i], self.figures[i + 1]
            slashed = re.fullmatch(r"\s*/\s*", self._between(i, i + 1))
            if (
                slashed
                and self.system.legs == 2
                and left.quantity == right.quantity
                and left.quantity in ("v", "a", "w")
            ):
                if not {i, i + 1} & set(self.places):
                    self.places[i], self.places[i + 1] = Place.LEG1, Place.LEG2  # ``22a / 15a``
                continue
            if left.quantity or not re.fullmatch(r"\s*/\s*", self._between(i, i + 1)) or self.system.legs != 2:
                continue
            near = self._near_nominal(left.number) == "v"
            if right.quantity in ELECTRIC or (not right.quantity and near):
                self._known(left, right.quantity or "v", right.factor)
                if not right.quantity:
                    self._known(right, "v")
                self.places[i], self.places[i + 1] = Place.LEG1, Place.LEG2

    def _of_no_leg(self) -> None:
        """Volts or amps of two places, of which the line does not say which leg each is of: none of them is guessed."""
        if self.system.legs != 2 or self.places or self.instruments:
            return
        for quantity in ("v", "a"):
            mine = [
                figure
                for i, figure in enumerate(self.figures)
                if figure.quantity == quantity
                and self.stats.get(i, Stat.STEADY) is Stat.STEADY
                and not (quantity == "v" and figure.value > (1 + NEAR_NOMINAL) * self.system.v_nominal)
            ]
            if len(mine) == 2 and not any(word in self.line.low for word in ("then", "display", "screen", "meter")):
                self.of_no_leg = [(figure.start, figure.end) for figure in mine]
                for figure in mine:
                    figure.quantity = ""
                    self.line.shield(figure.start, figure.end)

    def _bare_legs(self) -> None:
        """``L1 97, L2 146``: two legs whose bare figures make up both are volts, however far apart."""
        bare = {self.places.get(i): f for i, f in enumerate(self.figures) if not f.quantity}
        left, right = bare.get(Place.LEG1), bare.get(Place.LEG2)
        if left is None or right is None or len(self.figures) != 2:
            return
        both_v = self.system.legs * self.system.v_nominal
        if abs(left.number + right.number - both_v) <= UNBALANCED_SUM * both_v:
            self._known(left, "v")
            self._known(right, "v")

    def _in_and_out(self) -> None:
        """``in 620 out 300``: watts of the panels, watts of the output."""
        for match in list(self.line.find(r"in (?P<in><N>|<F>)[, ]+out (?P<out><N>|<F>)")):
            pair = {f.start: i for i, f in enumerate(self.figures) if f.quantity in ("", "w")}
            if not {match.start("in"), match.start("out")} <= set(pair):
                continue
            for name, place in (("in", Place.PANELS), ("out", OUT)):
                index = pair[match.start(name)]
                self._known(self.figures[index], "w", self.figures[index].factor)
                self.places[index] = place
            self.line.done(match)

    def _bare_by_nominal(self) -> None:
        """A number that stands alone near the nominal volts or hertz, beside nothing that says otherwise."""
        for i, figure in enumerate(self.figures):
            if figure.quantity or figure.number < 0:
                continue
            after = self.line.low[figure.end : figure.end + 12]
            if (
                re.match(r"\s*(?:\d|[a-z]+)", after)
                and not re.match(
                    r"\s*(?:to|then|and|min|max|low|high|lowest|highest|peak|before|after|settled|at|on|with|no|l[12]\b|leg|across|now|steady|out|for)\b",
                    after,
                )
                and not re.match(r"\s*[\ue000-\ue00d]", after)
            ):
                continue
            guess = self._near_nominal(figure.number)
            if guess == "hz" and self._goes_on_dc(i):
                self._known(figure, "v")
                self.places[i] = Place.DC
                continue
            integer_hz = guess == "hz" and figure.step >= 1
            if guess and not (integer_hz and not self._hz_wanted(i)) and not self._spoken_of(i):
                self._known(figure, guess)

    def _goes_on_dc(self, i: int) -> bool:
        """``53.1 v at rest, 52.2 with 1 kw``: volts of the battery again, and no hertz."""
        volts = [figure for figure in self.figures[:i] if figure.quantity == "v"]
        like = volts[-1].value if volts else 0.0
        near = like <= MOST_DC_V and abs(self.figures[i].number - like) <= LIKE_BEFORE * like
        return bool(self.battery and like and near and self.figures[i].step < 1)

    def _hz_wanted(self, i: int) -> bool:
        start, end = self.line.clause(self.figures[i].start)
        return bool(re.search(r"no[- ]load|unloaded", self.line.text[start:end].lower())) or any(
            f.quantity in ("w", "v") and f.clause == self.figures[i].clause for f in self.figures
        )

    def _spoken_of(self, i: int) -> bool:
        """Whether words before it say that it is of something else."""
        return bool(
            re.search(
                r"(?:background|ambient|bg|batt(?:ery)?|bank|charge|wind|page|step|day|no\.?|number|took|every|clock|hours?(?: ?meter| run)?|hourmeter|serial|model|price|paid|cost|invoice)\s*(?:at|is|was|of|:)?\s*$",
                self._words_before(i),
            )
        )

    def _bare_by_context(self) -> None:
        for i, figure in enumerate(self.figures):
            if figure.quantity:
                continue
            quantity, factor = self._context_of(i, figure)
            if quantity:
                self._known(figure, quantity, factor)

    def _context_of(self, i: int, figure: Figure) -> tuple[str, float]:
        before = self._words_before(i)
        if self.stats.get(i) is Stat.BACKGROUND and 15 <= figure.number <= 110:
            return "dba", 1.0
        if self.instruments.get(i) in BARE_OF_INSTRUMENT:
            return BARE_OF_INSTRUMENT[self.instruments[i]], 1.0
        if self.places.get(i) == Place.DC and re.search(r"batt?(?:ery)?\s*(?:is |now )?(?:at|:|=)?\s*$", before):
            return ("v", 1.0) if figure.step < 1 or figure.number > 100 else ("soc_pct", 1.0)
        if re.search(r"(?:charge|gauge|soc)\s*(?:is |at |now |says |shows )*$", before) and 0 <= figure.number <= 100:
            return "soc_pct", 1.0
        if self.places.get(i) == Place.DC and figure.step < 1 and LEAST_BATTERY_V <= figure.number <= MOST_DC_V:
            return "v", 1.0
        if self.stats.get(i) in (Stat.LOWEST, Stat.SETTLED, Stat.BEFORE):
            like = next((f for f in self.figures if f.quantity == "v"), None)
            if like is not None or self._plausible_v(figure.number):
                return "v", 1.0
        if i in self.places and (like := self._like(i)) is not None:
            return like.quantity, like.factor
        if (
            re.search(r"\b(?:at|on|up to|past)\s*$", before)
            and figure.number <= KW_MOST
            and figure.step < 1
            and (self.held or re.search(r"good|fine|ran|run|held|happy|load", before))
        ):
            return "w", 1000.0
        if re.search(r"\d\s*(?:hz|hertz)\b.*\b(?:at|on)\s*$", before) and figure.number <= KW_MOST and figure.step < 1:
            return "w", 1000.0
        return "", 1.0

    def _like(self, i: int) -> Figure | None:
        """The figure of another place in the line that a bare one stands beside."""
        mine = self.figures[i]
        others = [f for j, f in enumerate(self.figures) if j != i and f.quantity in ELECTRIC and j in self.places]
        return next((f for f in reversed(others) if f.number and 1 / 4 <= abs(mine.number / f.number) <= 4), None)

    def _no_such_hz(self) -> None:
        """``droop 2.1 hz``: less than any set makes that runs, and no reading."""
        for figure in self.figures:
            if figure.quantity == "hz" and figure.value < LEAST_HZ:
                figure.quantity = ""
                self.line.shield(figure.start, figure.end)

    def _oil(self) -> None:
        """``oil changed 0.6 l``: litres of oil are no fuel."""
        for figure in self.figures:
            start, end = self.line.clause(figure.start)
            of_oil = re.search(r"\boil\b", self.line.text[start:end].lower()) or (
                is_of_oil(self.line) and re.search(r"\b(?:topped|added|put in)\b", self.line.text[start:end].lower())
            )
            if figure.quantity in ("fuel_l", "water_kg") and of_oil:
                figure.quantity = ""
                self.line.shield(figure.start, figure.end)

    def _water(self) -> None:
        """Litres beside a heating are of water: as many kilograms, and no fuel."""
        pair = self.heats or (
            sum(
                self.stats.get(i) in (Stat.BEFORE, Stat.SETTLED) and f.quantity == "temp_c"
                for i, f in enumerate(self.figures)
            )
            == 2
        )
        for figure in self.figures:
            start, end = self.line.clause(figure.start)
            clause = self.line.text[start:end].lower()
            of_water = "water" in self.line.text.lower() or re.search(r"\b(?:kettle|boil\w*)\b", clause)
            burnt = re.search(r"\b(?:used|fuel|petrol|gas|diesel|tank|burn\w*|refuel\w*|fill\w*|topped|left)\b", clause)
            if figure.quantity == "fuel_l" and (
                (pair and not burnt) or figure.factor == 1e-3 or "water" in clause or (of_water and not burnt)
            ):
                figure.of("water_kg", figure.factor)
            elif figure.quantity == "water_kg" and not (
                pair or re.search(r"\bwater\b|\bkettle\b", self.line.text.lower())
            ):
                figure.quantity = ""  # kilograms of a gas bottle, and of anything else
                self.line.shield(figure.start, figure.end)

    def _no_load(self) -> None:
        for match in list(self.line.find(NO_LOAD)):
            if match[0].endswith(("on", "running")) and self._beside_noise(match.start()):
                continue
            if not self._clause_has(match.start(), ("w", "va")):
                self.zero_at.append(match.start())
            self.line.done(match)

    def _beside_noise(self, at: int) -> bool:
        """Whether a sound level stands in the clause: ``46 db with nothing running`` is of the background."""
        start, end = self.line.clause(at)
        return any(start <= f.start < end and f.quantity == "dba" for f in self.figures)

    def _idle(self) -> None:
        for match in list(self.line.find(IDLE)):
            mine = self._in_clause(match.start())
            if not mine:  # ``idle, 51.8v dc 0.45a``
                mine = self._in_clause(self.line.clause(match.start())[1] + 1)
            if (
                mine
                and all(self.places.get(i) == Place.DC for i in mine)
                and any(self.figures[i].quantity == "a" for i in mine)
            ):
                self.zero_at.append(match.start())
            if mine:
                self.line.done(match)

    def _reading(self, i: int, figure: Figure) -> Reading:
        place = self._place_of(i, figure)
        return Reading(
            quantity=figure.quantity,
            value=figure.value,
            place=place,
            stat=self.stats.get(i, Stat.STEADY),
            instrument=self.instruments.get(i, ""),
            resolution=figure.resolution,
            distance_m=figure.distance_m,
        )

    def _of_both_legs(self, reading: Reading) -> list[Reading]:
        """``both legs 120 volts``: each of them."""
        across = reading.value > (1 + NEAR_NOMINAL) * self.system.v_nominal
        if self.system.legs != 2 or reading.quantity != "v" or reading.place is not Place.TOTAL or across:
            return [reading]
        return [replace(reading, place=place) for place in (Place.LEG1, Place.LEG2)]

    def _place_of(self, i: int, figure: Figure) -> Place:
        """Where an electrical reading was taken when the line does not say.

        One leg: that leg. Two legs: watts are the total; volts near twice the
        nominal are across both; the rest is leg 1, and is told back as such.
        """
        if figure.quantity not in ELECTRIC:
            return Place.NONE
        said = self.places.get(i, "")
        if self.system.legs == 1 and said in ("", OUT, Place.TOTAL):
            return Place.LEG1
        if said and said != OUT:
            return Place(said)
        if figure.quantity == "a" and i and self.figures[i - 1].quantity == "v":
            return self._place_of(i - 1, self.figures[i - 1])
        if figure.quantity in ("w", "va", "pf"):
            return Place.TOTAL
        return Place.TOTAL if figure.quantity == "v" and figure.value > 1.5 * self.system.v_nominal else Place.LEG1
