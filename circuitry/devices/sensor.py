"""Sensors: contacts that something in the car moves, or senders whose resistance tells a value,
with a supply of their own where they are electronic."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from circuitry.design.model import Build, Part
from circuitry.devices.contact_tables import SENSORS
from circuitry.devices.device import Around, Branch, Crossing, Figure
from circuitry.devices.resistor import COST
from circuitry.devices.switch import CARRIED, Switch
from circuitry.errors import UnusableInput

USUAL_SENDER_OHM, LEAST_OHM = 100.0, 1e-3
FED_WITH_V, SIGNAL_OHM = 5.0, 1000.0
SUPPLY = Figure("supply_ma", "takes from its supply", "mA", 0.0)
RESISTANCE = Figure("resistance_ohm", "resistance", "Ω", USUAL_SENDER_OHM)


@dataclass(frozen=True)
class Scale:
    """What a gauge shows at both ends of what a sender tells, and typical ohms there.

    Between them what it tells goes with its ohms, or ``by_ratio`` with their logarithm, as the
    temperature of a thermistor nearly does. ``proved`` is what it must show on a car that is tried
    cold.
    """

    least: str
    most: str
    least_ohm: float
    most_ohm: float
    proved: str
    by_ratio: bool = False

    @property
    def ends(self) -> tuple[Figure, Figure]:
        """The ohms at both ends, as figures to be typed."""
        return (
            Figure("least_ohm", f"at {self.least}", "Ω", self.least_ohm),
            Figure("most_ohm", f"at {self.most}", "Ω", self.most_ohm),
        )

    def ends_ohm(self, sender: Part) -> tuple[float, float]:
        """The ohms of a sender at both ends, typed or typical."""
        least, most = (sender.number(row.name, row.usual or 0.0) for row in self.ends)
        return least, most

    def share(self, ohm: float, least_ohm: float, most_ohm: float) -> float:
        """What a sender with so many ohms tells, as a share of the way from the least end to the
        most, of a sender with these ohms at its ends.

        >>> SENDERS["Fuel-level sender"].share(95.0, 10.0, 180.0)
        0.5
        """
        if self.by_ratio:
            ohm, least_ohm, most_ohm = (
                math.log(max(each, LEAST_OHM)) for each in (ohm, least_ohm, most_ohm)
            )
        return (ohm - least_ohm) / (most_ohm - least_ohm) if most_ohm != least_ohm else 0.0


COLD_END_C, THERMISTOR_K = 40.0, 3400.0
"""Where a temperature gauge begins, and the constant B of a thermistor, typical."""
SENDERS: Mapping[str, Scale] = {
    "Temperature sender": Scale("cold", "hot", 290.0, 22.0, "cold until the engine is warm", True),
    "Fuel-level sender": Scale("empty", "full", 10.0, 180.0, "what is in the tank"),
    "Pressure sender": Scale(
        "no pressure", "full pressure", 10.0, 180.0, "no pressure until the engine turns"
    ),
}
"""What gauges are made for, by catalogue row; others of 240 to 33 Ω and of 0 to 90 Ω are about, so
what is typed in counts."""


def thermistor_ohm(cold_ohm: float, celsius: float) -> float:
    """What a temperature sender tells at a temperature, that has ``cold_ohm`` at the cold end of
    its gauge: R exp(B (1/T − 1/T₀)), the B equation of a thermistor.

    >>> round(thermistor_ohm(290.0, 90.0))
    65
    """
    return cold_ohm * math.exp(THERMISTOR_K * (1 / (celsius + 273.15) - 1 / (COLD_END_C + 273.15)))


class Sensor(Switch):
    """A switch where it has contacts, a sender where it has none."""

    kind = "sensor"
    put_into = None
    tables = SENSORS
    usual_table = "Thermostat switch"
    figures = (CARRIED, RESISTANCE, SUPPLY, *SENDERS["Fuel-level sender"].ends)

    def figure_sets(self) -> Mapping[str, tuple[Figure, ...]]:
        sender = (RESISTANCE, SUPPLY)
        scales = {name: (*scale.ends, *sender) for name, scale in SENDERS.items()}
        return {"sensor": (CARRIED,), "sender": sender, **scales}

    def figures_as(self, part: Part) -> str:
        if part.contacts is not None:
            return "sensor"
        row = part.catalogue or ""
        return row if row in SENDERS else "sender"

    def terminals(self, part: Part) -> tuple[str, ...]:
        if part.contacts:
            return part.contacts.terminals
        fed = ("supply",) if part.number("supply_ma", 0) > 0 else ()
        return ("signal", "ground", *fed)

    def problems(self, build: Build, part: Part, who: str) -> Iterator[UnusableInput]:
        if part.contacts is not None:
            yield from super().problems(build, part, who)

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        yield from super().branches(part, around)
        if part.contacts is None:
            supply_ma = part.number("supply_ma", 0)
            if supply_ma > 0:  # fed with 5 V, and telling by what it makes of them
                yield Branch("electronics", "supply", "ground", supply_ma / 1000 / FED_WITH_V)
                yield Branch("electronics", "supply", "signal", 1 / SIGNAL_OHM)
            ohm = max(part.number("resistance_ohm", USUAL_SENDER_OHM), LEAST_OHM)
            yield Branch("sender", "signal", "ground", 1 / ohm, crossing=Crossing(COST))
