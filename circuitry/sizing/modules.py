"""Modules and data buses: what a channel bears, conditions that say nothing, what nobody tells, and
what dies with one bus, keypad or module."""

from collections.abc import Collection, Iterator
from typing import Any

from circuitry.design.logic import always_or_never, names_in, spoken
from circuitry.design.model import Build, Part, Terminal, Way
from circuitry.devices import electronics_of, switches_of
from circuitry.devices.electronics import outputs_of
from circuitry.devices.hearing import SWITCH, VALUE, Bus, bus_pins, buses_of, heard_by
from circuitry.devices.module import (
    FEED,
    GROUND,
    channel_bears_a,
    inrush_borne,
    logic_pin,
    module_bears_a,
    soft_start_for,
    starts_on,
)
from circuitry.finding import Finding, Mend
from circuitry.reach.losses import can_be_lost, losses
from circuitry.reach.paths import loads_behind
from circuitry.sizing.result import Sizing

LOST_WHOLE = ("bus", "keypad", "module")


def module_findings(sizing: Sizing) -> Iterator[Finding]:
    """What is wrong with modules, their conditions and data buses."""
    build = sizing.build
    wired = {end for wire in build.wires.values() for end in (wire.from_terminal, wire.to_terminal)}
    for module in build.parts_of_kind("module"):
        yield from _unfed(module, wired)
        yield from _channels(build, module)
        yield from _sum(sizing, module)
    for part in electronics_of(build):
        yield from _conditions(build, part)
    for part in build.parts.values():
        yield from _alone(build, part, wired)
    for bus in buses_of(build):
        yield from _ends(build, bus)
    yield from _lost(sizing)


def _unfed(module: Part, wired: Collection[Terminal]) -> Iterator[Finding]:
    if not any(way.when for way in module.ways):
        return
    logic = logic_pin(module)
    asked = [(FEED, "feed"), (GROUND, "ground"), *([(logic, "logic supply")] if logic else [])]
    for name, said in asked:
        if Terminal(module.id, name) not in wired:
            yield Finding(
                "module-unfed",
                "stop",
                (module.id,),
                module.circuit,
                f"{module.name} has no {said}",
                f"no wire on its {said}",
                f"a wire on its {said}",
                "Nothing behind it works: its logic is never awake. Feed it from what wakes it."
                if name == logic
                else "Nothing behind it works. Lead a heavy wire there: over a fuse of its own "
                "from the battery, and back to a ground point.",
            )


def _channels(build: Build, module: Part) -> Iterator[Finding]:
    for way in module.ways:
        bears_a = channel_bears_a(module, way.name)
        if way.limit_a is not None and way.limit_a > bears_a:
            yield Finding(
                "channel-limit",
                "stop",
                (module.id,),
                _circuit_on(build, module, way.name),
                f"{module.name}, {way.name} is set above what it bears",
                f"{way.limit_a:g} A",
                f"{bears_a:g} A",
                "It would burn before it trips. Set it lower, or take a channel that bears more.",
                (
                    Mend(
                        f"Set {way.name} to {bears_a:g} A",
                        (_set(module, way, limit_a=bears_a),),
                    ),
                ),
                about=f"{module.id} {way.name}",
            )
        yield from _inrush(build, module, way)


def _set(module: Part, way: Way, **fields: float) -> dict[str, Any]:
    """The operation that leaves a channel as it is but for some of its fields."""
    stands = {"when": way.when, "limit_a": way.limit_a, "soft_s": way.soft_s}
    return {"op": "set_condition", "part": module.id, "output": way.name, **stands, **fields}


def _inrush(build: Build, module: Part, way: Way) -> Iterator[Finding]:
    """Loads whose first amps a channel takes for a short circuit."""
    loads = loads_behind(build, Terminal(module.id, way.name))
    first_a, is_borne = starts_on(module, way.name, loads)
    if is_borne:
        return
    borne_a, borne_s = inrush_borne(module, way.name)
    yield Finding(
        "channel-inrush",
        "look",
        (module.id, *(load.id for load in loads)),
        loads[0].circuit,
        f"{module.name}, {way.name} may trip as {loads[0].name} starts",
        f"{first_a:.0f} A at first",
        f"{borne_a:.0f} A for {borne_s * 1000:.0f} ms",
        "A channel that trips at every start is worse than none. Let it start softly, part the "
        "loads, take a channel that bears more, or leave it on a fuse and a relay.",
        tuple(_softer(module, way, loads)),
        about=f"{module.id} {way.name}",
    )


def _softer(module: Part, way: Way, loads: list[Part]) -> Iterator[Mend]:
    """The shortest soft start that the channel bears, where there is one."""
    soft_s = soft_start_for(module, way.name, loads)
    if soft_s:
        softer = _set(module, way, soft_s=soft_s)
        yield Mend(f"Let {way.name} start softly over {soft_s:g} s", (softer,))


def _sum(sizing: Sizing, module: Part) -> Iterator[Finding]:
    """All channels of a module together, where most is on."""
    bears_a = module_bears_a(module)
    wires = [
        wire.id
        for wire in sizing.build.wires.values()
        if Terminal(module.id, FEED) in (wire.from_terminal, wire.to_terminal)
    ]
    most_a = sum(sizing.wires[wire].lasting_a for wire in wires)
    if most_a > bears_a:
        yield Finding(
            "module-sum",
            "stop",
            (module.id,),
            module.circuit,
            f"{module.name} carries more than it bears",
            f"{most_a:.0f} A lasting",
            f"{bears_a:.0f} A",
            "It gets too hot and shuts off what it should feed. Move functions to another module, "
            "or fit a larger one.",
        )


def _conditions(build: Build, part: Part) -> Iterator[Finding]:
    positions = {
        spoken(row.id): [spoken(at.name) for at in row.contacts.positions]
        for row in switches_of(build)
        if row.contacts
    }
    heard = heard_by(build, part)
    deaf: dict[str, None] = {}
    unled: dict[str, None] = {}
    for name, condition in outputs_of(part):
        word = always_or_never(condition, positions)
        if word:
            yield Finding(
                "condition-idle",
                "look",
                (part.id,),
                _circuit_on(build, part, name),
                f"{part.name}, {name} is {'never on' if word == 'never' else 'never off'}",
                condition,
                "something that is true at times, and not at others",
                "Its condition contradicts itself, or holds whatever anybody does. Write it anew.",
                about=f"{part.id} {name}",
            )
        for asked in names_in(condition):
            if asked in heard and not heard[asked].told:
                deaf[asked] = None
            elif asked in heard and heard[asked].kind in (SWITCH, VALUE) and not heard[asked].via:
                unled[asked] = None
    if unled:
        named = ", ".join(asked.replace("_", " ") for asked in unled)
        yield Finding(
            "not-led",
            "note",
            (part.id,),
            part.circuit,
            f"Nothing leads {named} to {part.name}",
            "taken as told by a data bus that is not drawn",
            "an input, or a data bus from what knows it",
            "On the car it needs a wire to an input, a keypad, or a control box on the same bus.",
            about=f"{part.id} not led",
        )
    for asked in deaf:
        source = heard[asked]
        teller = build.parts[source.part]
        keypad = teller.housed.unit if teller.housed else teller.id
        yield Finding(
            "not-told",
            "look",
            (part.id, keypad),
            part.circuit,
            f"{part.name} hears nothing of {teller.name if source.kind == SWITCH else source.pin}",
            "no data bus between them",
            f"a bus that joins {part.name} and {build.parts[keypad].name}",
            "What its condition asks for is never true. Join both to one data bus, or lead a "
            "switch to an input of its own.",
            about=f"{part.id} {asked}",
        )


def _ends(build: Build, bus: Bus) -> Iterator[Finding]:
    at = {part for terminator in bus.terminators for part in _beside(build, bus, terminator)}
    together = len(bus.members) > 2 and len(at) == 1
    if len(bus.terminators) == 2 and not together:
        return
    count = len(bus.terminators)
    yield Finding(
        "bus-ends",
        "look",
        (*bus.members, *bus.terminators),
        next((build.wires[wire].circuit for wire in bus.wires), None),
        f"{bus.name} is not ended as it should be",
        f"both resistors at {build.parts[min(at)].name}"
        if count == 2
        else f"{count} of 2 resistors of 120 Ω",
        "one at each end: 60 Ω across the pair",
        "Without them what is sent comes back from the ends and spoils what follows (ISO 11898-2). "
        "Measure with everything off: 60 Ω between high and low.",
        about=bus.id,
    )


def _beside(build: Build, bus: Bus, terminator: str) -> Iterator[str]:
    """The members of a bus that a resistor across it is wired to."""
    for wire in build.wires.values():
        ends = {wire.from_terminal.part, wire.to_terminal.part}
        if terminator in ends:
            yield from ends & set(bus.members)


def _alone(build: Build, part: Part, wired: Collection[Terminal]) -> Iterator[Finding]:
    """A pair of bus pins with wires that join it to no other."""
    asked = bus_pins(part)
    pairs = [pair for pair in asked if any(Terminal(part.id, pin) in wired for pin in pair)]
    if not pairs:
        return
    on_buses = sum(part.id in bus.members for bus in buses_of(build))
    if len(pairs) > on_buses:
        yield Finding(
            "bus-alone",
            "look",
            (part.id,),
            part.circuit,
            f"{part.name} is on no data bus, though wires are on its bus pins",
            "its high and its low lead to no one pair of pins",
            "high to high, and low to low",
            "High and low are crossed somewhere, one of them is open, or nothing is at the other "
            "end. Neither side hears the other then.",
        )


def _lost(sizing: Sizing) -> Iterator[Finding]:
    """Functions of safety that one bus, keypad or module takes along whole."""
    build = sizing.build
    if not any(kind in LOST_WHOLE for _, _, kind in can_be_lost(build)):
        return
    on_outputs = {
        build.parts[row.load].circuit
        for row in sizing.loads.values()
        if any(step.kind == "output" for step in row.path.steps)
    }
    safe = {row.id for row in build.circuits.values() if row.criticality == "safety"}
    loads = [
        load
        for row in sizing.loads.values()
        if (load := build.parts[row.load]).circuit in safe & on_outputs
    ]
    for loss in losses(sizing.network, loads) if loads else ():
        whole: dict[str, list[str]] = {}
        for dead_load in loss.dead:
            whole.setdefault(build.parts[dead_load].circuit or "", []).append(dead_load)
        for circuit, dead in whole.items() if loss.kind in LOST_WHOLE else ():
            if any(build.parts[row].circuit == circuit for row in loss.left):
                continue
            yield Finding(
                "dies-with-one",
                "note" if loss.kind == "module" else "look",
                (loss.id, *dead) if loss.id in build.parts else tuple(dead),
                circuit,
                f"{build.circuits[circuit].name} goes with {loss.name}",
                f"all {len(dead)} dead" if len(dead) > 1 else "dead",
                "some of it left",
                "Share it out between two modules where you can, and know it: nothing of it works "
                "then."
                if loss.kind == "module"
                else "Lead its switch to an input of the module that feeds it, so that it hangs on "
                "no bus and no keypad.",
                about=f"{loss.id} {circuit}",
            )


def _circuit_on(build: Build, part: Part, name: str) -> str | None:
    end = Terminal(part.id, name)
    wires = build.wires.values()
    return next((w.circuit for w in wires if end in (w.from_terminal, w.to_terminal)), part.circuit)
