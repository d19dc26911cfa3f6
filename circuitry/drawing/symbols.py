"""What a schematic shows of a circuit: symbols with ports, and the wires that join them.

Feed comes in at the left, ground goes out at the right. A fuse in a panel, and each pin of a unit
that houses other parts, is a symbol of its own; a panel's bus is only named, as a source.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from circuitry.design.model import Build, Part, Terminal, Wire
from circuitry.devices import device_of
from circuitry.reach.paths import paths_of

MOST_SWITCHES_BACK = 3


@dataclass(eq=False)
class Symbol:
    """One thing drawn: its ports by side, in order.

    ``kind`` is how it is placed: as its kind of part says, or pin, bus or lane. ``sign`` is its
    picture, an SVG path in 20 by 10. ``column``, ``x`` and ``y`` are set by the layout.
    """

    id: str
    kind: str
    part: str | None
    name: str
    detail: str
    sign: str = ""
    left: list[str] = field(default_factory=list)
    right: list[str] = field(default_factory=list)
    column: int = 0
    x: float = 0.0
    y: float = 0.0


@dataclass(frozen=True)
class Join:
    """A line to draw from one symbol's port to another's; ``wire`` None inside a unit."""

    wire: str | None
    label: str
    colour: str
    start: tuple[str, str]
    end: tuple[str, str]


@dataclass
class Content:
    """Symbols by id and the joins between them."""

    symbols: dict[str, Symbol]
    joins: list[Join]


def content_of(build: Build, circuit: str) -> Content:
    """The symbols and lines of a circuit, with what feeds it back to the fuse."""
    content = Content({}, [])
    for wire in _wires(build, circuit):
        ends = [_port(build, content, end) for end in (wire.from_terminal, wire.to_terminal)]
        content.joins.append(Join(wire.id, wire.label, wire.colour, ends[0], ends[1]))
    for part in build.parts.values():
        inside = part.housed is not None and part.housed.unit in _units(content)
        if inside and part.housed and part.housed.pins and part.circuit in (circuit, None):
            _house(build, content, part)
    _leave_out_unused(build, content)
    return content


def _leave_out_unused(build: Build, content: Content) -> None:
    """Leave out the ports that nothing here is on, of what serves many circuits."""
    used = {end for join in content.joins for end in (join.start, join.end)}
    for symbol in content.symbols.values():
        if symbol.part and device_of(build.parts[symbol.part]).drawn_by_use:
            symbol.left = [name for name in symbol.left if (symbol.id, name) in used]
            symbol.right = [name for name in symbol.right if (symbol.id, name) in used]


def _units(content: Content) -> set[str]:
    return {row.part for row in content.symbols.values() if row.kind == "pin" and row.part}


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


def _port(build: Build, content: Content, terminal: Terminal) -> tuple[str, str]:
    """The symbol and port of a terminal; the symbol is added when it is not there yet."""
    part = build.parts[terminal.part]
    if part.kind == "panel":
        return _panel_port(build, content, part, terminal)
    if part.kind == "box" and any(p.housed and p.housed.unit == part.id for p in _parts(build)):
        symbol = _add(content, Symbol(str(terminal), "pin", part.id, terminal.name, part.name))
        side = symbol.left or symbol.right or [terminal.name]
        symbol.left = symbol.right = side
        return symbol.id, terminal.name
    if device_of(part).drawn_as == "ground point":
        # every return ends in a sign of its own, so that no line has to run back
        name = f"{part.id}#{len(content.joins)}-{len(content.symbols)}"
        ground = Symbol(name, "ground point", part.id, part.name, "", "", [terminal.name], [])
        _add(content, ground)
        return name, terminal.name
    symbol = _add(content, _symbol(part))
    if len(symbol.left) + len(symbol.right) == 1:
        symbol.left = symbol.right = [terminal.name]
    return symbol.id, terminal.name


def _parts(build: Build) -> list[Part]:
    """The parts that are joined to pins of units; buttons of a keypad are to none."""
    return [part for part in build.parts.values() if part.housed and part.housed.pins]


def _panel_port(build: Build, content: Content, panel: Part, terminal: Terminal) -> tuple[str, str]:
    fuse = next(
        (
            part
            for part in build.parts_of_kind("fuse")
            if part.fitted and part.fitted.panel == panel.id and part.fitted.way == terminal.name
        ),
        None,
    )
    if fuse is None:
        bus = Symbol(str(terminal), "bus", panel.id, f"{panel.name} {terminal.name}", "")
        bus.right = [terminal.name]
        _add(content, bus)
        return bus.id, terminal.name
    bus_name = next(way.bus for way in panel.ways if way.name == terminal.name)
    if fuse.id not in content.symbols:
        _add(content, _symbol(fuse))
        source = Symbol(f"{fuse.id}#bus", "bus", panel.id, f"{panel.name}: {bus_name}", "")
        source.right = ["bus"]
        _add(content, source)
        content.joins.append(Join(None, "", "", (source.id, "bus"), (fuse.id, "in")))
    return fuse.id, "out"


def _house(build: Build, content: Content, part: Part) -> None:
    """Draw a part that sits inside a unit, joined to the pins that it is on."""
    assert part.housed is not None
    symbol = _add(content, _symbol(part))
    for own, pin in part.housed.pins.items():
        port = _port(build, content, Terminal(part.housed.unit, pin))
        ends = (port, (part.id, own)) if own in symbol.left else ((part.id, own), port)
        content.joins.append(Join(None, "", "", ends[0], ends[1]))


def _symbol(part: Part) -> Symbol:
    device = device_of(part)
    detail, sign = device.detail(part), device.sign(part)
    symbol = Symbol(part.id, device.drawn_as, part.id, part.name, detail, sign)
    for name in device.terminals(part):
        (symbol.left if device.is_left(part, name) else symbol.right).append(name)
    return symbol


def _add(content: Content, symbol: Symbol) -> Symbol:
    return content.symbols.setdefault(symbol.id, symbol)
