"""The search for ways that meet goals at once, in order of how easy they are.

A search is bounded. The exact one finds the easiest way; where too many positions are equally easy,
as in a ladder of parallel switches, a second one heads straight for the battery and takes the first
way that it finds. One that gives up says so, and its answer is not known, never “no way”.
"""

import heapq
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from itertools import count, product
from typing import NamedTuple

from circuitry.design.model import Terminal
from circuitry.reach.graph import Goal, Graph
from circuitry.reach.ways import Step

MOST_PATHS_TRIED = 400
MOST_DEEP = 200
MOST_COMPARED = 64
Taken = tuple["Taken | None", Step]
"""The steps before, and the last one."""


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


Found = tuple[dict[str, str], list[list[Step]]]
"""Positions that meet all goals, and the steps towards each goal."""


class Search:
    """The searches of one graph."""

    def __init__(self, graph: Graph) -> None:
        self._graph = graph
        self._left: dict[tuple[Terminal, bool], Mapping[Terminal, int]] = {}

    def first(
        self,
        goals: tuple[Goal, ...],
        positions: dict[str, str],
        visits: int,
        barred: frozenset[str] = frozenset(),
    ) -> tuple[Found | None, bool]:
        """The easiest way to meet all goals, or else the first that is found; and whether the
        search gave up without one.

        Steps of the ``barred`` kinds are not taken on the way to the first goal.
        """
        for straight in (False, True):
            budget = Budget(visits)
            found = next(self.reach(goals, positions, budget, straight, barred), None)
            if found is not None or not budget.spent:
                return found, False
        return None, True

    def reach(
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
                if pair in self._graph.needs and positions.get(pair[0]) != pair[1]
            ]
            for needs in product(*(self._graph.needs[pair] for pair in moved)):
                if not budget.visit():
                    return
                together = _united([found, *(need.positions for need in needs)])
                if together is None:
                    continue
                goals_now = (*rest, *(goal for need in needs for goal in need.goals))
                onward = self.reach(goals_now, together, budget, straight, deep=deep + 1)
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
        other = self._graph.minus if goal.battery == self._graph.plus else self._graph.plus
        avoided = {other} if barred else self._graph.joined(other)
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
            for edge in self._graph.edges.get(terminal, ()):
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

    @cached_property
    def _dangling(self) -> Mapping[Terminal, Terminal | None]:
        """Terminals that hang on the rest by one other, as the wires of a lamp do, and that other:
        no way leads through them, for it would have to come back as it went."""
        beside: dict[Terminal, set[Terminal]] = {}
        for terminal, edges in self._graph.edges.items():
            for edge in edges:
                to = edge.step.to_terminal
                if to != terminal:
                    beside.setdefault(terminal, set()).add(to)
                    beside.setdefault(to, set()).add(terminal)
        hangs: dict[Terminal, Terminal | None] = {}
        leaves = [terminal for terminal, others in beside.items() if len(others) == 1]
        while leaves:
            leaf = leaves.pop()
            if leaf in (self._graph.plus, self._graph.minus) or leaf in hangs:
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
                for edge in self._graph.edges.get(terminal, ()):
                    extra = edge.cost if straight else min(edge.cost, 1)
                    heapq.heappush(heap, (cost + extra, edge.step.to_terminal))
            self._left[asked] = left
        return self._left[asked]


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
