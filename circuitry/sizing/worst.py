"""Positions of all switches in which each wire, fuse, contact and channel carries most.

Behind one protection branches are nearly independent: what a part carries is the sum of what takes
current over it, and which of that can be on together is decided by the positions that its ways
need. So the worst positions of each part are found by choosing ways that agree and that add up to
most (exact), with nothing else switched on: then least is lost in the trunk, and
volts and amps are highest. The solver then says what flows in them.
"""

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

from circuitry.build.kinds import SWITCH_KINDS, relay_row
from circuitry.build.model import Build, Part, Terminal
from circuitry.catalogue import catalogue
from circuitry.network.equations import Vector
from circuitry.network.laws import rated_current_a
from circuitry.network.paths import Path, Paths, Step, paths_of, state_of
from circuitry.network.state import State, Supply, position_of
from circuitry.progress import told

MOST_TRIED = 20_000
MOST_VISITS = 800_000
"""Terminals that may be visited for all ways of a build together; a car takes a third of it."""
MORE, LEAST_MORE_A = 1.005, 0.05
"""By how much a part must carry more in other positions for these to be looked at too."""
MORE_LOADS, LEAST_LOAD_A = 1.03, 0.5
"""By how much more load a part must have on it; what coils take decides no size."""
ALIKE = 1.003
"""Currents that differ by less are held by the same state."""
RUNNING, RESTING = Supply(14.4, 1e-4), Supply(12.0, 1e-4)
"""Engine running and engine off."""
LEAST_OHM = 1e-3
DRAWS_MORE_WHEN_LOW = "constant power"


@dataclass(frozen=True)
class Taker:
    """A part that takes current between two terminals, either way round: a load, a coil, a
    resistor. What it takes when it is fed backwards is counted like the other."""

    part: str
    ends: tuple[Terminal, Terminal]
    amps: float
    more_when_low: bool = False


@dataclass(frozen=True)
class Branch:
    """One taker on a part: what it draws, and the positions of each of its ways over that part."""

    amps: float
    ways: tuple[Mapping[str, str], ...]


Carrier = tuple[str, ...]
"""What carries: the kind of step that it is, its part or wire, and which contact or output."""


@dataclass(frozen=True)
class WorstPositions:
    """For each carrier the state in which it carries most, and what the loads on it take there.

    ``unsearched`` are the loads for which the search for all of that gave up.
    """

    states: tuple[State, ...]
    of: Mapping[Carrier, tuple[int, float]]
    unsearched: frozenset[str]

    def unforeseen(self, foreseen_a: Mapping[Carrier, float]) -> set[int]:
        """Numbers of the states in which some carrier has more loads on it than was foreseen."""
        return {
            number
            for carrier, (number, amps) in self.of.items()
            if amps > foreseen_a.get(carrier, 0.0) * MORE_LOADS + LEAST_LOAD_A
        }


def worst_positions(build: Build) -> WorstPositions:
    """The states in which each part of a build carries most.

    Positions that short the battery size nothing, and are left out.
    """
    paths = paths_of(build)
    takers = {taker.part: taker for taker in _takers(build)}
    on: dict[Carrier, dict[str, list[Path]]] = {}
    unsearched: set[str] = set()
    left = MOST_VISITS
    for taker in told("Looking for every way", list(takers.values())):
        for ends in (taker.ends, taker.ends[::-1]):
            ways = paths.ways(*ends, left)
            left -= ways.visited
            if ways.gave_up:
                unsearched.add(taker.part)
            for way in ways.each:
                for carrier in carriers(way):
                    on.setdefault(carrier, {}).setdefault(taker.part, []).append(way)
    states: dict[object, tuple[int, State]] = {}
    of: dict[Carrier, tuple[int, float]] = {}
    known: dict[object, tuple[int, float] | None] = {}
    for carrier, parts in told("Looking for the worst positions", list(on.items())):
        same = frozenset((part, tuple(map(id, ways))) for part, ways in parts.items())
        if same not in known:
            branches = {
                part: Branch(takers[part].amps, tuple(way.positions for way in ways))
                for part, ways in parts.items()
            }
            positions, chosen, whole = most_together(branches)
            if not whole:
                unsearched |= parts.keys()
            amps = sum(takers[part].amps for part in chosen)
            low_a = sum(takers[part].amps for part in chosen if takers[part].more_when_low)
            asked = state_of(build, positions)
            supply = RESTING if 2 * low_a > amps else RUNNING
            state = State(asked.key, asked.switches, supply, values=asked.values)
            sound = not _shorted(build, paths, state)
            key = state.key, frozenset(state.switches.items()), supply, *state.values.items()
            number, _ = states.setdefault(key, (len(states), state))
            known[same] = (number, amps) if sound else None
        worst = known[same]
        if worst is not None:
            of[carrier] = worst
    loads = {load.id for load in build.parts_of_kind("load")}
    each = tuple(state for _, state in states.values())
    return WorstPositions(each, of, frozenset(unsearched & loads))


def foreseen_a(build: Build, ways: Iterable[Iterable[tuple[str, Path]]]) -> dict[Carrier, float]:
    """What the loads on each carrier take at most in some states; each is given as its loads and
    their ways."""
    amps = {load.id: rated_current_a(load) for load in build.parts_of_kind("load")}
    most: dict[Carrier, float] = {}
    for state in ways:
        sums: dict[Carrier, float] = {}
        for load, way in state:
            for carrier in carriers(way):
                sums[carrier] = sums.get(carrier, 0.0) + amps[load]
        for carrier, total_a in sums.items():
            most[carrier] = max(most.get(carrier, 0.0), total_a)
    return most


def _takers(build: Build) -> Iterator[Taker]:
    for load in build.parts_of_kind("load"):
        low = catalogue().loads[load.catalogue or ""].kind == DRAWS_MORE_WHEN_LOW
        yield _taker(load, "+", "-", rated_current_a(load), low)
    for relay in build.parts_of_kind("relay"):
        yield _taker(relay, "86", "85", RUNNING.emf_v / relay_row(relay).coil_ohm_12v)
    for part in build.parts_of_kind("resistor"):
        ohm = max(part.number("resistance_ohm", 1.0), LEAST_OHM)
        yield _taker(part, "1", "2", RUNNING.emf_v / ohm)


def _taker(part: Part, one: str, other: str, amps: float, low: bool = False) -> Taker:
    return Taker(part.id, (Terminal(part.id, one), Terminal(part.id, other)), amps, low)


def most_together(
    branches: Mapping[str, Branch],
) -> tuple[Mapping[str, str], tuple[str, ...], bool]:
    """Positions in which the branches that are on add up to most, which those are, and whether the
    search came to its end.

    >>> left, right = Branch(2.0, ({"turn": "left"},)), Branch(3.0, ({"turn": "right"},))
    >>> most_together({"left": left, "right": right})
    ({'turn': 'right'}, ('right',), True)
    """
    budget = [MOST_TRIED]
    best = _most({name: (row.amps, row.ways) for name, row in branches.items()}, budget)
    return best.positions, best.chosen, budget[0] > 0


@dataclass(frozen=True)
class _Best:
    amps: float
    positions: Mapping[str, str]
    chosen: tuple[str, ...]

    def plus(self, other: "_Best") -> "_Best":
        positions = {**self.positions, **other.positions}
        return _Best(self.amps + other.amps, positions, (*self.chosen, *other.chosen))


_Open = Mapping[str, tuple[float, tuple[Mapping[str, str], ...]]]
NOTHING = _Best(0.0, {}, ())


def _most(branches: _Open, budget: list[int]) -> _Best:
    """What is on whatever the others do; then each knot of branches that contend for a switch by
    itself; of a knot, the switch that most contend for in each of its positions."""
    budget[0] -= 1
    if budget[0] <= 0:
        return NOTHING
    asked: dict[str, set[str]] = {}
    for _, ways in branches.values():
        for way in ways:
            for part, position in way.items():
                asked.setdefault(part, set()).add(position)
    contended = {part for part, positions in asked.items() if len(positions) > 1}
    best, knotted = NOTHING, {}
    for name, (amps, ways) in branches.items():
        free = next((way for way in ways if contended.isdisjoint(way)), None)
        if free is None:
            knotted[name] = amps, ways
        else:
            best = best.plus(_Best(amps, free, (name,)))
    for knot in _knots(knotted, contended):
        best = best.plus(_of_knot(knot, contended, budget))
    return best


def _of_knot(knot: _Open, contended: set[str], budget: list[int]) -> _Best:
    parts = Counter(
        part
        for _, ways in knot.values()
        for part in {part for way in ways for part in way if part in contended}
    )
    part = max(parts, key=lambda name: (parts[name], name))
    asked = dict.fromkeys(way[part] for _, ways in knot.values() for way in ways if part in way)
    best = NOTHING
    for position in asked:
        left = {}
        for name, (amps, ways) in knot.items():
            agreeing = tuple(
                {other: at for other, at in way.items() if other != part}
                for way in ways
                if way.get(part, position) == position
            )
            if agreeing:
                left[name] = amps, agreeing
        found = _most(left, budget)
        if found.amps > best.amps:
            best = _Best(found.amps, {**found.positions, part: position}, found.chosen)
    return best


def _knots(branches: _Open, contended: set[str]) -> Iterator[_Open]:
    """Branches that contend for some switch with each other, apart from those that do not."""
    left = dict(branches)
    while left:
        name, row = next(iter(left.items()))
        del left[name]
        knot, parts, growing = {name: row}, _parts(row[1], contended), True
        while growing:
            joined = [n for n, (_, ways) in left.items() if parts & _parts(ways, contended)]
            for other in joined:
                knot[other] = left.pop(other)
                parts |= _parts(knot[other][1], contended)
            growing = bool(joined)
        yield knot


def _parts(ways: tuple[Mapping[str, str], ...], contended: set[str]) -> set[str]:
    return {part for way in ways for part in way if part in contended}


def carriers(way: Path) -> list[Carrier]:
    """What a way leads over, each contact and each output for itself."""
    return list(dict.fromkeys(_carrier(step) for step in way.steps))


def _carrier(step: Step) -> Carrier:
    if step.kind not in ("contact", "output"):
        return step.kind, step.owner
    return (step.kind, step.owner, *sorted((str(step.from_terminal), str(step.to_terminal))))


def _shorted(build: Build, paths: Paths, state: State) -> bool:
    if paths.short() is None:
        return False
    switches = build.parts_of_kind(*SWITCH_KINDS)
    return paths.short({part.id: position_of(part, state) for part in switches}) is not None


def packed(states: Iterable[tuple[State, float]], most_a: float) -> list[State]:
    """States put together where their positions agree, as long as they take little together; each
    is given with what it takes.

    With little more on, little more is lost in the trunk: each part carries nearly what it would
    with nothing else on.
    """
    bins: list[tuple[State, float]] = []
    for state, amps in sorted(states, key=lambda pair: -pair[1]):
        for at, (other, taken_a) in enumerate(bins):
            if taken_a + amps <= most_a and _agree(state, other):
                together = replace(other, switches={**other.switches, **state.switches})
                bins[at] = (
                    replace(together, values={**other.values, **state.values}),
                    taken_a + amps,
                )
                break
        else:
            bins.append((state, amps))
    return [state for state, _ in bins]


def _agree(one: State, other: State) -> bool:
    return (one.key, one.supply) == (other.key, other.supply) and all(
        there.get(name, at) == at
        for here, there in _positions(one, other)
        for name, at in here.items()
    )


def _positions(one: State, other: State) -> list[tuple[Mapping[str, Any], Mapping[str, Any]]]:
    return [(one.switches, other.switches), (one.values, other.values)]


def fewest_that_tell(design_a: Vector, worst_a: Vector) -> list[int]:
    """Numbers of few states that hold the most of every part that carries more in one of them than
    by design; ``design_a`` is the most of each part, ``worst_a`` by state and part.

    The state that holds most of the rest is taken next, until none is left (greedy set cover).
    """
    most_a = worst_a.max(axis=0)
    more = most_a > design_a * MORE + LEAST_MORE_A
    holds = worst_a[:, more] >= most_a[more] / ALIKE
    taken = []
    while holds.size and holds.any():
        best = int(holds.sum(axis=1).argmax())
        taken.append(best)
        holds = holds[:, ~holds[best]]
    return taken
