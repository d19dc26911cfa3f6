"""What a schematic shows of a circuit: symbols with ports, and the wires that join them.

Feed comes in at the left, ground goes out at the right: each port stands on the side that the
current comes from or goes to, by how near to the feed it is. Coil and contacts of a relay are
symbols of their own, as is each pole of a switch, each cavity of a plug, a fuse in a panel, and
each pin of a unit that houses other parts; a panel's bus is a source at the left, and every return
has its own ground sign.
"""

from collections.abc import Iterator, Mapping, Set
from dataclasses import dataclass, field
from typing import Literal

import networkx as nx
import numpy as np

from circuitry.design.model import Build, Part, Terminal, Wire
from circuitry.devices import device_of
from circuitry.devices.device import Around
from circuitry.reach.paths import paths_of

MOST_SWITCHES_BACK = 3
LEAK, LEAK_TO = 0.01, 0.45
"""What draws every node a little to the middle, so that what is farther from the feed is lower."""
FUSE_SIEMENS = 100.0
"""What is behind a fuse is as near to the feed as what is before it."""
OUTPUT = 0.25
"""A port between feed and ground by less than this share of the way to the feed is an output."""
ALIKE, FED = 1e-6, 0.9
"""Ports nearer to one another than this are alike; one as near to the feed as that is fed."""
COIL_GLYPH = "M0 5 h4 M4 -2 h12 v14 h-12 z M16 5 h4"
SHARED_STUDS = ("stud", "bus bar")
Port = tuple[str, str]
"""The id of a symbol and the name of one of its ports."""
Shape = Literal["line", "contact", "frame", "source", "sink", "ground", "dot", "lane"]


@dataclass(eq=False)
class Symbol:
    """One thing drawn: its ports by side, in order.

    ``kind`` is what its kind of part says, or pin, bus or lane; ``sign`` its picture, an SVG path
    in 20 by 10; ``inside`` the pairs of ports that something inside joins, ``at_rest`` those of
    them that are joined while nobody touches it. ``column``, ``x`` and ``y`` are set by the layout.
    """

    id: str
    kind: str
    part: str | None
    name: str
    shape: Shape
    detail: str = ""
    sign: str = ""
    ports: list[str] = field(default_factory=list)
    inside: list[tuple[str, str]] = field(default_factory=list)
    at_rest: list[tuple[str, str]] = field(default_factory=list)
    left: list[str] = field(default_factory=list)
    right: list[str] = field(default_factory=list)
    column: int = 0
    x: float = 0.0
    y: float = 0.0

    @property
    def common(self) -> str | None:
        """The port of a contact that each of its others is joined to in turn."""
        if self.shape != "contact" or len(self.ports) < 2:
            return None
        return next((name for name in self.ports if all(name in p for p in self.inside)), None)


@dataclass(frozen=True)
class Join:
    """A line to draw from one symbol's port to another's; ``wire`` None inside a unit."""

    wire: str | None
    label: str
    colour: str
    start: Port
    end: Port


@dataclass
class Content:
    """Symbols by id and the joins between them."""

    symbols: dict[str, Symbol]
    joins: list[Join]


def content_of(build: Build, circuit: str) -> Content:
    """The symbols and lines of a circuit, with what feeds it back to the fuse."""
    return _Drawn(build, circuit).content


class _Drawn:
    """The content of one circuit as it grows."""

    def __init__(self, build: Build, circuit: str) -> None:
        self._build = build
        self._housed = [row for row in build.parts.values() if row.housed and row.housed.pins]
        self._units = {row.housed.unit for row in self._housed if row.housed}
        self._of_part: dict[str, tuple[Symbol, ...]] = {}
        self.content = Content({}, [])
        wires = _wires(build, circuit)
        self._leaving = {wire.from_terminal for wire in wires}
        self._grounded = _grounded(build)
        for wire in wires:
            start = self._port(wire.from_terminal)
            end = self._port(wire.to_terminal, arrives=True)
            self.content.joins.append(Join(wire.id, wire.label, wire.colour, start, end))
        units = {row.part for row in self.content.symbols.values() if row.kind == "pin"}
        for part in self._housed:
            if part.housed and part.housed.unit in units and part.circuit in (circuit, None):
                self._house(part, part.housed.unit, part.housed.pins)
        self._used = {end for join in self.content.joins for end in (join.start, join.end)}
        self._leave_out_unused()
        self._set_sides()

    def _port(self, terminal: Terminal, arrives: bool = False) -> Port:
        """The symbol and port of a terminal; the symbol is added when it is not there yet."""
        part = self._build.parts[terminal.part]
        device = device_of(part)
        if part.kind == "panel":
            return self._panel_port(part, terminal, arrives)
        if part.kind == "box" and part.id in self._units:
            pin = Symbol(str(terminal), "pin", part.id, terminal.name, "dot", detail=part.name)
            return self._only_port(pin, terminal.name)
        returns = part.kind in SHARED_STUDS and {terminal} & self._grounded - self._leaving
        if device.drawn_as == "ground point" or returns:
            number = f"{len(self.content.joins)}-{len(self.content.symbols)}"
            ground = Symbol(f"{part.id}#{number}", "ground point", part.id, part.name, "ground")
            return self._only_port(ground, terminal.name)
        if len(device.terminals(part)) == 1:
            dot = Symbol(part.id, device.drawn_as, part.id, part.name, "dot")
            return self._only_port(dot, terminal.name)
        return self._part_port(part, terminal.name)

    def _only_port(self, symbol: Symbol, name: str) -> Port:
        symbol.ports = [name]
        return self.content.symbols.setdefault(symbol.id, symbol).id, name

    def _part_port(self, part: Part, name: str) -> Port:
        if part.id not in self._of_part:
            self._of_part[part.id] = tuple(_symbols(part))
        symbol = next(row for row in self._of_part[part.id] if name in row.ports)
        self.content.symbols[symbol.id] = symbol
        return symbol.id, name

    def _panel_port(self, panel: Part, terminal: Terminal, arrives: bool) -> Port:
        fuse = next(
            (
                part
                for part in self._build.parts_of_kind("fuse")
                if part.fitted
                and part.fitted.panel == panel.id
                and part.fitted.way == terminal.name
            ),
            None,
        )
        if fuse is None:
            shape: Shape = "sink" if arrives else "source"
            name = f"{panel.name}: {terminal.name}"
            bus = Symbol(f"{terminal}#{shape}", "bus", panel.id, name, shape)
            return self._only_port(bus, terminal.name)
        is_new = fuse.id not in self.content.symbols
        out = self._part_port(fuse, "out")
        if is_new:
            bus_name = next(way.bus for way in panel.ways if way.name == terminal.name)
            name = f"{panel.name}: {bus_name}"
            source = Symbol(f"{panel.id}#{bus_name}", "bus", panel.id, name, "source")
            fed = self._only_port(source, "bus")
            self.content.joins.append(Join(None, "", "", fed, self._part_port(fuse, "in")))
        return out

    def _house(self, part: Part, unit: str, pins: Mapping[str, str]) -> None:
        """Draw a part that sits inside a unit, joined to the pins that it is on."""
        for own, pin in pins.items():
            outer = self._port(Terminal(unit, pin))
            self.content.joins.append(Join(None, "", "", outer, self._part_port(part, own)))

    def _leave_out_unused(self) -> None:
        """Leave out the ports that nothing here is on, of what serves many circuits: those of
        modules, and those of contacts that wires of other circuits are on, but for the one that a
        contact would else have no other end without."""
        wires = self._build.wires.values()
        wired = {end for wire in wires for end in (wire.from_terminal, wire.to_terminal)}
        for symbol in self.content.symbols.values():
            part = self._build.parts[symbol.part] if symbol.part else None
            if not part or symbol.shape not in ("frame", "contact"):
                continue
            used = {name for name in symbol.ports if (symbol.id, name) in self._used}
            kept = set(used)
            if symbol.shape == "contact":
                kept |= {name for name in symbol.ports if Terminal(part.id, name) not in wired}
                kept |= {_partner(symbol, name, used) for name in used}
            elif not device_of(part).drawn_by_use:
                continue
            symbol.ports = [name for name in symbol.ports if name in kept]
            symbol.inside = [pair for pair in symbol.inside if set(pair) <= kept]
            symbol.at_rest = [pair for pair in symbol.at_rest if set(pair) <= kept]

    def _set_sides(self) -> None:
        near = _near_to_feed(self.content)
        for symbol in self.content.symbols.values():
            if symbol.shape in ("dot", "source", "sink", "ground"):
                symbol.left = [] if symbol.shape == "source" else symbol.ports
                symbol.right = [] if symbol.shape in ("sink", "ground") else symbol.ports
                continue
            assert symbol.part is not None
            part = self._build.parts[symbol.part]
            usual = {name: device_of(part).is_left(part, name) for name in symbol.ports}
            here = {p: near[symbol.id, p] for p in symbol.ports if (symbol.id, p) in self._used}
            lefts = _lefts(symbol, here, usual)
            symbol.left = [name for name in symbol.ports if name in lefts]
            symbol.right = [name for name in symbol.ports if name not in lefts]


def _partner(symbol: Symbol, name: str, used: Set[str]) -> str:
    """A port that is joined with this one inside: one of those used where there is one."""
    others = [other for pair in symbol.inside if name in pair for other in pair if other != name]
    return next((other for other in others if other in used), others[0] if others else name)


def _lefts(symbol: Symbol, near: Mapping[str, float], usual: Mapping[str, bool]) -> set[str]:
    """The ports that stand at the left: those nearer to the feed than what they are joined with.

    ``near`` has the ports that something is on; the others stand where they usually do, as does all
    of a battery, and of what nothing tells apart.
    """
    told_apart = near and max(near.values()) - min(near.values()) > ALIKE
    if symbol.kind == "battery" or not told_apart:
        return {name for name, is_left in usual.items() if is_left}
    common = symbol.common
    if common is not None and common in near:
        return _lefts_of_contact(symbol, common, near)
    middle = (max(near.values()) + min(near.values())) / 2
    found = set()
    for name in symbol.ports:
        joined = [other for pair in symbol.inside if name in pair for other in pair]
        against = [near[other] for other in joined if other in near and other != name]
        bar = FED if symbol.shape == "frame" and not joined else middle
        if against:
            bar = sum(against) / len(against) + OUTPUT * (max(against) - min(against))
        is_left = near[name] > bar if name in near else usual[name]
        if is_left:
            found.add(name)
    return found


def _lefts_of_contact(symbol: Symbol, common: str, near: Mapping[str, float]) -> set[str]:
    """The common at one side and its ends at the other; where it joins what hangs on it to feed or
    to ground, that which feeds stands left of the rest. An end feeds when it is nearer to the feed
    than to the common."""
    ends = {name: volts for name, volts in near.items() if name != common}
    if all(volts > near[common] + ALIKE for volts in ends.values()):
        return {name for name in symbol.ports if name != common}
    fed = {name for name, volts in ends.items() if volts > (1.0 + near[common]) / 2}
    return fed or {common}


def _near_to_feed(content: Content) -> dict[Port, float]:
    """How near each port is to the feed, from 1 there to 0 at ground: the volts of a net of
    like resistors in place of everything inside the symbols."""
    nets: nx.utils.UnionFind[Port] = nx.utils.UnionFind()
    ports = [(row.id, name) for row in content.symbols.values() for name in row.ports]
    for join in content.joins:
        nets.union(join.start, join.end)
    numbers = {root: number for number, root in enumerate(dict.fromkeys(nets[p] for p in ports))}
    node = {port: numbers[nets[port]] for port in ports}
    matrix = LEAK * np.eye(len(numbers))
    driven = np.full(len(numbers), LEAK * LEAK_TO)
    for symbol in content.symbols.values():
        for one, other in symbol.inside:
            a, b = node[symbol.id, one], node[symbol.id, other]
            siemens = FUSE_SIEMENS if symbol.kind == "fuse" else 1.0
            matrix[[a, b], [a, b]] += siemens
            matrix[[a, b], [b, a]] -= siemens
        for name in symbol.ports:
            volts = _held_at(symbol, name)
            if volts is not None:
                at = node[symbol.id, name]
                matrix[at, at] += 1e6
                driven[at] += 1e6 * volts
    volts_of = np.linalg.solve(matrix, driven)
    return {port: float(volts_of[at]) for port, at in node.items()}


def _held_at(symbol: Symbol, name: str) -> float | None:
    if symbol.shape in ("source", "ground"):
        return 1.0 if symbol.shape == "source" else 0.0
    return {"+": 1.0, "-": 0.0}.get(name) if symbol.kind == "battery" else None


def _symbols(part: Part) -> Iterator[Symbol]:
    """What a part is drawn as: one symbol, or one for each group of its terminals that nothing
    inside joins to another, as the coil and the contacts of a relay."""
    device = device_of(part)
    kind = "battery" if part.kind == "battery" else device.drawn_as
    joins: nx.Graph[str] = nx.Graph()
    terminals = device.terminals(part)
    joins.add_nodes_from(terminals)
    branches = [
        row for row in device.branches(part, Around()) if {row.first, row.last} <= set(terminals)
    ]
    joins.add_edges_from((row.first, row.last) for row in branches)
    groups = [group for group in nx.connected_components(joins) if len(group) > 1]
    alone = [name for name in terminals if not any(name in group for group in groups)]
    kinds_of = [{row.kind for row in branches if row.first in group} for group in groups]
    is_coil_and_contacts = len(groups) > 1 and all(
        kinds <= {"contact", "coil", "suppression"} for kinds in kinds_of
    )
    splits = device.drawn_apart or is_coil_and_contacts
    if not splits:
        groups = [set(terminals)]
    elif alone:
        groups[0] |= set(alone)
    rest = part.contacts.positions[0].name if part.contacts else "rest"
    for number, group in enumerate(
        sorted(groups, key=lambda group: min(map(terminals.index, group)))
    ):
        own = [row for row in branches if row.first in group]
        kinds = {row.kind for row in own}
        pairs = list(dict.fromkeys((row.first, row.last) for row in own))
        name = part.id if number == 0 else f"{part.id}:{number}"
        symbol = Symbol(name, kind, part.id, part.name, "frame", device.detail(part))
        symbol.ports = [name for name in terminals if name in group]
        symbol.inside = pairs
        symbol.at_rest = [(row.first, row.last) for row in own if row.position == rest]
        if kinds == {"contact"}:
            symbol.shape = "contact"
            if part.contacts:
                symbol.detail = " · ".join(row.name for row in part.contacts.positions)
        elif device.drawn_apart:
            symbol.shape, symbol.sign = "line", device.sign(part)
            symbol.detail = f"cavity {symbol.ports[0][:-1]}"
        elif splits:
            symbol.shape, symbol.sign, symbol.detail = "line", COIL_GLYPH, "coil"
        elif len(symbol.ports) == 2 and device.sign(part):
            symbol.shape, symbol.sign = "line", device.sign(part)
        else:
            symbol.sign = device.sign(part)
        yield symbol


def _grounded(build: Build) -> set[Terminal]:
    """The terminals that wires alone join to the body or to the battery's negative post."""
    wires: nx.Graph[Terminal] = nx.Graph()
    wires.add_edges_from((row.from_terminal, row.to_terminal) for row in build.wires.values())
    found: set[Terminal] = set()
    for terminal in list(wires):
        part = build.parts[terminal.part]
        if device_of(part).in_body or (part.kind == "battery" and terminal.name == "-"):
            found |= nx.node_connected_component(wires, terminal)
    return found


def _wires(build: Build, circuit: str) -> list[Wire]:
    """The circuit's own wires, then those of others on the way from its loads to their fuses."""
    own = [wire for wire in build.wires.values() if wire.circuit == circuit]
    drawn = dict.fromkeys(wire.id for wire in own)
    paths = paths_of(build)
    for load in build.loads_of(circuit):
        path = paths.to_load(load)
        feed = path.feed if path else ()
        fuses = [at for at, step in enumerate(feed) if step.kind in ("fuse", "output")]
        for step in feed[fuses[-1] if fuses else 0 :]:
            if step.kind == "wire":
                drawn[step.owner] = None
    for _ in range(MOST_SWITCHES_BACK):
        drawn |= dict.fromkeys(_feeding(build, drawn))
    return [build.wires[wire] for wire in drawn]


def _feeding(build: Build, drawn: Mapping[str, None]) -> Iterator[str]:
    """The wires that feed switches which the drawn wires lead from, and nothing feeds yet."""
    wires = [build.wires[wire] for wire in drawn]
    landed = {end for wire in wires for end in (wire.from_terminal, wire.to_terminal)}
    commons = {
        Terminal(part.id, part.contacts.common)
        for end in landed
        if (part := build.parts[end.part]).contacts and part.kind != "key switch"
    }
    for wire in build.wires.values():
        if wire.to_terminal in commons - landed:
            yield wire.id
