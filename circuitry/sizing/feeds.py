"""The supply as a tree from the battery to the ways, and the grounds as its mirror image.

Every current is the solver's, the largest over all positions of the switches in each of the key.
"""

from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from circuitry.design.logic import sentence
from circuitry.design.model import KEY_POSITIONS, Part, Terminal, Wire
from circuitry.devices.electronics import supply_of
from circuitry.devices.hearing import said_by
from circuitry.network.equations import Vector
from circuitry.network.network import Settled, Solution
from circuitry.reach.paths import paths_of
from circuitry.reach.ways import Step
from circuitry.recipes.protection import fuse_output, ways
from circuitry.sizing.ends import MOST_RINGS
from circuitry.sizing.result import Sizing

THROUGH = (
    *("battery", "fuse", "stud", "bus bar", "isolator", "relay", "key switch", "connector"),
    *("ammeter", "split-charge relay"),
)
"""Kinds that the supply passes through on its way to panels and modules."""
Sums = Mapping[str, float]
"""The largest current in A by position of the key, over all positions of the switches: exact where
it is the largest of all, else to a twentieth."""


@dataclass(frozen=True)
class Load:
    """A circuit behind a way or on a ground, with its largest current in A."""

    circuit: str
    name: str
    current_a: float


@dataclass(frozen=True)
class WayLine:
    """A way of a panel or a channel of a module: what is in it, and what it feeds."""

    name: str
    fuse: str | None
    fuse_name: str | None
    rating_a: float | None
    spare_a: float | None
    key: str | None
    when: str
    sums_a: Sums
    circuits: tuple[Load, ...]


@dataclass
class Point:
    """One point of the supply: what it is, its sums and spare, its ways and what it feeds on.

    ``rings`` are the wires on a stud, ``most_rings`` how many it may hold.
    """

    id: str
    kind: str
    name: str
    detail: str
    key: str | None
    rating_a: float | None
    spare_a: float | None
    sums_a: Sums
    rings: int
    most_rings: int | None
    ways: list[WayLine] = field(default_factory=list)
    points: list["Point"] = field(default_factory=list)


@dataclass(frozen=True)
class Ground:
    """A ground point or bar: its way back, its wires, and the current that it returns.

    ``most_rings`` is None for a bar, which has a screw for each.
    """

    id: str
    name: str
    place: str
    rings: int
    most_rings: int | None
    back: str
    sums_a: Sums
    circuits: tuple[Load, ...]


@dataclass(frozen=True)
class Feeds:
    """The supply tree and the ground points; ``loose`` are panels and modules nothing feeds."""

    root: Point
    loose: tuple[Point, ...]
    grounds: tuple[Ground, ...]


def feeds(sizing: Sizing) -> Feeds:
    """Feeds and grounds of a sized build."""
    return _Survey(sizing).feeds()


def _fullest(sizing: Sizing) -> list[Solution]:
    """The states in which most flows with the key in each position, those that settle."""
    tried = sizing.network.try_many(sizing.fullest)
    return [sizing.network.solution(row) for row in tried if isinstance(row, Settled)]


class _Survey:
    """One build being looked at: its paths, and its currents by key position."""

    def __init__(self, sizing: Sizing) -> None:
        self.sizing, self.build = sizing, sizing.build
        self.paths = paths_of(self.build)
        self.solutions = [*sizing.solutions, *_fullest(sizing)]
        keys = np.array([row.state.key for row in self.solutions])
        self.with_key = {key: keys == key for key in KEY_POSITIONS if key in keys}
        self.along_a = np.array([[*row.wire_a.values()] for row in self.solutions])
        self.wire_number = {wire: number for number, wire in enumerate(self.build.wires)}
        self.wire_sums = self._sums([row.wire_a for row in self.solutions])
        self.fuse_sums = self._sums([row.fuse_a for row in self.solutions])
        self.output_sums = self._sums([row.output_a for row in self.solutions])
        self.way_rows = {(row.panel, row.way): row for row in ways(self.build, self.paths)}

    def feeds(self) -> Feeds:
        steps = self._steps_from_battery()
        ends = self._ends()
        wanted = {end: self._chain(steps, end) for end in ends}
        battery = self.build.parts[self.paths.plus.part]
        root = self._point(battery, None, ())
        known = {battery.id: root}
        for chain in wanted.values():
            if chain is None:
                continue
            before = root
            for step in chain:
                for terminal in (step.from_terminal, step.to_terminal):
                    before = self._under(known, before, terminal, step)
        loose = [
            self._point(self.build.parts[end.part], end, ())
            for end, chain in wanted.items()
            if chain is None
        ]
        return Feeds(root, tuple(loose), tuple(self._grounds()))

    def _under(
        self, known: dict[str, Point], before: Point, terminal: Terminal, step: Step
    ) -> Point:
        """The point of this terminal, added under the one before when it is new."""
        part = self.build.parts[terminal.part]
        name = str(terminal) if part.kind == "panel" else part.id
        if part.kind == "panel" and terminal.name not in {way.bus for way in part.ways}:
            return before
        if part.kind not in (*THROUGH, "panel", "module"):
            return before
        if name not in known:
            known[name] = self._point(part, terminal, (step,))
            before.points.append(known[name])
        return known[name]

    def _steps_from_battery(self) -> dict[Terminal, Step]:
        """The step by which each terminal is reached first, breadth first, whatever it needs."""
        reached: dict[Terminal, Step] = {}
        waiting = deque([self.paths.plus])
        while waiting:
            here = waiting.popleft()
            for edge in self.paths.edges.get(here, ()):
                to = edge.step.to_terminal
                if to in reached or to in (self.paths.plus, self.paths.minus):
                    continue
                if edge.towards == self.paths.plus or edge.step.kind in ("resistor", "field"):
                    continue
                reached[to] = edge.step
                waiting.append(to)
        return reached

    def _ends(self) -> list[Terminal]:
        """Where the supply ends: buses of panels, feeds of modules, studs, and fuses in lines."""
        ends = []
        for part in self.build.parts.values():
            if part.kind == "panel":
                buses = dict.fromkeys(way.bus for way in part.ways)
                ends += [Terminal(part.id, bus) for bus in buses]
            elif part.kind == "module":
                pins = supply_of(part)
                ends.append(Terminal(part.id, pins[0] if pins else "feed"))
            elif part.kind == "fuse" and part.fitted is None:
                ends.append(Terminal(part.id, "in"))
        return ends

    def _chain(self, steps: Mapping[Terminal, Step], end: Terminal) -> list[Step] | None:
        chain: list[Step] = []
        here = end
        while here != self.paths.plus:
            if here not in steps:
                return None
            chain.append(steps[here])
            here = steps[here].from_terminal
        return chain[::-1]

    def _point(self, part: Part, terminal: Terminal | None, steps: tuple[Step, ...]) -> Point:
        at = terminal or self.paths.plus
        wires = self._wires_on(part) if part.kind in ("stud", "bus bar", "battery") else 0
        bus = part.kind == "panel"
        rating_a, spare_a, sums = None, None, self._sums_into(steps)
        if part.kind == "fuse":
            rating_a, sums = part.number("rating_a", 0), self.fuse_sums.get(part.id, {})
            spare_a = self._spare_a(part)
        if part.kind == "battery":
            sums = self._most(np.array([row.battery_a for row in self.solutions]))
        point = Point(
            str(at) if bus else part.id,
            part.kind,
            f"{part.name}, {at.name}" if bus else part.name,
            part.catalogue or "",
            "always" if part.kind == "battery" else self.paths.key_needed(at),
            rating_a,
            spare_a,
            sums,
            wires,
            _most_rings(part),
        )
        if bus:
            point.ways = [self._way(part, way.name) for way in part.ways if way.bus == at.name]
            point.sums_a = self._total([way.sums_a for way in point.ways]) if not steps else sums
        if part.kind == "module":
            channels = (way for way in part.ways if not way.joined)
            point.ways = [self._channel(part, way.name, way.when, way.limit_a) for way in channels]
        return point

    def _way(self, panel: Part, name: str) -> WayLine:
        row = self.way_rows[panel.id, name]
        fuse = self.build.parts[row.fuse] if row.fuse else None
        sums = self.fuse_sums.get(fuse.id, {}) if fuse else {}
        return WayLine(
            name,
            row.fuse,
            fuse.name if fuse else None,
            fuse.number("rating_a", 0) if fuse else None,
            self._spare_a(fuse) if fuse else None,
            row.key,
            "",
            sums,
            self._circuits_on(fuse_output(fuse)) if fuse else (),
        )

    def _channel(self, module: Part, name: str, when: str, limit_a: float | None) -> WayLine:
        terminal = Terminal(module.id, name)
        sums = self.output_sums.get(terminal, {})
        spare_a = None if limit_a is None else limit_a - max(sums.values(), default=0.0)
        circuits = self._circuits_on(terminal)
        says = sentence(when, said_by(self.sizing.build, module)) if when else ""
        return WayLine(name, None, None, limit_a, spare_a, None, says, sums, circuits)

    def _spare_a(self, fuse: Part) -> float:
        """What it may carry more: for ever, or for seconds where that is less."""
        row = self.sizing.fuses[fuse.id]
        return min(row.carries_a - row.lasting_a, row.bears_a - row.current_a)

    def _circuits_on(self, terminal: Terminal) -> tuple[Load, ...]:
        """The circuits with wires on a terminal, and the largest current of each there."""
        wires: dict[str, list[Wire]] = {}
        for wire in self.build.wires.values():
            ends = (self.build.lands(wire.from_terminal), self.build.lands(wire.to_terminal))
            if terminal in ends and wire.circuit:
                wires.setdefault(wire.circuit, []).append(wire)
        return tuple(
            Load(
                circuit,
                self.build.circuits[circuit].name,
                max(self._through(terminal, rows).values(), default=0.0),
            )
            for circuit, rows in wires.items()
        )

    def _through(self, terminal: Terminal, wires: Sequence[Wire]) -> Sums:
        """What flows through a terminal by these wires: what comes in or what goes out, whichever
        is more (the difference goes another way: into the body, or into a part)."""
        numbers = [self.wire_number[wire.id] for wire in wires]
        ways = [1 if self.build.lands(wire.to_terminal) == terminal else -1 for wire in wires]
        into_a = self.along_a[:, numbers] * ways
        return self._most(
            np.maximum(into_a.clip(min=0).sum(axis=1), -into_a.clip(max=0).sum(axis=1))
        )

    def _grounds(self) -> list[Ground]:
        rows = []
        for part in self.build.parts.values():
            stud = Terminal(part.id, "stud")
            grounded = part.kind == "ground point" or (
                part.kind == "bus bar" and self.paths.positions_to_feed(stud) is None
            )
            if not grounded:
                continue
            wires = [
                wire
                for wire in self.build.wires.values()
                if stud in (wire.from_terminal, wire.to_terminal)
            ]
            ranked = [
                (rank, wire.label) for wire in wires if (rank := self._leads_back(stud, wire))
            ]
            back = min(ranked, key=lambda row: row[0])[1] if ranked else ""
            rows.append(
                Ground(
                    part.id,
                    part.name,
                    self.build.places[part.place].name,
                    self._wires_on(part),
                    _most_rings(part),
                    back or ("body" if self.build.body_conducts else ""),
                    self._through(stud, wires),
                    self._circuits_on(stud),
                )
            )
        return rows

    def _leads_back(self, stud: Terminal, wire: Wire) -> int:
        """How directly a wire leads back from a stud: 1 to the battery, 2 or 3 by a strap from or
        to a ground point, 4 over a ground bar; 0 where it does not."""
        leaves = wire.from_terminal == stud
        other = wire.to_terminal if leaves else wire.from_terminal
        if other == self.paths.minus:
            return 1
        match self.build.parts[other.part].kind:
            case "ground point":
                return 2 if leaves else 3
            case "bus bar":
                return 4
        return 0

    def _wires_on(self, part: Part) -> int:
        return sum(
            part.id in (wire.from_terminal.part, wire.to_terminal.part)
            for wire in self.build.wires.values()
        )

    def _sums_into(self, steps: tuple[Step, ...]) -> Sums:
        for step in steps:
            if step.kind == "wire":
                return self.wire_sums.get(step.owner, {})
            if step.kind == "fuse":
                return self.fuse_sums.get(step.owner, {})
        return {}

    def _sums(self, currents: Sequence[Mapping[Any, float]]) -> Mapping[Any, Sums]:
        """For each owner the largest current in each key position."""
        most = self._most(np.array([[*row.values()] for row in currents]))
        return {
            owner: {key: row[number] for key, row in most.items()}
            for number, owner in enumerate(currents[0])
        }

    def _most(self, amps: Vector) -> dict[str, Any]:
        """The largest by position of the key; ``amps`` has a row a solution."""
        return {key: np.abs(amps)[at].max(axis=0).tolist() for key, at in self.with_key.items()}

    def _total(self, sums: list[Sums]) -> Sums:
        keys = {key for row in sums for key in row}
        return {key: sum(row.get(key, 0.0) for row in sums) for key in KEY_POSITIONS if key in keys}


def _most_rings(part: Part) -> int | None:
    """How many rings a part may hold under one nut; None where it has no nut, or one for each."""
    return MOST_RINGS if part.kind in ("stud", "ground point") else None
