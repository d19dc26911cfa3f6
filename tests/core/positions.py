"""Random positions of everything that a driver, a sensor or a hand can move."""

import random

from circuitry.build.kinds import SWITCH_KINDS
from circuitry.build.model import KEY_POSITIONS, Build
from circuitry.network import Solution, State
from circuitry.network.state import Supply
from circuitry.sizing.states import starts


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


def starters_turn(build: Build, solution: Solution) -> bool:
    """Whether the engine is cranked, which lasts seconds."""
    loads = build.parts_of_kind("load")
    return any(solution.loads[load.id].amps > 20 for load in loads if starts(load))
