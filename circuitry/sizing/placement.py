"""Where to put the battery or a panel: the loom in a few figures, before and after."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Terminal
from circuitry.design.routes import distance_m, length_m
from circuitry.errors import UnusableInput
from circuitry.layout.bundles import copper_kg, mass_kg
from circuitry.sizing.result import Sizing


@dataclass(frozen=True)
class Loom:
    """A sized loom in figures: metres by size, copper and mass in kg, the worst drop.

    ``worst_drop`` is in % of the source, ``worst_load`` the load that has it, against its own
    limit in %. ``stops`` and ``looks`` count findings.
    """

    metres: Mapping[str, float]
    total_m: float
    copper_kg: float
    mass_kg: float
    worst_load: str | None
    worst_drop_percent: float | None
    worst_limit_percent: float | None
    stops: int
    looks: int


def loom(sizing: Sizing) -> Loom:
    """The figures of a sized build, sizes in the order of their area."""
    build = sizing.build
    lengths_m = {wire.id: length_m(build, wire) for wire in build.wires.values()}
    by_size: dict[str, float] = {}
    for wire in build.wires.values():
        by_size[wire.size or ""] = by_size.get(wire.size or "", 0.0) + lengths_m[wire.id]
    conductor = catalogue().conductor
    sizes = sorted(by_size, key=lambda size: conductor[size].copper_area_mm2)
    worst = max(
        sizing.loads.values(), key=lambda row: row.drop_percent / row.limit_percent, default=None
    )
    severities = [finding.severity for finding in sizing.findings if not finding.accepted]
    return Loom(
        {size: by_size[size] for size in sizes},
        sum(by_size.values()),
        copper_kg(build, lengths_m),
        mass_kg(build),
        worst.load if worst else None,
        worst.drop_percent if worst else None,
        worst.limit_percent if worst else None,
        severities.count("stop"),
        severities.count("look"),
    )


def moved(build: Build, part_id: str, place: str) -> Build:
    """The build with a part in another place, with what cannot be without it.

    The fuses of a panel go with it; so do the isolators and fuses in a battery's lead, which must
    stay within reach of it, and its ground cable goes to the nearest ground point. Raises
    UnusableInput.
    """
    part = build.parts.get(part_id)
    if part is None:
        raise UnusableInput("unknown-part", part_id, f"The build has no part “{part_id}”.")
    if place not in build.places:
        raise UnusableInput("unknown-place", place, f"“{place}” is no place of the build.")
    along = {
        part_id,
        *(_in_its_lead(build, part) if part.kind == "battery" else _fuses(build, part)),
    }
    parts = {
        row.id: replace(row, place=place) if row.id in along else row
        for row in build.parts.values()
    }
    there = replace(build, parts=parts)
    return _grounded_near(there, part) if part.kind == "battery" else there


def _fuses(build: Build, panel: Part) -> set[str]:
    fuses = build.parts_of_kind("fuse")
    return {fuse.id for fuse in fuses if fuse.fitted and fuse.fitted.panel == panel.id}


def _in_its_lead(build: Build, battery: Part) -> set[str]:
    """The isolators at a battery's place that its plus leads to, and the first fuses after them."""
    found: set[str] = set()
    waiting = [battery.id]
    while waiting:
        here = waiting.pop()
        for wire in build.wires.values():
            ends = [wire.from_terminal, wire.to_terminal]
            if here not in (end.part for end in ends) or Terminal(battery.id, "-") in ends:
                continue
            for other in (build.parts[end.part] for end in ends):
                if other.id not in found and other.place == battery.place:
                    if other.kind in ("fuse", "isolator"):
                        found.add(other.id)
                    if other.kind == "isolator":
                        waiting.append(other.id)
    return found


def _grounded_near(build: Build, battery: Part) -> Build:
    """The build with the battery's ground cable on the ground point that is nearest to it now."""
    negative, place = Terminal(battery.id, "-"), build.parts[battery.id].place
    points = build.parts_of_kind("ground point")
    far_m = {point.id: distance_m(build, place, point.place) for point in points}
    near = min(far_m, key=lambda point: (far_m[point], point), default=None)
    wires = dict(build.wires)
    for wire in build.wires.values():
        ends = {"from_terminal": wire.from_terminal, "to_terminal": wire.to_terminal}
        if near is None or negative not in ends.values():
            continue
        for name, end in ends.items():
            on_a_point = build.parts[end.part].kind == "ground point"
            if on_a_point and far_m[near] < far_m[end.part]:
                moved_to: Any = {name: Terminal(near, "stud"), "way": None}
                wires[wire.id] = replace(wire, **moved_to)
    return replace(build, wires=wires)
