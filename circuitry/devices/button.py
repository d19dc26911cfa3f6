"""A button of a keypad: positions that it tells over the data bus, and no contacts of its own."""

from collections.abc import Iterator

from circuitry.design.model import Build, ContactTable, Part, Position
from circuitry.devices.device import Device
from circuitry.devices.hearing import BUTTON
from circuitry.errors import UnusableInput

LAMPS = ("none", "white", "amber", "green", "blue", "red")
"""Colours of the lamp in a button; it is lit while something that the button asks for is on."""
NOTHING = "-"
"""What stands for the common terminal of contacts that are none."""


class Button(Device):
    """Off and on, held or staying, or one position after the other; it sits in a keypad."""

    kind = BUTTON
    is_switch = True
    added_by_hand = False
    texts = frozenset({"lamp"})

    def terminals(self, part: Part) -> tuple[str, ...]:
        return ()

    def problems(self, build: Build, part: Part, who: str) -> Iterator[UnusableInput]:
        if part.contacts is None or len(part.contacts.positions) < 2:
            yield UnusableInput(
                "no-positions", part.id, f"{who} has no positions. Give it two at least."
            )
        lamp = part.figures.get("lamp", LAMPS[0])
        if lamp not in LAMPS:
            yield UnusableInput(
                "bad-figure", part.id, f"{who}: lamp is “{lamp}”, but must be {', '.join(LAMPS)}."
            )
        if part.housed is None:
            yield UnusableInput(
                "no-keypad", part.id, f"{who} sits in no keypad. Name the keypad that it is on."
            )

    def says(self, part: Part, kind: str) -> str:
        return self.kind


def button_positions(*names: str, held: bool = False) -> ContactTable:
    """Positions of a button, the first at rest; ``held`` for one that springs back."""
    return ContactTable(NOTHING, tuple(Position(name) for name in names), held)
