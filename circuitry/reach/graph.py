"""The graph that ways are searched in: terminals joined by wires, fuses and contacts.

Each contact carries the condition under which it is closed. Loads and coils join nothing, so no
back-feed is taken for a way. A diode is crossed only the way that it conducts.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise

from circuitry.design.kinds import (
    SWITCH_KINDS,
    cavity_halves,
    outputs_of,
    relay_contacts,
    relay_row,
    supply_pins,
)
from circuitry.design.logic import VALUES, spoken, ways_to_hold
from circuitry.design.model import Build, ContactTable, Part, Terminal
from circuitry.network.elements import on
from circuitry.network.moving import PULLED_IN
from circuitry.reach.ways import Step

KEY_COST = {"off": 0, "accessory": 10, "run": 11, "crank": 40}
SWITCH_COST = 10
RESISTOR_COST = 3
ALWAYS_JOINED = ("wire", "body", "plug", "joint")
Condition = tuple[str, str]
"""A part and the position that it must be in."""


@dataclass(frozen=True)
class Edge:
    """A step that can be taken, with the condition that it needs: a part and its position.

    ``towards`` is the battery terminal that it can lead to, where it is only the one.
    """

    step: Step
    condition: tuple[str, str] | None
    cost: int
    towards: Terminal | None = None


@dataclass(frozen=True)
class Goal:
    """Lead this terminal to that battery terminal."""

    terminal: Terminal
    battery: Terminal


@dataclass(frozen=True)
class Need:
    """One way to make a relay pull in or an output come on: goals, and positions of switches."""

    goals: tuple[Goal, ...]
    positions: Mapping[str, str]


class Graph:
    """The edges of one build by the terminal that they leave, and what moves each relay and output.

    ``plus`` and ``minus`` are the battery's terminals, ``keys`` the key switches, ``moved`` what
    moves by itself.
    """

    def __init__(self, build: Build) -> None:
        self.edges: dict[Terminal, list[Edge]] = {}
        self.keys = {part.id for part in build.parts_of_kind("key switch")}
        self.lands = build.lands
        battery = build.parts_of_kind("battery")[0]
        self.plus, self.minus = Terminal(battery.id, "+"), Terminal(battery.id, "-")
        self.needs = dict(self._needs(build))
        self.moved = {owner for owner, _ in self.needs}
        self._one_with: dict[Terminal, set[Terminal]] = {}
        alternators = build.parts_of_kind("alternator")
        self.fields = {build.lands(Terminal(part.id, "D+")) for part in alternators}
        self._add_wires_and_fuses(build)
        self._add_contacts(build)
        self._add_small_parts(build)
        self._add_outputs(build)
        self._add_body(build)
        self.needs = {pair: self._possible(needs) for pair, needs in self.needs.items()}

    def joined(self, battery: Terminal) -> set[Terminal]:
        """Terminals always one with a battery terminal: no way to the other leads there."""
        if battery not in self._one_with:
            reached, stack = {battery}, [battery]
            while stack:
                for edge in self.edges.get(stack.pop(), ()):
                    to = edge.step.to_terminal
                    if edge.step.kind in ALWAYS_JOINED and to not in reached:
                        reached.add(to)
                        stack.append(to)
            self._one_with[battery] = reached
        return self._one_with[battery]

    def _possible(self, needs: tuple[Need, ...]) -> tuple[Need, ...]:
        """The needs without those that ask a terminal to be at plus that is always at minus, or the
        other way round, as a coil fed backwards does."""
        always = {self.plus: self.joined(self.minus), self.minus: self.joined(self.plus)}
        return tuple(
            need
            for need in needs
            if not any(goal.terminal in always[goal.battery] for goal in need.goals)
        )

    def _add_wires_and_fuses(self, build: Build) -> None:
        for wire in build.wires.values():
            self._add("wire", wire.id, wire.from_terminal, wire.to_terminal)
        for part in build.parts_of_kind("fuse"):
            self._add("fuse", part.id, Terminal(part.id, "in"), Terminal(part.id, "out"))

    def _add_contacts(self, build: Build) -> None:
        for part in build.parts_of_kind(*SWITCH_KINDS, "relay"):
            if part.kind == "relay":
                self._add_table(part, relay_contacts(relay_row(part)))
            elif part.contacts is not None:
                self._add_table(part, part.contacts)

    def _add_table(self, part: Part, table: ContactTable) -> None:
        for row, position in enumerate(table.positions):
            cost = 1 if row == 0 else SWITCH_COST
            if part.kind == "key switch":
                cost = KEY_COST.get(position.name, SWITCH_COST)
            for group in position.joins:
                for first, second in pairwise(group):
                    ends = Terminal(part.id, first), Terminal(part.id, second)
                    self._add("contact", part.id, *ends, (part.id, position.name), cost)

    def _add_small_parts(self, build: Build) -> None:
        for part in build.parts_of_kind("flasher"):
            self._add("flasher", part.id, Terminal(part.id, "49"), Terminal(part.id, "49a"))
        for part in build.parts_of_kind("connector"):
            for pin in part.pins:
                first, second = cavity_halves(pin.name)
                self._add("plug", part.id, Terminal(part.id, first), Terminal(part.id, second))
        for part in build.parts_of_kind("resistor"):
            ends = Terminal(part.id, "1"), Terminal(part.id, "2")
            self._add("resistor", part.id, *ends, cost=RESISTOR_COST)
        for part in build.parts_of_kind("alternator"):
            self._add("field", part.id, Terminal(part.id, "D+"), Terminal(part.id, "-"))
        for part in build.parts_of_kind("diode"):
            ends = Terminal(part.id, "anode"), Terminal(part.id, "cathode")
            self._add("diode", part.id, *ends, one_way=True)

    def _add_outputs(self, build: Build) -> None:
        """Channels and outputs of boxes, each with the condition that its box closes it."""
        for part in build.parts_of_kind("module", "box"):
            ends = supply_pins(part)
            if ends is None:
                continue
            supply, ground = (Terminal(part.id, name) for name in ends)
            low = {pin.name for pin in part.pins if pin.function == "low side"}
            for name, _ in outputs_of(part):
                first, last = (
                    (Terminal(part.id, name), ground)
                    if name in low
                    else (
                        supply,
                        Terminal(part.id, name),
                    )
                )
                self._add("output", part.id, first, last, (output_owner(part, name), on(name)))
            for pin in part.pins:
                if pin.function == "sensor ground":
                    self._add("joint", part.id, Terminal(part.id, pin.name), ground)

    def _needs(self, build: Build) -> Iterator[tuple[tuple[str, str], tuple[Need, ...]]]:
        """For each relay and output the ways to make it move."""
        for part in build.parts_of_kind("relay"):
            a, b = (build.lands(Terminal(part.id, name)) for name in ("86", "85"))
            polarities = [(a, b)]
            if not relay_row(part).suppression.startswith("diode"):
                polarities.append((b, a))
            yield (
                (part.id, PULLED_IN),
                tuple(Need((Goal(x, self.plus), Goal(y, self.minus)), {}) for x, y in polarities),
            )
        for part in build.parts_of_kind("module", "box"):
            for name, condition in outputs_of(part) if supply_pins(part) else ():
                needs = tuple(self._output_needs(build, part, condition))
                yield (output_owner(part, name), on(name)), needs

    def _output_needs(self, build: Build, part: Part, condition: str) -> Iterator[Need]:
        """One need for each set of literals that makes the condition true; the box must be fed."""
        supply, ground = (build.lands(Terminal(part.id, name)) for name in supply_pins(part) or ())
        pins = {spoken(pin.name): pin for pin in part.pins}
        switches = {spoken(row.id): row for row in build.parts_of_kind(*SWITCH_KINDS)}
        for literals in ways_to_hold(condition):
            goals = [Goal(supply, self.plus), Goal(ground, self.minus)]
            positions: dict[str, str] = {}
            for name, wanted in literals:
                if name in VALUES:
                    positions[name] = f"{wanted:g}"
                elif name in pins and wanted:
                    active = pins[name].function == "input"
                    pin = build.lands(Terminal(part.id, pins[name].name))
                    goals.append(Goal(pin, self.plus if active else self.minus))
                elif name in switches and (table := switches[name].contacts):
                    away = table.positions[-1 if wanted else 0]
                    positions[switches[name].id] = away.name
            yield Need(tuple(goals), positions)

    def _add_body(self, build: Build) -> None:
        if not build.body_conducts:
            return
        points = [Terminal(part.id, "stud") for part in build.parts_of_kind("ground point")]
        for first, second in pairwise(points):
            self._add("body", first.part, first, second)

    def _add(
        self,
        kind: str,
        owner: str,
        first: Terminal,
        second: Terminal,
        condition: tuple[str, str] | None = None,
        cost: int = 1,
        one_way: bool = False,
    ) -> None:
        """Add an element; ``one_way`` lets current through from the first to the second only."""
        first, second = self.lands(first), self.lands(second)
        along, against = (self.minus, self.plus) if one_way else (None, None)
        there, back = Step(kind, owner, first, second), Step(kind, owner, second, first)
        self.edges.setdefault(first, []).append(Edge(there, condition, cost, along))
        self.edges.setdefault(second, []).append(Edge(back, condition, cost, against))


def output_owner(part: Part, name: str) -> str:
    """What the condition of an output is known by; several outputs of a box can be on at once."""
    return f"{part.id}.{name}"
