"""The graph that ways are searched in: terminals joined by wires, fuses and contacts.

Each contact carries the condition under which it is closed. Loads and coils join nothing, so no
back-feed is taken for a way. A diode is crossed only the way that it conducts.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise

from circuitry.design.model import Build, Terminal
from circuitry.devices import DEVICES, terminals_of
from circuitry.devices.device import Around, Condition
from circuitry.devices.device import Need as OwnNeed
from circuitry.reach.ways import Step

ALWAYS_JOINED = ("wire", "body", "plug", "joint")


@dataclass(frozen=True)
class Edge:
    """A step that can be taken, with the condition that it needs: a part and its position.

    ``towards`` is the battery terminal that it can lead to, where it is only the one.
    """

    step: Step
    condition: Condition | None
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
        self.fields: set[Terminal] = set()
        self._one_with: dict[Terminal, set[Terminal]] = {}
        for wire in build.wires.values():
            self._add("wire", wire.id, wire.from_terminal, wire.to_terminal)
        self._add_parts(build)
        self._add_body(build)
        self.needs = {pair: self._possible(needs) for pair, needs in self.needs.items()}

    def joined(self, terminal: Terminal) -> set[Terminal]:
        """Terminals always one with a terminal; from one with the battery's no way leads to its
        other."""
        if terminal not in self._one_with:
            reached, stack = {terminal}, [terminal]
            while stack:
                for edge in self.edges.get(stack.pop(), ()):
                    to = edge.step.to_terminal
                    if edge.step.kind in ALWAYS_JOINED and to not in reached:
                        reached.add(to)
                        stack.append(to)
            self._one_with[terminal] = reached
        return self._one_with[terminal]

    def _possible(self, needs: tuple[Need, ...]) -> tuple[Need, ...]:
        """The needs without those that ask a terminal to be at plus that is always at minus, or the
        other way round, as a coil fed backwards does."""
        always = {self.plus: self.joined(self.minus), self.minus: self.joined(self.plus)}
        return tuple(
            need
            for need in needs
            if not any(goal.terminal in always[goal.battery] for goal in need.goals)
        )

    def _add_parts(self, build: Build) -> None:
        for kind, device in DEVICES.items():
            for part in build.parts_of_kind(kind):
                for branch in device.branches(part, Around()):
                    ends = Terminal(part.id, branch.first), Terminal(part.id, branch.last)
                    if branch.crossing is None:
                        continue
                    if branch.kind == "field":
                        self.fields.add(build.lands(ends[0]))
                    cross = branch.crossing
                    self._add(branch.kind, part.id, *ends, cross.needs, cross.cost, cross.one_way)

    def _needs(self, build: Build) -> Iterator[tuple[Condition, tuple[Need, ...]]]:
        """For each condition that a part meets by itself, the ways to make it so."""
        for kind, device in DEVICES.items():
            for part in build.parts_of_kind(kind):
                for condition, needs in device.needs(part, build):
                    yield condition, tuple(self._need(need) for need in needs)

    def _need(self, need: OwnNeed) -> Need:
        sides = ((need.plus, self.plus), (need.minus, self.minus))
        goals = (
            Goal(self.lands(terminal), battery)
            for terminals, battery in sides
            for terminal in terminals
        )
        return Need(tuple(goals), need.positions)

    def _add_body(self, build: Build) -> None:
        if not build.body_conducts:
            return
        points = [
            Terminal(part.id, name)
            for part in build.parts.values()
            if DEVICES[part.kind].in_body
            for name in terminals_of(part)
        ]
        for first, second in pairwise(points):
            self._add("body", first.part, first, second)

    def _add(
        self,
        kind: str,
        owner: str,
        first: Terminal,
        second: Terminal,
        condition: Condition | None = None,
        cost: int = 1,
        one_way: bool = False,
    ) -> None:
        """Add an element; ``one_way`` lets current through from the first to the second only."""
        first, second = self.lands(first), self.lands(second)
        along, against = (self.minus, self.plus) if one_way else (None, None)
        there, back = Step(kind, owner, first, second), Step(kind, owner, second, first)
        self.edges.setdefault(first, []).append(Edge(there, condition, cost, along))
        self.edges.setdefault(second, []).append(Edge(back, condition, cost, against))
