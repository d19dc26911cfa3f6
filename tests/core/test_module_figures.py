"""What the sheet of a module says: soft starts, what wakes it, contacts told by two inputs, and the
lamps in the buttons of a keypad."""

from dataclasses import asdict, replace
from unittest import TestCase

from circuitry.design.model import Build, Part, Terminal
from circuitry.design.state import State
from circuitry.devices.electronics import lit_buttons
from circuitry.devices.module import channel_bears_a, module_fields, soft_start_for
from circuitry.devices.starting import starting
from circuitry.document.checks import check
from circuitry.document.reading import read, write
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.network import Network
from circuitry.reach.paths import paths_of
from circuitry.recipes.book import RECIPES, fed_otherwise
from circuitry.recipes.modules import BY_FUSES, BY_MODULES
from circuitry.recipes.recipe import write_recipe
from circuitry.recipes.sample import bare_car
from circuitry.sizing import size_build
from circuitry.sizing.channels import heard_of

LARGE = "Module large, 24 channels"
WITHOUT = "Front module has no logic supply"


def load(row: str) -> Part:
    return Part("load", "load", "Load", "panel", row)


def with_module(**answers: str) -> Build:
    """The bare car with a large module at its panel; its own, which nothing feeds, is gone."""
    car = bare_car()
    car = replace(car, parts={k: p for k, p in car.parts.items() if p.kind != "module"})
    asked = {"name": "Front module", "place": "panel", "row": LARGE, **answers}
    return write_recipe(car, RECIPES["power-module"], asked)


def without_wire_on(build: Build, end: Terminal) -> Build:
    left = {k: w for k, w in build.wires.items() if end not in (w.from_terminal, w.to_terminal)}
    return replace(build, wires=left)


class SoftStartTest(TestCase):
    def test_at_once_a_load_takes_its_inrush(self) -> None:
        rated_a = 26.5 / 13.5  # of a stop lamp; ten times that at first, for 50 ms
        first_a, heat = starting(load("Stop lamp 21 W"))
        self.assertAlmostEqual(first_a, 10 * rated_a)
        self.assertAlmostEqual(heat, (10 * rated_a) ** 2 * 0.05 / 3)

    def test_the_longer_the_ramp_the_less_is_taken(self) -> None:
        for row in ("Dipped beam halogen 55 W", "Radiator fan 300 mm", "Horn", "Wiper motor slow"):
            peaks = [starting(load(row), soft_s)[0] for soft_s in (0.0, 0.05, 0.1, 0.2, 0.5)]
            self.assertEqual(peaks, sorted(peaks, reverse=True), row)

    def test_a_lamp_is_warm_before_all_of_the_volts_are_there(self) -> None:
        """Over 0.2 s, four times what it takes to warm up, it takes under three times its rated,
        and never less than that."""
        peak_a, _ = starting(load("Dipped beam halogen 55 W"), 0.2)
        self.assertTrue(58 / 13.2 < peak_a < 3 * 58 / 13.2, peak_a)

    def test_what_settles_at_once_takes_no_less_softly(self) -> None:
        heater = load("Seat heater")
        self.assertEqual(starting(heater, 0.5), starting(heater))

    def test_no_longer_ramp_than_is_needed_and_none_beyond_what_the_module_has(self) -> None:
        weak = Part("m", "module", "M", "panel", figures={"inrush_x": 3.0}, **module_fields(LARGE))
        lamp = load("Dipped beam halogen 55 W")
        self.assertEqual(soft_start_for(weak, "C1", [lamp]), 0.0)  # 44 A of 75
        self.assertEqual(soft_start_for(weak, "C24", [lamp]), 0.1)  # 44 A of 30, 14 A over 0.1 s
        hard = replace(weak, figures={"inrush_x": 3.0, "soft_s": 0.0})
        self.assertIsNone(soft_start_for(hard, "C24", [lamp]))

    def test_a_channel_that_would_trip_is_started_softly_by_its_mend(self) -> None:
        car = write_recipe(with_module(), RECIPES["headlamps"], {"fed_by": BY_MODULES})
        (module,) = car.parts_of_kind("module")
        self.assertEqual({way.soft_s for way in module.ways}, {0.0})
        weak = replace(module, figures={**module.figures, "inrush_x": 2.5})
        car = replace(car, parts={**car.parts, module.id: weak})
        found = [row for row in size_build(car).findings if row.code == "channel-inrush"]
        self.assertTrue(found)
        car = apply_operations(car, [change for row in found for change in row.mends[0].operations])
        again = [row for row in size_build(car).findings if row.code == "channel-inrush"]
        self.assertEqual(again, [])
        self.assertEqual(read(write(car)), car)

    def test_a_module_without_soft_start_says_so(self) -> None:
        car = with_module(row="Power module of 8 channels")
        (module,) = car.parts_of_kind("module")
        asked = {"op": "set_condition", "part": module.id, "output": "C1", "when": "key"}
        with self.assertRaisesRegex(UnusableInput, "has no soft start"):
            apply_operations(car, [{**asked, "soft_s": 0.2}])


class WakingTest(TestCase):
    def car(self, wake: str) -> Network:
        car = write_recipe(with_module(wake=wake), RECIPES["horn"], {"fed_by": BY_MODULES})
        check(car)
        return Network(size_build(car).build)

    def test_a_module_whose_logic_the_key_feeds_works_with_the_key_alone(self) -> None:
        for wake, live in (
            ("always", {"off", "accessory", "run"}),
            ("by accessory", {"accessory", "run"}),
            ("by run", {"run"}),
        ):
            network, held = self.car(wake), {"horn-push": "held"}
            sounds = {
                key
                for key in ("off", "accessory", "run")
                if network.solve(State(key, held)).loads["horn"].is_on
            }
            self.assertEqual(sounds, live, wake)

    def test_asleep_it_takes_nothing(self) -> None:
        drawn = {
            wake: self.car(wake).solve(State("off")).battery_a for wake in ("always", "by run")
        }
        self.assertGreater(drawn["always"], 0.002)
        self.assertLess(drawn["by run"], 0.0005)

    def test_a_logic_supply_that_nothing_feeds_is_found(self) -> None:
        car = write_recipe(with_module(wake="by run"), RECIPES["horn"], {"fed_by": BY_MODULES})
        (module,) = car.parts_of_kind("module")
        unfed = without_wire_on(car, Terminal(module.id, "logic"))
        for build, found in ((car, False), (unfed, True)):
            titles = {row.title for row in size_build(build).findings}
            self.assertEqual(WITHOUT in titles, found)


class ToldSurelyTest(TestCase):
    def test_with_either_wire_of_the_pedal_broken_the_stop_lamps_still_light(self) -> None:
        pedal = {"row": "Pedal switch, change-over", "place": "dash"}
        answers = {"pedal": pedal, "fed_by": BY_MODULES}
        car = write_recipe(with_module(), RECIPES["stop-lamps"], answers)
        check(car)
        (switch,) = car.parts_of_kind("switch")

        def is_lit(build: Build, at: str) -> bool:
            network = Network(size_build(build).build)
            return network.solve(State("off", {switch.id: at})).loads["stop-lamp-left"].is_on

        self.assertEqual([is_lit(car, at) for at in ("released", "pressed")], [False, True])
        for terminal in ("out", "rest"):
            broken = without_wire_on(car, Terminal(switch.id, terminal))
            self.assertEqual(len(broken.wires), len(car.wires) - 1)
            self.assertTrue(is_lit(broken, "pressed"), terminal)


class ButtonLampTest(TestCase):
    def test_the_lamp_of_a_button_is_lit_while_what_it_asks_for_is_on(self) -> None:
        answers = {"buttons": "Beacon", "key": "always"}
        car = write_recipe(with_module(), RECIPES["keypad"], answers)
        car = write_recipe(car, RECIPES["data-bus"], {})
        (button,) = car.parts_of_kind("button")
        beacon = {"row": "Interior lamp 10 W", "place": "rear-left", "name": "Beacon lamp"}
        asked = {"load": beacon, "switch": {"part": button.id}, "key": "always"}
        car = write_recipe(car, RECIPES["plain-load"], {**asked, "fed_by": BY_MODULES})
        change = {"op": "change", "collection": "parts", "id": button.id}
        car = apply_operations(car, [{**change, "fields": {"figures": {"lamp": "green"}}}])
        network = Network(size_build(car).build)

        def shown(state: State) -> dict[str, str]:
            return lit_buttons(network.build, network.solve(state).closed)

        pressed = State("off", {button.id: "on"})
        self.assertEqual(shown(pressed), {button.id: "green"})
        self.assertEqual(shown(State("off")), {})
        self.assertEqual(shown(replace(pressed, lost=frozenset({"data-bus"}))), {})
        with self.assertRaisesRegex(UnusableInput, "lamp is “pink”"):
            apply_operations(car, [{**change, "fields": {"figures": {"lamp": "pink"}}}])


class RotaryTest(TestCase):
    """Several positions on one wire, by the volts of an analogue input."""

    def car(self, when: str) -> Network:
        car = write_recipe(with_module(), RECIPES["rotary"], {"positions": "off, slow, fast"})
        (module,) = car.parts_of_kind("module")
        lamp = {"row": "Interior lamp 10 W", "place": "dash", "name": "Lamp"}
        answers = {"module": module.id, "loads": [lamp], "when": when}
        car = write_recipe(car, RECIPES["module-channel"], answers)
        check(car)
        return Network(size_build(car).build)

    def test_the_volts_of_each_position_are_a_divider_from_five(self) -> None:
        network = self.car("wiper_rotary > 1")
        (module,) = network.build.parts_of_kind("module")
        pin = Terminal(module.id, "wiper-rotary")
        # resistors of 2 kΩ and 500 Ω under a pull-up of 1 kΩ
        for at, volts in (("off", 5.0), ("slow", 5 * 2 / 3), ("fast", 5 * 0.5 / 1.5)):
            solution = network.solve(State("off", {"wiper-rotary": at}))
            self.assertAlmostEqual(solution.terminal_v[pin] or 0.0, volts, delta=0.02)

    def test_the_words_of_a_position_hold_in_it_alone(self) -> None:
        build = self.car("wiper_rotary > 1").build
        (module,) = build.parts_of_kind("module")
        heard = next(row for row in heard_of(build, module) if row.name == "wiper_rotary")
        self.assertEqual(len(heard.asked), 3)
        for asked in heard.asked:
            network, wanted = self.car(asked.text), asked.said.split(": ")[1]
            lit = {
                at
                for at in ("off", "slow", "fast")
                if network.solve(State("off", {"wiper-rotary": at})).loads["lamp"].is_on
            }
            self.assertEqual(lit, {wanted}, asked.text)
            path = paths_of(network.build).to_load(network.build.parts["lamp"])
            assert path is not None
            self.assertEqual(path.positions.get("wiper-rotary", "off"), wanted)

    def test_volts_are_compared_and_what_is_on_or_off_is_not(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "tells its volts. Compare it"):
            self.car("wiper_rotary")
        with self.assertRaisesRegex(UnusableInput, "is on or off, and cannot be compared"):
            self.car("key > 2")


class SensorPlugTest(TestCase):
    def car(self, order: str = "ground, signal, supply") -> Build:
        car = with_module()
        car = replace(car, policy=replace(car.policy, sensor_pins=order))
        (module,) = car.parts_of_kind("module")
        car = write_recipe(car, RECIPES["sensor"], {"reader": module.id})
        check(car)
        return car

    def pins(self, car: Build) -> list[str]:
        """What the sensor has on each cavity, the lowest first."""
        (plug,) = car.parts_of_kind("connector")
        ends = [
            (w.from_terminal, w.to_terminal)
            for w in car.wires.values()
            if w.to_terminal.part == "oil-pressure-sensor"
        ]
        self.assertEqual({start.part for start, _ in ends}, {plug.id})
        return [end.name for _, end in sorted((start.name, end) for start, end in ends)]

    def test_its_pins_stand_as_the_policy_has_them(self) -> None:
        for order in ("ground, signal, supply", "supply, signal, ground"):
            self.assertEqual(self.pins(self.car(order)), order.split(", "))

    def test_another_order_is_found_and_its_mend_puts_both_halves_right(self) -> None:
        car = self.car()
        sound = {row.code for row in size_build(car).findings}
        self.assertNotIn("pins-out-of-order", sound)
        other = replace(car, policy=replace(car.policy, sensor_pins="supply, signal, ground"))
        found = next(r for r in size_build(other).findings if r.code == "pins-out-of-order")
        mended = apply_operations(other, list(found.mends[0].operations))
        self.assertEqual(self.pins(mended), ["supply", "signal", "ground"])

        def led(build: Build) -> dict[str, str]:
            """The module's pin behind each terminal of the sensor, through the plug."""
            onward = {str(w.from_terminal): str(w.to_terminal) for w in build.wires.values()}
            return {
                onward[end.replace("a", "b") if end.endswith("a") else end]: start
                for start, end in onward.items()
                if ".oil-pressure" in start
                for end in [end[:-1] + "b"]
            }

        self.assertEqual(led(mended), led(car))
        codes = {row.code for row in size_build(mended).findings}
        self.assertNotIn("pins-out-of-order", codes)

    def test_a_fed_sensor_gets_its_five_volts_and_its_signal_is_told(self) -> None:
        car = size_build(self.car()).build
        solution = Network(car).solve(State("run"))
        fed_v = solution.terminal_v[Terminal("oil-pressure-sensor", "supply")]
        signal_v = solution.terminal_v[Terminal("oil-pressure-sensor", "signal")]
        self.assertAlmostEqual(fed_v or 0.0, 5.0, delta=0.1)
        # 1 kΩ up inside the sensor beside the module's own, 1 kΩ down
        self.assertAlmostEqual(signal_v or 0.0, 5 * 2 / 3, delta=0.1)


class JoinedTest(TestCase):
    """What one channel does not bear, on two that are bridged at the plug."""

    FAN = {  # noqa: RUF012
        "motor": {"row": "Radiator fan 400 mm", "place": "front-left"},
        "fed_by": BY_MODULES,
        "key": "always",
    }

    def test_a_fan_of_21_a_is_refused_by_one_channel_and_borne_by_two(self) -> None:
        car = with_module()
        with self.assertRaisesRegex(UnusableInput, "Leave it on a fuse and a relay"):
            write_recipe(car, RECIPES["fan"], self.FAN)
        joined = write_recipe(car, RECIPES["fan"], {**self.FAN, "joined": True})
        check(joined)
        self.assertEqual(read(write(joined)), joined)
        (module,) = joined.parts_of_kind("module")
        (second,) = (way for way in module.ways if way.joined)
        first = next(way for way in module.ways if way.name == second.joined)
        self.assertAlmostEqual(channel_bears_a(module, first.name), 0.9 * 50)
        self.assertEqual(first.limit_a, 30.0)  # 21 A with a fifth to spare
        sizing = size_build(joined)
        network = Network(sizing.build)
        solution = network.solve(State("off", {"thermostat-switch": "hot"}))
        self.assertTrue(solution.loads["fan"].is_on)
        self.assertGreater(solution.output_a[Terminal(module.id, first.name)], 15)
        own = [w for w in joined.wires.values() if w.to_terminal == Terminal("fan", "+")]
        self.assertGreaterEqual(sizing.wires[own[0].id].carries_a, 30.0)
        stops = [row.title for row in sizing.findings if row.severity == "stop"]
        self.assertEqual(stops, [])

    def test_a_function_that_goes_sets_both_free(self) -> None:
        car = with_module()
        joined = write_recipe(car, RECIPES["fan"], {**self.FAN, "joined": True})
        circuit = next(row for row in joined.circuits if row not in car.circuits)
        again = fed_otherwise(joined, circuit, BY_FUSES)
        (module,) = again.parts_of_kind("module")
        self.assertEqual([way for way in module.ways if way.when or way.joined], [])

    def test_a_joint_that_leads_nowhere_is_refused(self) -> None:
        car = with_module()
        (module,) = car.parts_of_kind("module")
        ways = [asdict(way) for way in module.ways]
        ways[1] |= {"joined": "C99"}
        change = {"op": "change", "collection": "parts", "id": module.id, "fields": {"ways": ways}}
        with self.assertRaisesRegex(UnusableInput, "C2 is joined to C99"):
            apply_operations(car, [change])


class SheddingTest(TestCase):
    def test_what_is_shed_is_off_while_the_engine_cranks_and_on_again_after(self) -> None:
        heater = {"row": "Seat heater", "place": "dash", "name": "Seat heater"}
        asked = {"load": heater, "key": "run", "fed_by": BY_MODULES}
        for shed, on in ((False, {"run", "crank"}), (True, {"run"})):
            car = write_recipe(with_module(), RECIPES["plain-load"], {**asked, "shed": shed})
            check(car)
            network = Network(size_build(car).build)
            keys = ("off", "accessory", "run", "crank")
            found = {k for k in keys if network.solve(State(k)).loads["seat-heater"].is_on}
            self.assertEqual(found, on)
        with self.assertRaisesRegex(UnusableInput, "only what hangs on accessory"):
            answers = {"load": heater, "key": "run", "shed": True}
            write_recipe(bare_car(), RECIPES["plain-load"], answers)
