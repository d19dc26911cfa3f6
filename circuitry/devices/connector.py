"""A connector: cavities, each with a terminal in either half."""

from collections.abc import Iterator
from typing import Any

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part, Pin
from circuitry.devices.device import Around, Branch, Crossing, Device


class Connector(Device):
    """A plug contact in each cavity."""

    kind = "connector"
    is_shared = True
    points = "cavities"
    drawn_apart = True
    glyph = "M0 5 h11 m-5 -5 l5 5 l-5 5 M9 0 l5 5 l-5 5 M14 5 h6"
    put_into = ("1a", "1b")

    def fields(self, row: str | None, count: int) -> dict[str, Any]:
        return {"pins": tuple(Pin(str(number + 1)) for number in range(count))}

    def terminals(self, part: Part) -> tuple[str, ...]:
        return tuple(half for pin in part.pins for half in cavity_halves(pin.name))

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        mohm = catalogue().joints["plug contact"].resistance_mohm
        for pin in part.pins:
            siemens = 1000 / mohm / around.joint_resistance
            yield Branch("plug", *cavity_halves(pin.name), siemens, crossing=Crossing())

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        for row in catalogue().connectors:
            if row.contact == part.catalogue:
                return TerminalRange(
                    row.contact,
                    row.wire_min_mm2,
                    row.wire_max_mm2,
                    row.current_a,
                    row.strip_mm,
                    row.contact,
                    row.note,
                )
        return None

    def is_left(self, part: Part, name: str) -> bool:
        return name.endswith("a")


def cavity_halves(cavity: str) -> tuple[str, str]:
    """The terminals of a cavity in the two halves of a connector."""
    return f"{cavity}a", f"{cavity}b"
