"""The battery: where current comes from, and what all voltages are measured against."""

from collections.abc import Iterator

import numpy as np

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part
from circuitry.design.state import Supply
from circuitry.devices.device import HEAVY_STUD, Around, Branch, Device, Figure
from circuitry.devices.laws import StoredCharge
from circuitry.errors import UnusableInput

OPEN_CIRCUIT_V = ((0.0, 11.8), (0.25, 12.1), (0.5, 12.4), (1.0, 12.65))
USUAL_MOHM = 7.0
USUAL_AH = 60.0
ACCEPTS_PER_AH, FLOATS_PER_AH = 0.25, 0.01
"""Amps for each ampere-hour that a lead battery takes when discharged, and when it is full and
only gasses; typical."""
ACCEPTS_LESS_ABOVE = 0.6
"""The charge above which it takes less and less."""

WARM_C, COLD_PER_K = 25.0, 0.4 / 35
"""A battery resists 1.4 times as much at −10 °C as when it is warm; typical."""
HALF, LEAST_CHARGE = 0.5, 0.02
"""Below half of its charge it resists as much more as less of its acid is left; typical."""
LEAST_TAKEN_A = 0.01


class Battery(Device):
    """A source whose voltage and resistance come with each state."""

    kind = "battery"
    figures = (
        Figure("state_of_charge", "charge", "of full", 1.0),
        Figure("resistance_mohm", "inside resistance", "mΩ", USUAL_MOHM),
        Figure("capacity_ah", "capacity", "Ah", USUAL_AH),
    )
    added_by_hand = False

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "+", "-"

    def problems(self, build: Build, part: Part, who: str) -> Iterator[UnusableInput]:
        charge = part.figures.get("state_of_charge", 1.0)
        if isinstance(charge, float) and charge > 1:
            yield UnusableInput(
                "bad-figure", part.id, f"{who}: state_of_charge runs from 0 (flat) to 1 (full)."
            )

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        yield Branch("source", "+", "-")

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        return catalogue().terminals[HEAVY_STUD]

    def is_left(self, part: Part, name: str) -> bool:
        return False


def battery_supply(battery: Part) -> Supply:
    """Open-circuit voltage by state of charge, straight between the published points."""
    emf_v = open_circuit_v(battery.number("state_of_charge", 1.0))
    return Supply(emf_v, max(battery.number("resistance_mohm", USUAL_MOHM), 0.1) / 1000)


def supply_at(battery: Part, charge: float, celsius: float = WARM_C) -> Supply:
    """What a battery is at a charge, warm or cold: its acid resists more the colder it is, and the
    less of it is left below half."""
    cold = 1 + COLD_PER_K * max(WARM_C - celsius, 0.0)
    spent = HALF / max(charge, LEAST_CHARGE) if charge < HALF else 1.0
    supply = battery_supply(battery)
    return Supply(open_circuit_v(charge), supply.resistance_ohm * cold * spent)


def charging_supply(battery: Part, charge: float, celsius: float, regulated_v: float) -> Supply:
    """A battery as it takes charge: no more than it accepts at the regulated voltage."""
    at = supply_at(battery, charge, celsius)
    takes_a = max(accepts_a(battery, charge), LEAST_TAKEN_A)
    return Supply(at.emf_v, max((regulated_v - at.emf_v) / takes_a, at.resistance_ohm))


def open_circuit_v(charge: float) -> float:
    """The voltage of a battery at rest at this share of its full charge."""
    charges, volts = zip(*OPEN_CIRCUIT_V, strict=True)
    return float(np.interp(charge, charges, volts))


def capacity_ah(battery: Part) -> float:
    """What a battery holds when it is full."""
    return max(battery.number("capacity_ah", USUAL_AH), 0.1)


def stored_charge(battery: Part, charge: float) -> StoredCharge:
    """The law of a battery of either kind at a charge: what it takes falls as it fills."""
    supply = battery_supply(battery)
    return StoredCharge(open_circuit_v(charge), supply.resistance_ohm, accepts_a(battery, charge))


def accepts_a(battery: Part, charge: float) -> float:
    """The most that a battery takes at a charge, in A."""
    full = max(charge - ACCEPTS_LESS_ABOVE, 0.0) / (1 - ACCEPTS_LESS_ABOVE)
    return (ACCEPTS_PER_AH - full * (ACCEPTS_PER_AH - FLOATS_PER_AH)) * capacity_ah(battery)
