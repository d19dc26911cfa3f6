"""A solar panel with its controller, which tops a battery up."""

from collections.abc import Iterator

from circuitry.design.model import Part
from circuitry.devices.device import Around, Branch, Device, Figure
from circuitry.devices.laws import SolarCells

USUAL_W = 20.0
AT_V = 17.0
"""What the cells of a panel for 12 V stand at when they give most; typical."""
REGULATED_V = 14.2
CONTROLLER_OHM = 0.1


class Solar(Device):
    """It gives a current by the light that falls on it, until the battery is full."""

    kind = "solar panel"
    goes_with = "daylight_percent"
    figures = (
        Figure("rated_w", "rating", "W", USUAL_W),
        Figure("regulated_v", "regulated to", "V", REGULATED_V),
    )
    glyph = "M0 5 h4 v-4 h12 v8 h-12 v-4 m12 0 h4 M4 1 l12 8"

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "+", "-"

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        most_a = part.number("rated_w", USUAL_W) / AT_V
        law = SolarCells(part.number("regulated_v", REGULATED_V), most_a, CONTROLLER_OHM)
        yield Branch("solar", "+", "-", law=law)

    def is_left(self, part: Part, name: str) -> bool:
        return False

    def detail(self, part: Part) -> str:
        return f"{part.number('rated_w', USUAL_W):g} W"
