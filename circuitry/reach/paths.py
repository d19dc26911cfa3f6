"""Which way current takes to a load, and which key, switch and relay positions that needs.

Each question is asked of the graph of a build once; its answer is kept for all builds that are
joined up alike.
"""

from collections import deque
from collections.abc import Callable, Collection, Hashable, Mapping
from functools import cached_property
from threading import Lock

from circuitry.design.logic import VALUES
from circuitry.design.model import Build, Part, Terminal
from circuitry.design.state import State, position_of
from circuitry.devices import device_of, switches_of
from circuitry.devices.electronics import low, on, output_owner, outputs_of
from circuitry.devices.relay import PULLED_IN
from circuitry.network.network import Solution
from circuitry.reach.blocks import Deciding
from circuitry.reach.graph import Goal, Graph
from circuitry.reach.search import Budget, Search
from circuitry.reach.ways import TAKES_POWER, Path, Step, Ways, reversed_steps

VISITS = (2_000, 30_000)
"""Least and most terminals that one question may visit: fewer in a build that asks many."""
VISITS_SHARED = 8_000_000
SHORT = "+"
"""No part has this id."""
MOST_KEPT = 16
Short = tuple[Mapping[str, str], Path]
"""Positions in which the battery is shorted, and the way from positive to negative."""
_kept: "dict[Hashable, Paths]" = {}
_keeping = Lock()


class Paths:
    """The ways of one build, with what was asked of them; see ``paths_of``."""

    def __init__(self, build: Build) -> None:
        self.graph = Graph(build)
        self._search, self._deciding = Search(self.graph), Deciding(self.graph)
        self.edges, self.lands = self.graph.edges, self.graph.lands
        self.plus, self.minus = self.graph.plus, self.graph.minus
        self._to_load: dict[tuple[str, frozenset[tuple[str, str]]], Path | None] = {}
        self._given_up: set[tuple[str, frozenset[tuple[str, str]]]] = set()
        questions = 8 * max(len(build.parts_of_kind("load")), 1)
        self._visits = min(max(VISITS_SHARED // questions, VISITS[0]), VISITS[1])
        self._ways: dict[tuple[Terminal, Terminal], Ways] = {}
        self._to_feed: dict[Terminal, Mapping[str, str] | None] = {}
        self._shorts: dict[frozenset[tuple[str, str]], Short | None] = {}

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
        found, gave_up = self._search.first(ends, dict(given), self._visits)
        if gave_up:
            self._given_up.add((load, given))
        if found is None:
            return None
        positions, (feed, back, *_) = found
        switches = self._switches(positions)
        return Path(reversed_steps(feed), tuple(back), switches)

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
            for positions, (feed, back, *_) in self._search.reach(
                goals, {}, budget, straight=False
            ):
                switches = self._switches(positions)
                way = Path(reversed_steps(feed), tuple(back), switches)
                if first.part not in {step.owner for step in way.steps}:
                    found.setdefault(frozenset(switches.items()), way)
            visited = may_visit - budget.visits
            self._ways[ends] = Ways(tuple(found.values()), visited, budget.spent)
        return self._ways[ends]

    def positions_to_feed(self, terminal: Terminal) -> Mapping[str, str] | None:
        """Positions in which a terminal is joined to battery positive, or None when none do."""
        if terminal not in self._to_feed:
            found, _ = self._search.first(
                (Goal(self.lands(terminal), self.plus),), {}, self._visits
            )
            self._to_feed[terminal] = found and self._switches(found[0])
        return self._to_feed[terminal]

    def key_needed(self, terminal: Terminal) -> str | None:
        """Key position from which a terminal is fed: always, accessory, run or crank, None when
        never; what a contact of the key feeds in its off position counts as always."""
        positions = self.positions_to_feed(terminal)
        if positions is None:
            return None
        needed = next((at for part, at in positions.items() if part in self.graph.keys), "always")
        return "always" if needed == "off" else needed

    def concerning(self, loads: tuple[str, ...]) -> tuple[str, ...]:
        """Switches, sensors and values that can decide whether these loads live, nearest first."""
        return self._deciding.concerning(loads)

    def short(
        self, given: Mapping[str, str] | None = None
    ) -> tuple[Mapping[str, str], Path] | None:
        """Positions in which battery positive meets negative with nothing between, and the way.

        ``given`` holds positions that must stay as they are. None where none were found.
        """
        asked = frozenset((given or {}).items())
        if asked not in self._shorts:
            goals = (Goal(self.plus, self.minus),)
            found, gave_up = self._search.first(goals, dict(given or {}), self._visits, TAKES_POWER)
            if gave_up:
                self._given_up.add((SHORT, asked))
            short: Short | None = None
            if found is not None:
                positions = self._switches(found[0])
                short = positions, Path(tuple(found[1][0]), (), positions)
            self._shorts[asked] = short
        return self._shorts[asked]

    def short_gave_up(self) -> bool:
        """Whether the search for positions that short the battery ended without an answer."""
        return self.short() is None and (SHORT, frozenset()) in self._given_up

    @property
    def grounded(self) -> Collection[Terminal]:
        """The terminals that are joined to battery negative in every position."""
        return self.graph.joined(self.minus)

    @cached_property
    def feeding(self) -> Mapping[Terminal, Step]:
        """The step by which current comes to each terminal on the way of fewest steps from battery
        positive, in any position."""
        grounded = self.graph.joined(self.minus)
        return self._tree(self.plus, lambda end: end not in grounded)

    @cached_property
    def grounding(self) -> Mapping[Terminal, Step]:
        """The step that joins each terminal which is grounded in every position to battery
        negative, on the way of fewest steps; it starts at the one nearer to the battery."""
        grounded = self.graph.joined(self.minus)
        return self._tree(self.minus, lambda end: end in grounded)

    def _tree(
        self, start: Terminal, goes_to: Callable[[Terminal], bool]
    ) -> Mapping[Terminal, Step]:
        found: dict[Terminal, Step] = {}
        waiting = deque([start])
        while waiting:
            for edge in self.edges.get(waiting.popleft(), ()):
                end = edge.step.to_terminal
                if end not in found and end != start and goes_to(end):
                    found[end] = edge.step
                    waiting.append(end)
        return found

    def joined(self, terminal: Terminal) -> set[Terminal]:
        """The terminals that are one with this in any position, as ``lands`` names them."""
        return self.graph.joined(self.lands(terminal))

    def behind(self, start: Terminal) -> set[Step]:
        """Steps that current from a terminal can take in any position, up to the next fuse.

        They end at the ground: what returns there is behind no fuse.
        """
        start, grounded = self.lands(start), self.graph.joined(self.minus)
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

    def _switches(self, positions: Mapping[str, str]) -> dict[str, str]:
        """Positions without those of what moves by itself."""
        return {part: at for part, at in positions.items() if part not in self.graph.moved}


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


def loads_behind(build: Build, output: Terminal) -> list[Part]:
    """The loads that an output of a box or module feeds, up to the next protection."""
    reached = {step.to_terminal for step in paths_of(build).behind(output)}
    loads = build.parts_of_kind("load")
    return [load for load in loads if build.lands(Terminal(load.id, "+")) in reached]


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
                part.catalogue if device_of(part).row_joins else None,
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
    positions = {part.id: position_of(part, solution.state) for part in switches_of(build)}
    for relay, reading in solution.relays.items():
        positions[relay] = PULLED_IN if reading.pulled_in else "rest"
    for part in build.parts.values():
        for name, _ in outputs_of(part):
            at = (at for at in (on(name), low(name)) if (part.id, at) in solution.closed)
            positions[output_owner(part, name)] = next(at, "off")
    return positions
