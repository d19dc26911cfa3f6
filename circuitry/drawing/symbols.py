"""What a schematic shows of a circuit: symbols with ports, and the wires that join them.

Feed comes in at the left, ground goes out at the right. A fuse in a panel, and each pin of a unit
that houses other parts, is a symbol of its own; a panel's bus is only named, as a source.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from circuitry.catalogue import catalogue
from circuitry.design.kinds import terminals_of
from circuitry.design.model import Build, Part, Terminal, Wire
from circuitry.reach.paths import paths_of

LEFT_PORTS = {"in", "+", "30", "86", "anode", "1", "feed", "live", "run", "stop-in"}
MOST_SWITCHES_BACK = 3
LEFT_FUNCTIONS = {"supply", "input", "input to ground", "low side", "sensor ground"}


@dataclass(eq=False)
class Symbol:
    """One thing drawn: its ports by side, in order; ``inner`` are terminals that it joins inside.

    ``sign`` is what its picture shows. ``column``, ``x`` and ``y`` are set by the layout.
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
        if inside and (part.circuit == circuit or part.circuit is None):
            _house(build, content, part)
    return content


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
    if part.kind == "ground point":
        # every return ends in a sign of its own, so that no line has to run back
        name = f"{part.id}#{len(content.joins)}-{len(content.symbols)}"
        _add(content, Symbol(name, "ground point", part.id, part.name, "", "", ["stud"], []))
        return name, "stud"
    symbol = _add(content, _symbol(part))
    if not symbol.left and not symbol.right:
        for name in terminals_of(part):
            (symbol.left if _is_left(part, name) else symbol.right).append(name)
    if part.kind in ("splice", "stud", "bus bar"):
        symbol.left = symbol.right = [terminal.name]
    return symbol.id, terminal.name


def _parts(build: Build) -> list[Part]:
    return [part for part in build.parts.values() if part.housed is not None]


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
    detail = f"{fuse.number('rating_a', 0):g} A" if "rating_a" in fuse.figures else ""
    symbol = Symbol(fuse.id, "fuse", fuse.id, fuse.name, detail, "fuse", ["in"], ["out"])
    if fuse.id not in content.symbols:
        _add(content, symbol)
        source = Symbol(f"{fuse.id}#bus", "bus", panel.id, f"{panel.name}: {bus_name}", "")
        source.right = ["bus"]
        _add(content, source)
        content.joins.append(Join(None, "", "", (source.id, "bus"), (fuse.id, "in")))
    return fuse.id, "out"


def _house(build: Build, content: Content, part: Part) -> None:
    """Draw a part that sits inside a unit, joined to the pins that it is on."""
    assert part.housed is not None
    symbol = _symbol(part)
    for name in terminals_of(part):
        (symbol.left if _is_left(part, name) else symbol.right).append(name)
    _add(content, symbol)
    for own, pin in part.housed.pins.items():
        port = _port(build, content, Terminal(part.housed.unit, pin))
        ends = (port, (part.id, own)) if own in symbol.left else ((part.id, own), port)
        content.joins.append(Join(None, "", "", ends[0], ends[1]))


def _symbol(part: Part) -> Symbol:
    return Symbol(part.id, part.kind, part.id, part.name, _detail(part), _sign(part))


def _sign(part: Part) -> str:
    """The sign of a part: a lamp, a motor, contacts, or its kind."""
    if part.kind == "load":
        row = catalogue().loads[part.catalogue or ""]
        if row.group == "lighting":
            return "lamp"
        return "motor" if row.kind in ("motor", "starter") else "load"
    return "contact" if part.contacts is not None else part.kind


def _add(content: Content, symbol: Symbol) -> Symbol:
    return content.symbols.setdefault(symbol.id, symbol)


def _is_left(part: Part, name: str) -> bool:
    if part.kind in ("box", "module"):
        functions = {pin.name: pin.function for pin in part.pins}
        return name == "feed" or functions.get(name) in LEFT_FUNCTIONS
    if part.kind in ("battery", "alternator"):
        return False
    if part.kind == "flasher":
        return name == "49"
    if part.contacts is not None and name == part.contacts.common:
        return True
    if part.kind == "connector":
        return name.endswith("a")
    return name in LEFT_PORTS


def _detail(part: Part) -> str:
    if part.kind == "fuse":
        return f"{part.number('rating_a', 0):g} A" if "rating_a" in part.figures else ""
    if part.kind == "resistor":
        return f"{part.number('resistance_ohm', 0):g} Ω"
    if part.kind in ("load", "relay"):
        return part.catalogue or ""
    return ""
