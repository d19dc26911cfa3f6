"""What a change asks of an evening on a car that is finished: made, made again, fitted, drawn."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from circuitry.budget.result import Budget
from circuitry.design.model import Build
from circuitry.devices.connector import cavity_halves
from circuitry.proving.facts import facts_of
from circuitry.sizing.result import Sizing
from circuitry.workshop.next_hour import MINUTES_A_WIRE
from circuitry.workshop.schedule import WireLine, schedule

FELT_A, FELT = 0.02, 0.01
"""A current more or less in a scenario that is worth a line, in A and as a share."""
UNPACKING_MIN = 20
"""To get at the loom and to close it again; typical."""


@dataclass(frozen=True)
class Drawing:
    """A scenario in which the car draws otherwise: A before and after, and what follows then."""

    name: str
    before_a: float
    after_a: float
    verdict: str
    says: str


@dataclass(frozen=True)
class Room:
    """Ways of a panel, or cavities of a plug or unit, that are taken; how many are free then."""

    name: str
    taken: tuple[str, ...]
    free: int


@dataclass(frozen=True)
class Evening:
    """What it takes: new wires by label with their metres and minutes; in words what of the loom
    has to be made again and which fuses change, for that undoes work that is done; new parts by
    name; room taken; what it draws; how long the parked battery lasts, None where it has no end."""

    wires: tuple[str, ...]
    metres: float
    minutes: int
    again: tuple[str, ...]
    fuses: tuple[str, ...]
    parts: tuple[str, ...]
    room: tuple[Room, ...]
    draws: tuple[Drawing, ...]
    parked_days_before: float | None
    parked_days_after: float | None


def evening(before: Sizing, after: Sizing, was: Budget, then: Budget) -> Evening:
    """What leads from one sized build to another, with the budget of each."""
    one, other = before.build, after.build
    lines = schedule(other)
    new = [line for line in lines if line.id not in one.wires]
    again = list(_again(one, lines))
    minutes = UNPACKING_MIN + MINUTES_A_WIRE * (len(new) + len(again))
    return Evening(
        tuple(line.label for line in new),
        sum(line.cut_m for line in new),
        minutes if new or again else 0,
        tuple(again),
        tuple(_fuses(one, other)),
        tuple(
            part.name
            for part in other.parts.values()
            if part.id not in one.parts and part.fitted is None and part.housed is None
        ),
        tuple(_room(one, other)),
        tuple(_draws(was, then)),
        _parked(was),
        _parked(then),
    )


def as_they_are(one: Build, other: Build) -> list[Mapping[str, Any]]:
    """Operations that keep the wires and fuses of a sized build which would be others in another:
    they are given the size and rating that they have."""
    kept: list[Mapping[str, Any]] = [
        {"op": "change", "collection": "wires", "id": wire.id, "fields": {"size": wire.size}}
        for wire in one.wires.values()
        if wire.id in other.wires and other.wires[wire.id].size != wire.size
    ]
    for fuse in one.parts_of_kind("fuse"):
        then = other.parts.get(fuse.id)
        if then is not None and then.figures.get("rating_a") != fuse.figures.get("rating_a"):
            fields = {"figures": {**fuse.figures}}
            kept.append({"op": "change", "collection": "parts", "id": fuse.id, "fields": fields})
    return kept


def _again(build: Build, lines: tuple[WireLine, ...]) -> Iterator[str]:
    """Wires that are in the loom and would have to be others."""
    known = {line.id: line for line in schedule(build)}
    for line in lines:
        mine = known.get(line.id)
        if mine is None:
            continue
        if mine.size != line.size:
            yield f"{line.label}, {mine.size} now, {line.size} then"
        elif (mine.start.says, mine.end.says) != (line.start.says, line.end.says):
            yield f"{line.label}, from {line.start.says} to {line.end.says} then"


def _fuses(build: Build, other: Build) -> Iterator[str]:
    now, then = facts_of(build), facts_of(other)
    for fuse in build.parts_of_kind("fuse"):
        if fuse.id not in other.parts:
            yield f"{fuse.name} is not needed any more"
        elif now[fuse.id] != then[fuse.id]:
            rated = fuse.number("rating_a", 0), other.parts[fuse.id].number("rating_a", 0)
            if rated[0] != rated[1]:
                yield f"{fuse.name}: {rated[0]:g} A now, {rated[1]:g} A then"


def _room(build: Build, other: Build) -> Iterator[Room]:
    """Panels, plugs, modules and boxes with ways or pins that were free and are not then."""
    for part in other.parts_of_kind("panel", "connector", "module", "box"):
        names = [way.name for way in part.ways] or [pin.name for pin in part.pins]
        if part.id not in build.parts:
            continue
        used, was = _used(other, part.id), _used(build, part.id)
        taken = tuple(name for name in names if name in used and name not in was)
        if taken:
            yield Room(part.name, taken, sum(name not in used for name in names))


def _used(build: Build, part_id: str) -> set[str]:
    """The ways with a fuse and the pins with a wire, by the name of the cavity."""
    landed = (
        build.lands(end) for w in build.wires.values() for end in (w.from_terminal, w.to_terminal)
    )
    pins = {end.name for end in landed if end.part == part_id}
    fitted = (part.fitted for part in build.parts_of_kind("fuse") if part.fitted)
    ways = {row.way for row in fitted if row.panel == part_id}
    cavities = {pin.name: set(cavity_halves(pin.name)) for pin in build.parts[part_id].pins}
    return ways | pins | {name for name, halves in cavities.items() if halves & pins}


def _draws(was: Budget, then: Budget) -> Iterator[Drawing]:
    known = {row.id: row.draws_a for row in was.scenarios}
    for row in then.scenarios:
        more_a = abs(row.draws_a - known.get(row.id, row.draws_a))
        if more_a >= max(FELT_A, FELT * row.draws_a):
            yield Drawing(row.name, known[row.id], row.draws_a, row.verdict, row.says)


def _parked(of: Budget) -> float | None:
    return of.parked.to_no_start_days if of.parked else None
