"""What boxes and modules hear: their own inputs, and what others tell over a data bus.

A data bus is a pair of wires, high and low, that joins pins of two or more parts (ISO 11898-2).
What is on the same bus tells the others which of its inputs are active and which of its buttons
are pressed; a control box also tells what its sensors read.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import networkx as nx

from circuitry.design.logic import BUS_LOST, SPOKEN_VALUES, VALUES, spoken
from circuitry.design.model import Build, Part, Terminal
from circuitry.devices.connector import cavity_halves

BUTTON = "button"
INPUT, SWITCH, VALUE, LOST = "input", "switch", "value", "lost"
ANALOGUE = "analogue input"
INPUTS = ("input", "input to ground", ANALOGUE)
PULLED_UP_V, PULL_UP_OHM = 5.0, 1_000.0
"""What an analogue input is pulled up to, and over what; typical."""
TERMINATOR_OHM = (100.0, 140.0)
"""A resistor across a bus of so much ends it; 120 Ω is meant."""


@dataclass(frozen=True)
class Bus:
    """A data bus: what is on it, in the order of the build, its wires and the resistors across it.

    ``id`` is that of the circuit of its wires, or made of its first member's.
    """

    id: str
    name: str
    members: tuple[str, ...]
    wires: tuple[str, ...]
    terminators: tuple[str, ...]


@dataclass(frozen=True)
class Source:
    """Where a name of a condition comes from: an input, a switch, a value or a lost bus.

    ``part`` has the input, or is the switch; ``pin`` is the input. ``via`` is the bus over which it
    is told, empty where it is the part's own or nobody knows how it gets there; ``told`` is whether
    anything tells it at all.
    """

    kind: str
    part: str = ""
    pin: str = ""
    via: str = ""
    told: bool = True


def bus_pins(part: Part) -> list[tuple[str, str]]:
    """The pairs of bus pins of a part, high and low."""
    names = [pin.name for pin in part.pins if pin.function == "bus"]
    return list(zip(names[::2], names[1::2], strict=False))


def buses_of(build: Build) -> tuple[Bus, ...]:
    """The data buses of a build."""
    if "buses" not in build.derived:
        build.derived["buses"] = tuple(_buses(build))
    found: tuple[Bus, ...] = build.derived["buses"]
    return found


def heard_by(build: Build, part: Part) -> Mapping[str, Source]:
    """What the conditions of a part can ask for, by name."""
    heard: dict[str, Mapping[str, Source]] = build.derived.setdefault("heard", {})
    if part.id not in heard:
        heard[part.id] = dict(_sources(build, part))
    return heard[part.id]


def said_by(build: Build, part: Part) -> dict[str, str]:
    """What people call each name that the conditions of a part can ask for."""
    return {name: _words(build, row, name) for name, row in heard_by(build, part).items()}


def _words(build: Build, source: Source, name: str) -> str:
    if source.kind == VALUE:
        return SPOKEN_VALUES[name]
    if source.kind == SWITCH:
        return build.parts[source.part].name
    return source.pin.replace("-", " ") if source.kind == INPUT else "the data bus is lost"


def joined(build: Build) -> Mapping[Terminal, int]:
    """Which terminals are one point: joined by wires and plugs, whatever any switch does."""
    if "joined" not in build.derived:
        build.derived["joined"] = _joined(build)
    found: Mapping[Terminal, int] = build.derived["joined"]
    return found


def _joined(build: Build) -> Mapping[Terminal, int]:
    graph: nx.Graph[Terminal] = nx.Graph()
    for wire in build.wires.values():
        graph.add_edge(build.lands(wire.from_terminal), build.lands(wire.to_terminal))
    for plug in build.parts_of_kind("connector"):
        for pin in plug.pins:
            first, second = cavity_halves(pin.name)
            graph.add_edge(Terminal(plug.id, first), Terminal(plug.id, second))
    components = enumerate(nx.connected_components(graph))
    return {terminal: number for number, terminals in components for terminal in terminals}


def _buses(build: Build) -> Iterator[Bus]:
    on: dict[tuple[int, int], list[str]] = {}
    pairs = {part.id: bus_pins(part) for part in build.parts.values()}
    if not any(pairs.values()):
        return
    point = joined(build)
    for part, rows in pairs.items():
        for high, low in rows:
            at = point.get(Terminal(part, high)), point.get(Terminal(part, low))
            if at[0] is not None and at[1] is not None:
                on.setdefault((at[0], at[1]), []).append(part)
    for at, members in on.items():
        if len(members) < 2:
            continue
        wires = [
            wire
            for wire in build.wires.values()
            if point.get(build.lands(wire.from_terminal)) in at
        ]
        circuit = next((wire.circuit for wire in wires if wire.circuit), None)
        named = build.circuits[circuit].name if circuit else f"Data bus of {members[0]}"
        across = [
            part.id
            for part in build.parts_of_kind("resistor")
            if {point.get(build.lands(Terminal(part.id, name))) for name in ("1", "2")} == set(at)
            and TERMINATOR_OHM[0] <= part.number("resistance_ohm", 0.0) <= TERMINATOR_OHM[1]
        ]
        yield Bus(
            circuit or f"bus-{members[0]}",
            named,
            tuple(members),
            tuple(wire.id for wire in wires),
            tuple(across),
        )


def _sources(build: Build, part: Part) -> Iterator[tuple[str, Source]]:
    """Names and sources, those that count last: a part's own inputs before what others tell."""
    mine = [bus for bus in buses_of(build) if part.id in bus.members]
    switches = [row for row in build.parts.values() if row.contacts]
    for name in VALUES:
        yield name, Source(VALUE)
    for switch in switches:
        yield spoken(switch.id), Source(SWITCH, switch.id, told=switch.kind != BUTTON)
    for other in build.parts.values():
        for name in _inputs(other):
            yield spoken(name), Source(INPUT, other.id, name, told=False)
    for bus in reversed(mine):
        for member in bus.members:
            other = build.parts[member]
            if other.id == part.id:
                continue
            buttons = _buttons(build, other)
            for button in buttons:
                yield spoken(button.id), Source(SWITCH, button.id, via=bus.id)
            for name in _inputs(other):
                yield spoken(name), Source(INPUT, other.id, name, via=bus.id)
                yield f"{spoken(other.id)}_{spoken(name)}", Source(INPUT, other.id, name, bus.id)
            if other.kind == "box" and not buttons:
                for name in VALUES:
                    yield name, Source(VALUE, other.id, via=bus.id)
    for name in _inputs(part):
        yield spoken(name), Source(INPUT, part.id, name)
    yield BUS_LOST, Source(LOST, part.id)


def _inputs(part: Part) -> Sequence[str]:
    return [pin.name for pin in part.pins if pin.function in INPUTS]


def is_analogue(build: Build, source: Source) -> bool:
    """Whether a source is an analogue input, which tells its volts."""
    pins = build.parts[source.part].pins if source.part in build.parts else ()
    return any(pin.name == source.pin and pin.function == ANALOGUE for pin in pins)


def rotary_volts(build: Build, pin: Terminal) -> dict[str, dict[str, float]]:
    """The volts of an analogue input in each position of a rotary that is led to it: its common on
    the input, and from each of its outputs a resistor to ground; ``V = 5 R / (R + 1 kΩ)``."""
    point = joined(build)

    def net(end: Terminal) -> object:
        """What a terminal is one with: the number of its net, or itself where nothing joins it."""
        return point.get(build.lands(end), build.lands(end))

    at = net(pin)
    ohms = {
        net(Terminal(part.id, name)): part.number("resistance_ohm", 1.0)
        for part in build.parts_of_kind("resistor")
        for name in ("1", "2")
    }
    found: dict[str, dict[str, float]] = {}
    for switch in build.parts.values():
        table = switch.contacts
        if table is None or net(Terminal(switch.id, table.common)) != at:
            continue
        found[switch.id] = {}
        for row in table.positions:
            fed = {name for names in row.joins if table.common in names for name in names}
            led = [net(Terminal(switch.id, name)) for name in sorted(fed - {table.common})]
            siemens = sum(1 / ohms[one] for one in led if one in ohms)
            found[switch.id][row.name] = PULLED_UP_V / (1 + PULL_UP_OHM * siemens)
    return found


def _buttons(build: Build, part: Part) -> list[Part]:
    buttons = build.parts_of_kind(BUTTON)
    return [row for row in buttons if row.housed and row.housed.unit == part.id]
