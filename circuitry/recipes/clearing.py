"""Taking a circuit out of a build, or making room to write it again."""

from dataclasses import replace
from typing import Any

from circuitry.design.model import Circuit, Part, Terminal, Wire
from circuitry.devices import is_switch
from circuitry.recipes.channels import pass_inputs_on, sweep_channels
from circuitry.recipes.draft import Draft
from circuitry.recipes.protection import fuse_output

WAY_POINTS = ("ground point", "bus bar", "stud")
"""Kinds at which wires of several circuits meet."""
IN_THE_LEAD = ("isolator", "ammeter")
"""Kinds that a recipe puts into a wire of others, and that these are led past again."""
LAST_POINTS = ("ground point", "battery")
REMADE = ("ground-cables",)
"""Recipes that, written again, make whole what others lean on."""
WRITTEN_KINDS = (
    *("relay", "diode", "resistor", "splice", "box", "ammeter", "connector"),
    *("second battery", "split-charge relay", "solar panel", "converter"),
)
"""Kinds that a recipe adds of its own accord, and so takes out again; the rest the builder owns."""


def clear(draft: Draft, circuit: Circuit, again: bool = False) -> None:
    """Take out the wires and small parts of a circuit; a feed others need passes to one of them.

    ``again`` says that it is written anew at once.
    """
    remade = again and circuit.written is not None and circuit.written.recipe in REMADE
    _lead_past_isolators(draft, circuit)
    pass_inputs_on(draft, circuit)
    isolators = {part.id for part in _own(draft, circuit, *IN_THE_LEAD)}
    for wire in [w for w in draft.wires.values() if w.circuit == circuit.id]:
        heir = (
            _heir(draft, wire.from_terminal, circuit)
            or _heir(draft, wire.to_terminal, circuit)
            or _heir_of_way(draft, wire, circuit)
        )
        if remade or heir is None or isolators & {wire.from_terminal.part, wire.to_terminal.part}:
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
    """Take out fuses in ways that nothing leaves any more; one that was spare before stays. So are
    the channels and inputs of modules set free."""
    sweep_channels(draft)
    before = draft.before
    used = {e for w in before.wires.values() for e in (w.from_terminal, w.to_terminal)}
    for fuse in [part for part in draft.parts.values() if part.kind == "fuse" and part.fitted]:
        was_spare = fuse.id in before.parts and fuse_output(before.parts[fuse.id]) not in used
        if not was_spare and not draft.wires_on(fuse_output(fuse)):
            del draft.parts[fuse.id]


def _lead_past_isolators(draft: Draft, circuit: Circuit) -> None:
    """Put back what other circuits have behind the isolators of this one, where it was before."""
    for isolator in _own(draft, circuit, *IN_THE_LEAD):
        for wire in [w for w in draft.wires.values() if w.circuit != circuit.id]:
            for end in ("from_terminal", "to_terminal"):
                terminal = getattr(wire, end)
                past = _past(draft, isolator, terminal) if terminal.part == isolator.id else None
                if past is not None:
                    moved: dict[str, Any] = {end: past, "way": None}
                    draft.wires[wire.id] = replace(draft.wires[wire.id], **moved)


def _past(draft: Draft, isolator: Part, terminal: Terminal) -> Terminal | None:
    """What the isolator's own circuit brings to the pole that a terminal is on, if anything."""
    poles = isolator.contacts.positions[0].joins if isolator.contacts else (("in", "out"),)
    pole = next((names for names in poles if terminal.name in names), ())
    for wire in draft.wires.values():
        if wire.circuit != isolator.circuit:
            continue
        for here, there in (
            (wire.from_terminal, wire.to_terminal),
            (wire.to_terminal, wire.from_terminal),
        ):
            if here.part == isolator.id and here.name in pole and here != terminal:
                other = draft.parts[there.part]
                chained = other.kind in IN_THE_LEAD and other.circuit == isolator.circuit
                return _past(draft, other, there) if chained else there
    return None


def sweep(draft: Draft, circuit: Circuit) -> None:
    """Take out fuses in ways that nothing leaves, and the circuit's switches without wires.

    Of a circuit that is no more, what the builder added stays, and belongs to none.
    """
    sweep_fuses(draft)
    landed = {end.part for w in draft.wires.values() for end in (w.from_terminal, w.to_terminal)}
    for switch in [part for part in _own(draft, circuit) if is_switch(part)]:
        if switch.id not in landed and switch.housed is None:
            del draft.parts[switch.id]
    if circuit.id not in draft.circuits:
        for part in _own(draft, circuit):
            draft.parts[part.id] = replace(part, circuit=None)


def _own(draft: Draft, circuit: Circuit, *kinds: str) -> list[Part]:
    mine = [part for part in draft.parts.values() if part.circuit == circuit.id]
    return [part for part in mine if not kinds or part.kind in kinds]


def _heir_of_way(draft: Draft, wire: Wire, circuit: Circuit) -> str | None:
    """Another circuit whose current takes a wire too: one between points where wires meet, with
    wires of others on both, or on one where the other is a ground point or the battery."""
    others: list[str] = []
    for end in (wire.from_terminal, wire.to_terminal):
        part = draft.parts.get(end.part)
        if part is None or part.kind not in (*WAY_POINTS, *LAST_POINTS):
            return None
        if part.kind in WAY_POINTS:
            on_it = (row.circuit for row in draft.wires_on(end))
            here = [row for row in on_it if row is not None and row != circuit.id]
            others += here
            if not here and part.kind not in LAST_POINTS:
                return None
    return others[0] if others else None


def _heir(draft: Draft, end: Terminal, circuit: Circuit) -> str | None:
    """Another circuit that needs the feed of the switch at this end of a wire."""
    part = draft.parts.get(end.part)
    if (
        part is None
        or not is_switch(part)
        or part.contacts is None
        or end.name != part.contacts.common
    ):
        return None
    for wire in draft.wires.values():
        ends = {wire.from_terminal.part, wire.to_terminal.part}
        if part.id in ends and wire.circuit != circuit.id:
            return wire.circuit
    return None
