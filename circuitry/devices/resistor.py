"""A resistor: ballast, field excitation, blower steps, lamp cures."""

from collections.abc import Iterator
from typing import Any

from circuitry.design.model import Part
from circuitry.devices.device import Around, Branch, Crossing, Device, Figure

USUAL_OHM = 10.0
USUAL_W = 25.0
COST = 3
"""A way takes a resistor only where there is no other: it takes power on the way."""


class Resistor(Device):
    """A resistance between two terminals."""

    kind = "resistor"
    figures = (
        Figure("resistance_ohm", "resistance", "Ω", USUAL_OHM),
        Figure("rated_w", "rating", "W"),
    )
    put_into = ("1", "2")
    glyph = "M0 5 h4 v-4 h12 v8 h-12 v-4 m12 0 h4"

    def fields(self, row: str | None, count: int) -> dict[str, Any]:
        return {"figures": {"resistance_ohm": USUAL_OHM, "rated_w": USUAL_W}}

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "1", "2"

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        ohm = max(part.number("resistance_ohm", USUAL_OHM), 1e-3)
        yield Branch("resistor", "1", "2", 1 / ohm, crossing=Crossing(COST))

    def detail(self, part: Part) -> str:
        return f"{part.number('resistance_ohm', 0):g} Ω"
