"""Plugs, modules, boxes and panels, pin by pin: what goes into each cavity."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Terminal
from circuitry.devices import terminals_of
from circuitry.devices.connector import cavity_halves, keyed_apart, keyed_at, like_plugs
from circuitry.devices.module import channel_bears_a
from circuitry.devices.terminals import terminal_range
from circuitry.network import Solution
from circuitry.workshop.schedule import WireLine
from circuitry.workshop.splices import Splice, Tail

_Landing = Mapping[Terminal, Sequence[WireLine]]
_Tails = Mapping[str, Tail | None]
LEAST_TOLD_A = 0.01
PINNED = ("module", "box", "panel")
ROWS_FROM = ((1, 1), (4, 2), (13, 3), (40, 5))
"""From so many cavities a face has so many rows; where a maker's drawing differs, that holds."""


@dataclass(frozen=True)
class Cavity:
    """A cavity or pin: its contact, the wires in it by label with size and colour, and what they
    are for; an empty one takes a blind plug where it is sealed, and one that keys the plug a keying
    plug. ``tail`` is what goes into it where the wires are joined behind it. ``can`` is what a pin
    of a box or module does by itself, and what it bears; ``asked_a`` is the most that flows in it
    in any solved state."""

    name: str
    contact: str
    wires: tuple[str, ...]
    labels: tuple[str, ...]
    function: str
    blind: bool
    keys: bool = False
    tail: Tail | None = None
    can: str = ""
    asked_a: float = 0.0


@dataclass(frozen=True)
class Face:
    """One half of a plug, or the pins of a part, as seen from where the wires go in.

    ``rows`` are the cavities by row, those of other parts in one; the other half is its mirror
    image. ``keyed_like`` are plugs at the same place that fit it as well.
    """

    part: str
    name: str
    half: str
    place: str
    contact: str
    sealed: bool
    rows: tuple[tuple[Cavity, ...], ...]
    free: int
    keyed_like: tuple[str, ...]


def faces(
    build: Build,
    lines: Mapping[str, WireLine],
    joined: Sequence[Splice],
    solutions: Iterable[Solution] = (),
) -> tuple[Face, ...]:
    """Every half of every plug, then modules, boxes and panels with wires."""
    asked_a = _most_in_pins(build, solutions)
    tails = {splice.id: splice.tail for splice in joined}
    landing: dict[Terminal, list[WireLine]] = {}
    for line in lines.values():
        wire = build.wires[line.id]
        for end in (wire.from_terminal, wire.to_terminal):
            landing.setdefault(build.lands(end), []).append(line)
    found = [
        face
        for part in build.parts_of_kind("connector")
        for face in _halves(build, part, landing, tails)
    ]
    for part in build.parts_of_kind(*PINNED):
        face = _pins(build, part, landing, tails, asked_a)
        if any(cavity.wires for row in face.rows for cavity in row):
            found.append(face)
    return tuple(found)


def _halves(build: Build, part: Part, landing: _Landing, tails: _Tails) -> Iterator[Face]:
    like = next((parts for parts in like_plugs(build) if part in parts), ())
    fitting = tuple(row.name for row in like if row is not part and not keyed_apart(part, row))
    sealed = any(r.contact == part.catalogue and r.sealed == "yes" for r in catalogue().connectors)
    for at, half in enumerate(("a", "b")):
        cells = [
            _cavity(
                build,
                Terminal(part.id, cavity_halves(pin.name)[at]),
                pin.name,
                landing,
                tails,
                sealed,
            )
            for pin in part.pins
        ]
        yield _face(build, part, half, cells, sealed, fitting, mirrored=half == "b")


def _most_in_pins(build: Build, solutions: Iterable[Solution]) -> Mapping[Terminal, float]:
    """The most that flows in each pin of boxes and modules: what its wires bring, less what they
    lead on (Kirchhoff), whichever way it flows."""
    parts = {part.id for part in build.parts_of_kind("module", "box")}
    ends = [
        (wire.id, end, sign)
        for wire in build.wires.values()
        for end, sign in ((wire.to_terminal, 1.0), (wire.from_terminal, -1.0))
        if end.part in parts
    ]
    most: dict[Terminal, float] = {}
    for solution in solutions:
        here: dict[Terminal, float] = {}
        for wire, end, sign in ends:
            here[end] = here.get(end, 0.0) + sign * solution.wire_a[wire]
        for end, amps in here.items():
            most[end] = max(most.get(end, 0.0), abs(amps))
    return most


def _pins(
    build: Build, part: Part, landing: _Landing, tails: _Tails, asked_a: Mapping[Terminal, float]
) -> Face:
    cells = [
        replace(
            _cavity(build, terminal, terminal.name, landing, tails, False),
            can=_can(part, terminal.name),
            asked_a=asked_a.get(terminal, 0.0),
        )
        for terminal in (Terminal(part.id, name) for name in terminals_of(part))
    ]
    return _face(build, part, "", cells, False, (), mirrored=False)


def _cavity(
    build: Build,
    terminal: Terminal,
    name: str,
    landing: _Landing,
    tails: _Tails,
    sealed: bool,
) -> Cavity:
    lines = landing.get(terminal, [])
    row = terminal_range(build, terminal) if lines else None
    functions = dict.fromkeys(line.circuit_name for line in lines if line.circuit_name)
    return Cavity(
        name,
        row.terminal if row else "",
        tuple(line.id for line in lines),
        tuple(f"{line.label} {line.size} {line.letters}" for line in lines),
        ", ".join(functions),
        sealed and not lines,
        build.parts[terminal.part].kind == "connector"
        and keyed_at(build.parts[terminal.part]) == name,
        tails.get(str(terminal)),
    )


def _can(part: Part, name: str) -> str:
    """``input to ground``, ``low side, 1 A at most``, ``channel, 8 A at most``."""
    for pin in part.pins:
        if pin.name == name:
            return _at_most(pin.function, pin.limit_a)
    if part.kind == "module" and any(way.name == name for way in part.ways):
        return _at_most("channel", channel_bears_a(part, name))
    return ""


def asked_said(cavity: Cavity) -> str:
    """``4.0 A asked``; empty where hardly anything flows."""
    if cavity.asked_a < LEAST_TOLD_A:
        return ""
    amps = f"{1000 * cavity.asked_a:.0f} mA" if cavity.asked_a < 0.1 else f"{cavity.asked_a:.1f} A"
    return f"{amps} asked"


def _at_most(does: str, most_a: float | None) -> str:
    return ", ".join(filter(None, (does, f"{most_a:g} A at most" if most_a else "")))


def _face(
    build: Build,
    part: Part,
    half: str,
    cells: Sequence[Cavity],
    sealed: bool,
    fitting: tuple[str, ...],
    mirrored: bool,
) -> Face:
    count = next(rows for least, rows in reversed(ROWS_FROM) if len(cells) >= least or least == 1)
    count = count if part.kind == "connector" else 1
    each = -(-len(cells) // count) if cells else 0
    rows = [tuple(cells[first : first + each]) for first in range(0, len(cells), each or 1)]
    return Face(
        part.id,
        part.name,
        half,
        build.places[part.place].name,
        part.catalogue or "",
        sealed,
        tuple(row[::-1] if mirrored else row for row in rows),
        sum(not cavity.wires for cavity in cells),
        fitting,
    )
