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
from circuitry.network.equations import Join
from circuitry.network.network import Change, Settled
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


class ChangesTest(TestCase):
    """A state of a changed network is that of a build which has the change in it."""

    build = roadster_sizing().build
    network = Network(build)
    state = State("run", {"light-switch": "head", "brake-switch": "pressed"})

    def node_v(self, build: Build, state: State | None = None) -> dict[Terminal, float | None]:
        return dict(Network(build).solve(state or self.state).terminal_v)

    def changed(self, *changes: Change) -> list[dict[Terminal, float | None]]:
        """With every change at once, in one batch."""
        found = self.network.try_many([self.state] * len(changes), changes=changes)
        return [
            dict(self.network.solution(row).terminal_v) for row in found if isinstance(row, Settled)
        ]

    def row(self, owner: str) -> int:
        owners = [element.owner for element in self.network.elements]
        return owners.index(owner)

    def assert_like(
        self, found: dict[Terminal, float | None], built: dict[Terminal, float | None]
    ) -> None:
        for terminal, volts in built.items():
            if volts is None:
                self.assertIsNone(found[terminal], terminal)
            else:
                assert found[terminal] is not None, terminal
                self.assertAlmostEqual(found[terminal] or 0.0, volts, places=5, msg=str(terminal))

    def test_open_longer_joined_and_stuck_are_as_if_built_so(self) -> None:
        build = self.build
        lamp = Terminal("dipped-beam-left", "+")
        feed = next(w for w in build.wires.values() if lamp in (w.from_terminal, w.to_terminal))
        ground = next(w for w in build.wires.values() if w.from_terminal.part == "ground-front")
        without = replace(build, wires={n: w for n, w in build.wires.items() if n != feed.id})
        ends = Terminal("stop-lamp-left", "+"), Terminal("dipped-beam-left", "+")
        ohms, at = self.network.make.conductor_ohm({}), list(build.wires).index(ground.id)
        twice = ohms + ohms * (np.arange(len(ohms)) == at)
        bridge = replace(feed, id="bridge", from_terminal=ends[0], to_terminal=ends[1])
        bridged = replace(build, wires={**build.wires, "bridge": bridge})
        row = list(bridged.wires).index("bridge")
        siemens = float(Network(bridged).siemens[row])
        nodes = [self.network.node[end] for end in ends]
        opened, longer, joined = self.changed(
            Change(opens={self.row(feed.id)}),
            Change(ohms={self.row(ground.id): float(ohms[at])}),
            Change(joins=[Join(*nodes, siemens)]),
        )
        self.assert_like(opened, self.node_v(without))
        self.assert_like(joined, self.node_v(bridged))
        ratings_a = [fuse.number("rating_a", 0) for fuse in build.parts_of_kind("fuse")]
        resized = self.network.resized(twice, ratings_a)
        self.assert_like(longer, dict(resized.solve(self.state).terminal_v))

    def test_what_a_join_leads_to_the_reference_does_not_float(self) -> None:
        """A wire end in the air is at the volts that a lead gives it."""
        horn, plus = Terminal("horn", "+"), Terminal("battery", "+")
        lead = Join(self.network.node[plus], self.network.node[horn], 50.0)
        quiet, sounds = self.changed(Change(), Change(joins=[lead]))
        self.assertLess(quiet[horn] or 0.0, 1.0)
        self.assertGreater(sounds[horn] or 0.0, 11.0)

    def test_a_relay_that_sticks_takes_its_lamps_along(self) -> None:
        relay = next(
            p for p in self.build.parts_of_kind("relay") if p.id == "dipped-beam-left-relay"
        )
        at = self.network.positions.index((relay.id, "pulled in"))
        (stuck,) = self.changed(Change(sticks={at: False}))
        lamp = Terminal("dipped-beam-left", "+")
        self.assertGreater(self.node_v(self.build)[lamp] or 0.0, 11.0)
        self.assertLess(stuck[lamp] or 0.0, 0.5)
