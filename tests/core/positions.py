"""Random positions of everything that a driver, a sensor or a hand can move."""

import random
from dataclasses import dataclass

import numpy as np

from circuitry.design.kinds import SWITCH_KINDS
from circuitry.design.model import KEY_POSITIONS, Build
from circuitry.network import Network, State
from circuitry.network.state import Supply
from circuitry.sizing.duty import Duty
from circuitry.sizing.result import Sizing
from circuitry.sizing.states import starts

LEAST_TOLD_A = 0.05
MORE = 1.001
"""Sizes are settled to within a thousandth."""


def random_states(build: Build, count: int, seed: int) -> list[State]:
    """States at rest, with everything moved and all between, engine off and running."""
    draw = random.Random(seed)
    switches = [part for part in build.parts_of_kind(*SWITCH_KINDS) if part.contacts]
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
