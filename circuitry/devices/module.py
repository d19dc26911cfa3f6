"""A power module: channels that switch and guard loads without a relay or a fuse."""

from typing import Any

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part, Way
from circuitry.devices.device import BLADE, PIN, SMALL_STUD
from circuitry.devices.electronics import Electronics

FEED, GROUND = "feed", "ground"


class Module(Electronics):
    """A feed stud, a ground, channels, and pins beside them."""

    kind = "module"
    points = "channels"

    def fields(self, row: str | None, count: int) -> dict[str, Any]:
        return {"ways": tuple(Way(f"C{number + 1}", FEED) for number in range(count))}

    def supply(self, part: Part) -> tuple[str, str] | None:
        return FEED, GROUND

    def terminals(self, part: Part) -> tuple[str, ...]:
        channels = (way.name for way in part.ways)
        return (FEED, GROUND, *channels, *(pin.name for pin in part.pins))

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        if name in (FEED, GROUND):
            return catalogue().terminals[SMALL_STUD]
        channel = name in {way.name for way in part.ways}
        return catalogue().terminals[BLADE if channel else PIN]
