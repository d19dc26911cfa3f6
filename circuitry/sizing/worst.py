"""Positions of all switches in which each wire, fuse, contact and channel carries most.

Behind one protection branches are nearly independent: what a part carries is the sum of what takes
current over it, and which of that can be on together is decided by the positions that its ways
need. So the worst positions of each part are found by choosing ways that agree and that add up to
most (exact), once for each position of the key that allows nearly as much. Volts, and so amps, are
highest where least is lost in the trunk: so each is tried with everything else at rest and with
everything else moved to where it takes least. The solver says what flows in all of them.
"""

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import product
from typing import Any

import numpy as np

from circuitry.catalogue import catalogue
from circuitry.design.model import KEY_POSITIONS, Build, Part, Pin, Terminal, Way
from circuitry.design.state import State, Supply, position_of
from circuitry.devices import electronics_of, switches_of
from circuitry.devices.electronics import supply_of
from circuitry.devices.load import rated_current_a
from circuitry.devices.relay import relay_row
from circuitry.network import Network
from circuitry.network.equations import Vector
from circuitry.network.network import Settled
from circuitry.progress import told
from circuitry.reach.paths import Paths, paths_of, state_of
from circuitry.reach.ways import Path, Step
from circuitry.sizing.states import DESIGN_SUPPLIES

MOST_TRIED = 20_000
MOST_VISITS = 800_000
"""Terminals that may be visited for all ways of a build together; a car takes a third of it."""
MORE = 1.002
"""By how much a part must carry more in other positions for these to count."""
ALIKE = 1.002
"""Currents that differ by less are held by the same state."""
NEARLY = 0.95
"""Positions of the key in which the loads on a part take this share of their most are tried: more
is lost in the trunk in one position of the key than in another."""
QUIETER = 0.998
"""The share of the battery's current that must be left for a switch to be moved to where less is
on."""
LEAST_RESTING_A = 0.5
"""What a car must take at rest for its switches to be looked at one by one for what takes less."""
RESTING, RUNNING = DESIGN_SUPPLIES
"""Engine running and engine off."""
LEAST_OHM = 1e-3
NOTABLY, NOTHING_A = 1.05, 0.05
"""By how much a part must carry more in a position of the key for it to be told there."""
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
class Asked:
    """Positions in which some part carries most, and what the loads on it take there."""

    state: State
    amps: float


@dataclass(frozen=True)
class WorstPositions:
    """The states to try, and for each carrier the switches that its worst positions ask for.

    ``guards`` are, for each wire over which something returns, the last fuses and outputs on the
    way to it. ``unsearched`` are the loads for which the search for all of that gave up.
    """

    asked: tuple[Asked, ...]
    mattering: Mapping[Carrier, frozenset[str]]
    guards: Mapping[str, frozenset[Step]]
    unsearched: frozenset[str]


def worst_positions(build: Build) -> WorstPositions:
    """The positions in which each part of a build carries most.

    Positions that short the battery size nothing, and are left out.
    """
    paths = paths_of(build)
    takers = {taker.part: taker for taker in _takers(build)}
    on: dict[Carrier, dict[str, list[Path]]] = {}
    guards: dict[str, set[Step]] = {}
    unsearched: set[str] = set()
    left = MOST_VISITS
    for taker in told("Looking for every way", list(takers.values())):
        for ends in (taker.ends, taker.ends[::-1]):
            ways = paths.ways(*ends, left)
            left -= ways.visited
            if ways.gave_up:
                unsearched.add(taker.part)
            for way in ways.each:
                _guard(guards, way)
                for carrier in carriers(way):
                    on.setdefault(carrier, {}).setdefault(taker.part, []).append(way)
    for part in electronics_of(build):
        _guard_electronics(guards, paths, part)
    keys = [key.id for key in build.parts_of_kind("key switch")]
    asked: dict[object, Asked] = {}
    mattering: dict[Carrier, frozenset[str]] = {}
    known: dict[object, frozenset[str]] = {}
    for carrier, parts in told("Looking for the worst positions", list(on.items())):
        same = frozenset((part, tuple(map(id, ways))) for part, ways in parts.items())
        if same not in known:
            branches = {
                part: Branch(takers[part].amps, tuple(way.positions for way in ways))
                for part, ways in parts.items()
            }
            switches: set[str] = set()
            for positions, chosen, whole in _by_key(branches, keys):
                if not whole:
                    unsearched |= parts.keys()
                switches |= positions.keys()
                for row in _asked(build, positions, [takers[part] for part in chosen]):
                    asked.setdefault(_identity(row.state), row)
            known[same] = frozenset(switches)
        mattering[carrier] = known[same]
    loads = {load.id for load in build.parts_of_kind("load")}
    sound = tuple(row for row in asked.values() if not _shorted(build, paths, row.state))
    guarding = {wire: frozenset(steps) for wire, steps in guards.items()}
    return WorstPositions(sound, mattering, guarding, frozenset(unsearched & loads))


def _guard(guards: dict[str, set[Step]], way: Path) -> None:
    """What the last protection on a way lets pass comes back over each wire of its return."""
    last = [step for step in way.feed if step.kind in ("fuse", "output")][-1:]
    for step in way.back:
        if step.kind == "wire":
            guards.setdefault(step.owner, set()).update(last)


def _guard_electronics(guards: dict[str, set[Step]], paths: Paths, part: Part) -> None:
    """What returns from a box or module is what its fuse lets pass; where its outputs limit what
    they pass, it is no more than one of them does that has failed."""
    ends = supply_of(part)
    if ends is None:
        return
    supply, ground = (Terminal(part.id, name) for name in ends)
    outputs = {
        edge.step
        for edge in paths.edges.get(paths.lands(supply), ())
        if edge.step.kind == "output" and edge.step.owner == part.id
    }
    rows: list[Way | Pin] = [*part.ways, *part.pins]
    limited = {row.name for row in rows if row.limit_a is not None}
    limiting = {step for step in outputs if step.to_terminal.name in limited}
    for way in paths.ways(supply, ground, MOST_VISITS).each:
        if outputs and limiting == outputs:
            for step in way.back:
                if step.kind == "wire":
                    guards.setdefault(step.owner, set()).update(limiting)
        else:
            _guard(guards, way)


_Together = tuple[Mapping[str, str], tuple[str, ...], bool]


def _by_key(branches: Mapping[str, Branch], keys: Iterable[str]) -> Iterator[_Together]:
    """The most together in each position of the key that some way asks for, where it is nearly
    the most of all."""
    found: list[tuple[float, _Together]] = []
    for key in keys:
        ways = [way for branch in branches.values() for way in branch.ways]
        for at in dict.fromkeys(way[key] for way in ways if key in way):
            agreeing = {
                name: Branch(branch.amps, fitting)
                for name, branch in branches.items()
                if (fitting := tuple(way for way in branch.ways if way.get(key, at) == at))
            }
            positions, chosen, whole = most_together(agreeing)
            amps = sum(branches[name].amps for name in chosen)
            found.append((amps, ({**positions, key: at}, chosen, whole)))
    if not found:
        yield most_together(branches)
    most_a = max((amps for amps, _ in found), default=0.0)
    yield from (row for amps, row in found if amps >= NEARLY * most_a)


def _asked(build: Build, positions: Mapping[str, str], chosen: list[Taker]) -> Iterator[Asked]:
    """These positions with the engine running, and off where what takes more then is on."""
    amps = sum(taker.amps for taker in chosen)
    state = state_of(build, positions)
    yield Asked(replace(state, supply=RUNNING), amps)
    if any(taker.more_when_low for taker in chosen):
        yield Asked(replace(state, supply=RESTING), amps)


def _identity(state: State) -> object:
    switches = frozenset(state.switches.items())
    return state.key, switches, state.supply, frozenset(state.values.items())


Resting = Mapping[tuple[str, Supply | None], Settled]


def resting_in(network: Network, before: Resting | None = None) -> Resting:
    """The car with every switch at rest, by the position of the key and the supply; what does not
    settle is left out. ``before`` is the same in other sizes."""
    asked = list(product(KEY_POSITIONS, DESIGN_SUPPLIES))
    states = [State(key, supply=supply) for key, supply in asked]
    tried = network.try_many(states, [before.get(at) for at in asked] if before else None)
    rows = zip(asked, tried, strict=True)
    return {at: row for at, row in rows if isinstance(row, Settled)}


def quieter(network: Network, states: Sequence[State], resting: Resting) -> list[State]:
    """Those of the states that change, with every switch that they do not name where least is
    on."""
    keys = dict.fromkeys(state.key for state in states)
    quiet = _quiet(network, [row for key in keys if (row := resting.get((key, RUNNING)))])
    return [
        replace(state, switches={**moves, **state.switches})
        for state in states
        if (moves := quiet.get(state.key, {})) and not moves.keys() <= state.switches.keys()
    ]


def _quiet(network: Network, resting: Sequence[Settled]) -> Mapping[str, Mapping[str, str]]:
    """For each position of the key those of the switches in which the car takes less than with
    them at rest, where it takes anything worth less."""
    moves = [
        {part.id: position.name}
        for part in switches_of(network.build)
        if part.contacts and part.kind != "key switch"
        for position in part.contacts.positions[1:]
    ]
    some = [row for row in resting if network.battery_a(row) > LEAST_RESTING_A]
    asked = [(at_rest, move) for at_rest in some for move in moves]
    states = [State(at_rest.state.key, move, RUNNING) for at_rest, move in asked]
    tried = network.try_many(states, [at_rest for at_rest, _ in asked], going_on=True)
    taken = [
        (network.battery_a(row), number)
        for number, row in enumerate(tried)
        if isinstance(row, Settled)
    ]
    quiet: dict[str, dict[str, str]] = {}
    for taken_a, number in sorted(taken):
        at_rest, move = asked[number]
        if taken_a < network.battery_a(at_rest) * QUIETER:
            key = at_rest.state.key
            quiet[key] = {**move, **quiet.get(key, {})}
    return quiet


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
    switches = switches_of(build)
    return paths.short({part.id: position_of(part, state) for part in switches}) is not None


def packed(rows: Iterable[Asked], most_a: float) -> list[State]:
    """States put together where their positions agree, as long as they take little together.

    With little more on, little more is lost in the trunk: each part carries nearly what it would
    with nothing else on.
    """
    bins: list[Asked] = []
    for row in sorted(rows, key=lambda row: -row.amps):
        for at, other in enumerate(bins):
            if other.amps + row.amps <= most_a and _agree(row.state, other.state):
                switches = {**other.state.switches, **row.state.switches}
                values = {**other.state.values, **row.state.values}
                state = replace(other.state, switches=switches, values=values)
                bins[at] = Asked(state, other.amps + row.amps)
                break
        else:
            bins.append(row)
    return [row.state for row in bins]


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
    more = most_a > design_a * MORE
    holds = worst_a[:, more] >= most_a[more] / ALIKE
    taken = []
    while holds.size and holds.any():
        best = int(holds.sum(axis=1).argmax())
        taken.append(best)
        holds = holds[:, ~holds[best]]
    return taken


def fullest(
    network: Network, designed: Sequence[Settled], others: Sequence[Settled]
) -> tuple[State, ...]:
    """Few of the other states, by position of the key, in which parts carry notably more than in
    the design states of that position."""
    most_a: dict[str, Vector] = {}
    for row in designed:
        here_a = np.abs(network.carried_a(row))
        most_a[row.state.key] = np.maximum(here_a, most_a.get(row.state.key, 0.0))
    found = []
    for row in sorted(others, key=network.battery_a, reverse=True):
        here_a, known_a = np.abs(network.carried_a(row)), most_a.get(row.state.key, 0.0)
        if (here_a > NOTABLY * known_a + NOTHING_A).any():
            most_a[row.state.key] = np.maximum(here_a, known_a)
            found.append(row.state)
    return tuple(found)
