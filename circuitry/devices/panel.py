"""A panel of fuses: its buses and its ways. The fuses in it are parts of their own."""

from typing import Any

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part, Way
from circuitry.devices.device import SMALL_STUD, Device
from circuitry.devices.fuse import TERMINALS_OF_FAMILY, USUAL_WAY


class Panel(Device):
    """Buses on studs, ways by the family of the fuse that sits in them."""

    kind = "panel"
    texts = frozenset({"fuse_family"})
    points = "ways"

    def fields(self, row: str | None, count: int) -> dict[str, Any]:
        return {"ways": tuple(Way(f"F{number + 1}", "main") for number in range(count))}

    def terminals(self, part: Part) -> tuple[str, ...]:
        buses = dict.fromkeys(way.bus for way in part.ways)
        return (*buses, *(way.name for way in part.ways))

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        if name in {way.bus for way in part.ways}:
            return catalogue().terminals[SMALL_STUD]
        family = _families(build).get((part.id, name)) or str(part.figures.get("fuse_family", ""))
        return catalogue().terminals[TERMINALS_OF_FAMILY.get(family, USUAL_WAY)]


def _families(build: Build) -> dict[tuple[str, str], str]:
    """The family of the fuse in each way of each panel."""
    families: dict[tuple[str, str], str] | None = build.derived.get("families in ways")
    if families is None:
        families = build.derived["families in ways"] = {
            (fuse.fitted.panel, fuse.fitted.way): fuse.catalogue or ""
            for fuse in build.parts_of_kind("fuse")
            if fuse.fitted
        }
    return families
