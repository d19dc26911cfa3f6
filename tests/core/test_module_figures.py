"""What the sheet of a module says: soft starts, what wakes it, contacts told by two inputs, and the
lamps in the buttons of a keypad."""

from dataclasses import replace
from unittest import TestCase

from circuitry.design.model import Build, Part, Terminal
from circuitry.design.state import State
from circuitry.devices.electronics import lit_buttons
from circuitry.devices.module import module_fields, soft_start_for
from circuitry.devices.starting import starting
from circuitry.document.checks import check
from circuitry.document.reading import read, write
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.network import Network
from circuitry.recipes.book import RECIPES
from circuitry.recipes.modules import BY_MODULES
from circuitry.recipes.recipe import write_recipe
from circuitry.recipes.sample import bare_car
from circuitry.sizing import size_build

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
