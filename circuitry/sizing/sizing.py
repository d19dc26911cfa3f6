"""Sizing a build: solve, choose, solve again until the sizes stand."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from circuitry.build.model import Build, Part
from circuitry.catalogue import catalogue
from circuitry.network.elements import GARAGE_C, copper_factor
from circuitry.network.network import Network, Solution
from circuitry.sizing.choose import (
    Ampacities,
    LoadDrop,
    Peak,
    WireChooser,
    choose_fuse_rating,
    fuse_of_wire,
    fuse_peaks,
    load_drops,
    wire_peaks,
)
from circuitry.sizing.explain import (
    Said,
    Weighed,
    circuit_sizings,
    fuse_sizing,
    load_sizing,
    wire_sizing,
)
from circuitry.sizing.facts import Facts
from circuitry.sizing.findings import findings
from circuitry.sizing.result import Sizing
from circuitry.sizing.states import DESIGN_SUPPLIES, DesignState, Reach, reach

MOST_ROUNDS = 10
ROUNDS_THAT_MAY_SHRINK = 4
MOST_TRIMS = 4
START_SIZE = {"metric": "50 mm²", "awg": "1/0 AWG"}
"""Thick, so that the first currents are near the last ones."""
START_RATING_A = 20.0


@dataclass(frozen=True)
class Round:
    """The operating points of all design states at one set of sizes, and what follows."""

    build: Build
    facts: Facts
    network: Network
    designed: tuple[DesignState, ...]
    states: list[DesignState]
    solutions: list[Solution]
    wire_peak: Mapping[str, Peak]
    fuse_peak: Mapping[str, Peak]
    drops: Mapping[str, LoadDrop]
    fuse_of_wire: Mapping[str, str]
    ampacities: Ampacities
    conductor_c: Mapping[str, float]


def size_build(build: Build) -> Sizing:
    """Choose every fuse and wire that is not pinned, with reasons, and check those that are.

    Raises UnusableInput when relays never settle or the voltages of a state do not.
    """
    facts = Facts(build)
    reached = reach(build)
    pinned_wires = frozenset(wire.id for wire in build.wires.values() if wire.size is not None)
    current = _first_round(_start(build), facts, reached.states)
    for number in range(MOST_ROUNDS):
        chosen = _choose(build, current, pinned_wires)
        if number >= ROUNDS_THAT_MAY_SHRINK:
            chosen = _not_smaller(chosen, current.build)
        if chosen == current.build:
            break
        current = _next_round(chosen, current)
    for _ in range(MOST_TRIMS):
        trimmed = _trim(current, pinned_wires)
        if trimmed == current.build:
            break
        current = _next_round(trimmed, current)
    return _answer(build, current, reached, pinned_wires)


def _start(build: Build) -> Build:
    wires = {
        wire.id: wire if wire.size else replace(wire, size=START_SIZE[build.policy.conductors])
        for wire in build.wires.values()
    }
    return _rate_fuses(replace(build, wires=wires), {})


def _rate_fuses(build: Build, rating_a: Mapping[str, float]) -> Build:
    parts = dict(build.parts)
    for part in build.parts_of_kind("fuse"):
        if part.id in rating_a:
            parts[part.id] = _rated(part, rating_a[part.id])
        elif "rating_a" not in part.figures:
            rows = catalogue().fuses[part.catalogue or ""]
            nearest = min(rows, key=lambda row: abs(row.rating_a - START_RATING_A))
            parts[part.id] = _rated(part, nearest.rating_a)
    return replace(build, parts=parts)


def _rated(part: Part, rating_a: float) -> Part:
    return replace(part, figures={**part.figures, "rating_a": rating_a})


def _first_round(build: Build, facts: Facts, designed: tuple[DesignState, ...]) -> Round:
    network = Network(build)
    solutions: list[Solution] = []
    for state in designed:
        near = None
        for supply in DESIGN_SUPPLIES:
            near = network.solve(replace(state.state, supply=supply), near)
            solutions.append(near)
    conductor_c = dict.fromkeys(build.wires, GARAGE_C)
    return _round(build, facts, network, designed, solutions, conductor_c)


def _next_round(build: Build, before: Round) -> Round:
    conductor_c: Mapping[str, float] = {}
    if build.wires:
        conductor_c = before.ampacities.conductor_c(build, before.wire_peak)
    network = before.network.resized(build, conductor_c)
    solutions = [network.solve(near.state, near) for near in before.solutions]
    return _round(build, before.facts, network, before.designed, solutions, conductor_c)


def _round(
    build: Build,
    facts: Facts,
    network: Network,
    designed: tuple[DesignState, ...],
    solutions: list[Solution],
    conductor_c: Mapping[str, float],
) -> Round:
    repeated = [state for state in designed for _ in DESIGN_SUPPLIES]
    states = [_energised(*pair) for pair in zip(repeated, solutions, strict=True)]
    wire_peak = wire_peaks(states, solutions)
    return Round(
        build,
        facts,
        network,
        designed,
        states,
        solutions,
        wire_peak,
        fuse_peaks(states, solutions),
        load_drops(build, states, solutions),
        fuse_of_wire(build, facts),
        Ampacities(facts, build, solutions, wire_peak),
        conductor_c,
    )


def _energised(state: DesignState, solution: Solution) -> DesignState:
    """The state with only the loads that the solver finds fed: a relay may not have pulled in."""
    alive = {
        load: path
        for load, path in state.paths.items()
        if solution.loads[load].volts > 0.5 * solution.battery_v
    }
    return replace(state, paths=alive)


def _choose(original: Build, current: Round, pinned: frozenset[str]) -> Build:
    ratings = {
        part.id: choose_fuse_rating(original, part, current.fuse_peak[part.id].current_a).rating_a
        for part in original.parts_of_kind("fuse")
        if "rating_a" not in part.figures and part.id in current.fuse_peak
    }
    rated = _rate_fuses(current.build, ratings)
    chooser = _chooser(rated, current)
    chooser.choose()
    return _fitted(rated, chooser, pinned)


def _trim(current: Round, pinned: frozenset[str]) -> Build:
    """Take back copper that the rounds added and that the settled build does not need."""
    chooser = _settled_chooser(current, pinned)
    chooser.trim()
    return _fitted(current.build, chooser, pinned)


def _fitted(build: Build, chooser: WireChooser, pinned: frozenset[str]) -> Build:
    """The build with the chosen sizes on all wires that are not pinned."""
    wires = dict(build.wires)
    for wire in build.wires.values():
        size = chooser.size(wire.id)
        if wire.id not in pinned and wire.size != size:
            wires[wire.id] = replace(wire, size=size)
    return replace(build, wires=wires)


def _settled_chooser(current: Round, pinned: frozenset[str]) -> WireChooser:
    """A chooser that holds the sizes as they are, and for a pinned wire what it should be."""
    chooser = _chooser(current.build, current)
    chooser.choose()
    for wire in current.build.wires.values():
        if wire.id not in pinned:
            chooser.fit(wire.id, current.facts.index[wire.size or ""])
    return chooser


def _chooser(rated: Build, current: Round) -> WireChooser:
    must_a = {wire: must_carry_a(rated, current, wire) for wire in rated.wires}
    floor = current.ampacities.floors(must_a) if must_a else {}
    fitted_ohm = {
        wire.id: current.facts.ohm_20c(wire.id, wire.size or "")
        * copper_factor(current.conductor_c[wire.id])
        for wire in current.build.wires.values()
    }
    return WireChooser(current.ampacities, floor, current.drops, current.wire_peak, fitted_ohm)


def must_carry_a(rated: Build, current: Round, wire: str) -> float:
    """The design current, or what the fuse before the wire lets pass where that is more.

    A tap answers for the largest fuse that it leads to instead, a wire behind a channel of a
    module for the channel's limit.
    """
    channel = current.facts.channel_of_wire.get(wire)
    before = current.fuse_of_wire.get(wire)
    fuses = current.facts.taps.get(wire, (before,) if before else ())
    ratings_a = [rated.parts[fuse].number("rating_a", 0) for fuse in fuses]
    if channel is not None:
        ratings_a = [channel.limit_a]
    return max(current.wire_peak[wire].lasting_a, *ratings_a, 0.0)


def _not_smaller(chosen: Build, before: Build) -> Build:
    """The chosen sizes, but none smaller than before: this ends a search that goes to and fro."""
    conductor = catalogue().conductor
    wires = {
        wire.id: max(
            wire,
            before.wires[wire.id],
            key=lambda row: conductor[row.size or ""].copper_area_mm2,
        )
        for wire in chosen.wires.values()
    }
    ratings = {
        part.id: max(part.number("rating_a", 0), before.parts[part.id].number("rating_a", 0))
        for part in chosen.parts_of_kind("fuse")
    }
    return _rate_fuses(replace(chosen, wires=wires), ratings)


def _behind(last: Round, wire: str) -> str | None:
    """The name of the fuse or channel that a wire stands behind."""
    channel = last.facts.channel_of_wire.get(wire)
    if channel is not None:
        return channel.name
    fuse = last.fuse_of_wire.get(wire)
    return last.build.parts[fuse].name if fuse else None


def _answer(original: Build, last: Round, reached: Reach, pinned: frozenset[str]) -> Sizing:
    chooser = _settled_chooser(last, pinned)
    said = Said(last.build, last.states)
    wires = {
        wire.id: wire_sizing(
            Weighed(
                wire,
                last.wire_peak[wire.id],
                must_carry_a(last.build, last, wire.id),
                last.fuse_of_wire.get(wire.id),
                _behind(last, wire.id),
                wire.id in pinned,
            ),
            last.build,
            last.ampacities,
            chooser,
            said,
        )
        for wire in last.build.wires.values()
    }
    fuses = {
        part.id: fuse_sizing(
            last.build,
            part,
            last.fuse_peak[part.id],
            "rating_a" in original.parts[part.id].figures,
            said,
        )
        for part in last.build.parts_of_kind("fuse")
        if part.id in last.fuse_peak
    }
    loads = {
        drop.load: load_sizing(
            drop,
            last.states[drop.solution],
            last.solutions[drop.solution],
            said.whole(drop.solution),
        )
        for drop in last.drops.values()
    }
    sizing = Sizing(
        last.build,
        tuple(last.states),
        wires,
        fuses,
        loads,
        {},
        reached.easiest,
        tuple(last.solutions),
        last.facts.unprotected,
        reached.fullest,
    )
    found = findings(original, sizing, last.solutions, last.facts.unprotected)
    return replace(
        sizing, findings=tuple(found), circuits=circuit_sizings(sizing, last.solutions, found)
    )
