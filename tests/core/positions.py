"""Random positions of everything that a driver, a sensor or a hand can move."""

import random
from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

import numpy as np

from circuitry.design.model import KEY_POSITIONS, Build, Part, Terminal, Wire
from circuitry.design.state import Supply
from circuitry.devices import switches_of
from circuitry.errors import UnusableInput
from circuitry.network import Network, State
from circuitry.sizing.duty import Duty
from circuitry.sizing.result import Sizing
from circuitry.sizing.states import starts

LEAST_TOLD_A = 0.05
MORE = 1.001
"""Sizes are settled to within a thousandth."""


def random_states(build: Build, count: int, seed: int) -> list[State]:
    """States at rest, with everything moved and all between, engine off and running."""
    draw = random.Random(seed)
    switches = [part for part in switches_of(build) if part.contacts]
    states = []
    for _ in range(count):
        share = draw.random()
        moved = {
            part.id: draw.choice(part.contacts.positions).name
            for part in switches
            if part.kind != "key switch" and part.contacts and draw.random() < share
        }
        values = {"coolant_c": draw.choice((20.0, 110.0)), "speed_kmh": draw.choice((0.0, 50.0))}
        supply = Supply(draw.choice((12.0, 14.4)), 1e-4)
        states.append(State(draw.choice(KEY_POSITIONS), moved, supply, values=values))
    return states


@dataclass(frozen=True)
class Use:
    """How far the chosen sizes of a build are used in many positions.

    ``blown`` are fuses that carry more than their rating, ``used`` is the largest share of what a
    fuse or wire that is not pinned may carry for ever, by id; cranking aside, which lasts seconds.
    ``over`` is the largest current of each fuse and wire against that which was told.
    """

    blown: set[str]
    used: dict[str, float]
    over: dict[str, float]


def use(sizing: Sizing, states: list[State]) -> Use:
    """What the solver finds in these states, in a cold car."""
    build = sizing.build
    network, duty = Network(build), Duty(build)
    rows = network.settle_many(states)
    starters = [at for at, load in enumerate(build.parts_of_kind("load")) if starts(load)]
    cranked = [(np.abs(network.loads_a(row)[starters]) > 20).any() for row in rows]
    lasting = [row for row, turns in zip(rows, cranked, strict=True) if not turns]
    lasting_a = np.abs(duty.lasting_a(network, lasting)).max(axis=0)
    ids = [*sizing.wires, *sizing.fuses]
    most_a = np.abs([[*network.wire_a(row), *network.fuse_a(row)] for row in rows]).max(axis=0)
    said = {**sizing.wires, **sizing.fuses}
    return Use(
        {
            fuse
            for fuse in sizing.fuses
            if most_a[ids.index(fuse)] > MORE * sizing.fuses[fuse].rating_a
        },
        {
            name: lasting_a[at] / said[name].carries_a
            for at, name in enumerate(ids)
            if not said[name].pinned
        },
        {name: most_a[at] / max(said[name].current_a, LEAST_TOLD_A) for at, name in enumerate(ids)},
    )


def spoiled(build: Build, wire: Wire) -> Iterator[tuple[str, Build]]:
    """The build with one thing wrong at a wire: a diode in it, either way round, the wire open,
    thin and long, or a short from where it starts."""
    for first, last in (("anode", "cathode"), ("cathode", "anode")):
        diode = Part("odd", "diode", "Odd diode", build.parts[wire.from_terminal.part].place)
        before = replace(wire, to_terminal=Terminal("odd", first))
        after = replace(wire, id="odd-wire", label="odd", from_terminal=Terminal("odd", last))
        wires = {**build.wires, wire.id: before, after.id: after}
        yield "diode", replace(build, parts={**build.parts, "odd": diode}, wires=wires)
    left = {name: row for name, row in build.wires.items() if name != wire.id}
    yield "open", replace(build, wires=left)
    thin = replace(wire, size="0.5 mm²", length_m=30.0)
    yield "thin", replace(build, wires={**build.wires, wire.id: thin})
    short = replace(wire, id="odd-wire", label="odd", to_terminal=Terminal("battery", "-"))
    yield "short", replace(build, wires={**build.wires, short.id: short})


def unsettled(build: Build, wires: Iterable[Wire], states: list[State]) -> tuple[int, Counter[str]]:
    """How many states of a sized build were tried with each wire spoiled in each way, and the codes
    of those that did not settle."""
    tried, codes = 0, Counter[str]()
    for wire in wires:
        for _, odd in spoiled(build, wire):
            rows = Network(odd).try_many(states)
            tried += len(rows)
            codes.update(row.code for row in rows if isinstance(row, UnusableInput))
    return tried, codes
