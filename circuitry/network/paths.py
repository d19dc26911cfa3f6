"""Which way current takes to a load, and which key, switch and relay positions that needs.

A search over terminals, wires, fuses and contacts; each contact carries the condition under which
it is closed. Loads and coils are never crossed, so no back-feed is taken for a path.
"""

import heapq
from collections import defaultdict
from collections.abc import Hashable, Iterator, Mapping
from dataclasses import dataclass
from itertools import count, pairwise

from circuitry.build.kinds import SWITCH_KINDS, relay_contacts, relay_row
from circuitry.build.model import Build, ContactTable, Part, Terminal
from circuitry.network.network import Solution
from circuitry.network.state import State, position_of

MOST_PATHS_TRIED = 400
MOST_TERMINALS_VISITED = 40_000
KEY_COST = {"off": 0, "accessory": 10, "run": 11, "crank": 40}
SWITCH_COST = 10
MOST_KEPT = 16
_kept: "dict[Hashable, Paths]" = {}


@dataclass(frozen=True)
class Step:
    """One element crossed on the way, in the direction from supply to return."""

    kind: str
    owner: str
    from_terminal: Terminal
    to_terminal: Terminal


Taken = tuple["Taken | None", Step]
"""The steps before, and the last one."""


@dataclass(frozen=True)
class Path:
    """The way to a load and back: steps before it, steps after it, and the positions it needs.

    ``positions`` maps switch parts to their position; relays follow from the coils.
    """

    feed: tuple[Step, ...]
    back: tuple[Step, ...]
    positions: Mapping[str, str]

    @property
    def steps(self) -> tuple[Step, ...]:
        """Feed and return steps, without the load itself."""
        return self.feed + self.back


@dataclass(frozen=True)
class Edge:
    """A step that can be taken, with the condition that it needs: a part and its position."""

    step: Step
    condition: tuple[str, str] | None
    cost: int


@dataclass(frozen=True)
class Goal:
    """Lead this terminal to that battery terminal."""

    terminal: Terminal
    battery: Terminal


class Paths:
    """The searchable graph of one build, with what was found in it; see ``paths_of``."""

    def __init__(self, build: Build) -> None:
        self.edges: dict[Terminal, list[Edge]] = defaultdict(list)
        self.keys = {part.id for part in build.parts_of_kind("key switch")}
        self.relays = {part.id for part in build.parts_of_kind("relay")}
        battery = build.parts_of_kind("battery")[0]
        self.plus, self.minus = Terminal(battery.id, "+"), Terminal(battery.id, "-")
        self._left: dict[Terminal, Mapping[Terminal, int]] = {}
        self._to_load: dict[tuple[str, frozenset[tuple[str, str]]], Path | None] = {}
        self._to_feed: dict[Terminal, Mapping[str, str] | None] = {}
        self._add_wires_and_fuses(build)
        self._add_contacts(build)
        self._add_body(build)

    def to_load(self, load: Part, given: Mapping[str, str] | None = None) -> Path | None:
        """The easiest way to energise a load, or None when no positions do.

        ``given`` holds positions that must stay as they are.
        """
        asked = load.id, frozenset((given or {}).items())
        if asked not in self._to_load:
            self._to_load[asked] = self._search_load(load.id, dict(given or {}))
        return self._to_load[asked]

    def _search_load(self, load: str, given: dict[str, str]) -> Path | None:
        ends = (Goal(Terminal(load, "+"), self.plus), Goal(Terminal(load, "-"), self.minus))
        found = next(self._reach(ends, given, count()), None)
        if found is None:
            return None
        positions, (feed, back, *_) = found
        switches = {part: at for part, at in positions.items() if part not in self.relays}
        return Path(_reversed(feed), tuple(back), switches)

    def positions_to_feed(self, terminal: Terminal) -> Mapping[str, str] | None:
        """Positions in which a terminal is joined to battery positive, or None when none do."""
        if terminal not in self._to_feed:
            found = next(self._reach((Goal(terminal, self.plus),), {}, count()), None)
            self._to_feed[terminal] = found and {
                part: at for part, at in found[0].items() if part not in self.relays
            }
        return self._to_feed[terminal]

    def key_needed(self, terminal: Terminal) -> str | None:
        """Key position from which a terminal is fed: always, accessory or run; None when never."""
        positions = self.positions_to_feed(terminal)
        if positions is None:
            return None
        return next((at for part, at in positions.items() if part in self.keys), "always")

    def behind(self, start: Terminal) -> set[Step]:
        """Steps that current from a terminal can take in any position, up to the next fuse."""
        reached, steps, stack = {start}, set(), [start]
        while stack:
            for edge in self.edges[stack.pop()]:
                if edge.step.kind == "fuse":
                    continue
                steps.add(edge.step)
                if edge.step.to_terminal not in reached:
                    reached.add(edge.step.to_terminal)
                    stack.append(edge.step.to_terminal)
        return steps

    def _reach(
        self, goals: tuple[Goal, ...], positions: dict[str, str], tried: "count[int]"
    ) -> Iterator[tuple[dict[str, str], list[list[Step]]]]:
        """Ways to meet all goals at once; each contact crossed adds its condition.

        ``tried`` counts over all goals, so that a tangle of relays ends the search.
        """
        if not goals:
            yield positions, []
            return
        first, rest = goals[0], goals[1:]
        for found, steps in self._search(first, positions):
            if next(tried) > MOST_PATHS_TRIED:
                return
            coils = [
                part
                for part, at in found.items()
                if at == "pulled in" and part in self.relays and positions.get(part) != at
            ]
            for polarity in (("86", "85"), ("85", "86")):
                coil_goals = tuple(
                    goal
                    for part in coils
                    for goal in (
                        Goal(Terminal(part, polarity[0]), self.plus),
                        Goal(Terminal(part, polarity[1]), self.minus),
                    )
                )
                for after, others in self._reach((*rest, *coil_goals), found, tried):
                    yield after, [steps, *others]
                if not coils:
                    break

    def _search(
        self, goal: Goal, positions: dict[str, str]
    ) -> Iterator[tuple[dict[str, str], list[Step]]]:
        """Paths to the goal in order of cost: A* over terminals and conditions.

        ``least_left`` never says more than what is left, so the first path found is the easiest.
        """
        least_left = self._least_left(goal.battery)
        other = self.minus if goal.battery == self.plus else self.plus
        tie = count()
        heap: list[tuple[int, int, Terminal, dict[str, str], Taken | None]] = [
            (least_left.get(goal.terminal, 0), next(tie), goal.terminal, {}, None)
        ]
        settled: dict[Terminal, list[dict[str, str]]] = {}
        for _ in range(MOST_TERMINALS_VISITED):
            if not heap:
                return
            least, _, terminal, added, taken = heapq.heappop(heap)
            if terminal == goal.battery:
                yield {**positions, **added}, _steps(taken)
                continue
            before = settled.setdefault(terminal, [])
            if before and any(with_less.items() <= added.items() for with_less in before):
                continue
            before.append(added)
            for edge in self.edges[terminal]:
                to = edge.step.to_terminal
                if to == other or to not in least_left:
                    continue
                after, extra = added, 1
                if edge.condition is not None:
                    part, position = edge.condition
                    known = positions.get(part) or added.get(part)
                    if known is None:
                        after, extra = {**added, part: position}, edge.cost
                    elif known != position:
                        continue
                now_least = least - least_left[terminal] + extra + least_left[to]
                heapq.heappush(heap, (now_least, next(tie), to, after, (taken, edge.step)))

    def _least_left(self, battery: Terminal) -> Mapping[Terminal, int]:
        """What the way from each terminal costs at least, whatever positions it may need."""
        if battery not in self._left:
            left: dict[Terminal, int] = {}
            heap = [(0, battery)]
            while heap:
                cost, terminal = heapq.heappop(heap)
                if terminal in left:
                    continue
                left[terminal] = cost
                for edge in self.edges[terminal]:
                    heapq.heappush(heap, (cost + min(edge.cost, 1), edge.step.to_terminal))
            self._left[battery] = left
        return self._left[battery]

    def _add_wires_and_fuses(self, build: Build) -> None:
        for wire in build.wires.values():
            self._add("wire", wire.id, wire.from_terminal, wire.to_terminal)
        for part in build.parts_of_kind("fuse"):
            first, second = Terminal(part.id, "in"), Terminal(part.id, "out")
            if part.fitted is not None:
                panel = build.parts[part.fitted.panel]
                bus = next(way.bus for way in panel.ways if way.name == part.fitted.way)
                first, second = Terminal(panel.id, bus), Terminal(panel.id, part.fitted.way)
            self._add("fuse", part.id, first, second)

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
    ) -> None:
        self.edges[first].append(Edge(Step(kind, owner, first, second), condition, cost))
        self.edges[second].append(Edge(Step(kind, owner, second, first), condition, cost))


def paths_of(build: Build) -> Paths:
    """The paths of a build; those of builds that are joined up alike are kept with what was found.

    Sizes, figures, names and places change no path.
    """
    joined = _topology(build)
    paths = _kept.get(joined)
    if paths is None:
        paths = Paths(build)
        while len(_kept) >= MOST_KEPT:
            _kept.pop(next(iter(_kept)), None)
        _kept[joined] = paths
    return paths


def _topology(build: Build) -> Hashable:
    """Everything of a build that its paths depend on."""
    return (
        build.body_conducts,
        tuple((wire.id, wire.from_terminal, wire.to_terminal) for wire in build.wires.values()),
        tuple(
            (
                part.id,
                part.kind,
                part.contacts,
                part.ways,
                part.fitted,
                part.catalogue if part.kind == "relay" else None,
            )
            for part in build.parts.values()
        ),
    )


def state_of(build: Build, positions: Mapping[str, str]) -> State:
    """The state that these positions describe; the key switch's position becomes the key."""
    keys = {part.id for part in build.parts_of_kind("key switch")}
    key = next((at for part, at in positions.items() if part in keys), "off")
    return State(key, {part: at for part, at in positions.items() if part not in keys})


def positions_in(build: Build, solution: Solution) -> Mapping[str, str]:
    """The position of every switch and relay in a solved state."""
    positions = {
        part.id: position_of(part, solution.state) for part in build.parts_of_kind(*SWITCH_KINDS)
    }
    for relay, reading in solution.relays.items():
        positions[relay] = "pulled in" if reading.pulled_in else "rest"
    return positions


def _steps(taken: Taken | None) -> list[Step]:
    """The steps taken, the first first."""
    steps = []
    while taken is not None:
        taken, step = taken
        steps.append(step)
    return steps[::-1]


def _reversed(steps: list[Step]) -> tuple[Step, ...]:
    return tuple(
        Step(step.kind, step.owner, step.to_terminal, step.from_terminal)
        for step in reversed(steps)
    )
