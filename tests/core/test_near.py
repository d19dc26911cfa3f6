"""Short cuts of the solver and the search: each must answer what the long way answers."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from circuitry.catalogue import catalogue
from circuitry.design.model import Build
from circuitry.devices import switches_of
from circuitry.document.reading import from_document
from circuitry.network import Network, Solution, State, Supply
from circuitry.network.elements import conductor_ohm
from circuitry.reach.paths import Paths, paths_of
from tests.core.cars import document, part, relay_parts, roadster, roadster_sizing, switch, wire

SIZES = [size.name for size in catalogue().conductors["metric"]]


@st.composite
def states(draw: st.DrawFn) -> State:
    build = roadster_sizing().build
    switches = {
        row.id: draw(st.sampled_from([position.name for position in row.contacts.positions]))
        for row in switches_of(build)
        if row.contacts and row.kind != "key switch"
    }
    volts = draw(st.floats(11.5, 14.5))
    return State(draw(st.sampled_from(["off", "accessory", "run"])), switches, Supply(volts, 0.005))


def resized(build: Build, larger: int) -> Build:
    """Every wire this many sizes thicker."""
    wires = {
        key: replace(row, size=SIZES[min(SIZES.index(row.size or "") + larger, len(SIZES) - 1)])
        for key, row in build.wires.items()
    }
    return replace(build, wires=wires)


class NearTest(TestCase):
    def assert_same(self, one: Solution, other: Solution) -> None:
        self.assertEqual(
            {relay: row.pulled_in for relay, row in one.relays.items()},
            {relay: row.pulled_in for relay, row in other.relays.items()},
        )
        for terminal, volts in one.terminal_v.items():
            there = other.terminal_v[terminal]
            if volts is None or there is None:
                self.assertEqual(volts, there, terminal)
            else:
                self.assertAlmostEqual(volts, there, delta=1e-6, msg=str(terminal))

    @settings(max_examples=25, deadline=None)
    @given(states(), st.integers(0, 3), st.floats(11.5, 14.5))
    def test_near_another_solution_is_the_same_as_from_rest(
        self, state: State, larger: int, volts: float
    ) -> None:
        build = roadster_sizing().build
        network = Network(build)
        before = network.settle(state)
        thicker = resized(build, larger)
        other = replace(state, supply=Supply(volts, 0.005))
        ratings_a = [row.number("rating_a", 0) for row in build.parts_of_kind("fuse")]
        warm = dict.fromkeys(build.wires, 55.0)
        warm_ohm = np.array([conductor_ohm(build, row, 55.0) for row in thicker.wires.values()])
        near = network.resized(warm_ohm, ratings_a).settle_many([other], [before])[0]
        self.assert_same(network.solution(near), Network(thicker, warm).solve(other))

    def test_a_relay_that_only_holds_itself_in_is_not_taken_over(self) -> None:
        """The button pulls it in and its own contact holds it; from rest it stays out."""
        build = from_document(
            document(
                [
                    *relay_parts(),
                    switch("button", ("up", []), ("down", [["in", "out"]])),
                    part("horn", "load", catalogue="Horn"),
                ],
                [
                    wire(1, "battery.+", "relay.30"),
                    wire(2, "battery.+", "button.in"),
                    wire(3, "button.out", "relay.86"),
                    wire(4, "relay.87", "relay.86"),
                    wire(5, "relay.85", "battery.-"),
                    wire(6, "relay.87", "horn.+"),
                    wire(7, "horn.-", "battery.-"),
                ],
            )
        )
        network = Network(build)
        down = network.settle(State(switches={"button": "down"}))
        self.assertTrue(network.solution(down).relays["relay"].pulled_in)
        self.assertFalse(network.solve(State()).relays["relay"].pulled_in)
        weak = replace(State(switches={"button": "down"}), supply=Supply(5.0, 0.01))
        held = network.solution(network.settle_many([weak], [down])[0])
        self.assertFalse(held.relays["relay"].pulled_in)


class KeptPathsTest(TestCase):
    def test_sizes_figures_and_places_share_paths_and_joins_do_not(self) -> None:
        build = replace(roadster())
        kept = paths_of(build)
        self.assertIs(paths_of(resized(roadster_sizing().build, 1)), kept)
        horn = replace(build.parts["horn"], name="Hooter", place="dash")
        self.assertIs(paths_of(replace(build, parts={**build.parts, "horn": horn})), kept)
        wires = {key: row for key, row in build.wires.items() if key != "w20"}
        self.assertIsNot(paths_of(replace(build, wires=wires)), kept)
        body = replace(build, body_conducts=True)
        self.assertIsNot(paths_of(body), kept)

    def test_a_kept_answer_is_that_of_a_fresh_search(self) -> None:
        build = roadster()
        for load in build.parts_of_kind("load"):
            for given_ in ({}, {"key": "run"}, {"key": "off", "light-switch": "head"}):
                asked = paths_of(build).to_load(load, given_)
                self.assertEqual(asked, paths_of(build).to_load(load, given_))
                self.assertEqual(asked, Paths(build).to_load(load, given_), load.id)
