"""Where to put the battery or a panel: the loom in a few figures, before and after."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from circuitry.build.model import Build, Part
from circuitry.build.routes import length_m
from circuitry.catalogue import catalogue
from circuitry.errors import UnusableInput
from circuitry.layout.bundles import copper_kg, mass_g_per_m
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
    mass_g = sum(mass_g_per_m(conductor[size]) * by_size[size] for size in sizes)
    worst = max(
        sizing.loads.values(), key=lambda row: row.drop_percent / row.limit_percent, default=None
    )
    severities = [finding.severity for finding in sizing.findings if not finding.accepted]
    return Loom(
        {size: by_size[size] for size in sizes},
        sum(by_size.values()),
        copper_kg(build, lengths_m),
        mass_g / 1000,
        worst.load if worst else None,
        worst.drop_percent if worst else None,
        worst.limit_percent if worst else None,
        severities.count("stop"),
        severities.count("look"),
    )


def moved(build: Build, part_id: str, place: str) -> Build:
    """The build with a part in another place, with what cannot be without it.

    The fuses of a panel go with it, and the fuses on a battery's terminal, which must stay within
    reach of it. Raises UnusableInput.
    """
    part = build.parts.get(part_id)
    if part is None:
        raise UnusableInput("unknown-part", part_id, f"The build has no part “{part_id}”.")
    if place not in build.places:
        raise UnusableInput("unknown-place", place, f"“{place}” is no place of the build.")
    along = {part_id, *_along(build, part)}
    parts = {
        row.id: replace(row, place=place) if row.id in along else row
        for row in build.parts.values()
    }
    return replace(build, parts=parts)


def _along(build: Build, part: Part) -> set[str]:
    """The fuses that go where this part goes."""
    fuses = build.parts_of_kind("fuse")
    if part.kind != "battery":
        return {fuse.id for fuse in fuses if fuse.fitted and fuse.fitted.panel == part.id}
    touching = {
        frozenset((wire.from_terminal.part, wire.to_terminal.part)) for wire in build.wires.values()
    }
    return {
        fuse.id
        for fuse in fuses
        if fuse.place == part.place and frozenset((part.id, fuse.id)) in touching
    }
