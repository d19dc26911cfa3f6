"""The splices of a loom: those drawn in it, and those behind contacts that take fewer wires."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Terminal, Wire
from circuitry.devices.terminals import is_sealed, joined_behind, terminal_range
from circuitry.workshop.schedule import WAYS_OF_JOINING, WireLine

TAIL_M, STAGGER_M, STAGGERED = 0.1, 0.04, 4
"""From a splice to its contact, and by how much farther each next one at a place lies, so that the
loom has no lump; after so many they begin again. All that a tail adds to a circuit is so much of
the thickest wire in it."""
BARRELS_MM2 = (1.5, 2.5, 6.0, 10.0, 16.0, 25.0, 35.0, 50.0, 70.0, 95.0, 120.0, 150.0, 240.0)
"""Copper that splice barrels close over; typical."""


@dataclass(frozen=True)
class Tail:
    """What leads from a splice into the contact that takes fewer wires: cut, stripped and ended as
    any wire. It is of the same kind as the thickest wire in the splice, whose id is ``wire``, for
    that bears all that the contact passes on."""

    wire: str
    size: str
    insulation: str
    colour: str
    letters: str
    length_m: float
    ends_in: str
    strip_mm: float
    sealed: bool


@dataclass(frozen=True)
class Splice:
    """Wires joined in the loom: where, which, by label, and what closes over them.

    ``wires`` are their ids; ``area_mm2`` is their copper together with that of the tail, and
    ``barrel_mm2`` the least barrel for it.
    """

    id: str
    name: str
    place: str
    stage: int
    wires: tuple[str, ...]
    labels: tuple[str, ...]
    area_mm2: float
    barrel_mm2: float
    joint: str
    tail: Tail | None


def splices(build: Build, lines: Mapping[str, WireLine]) -> tuple[Splice, ...]:
    """Every splice of a sized build, those drawn in it first."""
    drawn = (_drawn(build, part, lines) for part in build.parts_of_kind("splice"))
    return (*(row for row in drawn if row.wires), *_behind_contacts(build, lines))


def _drawn(build: Build, part: Part, lines: Mapping[str, WireLine]) -> Splice:
    here = [line for line in lines.values() if part.id in (line.start.part, line.end.part)]
    return _splice(build, part.id, part.name, part, here, None)


def staggered(build: Build) -> Iterator[tuple[Terminal, tuple[Wire, ...], float]]:
    """The wires of each contact that takes fewer, and how far before it they are joined, in m."""
    at_place: dict[str, int] = {}
    for at, wires in joined_behind(build).items():
        place = build.parts[at.part].place
        before = at_place.get(place, 0)
        at_place[place] = before + 1
        yield at, wires, TAIL_M + STAGGER_M * (before % STAGGERED)


def _behind_contacts(build: Build, lines: Mapping[str, WireLine]) -> Iterator[Splice]:
    for at, wires, tail_m in staggered(build):
        here = [lines[wire.id] for wire in wires if wire.id in lines]
        part, row = build.parts[at.part], terminal_range(build, at)
        thickest = max(here, key=lambda line: line.area_mm2, default=None)
        if row is None or thickest is None:
            continue
        tail = Tail(
            thickest.id,
            thickest.size,
            thickest.insulation,
            thickest.colour,
            thickest.letters,
            tail_m,
            row.ends_in,
            row.strip_mm,
            is_sealed(row),
        )
        yield _splice(build, str(at), f"Behind {part.name}, {at.name}", part, here, tail)


def _splice(
    build: Build, splice_id: str, name: str, at: Part, here: list[WireLine], tail: Tail | None
) -> Splice:
    area_mm2 = sum(line.area_mm2 for line in here)
    if tail is not None:
        area_mm2 += catalogue().conductor[tail.size].copper_area_mm2
    how = build.policy.joint
    return Splice(
        splice_id,
        name,
        build.places[at.place].name,
        min((line.stage for line in here), default=1),
        tuple(line.id for line in here),
        tuple(f"{line.label} {line.size} {line.letters}" for line in here),
        area_mm2,
        next((size for size in BARRELS_MM2 if size >= area_mm2 * 0.99), BARRELS_MM2[-1]),
        WAYS_OF_JOINING.get(how, how),
        tail,
    )
