"""A diode: what lets current through one way."""

from collections.abc import Iterator

from circuitry.design.model import Part
from circuitry.devices.device import Around, Branch, Crossing, Device, Figure
from circuitry.devices.laws import Diode as DiodeLaw


class Diode(Device):
    """A silicon rectifier between two terminals."""

    kind = "diode"
    figures = (Figure("rated_a", "rating", "A"),)
    put_into = ("anode", "cathode")
    glyph = "M0 5 h5 m0 -5 v10 l9 -5 z m9 0 v10 m0 -5 h6"

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "anode", "cathode"

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        yield Branch("diode", "anode", "cathode", law=DiodeLaw(), crossing=Crossing(one_way=True))
