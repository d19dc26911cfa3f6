"""Positions of all switches in which each wire, fuse, contact and channel carries most.

Behind one protection branches are nearly independent: what a part carries is the sum of what takes
current over it, and which of that can be on together is decided by the positions that its ways
need. So the worst positions of each part are found by choosing ways that agree and that add up to
most (exact), with nothing else switched on: then least is lost in the trunk, and
volts and amps are highest. The solver then says what flows in them.
"""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from circuitry.build.kinds import SWITCH_KINDS, relay_row
from circuitry.build.model import Build, Part, Terminal
from circuitry.catalogue import catalogue
from circuitry.network.laws import rated_current_a
from circuitry.network.paths import Path, Paths, paths_of, state_of
from circuitry.network.state import State, Supply, position_of
from circuitry.progress import told

MOST_TRIED = 20_000
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


@dataclass(frozen=True)
class WorstPositions:
    """States that between them hold the worst of every part, and the loads for which the search
    for them gave up."""

    states: tuple[State, ...]
    unsearched: frozenset[str]


def worst_positions(build: Build) -> WorstPositions:
    """The states in which each part of a build carries most.

    Positions that short the battery size nothing, and are left out.
    """
    paths = paths_of(build)
    takers = {taker.part: taker for taker in _takers(build)}
    on_part: dict[object, dict[str, list[Path]]] = {}
    unsearched: set[str] = set()
    for taker in told("Looking for every way", list(takers.values())):
        for ends in (taker.ends, taker.ends[::-1]):
            ways, gave_up = paths.ways(*ends)
            if gave_up:
                unsearched.add(taker.part)
            for way in ways:
                for part in _crossed(way):
                    on_part.setdefault(part, {}).setdefault(taker.part, []).append(way)
    found: dict[tuple[frozenset[tuple[str, str]], bool], None] = {}
    seen: set[object] = set()
    for on in told("Looking for the worst positions", list(on_part.values())):
        same = frozenset((name, tuple(map(id, ways))) for name, ways in on.items())
        if same in seen:
            continue
        seen.add(same)
        branches = {
            name: Branch(takers[name].amps, tuple(way.positions for way in ways))
            for name, ways in on.items()
        }
        positions, chosen, whole = most_together(branches)
        if not whole:
            unsearched |= on.keys()
        low_a = sum(takers[name].amps for name in chosen if takers[name].more_when_low)
        mostly_low = 2 * low_a > sum(takers[name].amps for name in chosen)
        found[frozenset(positions.items()), mostly_low] = None
    states = [
        State(state.key, state.switches, RESTING if low else RUNNING, values=state.values)
        for key, low in found
        for state in [state_of(build, dict(key))]
    ]
    sound = (state for state in states if not _shorted(build, paths, state))
    loads = {load.id for load in build.parts_of_kind("load")}
    return WorstPositions(tuple(sound), frozenset(unsearched & loads))


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


def _crossed(way: Path) -> list[object]:
    """What a way leads over: wires and parts, each output of a box for itself."""
    return list(
        dict.fromkeys(
            (step.owner, str(step.to_terminal)) if step.kind == "output" else step.owner
            for step in way.steps
        )
    )


def _shorted(build: Build, paths: Paths, state: State) -> bool:
    if paths.short() is None:
        return False
    switches = build.parts_of_kind(*SWITCH_KINDS)
    return paths.short({part.id: position_of(part, state) for part in switches}) is not None
