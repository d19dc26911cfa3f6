"""What stands in the network beside wires, lamps and relays, each against a figure worked by hand
or a law that must hold whatever the figures."""

import math
from dataclasses import replace
from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from circuitry.design.logic import (
    At,
    Memory,
    always_or_never,
    holds,
    names_in,
    sentence,
    ways_to_hold,
)
from circuitry.design.model import Terminal
from circuitry.devices.alternator import alternator_share
from circuitry.devices.laws import (
    ConstantPower,
    Diode,
    Filament,
    Generator,
    Law,
    Resistor,
    SelfHeater,
)
from circuitry.document.reading import from_document
from circuitry.errors import UnusableInput
from circuitry.network import Network, State, Supply
from circuitry.network.law_table import LawTable
from circuitry.recipes.book import RECIPES
from circuitry.recipes.recipe import write_recipe
from circuitry.recipes.sample import bare_car
from circuitry.sizing import size_build
from tests.core.cars import ON_OFF, document, part, relay_parts, switch, wire

VOLTS = st.floats(-16, 16, allow_nan=False)
SUPPLY = Supply(12.0, 1e-4)


class LawTest(TestCase):
    def test_a_rectifier_drops_what_its_data_sheet_says(self) -> None:
        """Typical 3 A silicon rectifier: 0.75 V at 1 A, 0.85 V at 3 A, nothing backwards."""
        for amps, volts in ((1.0, 0.75), (3.0, 0.85)):
            current_a, _ = Diode().current_and_slope(volts)
            self.assertAlmostEqual(math.log(float(current_a) / amps), 0, delta=0.5)
        self.assertAlmostEqual(float(Diode().current_and_slope(-14.0)[0]), 0, delta=1e-5)

    @given(st.floats(0.01, 20))
    def test_the_diode_solves_its_own_equation(self, amps: float) -> None:
        """``I = I_s (exp((V − I R_s) / n V_t) − 1)`` read the other way round."""
        diode = Diode()
        volts = diode.thermal_v * math.log(amps / diode.saturation_a + 1) + amps * diode.series_ohm
        self.assertAlmostEqual(float(diode.current_and_slope(volts)[0]), amps, delta=1e-6 * amps)

    def test_a_self_heater_takes_its_inrush_cold_and_its_rating_hot(self) -> None:
        heater = SelfHeater(1.2, 13.5, 2.5)
        self.assertAlmostEqual(float(heater.current_and_slope(13.5)[0]), 1.2, delta=1e-9)
        cold_a, _ = heater.current_and_slope(0.01)
        self.assertAlmostEqual(float(cold_a) / 0.01, 2.5 * 1.2 / 13.5, delta=1e-3)
        self.assertAlmostEqual(float(heater.output_percent(13.5)), 100, delta=1e-9)

    @given(VOLTS, st.sampled_from([Diode(), SelfHeater(1.2, 13.5, 2.5), Generator(14.3, 55.0)]))
    def test_slopes_are_those_of_the_currents(self, volts: float, law: Law) -> None:
        step = 1e-5
        kink = isinstance(law, Generator) and (
            abs(volts - 14.3) < 1e-4 or abs(volts - 13.75) < 1e-4
        )
        if kink:
            return
        low, _ = law.current_and_slope(volts - step)
        high, _ = law.current_and_slope(volts + step)
        _, slope = law.current_and_slope(volts)
        tolerance = 0.02 * abs(float(slope)) + 1e-6
        self.assertAlmostEqual(float(high - low) / (2 * step), float(slope), delta=tolerance)

    @given(st.lists(VOLTS, min_size=4, max_size=4))
    def test_many_laws_at_once_answer_as_each_by_itself(self, volts: list[float]) -> None:
        laws = [Filament(2, 13.5), ConstantPower(30), Filament(0.4, 13.5), Resistor(10.0)]
        currents, slopes = LawTable(list(laws)).current_and_slope(np.array(volts))
        for law, volt, current, slope in zip(laws, volts, currents, slopes, strict=True):
            alone = law.current_and_slope(np.array(volt))
            self.assertAlmostEqual(float(alone[0]), current, delta=1e-12)
            self.assertAlmostEqual(float(alone[1]), slope, delta=1e-12)

    def test_an_alternator_gives_half_at_idle_and_all_at_speed(self) -> None:
        """Design figure: 40 to 60 % of its rating at idle."""
        self.assertEqual(alternator_share(0), 0)
        self.assertTrue(0.4 <= alternator_share(900) <= 0.6)
        self.assertEqual(alternator_share(9000), 1)


class ConditionTest(TestCase):
    @given(
        st.recursive(
            st.sampled_from(
                [
                    *("ignition", "fan", "lights is head", "lights is side", "engine_rpm < 700"),
                    *("coolant_c > 92 off below 87", "longer(door, 20)"),
                    "latch(fan, ignition)",
                ]
            ),
            lambda inner: (
                st.builds("({} {} {})".format, inner, st.sampled_from(["and", "or"]), inner)
                | st.builds("not {}".format, inner)
                | st.builds("flash({})".format, inner)
            ),
            max_leaves=5,
        )
    )
    def test_each_way_to_hold_makes_it_hold(self, condition: str) -> None:
        for literals in ways_to_hold(condition):
            known: dict[str, bool | float] = {}
            for name, wanted in literals:
                at = isinstance(wanted, At)
                key = f"{name} is {wanted.position}" if at else name
                value = wanted.wanted if at else wanted
                if known.setdefault(key, value) != value:
                    break
            else:
                self.assertTrue(holds(condition, known), (condition, known))

    def test_a_condition_is_said_as_people_say_it(self) -> None:
        for condition, said in (
            ("", "never"),
            (
                "light_switch is head and not fog",
                "while light switch is at head and fog is off",
            ),
            (
                "ignition and (coolant_c > 92 off below 87 or fan)",
                "while ignition is on and (coolant temperature is above 92 °C until it is below "
                "87 °C or the override is on)",
            ),
            (
                "flash((ignition and turn_left) or hazard)",
                "while (ignition is on and turn left is on) or hazard is on, flashing",
            ),
            ("longer(door, 20)", "while door is on, and 20 s longer"),
            ("latch(fan, stop)", "while the override is on or was, until stop is on"),
            ("side or bus_lost", "while side is on or the data bus is lost"),
            ("not bus_lost", "while the data bus works"),
        ):
            self.assertEqual(sentence(condition, {"fan": "the override"}), said)

    def test_where_time_passes_a_condition_remembers(self) -> None:
        memory = Memory()
        latched = "latch(start, stop)"
        for known, on in (({}, False), ({"start": True}, True), ({}, True),
                          ({"start": True, "stop": True}, False), ({}, False)):  # fmt: skip
            self.assertEqual(holds(latched, known, memory, "x"), on, known)
        for coolant_c, on in ((90, False), (93, True), (90, True), (86, False), (90, False)):
            known = {"coolant_c": coolant_c}
            self.assertEqual(holds("coolant_c > 92 off below 87", known, memory, "x"), on)
        for now_s, door, on in ((0, True, True), (19, False, True), (21, False, False)):
            memory.now_s = now_s
            self.assertEqual(holds("longer(door, 20)", {"door": door}, memory, "x"), on)
        other = holds(latched, {}, memory, "y")
        self.assertFalse(other, "one part remembers nothing of another")

    def test_what_is_never_or_always_true_is_found(self) -> None:
        positions = {"lights": ["off", "side", "head"]}
        for condition, word in (
            ("fan and not fan", "never"),
            ("fan or not fan", "always"),
            ("lights is side and lights is head", "never"),
            ("lights is off or lights", "always"),
            ("coolant_c > 92 and coolant_c < 92", "never"),
            ("coolant_c > 92 or coolant_c < 93", "always"),
            ("coolant_c > 92 and coolant_c < 93.5", ""),
            ("lights and not lights is side", ""),
        ):
            self.assertEqual(always_or_never(condition, positions), word, condition)

    def test_what_cannot_come_back_or_takes_no_time_is_refused(self) -> None:
        for condition, words in (
            ("coolant_c > 92 off above 95", "wrong side"),
            ("coolant_c > 92 off below 95", "wrong side"),
            ("longer(door, 0)", "no time between"),
            ("longer(door, 1e9)", "no time between"),
            ("flash()", "not known"),
            ("coolant_c is hot", "a position that is none"),
        ):
            with self.assertRaisesRegex(UnusableInput, words):
                names_in(condition)

    def test_no_code_is_run(self) -> None:
        for text in (
            "__import__('os')",
            "a.b",
            "f(x)",
            "1 if a else b",
            "a[0]",
            "x := 3",
            "(" * 400,
        ):
            with self.assertRaises(UnusableInput, msg=text):
                names_in(text)
        with self.assertRaisesRegex(UnusableInput, "must compare “coolant_c” with a number"):
            names_in("coolant_c and fan")


class DeviceTest(TestCase):
    def test_what_is_not_for_12_v_is_refused_and_above_60_v_left_to_others(self) -> None:
        for volts, words in ((24.0, "cannot be fed from a 12 V battery"), (400.0, "qualified")):
            lamp = part("lamp", "load", catalogue="Horn", figures={"test_v": volts})
            with self.assertRaisesRegex(UnusableInput, words):
                from_document(document([lamp], []))

    def solved(self, parts: list[dict], wires: list[dict], state: State, **fields: object):  # type: ignore[no-untyped-def]
        build = from_document(document(parts, wires, **fields))
        return Network(build).solve(replace(state, supply=SUPPLY))

    def test_a_shared_lamp_feeds_back_when_its_ground_is_missing(self) -> None:
        """Tail and stop filament share a ground: without it, tail current goes through the stop
        lamps to ground at the other side, and both glow."""
        holder = [{"name": n, "function": ""} for n in ("tail", "stop", "ground")]
        parts = [part("left", "box", pins=holder), part("right", "box", pins=holder)]
        for side in ("left", "right"):
            for lamp, row in (("tail", "Tail lamp 5 W"), ("stop", "Stop lamp 21 W")):
                housed = {"unit": side, "pins": {"+": lamp, "-": "ground"}}
                parts.append(part(f"{lamp}-{side}", "load", catalogue=row, housed=housed))
        wires = [
            wire(1, "battery.+", "left.tail"),
            wire(2, "battery.+", "right.tail"),
            wire(3, "left.stop", "right.stop"),
            wire(4, "right.ground", "battery.-"),
        ]
        whole = self.solved(parts, [*wires, wire(5, "left.ground", "battery.-")], State())
        self.assertAlmostEqual(whole.loads["stop-left"].volts, 0, delta=0.01)
        broken = self.solved(parts, wires, State())
        self.assertLess(broken.loads["stop-left"].volts, -0.05)
        self.assertLess(broken.loads["tail-left"].volts, 11.9)
        self.assertAlmostEqual(
            broken.loads["tail-left"].amps, -broken.loads["stop-left"].amps, delta=1e-6
        )

    def test_a_diode_relay_with_its_coil_reversed_shorts_through_its_diode(self) -> None:
        wires = [wire(1, "battery.+", "relay.85"), wire(2, "relay.86", "battery.-")]
        solution = self.solved(relay_parts("mini 4-pin diode"), wires, State())
        self.assertGreater(solution.battery_a, 50)
        turned = [wire(1, "battery.+", "relay.86"), wire(2, "relay.85", "battery.-")]
        right = self.solved(relay_parts("mini 4-pin diode"), turned, State())
        self.assertAlmostEqual(right.battery_a, 12 / 90, delta=0.01)

    def test_a_low_side_output_pulls_its_load_to_ground_while_the_input_is_grounded(self) -> None:
        pins = [
            {"name": "1", "function": "supply"},
            {"name": "2", "function": "ground"},
            {"name": "call", "function": "input to ground"},
            {"name": "out", "function": "low side", "when": "call"},
            {"name": "5v", "function": "sensor supply"},
        ]
        parts = [
            part("box", "box", pins=pins),
            part("lamp", "load", catalogue="Side lamp 5 W"),
            switch("call", *ON_OFF),
        ]
        wires = [
            wire(1, "battery.+", "box.1"),
            wire(2, "box.2", "battery.-"),
            wire(3, "battery.+", "lamp.+"),
            wire(4, "lamp.-", "box.out"),
            wire(5, "box.call", "call.in"),
            wire(6, "call.out", "battery.-"),
        ]
        for at, volts in (("off", 0.0), ("on", 12.0)):
            solution = self.solved(parts, wires, State("off", {"call": at}))
            self.assertAlmostEqual(solution.loads["lamp"].volts, volts, delta=0.1)
            self.assertAlmostEqual(solution.terminal_v[Terminal("box", "5v")] or 0, 5.0, delta=0.05)
        dead = self.solved(parts, wires[1:], State("off", {"call": "on"}))
        self.assertAlmostEqual(dead.loads["lamp"].volts, 0, delta=0.1)
        self.assertAlmostEqual(dead.terminal_v[Terminal("box", "1")] or 0, 0, delta=0.1)

    def test_outputs_that_take_away_their_own_input_are_named(self) -> None:
        pins = [
            {"name": "1", "function": "supply"},
            {"name": "2", "function": "ground"},
            {"name": "sense", "function": "input"},
            {"name": "out", "function": "high side", "when": "not sense"},
        ]
        wires = [
            wire(1, "battery.+", "box.1"),
            wire(2, "box.2", "battery.-"),
            wire(3, "box.out", "box.sense"),
        ]
        with self.assertRaisesRegex(UnusableInput, "“box” never settles"):
            self.solved([part("box", "box", pins=pins)], wires, State())

    def test_charge_is_conserved_with_everything_in_the_car(self) -> None:
        """Kirchhoff's current law and the power balance, with alternator, diodes and boxes."""
        build = bare_car()
        for recipe in ("charging", "fuel-pump", "fogs", "wipers", "turn-and-hazard", "blower"):
            build = write_recipe(build, RECIPES[recipe], {})
        network = Network(size_build(build).build)
        for rpm in (0.0, 800.0, 3000.0):
            state = State("run", {"hazard-switch": "on"}, values={"engine_rpm": rpm})
            solution = network.solve(state)
            self.assertLess(solution.residual_a, 1e-6)
            self.assertLess(solution.power_mismatch, 1e-6)

    def test_an_unknown_unit_pin_name_or_value_is_refused(self) -> None:
        lamp = part("lamp", "load", catalogue="Side lamp 5 W")
        unit = part("unit", "box", pins=[{"name": "a", "function": ""}])
        output = {"name": "o", "function": "high side", "when": "ghost"}
        for parts, words in (
            ([{**lamp, "housed": {"unit": "no", "pins": {}}}], "which is no box"),
            ([unit, {**lamp, "housed": {"unit": "unit", "pins": {"+": "z"}}}], "on pin z"),
            ([part("box", "box", pins=[output])], "no input, no button and no switch"),
        ):
            with self.assertRaisesRegex(UnusableInput, words):
                from_document(document(parts, []))
        inside = [unit, {**lamp, "housed": {"unit": "unit", "pins": {"+": "a"}}}]
        with self.assertRaisesRegex(UnusableInput, "is inside “unit”. Choose a pin"):
            from_document(document(inside, [wire(1, "battery.+", "lamp.+")]))
        network = Network(from_document(document([lamp], [])))
        with self.assertRaisesRegex(UnusableInput, "No sensor tells “mood”"):
            network.solve(State(values={"mood": 1.0}))
