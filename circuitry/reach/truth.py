"""Truth tables: which loads live in which positions of the switches that concern a circuit.

Which switches concern it is read from the graph of paths; what lives is solved, state by state.
"""

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import product

import numpy as np

from circuitry.design.logic import VALUES, flashes, thresholds
from circuitry.design.model import KEY_POSITIONS, Build, Part
from circuitry.design.state import State
from circuitry.devices import electronics_of
from circuitry.devices.electronics import on, outputs_of
from circuitry.devices.flasher import flasher_works
from circuitry.devices.moving import LIT
from circuitry.document.checks import check_state
from circuitry.errors import UnusableInput
from circuitry.network.equations import Flags
from circuitry.network.network import OFF_PERCENT, Network, Settled
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
    levers = levers_of(network.build, loads)
    moved = fitting(levers) if vary is None else [row for row in levers if row.part in vary]
    count = math.prod(len(lever.positions) for lever in moved)
    if count > MOST_STATES:
        names = ", ".join(lever.name for lever in moved)
        raise UnusableInput(
            "too-many-positions",
            moved[0].part,
            f"{names} have {count} positions together; a table holds at most {MOST_STATES}. Leave "
            "some of them at rest.",
        )
    held = tuple(row for row in levers if row not in moved)
    (table,) = truth_tables(network, [(loads, moved)])
    return replace(table, held=held)


def truth_tables(
    network: Network, asked: Sequence[tuple[tuple[Part, ...], Sequence[Lever]]]
) -> list[TruthTable]:
    """The tables of several groups of loads, each with the levers that are moved for it; positions
    that several ask for are solved once. Raises UnusableInput where one does not settle."""
    wanted = [list(product(*(lever.positions for lever in levers))) for _, levers in asked]
    states = {
        _lit(levers, at): _state(levers, at)
        for (_, levers), combinations in zip(asked, wanted, strict=True)
        for at in combinations
    }
    for state in states.values():
        check_state(network.build, state)
    words = dict(zip(states, _outcomes(network, list(states.values())), strict=True))
    number = {load: at for at, load in enumerate(network.layout.loads)}
    tables = []
    for (loads, levers), combinations in zip(asked, wanted, strict=True):
        columns = [number[load.id] for load in loads]
        rows = []
        for at in combinations:
            outcomes = words[_lit(levers, at)]
            positions = tuple((here,) for here in at)
            rows.append(TruthRow(positions, tuple(outcomes(column) for column in columns)))
        names = tuple(load.id for load in loads)
        merged = tuple(_merged(rows, len(levers)))
        tables.append(_telling(TruthTable(tuple(levers), (), names, merged)))
    return tables


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


def fitting(levers: Iterable[Lever]) -> list[Lever]:
    """As many of these levers, in their order, as a table holds the positions of."""
    found: list[Lever] = []
    for lever in levers:
        count = math.prod(len(row.positions) for row in [*found, lever])
        if count <= MOST_STATES:
            found.append(lever)
    return found


def _lit(levers: Sequence[Lever], positions: Sequence[str]) -> frozenset[tuple[str, str]]:
    """The levers that are not at rest, by which a state is known."""
    rows = zip(levers, positions, strict=True)
    return frozenset((row.part, at) for row, at in rows if at != row.positions[0])


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


def _state(levers: Sequence[Lever], positions: Sequence[str]) -> State:
    key, switches, values = "off", {}, {}
    for lever, at in zip(levers, positions, strict=True):
        if lever.part in VALUES:
            values[lever.part] = float(at)
        elif lever.positions == KEY_POSITIONS:
            key = at
        else:
            switches[lever.part] = at
    return State(key, switches, values=values)


def _outcomes(network: Network, states: Sequence[State]) -> list[Callable[[int], Outcome]]:
    """What each load does in each state, by its number; states in which a flasher, or an output
    that flashes, works are solved with it dark too."""
    lit = network.settle_many(states, doing="Solving every position")
    flashing = np.array([_flashes(network, row) for row in lit], dtype=bool)
    rows = np.flatnonzero(flashing).tolist()
    dark = network.settle_many([replace(states[row], phase="dark") for row in rows])
    turns = network.turns()
    lit_words = [_Words(network, row, turns) for row in lit]
    dark_words = dict(zip(rows, (_Words(network, row, turns) for row in dark), strict=True))
    return [partial(_outcome, words, dark_words.get(n)) for n, words in enumerate(lit_words)]


def _loads(network: Network) -> list[Part]:
    return [network.build.parts[load] for load in network.layout.loads]


def _flashes(network: Network, row: Settled) -> bool:
    """Whether something flashes in a state."""
    build = network.build
    closed = {network.positions[number] for number in np.flatnonzero(row.moved).tolist()}
    if closed & _flashing_outputs(build):
        return True
    owners, rows = network.layout.kind("flasher")
    amps = row.operating.element_a[rows].tolist()
    return any(
        flasher_works(build.parts[owner], abs(amp), (owner, LIT) in closed) != "at rest"
        for owner, amp in zip(owners, amps, strict=True)
    )


def _flashing_outputs(build: Build) -> set[tuple[str, str]]:
    known: set[tuple[str, str]] | None = build.derived.get("outputs that flash")
    if known is None:
        known = build.derived["outputs that flash"] = {
            (part.id, on(name))
            for part in electronics_of(build)
            for name, condition in outputs_of(part)
            if flashes(condition)
        }
    return known


class _Words:
    """What all loads do in one solved state."""

    def __init__(self, network: Network, row: Settled, turns: Flags) -> None:
        self.volts, self.amps = network.load_v(row), network.loads_a(row)
        self.percent = network.layout.load_laws.output_percent(self.volts)
        self.turns = turns

    def word(self, load: int) -> str:
        """off, dim, on or reverse."""
        if self.percent[load] < OFF_PERCENT:
            return "off"
        if self.percent[load] < DIM_PERCENT:
            return "dim"
        return "reverse" if self.turns[load] and self.volts[load] < 0 else "on"


def _outcome(lit: _Words, dark: _Words | None, load: int) -> Outcome:
    word = lit.word(load)
    if dark is not None:
        in_the_dark = dark.word(load)
        if word != in_the_dark and "off" in (word, in_the_dark):
            word = "flashing"
    return Outcome(word, float(lit.volts[load]), float(lit.amps[load]))


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
