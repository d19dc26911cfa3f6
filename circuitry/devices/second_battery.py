"""A second battery: a source of its own beside the one that starts the engine."""

from collections.abc import Iterator

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part
from circuitry.devices.battery import ACCEPTS_PER_AH, USUAL_AH, battery_supply, capacity_ah
from circuitry.devices.device import HEAVY_STUD, Around, Branch, Device, Figure
from circuitry.devices.laws import StoredCharge

USUAL_MOHM = 7.0


class SecondBattery(Device):
    """Its voltage goes with its charge; it takes while something charges it, and gives else.

    The search for ways starts at the first battery alone: what hangs on this one is fed through
    what joins the two.
    """

    kind = "second battery"
    figures = (
        Figure("state_of_charge", "charge", "of full", 1.0),
        Figure("resistance_mohm", "inside resistance", "mΩ", USUAL_MOHM),
        Figure("capacity_ah", "capacity", "Ah", USUAL_AH),
    )
    glyph = "M0 5 h8 m0 -4 v8 m3 -6 v4 m0 -2 h9"

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "+", "-"

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        supply = battery_supply(part)
        accepts_a = ACCEPTS_PER_AH * capacity_ah(part)
        law = StoredCharge(supply.emf_v, supply.resistance_ohm, accepts_a)
        yield Branch("second source", "+", "-", law=law)

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        return catalogue().terminals[HEAVY_STUD]

    def is_left(self, part: Part, name: str) -> bool:
        return False

    def detail(self, part: Part) -> str:
        return f"{part.number('capacity_ah', USUAL_AH):g} Ah"
