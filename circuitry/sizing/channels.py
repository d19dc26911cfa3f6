"""Modules, keypads and data buses as lists: what each channel does and carries, what each module
hears, how each bus is laid, and what is dead when one of them is lost."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import product

from circuitry.design.logic import (
    BUS_LOST,
    EXAMPLES,
    UNITS,
    VALUES,
    always_or_never,
    compared_in,
    holds,
    names_in,
    points_beside,
    sentence,
    spoken,
)
from circuitry.design.model import Build, Part, Terminal
from circuitry.devices import electronics_of, switches_of
from circuitry.devices.button import LAMPS
from circuitry.devices.electronics import outputs_of
from circuitry.devices.hearing import (
    BUTTON,
    INPUT,
    LOST,
    SWITCH,
    VALUE,
    Bus,
    Source,
    buses_of,
    heard_by,
    is_analogue,
    joined,
    rotary_volts,
    said_by,
)
from circuitry.devices.module import (
    FEED,
    channel_bears_a,
    inputs_of,
    is_bridge,
    logic_pin,
    module_bears_a,
    softest_s,
    trips,
)
from circuitry.errors import UnusableInput
from circuitry.reach.losses import Loss, losses
from circuitry.reach.paths import loads_behind, paths_of
from circuitry.recipes.protection import KEY_WORDS
from circuitry.sizing.result import Sizing

MOST_ROWS = 64
REACHES_M = ((1000, 40.0, 0.3), (500, 100.0, 0.6), (250, 250.0, 1.2), (125, 500.0, 2.4))
"""The most kbit/s by the length of a bus and of its longest stub, in m: 40 m and 0.3 m at 1 Mbit/s
(ISO 11898-2); below that in proportion to the time that a bit takes, rounded as is usual."""


@dataclass(frozen=True)
class Asking:
    """A way to ask for a name, as a condition has it and in words."""

    text: str
    said: str


@dataclass(frozen=True)
class Heard:
    """A name that conditions of a part may ask for: what it is in words, and the bus it comes over.

    ``told`` is False where nothing tells it, ``led`` where nothing leads it there and it is taken
    as told.
    """

    name: str
    said: str
    over: str
    told: bool
    led: bool
    asked: tuple[Asking, ...]


@dataclass(frozen=True)
class ChannelLine:
    """An output: what it bears and is set to, when it is on, and the most that it carries in A;
    ``with_it`` are the channels that are joined to it."""

    name: str
    is_bridge: bool
    bears_a: float | None
    limit_a: float | None
    when: str
    says: str
    most_a: float
    loads: tuple[str, ...]
    circuits: tuple[str, ...]
    soft_s: float = 0.0
    with_it: tuple[str, ...] = ()


@dataclass(frozen=True)
class ModuleLine:
    """A module, or a box with outputs; ``most_a`` is all of it at once, ``bears_a`` what it may.

    ``trips`` says what a channel does that has tripped, ``awake`` what wakes its logic;
    ``softest_s`` is the longest soft start.
    """

    id: str
    name: str
    kind: str
    row: str
    place: str
    most_a: float
    bears_a: float | None
    inputs: int
    most_inputs: int | None
    channels: tuple[ChannelLine, ...]
    heard: tuple[Heard, ...]
    softest_s: float = 0.0
    trips: str = ""
    awake: str = ""


@dataclass(frozen=True)
class ButtonLine:
    """A button of a keypad, its positions, the outputs whose conditions ask for it, and the colour
    of its lamp."""

    id: str
    name: str
    positions: tuple[str, ...]
    held: bool
    asked_by: tuple[str, ...]
    lamp: str


@dataclass(frozen=True)
class KeypadLine:
    """A keypad and its buttons."""

    id: str
    name: str
    place: str
    buttons: tuple[ButtonLine, ...]


@dataclass(frozen=True)
class BusLine:
    """A data bus: what is on it, its length and longest stub in m, the resistors at its ends, and
    how many kbit/s it bears at most; None where it is too long for any."""

    id: str
    name: str
    members: tuple[str, ...]
    length_m: float
    stub_m: float
    ends: int
    most_kbit_s: int | None


@dataclass(frozen=True)
class Modules:
    """Everything that conditions switch, and what it hangs on; the colours of lamps in buttons."""

    modules: tuple[ModuleLine, ...]
    keypads: tuple[KeypadLine, ...]
    buses: tuple[BusLine, ...]
    losses: tuple[Loss, ...]
    lamps: tuple[str, ...] = LAMPS


@dataclass(frozen=True)
class LogicRow:
    """Positions of what a condition asks for, and whether it is on then."""

    positions: tuple[str, ...]
    is_on: bool


@dataclass(frozen=True)
class Tried:
    """A condition as it would be: in words, what is wrong with it, and its table.

    ``problem`` says why it cannot be written; ``idle`` is always or never. ``names`` head the
    columns of ``rows``, which are left out where they would be more than some dozens.
    """

    says: str
    problem: str
    idle: str
    names: tuple[str, ...] = ()
    rows: tuple[LogicRow, ...] = ()


def modules(sizing: Sizing) -> Modules:
    """The modules of a sized build, its keypads and buses, and the loss of each of them."""
    build = sizing.build
    parts = [part for part in electronics_of(build) if part.kind == "module" or outputs_of(part)]
    lines = tuple(_module(sizing, part) for part in parts)
    switched = {load for line in lines for row in line.channels for load in row.loads}
    hanging = [load for load in build.parts_of_kind("load") if load.name in switched]
    return Modules(
        lines,
        tuple(_keypads(build)),
        tuple(_bus(sizing, bus) for bus in buses_of(build)),
        tuple(losses(sizing.network, hanging)) if hanging else (),
    )


def try_condition(build: Build, part_id: str, condition: str) -> Tried:
    """A condition for an output of a part, looked at without writing it; raises UnusableInput
    where there is no such part."""
    part = build.parts.get(part_id)
    if part is None or part not in electronics_of(build):
        raise UnusableInput("unknown-module", part_id, f"“{part_id}” is no module and no box.")
    heard = {row.name: row for row in heard_of(build, part)}
    try:
        names = names_in(condition) if condition.strip() else ()
    except UnusableInput as problem:
        return Tried("", problem.message, "")
    unknown = [name for name in names if name not in heard]
    if unknown:
        return Tried("", f"Nothing here is called {', '.join(unknown)}.", "")
    positions = _positions(build)
    said = sentence(condition, said_by(build, part))
    if not names:
        return Tried(said, "", "")
    return Tried(
        said,
        "",
        always_or_never(condition, positions),
        tuple(heard[name].said for name in names),
        tuple(_rows(condition, names, positions)),
    )


def _rows(
    condition: str, names: tuple[str, ...], positions: Mapping[str, list[str]]
) -> Iterator[LogicRow]:
    axes: list[list[tuple[str, dict[str, bool | float]]]] = []
    for name in names:
        if name in VALUES or name in compared_in(condition):
            unit, points = UNITS.get(name, "V"), points_beside(condition, name)
            axes.append([(f"{point:g} {unit}", {name: point}) for point in points])
        elif name in positions:
            rest = positions[name][0]
            axes.append(
                [(at, {name: at != rest, f"{name} is {at}": True}) for at in positions[name]]
            )
        else:
            axes.append([("off", {name: False}), ("on", {name: True})])
    count = 1
    for axis in axes:
        count *= len(axis)
    for row in product(*axes) if count <= MOST_ROWS else ():
        known = {key: at for _, one in row for key, at in one.items()}
        yield LogicRow(tuple(at for at, _ in row), bool(holds(condition, known)))


def _positions(build: Build) -> dict[str, list[str]]:
    """The positions of switches that have more than two, by the names of conditions."""
    return {
        spoken(row.id): [spoken(at.name) for at in row.contacts.positions]
        for row in switches_of(build)
        if row.contacts and len(row.contacts.positions) > 2
    }


def _module(sizing: Sizing, part: Part) -> ModuleLine:
    build = sizing.build
    said = said_by(build, part)
    is_module = part.kind == "module"
    pins = [pin for pin in part.pins if pin.function in ("high side", "low side") and pin.when]
    feeds = [
        wire.id
        for wire in build.wires.values()
        if Terminal(part.id, FEED) in (wire.from_terminal, wire.to_terminal)
    ]
    return ModuleLine(
        part.id,
        part.name,
        "module" if is_module else "control box",
        (part.catalogue or "") if is_module else "",
        build.places[part.place].name,
        sum(sizing.wires[wire].lasting_a for wire in feeds),
        module_bears_a(part) if is_module else None,
        sum("input" in pin.function for pin in part.pins),
        inputs_of(part) if is_module else None,
        tuple(
            _channel(sizing, part, row.name, row.when, row.limit_a, said)
            for row in part.ways
            if not row.joined
        )
        + tuple(_channel(sizing, part, pin.name, pin.when, pin.limit_a, said) for pin in pins),
        tuple(heard_of(build, part)),
        softest_s(part) if is_module else 0.0,
        _trips(part) if is_module else "",
        _awake(build, part) if is_module else "",
    )


def _trips(part: Part) -> str:
    """What a channel does that has tripped, and what it tells of a load that is open."""
    retries, retry_s, open_a = trips(part)
    again = f"tries again {retries} times, {retry_s:g} s apart, then stays off" if retries else ""
    return (
        f"A channel that trips {again or 'stays off'} until it is switched off; one that carries "
        f"less than {open_a:g} A while it is on tells that its load is open."
    )


def _awake(build: Build, part: Part) -> str:
    """When the logic of a module is fed."""
    key = paths_of(build).key_needed(Terminal(part.id, logic_pin(part) or FEED))
    return f"awake {KEY_WORDS[key]}" if key else "never awake"


def _channel(
    sizing: Sizing,
    part: Part,
    name: str,
    when: str,
    limit_a: float | None,
    said: Mapping[str, str],
) -> ChannelLine:
    build, output = sizing.build, Terminal(part.id, name)
    loads = loads_behind(build, output)
    circuits = dict.fromkeys(build.parts[load.id].circuit for load in loads)
    return ChannelLine(
        name,
        is_bridge(part, name),
        channel_bears_a(part, name) if part.kind == "module" else None,
        limit_a,
        when,
        sentence(when, said),
        max((row.output_a.get(output, 0.0) for row in sizing.solutions), default=0.0),
        tuple(load.name for load in loads),
        tuple(circuit for circuit in circuits if circuit),
        next((way.soft_s for way in part.ways if way.name == name), 0.0),
        tuple(way.name for way in part.ways if way.joined == name),
    )


def heard_of(build: Build, part: Part) -> Iterator[Heard]:
    """What a part's conditions may ask for, its own inputs first."""
    said = said_by(build, part)
    order = {INPUT: 0, SWITCH: 1, VALUE: 2, LOST: 3}
    buses = {bus.id: bus.name for bus in buses_of(build)}
    rows = sorted(
        heard_by(build, part).items(),
        key=lambda row: (not row[1].told, bool(row[1].via), order[row[1].kind]),
    )
    for name, source in rows:
        owner = build.parts.get(source.part)
        if owner is not None and name.startswith(f"{spoken(owner.id)}_") and source.kind == INPUT:
            continue  # the longer name of what has a short one
        if name == BUS_LOST and not any(part.id in bus.members for bus in buses_of(build)):
            continue
        contacts = owner.contacts if owner is not None and source.kind == SWITCH else None
        names = [spoken(at.name) for at in contacts.positions] if contacts else []
        asked = [
            Asking(f"{name} is {at}", f"{said[name]}: {at}") for at in names[1:] if len(names) > 2
        ]
        if source.kind == INPUT and is_analogue(build, source):
            asked = list(_windows(build, source, name, said[name]))
        yield Heard(
            name,
            said[name],
            buses.get(source.via, ""),
            source.told,
            bool(source.via) or source.kind in (INPUT, LOST),
            tuple(asked) or (Asking(EXAMPLES.get(name, name), said[name]),),
        )


def _windows(build: Build, source: Source, name: str, said: str) -> Iterator[Asking]:
    """An analogue input as it is asked for: each position of a rotary that is led to it by the
    volts around it, or a comparison to be changed."""
    volts = rotary_volts(build, Terminal(source.part, source.pin))
    for switch, positions in volts.items():
        steps = sorted(set(positions.values()))
        for position, at_v in positions.items():
            below = [(step + at_v) / 2 for step in steps if step < at_v]
            above = [(step + at_v) / 2 for step in steps if step > at_v]
            ends = [f"{name} > {max(below):.2f}"] if below else []
            ends += [f"{name} < {min(above):.2f}"] if above else []
            if ends:
                text = ends[0] if len(ends) == 1 else f"({' and '.join(ends)})"
                yield Asking(text, f"{build.parts[switch].name}: {position}")
    if not volts:
        yield Asking(f"{name} > 2.5", f"{said}, V")


def _keypads(build: Build) -> Iterator[KeypadLine]:
    by_unit: dict[str, list[Part]] = {}
    for button in build.parts_of_kind(BUTTON):
        if button.housed:
            by_unit.setdefault(button.housed.unit, []).append(button)
    asking = [
        (f"{part.name}, {name}", names_in(condition), heard_by(build, part))
        for part in electronics_of(build)
        for name, condition in outputs_of(part)
    ]
    for unit, buttons in by_unit.items():
        pad = build.parts[unit]
        yield KeypadLine(
            unit,
            pad.name,
            build.places[pad.place].name,
            tuple(
                ButtonLine(
                    row.id,
                    row.name,
                    tuple(at.name for at in row.contacts.positions) if row.contacts else (),
                    bool(row.contacts and row.contacts.momentary),
                    tuple(
                        who
                        for who, names, heard in asking
                        if any(heard[name].part == row.id for name in names if name in heard)
                    ),
                    str(row.figures.get("lamp", LAMPS[0])),
                )
                for row in buttons
            ),
        )


def _bus(sizing: Sizing, bus: Bus) -> BusLine:
    """A pair is as long as its high wire; what leads from a splice to a member is a stub."""
    build = sizing.build
    high = {
        Terminal(part, pin.name)
        for part in bus.members
        for pin in build.parts[part].pins
        if pin.function == "bus" and pin.name.endswith(("high", "h"))
    }
    point = joined(build)
    nets = {point[terminal] for terminal in high if terminal in point}
    wires = [build.wires[wire] for wire in bus.wires]
    lengths = [
        sizing.wires[wire.id].length_m
        for wire in wires
        if point[build.lands(wire.from_terminal)] in nets
    ]
    length_m = sum(lengths) if lengths else sum(sizing.wires[w.id].length_m for w in wires) / 2
    stub_m = max(
        (
            sizing.wires[wire.id].length_m
            for wire in wires
            for end, other in (
                (wire.from_terminal.part, wire.to_terminal.part),
                (wire.to_terminal.part, wire.from_terminal.part),
            )
            if build.parts[end].kind == "splice" and other in bus.members
        ),
        default=0.0,
    )
    rates = (rate for rate, far_m, stub in REACHES_M if length_m <= far_m and stub_m <= stub)
    members = tuple(build.parts[part].name for part in bus.members)
    return BusLine(
        bus.id, bus.name, members, length_m, stub_m, len(bus.terminators), next(rates, None)
    )
