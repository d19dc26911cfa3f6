"""The recipes for a load: direct through the switch, or through a relay; and taking one out."""

from dataclasses import dataclass, replace

from circuitry.catalogue import Load, catalogue
from circuitry.design.model import (
    Build,
    Circuit,
    ContactTable,
    Intent,
    Part,
    Position,
    Terminal,
    Wish,
)
from circuitry.devices import is_switch
from circuitry.devices.load import rated_current_a
from circuitry.document.checks import terminal_problem
from circuitry.errors import UnusableInput
from circuitry.reach.paths import paths_of
from circuitry.recipes.clearing import clear, sweep
from circuitry.recipes.draft import Draft
from circuitry.recipes.protection import (
    KEY_WORDS,
    choose_fuse,
    fuse_output,
    relay_for,
    spare_fuse,
)

COILS = "Relay coils"
"""What the fuse is called that the coils of one key position share."""
CONTROL_FROM_A = 5.0
"""A load of so much has a fuse that is too large for the thin wires of its switch."""


@dataclass(frozen=True)
class NewSwitch:
    """A switch to be added with the load: off and on, or held."""

    name: str
    place: str
    momentary: bool = False


@dataclass(frozen=True)
class Wiring:
    """How a circuit is asked for: from which key position, by which switch, how, behind what.

    ``switch`` is an output terminal of a switch; ``fuse`` None takes a free way.
    """

    key: str = "always"
    switch: Terminal | None = None
    new_switch: NewSwitch | None = None
    through: str = "direct"
    fuse: str | None = None


@dataclass(frozen=True)
class LoadRequest:
    """A load to add: what, where and how; ``beside`` joins it to a circuit that is there."""

    name: str
    catalogue: str
    place: str
    wiring: Wiring = Wiring()
    beside: str | None = None


def add_load(build: Build, request: LoadRequest) -> Build:
    """The build with one more load, wired as asked; raises UnusableInput with the way out."""
    row = catalogue().loads.get(request.catalogue)
    if row is None:
        raise UnusableInput(
            "unknown-catalogue-row",
            request.name,
            f"The catalogue has no load called “{request.catalogue}”. Choose one from the list.",
        )
    if request.place not in build.places:
        raise UnusableInput("unknown-place", request.name, f"“{request.place}” is no place here.")
    draft = Draft(build)
    if request.beside is not None:
        circuit = _circuit(draft, request.beside)
        load = _new_load(draft, request, circuit)
        _beside(draft, circuit, load)
        return draft.build
    circuit = _new_circuit(draft, request.name, row)
    load = _new_load(draft, request, circuit)
    wire_circuit(draft, circuit, [load], request.wiring)
    return draft.build


def wire_load(build: Build, load_id: str, wiring: Wiring, beside: str | None = None) -> Build:
    """The build with a load that stood in the list wired as asked, in a circuit of its own.

    ``beside`` joins it to a circuit that is there instead. Raises UnusableInput.
    """
    load = build.parts.get(load_id)
    if load is None or load.kind != "load":
        raise UnusableInput("unknown-load", load_id, f"The build has no load “{load_id}”.")
    draft = Draft(build)
    if load.circuit is not None or draft.wires_on(Terminal(load_id, "+")):
        raise UnusableInput("already-wired", load_id, f"{load.name} is wired already.")
    row = catalogue().loads[load.catalogue or ""]
    circuit = _new_circuit(draft, load.name, row) if beside is None else _circuit(draft, beside)
    draft.parts[load_id] = load = replace(load, circuit=circuit.id, wish=None)
    if beside is None:
        wire_circuit(draft, circuit, [load], wiring)
    else:
        _beside(draft, circuit, load)
    return draft.build


def unwire_load(build: Build, load_id: str) -> Build:
    """The build with a load back in the list without its wires; how it was asked for stays."""
    load = build.parts.get(load_id)
    if load is None or load.kind != "load":
        raise UnusableInput("unknown-load", load_id, f"The build has no load “{load_id}”.")
    intent = build.circuits[load.circuit].intent if load.circuit else None
    wish = None
    if intent is not None:
        switch = build.parts[intent.switch.part].name if intent.switch else ""
        wish = Wish(intent.key, switch, intent.through)
    loose = replace(load, circuit=None, wish=wish)
    return replace(
        removed := remove_load(build, load_id),
        parts={
            part: removed.parts.get(part, loose)
            for part in build.parts
            if part in removed.parts or part == load_id
        },
    )


def rewire_circuit(build: Build, circuit_id: str, wiring: Wiring) -> Build:
    """The build with a circuit wired again another way; its loads and their figures stay."""
    draft = Draft(build)
    circuit = _circuit(draft, circuit_id)
    loads = build.loads_of(circuit_id)
    if not loads:
        raise UnusableInput("no-loads", circuit_id, f"Circuit “{circuit.name}” has no loads.")
    clear(draft, circuit)
    wire_circuit(draft, circuit, loads, wiring)
    sweep(draft, circuit)
    return draft.build


def remove_load(build: Build, load_id: str) -> Build:
    """The build without a load; its circuit goes with its last load."""
    draft = Draft(build)
    load = draft.parts.get(load_id)
    if load is None or load.kind != "load":
        raise UnusableInput("unknown-load", load_id, f"The build has no load “{load_id}”.")
    if load.circuit is not None and build.loads_of(load.circuit) == [load]:
        circuit = draft.circuits.pop(load.circuit)
        del draft.parts[load_id]
        clear(draft, circuit)
        sweep(draft, circuit)
        return draft.build
    for name in ("+", "-"):
        for wire in draft.wires_on(Terminal(load_id, name)):
            del draft.wires[wire.id]
    del draft.parts[load_id]
    return draft.build


def _new_circuit(draft: Draft, name: str, row: Load) -> Circuit:
    group = row.group if row.group in ("lighting", "accessory", "engine") else "accessory"
    return draft.add_circuit(name, group, row.criticality)


def _new_load(draft: Draft, request: LoadRequest, circuit: Circuit) -> Part:
    return draft.add_part(
        "load", request.name, request.place, catalogue=request.catalogue, circuit=circuit.id
    )


def _circuit(draft: Draft, circuit_id: str) -> Circuit:
    circuit = draft.circuits.get(circuit_id)
    if circuit is None:
        raise UnusableInput(
            "unknown-circuit", circuit_id, f"The build has no circuit “{circuit_id}”."
        )
    return circuit


def wire_circuit(draft: Draft, circuit: Circuit, loads: list[Part], wiring: Wiring) -> None:
    """Wire loads as asked, and let their circuit remember how."""
    switch = _switch_output(draft, wiring, circuit)
    heavy = sum(map(rated_current_a, loads)) >= CONTROL_FROM_A
    fuse = _fuse(draft, wiring, switch, circuit, heavy and wiring.through == "relay")
    output = (
        _through_relay(draft, circuit, fuse, switch, loads, wiring.key, heavy)
        if wiring.through == "relay"
        else _direct(draft, circuit, fuse, switch)
    )
    for load in loads:
        draft.feed(output, Terminal(load.id, "+"), circuit)
        draft.ground(Terminal(load.id, "-"), circuit)
    intent = Intent(wiring.key, switch, wiring.through, fuse.id)
    draft.circuits[circuit.id] = replace(circuit, intent=intent, written=None)


def _direct(draft: Draft, circuit: Circuit, fuse: Part, switch: Terminal | None) -> Terminal:
    """Fuse to switch to load: the switch carries the load's current."""
    if switch is None:
        return fuse_output(fuse)
    _feed_switch(draft, circuit, fuse, switch)
    return switch


def _through_relay(
    draft: Draft,
    circuit: Circuit,
    fuse: Part,
    switch: Terminal | None,
    loads: list[Part],
    key: str,
    heavy: bool,
) -> Terminal:
    """Fuse to contact 30–87 to load; the switch carries only the coil 86–85.

    Where the fuse of the load is not live as the load is asked for, or is large, the coil and its
    switch sit behind a smaller one that all such coils share.
    """
    control = _control_fuse(draft, fuse, switch, key, heavy)
    relay = draft.add_part(
        "relay",
        f"{circuit.name} relay"[:80],
        fuse.place,
        catalogue=relay_for(loads),
        circuit=circuit.id,
    )
    draft.feed(fuse_output(fuse), Terminal(relay.id, "30"), circuit)
    if switch is not None:
        _feed_switch(draft, circuit, control, switch)
    draft.feed(switch or fuse_output(control), Terminal(relay.id, "86"), circuit)
    draft.ground(Terminal(relay.id, "85"), circuit)
    return Terminal(relay.id, "87")


def _control_fuse(draft: Draft, fuse: Part, switch: Terminal | None, key: str, heavy: bool) -> Part:
    """What the coil of a relay sits behind: the fuse of its load, or that of the coils of this key
    position, in a free way where there is none yet. A panel without one leaves it the fuse of the
    load, where that is live as it should be."""
    if switch is not None and draft.wires_on(_common(draft, switch)):
        return fuse
    build = draft.build
    same_key = paths_of(build).key_needed(fuse_output(fuse)) == key
    if same_key and not heavy:
        return fuse
    for other in build.parts_of_kind("fuse"):
        shared = other.name.endswith(f" {COILS}")
        if shared and paths_of(build).key_needed(fuse_output(other)) == key:
            return other
    try:
        return choose_fuse(draft, (key,), None, COILS)
    except UnusableInput:
        if same_key:
            return fuse
        raise


def _beside(draft: Draft, circuit: Circuit, load: Part) -> None:
    """Feed one more load from where the circuit's first load is fed."""
    first = next(p for p in draft.parts.values() if p.kind == "load" and p.circuit == circuit.id)
    plus = Terminal(first.id, "+")
    feeds = draft.wires_on(plus)
    if first.id == load.id or not feeds:
        raise UnusableInput(
            "no-feed", circuit.id, f"Circuit “{circuit.name}” has no load with a feed to join."
        )
    wire = feeds[0]
    source = wire.from_terminal if wire.to_terminal == plus else wire.to_terminal
    draft.feed(source, Terminal(load.id, "+"), circuit)
    draft.ground(Terminal(load.id, "-"), circuit)


def _switch_output(draft: Draft, wiring: Wiring, circuit: Circuit) -> Terminal | None:
    if wiring.new_switch is not None:
        return Terminal(_new_switch(draft, wiring.new_switch, circuit).id, "out")
    if wiring.switch is None:
        return None
    problem = terminal_problem(draft.build, wiring.switch, f"“{circuit.name}” is switched by")
    part = draft.parts.get(wiring.switch.part)
    if problem is None and (part is None or not is_switch(part)):
        problem = f"“{wiring.switch}” is not a terminal of a switch. Choose a switch."
    if problem is None and part and part.contacts and wiring.switch.name == part.contacts.common:
        problem = f"“{wiring.switch}” is the feed of its switch. Choose one of its outputs."
    if problem:
        raise UnusableInput("bad-switch", str(wiring.switch), problem)
    return wiring.switch


def _new_switch(draft: Draft, new: NewSwitch, circuit: Circuit) -> Part:
    names = ("released", "held") if new.momentary else ("off", "on")
    positions = (Position(names[0]), Position(names[1], (("in", "out"),)))
    table = ContactTable("in", positions, new.momentary)
    return draft.add_part("switch", new.name, new.place, contacts=table, circuit=circuit.id)


def _near(draft: Draft, wiring: Wiring, switch: Terminal | None, circuit: Circuit) -> str | None:
    """Where the feed goes first: to the switch that carries the load, or to the load itself."""
    if switch is not None and wiring.through != "relay":
        return draft.parts[switch.part].place
    return draft.place_of(circuit)


def _fuse(
    draft: Draft, wiring: Wiring, switch: Terminal | None, circuit: Circuit, heavy_by_relay: bool
) -> Part:
    """The fuse of the circuit; a heavy load through a relay is fed from where it is always live, so
    that the key's own feeds carry no more than they must.

    A direct load takes the one that already feeds its switch. Through a relay, a switch that is
    fed already decides the key position, and the power may come from an always-live fuse.
    """
    fed_by = _fuse_of_switch(draft, switch) if switch else None
    if fed_by is None or switch is None:
        keys = ("always", wiring.key) if heavy_by_relay else (wiring.key,)
        near, chosen = _near(draft, wiring, switch, circuit), wiring.fuse
        if chosen is None and wiring.through == "direct":
            amps = sum(map(rated_current_a, draft.build.loads_of(circuit.id)))
            chosen = spare_fuse(draft, wiring.key, near, amps)
        return choose_fuse(draft, keys, chosen, circuit.name, near)
    live = paths_of(draft.build).key_needed(_common(draft, switch))
    if live != wiring.key:
        word = KEY_WORDS[live] if live else "in no key position"
        raise UnusableInput(
            "wrong-key",
            str(switch),
            f"That switch is fed through fuse “{fed_by.name}” and live {word}; the load is asked "
            f"for {KEY_WORDS[wiring.key]}. Choose that key position or another switch.",
        )
    if wiring.through == "relay":
        keys = ("always", wiring.key) if heavy_by_relay else (wiring.key, "always")
        return choose_fuse(
            draft, keys, wiring.fuse, circuit.name, _near(draft, wiring, switch, circuit)
        )
    if wiring.fuse is not None and wiring.fuse != fed_by.id:
        raise UnusableInput(
            "switch-has-fuse",
            fed_by.id,
            f"That switch is already fed through fuse “{fed_by.name}”, so a direct load sits "
            "behind it. Choose that fuse, a relay, or another switch.",
        )
    return fed_by


def _common(draft: Draft, switch: Terminal) -> Terminal:
    table = draft.parts[switch.part].contacts
    return Terminal(switch.part, table.common if table else "")


def _fuse_of_switch(draft: Draft, switch: Terminal) -> Part | None:
    common = _common(draft, switch)
    if not draft.wires_on(common):
        return None
    build = draft.build
    for fuse in build.parts_of_kind("fuse"):
        landing = {step.to_terminal for step in paths_of(build).behind(fuse_output(fuse))}
        if common in landing:
            return fuse
    return None


def _feed_switch(draft: Draft, circuit: Circuit, fuse: Part, switch: Terminal) -> None:
    common = _common(draft, switch)
    if not draft.wires_on(common):
        draft.feed(fuse_output(fuse), common, circuit)
