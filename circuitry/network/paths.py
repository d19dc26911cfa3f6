"""Which way current takes to a load, and which key, switch and relay positions that needs.

A search over terminals, wires, fuses and contacts; each contact carries the condition under which
it is closed. Loads and coils are never crossed, so no back-feed is taken for a path. A diode is
crossed only the way that it conducts.

A search is bounded. The exact one finds the easiest way; where too many positions are equally easy,
as in a ladder of parallel switches, a second one heads straight for the battery and takes the first
way that it finds. One that gives up says so, and its answer is not known, never “no way”.
"""

import heapq
from collections.abc import Collection, Hashable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import count, pairwise, product
from threading import Lock
from typing import Any, NamedTuple

import networkx as nx

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
from circuitry.network.network import Solution
from circuitry.network.state import State, position_of

MOST_PATHS_TRIED = 400
MOST_DEEP = 200
MOST_COMPARED = 64
VISITS = (2_000, 30_000)
"""Least and most terminals that one question may visit: fewer in a build that asks many."""
VISITS_SHARED = 8_000_000
KEY_COST = {"off": 0, "accessory": 10, "run": 11, "crank": 40}
SWITCH_COST = 10
RESISTOR_COST = 3
ALWAYS_JOINED = ("wire", "body", "plug", "joint")
SHORT = "+"
"""No part has this id."""
TAKES_POWER = frozenset({"resistor", "field"})
MOST_KEPT = 16
_kept: "dict[Hashable, Paths]" = {}
_keeping = Lock()


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
class Ways:
    """Ways between a part and the battery, how many terminals the search for them visited, and
    whether it gave up before its end."""

    each: tuple[Path, ...]
    visited: int
    gave_up: bool


Short = tuple[Mapping[str, str], Path]
"""Positions in which the battery is shorted, and the way from positive to negative."""


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


@dataclass
class Budget:
    """How much one question may still visit and try; ``spent`` once it was refused something."""

    visits: int
    paths: int = MOST_PATHS_TRIED
    spent: bool = False

    def visit(self) -> bool:
        """Whether one more terminal may be visited."""
        self.visits -= 1
        self.spent = self.spent or self.visits < 0
        return not self.spent

    def path(self) -> bool:
        """Whether one more path may be tried."""
        self.paths -= 1
        self.spent = self.spent or self.paths < 0
        return not self.spent


class Added(NamedTuple):
    """Positions that a path has asked for beyond those that were given, by part and as pairs."""

    positions: dict[str, str]
    pairs: frozenset[tuple[str, str]]


Found = tuple[dict[str, str], list[list["Step"]]]
"""Positions that meet all goals, and the steps towards each goal."""


@dataclass(frozen=True)
class Blocks:
    """The biconnected parts of a graph as a tree: numbers of parts, joined by shared terminals.

    ``conditions`` are those of the contacts inside each part.
    """

    tree: Any
    conditions: list[list[tuple[str, str]]]


class Paths:
    """The searchable graph of one build, with what was found in it; see ``paths_of``."""

    def __init__(self, build: Build) -> None:
        self.edges: dict[Terminal, list[Edge]] = {}
        self.keys = {part.id for part in build.parts_of_kind("key switch")}
        self.lands = build.lands
        battery = build.parts_of_kind("battery")[0]
        self.plus, self.minus = Terminal(battery.id, "+"), Terminal(battery.id, "-")
        self.needs = dict(self._needs(build))
        self.moved = {owner for owner, _ in self.needs}
        self._left: dict[tuple[Terminal, bool], Mapping[Terminal, int]] = {}
        self._to_load: dict[tuple[str, frozenset[tuple[str, str]]], Path | None] = {}
        self._given_up: set[tuple[str, frozenset[tuple[str, str]]]] = set()
        questions = 8 * max(len(build.parts_of_kind("load")), 1)
        self._visits = min(max(VISITS_SHARED // questions, VISITS[0]), VISITS[1])
        self._ways: dict[tuple[Terminal, Terminal], Ways] = {}
        self._to_feed: dict[Terminal, Mapping[str, str] | None] = {}
        self._shorts: dict[frozenset[tuple[str, str]], Short | None] = {}
        self._one_with: dict[Terminal, set[Terminal]] = {}
        self._kept_blocks: dict[Terminal, Blocks] = {}
        alternators = build.parts_of_kind("alternator")
        self.fields = {build.lands(Terminal(part.id, "D+")) for part in alternators}
        self._add_wires_and_fuses(build)
        self._add_contacts(build)
        self._add_small_parts(build)
        self._add_outputs(build)
        self._add_body(build)
        self.needs = {pair: self._possible(needs) for pair, needs in self.needs.items()}

    def _possible(self, needs: tuple[Need, ...]) -> tuple[Need, ...]:
        """The needs without those that ask a terminal to be at plus that is always at minus, or the
        other way round, as a coil fed backwards does."""
        always = {self.plus: self._joined(self.minus), self.minus: self._joined(self.plus)}
        return tuple(
            need
            for need in needs
            if not any(goal.terminal in always[goal.battery] for goal in need.goals)
        )

    def to_load(self, load: Part, given: Mapping[str, str] | None = None) -> Path | None:
        """The easiest way to energise a load; None when no positions do, or the search gave up.

        ``given`` holds positions that must stay as they are.
        """
        asked = load.id, frozenset((given or {}).items())
        if asked not in self._to_load:
            self._to_load[asked] = self._search_load(*asked)
        return self._to_load[asked]

    def gave_up(self, load: Part, given: Mapping[str, str] | None = None) -> bool:
        """Whether the search for a way to a load ended without an answer."""
        return self.to_load(load, given) is None and (
            (load.id, frozenset((given or {}).items())) in self._given_up
        )

    def _search_load(self, load: str, given: frozenset[tuple[str, str]]) -> Path | None:
        ends = (
            Goal(self.lands(Terminal(load, "+")), self.plus),
            Goal(self.lands(Terminal(load, "-")), self.minus),
        )
        found, gave_up = self._first(ends, dict(given))
        if gave_up:
            self._given_up.add((load, given))
        if found is None:
            return None
        positions, (feed, back, *_) = found
        switches = {part: at for part, at in positions.items() if part not in self.moved}
        return Path(_reversed(feed), tuple(back), switches)

    def ways(self, first: Terminal, last: Terminal, visits: int) -> Ways:
        """Every way to join one terminal to battery positive and another to negative, each in
        positions that none of the others does with.

        The terminals are those of one part, which is never crossed. ``visits`` are the terminals
        that may be visited for it.
        """
        ends = self.lands(first), self.lands(last)
        if ends not in self._ways:
            goals = Goal(ends[0], self.plus), Goal(ends[1], self.minus)
            may_visit = max(min(self._visits, visits), 0)
            budget = Budget(may_visit)
            found: dict[frozenset[tuple[str, str]], Path] = {}
            for positions, (feed, back, *_) in self._reach(goals, {}, budget, straight=False):
                switches = {part: at for part, at in positions.items() if part not in self.moved}
                way = Path(_reversed(feed), tuple(back), switches)
                if first.part not in {step.owner for step in way.steps}:
                    found.setdefault(frozenset(switches.items()), way)
            visited = may_visit - budget.visits
            self._ways[ends] = Ways(tuple(found.values()), visited, budget.spent)
        return self._ways[ends]

    def positions_to_feed(self, terminal: Terminal) -> Mapping[str, str] | None:
        """Positions in which a terminal is joined to battery positive, or None when none do."""
        if terminal not in self._to_feed:
            found, _ = self._first((Goal(self.lands(terminal), self.plus),), {})
            self._to_feed[terminal] = found and {
                part: at for part, at in found[0].items() if part not in self.moved
            }
        return self._to_feed[terminal]

    def key_needed(self, terminal: Terminal) -> str | None:
        """Key position from which a terminal is fed: always, accessory, run or crank, None when
        never; what a contact of the key feeds in its off position counts as always."""
        positions = self.positions_to_feed(terminal)
        if positions is None:
            return None
        needed = next((at for part, at in positions.items() if part in self.keys), "always")
        return "always" if needed == "off" else needed

    def concerning(self, loads: tuple[str, ...]) -> tuple[str, ...]:
        """Switches, sensors and values that can decide whether these loads live, nearest first.

        A contact concerns a load when it lies on some simple way from the load to the battery, or
        from the coil of a relay whose contact does, and so on.
        """
        found: dict[str, None] = {}
        seen: set[Goal] = set()
        waiting = [
            Goal(self.lands(Terminal(load, name)), battery)
            for load in loads
            for battery in (self.plus, self.minus)
            for name in ("+", "-")
        ]
        while waiting:
            goal = waiting.pop(0)
            if goal in seen:
                continue
            seen.add(goal)
            for condition in self._conditions_towards(goal):
                needs = self.needs.get(condition)
                if needs is None:
                    if condition[0] not in self.moved:
                        found[condition[0]] = None
                    continue
                for need in needs:
                    waiting += need.goals
                    found |= dict.fromkeys(need.positions)
        return tuple(found)

    def _conditions_towards(self, goal: Goal) -> Iterator[tuple[str, str]]:
        """Conditions of the contacts on simple ways from a terminal to a battery terminal.

        Those are the contacts in the biconnected parts of the graph between the two, which follow
        one another along the tree of such parts (Hopcroft and Tarjan, 1973).
        """
        blocks = self._blocks(goal.battery)
        if goal.terminal not in blocks.tree or goal.battery not in blocks.tree:
            return
        if not nx.has_path(blocks.tree, goal.terminal, goal.battery):
            return
        for node in nx.shortest_path(blocks.tree, goal.terminal, goal.battery):
            if isinstance(node, int):
                yield from blocks.conditions[node]

    def _blocks(self, battery: Terminal) -> Blocks:
        if battery not in self._kept_blocks:
            others = self._joined(self.minus if battery == self.plus else self.plus)
            graph: nx.Graph[Terminal] = nx.Graph()
            for terminal, edges in self.edges.items():
                for edge in edges:
                    if battery == self.minus and edge.step.kind == "fuse":
                        continue  # a return leads over no fuse
                    if terminal not in others and edge.step.to_terminal not in others:
                        graph.add_edge(terminal, edge.step.to_terminal)
            self._kept_blocks[battery] = self._block_tree(graph)
        return self._kept_blocks[battery]

    def _block_tree(self, graph: Any) -> Blocks:
        tree: nx.Graph[Any] = nx.Graph()
        conditions: list[list[tuple[str, str]]] = []
        found: Iterator[Any] = nx.biconnected_components(graph)
        for number, block in enumerate(found):
            tree.add_edges_from((number, terminal) for terminal in block)
            conditions.append(
                [
                    edge.condition
                    for terminal in sorted(block)
                    for edge in self.edges.get(terminal, ())
                    if edge.condition and edge.step.to_terminal in block
                ]
            )
            if any(terminal in self.fields for terminal in block):
                conditions[-1].append(("engine_rpm", ""))
        return Blocks(tree, conditions)

    def short(
        self, given: Mapping[str, str] | None = None
    ) -> tuple[Mapping[str, str], Path] | None:
        """Positions in which battery positive meets negative with nothing between, and the way.

        ``given`` holds positions that must stay as they are. None where none were found.
        """
        asked = frozenset((given or {}).items())
        if asked not in self._shorts:
            goals = (Goal(self.plus, self.minus),)
            found, gave_up = self._first(goals, dict(given or {}), TAKES_POWER)
            if gave_up:
                self._given_up.add((SHORT, asked))
            short: Short | None = None
            if found is not None:
                positions = {part: at for part, at in found[0].items() if part not in self.moved}
                short = positions, Path(tuple(found[1][0]), (), positions)
            self._shorts[asked] = short
        return self._shorts[asked]

    def short_gave_up(self) -> bool:
        """Whether the search for positions that short the battery ended without an answer."""
        return self.short() is None and (SHORT, frozenset()) in self._given_up

    @property
    def grounded(self) -> Collection[Terminal]:
        """The terminals that are joined to battery negative in every position."""
        return self._joined(self.minus)

    def behind(self, start: Terminal) -> set[Step]:
        """Steps that current from a terminal can take in any position, up to the next fuse.

        They end at the ground: what returns there is behind no fuse.
        """
        start, grounded = self.lands(start), self._joined(self.minus)
        reached, steps, stack = {start}, set(), [start]
        while stack:
            for edge in self.edges.get(stack.pop(), ()):
                if edge.step.kind in ("fuse", "output") or edge.towards == self.minus:
                    continue
                if edge.step.to_terminal in grounded:
                    continue
                steps.add(edge.step)
                if edge.step.to_terminal not in reached:
                    reached.add(edge.step.to_terminal)
                    stack.append(edge.step.to_terminal)
        return steps

    def _first(
        self,
        goals: tuple[Goal, ...],
        positions: dict[str, str],
        barred: frozenset[str] = frozenset(),
    ) -> tuple[Found | None, bool]:
        """The easiest way to meet all goals, or else the first that is found; and whether the
        search gave up without one.

        Steps of the ``barred`` kinds are not taken on the way to the first goal.
        """
        for straight in (False, True):
            budget = Budget(self._visits)
            found = next(self._reach(goals, positions, budget, straight, barred), None)
            if found is not None or not budget.spent:
                return found, False
        return None, True

    def _reach(
        self,
        goals: tuple[Goal, ...],
        positions: dict[str, str],
        budget: Budget,
        straight: bool,
        barred: frozenset[str] = frozenset(),
        deep: int = 0,
    ) -> Iterator[Found]:
        """Ways to meet all goals at once; each contact crossed adds its condition."""
        if not goals:
            yield positions, []
            return
        if deep > MOST_DEEP:
            budget.spent = True
            return
        first, rest = goals[0], goals[1:]
        for found, steps in self._search(first, positions, budget, straight, barred):
            if not budget.path():
                return
            moved = [
                pair
                for pair in found.items()
                if pair in self.needs and positions.get(pair[0]) != pair[1]
            ]
            for needs in product(*(self.needs[pair] for pair in moved)):
                if not budget.visit():
                    return
                together = _united([found, *(need.positions for need in needs)])
                if together is None:
                    continue
                goals_now = (*rest, *(goal for need in needs for goal in need.goals))
                onward = self._reach(goals_now, together, budget, straight, deep=deep + 1)
                for after, others in onward:
                    yield after, [steps, *others]

    def _search(
        self,
        goal: Goal,
        positions: dict[str, str],
        budget: Budget,
        straight: bool,
        barred: frozenset[str],
    ) -> Iterator[tuple[dict[str, str], list[Step]]]:
        """Paths to the goal in order of cost: A* over terminals and conditions.

        ``least_left`` never says more than what is left, so the first path found is the easiest;
        going ``straight`` it says what is left if no position is known yet, and the newest of
        equally good terminals is followed.
        """
        least_left = self._least_left(goal.battery, straight)
        other = self.minus if goal.battery == self.plus else self.plus
        avoided = {other} if barred else self._joined(other)
        dangling = self._dangling
        own = self._out_of_dangling(goal.terminal)
        tie = count(0, -1 if straight else 1)
        nothing = Added({}, frozenset())
        heap: list[tuple[int, int, Terminal, Added, Taken | None]] = [
            (least_left.get(goal.terminal, 0), next(tie), goal.terminal, nothing, None)
        ]
        settled: dict[Terminal, list[frozenset[tuple[str, str]]]] = {}
        while heap:
            if not budget.visit():
                return
            least, _, terminal, added, taken = heapq.heappop(heap)
            if terminal == goal.battery:
                yield {**positions, **added.positions}, _steps(taken)
                continue
            before = settled.setdefault(terminal, [])
            if any(map(added.pairs.issuperset, before[-MOST_COMPARED:])):
                continue
            before.append(added.pairs)
            for edge in self.edges.get(terminal, ()):
                to = edge.step.to_terminal
                if to in avoided or to not in least_left:
                    continue
                if to in dangling and to not in own:
                    continue
                if edge.step.kind in barred or edge.towards not in (None, goal.battery):
                    continue
                after, extra = added, 1
                if edge.condition is not None:
                    part, position = edge.condition
                    known = positions.get(part) or added.positions.get(part)
                    if known is None:
                        after = Added(
                            {**added.positions, part: position},
                            added.pairs | {edge.condition},
                        )
                        extra = edge.cost
                    elif known != position:
                        continue
                now_least = least - least_left[terminal] + extra + least_left[to]
                heapq.heappush(heap, (now_least, next(tie), to, after, (taken, edge.step)))

    def _joined(self, battery: Terminal) -> set[Terminal]:
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

    @cached_property
    def _dangling(self) -> Mapping[Terminal, Terminal | None]:
        """Terminals that hang on the rest by one other, as the wires of a lamp do, and that other:
        no way leads through them, for it would have to come back as it went."""
        beside: dict[Terminal, set[Terminal]] = {}
        for terminal, edges in self.edges.items():
            for edge in edges:
                to = edge.step.to_terminal
                if to != terminal:
                    beside.setdefault(terminal, set()).add(to)
                    beside.setdefault(to, set()).add(terminal)
        hangs: dict[Terminal, Terminal | None] = {}
        leaves = [terminal for terminal, others in beside.items() if len(others) == 1]
        while leaves:
            leaf = leaves.pop()
            if leaf in (self.plus, self.minus) or leaf in hangs:
                continue
            on = next(iter(beside[leaf]), None)
            hangs[leaf] = on
            if on is not None:
                beside[on].discard(leaf)
                if len(beside[on]) == 1:
                    leaves.append(on)
        return hangs

    def _out_of_dangling(self, terminal: Terminal) -> set[Terminal]:
        """A terminal and those by which it hangs on the rest."""
        own = {terminal}
        while (on := self._dangling.get(terminal)) is not None:
            own.add(on)
            terminal = on
        return own

    def _least_left(self, battery: Terminal, straight: bool) -> Mapping[Terminal, int]:
        """What the way from each terminal costs at least, whatever positions it may need; going
        ``straight``, with every contact on it moved."""
        asked = battery, straight
        if asked not in self._left:
            left: dict[Terminal, int] = {}
            heap = [(0, battery)]
            while heap:
                cost, terminal = heapq.heappop(heap)
                if terminal in left:
                    continue
                left[terminal] = cost
                for edge in self.edges.get(terminal, ()):
                    extra = edge.cost if straight else min(edge.cost, 1)
                    heapq.heappush(heap, (cost + extra, edge.step.to_terminal))
            self._left[asked] = left
        return self._left[asked]

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
                self._add("output", part.id, first, last, (_output_owner(part, name), on(name)))
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
                yield (_output_owner(part, name), on(name)), needs

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


def paths_of(build: Build) -> Paths:
    """The paths of a build; those of builds that are joined up alike are kept with what was found.

    Sizes, figures, names and places change no path.
    """
    if "paths" not in build.derived:
        joined = _topology(build)
        with _keeping:
            paths = _kept.get(joined)
        if paths is None:
            paths = Paths(build)
            with _keeping:
                while len(_kept) >= MOST_KEPT:
                    _kept.pop(next(iter(_kept)))
                _kept[joined] = paths
        build.derived["paths"] = paths
    found: Paths = build.derived["paths"]
    return found


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
                part.pins,
                part.fitted,
                part.housed and (part.housed.unit, tuple(part.housed.pins.items())),
                part.catalogue if part.kind == "relay" else None,
            )
            for part in build.parts.values()
        ),
    )


def state_of(build: Build, positions: Mapping[str, str]) -> State:
    """The state that these positions describe; the key switch's position becomes the key."""
    keys = {part.id for part in build.parts_of_kind("key switch")}
    key = next((at for part, at in positions.items() if part in keys), "off")
    values = {name: float(at) for name, at in positions.items() if name in VALUES}
    others = {part: at for part, at in positions.items() if part not in {*keys, *VALUES}}
    return State(key, others, values=values)


def positions_in(build: Build, solution: Solution) -> Mapping[str, str]:
    """The position of every switch and relay in a solved state."""
    positions = {
        part.id: position_of(part, solution.state) for part in build.parts_of_kind(*SWITCH_KINDS)
    }
    for relay, reading in solution.relays.items():
        positions[relay] = PULLED_IN if reading.pulled_in else "rest"
    for part in build.parts_of_kind("module", "box"):
        for name, _ in outputs_of(part):
            is_on = (part.id, on(name)) in solution.closed
            positions[_output_owner(part, name)] = on(name) if is_on else "off"
    return positions


def _output_owner(part: Part, name: str) -> str:
    """What the condition of an output is known by; several outputs of a box can be on at once."""
    return f"{part.id}.{name}"


def _united(positions: Iterable[Mapping[str, str]]) -> dict[str, str] | None:
    """All positions together, or None where two contradict each other."""
    together: dict[str, str] = {}
    for row in positions:
        for part, at in row.items():
            if together.setdefault(part, at) != at:
                return None
    return together


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
