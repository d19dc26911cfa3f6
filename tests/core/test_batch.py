"""Many states at once against each by itself, and the elimination against a dense solve."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from circuitry.design.model import Build, Terminal
from circuitry.design.state import Supply
from circuitry.document.reading import from_document
from circuitry.network import Network, State
from circuitry.network.elimination import Elimination
from circuitry.network.network import Settled
from circuitry.sizing import size_build
from tests.core.cars import document, part, relay_parts, roadster_sizing, switch, wire
from tests.core.positions import random_states, unsettled
from tests.core.test_worst import demo


@st.composite
def meshes(draw: st.DrawFn) -> tuple[int, list[tuple[int, int]]]:
    """A number of unknowns, and elements between them or to the reference, which is −1."""
    size = draw(st.integers(1, 12))
    ends = st.integers(-1, size - 1)
    return size, draw(st.lists(st.tuples(ends, ends), min_size=1, max_size=30))


class EliminationTest(TestCase):
    @settings(max_examples=150, deadline=None)
    @given(meshes(), st.integers(1, 5), st.integers(0, 1000))
    def test_each_of_many_matrices_is_solved_as_a_dense_one(
        self, mesh: tuple[int, list[tuple[int, int]]], many: int, seed: int
    ) -> None:
        size, pairs = mesh
        draw = np.random.default_rng(seed)
        first, second = np.array(pairs).T
        siemens = 10 ** draw.uniform(-2, 2, (len(pairs), many))
        held, right = draw.uniform(0.1, 1, (size, many)), draw.normal(size=(size, many))
        found = Elimination(first, second, size).factors(siemens, held).solve(right)
        for column in range(many):
            dense = np.diag(held[:, column])
            for (one, other), value in zip(pairs, siemens[:, column], strict=True):
                leaving = (np.arange(size) == one) * 1.0 - (np.arange(size) == other)
                dense += value * np.outer(leaving, leaving)
            expected = np.linalg.solve(dense, right[:, column])
            np.testing.assert_allclose(found[:, column], expected, rtol=1e-8, atol=1e-9)

    def test_a_matrix_without_an_answer_spoils_no_other(self) -> None:
        pairs = np.array([[0, 1], [1, 2], [2, -1]])
        siemens = np.array([[1.0, 1.0], [1.0, 1.0], [0.0, 1.0]])
        factors = Elimination(*pairs.T, 3).factors(siemens, np.zeros((3, 2)))
        found = factors.solve(np.ones((3, 2)))
        self.assertFalse(np.isfinite(found[:, 0]).all())
        np.testing.assert_allclose(found[:, 1], [6.0, 5.0, 3.0])


class ManyStatesTest(TestCase):
    def test_together_they_settle_as_each_by_itself(self) -> None:
        for build in (roadster_sizing().build, size_build(demo("fernhill-half-ton-van")).build):
            with self.subTest(build.name):
                self.assert_same(Network(build), random_states(build, 70, 4))

    def assert_same(self, network: Network, states: list[State]) -> None:
        for state, row in zip(states, network.settle_many(states), strict=True):
            alone = network.settle(state)
            self.assertTrue((alone.moved == row.moved).all())
            np.testing.assert_allclose(
                alone.operating.element_a, row.operating.element_a, atol=1e-6
            )
            self.assertLess(row.operating.residual_a, 1e-6)

    def test_one_that_never_settles_stops_no_other(self) -> None:
        """A relay that takes away its own feed, while another lamp is lit."""
        network = Network(buzzer())
        states = [State(switches={"push": at}, supply=Supply(12.0, 0.01)) for at in ("off", "on")]
        quiet, buzzing = network.try_many(states)
        assert isinstance(quiet, Settled)
        self.assertAlmostEqual(network.solution(quiet).loads["lamp"].volts, 12.0, delta=0.2)
        self.assertEqual(getattr(buzzing, "code", ""), "relays-never-settle")

    def test_meters_of_some_states_change_no_others(self) -> None:
        network = Network(roadster_sizing().build)
        battery = Terminal("battery", "+"), Terminal("battery", "-")
        plain = State("run", supply=Supply(12.0, 0.01))
        metered, bare = network.solve_many([replace(plain, meters=(battery,)), plain])
        self.assertAlmostEqual(metered.meters_v[0] or 0, bare.battery_v, places=5)
        self.assertEqual(bare.meters_v, ())


def buzzer() -> Build:
    parts = [
        *relay_parts("mini 5-pin"),
        switch("push", ("off", []), ("on", [["in", "out"]])),
        part("lamp", "load", catalogue="Side lamp 5 W"),
    ]
    ends = [
        ("battery.+", "relay.30"),
        ("relay.87a", "push.in"),
        ("push.out", "relay.86"),
        ("relay.85", "battery.-"),
        ("battery.+", "lamp.+"),
        ("lamp.-", "battery.-"),
    ]
    wires = [wire(number, *pair) for number, pair in enumerate(ends)]
    return from_document(document(parts, wires))


class SpoiledTest(TestCase):
    def test_every_state_of_a_spoiled_car_settles_or_names_its_loop(self) -> None:
        """A diode, a break, a thin wire, a short, in every sixth wire of both demo cars."""
        for name in ("saltmarsh-roadster", "fernhill-half-ton-van"):
            build = size_build(demo(name)).build
            wires = list(build.wires.values())[::6]
            tried, codes = unsettled(build, wires, random_states(build, 8, 3))
            self.assertEqual(tried, len(wires) * 5 * 8)
            self.assertLessEqual(codes.keys(), {"relays-never-settle"})
            self.assertLess(codes.total(), tried / 100)

    def test_electronics_that_pull_their_own_feed_down_a_little_stay_awake(self) -> None:
        """12.65 V over 4.3 Ω and a heater of 3 Ω leave the box 5.2 V, and 12.65 V without it."""
        pins = [
            {"name": "1", "function": "supply"},
            {"name": "2", "function": "ground"},
            {"name": "3", "function": "high side", "when": "light"},
        ]
        parts = [
            part("box", "box", pins=pins),
            part("weak", "resistor", figures={"resistance_ohm": 4.3}),
            part("heater", "load", catalogue="Seat heater"),
            switch("light", ("off", []), ("on", [["in", "out"]])),
        ]
        ends = [
            ("battery.+", "weak.1"),
            ("weak.2", "box.1"),
            ("box.2", "battery.-"),
            ("box.3", "heater.+"),
            ("heater.-", "battery.-"),
        ]
        build = from_document(document(parts, [wire(n, *end) for n, end in enumerate(ends, 1)]))
        solution = Network(build).solve(State(switches={"light": "on"}))
        self.assertAlmostEqual(solution.loads["heater"].volts, 5.2, delta=0.1)
