"""Road states: what a car does, and what is on anyway while it does it.

What is lost on the way is judged on the road, not in the worst combination: nobody drives with
main beam, fogs, both windows and the horn at once. In each road state the loads that belong to it
are on; a circuit that is not on anyway is judged with all its own loads at full beside the road
state with most on that leaves it alive.
"""

import math
from collections.abc import Collection, Iterator, Mapping
from dataclasses import replace

from circuitry.catalogue import catalogue
from circuitry.design.model import CRANKING, ROAD_STATES, Build, Part
from circuitry.design.state import Supply
from circuitry.devices.battery import supply_at
from circuitry.devices.load import rated_current_a
from circuitry.network.network import Solution
from circuitry.reach.paths import paths_of
from circuitry.reach.ways import Path
from circuitry.sizing.result import Sizing
from circuitry.sizing.states import DesignState, Reach, apart, in_words, unite

KEY_OF = {
    "day": "run",
    "night": "run",
    "night and rain": "run",
    "parked with side lamps": "off",
    "hazards": "off",
    CRANKING: "crank",
}
BESIDE = ("night and rain", "night", "day")
"""The road states that a circuit that is not on anyway is judged beside, the heaviest first."""
TELLTALE_A = 0.2
"""A lamp that tells of what its circuit does is on with it."""
MOST_BESIDE = 40
"""Circuits that are judged by themselves; in a larger car a few are judged together, each then with
a little more on beside it than there need be."""
JUDGED_AT = Supply(12.0, 1e-4)
COLD_CHARGE, COLD_C = 0.5, -10.0
"""The battery that must still turn the engine: half charged, on a cold morning."""


def on_anyway(build: Build, road: str) -> list[Part]:
    """The loads that are on in a road state: those that the builder has named, or the usual."""
    named = build.policy.road_states.get(road)
    if named is None:
        return usually_on(build, road)
    return [load for load in build.parts_of_kind("load") if load.id in named]


def usually_on(build: Build, road: str) -> list[Part]:
    """The loads that are on in a road state by what they are, with the telltales beside them: what
    has road states of its own, as the lamp of a cluster has by night, tells nothing."""
    loads = build.parts_of_kind("load")
    roads = {load.id: catalogue().loads[load.catalogue or ""].road_states for load in loads}
    usual = [load for load in loads if road in roads[load.id]]
    circuits = {load.circuit for load in usual if load.circuit}
    telling = (
        load
        for load in loads
        if load.circuit in circuits and not roads[load.id] and rated_current_a(load) < TELLTALE_A
    )
    return [*usual, *telling]


def road_states(build: Build, reached: Reach) -> tuple[DesignState, ...]:
    """Every road state with something on, and one for each circuit that is on in none, each at
    the supply that it is judged at."""
    return tuple(
        replace(state, state=replace(state.state, supply=_supply(build, state.road)))
        for state in _road_states(build, reached)
    )


def _supply(build: Build, road: str) -> Supply:
    """12 V at the posts of the battery; while cranking what a cold one holds."""
    if road != CRANKING:
        return JUDGED_AT
    return supply_at(build.parts_of_kind("battery")[0], COLD_CHARGE, COLD_C)


def by_themselves(build: Build, reached: Reach, loads: Collection[str]) -> tuple[DesignState, ...]:
    """Road states for loads that something else in every other keeps dark: nothing else is on."""
    alone = apart(build, replace(reached, states=()), loads).states
    return tuple(
        replace(state, road="by itself", state=replace(state.state, supply=JUDGED_AT))
        for state in alone
    )


def in_road_states(sizing: Sizing, load: str) -> Mapping[str, tuple[Solution, Path, str]]:
    """For each road state in which a load is fed: the solution, its way, and the state in words."""
    known: dict[str, tuple[Solution, Path, str]] = {}
    for state, solution in zip(sizing.states, sizing.solutions, strict=True):
        if state.road and load in state.paths and state.road not in known:
            words = in_words(sizing.build, state.state)
            known[state.road] = solution, state.paths[load], words
    return known


def _road_states(build: Build, reached: Reach) -> Iterator[DesignState]:
    anyway: dict[str, dict[str, Path]] = {}
    judged: set[str] = set()
    for road in ROAD_STATES:
        alive = reached.alive.get(KEY_OF[road], {})
        on = {load.id: alive[load.id] for load in _heaviest_first(on_anyway(build, road), alive)}
        anyway[road] = on
        for state in unite(build, paths_of(build), on, road=road)[:1]:
            judged |= state.paths.keys()
            yield state
    others = [loads for loads in _circuits(build) if any(load.id not in judged for load in loads)]
    together = math.ceil(len(others) / MOST_BESIDE) or 1
    for first in range(0, len(others), together):
        loads = [load for circuit in others[first : first + together] for load in circuit]
        yield from _beside(build, reached, anyway, loads)


def _heaviest_first(loads: list[Part], alive: Mapping[str, Path]) -> list[Part]:
    return sorted((load for load in loads if load.id in alive), key=rated_current_a, reverse=True)


def _circuits(build: Build) -> list[list[Part]]:
    by_circuit: dict[str, list[Part]] = {}
    for load in build.parts_of_kind("load"):
        by_circuit.setdefault(load.circuit or load.id, []).append(load)
    return list(by_circuit.values())


def _beside(
    build: Build,
    reached: Reach,
    anyway: Mapping[str, Mapping[str, Path]],
    loads: list[Part],
) -> Iterator[DesignState]:
    """A circuit at full beside the heaviest road state in which its key position is."""
    waiting = {load.id for load in loads}
    for key in ("run", "off", "accessory", "crank"):
        alive = reached.alive.get(key, {})
        own = {load.id: alive[load.id] for load in _heaviest_first(loads, alive)}
        wanted = waiting & own.keys()
        if not wanted:
            continue
        road = next((road for road in BESIDE if key == KEY_OF[road] and anyway[road]), "")
        together = {**own, **{k: v for k, v in anyway.get(road, {}).items() if k not in own}}
        yield from unite(build, paths_of(build), together, wanted, road or "by itself")
        waiting -= wanted
