"""The solver against worked figures and conservation laws."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from circuitry.design.model import KEY_POSITIONS, Build, Terminal
from circuitry.devices.battery import battery_supply
from circuitry.document.reading import from_document
from circuitry.errors import UnusableInput
from circuitry.network import Network, Solution, State, Supply, Tolerance
from tests.core.cars import (
    ON_OFF,
    document,
    lamp,
    lamp_document,
    part,
    relay_parts,
    roadster_sizing,
    switch,
    wire,
)

STIFF = Supply(12.0, 1e-6)


def solve(build: Build, key: str = "off", **switches: str) -> Solution:
    named = {name.replace("_", "-"): position for name, position in switches.items()}
    return Network(build).solve(State(key, named, STIFF))


def resistor(identity: str, rated_a: float) -> dict:
    """A heater of 12 V: resistance 12 / rated_a."""
    figures = {"rated_a": rated_a, "test_v": 12.0}
    return part(identity, "load", catalogue="Seat heater", figures=figures)


class WorkedFigureTest(TestCase):
    def test_a_heater_behind_two_wires_by_hand(self) -> None:
        """2 Ω behind 2 × (2 m of 1 mm² = 37 mΩ, a crimp of 0.3 mΩ at the heater and a ring of
        0.1 mΩ on the battery's post): I = 12 / 2.0748."""
        build = from_document(
            document(
                [resistor("heater", 6.0)],
                [
                    wire(1, "battery.+", "heater.+", length_m=2.0),
                    wire(2, "heater.-", "battery.-", length_m=2.0),
                ],
            )
        )
        solution = Network(build).solve(State(supply=STIFF))
        self.assertAlmostEqual(solution.loads["heater"].amps, 12 / (2 + 2 * 0.0374), places=4)
        self.assertAlmostEqual(solution.wire_a["w1"], 12 / 2.0748, places=4)
        self.assertAlmostEqual(solution.loads["heater"].volts, 24 / 2.0748, places=4)

    def test_hot_copper_resists_more(self) -> None:
        """100 °C against 20 °C: 1 + 0.00393 · 80 = 1.3144 (IEC 60028)."""
        build = from_document(
            document(
                [resistor("heater", 6.0)],
                [
                    wire(1, "battery.+", "heater.+", joint_from="ring", joint_to="ring"),
                    wire(2, "heater.-", "battery.-"),
                ],
            )
        )
        cold = Network(build).solve(State(supply=STIFF))
        hot = Network(build, {"w1": 100.0}).solve(State(supply=STIFF))
        drops = [12 - solution.terminal_v[Terminal("heater", "+")] for solution in (cold, hot)]
        ohms = [
            drop / solution.wire_a["w1"] - 0.0002
            for drop, solution in zip(drops, (cold, hot), strict=True)
        ]
        self.assertAlmostEqual(ohms[1] / ohms[0], 1.3144, places=3)

    def test_parallel_loads_share_their_feed(self) -> None:
        build = from_document(
            document(
                [resistor("one", 3.0), resistor("two", 6.0), part("joint", "splice")],
                [
                    wire(1, "battery.+", "joint.splice"),
                    wire(2, "joint.splice", "one.+"),
                    wire(3, "joint.splice", "two.+"),
                    wire(4, "one.-", "battery.-"),
                    wire(5, "two.-", "battery.-"),
                ],
            )
        )
        solution = Network(build).solve(State(supply=STIFF))
        self.assertAlmostEqual(
            solution.wire_a["w1"], solution.wire_a["w2"] + solution.wire_a["w3"], places=9
        )

    def test_battery_follows_the_published_points(self) -> None:
        battery = lamp().parts["battery"]
        for charge, volts in ((0.25, 12.1), (0.5, 12.4), (0.75, 12.525), (1.0, 12.65)):
            figures = {"state_of_charge": charge, "resistance_mohm": 5.0}
            supply = battery_supply(replace(battery, figures=figures))
            self.assertAlmostEqual(supply.emf_v, volts, places=6)
            self.assertAlmostEqual(supply.resistance_ohm, 0.005)

    def test_battery_sags_behind_its_resistance(self) -> None:
        solution = Network(lamp()).solve(State(switches={"light": "on"}))
        self.assertAlmostEqual(solution.battery_v, 12.65 - 0.010 * solution.battery_a, places=6)

    def test_a_voltmeter_of_ten_megohms_loads_a_floating_point(self) -> None:
        """Between battery and an open end the meter is all there is: it shows battery voltage."""
        probes = ((Terminal("battery", "+"), Terminal("lamp", "-")),)
        cut = lamp_document()
        cut["wires"].pop()
        solution = Network(from_document(cut)).solve(State(supply=STIFF, meters=probes))
        self.assertAlmostEqual(solution.meters_v[0] or 0, 0.0, places=6)
        solution = Network(lamp()).solve(State(supply=STIFF, meters=probes))
        self.assertAlmostEqual(solution.meters_v[0] or 0, 12.0, places=6)

    def test_a_point_joined_to_nothing_floats(self) -> None:
        row = lamp_document()
        row["wires"] = row["wires"][:2]
        solution = Network(from_document(row)).solve(State(supply=STIFF))
        self.assertIsNone(solution.terminal_v[Terminal("lamp", "+")])
        self.assertAlmostEqual(solution.terminal_v[Terminal("light", "in")] or 0, 12.0)

    def test_a_metal_body_returns_and_a_plastic_one_does_not(self) -> None:
        parts = [resistor("heater", 6.0), part("g1", "ground point"), part("g2", "ground point")]
        wires = [
            wire(1, "battery.+", "heater.+"),
            wire(2, "heater.-", "g1.stud"),
            wire(3, "g2.stud", "battery.-"),
        ]
        metal = from_document(document(parts, wires, body_conducts=True))
        plastic = from_document(document(parts, wires))
        self.assertGreater(solve(metal).loads["heater"].amps, 5.5)
        self.assertAlmostEqual(solve(plastic).loads["heater"].amps, 0.0)

    def test_a_hungry_load_on_a_thin_wire_settles_where_its_law_says(self) -> None:
        """300 W through 10 m of 0.35 mm² cannot be had: the driver falls below drop-out."""
        figures = {"rated_w": 300.0}
        build = from_document(
            document(
                [part("amplifier", "load", catalogue="Amplifier", figures=figures)],
                [
                    wire(1, "battery.+", "amplifier.+", size="0.35 mm²", length_m=10.0),
                    wire(2, "amplifier.-", "battery.-", size="0.35 mm²", length_m=10.0),
                ],
            )
        )
        solution = solve(build)
        self.assertLess(solution.loads["amplifier"].volts, 9.0)
        self.assertLess(solution.residual_a, 1e-6)


class ConservationTest(TestCase):
    """Kirchhoff and energy on the whole demo car, whatever is switched."""

    network = Network(roadster_sizing().build)
    switches = tuple(network.build.parts_of_kind("switch"))

    @settings(max_examples=60)
    @given(st.data())
    def test_current_and_power_balance_in_any_state(self, data: st.DataObject) -> None:
        positions = {
            part.id: data.draw(st.sampled_from([row.name for row in part.contacts.positions]))
            for part in self.switches
            if part.contacts
        }
        supply = Supply(data.draw(st.floats(6, 15)), data.draw(st.floats(0.001, 0.3)))
        key = data.draw(st.sampled_from(KEY_POSITIONS))
        solution = self.network.solve(State(key, positions, supply))
        self.assertLess(solution.residual_a, 1e-6)
        self.assertLess(solution.power_mismatch, 1e-6)
        at_studs = [
            sum(
                current if terminal == wire.to_terminal else -current
                for wire_id, current in solution.wire_a.items()
                for wire in [self.network.build.wires[wire_id]]
                if terminal in (wire.from_terminal, wire.to_terminal)
            )
            for terminal in (Terminal("feed-stud", "stud"), Terminal("ground-front", "stud"))
        ]
        for left_over in at_studs:
            self.assertAlmostEqual(left_over, 0.0, delta=1e-6)

    def test_more_on_means_more_from_the_battery(self) -> None:
        dark = self.network.solve(State("run"))
        side = self.network.solve(State("run", {"light-switch": "side"}))
        head = self.network.solve(State("run", {"light-switch": "head"}))
        self.assertLess(dark.battery_a, side.battery_a)
        self.assertLess(side.battery_a, head.battery_a)
        self.assertGreater(dark.battery_v, head.battery_v)

    def test_tolerances_move_readings_the_way_they_should(self) -> None:
        state = State("run", {"light-switch": "head", "dip-switch": "main"})
        worn = Network(self.network.build, tolerance=Tolerance(1.0, 5.0)).solve(state)
        new = self.network.solve(state)
        self.assertLess(worn.loads["main-beam-left"].volts, new.loads["main-beam-left"].volts)


class RelayTest(TestCase):
    def circuit(self, kind: str, coil_feed: str = "push.out") -> Build:
        return from_document(
            document(
                [
                    *relay_parts(kind),
                    switch("push", *ON_OFF),
                    resistor("work", 3.0),
                    resistor("rest", 3.0),
                ],
                [
                    wire(1, "battery.+", "push.in"),
                    wire(2, coil_feed, "relay.86"),
                    wire(3, "relay.85", "battery.-"),
                    wire(4, "battery.+", "relay.30"),
                    wire(5, "relay.87", "work.+"),
                    wire(6, "work.-", "battery.-"),
                    wire(7, "relay.87a" if "5-pin" in kind else "relay.87", "rest.+"),
                    wire(8, "rest.-", "battery.-"),
                ],
            )
        )

    def test_a_changeover_relay_moves_its_load(self) -> None:
        build = self.circuit("mini 5-pin")
        rest, pulled = solve(build), solve(build, push="on")
        self.assertFalse(rest.relays["relay"].pulled_in)
        self.assertGreater(rest.loads["rest"].amps, 2.9)
        self.assertAlmostEqual(rest.loads["work"].amps, 0.0)
        self.assertTrue(pulled.relays["relay"].pulled_in)
        self.assertGreater(pulled.loads["work"].amps, 2.9)
        self.assertAlmostEqual(pulled.loads["rest"].amps, 0.0)

    def test_pull_in_needs_its_voltage(self) -> None:
        build = self.circuit("mini 4-pin")
        network = Network(build)
        low = network.solve(State(switches={"push": "on"}, supply=Supply(7.0, 1e-6)))
        high = network.solve(State(switches={"push": "on"}, supply=Supply(7.5, 1e-6)))
        self.assertFalse(low.relays["relay"].pulled_in)
        self.assertTrue(high.relays["relay"].pulled_in)

    def test_a_relay_that_holds_itself_stays_out_from_rest(self) -> None:
        build = self.circuit("mini 4-pin", coil_feed="relay.87")
        self.assertFalse(solve(build).relays["relay"].pulled_in)

    def test_a_relay_that_cuts_its_own_coil_never_settles(self) -> None:
        build = self.circuit("mini 5-pin", coil_feed="relay.87a")
        with self.assertRaises(UnusableInput) as caught:
            solve(build)
        self.assertEqual(caught.exception.code, "relays-never-settle")
        self.assertIn("“relay”", str(caught.exception))

    def test_what_the_build_does_not_have_is_refused(self) -> None:
        network = Network(lamp())
        for state, code in (
            (State("start"), "unknown-key"),
            (State(switches={"lamp": "on"}), "unknown-switch"),
            (State(switches={"light": "dim"}), "unknown-position"),
            (State(meters=((Terminal("lamp", "+"), Terminal("lamp", "x")),)), "missing-terminal"),
        ):
            with self.assertRaises(UnusableInput) as caught:
                network.solve(state)
            self.assertEqual(caught.exception.code, code)

    def test_a_build_that_is_not_sized_is_refused(self) -> None:
        row = lamp_document()
        row["wires"][0]["size"] = None
        with self.assertRaisesRegex(UnusableInput, "W1 has no size"):
            Network(from_document(row)).solve(State())
        row = lamp_document()
        row["parts"][1]["figures"] = {}
        with self.assertRaisesRegex(UnusableInput, "no rating"):
            Network(from_document(row)).solve(State())
