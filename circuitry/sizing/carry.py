"""Sizes that an edit cannot have changed are carried over instead of being chosen again."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from typing import TypeVar

from circuitry.build.model import Build, Part, Place, Policy, Run, Wire
from circuitry.build.routes import has_way
from circuitry.sizing.explain import circuit_sizings
from circuitry.sizing.findings import findings
from circuitry.sizing.result import Sizing

Thing = TypeVar("Thing", Wire, Run, Part, Place)

TOLD = ("source", "duty")


def carried_over(before: Build, sizing: Sizing, after: Build) -> Sizing | None:
    """The sizing of a build that differs from a sized one only in what no current feels.

    That is: where a place is drawn, notes and states, colours, what is not wired, the car's
    outline, how a run is fixed, and everything recorded of an old loom. None when anything else
    differs, or when a wire has no way, for then its length is read off the plan. Findings are made
    anew, and where things are called otherwise, everything that is said of sizes.
    """
    if not all(has_way(after, wire) for wire in after.wires.values()):
        return None
    if not feels_the_same(before, after):
        return sizing.worded(after) if _differ_in_names(before, after) else None
    parts = {
        part.id: replace(part, figures=sizing.build.parts[part.id].figures)
        if part.kind == "fuse"
        else part
        for part in after.parts.values()
    }
    wires = {
        wire.id: replace(wire, size=sizing.build.wires[wire.id].size)
        for wire in after.wires.values()
    }
    sized = replace(after, parts=parts, wires=wires)
    easiest = {load.id: sizing.easiest.get(load.id) for load in sized.parts_of_kind("load")}
    carried = replace(sizing, build=sized, easiest=easiest)
    found = findings(after, carried, sizing.solutions, sizing.unprotected)
    circuits = circuit_sizings(carried, sizing.solutions, found)
    return replace(carried, findings=tuple(found), circuits=circuits)


def feels_the_same(before: Build, after: Build) -> bool:
    """Whether two builds differ in nothing that a current feels."""
    parts, places = _felt_ids(before)
    return (
        before.name == after.name
        and before.body_conducts == after.body_conducts
        and _felt_policy(before.policy) == _felt_policy(after.policy)
        and before.circuits == after.circuits
        and (parts, places) == _felt_ids(after)
        and _alike(before.wires, after.wires, before.wires.keys() | after.wires, _felt_wire)
        and _alike(before.runs, after.runs, before.runs.keys() | after.runs, _felt_run)
        and _alike(before.parts, after.parts, parts, _felt_part)
        and _alike(before.places, after.places, places, _felt_place)
    )


def _differ_in_names(before: Build, after: Build) -> bool:
    """Whether two builds have the same things in the same order, and only call some otherwise."""
    ordered = [
        (list(one), list(other))
        for one, other in (
            (before.parts, after.parts),
            (before.wires, after.wires),
            (before.circuits, after.circuits),
        )
    ]
    return all(one == other for one, other in ordered) and feels_the_same(
        _nameless(before), _nameless(after)
    )


def _nameless(build: Build) -> Build:
    """The build with nothing called anything."""
    return replace(
        build,
        name="",
        parts={part.id: replace(part, name="") for part in build.parts.values()},
        wires={wire.id: replace(wire, label="") for wire in build.wires.values()},
        circuits={row.id: replace(row, name="") for row in build.circuits.values()},
        places={place.id: replace(place, name="") for place in build.places.values()},
    )


def _felt_ids(build: Build) -> tuple[set[str], set[str]]:
    """The parts that are wired or belong to something, and the places where they and runs are."""
    wired = build.wired_parts()
    parts = {
        part.id for part in build.parts.values() if part.id in wired or part.fitted or part.circuit
    }
    places = {build.parts[part].place for part in parts}
    for run in build.runs.values():
        places |= {run.from_place, run.to_place}
    return parts, places


def _alike(
    before: Mapping[str, Thing],
    after: Mapping[str, Thing],
    ids: Iterable[str],
    felt: Callable[[Thing], Thing],
) -> bool:
    """Whether these things are there before and after, and the same in all that is felt."""
    return all(
        thing in before
        and thing in after
        and (before[thing] is after[thing] or felt(before[thing]) == felt(after[thing]))
        for thing in ids
    )


def _felt_policy(policy: Policy) -> Policy:
    return replace(policy, colours="by function", palette={})


def _felt_wire(wire: Wire) -> Wire:
    return replace(wire, colour="")


def _felt_place(place: Place) -> Place:
    return replace(place, x_m=0.0, y_m=0.0, level="waist")


def _felt_run(run: Run) -> Run:
    return replace(run, measured=True, fixings_mm=250.0, hole_mm=None, hole_fit="none")


def _felt_part(part: Part) -> Part:
    figures = {name: value for name, value in part.figures.items() if name not in TOLD}
    return replace(part, state="new", note="", wish=None, figures=figures)
