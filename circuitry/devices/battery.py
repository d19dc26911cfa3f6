"""The battery: where current comes from, and what all voltages are measured against."""

from collections.abc import Iterator
from itertools import pairwise

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part
from circuitry.design.state import Supply
from circuitry.devices.device import HEAVY_STUD, Around, Branch, Device, Figure
from circuitry.errors import UnusableInput

OPEN_CIRCUIT_V = ((0.0, 11.8), (0.25, 12.1), (0.5, 12.4), (1.0, 12.65))
USUAL_MOHM = 7.0


class Battery(Device):
    """A source whose voltage and resistance come with each state."""

    kind = "battery"
    figures = (
        Figure("state_of_charge", "charge", "of full", 1.0),
        Figure("resistance_mohm", "inside resistance", "mΩ", USUAL_MOHM),
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
    charge = battery.number("state_of_charge", 1.0)
    for (low, low_v), (high, high_v) in pairwise(OPEN_CIRCUIT_V):
        if charge <= high:
            emf_v = low_v + (high_v - low_v) * (charge - low) / (high - low)
            break
    return Supply(emf_v, max(battery.number("resistance_mohm", USUAL_MOHM), 0.1) / 1000)
