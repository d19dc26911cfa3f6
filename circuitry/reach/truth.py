"""Truth tables: which loads live in which positions of the switches that concern a circuit.

Which switches concern it is read from the graph of paths; what lives is solved, state by state.
"""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import product

from circuitry.design.logic import VALUES, flashes, thresholds
from circuitry.design.model import KEY_POSITIONS, Build, Part
from circuitry.design.state import State
from circuitry.devices import electronics_of
from circuitry.devices.electronics import on, outputs_of
from circuitry.devices.load import law_of_load
from circuitry.errors import UnusableInput
from circuitry.network.network import Network, Solution
from circuitry.reach.paths import paths_of

MOST_STATES = 96
DIM_PERCENT = 40.0


@dataclass(frozen=True)
class Lever:
    """A switch, the key, a sensor or a value that concerns a circuit, with its positions."""

    part: str
    name: str
    positions: tuple[str, ...]


@dataclass(frozen=True)
class Outcome:
    """What a load does: off, dim, on, flashing or reverse; with its volts and amps while lit."""

    word: str
    volts: float
    amps: float


@dataclass(frozen=True)
class TruthRow:
    """Positions of the levers, several where the outcome is the same, and what each load does."""

    positions: tuple[tuple[str, ...], ...]
    outcomes: tuple[Outcome, ...]


@dataclass(frozen=True)
class TruthTable:
    """Rows over levers and loads; ``held`` are levers left at rest because there were too many."""

    levers: tuple[Lever, ...]
    held: tuple[Lever, ...]
    loads: tuple[str, ...]
    rows: tuple[TruthRow, ...]


def levers_of(build: Build, loads: Iterable[Part]) -> list[Lever]:
    """Everything whose position can decide whether these loads live, the key first."""
    found = paths_of(build).concerning(tuple(load.id for load in loads))
    levers = []
    for owner in (*(part for part in build.parts if part in found), *VALUES):
        if owner not in found:
            continue
        part = build.parts.get(owner)
        if owner in VALUES:
            levers.append(Lever(owner, owner.replace("_", " "), _samples(build, owner)))
        elif part is not None and part.kind == "key switch":
            levers.insert(0, Lever(owner, "Key", KEY_POSITIONS))
        elif part is not None and part.contacts:
            positions = tuple(row.name for row in part.contacts.positions)
            levers.append(Lever(owner, part.name, positions))
    return levers


def truth_table(
    network: Network, loads: tuple[Part, ...], vary: tuple[str, ...] | None = None
) -> TruthTable:
    """What the loads of a sized build do in every combination of the levers that concern them.

    ``vary`` are the levers to move, the others rest; None moves as many as fit. Raises
    UnusableInput when they have more than MOST_STATES positions together.
    """
    build = network.build
    levers = levers_of(build, loads)
    moved = [row for row in levers if row.part in vary] if vary is not None else _fitting(levers)
    held = tuple(row for row in levers if row not in moved)
    count = math.prod(len(lever.positions) for lever in moved)
    if count > MOST_STATES:
        names = ", ".join(lever.name for lever in moved)
        raise UnusableInput(
            "too-many-positions",
            moved[0].part,
            f"{names} have {count} positions together; a table holds at most {MOST_STATES}. Leave "
            "some of them at rest.",
        )
    combinations = list(product(*(lever.positions for lever in moved)))
    lit = network.solve_many([_state(moved, at) for at in combinations], "Solving every position")
    rows = [
        TruthRow(tuple((at,) for at in positions), tuple(outcomes))
        for positions, outcomes in zip(combinations, _outcomes(network, loads, lit), strict=True)
    ]
    merged = _merged(rows, len(moved))
    return _telling(TruthTable(tuple(moved), held, tuple(load.id for load in loads), tuple(merged)))


def _telling(table: TruthTable) -> TruthTable:
    """The table without levers that turned out to make no difference."""
    telling = [
        column
        for column, lever in enumerate(table.levers)
        if any(row.positions[column] != lever.positions for row in table.rows)
    ]
    rows = (
        replace(row, positions=tuple(row.positions[column] for column in telling))
        for row in table.rows
    )
    levers = tuple(table.levers[column] for column in telling)
    return replace(table, levers=levers, rows=tuple(rows))


def _fitting(levers: list[Lever]) -> list[Lever]:
    fitting: list[Lever] = []
    for lever in levers:
        count = math.prod(len(row.positions) for row in [*fitting, lever])
        if count <= MOST_STATES:
            fitting.append(lever)
    return fitting


def _samples(build: Build, value: str) -> tuple[str, ...]:
    """A figure below the least threshold that conditions compare with, and one above each."""
    limits = {
        limit
        for part in build.parts.values()
        for _, condition in outputs_of(part)
        for limit in thresholds(condition, value)
    }
    if value == "engine_rpm":
        limits.add(600.0)
    if not limits:
        return (f"{VALUES[value]:g}",)
    points = sorted(limits)
    above = [
        min(low + max(5.0, 0.05 * low), (low + high) / 2)
        for low, high in zip(points, [*points[1:], math.inf], strict=True)
    ]
    below = min(VALUES[value], points[0])
    return tuple(f"{point:g}" for point in (below, *above))


def _state(levers: list[Lever], positions: tuple[str, ...]) -> State:
    key, switches, values = "off", {}, {}
    for lever, at in zip(levers, positions, strict=True):
        if lever.part in VALUES:
            values[lever.part] = float(at)
        elif lever.positions == KEY_POSITIONS:
            key = at
        else:
            switches[lever.part] = at
    return State(key, switches, values=values)


def _outcomes(
    network: Network, loads: tuple[Part, ...], lit: Sequence[Solution]
) -> Iterator[list[Outcome]]:
    """What each load does in each state, which is solved again with flashers dark where one, or an
    output that flashes, works."""
    outputs = {
        (part.id, on(name))
        for part in electronics_of(network.build)
        for name, condition in outputs_of(part)
        if flashes(condition)
    }
    flashing = [
        number
        for number, row in enumerate(lit)
        if outputs & row.closed
        or any(flasher.works != "at rest" for flasher in row.flashers.values())
    ]
    again = network.solve_many([replace(lit[number].state, phase="dark") for number in flashing])
    dark = dict(zip(flashing, again, strict=True))
    for number, row in enumerate(lit):
        yield [_outcome(load, row, dark.get(number)) for load in loads]


def _outcome(load: Part, lit: Solution, dark: Solution | None) -> Outcome:
    word = _word(load, lit)
    if dark is not None:
        in_the_dark = _word(load, dark)
        if word != in_the_dark and "off" in (word, in_the_dark):
            word = "flashing"
    reading = lit.loads[load.id]
    return Outcome(word, reading.volts, reading.amps)


def _word(load: Part, solution: Solution) -> str:
    reading = solution.loads[load.id]
    if not reading.is_on:
        return "off"
    if reading.output_percent < DIM_PERCENT:
        return "dim"
    turns = type(law_of_load(load)).__name__.endswith("Motor")
    return "reverse" if turns and reading.volts < 0 else "on"


def _merged(rows: list[TruthRow], levers: int) -> list[TruthRow]:
    """Rows that differ in one lever only and have the same outcomes, as one row; the last first."""
    for lever in reversed(range(levers)):
        together: dict[object, TruthRow] = {}
        for row in rows:
            others = (*row.positions[:lever], *row.positions[lever + 1 :])
            words = tuple(outcome.word for outcome in row.outcomes)
            known = together.get((others, words))
            if known is None:
                together[others, words] = row
                continue
            positions = list(known.positions)
            positions[lever] = (*positions[lever], *row.positions[lever])
            together[others, words] = replace(known, positions=tuple(positions))
        rows = list(together.values())
    return rows


def words_in(table: TruthTable, positions: Mapping[str, str]) -> Mapping[str, str]:
    """What each load does with the levers at these positions; levers not named are at rest."""
    at = tuple(positions.get(lever.part, lever.positions[0]) for lever in table.levers)
    for row in table.rows:
        if all(here in choices for here, choices in zip(at, row.positions, strict=True)):
            words = (outcome.word for outcome in row.outcomes)
            return dict(zip(table.loads, words, strict=True))
    raise KeyError(at)
