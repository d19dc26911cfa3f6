"""One leg of a circuit by hand: put a part into a wire, add a wire, add a part."""

from dataclasses import replace

from circuitry.design.colours import colour_for
from circuitry.design.model import Build, Terminal, Wire
from circuitry.devices import DEVICES
from circuitry.document.checks import terminal_problem
from circuitry.errors import UnusableInput
from circuitry.reach.paths import paths_of
from circuitry.recipes.draft import Draft
from circuitry.recipes.plugs import free_cavity, part_wire
from circuitry.recipes.protection import choose_fuse, fuse_output, with_own_names


def insert(
    build: Build,
    wire_id: str,
    kind: str,
    place: str | None = None,
    name: str = "",
    power: str | None = None,
    into: str | None = None,
    count: int = 1,
) -> Build:
    """The build with a part put into a wire, which becomes two.

    A relay is put in so that what was the wire now feeds only its coil, and its contact takes
    power from the fuse ``power``, or from a free way that is live always. ``into`` is a connector
    with a free cavity, or a splice, that is there already; a new connector has ``count`` cavities.
    Raises UnusableInput.
    """
    draft = Draft(build)
    wire = _wire(draft, wire_id)
    if into is not None:
        part_wire(draft, wire, *_free_cavity(draft, into))
        return draft.build
    name = name or f"{kind.capitalize()} in {wire.label}"
    at = place or build.parts[wire.to_terminal.part].place
    if at not in build.places:
        raise UnusableInput("unknown-place", at, f"“{at}” is no place of the build.")
    if kind == "relay":
        put_relay_into(draft, wire, at, name, power)
        return draft.build
    device = DEVICES.get(kind)
    if device is None or device.put_into is None:
        kinds = ", ".join(kind for kind, device in DEVICES.items() if device.put_into)
        raise UnusableInput(
            "bad-kind", kind, f"“{kind}” cannot be put into a wire. Choose {kinds}."
        )
    part = draft.add_part(kind, name, at, circuit=wire.circuit, **device.fields(None, count))
    first, second = device.put_into
    part_wire(draft, wire, Terminal(part.id, first), Terminal(part.id, second))
    return draft.build


def _wire(draft: Draft, wire_id: str) -> Wire:
    if wire_id not in draft.wires:
        raise UnusableInput("unknown-wire", wire_id, f"The build has no wire “{wire_id}”.")
    return draft.wires[wire_id]


def _free_cavity(draft: Draft, part_id: str) -> tuple[Terminal, Terminal]:
    """Both halves of a cavity without wires; the one point of a splice."""
    part = draft.parts.get(part_id)
    if part is None or part.kind not in ("connector", "splice"):
        raise UnusableInput("bad-part", part_id, f"“{part_id}” is no connector and no splice.")
    if part.kind == "splice":
        return Terminal(part.id, "splice"), Terminal(part.id, "splice")
    halves = free_cavity(draft, part)
    if halves is not None:
        return halves
    raise UnusableInput(
        "no-free-cavity",
        part.id,
        f"{part.name} has no free cavity among its {len(part.pins)}. Choose another connector.",
    )


def put_relay_into(draft: Draft, wire: Wire, place: str, name: str, power: str | None) -> None:
    """Let a wire feed the coil of a new relay, whose contact feeds on from a fuse of its own."""
    circuit = draft.circuits.get(wire.circuit or "")
    if circuit is None:
        raise UnusableInput(
            "no-circuit", wire.label, f"Wire {wire.label} belongs to no circuit. Give it one first."
        )
    key = paths_of(draft.build).key_needed(wire.from_terminal)
    relay = draft.add_part("relay", name, place, catalogue="mini 4-pin", circuit=circuit.id)
    part_wire(draft, wire, Terminal(relay.id, "86"), Terminal(relay.id, "87"))
    draft.ground(Terminal(relay.id, "85"), circuit)
    fuse = choose_fuse(draft, ("always", key or "run"), power, circuit.name)
    draft.feed(fuse_output(fuse), Terminal(relay.id, "30"), circuit)
    draft.circuits[circuit.id] = replace(circuit, intent=None)


def add_wire(build: Build, start: Terminal, end: Terminal, circuit_id: str | None) -> Build:
    """The build with one more wire, labelled and coloured by the policy; raises UnusableInput."""
    for terminal in (start, end):
        problem = terminal_problem(build, terminal, "The wire would end on")
        if problem:
            raise UnusableInput("missing-terminal", str(terminal), problem)
    draft = Draft(build)
    if circuit_id is not None and circuit_id not in build.circuits:
        raise UnusableInput(
            "unknown-circuit", circuit_id, f"The build has no circuit “{circuit_id}”."
        )
    circuit = build.circuits.get(circuit_id or "")
    kinds = {build.parts[start.part].kind, build.parts[end.part].kind}
    role = "ground" if "ground point" in kinds else "feed"
    draft.add_wire(start, end, circuit, colour_for(build, circuit, role) if circuit else "red")
    return draft.build


def add_part(
    build: Build,
    kind: str,
    name: str,
    place: str,
    row: str | None,
    circuit_id: str | None,
    count: int = 1,
) -> Build:
    """The build with one more part by hand; ``row`` is its catalogue row or contact table.

    ``count`` are the cavities of a connector, the ways of a panel, the channels of a module, or
    the pins of a box beside its feed and ground.
    """
    draft = Draft(build)
    fields = DEVICES[kind].fields(row, count) if kind in DEVICES else {}
    part = draft.add_part(kind, name, place, circuit=circuit_id, **fields)
    draft.parts[part.id] = with_own_names(part, build.parts.values())
    return draft.build
