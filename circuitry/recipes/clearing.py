"""Taking a circuit out of a build, or making room to write it again."""

from dataclasses import replace

from circuitry.build.kinds import SWITCH_KINDS
from circuitry.build.model import Circuit, Part, Terminal
from circuitry.recipes.draft import Draft
from circuitry.recipes.protection import fuse_output

WRITTEN_KINDS = ("relay", "diode", "resistor", "splice", "box")
"""Kinds that a recipe adds of its own accord, and so takes out again; the rest the builder owns."""


def clear(draft: Draft, circuit: Circuit) -> None:
    """Take out the wires and small parts of a circuit; a feed others need passes to one of them."""
    for wire in [w for w in draft.wires.values() if w.circuit == circuit.id]:
        heir = _heir(draft, wire.from_terminal, circuit) or _heir(draft, wire.to_terminal, circuit)
        if heir is None:
            del draft.wires[wire.id]
        else:
            draft.wires[wire.id] = replace(wire, circuit=heir)
    going = {part.id for part in _own(draft, circuit, *WRITTEN_KINDS)}
    going |= {part.id for part in _own(draft, circuit, "fuse") if part.fitted is None}
    for part in list(draft.parts.values()):
        if part.housed is not None and part.housed.unit in going and part.id not in going:
            draft.parts[part.id] = replace(part, housed=None)
    for wire in list(draft.wires.values()):
        if {wire.from_terminal.part, wire.to_terminal.part} & going:
            del draft.wires[wire.id]
    for part_id in going:
        del draft.parts[part_id]


def sweep_fuses(draft: Draft) -> None:
    """Take out fuses in ways that nothing leaves."""
    for fuse in [part for part in draft.parts.values() if part.kind == "fuse" and part.fitted]:
        if not draft.wires_on(fuse_output(fuse)):
            del draft.parts[fuse.id]


def sweep(draft: Draft, circuit: Circuit) -> None:
    """Take out fuses in ways that nothing leaves, and the circuit's switches without wires."""
    sweep_fuses(draft)
    landed = {end.part for w in draft.wires.values() for end in (w.from_terminal, w.to_terminal)}
    for switch in _own(draft, circuit, *SWITCH_KINDS):
        if switch.id not in landed and switch.housed is None:
            del draft.parts[switch.id]
        elif circuit.id not in draft.circuits:
            draft.parts[switch.id] = replace(switch, circuit=None)


def _own(draft: Draft, circuit: Circuit, *kinds: str) -> list[Part]:
    return [p for p in draft.parts.values() if p.circuit == circuit.id and p.kind in kinds]


def _heir(draft: Draft, end: Terminal, circuit: Circuit) -> str | None:
    """Another circuit that needs the feed of the switch at this end of a wire."""
    part = draft.parts.get(end.part)
    if (
        part is None
        or part.kind not in SWITCH_KINDS
        or part.contacts is None
        or end.name != part.contacts.common
    ):
        return None
    for wire in draft.wires.values():
        ends = {wire.from_terminal.part, wire.to_terminal.part}
        if part.id in ends and wire.circuit != circuit.id:
            return wire.circuit
    return None
