"""The channels and inputs of modules: a larger module in place of one, functions on the least
channels that bear them, and what is set free when a circuit goes."""

from dataclasses import replace

from circuitry.catalogue import catalogue
from circuitry.design.logic import names_in, spoken
from circuitry.design.model import Build, Circuit, Part, Pin, Terminal, Way, Wire
from circuitry.devices.connector import cavity_halves
from circuitry.devices.electronics import outputs_of
from circuitry.devices.module import (
    channel_bears_a,
    is_bridge,
    module_fields,
    softest_s,
    starts_over,
)
from circuitry.errors import UnusableInput
from circuitry.reach.paths import loads_behind
from circuitry.recipes.draft import Draft


def larger(module: Part) -> str | None:
    """The next larger module of the catalogue that has all that this one has."""
    row = catalogue().modules.get(module.catalogue or "")
    if row is None:
        return None
    more = [
        other
        for other in catalogue().modules.values()
        if other.buses >= row.buses and row.channel_a.keys() < other.channel_a.keys()
    ]
    return min(more, key=lambda other: len(other.channel_a)).kind if more else None


def enlarged(build: Build, module_id: str) -> Build:
    """The build with the next larger module of the catalogue in place of one; its channels keep
    what they do. Raises UnusableInput."""
    module = build.parts.get(module_id)
    row = larger(module) if module is not None and module.kind == "module" else None
    if module is None or row is None:
        raise UnusableInput(
            "no-larger", module_id, f"There is no larger module than “{module_id}”. Add a second."
        )
    return replace(build, parts={**build.parts, module.id: as_row(module, row)})


def as_row(module: Part, row: str) -> Part:
    """A module as another of the catalogue; channels and pins that both have keep what they do."""
    ways = {way.name: way for way in module.ways}
    pins = {pin.name for pin in module.pins}
    fields = module_fields(row)
    return replace(
        module,
        catalogue=row,
        ways=tuple(ways.get(way.name, way) for way in fields["ways"]),
        pins=(*(pin for pin in fields["pins"] if pin.name not in pins), *module.pins),
    )


def packed(build: Build, module_id: str) -> Build:
    """The build with the functions of a module on the least channels that bear them, so that those
    which bear much stay free for what takes much."""
    module = build.parts[module_id]
    paired = {name for way in module.ways if way.joined for name in (way.name, way.joined)}
    fixed = {way.name for way in module.ways if is_bridge(module, way.name)} | paired
    used = [way for way in module.ways if way.when and way.name not in fixed]
    slots = sorted(
        (way.name for way in module.ways if way.name not in fixed),
        key=lambda name: channel_bears_a(module, name),
    )
    moved: dict[str, str] = {}
    for way in sorted(used, key=lambda row: row.limit_a or 0.0):
        loads = loads_behind(build, Terminal(module_id, way.name))
        fits = (
            name
            for name in slots
            if channel_bears_a(module, name) >= (way.limit_a or 0.0)
            and starts_over(module, name, loads, way.soft_s)[1]
        )
        slot = next(fits, None)
        if slot is None:
            return build
        moved[way.name] = slot
        slots.remove(slot)
    placed = {moved[way.name]: replace(way, name=moved[way.name]) for way in used}
    ways = tuple(
        placed.get(way.name, way if way.name in fixed else Way(way.name, way.bus))
        for way in module.ways
    )

    def over(end: Terminal) -> Terminal:
        return Terminal(end.part, moved.get(end.name, end.name)) if end.part == module_id else end

    wires = {
        wire.id: replace(
            wire, from_terminal=over(wire.from_terminal), to_terminal=over(wire.to_terminal)
        )
        for wire in build.wires.values()
    }
    parts = {**build.parts, module_id: replace(module, ways=ways)}
    return replace(build, parts=parts, wires=wires)


def with_condition(
    build: Build,
    part_id: str,
    output: str,
    when: str,
    limit_a: float | None,
    soft_s: float | None = None,
) -> Build:
    """The build with an output on while a condition holds, a limit, and for a channel the seconds
    of its soft start, where these are given; raises UnusableInput."""
    part = build.parts.get(part_id)
    names = [] if part is None else [way.name for way in part.ways] + [p.name for p in part.pins]
    if part is None or part.kind not in ("module", "box") or output not in names:
        raise UnusableInput(
            "unknown-output", part_id, f"“{part_id}” has no output “{output}” to set."
        )
    when = when.strip()
    most_s = softest_s(part)
    if soft_s and soft_s > most_s:
        raise UnusableInput(
            "no-soft-start",
            part_id,
            f"{part.name} starts a channel softly over {most_s:g} s at most."
            if most_s
            else f"{part.name} has no soft start. Fit a module that has, or leave it at 0.",
        )
    ways = tuple(
        replace(row, when=when, limit_a=limit_a, soft_s=row.soft_s if soft_s is None else soft_s)
        if row.name == output
        else row
        for row in part.ways
    )
    pins = tuple(
        replace(row, when=when, limit_a=limit_a) if row.name == output else row for row in part.pins
    )
    return replace(build, parts={**build.parts, part.id: replace(part, ways=ways, pins=pins)})


def pass_inputs_on(draft: Draft, circuit: Circuit) -> None:
    """Give the wires that lead to inputs which other circuits ask for too to one of those."""
    for module in [part for part in draft.parts.values() if part.kind == "module"]:
        for pin in module.pins:
            chain = _chain(draft, Terminal(module.id, pin.name)) if "input" in pin.function else []
            mine = [wire for wire in chain if wire.circuit == circuit.id]
            heir = _asking(draft, module, pin, circuit) if mine else None
            for wire in mine if heir else ():
                draft.wires[wire.id] = replace(wire, circuit=heir)


def sweep_channels(draft: Draft) -> None:
    """Set free the channels and inputs that have lost their wires; an input that a condition still
    asks for stays."""
    before = {end for w in draft.before.wires.values() for end in (w.from_terminal, w.to_terminal)}
    modules = [part.id for part in draft.parts.values() if part.kind == "module"]
    for module in map(draft.parts.__getitem__, modules):
        left = {
            way.name
            for way in module.ways
            if _is_left(draft, module, way.joined or way.name, before)
        }
        ways = tuple(Way(way.name, way.bus) if way.name in left else way for way in module.ways)
        draft.parts[module.id] = replace(module, ways=ways)
    for module in map(draft.parts.__getitem__, modules):
        pins = tuple(
            pin
            for pin in module.pins
            if "input" not in pin.function
            or not _is_left(draft, module, pin.name, before)
            or any(_asks(draft, other, module, pin) for other in draft.parts.values())
        )
        draft.parts[module.id] = replace(module, pins=pins)


def _is_left(draft: Draft, module: Part, name: str, before: set[Terminal]) -> bool:
    """Whether a terminal that had wires has none any more."""
    terminal = Terminal(module.id, name)
    return terminal in before and not draft.wires_on(terminal)


def _chain(draft: Draft, end: Terminal) -> list[Wire]:
    """The wires from a terminal on, through connectors, to the first thing that is none."""
    wires: list[Wire] = []
    while True:
        onward = [wire for wire in draft.wires_on(end) if wire not in wires]
        if not onward:
            return wires
        wires.append(onward[0])
        end = onward[0].to_terminal if onward[0].from_terminal == end else onward[0].from_terminal
        plug = draft.parts[end.part]
        halves = [cavity_halves(pin.name) for pin in plug.pins if plug.kind == "connector"]
        across = next((pair for pair in halves if end.name in pair), None)
        if across is None:
            return wires
        end = Terminal(plug.id, across[1 - across.index(end.name)])


def _asks(draft: Draft, part: Part, owner: Part, pin: Pin) -> bool:
    """Whether a condition of a part asks for an input of a module."""
    names = {spoken(pin.name), f"{spoken(owner.id)}_{spoken(pin.name)}"}
    return any(names & set(names_in(condition)) for _, condition in outputs_of(part))


def _asking(draft: Draft, module: Part, pin: Pin, circuit: Circuit) -> str | None:
    """Another circuit that a channel serves whose condition asks for an input."""
    names = {spoken(pin.name), f"{spoken(module.id)}_{spoken(pin.name)}"}
    for part in draft.parts.values():
        for name, condition in outputs_of(part) if part.kind == "module" else ():
            if names & set(names_in(condition)):
                served = {wire.circuit for wire in draft.wires_on(Terminal(part.id, name))}
                if heirs := served - {circuit.id, None}:
                    return min(str(heir) for heir in heirs)
    return None
