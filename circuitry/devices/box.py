"""A box: a control unit with pins, or a unit that houses other parts behind its pins."""

from typing import Any

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part, Pin
from circuitry.devices.device import BLADE
from circuitry.devices.electronics import Electronics
from circuitry.devices.load import load_terminal, rated_current_a


class Box(Electronics):
    """Pins, of which one is its supply and one its ground."""

    kind = "box"
    points = "pins"

    def fields(self, row: str | None, count: int) -> dict[str, Any]:
        ends = Pin("30", "supply"), Pin("31", "ground")
        return {"pins": (*ends, *(Pin(str(number + 1)) for number in range(count)))}

    def supply(self, part: Part) -> tuple[str, str] | None:
        supply = next((pin.name for pin in part.pins if pin.function == "supply"), None)
        ground = next((pin.name for pin in part.pins if pin.function == "ground"), None)
        return (supply, ground) if supply and ground else None

    def terminals(self, part: Part) -> tuple[str, ...]:
        return tuple(pin.name for pin in part.pins)

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        """What carries a load of many amps inside a unit is screwed: the load's own pins, and
        those of the contact of a relay beside it, as of a starter's solenoid."""
        housed = [row for row in build.parts.values() if row.housed and row.housed.unit == part.id]
        most_a = max((rated_current_a(row) for row in housed if row.kind == "load"), default=0.0)
        heavy = {
            pin
            for row in housed
            for own, pin in (row.housed.pins if row.housed else {}).items()
            if row.kind == "load" or (row.kind == "relay" and own in ("30", "87"))
        }
        return catalogue().terminals[load_terminal(most_a) if name in heavy else BLADE]
