"""Leading new wires through the connectors that they pass, such as a plug in the bulkhead."""

from dataclasses import replace

from circuitry.design.model import Part, Terminal, Wire
from circuitry.design.routes import ends_of, way_of
from circuitry.devices.connector import cavity_halves
from circuitry.recipes.draft import Draft

HEAVY_KINDS = ("battery", "stud", "bus bar", "alternator", "isolator")
"""Kinds whose cables end in rings and go through no plug."""


def through_connectors(draft: Draft, wires: set[str]) -> None:
    """Part each wire at every connector with a free cavity that stands on its way."""
    connectors = [
        part
        for part in draft.parts.values()
        if part.kind == "connector" and part.circuit is None  # a trailer's socket is an end
    ]
    for wire_id in sorted(wires & draft.wires.keys()) if connectors else ():
        ends = (draft.wires[wire_id].from_terminal, draft.wires[wire_id].to_terminal)
        if any(draft.parts[end.part].kind in HEAVY_KINDS for end in ends):
            continue
        for place in _passed(draft, draft.wires[wire_id]):
            for connector in connectors:
                if connector.place == place and (halves := free_cavity(draft, connector)):
                    wire_id = _part_at(draft, draft.wires[wire_id], place, halves)
                    break


def free_cavity(draft: Draft, connector: Part) -> tuple[Terminal, Terminal] | None:
    """Both halves of the first cavity without wires; None when all are taken."""
    for pin in connector.pins:
        first, second = (Terminal(connector.id, half) for half in cavity_halves(pin.name))
        if not draft.wires_on(first) and not draft.wires_on(second):
            return first, second
    return None


def part_wire(draft: Draft, wire: Wire, first: Terminal, second: Terminal) -> Wire:
    """End a wire on the first terminal, and lead a new one on from the second."""
    draft.wires[wire.id] = replace(
        wire, to_terminal=first, way=None, length_m=None, joint_to=None, extra_m=None
    )
    circuit = draft.circuits.get(wire.circuit or "")
    onward = draft.add_wire(second, wire.to_terminal, circuit, wire.colour)
    draft.wires[onward.id] = replace(onward, joint_to=wire.joint_to, insulation=wire.insulation)
    return draft.wires[onward.id]


def _passed(draft: Draft, wire: Wire) -> list[str]:
    """The places between the two ends of a wire, in order."""
    build = draft.build
    here, end = ends_of(build, wire)
    places = []
    for run in way_of(build, wire):
        here = run.to_place if here == run.from_place else run.from_place
        places.append(here)
    return [place for place in places if place != end]


def _part_at(draft: Draft, wire: Wire, place: str, halves: tuple[Terminal, Terminal]) -> str:
    """Lead a wire through a cavity; the front half of a connector is its first."""
    places = draft.build.places
    start = draft.parts[wire.from_terminal.part].place
    in_front = places[start].x_m <= places[place].x_m
    first, second = halves if in_front else halves[::-1]
    return part_wire(draft, wire, first, second).id
