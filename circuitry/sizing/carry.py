"""Sizes that an edit cannot have changed are carried over instead of being chosen again."""

from dataclasses import replace

from circuitry.build.model import Body, Build, Part, Place, Run, Runs
from circuitry.build.routes import has_way
from circuitry.sizing.explain import circuit_sizings
from circuitry.sizing.findings import findings
from circuitry.sizing.result import Sizing

TOLD = ("source", "duty")


def carried_over(before: Build, sizing: Sizing, after: Build) -> Sizing | None:
    """The sizing of a build that differs from a sized one only in what no current feels.

    That is: where a place is drawn, notes and states, colours, what is not wired, the car's
    outline, how a run is fixed, and everything recorded of an old loom. None when anything else
    differs, or when a wire has no way, for then its length is read off the plan. Findings are made
    anew.
    """
    if not all(has_way(after, wire) for wire in after.wires.values()):
        return None
    if _felt(before) != _felt(after):
        return None
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
    found = findings(after, carried, list(sizing.solutions), sizing.unprotected)
    circuits = circuit_sizings(carried, list(sizing.solutions), found)
    return replace(carried, findings=tuple(found), circuits=circuits)


def _felt(build: Build) -> Build:
    """The build without what no current feels."""
    wired = build.wired_parts()
    parts = {
        part.id: _felt_part(part)
        for part in build.parts.values()
        if part.id in wired or part.fitted or part.circuit
    }
    touched = {part.place for part in parts.values()}
    touched |= {end for run in build.runs.values() for end in (run.from_place, run.to_place)}
    return replace(
        build,
        policy=replace(build.policy, colours="by function", palette={}),
        body=Body(),
        harness_from=None,
        places={place: _felt_place(build.places[place]) for place in touched},
        runs=Runs({run.id: _felt_run(run) for run in build.runs.values()}),
        parts=parts,
        wires={wire.id: replace(wire, colour="") for wire in build.wires.values()},
        found_circuits={},
        pin_pairs={},
        harness_circuits={},
    )


def _felt_place(place: Place) -> Place:
    return replace(place, x_m=0.0, y_m=0.0, level="waist")


def _felt_run(run: Run) -> Run:
    return replace(run, measured=True, fixings_mm=250.0, hole_mm=None, hole_fit="none")


def _felt_part(part: Part) -> Part:
    figures = {name: value for name, value in part.figures.items() if name not in TOLD}
    return replace(part, state="new", note="", wish=None, figures=figures)
