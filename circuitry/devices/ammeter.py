"""An ammeter: all that it tells of flows through it."""

from collections.abc import Iterator

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part
from circuitry.devices.device import SMALL_STUD, Around, Branch, Crossing, Device, Figure

USUAL_SCALE_A = 60.0
USUAL_MOHM = 1.0


class Ammeter(Device):
    """A shunt between two studs, behind a needle."""

    kind = "ammeter"
    figures = (
        Figure("scale_a", "scale to", "A", USUAL_SCALE_A),
        Figure("resistance_mohm", "resistance", "mΩ", USUAL_MOHM),
    )
    put_into = ("in", "out")
    glyph = "M0 5 h5 m10 0 h5 M15 5 a5 5 0 1 1 -10 0 a5 5 0 1 1 10 0 M8 7 l4 -4"

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "in", "out"

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        mohm = max(part.number("resistance_mohm", USUAL_MOHM), 0.01)
        siemens = 1000 / mohm / around.joint_resistance
        yield Branch("ammeter", "in", "out", siemens, crossing=Crossing())

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        return catalogue().terminals[SMALL_STUD]

    def detail(self, part: Part) -> str:
        return f"to {part.number('scale_a', USUAL_SCALE_A):g} A"
