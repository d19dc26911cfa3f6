"""Sizes that an edit cannot have changed are carried over instead of being chosen again."""

from collections.abc import Iterable, Mapping
from dataclasses import replace

from circuitry.design.model import Build, Circuit, Part, Place, Policy, Run, Wire
from circuitry.design.routes import has_way
from circuitry.sizing.explain import circuit_sizings
from circuitry.sizing.findings import findings
from circuitry.sizing.result import Sizing

Thing = Circuit | Wire | Run | Part | Place

TOLD = ("source", "duty", "lamp")
UNFELT = (
    *("colours", "palette", "charge_margin", "parked_days", "cut_to_m", "label_every_m"),
    *("label_letters", "spare_share", "drawer", "prices", "laying", "tapes"),
)
"""What of the policy no current feels."""


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


def feels_the_same(before: Build, after: Build, but_for_names: bool = False) -> bool:
    """Whether two builds differ in nothing that a current feels, and call everything the same, or
    but for names."""
    parts, places = _felt_ids(before)

    def alike(one: Mapping[str, Thing], other: Mapping[str, Thing], ids: Iterable[str]) -> bool:
        return all(
            thing in one
            and thing in other
            and (
                one[thing] is other[thing]
                or _felt(one[thing], but_for_names) == _felt(other[thing], but_for_names)
            )
            for thing in ids
        )

    return (
        (but_for_names or before.name == after.name)
        and before.body_conducts == after.body_conducts
        and _felt_policy(before.policy) == _felt_policy(after.policy)
        and (parts, places) == _felt_ids(after)
        and _fuses(before) == _fuses(after)
        and alike(before.circuits, after.circuits, before.circuits.keys() | after.circuits)
        and alike(before.wires, after.wires, before.wires.keys() | after.wires)
        and alike(before.runs, after.runs, before.runs.keys() | after.runs)
        and alike(before.parts, after.parts, parts)
        and alike(before.places, after.places, places)
    )


def _differ_in_names(before: Build, after: Build) -> bool:
    """Whether two builds have the same things in the same order, and only call some otherwise."""
    ordered = (
        (before.parts, after.parts),
        (before.wires, after.wires),
        (before.circuits, after.circuits),
    )
    same_order = all(list(one) == list(other) for one, other in ordered)
    return same_order and feels_the_same(before, after, but_for_names=True)


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


def _fuses(build: Build) -> list[str]:
    """All fuses, for each is given a rating, also one that lies loose."""
    return [fuse.id for fuse in build.parts_of_kind("fuse")]


def _felt_policy(policy: Policy) -> Policy:
    usual = Policy()
    return replace(policy, **{name: getattr(usual, name) for name in UNFELT})


def _felt(thing: Thing, but_for_names: bool) -> Thing:
    """What of a thing a current feels, with what it is called or without."""
    match thing:
        case Wire():
            felt = replace(thing, colour="")
            return replace(felt, label="") if but_for_names else felt
        case Run():
            return replace(thing, measured=True, fixings_mm=250.0, hole_mm=None, hole_fit="none")
        case Place():
            at = replace(thing, x_m=0.0, y_m=0.0, level="waist")
            return replace(at, name="") if but_for_names else at
        case Part():
            figures = {name: value for name, value in thing.figures.items() if name not in TOLD}
            part = replace(thing, state="new", note="", wish=None, figures=figures)
            return replace(part, name="") if but_for_names else part
    return replace(thing, name="") if but_for_names else thing
