"""A connector: cavities, each with a terminal in either half."""

from collections.abc import Iterator
from typing import Any

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part, Pin
from circuitry.devices.device import Around, Branch, Crossing, Device, Figure
from circuitry.errors import UnusableInput


class Connector(Device):
    """A plug contact in each cavity."""

    kind = "connector"
    is_shared = True
    points = "cavities"
    figures = (Figure("keyed_at", "keying plug in cavity number", ""),)
    drawn_apart = True
    glyph = "M0 5 h11 m-5 -5 l5 5 l-5 5 M9 0 l5 5 l-5 5 M14 5 h6"
    put_into = ("1a", "1b")

    def fields(self, row: str | None, count: int) -> dict[str, Any]:
        return {"pins": tuple(Pin(str(number + 1)) for number in range(count))}

    def terminals(self, part: Part) -> tuple[str, ...]:
        return tuple(half for pin in part.pins for half in cavity_halves(pin.name))

    def problems(self, build: Build, part: Part, who: str) -> Iterator[UnusableInput]:
        if part.number("keyed_at", 0) not in range(len(part.pins) + 1):
            yield UnusableInput(
                "bad-figure",
                part.id,
                f"{who} is keyed at {part.figures['keyed_at']}, but has {len(part.pins)} cavities: "
                "say the number of one of them, or 0.",
            )

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


def keyed_at(part: Part) -> str:
    """The cavity that is plugged in one half and filled in the other, so that no like plug goes in;
    empty where there is none."""
    number = int(part.number("keyed_at", 0))
    return part.pins[number - 1].name if number else ""


def like_plugs(build: Build) -> Iterator[tuple[Part, ...]]:
    """Plugs of one kind, with as many cavities, at one place: each goes into the others' halves
    unless they are keyed apart."""
    alike: dict[object, list[Part]] = {}
    for part in build.parts_of_kind("connector"):
        alike.setdefault((part.place, part.catalogue, len(part.pins)), []).append(part)
    yield from (tuple(parts) for parts in alike.values() if len(parts) > 1)


def keyed_apart(one: Part, other: Part) -> bool:
    """Whether unlike cavities are plugged in two like plugs."""
    at, there = one.number("keyed_at", 0), other.number("keyed_at", 0)
    return at != there and min(at, there) > 0
