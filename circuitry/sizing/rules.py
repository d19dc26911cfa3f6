"""By what a build is sized, for a builder to read and change: schools, road states and reels."""

from dataclasses import dataclass
from itertools import pairwise

from circuitry.catalogue import USUAL_SHELF, catalogue
from circuitry.design.model import DROP_SCHOOLS, ROAD_STATES, Build
from circuitry.design.routes import length_m
from circuitry.devices.terminals import fits, terminal_range
from circuitry.layout.bundles import COPPER_G_PER_CM3
from circuitry.sizing.charging import CHARGING, OUTPUTS
from circuitry.sizing.facts import shelf_of
from circuitry.sizing.result import Sizing
from circuitry.sizing.roads import KEY_OF, on_anyway, usually_on

COPPER_KG_PER_MM2_M = COPPER_G_PER_CM3 / 1000
"""mm² times m is cm³."""
SAYS = {
    "by kind of load": "Each kind of load may lose what it bears: a headlamp little, a horn much.",
    "percent by class": "One share for safety and critical circuits, one for the rest.",
    "flat": "The same volts for every load.",
    "by effect": "At least 85 % of the light, 92 % of the speed, 88 % of the heat.",
    "by ampacity alone": "Nothing is asked: a wire need only carry its current.",
}


@dataclass(frozen=True)
class School:
    """A school of how much may be lost on the way, and what it says."""

    name: str
    says: str


@dataclass(frozen=True)
class KindLimit:
    """What a kind of load may lose, in V from 12 V; ``own_v`` is the builder's own, if any. Of
    what charges a battery, the ``loads`` are the sources."""

    kind: str
    usual_v: float
    own_v: float | None
    note: str
    loads: tuple[str, ...]


@dataclass(frozen=True)
class RoadRule:
    """What is on in a road state; ``battery_a`` is what that draws, None where nothing is."""

    name: str
    key: str
    on: tuple[str, ...]
    usual: tuple[str, ...]
    named: bool
    battery_a: float | None


@dataclass(frozen=True)
class Reel:
    """A size of wire and what the car needs of it.

    ``without_kg`` is the copper that it costs to fit the next size that is used ``instead``; None
    where that does not fit every terminal, or nothing is needed.
    """

    size: str
    area_mm2: float
    on_shelf: bool
    usual: bool
    length_m: float
    wires: int
    copper_kg: float
    without_kg: float | None
    instead: str | None


@dataclass(frozen=True)
class Rules:
    """Everything that decides sizes beside the car itself."""

    school: str
    schools: tuple[School, ...]
    limits: tuple[KindLimit, ...]
    roads: tuple[RoadRule, ...]
    reels: tuple[Reel, ...]
    copper_kg: float


def rules(sizing: Sizing) -> Rules:
    """The rules of a sized build, with what they take."""
    build = sizing.build
    reels = _reels(build)
    return Rules(
        build.policy.drop_school,
        tuple(School(name, SAYS[name]) for name in DROP_SCHOOLS),
        tuple(_limits(build)),
        tuple(_road(sizing, name) for name in ROAD_STATES),
        reels,
        sum(reel.copper_kg for reel in reels),
    )


def _limits(build: Build) -> list[KindLimit]:
    rows = catalogue().loads
    kinds = {load.id: rows[load.catalogue or ""].drop for load in build.parts_of_kind("load")}
    kinds |= {source.id: CHARGING for source in build.parts_of_kind(*OUTPUTS)}
    return [
        KindLimit(
            row.load_kind,
            row.loop_limit_v_at_12v,
            build.policy.drop_limits_v.get(row.load_kind),
            row.note,
            tuple(part for part, kind in kinds.items() if kind == row.load_kind),
        )
        for row in catalogue().drop_limits.values()
    ]


def _road(sizing: Sizing, name: str) -> RoadRule:
    build = sizing.build
    solved = (
        abs(solution.battery_a)
        for state, solution in zip(sizing.states, sizing.solutions, strict=True)
        if state.road == name
    )
    return RoadRule(
        name,
        KEY_OF[name],
        tuple(load.id for load in on_anyway(build, name)),
        tuple(load.id for load in usually_on(build, name)),
        name in build.policy.road_states,
        next(solved, None),
    )


def _reels(build: Build) -> tuple[Reel, ...]:
    """The sizes of the build's system and any other that is fitted, thinnest first."""
    conductor = catalogue().conductor
    by_size: dict[str, list[float]] = {}
    for wire in build.wires.values():
        by_size.setdefault(wire.size or "", []).append(length_m(build, wire))
    names = {row.name: None for row in catalogue().conductors[build.policy.conductors]}
    names |= dict.fromkeys(name for name in by_size if name in conductor)
    rows = sorted((conductor[name] for name in names), key=lambda row: row.copper_area_mm2)
    shelf = {row.name for row in shelf_of(build.policy)}
    usual = USUAL_SHELF[build.policy.conductors]
    used = [row for row in rows if row.name in by_size]
    larger = {row.name: other for row, other in pairwise(used)}
    reels = []
    for row in rows:
        metres = sum(by_size.get(row.name, []))
        instead = larger.get(row.name)
        more_mm2 = instead.copper_area_mm2 - row.copper_area_mm2 if instead else 0.0
        fitting = instead is not None and _fits_instead(build, row.name, instead.copper_area_mm2)
        reels.append(
            Reel(
                row.name,
                row.copper_area_mm2,
                row.name in shelf,
                row.name in usual,
                metres,
                len(by_size.get(row.name, [])),
                metres * row.copper_area_mm2 * COPPER_KG_PER_MM2_M,
                metres * more_mm2 * COPPER_KG_PER_MM2_M if fitting else None,
                instead.name if instead and fitting else None,
            )
        )
    return tuple(reels)


def _fits_instead(build: Build, size: str, area_mm2: float) -> bool:
    """Whether a thicker wire goes into every terminal on which one of this size ends."""
    return all(
        fits(terminal_range(build, end), area_mm2)
        for wire in build.wires.values()
        if wire.size == size
        for end in (wire.from_terminal, wire.to_terminal)
    )
