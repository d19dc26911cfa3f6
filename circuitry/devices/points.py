"""Points that wires share: studs, bus bars, ground points and splices."""

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part
from circuitry.devices.device import STUD, Device


class Stud(Device):
    """A stud for rings."""

    kind = "stud"

    def terminals(self, part: Part) -> tuple[str, ...]:
        return ("stud",)

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        return catalogue().terminals[STUD]


class BusBar(Stud):
    """A bar with many studs that are one."""

    kind = "bus bar"


class GroundPoint(Stud):
    """A stud on the body, where the body is metal."""

    kind = "ground point"
    in_body = True
    drawn_as = "ground point"


class Splice(Device):
    """A joint of wires in the loom."""

    kind = "splice"
    drawn_as = "splice"
    put_into = ("splice", "splice")

    def terminals(self, part: Part) -> tuple[str, ...]:
        return ("splice",)

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        return None
