"""One network asked by many threads at once answers each as it would alone."""

import random
from concurrent.futures import ThreadPoolExecutor
from unittest import TestCase

from circuitry.devices import switches_of
from circuitry.network import Network, State
from tests.core.cars import roadster_sizing

THREADS, QUESTIONS = 8, 400


def questions(seed: int) -> list[State]:
    """Random positions of key and switches; every third with a voltmeter on some wire's ends."""
    build, draw = roadster_sizing().build, random.Random(seed)
    switches = [part for part in switches_of(build) if part.contacts]
    wires = list(build.wires.values())
    asked = []
    for number in range(QUESTIONS):
        set_to = {
            part.id: draw.choice(part.contacts.positions).name
            for part in switches
            if part.kind != "key switch"
        }
        wire = draw.choice(wires)
        meters = ((wire.from_terminal, wire.to_terminal),) if number % 3 == 0 else ()
        key = draw.choice(("off", "accessory", "run", "crank"))
        asked.append(State(key, set_to, meters=meters))
    return asked


class ThreadsTest(TestCase):
    def test_answers_at_once_are_the_answers_alone(self) -> None:
        asked = questions(8)
        network = Network(roadster_sizing().build)
        alone = [network.solve(state) for state in asked]
        fresh = Network(roadster_sizing().build)
        with ThreadPoolExecutor(THREADS) as pool:
            at_once = list(pool.map(fresh.solve, asked))
        for one, many in zip(alone, at_once, strict=True):
            self.assertEqual(one.wire_a, many.wire_a)
            self.assertEqual(one.meters_v, many.meters_v)
            self.assertEqual(one.closed, many.closed)
