"""Mistakes of a design that no size can cure: shorts, bridged coils, outputs that fight."""

from collections.abc import Iterator, Sequence

import networkx as nx

from circuitry.design.model import Build, Part, Terminal
from circuitry.devices import electronics_of, switches_of, terminals_of
from circuitry.devices.hearing import BUTTON
from circuitry.finding import Finding
from circuitry.network.network import Solution
from circuitry.reach.paths import paths_of

OUTPUTS = ("high side", "low side")


def design_faults(build: Build, solutions: Sequence[Solution]) -> Iterator[Finding]:
    """What is joined as it should not be, or not joined as it should."""
    joined = Joined(build)
    wired = build.wired_parts()
    yield from _shorts(build)
    yield from _bridged_coils(build, joined)
    yield from _joined_outputs(build, joined)
    yield from _idle_tables(build, wired)
    yield from _grounds(build, joined, wired)
    yield from _channels(build, solutions)


class Joined:
    """Which terminals are one point: joined by wires alone, whatever any switch does."""

    def __init__(self, build: Build) -> None:
        graph: nx.Graph[Terminal] = nx.Graph()
        for wire in build.wires.values():
            graph.add_edge(build.lands(wire.from_terminal), build.lands(wire.to_terminal))
        self._build = build
        self._point: dict[Terminal, int] = {}
        for number, terminals in enumerate(nx.connected_components(graph)):
            self._point |= dict.fromkeys(terminals, number)

    def point(self, part: str, name: str) -> object:
        """What a terminal shares with all that it is joined to; itself where no wire lands."""
        terminal = self._build.lands(Terminal(part, name))
        return self._point.get(terminal, terminal)


def _circuit_of(build: Build, part: Part) -> str | None:
    """The circuit of a part, or of the first wire on it: switches serve several."""
    if part.circuit is not None:
        return part.circuit
    wires = build.wires.values()
    mine = (w for w in wires if part.id in (w.from_terminal.part, w.to_terminal.part))
    return next((wire.circuit for wire in mine if wire.circuit), None)


def _shorts(build: Build) -> Iterator[Finding]:
    found = paths_of(build).short()
    if found is None:
        if paths_of(build).short_gave_up():
            yield Finding(
                "short-not-searched",
                "look",
                (),
                None,
                "Not every position could be looked at for a short",
                "more positions of switches and relays than can be searched",
                "every position of every switch",
                "Whether some position joins battery positive to ground is not known. Take "
                "switches out that lie side by side, and measure before the first power.",
            )
        return
    positions, path = found
    moved = [f"{_said(build, name)} {at}" for name, at in positions.items()]
    where = ", ".join(moved) or "every position"
    on_the_way = dict.fromkeys(step.owner for step in path.feed if step.owner in build.parts)
    names = ", ".join(build.parts[owner].name for owner in on_the_way)
    yield Finding(
        "short-circuit",
        "stop",
        tuple(dict.fromkeys(step.owner for step in path.feed)),
        next((c for o in reversed(on_the_way) if (c := _circuit_of(build, build.parts[o]))), None),
        "A switch position shorts the battery" if positions else "The battery is shorted",
        where,
        "something that takes the current",
        f"Positive meets ground with nothing between, over {names or 'wires alone'}. The fuse "
        "parts at once, and before the fuse the wire glows. Move one of these wires.",
    )


def _said(build: Build, name: str) -> str:
    """The name of a switch, or of a value that a box asks for."""
    return build.parts[name].name if name in build.parts else name.replace("_", " ")


def _bridged_coils(build: Build, joined: Joined) -> Iterator[Finding]:
    for part in build.parts_of_kind("relay"):
        if joined.point(part.id, "86") == joined.point(part.id, "85"):
            yield Finding(
                "coil-bridged",
                "stop",
                (part.id,),
                _circuit_of(build, part),
                f"Both coil ends of {part.name} are one point",
                "86 and 85 joined",
                "86 fed, 85 grounded",
                "No voltage stands across the coil, so it never pulls in. Move the wire on 85.",
            )


def _joined_outputs(build: Build, joined: Joined) -> Iterator[Finding]:
    seen: dict[object, tuple[Part, str]] = {}
    for part in electronics_of(build):
        outputs = [way.name for way in part.ways]
        outputs += [pin.name for pin in part.pins if pin.function in OUTPUTS]
        for name in outputs:
            point = joined.point(part.id, name)
            other, other_name = seen.setdefault(point, (part, name))
            if (other, other_name) != (part, name):
                yield Finding(
                    "outputs-joined",
                    "stop",
                    tuple(dict.fromkeys((other.id, part.id))),
                    _circuit_of(build, part),
                    f"Two outputs are joined: {name} of {part.name}, {other_name} of {other.name}",
                    "one point",
                    "a wire of its own for each",
                    "One output feeds into the other and both can be destroyed. Part them, or "
                    "put a diode in each.",
                )


def _idle_tables(build: Build, wired: set[str]) -> Iterator[Finding]:
    for part in switches_of(build):
        table = part.contacts
        if table is None or part.id not in wired or part.kind == BUTTON:
            continue
        if not any(row.joins for row in table.positions):
            yield Finding(
                "never-closes",
                "stop",
                (part.id,),
                _circuit_of(build, part),
                f"{part.name} never closes",
                f"{len(table.positions)} positions, none joins anything",
                "one at least",
                "Whatever is behind it stays dead. Open its contacts and mark what each joins.",
            )


def _grounds(build: Build, joined: Joined, wired: set[str]) -> Iterator[Finding]:
    battery = build.parts_of_kind("battery")[0].id
    plus, minus = joined.point(battery, "+"), joined.point(battery, "-")
    for part in build.parts_of_kind("ground point"):
        if part.id not in wired:
            continue
        point = joined.point(part.id, "stud")
        if point == plus:
            yield Finding(
                "ground-live",
                "stop",
                (part.id,),
                part.circuit,
                f"{part.name} is live",
                "joined to battery positive",
                "joined to battery negative",
                "A ground point carries returns. Positive on it makes every metal part it touches "
                "live. Move the wire.",
            )
        elif point != minus and not build.body_conducts:
            yield Finding(
                "ground-loose",
                "stop",
                (part.id,),
                part.circuit,
                f"{part.name} leads nowhere",
                "no wire to battery negative",
                "a return of its own: the body does not conduct",
                "In a plastic body every ground point needs a wire back. What is returned to it "
                "finds its way through other lamps, or not at all.",
            )


def _channels(build: Build, solutions: Sequence[Solution]) -> Iterator[Finding]:
    for part in electronics_of(build):
        limits = {way.name: way.limit_a for way in part.ways}
        limits |= {pin.name: pin.limit_a for pin in part.pins}
        for name in terminals_of(part):
            limit_a = limits.get(name)
            terminal = Terminal(part.id, name)
            amps = max((row.output_a.get(terminal, 0.0) for row in solutions), default=0.0)
            if limit_a is not None and amps > limit_a:
                yield Finding(
                    "channel-overloaded",
                    "stop",
                    (part.id,),
                    part.circuit,
                    f"{name} of {part.name} trips",
                    f"{amps:.1f} A",
                    f"{limit_a:g} A",
                    "It opens by itself as soon as all is on. Raise its limit, or share the loads "
                    "out over more outputs.",
                )
