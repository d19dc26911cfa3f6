"""The points of a part by hand: pins of a box, cavities of a connector, ways, channels."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from circuitry.design.model import Build, Fitted, Housed, Part, Pin, Terminal, Way
from circuitry.devices.connector import cavity_halves
from circuitry.errors import UnusableInput

CHANNEL = "channel"
"""What an output of a module does; its other pins do what pins of a box do."""
SWITCHED = (CHANNEL, "high side", "low side")


@dataclass(frozen=True)
class Point:
    """One point as typed. ``was`` is its name before, None for a new one; ``bus`` feeds a way."""

    name: str
    was: str | None = None
    function: str = ""
    bus: str = ""
    when: str = ""
    limit_a: float | None = None


def set_points(build: Build, part_id: str, points: Sequence[Point]) -> Build:
    """The build with these points on a box, connector, panel or module.

    Wires, fuses and what is housed go along with a point that gets another name. One that is left
    out must be free. Raises UnusableInput.
    """
    part = build.parts.get(part_id)
    if part is None or part.kind not in ("box", "connector", "panel", "module"):
        raise UnusableInput(
            "bad-part", part_id, f"“{part_id}” is no box, connector, panel or module."
        )
    if not points:
        raise UnusableInput("no-points", part_id, f"{part.name} needs one point at least.")
    if not all(tidy(row.name) for row in points):
        raise UnusableInput("no-name", part_id, f"A point of {part.name} has no name. Give it one.")
    names = _renamed(part, points)

    def over(end: Terminal) -> Terminal:
        return Terminal(end.part, names.get(end.name, end.name)) if end.part == part_id else end

    wires = {
        wire.id: replace(
            wire, from_terminal=over(wire.from_terminal), to_terminal=over(wire.to_terminal)
        )
        for wire in build.wires.values()
    }
    parts = {row.id: _along(row, part_id, names) for row in build.parts.values()}
    parts[part_id] = _with_points(part, points)
    return replace(build, parts=parts, wires=wires)


def tidy(name: str) -> str:
    """A name as terminals are written: no spaces, no points."""
    return re.sub(r"[\s.]+", "-", name.strip())


def _renamed(part: Part, points: Sequence[Point]) -> dict[str, str]:
    """New names of terminals by old ones; a cavity is a terminal in each half."""
    names = {row.was: tidy(row.name) for row in points if row.was is not None}
    if part.kind != "connector":
        return names
    return {
        before: after
        for old, new in names.items()
        for before, after in zip(cavity_halves(old), cavity_halves(new), strict=True)
    }


def _along(part: Part, changed: str, names: dict[str, str]) -> Part:
    if part.fitted is not None and part.fitted.panel == changed:
        way = names.get(part.fitted.way, part.fitted.way)
        return replace(part, fitted=Fitted(changed, way))
    if part.housed is not None and part.housed.unit == changed:
        pins = {own: names.get(pin, pin) for own, pin in part.housed.pins.items()}
        return replace(part, housed=Housed(changed, pins))
    return part


def _with_points(part: Part, points: Sequence[Point]) -> Part:
    if part.kind == "panel":
        bus = part.ways[0].bus if part.ways else "main"
        return replace(part, ways=tuple(Way(tidy(row.name), row.bus or bus) for row in points))
    if part.kind == "connector":
        return replace(part, pins=tuple(Pin(tidy(row.name)) for row in points))
    outputs = [row for row in points if row.function == CHANNEL]
    stood = {way.name: way for way in part.ways}
    called = {row.was: tidy(row.name) for row in outputs if row.was}
    ways = tuple(
        replace(
            stood.get(row.was or "", Way("", "feed")),
            name=tidy(row.name),
            when=row.when.strip(),
            limit_a=row.limit_a,
            joined=called.get(stood[row.was].joined, "") if row.was in stood else "",
        )
        for row in outputs
    )
    pins = tuple(_pin(row) for row in points if row.function != CHANNEL)
    return replace(part, ways=ways, pins=pins)


def _pin(row: Point) -> Pin:
    if row.function not in SWITCHED:
        return Pin(tidy(row.name), row.function)
    return Pin(tidy(row.name), row.function, row.when.strip(), row.limit_a)
