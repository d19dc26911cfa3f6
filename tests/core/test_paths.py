"""Ways to a load, the positions they need, and the fall line along them."""

from itertools import pairwise
from unittest import TestCase

from circuitry.design.model import Build, Terminal
from circuitry.document.reading import from_document
from circuitry.network import Network, State
from circuitry.reach.fall import fall_line
from circuitry.reach.paths import Paths, positions_in, state_of
from tests.core.cars import (
    ON_OFF,
    document,
    lamp,
    part,
    relay_parts,
    roadster_sizing,
    switch,
    wire,
)


def positions(build: Build, load: str, **given: str) -> dict[str, str] | None:
    path = Paths(build).to_load(build.parts[load], given)
    return None if path is None else dict(path.positions)


class PathTest(TestCase):
    def test_a_switch_on_the_way_must_be_on(self) -> None:
        self.assertEqual(positions(lamp(), "lamp"), {"light": "on"})

    def test_positions_given_are_kept(self) -> None:
        self.assertIsNone(positions(lamp(), "lamp", light="off"))

    def test_a_switch_in_the_ground_counts_too(self) -> None:
        build = from_document(
            document(
                [switch("door", *ON_OFF), part("lamp", "load", catalogue="Horn")],
                [
                    wire(1, "battery.+", "lamp.+"),
                    wire(2, "lamp.-", "door.in"),
                    wire(3, "door.out", "battery.-"),
                ],
            )
        )
        self.assertEqual(positions(build, "lamp"), {"door": "on"})

    def test_a_relay_needs_what_its_coil_needs(self) -> None:
        for ends in (("86", "85"), ("85", "86")):
            build = from_document(
                document(
                    [
                        *relay_parts(),
                        switch("push", *ON_OFF),
                        part("horn", "load", catalogue="Horn"),
                    ],
                    [
                        wire(1, "battery.+", "relay.30"),
                        wire(2, "relay.87", "horn.+"),
                        wire(3, "horn.-", "battery.-"),
                        wire(4, "battery.+", "push.in"),
                        wire(5, "push.out", f"relay.{ends[0]}"),
                        wire(6, f"relay.{ends[1]}", "battery.-"),
                    ],
                )
            )
            self.assertEqual(positions(build, "horn"), {"push": "on"})

    def test_current_is_not_led_through_another_load(self) -> None:
        """Two lamps in series give the second no way of its own."""
        build = from_document(
            document(
                [part("one", "load", catalogue="Horn"), part("two", "load", catalogue="Horn")],
                [
                    wire(1, "battery.+", "one.+"),
                    wire(2, "one.-", "two.+"),
                    wire(3, "two.-", "battery.-"),
                ],
            )
        )
        self.assertIsNone(positions(build, "two"))

    def test_the_demo_car_says_what_to_operate(self) -> None:
        build = roadster_sizing().build
        main = positions(build, "main-beam-right")
        self.assertEqual(main, {"light-switch": "head", "dip-switch": "main"})
        fan = positions(build, "radiator-fan")
        self.assertEqual(fan, {"key": "run", "thermostat": "hot"})

    def test_every_way_found_is_confirmed_by_the_solver(self) -> None:
        build = roadster_sizing().build
        network, paths = Network(build), Paths(build)
        wired = build.wired_parts()
        for load in (load for load in build.parts_of_kind("load") if load.id in wired):
            path = paths.to_load(load)
            assert path is not None
            solution = network.solve(state_of(build, path.positions))
            self.assertGreater(solution.loads[load.id].volts, 11, load.name)

    def test_keys_of_the_demo_panel(self) -> None:
        paths = Paths(roadster_sizing().build)
        keys = [paths.key_needed(Terminal("panel", bus)) for bus in ("battery", "accessory", "run")]
        self.assertEqual(keys, ["always", "accessory", "run"])

    def test_a_tangle_of_relays_ends_the_search(self) -> None:
        """Forty relays in a ladder, each able to feed the next ones' coils, and no way at all."""
        names = [f"r{number}" for number in range(40)]
        parts = [row for name in names for row in relay_parts("mini 5-pin", name)]
        wires = []
        for here, after in zip(names, [*names[1:], "r0"], strict=True):
            for start, end in (("87", "30"), ("87a", "30"), ("87", "86"), ("87a", "85")):
                wires.append(wire(len(wires) + 1, f"{here}.{start}", f"{after}.{end}"))
        wires.append(wire(900, "r39.87", "horn.+"))
        wires.append(wire(901, "horn.-", "battery.-"))
        build = from_document(document([*parts, part("horn", "load", catalogue="Horn")], wires))
        self.assertIsNone(positions(build, "horn"))


class FallLineTest(TestCase):
    def test_losses_and_load_add_up_to_the_battery(self) -> None:
        """Kirchhoff's voltage law along every fall line of the demo car."""
        sizing = roadster_sizing()
        for row in sizing.loads.values():
            line = fall_line(sizing.build, row.solution, sizing.build.parts[row.load], row.path)
            self.assertAlmostEqual(line.drop_v + line.load_v, line.battery_v, places=6)
            self.assertAlmostEqual(line.drop_v, row.drop_v, places=6)
            volts = [point.volts for step in line.steps for point in step.points]
            for before, after in pairwise(volts):
                self.assertGreaterEqual(before, after - 1e-9)

    def test_distance_is_the_length_of_the_wires(self) -> None:
        sizing = roadster_sizing()
        row = sizing.loads["fuel-pump"]
        line = fall_line(sizing.build, row.solution, sizing.build.parts["fuel-pump"], row.path)
        metres = sum(step.length_m for step in line.steps)
        self.assertAlmostEqual(line.steps[-1].points[-1].distance_m, metres)

    def test_each_wire_loses_its_current_times_its_resistance(self) -> None:
        build = lamp()
        solution = Network(build).solve(State(switches={"light": "on"}))
        path = Paths(build).to_load(build.parts["lamp"])
        assert path is not None
        line = fall_line(build, solution, build.parts["lamp"], path)
        wire_step = next(step for step in line.steps if step.owner == "w3")
        self.assertAlmostEqual(wire_step.loss_v, wire_step.amps * (0.0185 + 0.0006), places=6)
        self.assertAlmostEqual(
            wire_step.points[1].volts, wire_step.points[0].volts - wire_step.amps * 0.0003, places=6
        )

    def test_positions_of_a_solved_state(self) -> None:
        build = roadster_sizing().build
        solution = Network(build).solve(State("run", {"thermostat": "hot"}))
        found = positions_in(build, solution)
        self.assertEqual(found["radiator-fan-relay"], "pulled in")
        self.assertEqual(found["horn-relay"], "rest")
        self.assertEqual(found["key"], "run")
