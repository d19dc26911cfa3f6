"""Each recipe behaves: who lives in which key position, with which switch, relay or sensor.

The expected tables are written here by hand; what is compared with them is solved by the network on
the sized build, with every flasher lit and then dark.
"""

import json
from dataclasses import replace
from functools import cache
from itertools import pairwise, product
from typing import Any
from unittest import TestCase

from circuitry.design.model import Build, Part, Terminal, Wire
from circuitry.design.state import Supply
from circuitry.devices.load import output_word
from circuitry.devices.module import module_fields
from circuitry.document.checks import check
from circuitry.document.reading import read, write
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.network import Network, State
from circuitry.reach.paths import paths_of
from circuitry.reach.truth import truth_table
from circuitry.recipes.book import RECIPES
from circuitry.recipes.draft import Draft
from circuitry.recipes.modules import BY_MODULES
from circuitry.recipes.recipe import write_recipe
from circuitry.recipes.sample import bare_car, sample
from circuitry.recipes.whole import move_circuit
from circuitry.sizing import size_build

KEYS = ("off", "accessory", "run", "crank")
SMALL_SIZES = ("0.5 mm²", "0.75 mm²", "1 mm²")
WITH_RUN = ("run", "crank")
"""Key positions in which terminal 15 is live."""


@cache
def car_with_modules() -> Build:
    """The bare car with a large module at its panel and a small one at its tail."""
    build = bare_car()
    rows = {
        "front-module": ("panel", "Module large, 24 channels and 6 half-bridges"),
        "rear-module": ("rear-left", "Module small, 8 channels"),
    }
    modules = {
        name: Part(name, "module", name.replace("-", " ").capitalize(), place, **module_fields(row))
        for name, (place, row) in rows.items()
    }
    return replace(build, parts={**build.parts, **modules})


@cache
def written(recipe: str, answers: tuple[tuple[str, Any], ...] = ()) -> Network:
    given = {name: _thawed(value) for name, value in answers}
    build = write_recipe(bare_car(), RECIPES[recipe], given)
    check(build)
    return network_of(build)


def network_of(build: Build) -> Network:
    sizing = size_build(build)
    sizing.build.derived["sizing"] = sizing  # for whoever wants to power it up
    return Network(sizing.build)


def _thawed(value: Any) -> Any:
    return dict(value) if isinstance(value, frozenset) else value


def a(row: str, place: str) -> frozenset[tuple[str, str]]:
    """An answer: a new load of this row at this place."""
    return frozenset({"row": row, "place": place}.items())


def does(network: Network, load: str, key: str = "run", rpm: float = 0.0, **moved: str) -> str:
    """What a load does: off, dim, on, reverse, or flashing between lit and dark."""
    switches = {name.replace("_", "-"): at for name, at in moved.items()}
    state = State(key, switches, values={"engine_rpm": rpm} if rpm else {})
    lit, dark = (network.solve(replace(state, phase=phase)) for phase in ("lit", "dark"))
    words = [_word(solution.loads[load]) for solution in (lit, dark)]
    return "flashing" if words[0] != words[1] and "off" in words else words[0]


def _word(reading: Any) -> str:
    if reading.output_percent < 2:
        return "off"
    return "dim" if reading.output_percent < 40 else "reverse" if reading.volts < 0 else "on"


class TruthCase(TestCase):
    def written(self, recipe: str, answers: tuple[tuple[str, Any], ...] = ()) -> Network:
        return written(recipe, answers)

    def alive(self, network: Network, key: str = "run", rpm: float = 0.0, **moved: str) -> set[str]:
        """Loads that do anything, with what they do where it is not simply on."""
        said = set()
        for load in network.build.parts_of_kind("load"):
            word = does(network, load.id, key, rpm, **moved)
            if word != "off":
                said.add(load.id if word == "on" else f"{load.id} {word}")
        return said


class LampTruthTest(TruthCase):
    def test_headlamps(self) -> None:
        car = self.written("headlamps")
        dipped = {"dipped-beam-left", "dipped-beam-right"}
        main = {"main-beam-left", "main-beam-right", "main-beam-telltale"}
        for key in KEYS:
            for light in ("off", "side"):
                for dip in ("dip", "main"):
                    self.assertEqual(
                        self.alive(car, key, light_switch=light, dip_switch=dip), set()
                    )
            self.assertEqual(self.alive(car, key, light_switch="head", dip_switch="dip"), dipped)
            self.assertEqual(self.alive(car, key, light_switch="head", dip_switch="main"), main)
            for light, rest in (("off", set()), ("side", set()), ("head", dipped)):
                flashed = self.alive(car, key, light_switch=light, dip_switch="flash")
                self.assertEqual(flashed, main | rest, (key, light))

    def test_headlamps_straight_through_their_switches(self) -> None:
        car = self.written("headlamps", (("relays", False),))
        self.assertFalse(car.build.parts_of_kind("relay"))
        alive = self.alive(car, light_switch="head", dip_switch="main")
        self.assertEqual(alive, {"main-beam-left", "main-beam-right", "main-beam-telltale"})

    def test_side_and_tail_by_corner(self) -> None:
        corners = {"side-lamp-left", "side-lamp-right", "tail-lamp-left", "tail-lamp-right"}
        for fuses in ("one fuse", "one for each side"):
            car = self.written("side-and-tail", (("fuses", fuses),))
            for key in KEYS:
                self.assertEqual(self.alive(car, key, light_switch="off"), set())
                for light in ("side", "head"):
                    alive = self.alive(car, key, light_switch=light)
                    self.assertEqual(alive, corners | {"number-plate-lamp"})

    def test_a_fuse_for_each_side_keeps_the_other_side(self) -> None:
        car = self.written("side-and-tail", (("fuses", "one for each side"),)).build
        left = next(part.id for part in car.parts.values() if part.name == "Side lamps left")
        wires = {k: w for k, w in car.wires.items() if w.to_terminal.part != left}
        alive = self.alive(network_of(replace(car, wires=wires)), light_switch="side")
        self.assertEqual(alive, {"side-lamp-right", "tail-lamp-right"})

    def test_stop_lamps(self) -> None:
        for key, live_in in (("always", KEYS), ("run", WITH_RUN)):
            car = self.written("stop-lamps", (("key", key),))
            for at in KEYS:
                self.assertEqual(self.alive(car, at), set())
                lamps = {"stop-lamp-left", "stop-lamp-right"} if at in live_in else set()
                self.assertEqual(self.alive(car, at, brake_switch="pressed"), lamps)

    def test_reversing_lamps_that_serve_as_fogs_keep_the_sounder_silent(self) -> None:
        answers = (("as_fogs", True), ("sounder", a("Reversing sounder", "rear-left")))
        car = self.written("reversing", answers)
        for key in KEYS:
            live = key in WITH_RUN
            for fog in ("off", "on"):
                lamp = {"reversing-lamp"} if live and fog == "on" else set()
                self.assertEqual(self.alive(car, key, rear_fog_switch=fog), lamp)
                both = {"reversing-lamp", "reversing-sounder"} if live else set()
                alive = self.alive(car, key, rear_fog_switch=fog, gear_switch="in gear")
                self.assertEqual(alive, both)

    def test_fogs_with_their_interlocks(self) -> None:
        car = self.written("fogs")
        front = {"front-fog-left", "front-fog-right"}
        for light in ("off", "side", "head"):
            for dip in ("dip", "main", "flash"):
                for front_at in ("off", "on"):
                    for rear_at in ("off", "on"):
                        alive = self.alive(
                            car,
                            light_switch=light,
                            dip_switch=dip,
                            front_fog_switch=front_at,
                            rear_fog_switch=rear_at,
                        )
                        asked = front_at == "on" and light != "off"
                        main = light == "head" and dip == "main"
                        dipped = light == "head" and dip != "main"
                        expected = front if asked and not main else set()
                        if rear_at == "on" and (dipped or asked):
                            expected = expected | {"rear-fog-lamp"}
                        self.assertEqual(alive, expected, (light, dip, front_at, rear_at))


class BeamsThroughTheSwitchTest(TruthCase):
    """Where no relay takes the beams off the light switch, its fuse is too much for small lamps."""

    def car(self, *recipes: str) -> Build:
        build = bare_car()
        for recipe in recipes:
            answers = {"relays": False} if recipe == "headlamps" else {}
            build = write_recipe(build, RECIPES[recipe], answers)
        return build

    def test_small_lamps_get_a_fuse_of_their_own_whichever_is_written_first(self) -> None:
        corners = {"side-lamp-left", "side-lamp-right", "tail-lamp-left", "tail-lamp-right"}
        for order in (("headlamps", "side-and-tail"), ("side-and-tail", "headlamps")):
            sizing = size_build(self.car(*order))
            alive = self.alive(Network(sizing.build), light_switch="side")
            self.assertEqual(alive, corners | {"number-plate-lamp"}, order)
            for lamp in corners:
                fuse = sizing.build.parts[sizing.loads[lamp].fuse or ""]
                self.assertEqual(fuse.name, "Side lamps", (order, lamp))
                self.assertIn(sizing.wires[sizing.loads[lamp].wire or ""].size, SMALL_SIZES)

    def test_what_else_hangs_on_the_side_position_goes_behind_it_too(self) -> None:
        build = self.car("headlamps", "side-and-tail", "fogs", "day-lamps")
        fuse = next(part.id for part in build.parts.values() if part.name == "Side lamps")
        onward = {
            wire.to_terminal.part
            for wire in build.wires.values()
            if wire.from_terminal == Terminal(fuse, "out")
        }
        self.assertLess({"front-fog-switch", "day-lamp-relay"}, onward)
        on_side = [w for w in build.wires.values() if str(w.from_terminal) == "light-switch.side"]
        self.assertEqual([wire.to_terminal.part for wire in on_side], [fuse])

    def test_fogs_behave_as_with_relays_behind_fuses_of_their_own(self) -> None:
        build = write_recipe(bare_car(), RECIPES["headlamps"], {"relays": True})
        with_relays = network_of(write_recipe(build, RECIPES["fogs"], {}))
        for order in (("headlamps", "fogs"), ("fogs", "headlamps")):
            sizing = size_build(self.car(*order))
            lamp = sizing.loads["rear-fog-lamp"]
            self.assertIn(sizing.build.parts[lamp.fuse or ""].name, ("Rear fog", "Side lamps"))
            (told,) = (row for row in sizing.findings if row.parts == ("rear-fog-lamp",))
            self.assertIn("a diode take", told.why)
            car = Network(sizing.build)
            for light, dip, front, rear in product(
                ("off", "side", "head"), ("dip", "main", "flash"), ("off", "on"), ("off", "on")
            ):
                moved = {"light_switch": light, "dip_switch": dip}
                moved |= {"front_fog_switch": front, "rear_fog_switch": rear}
                self.assertEqual(self.alive(car, **moved), self.alive(with_relays, **moved), order)
            for wire in sizing.wires.values():
                ends = sizing.build.wires[wire.wire]
                small = {"front-fog-lock-out-relay", "rear-fog-lamp", "rear-fog-switch"}
                if {ends.from_terminal.part, ends.to_terminal.part} & small:
                    self.assertLessEqual(wire.must_carry_a, 15.0, (order, str(ends.to_terminal)))

    def test_with_relays_no_fuse_is_added(self) -> None:
        build = write_recipe(bare_car(), RECIPES["headlamps"], {"relays": True})
        for recipe in ("side-and-tail", "fogs"):
            build = write_recipe(build, RECIPES[recipe], {})
        names = {part.name for part in build.parts_of_kind("fuse")}
        self.assertFalse(names & {"Side lamps", "Rear fog"})


class TurnTruthTest(TruthCase):
    LEFT = ("turn-lamp-front-left", "turn-lamp-rear-left", "turn-telltale-left")
    RIGHT = ("turn-lamp-front-right", "turn-lamp-rear-right", "turn-telltale-right")

    def test_turn_and_hazard(self) -> None:
        car = self.written("turn-and-hazard")
        left, right = ({f"{lamp} flashing" for lamp in side} for side in (self.LEFT, self.RIGHT))
        for key in KEYS:
            sides = {"middle": set(), "left": left, "right": right}
            for turn, side in sides.items():
                alive = self.alive(car, key, turn_switch=turn, hazard_switch="off")
                self.assertEqual(alive, side if key in WITH_RUN else set(), (key, turn))
                both = self.alive(car, key, turn_switch=turn, hazard_switch="on")
                self.assertEqual(both, left | right, (key, turn))

    def test_turn_and_stop_in_one_filament_in_all_eight_combinations(self) -> None:
        car = self.written("turn-and-stop")
        rear_left, rear_right = "turn-and-stop-lamp-left", "turn-and-stop-lamp-right"
        left = {f"{x} flashing" for x in (rear_left, self.LEFT[0], self.LEFT[2])}
        right = {f"{x} flashing" for x in (rear_right, self.RIGHT[0], self.RIGHT[2])}
        rows = [
            ("middle", "off", "released", set()),
            ("middle", "off", "pressed", {rear_left, rear_right}),
            ("left", "off", "released", left),
            ("left", "off", "pressed", left | {rear_right}),
            ("right", "off", "released", right),
            ("right", "off", "pressed", right | {rear_left}),
            ("middle", "on", "released", left | right),
            ("middle", "on", "pressed", left | right),
        ]
        for turn, hazard, brake, expected in rows:
            alive = self.alive(car, column_switch=turn, hazard_switch=hazard, brake_switch=brake)
            self.assertEqual(alive, expected, (turn, hazard, brake))

    def test_led_lamps_flash_fast_until_they_are_cured(self) -> None:
        lamps = {
            name: a("Turn lamp LED", name.replace("_", "-"))
            for name in ("front_left", "front_right", "rear_left", "rear_right")
        }
        build = self.written("turn-and-hazard", tuple(lamps.items())).build
        turning = State("run", {"turn-switch": "left"})
        works = {None: "flashing fast"}
        for cure in ("a flasher that needs no load", "a resistor on each side"):
            works[cure] = "flashing"
        for cure, expected in works.items():
            answers = {"cure": cure, "missing_w": 30.0}
            cured = write_recipe(build, RECIPES["flasher-cure"], answers) if cure else build
            solution = Network(size_build(cured).build).solve(turning)
            self.assertEqual(solution.flashers["flasher"].works, expected, cure)


class MotorTruthTest(TruthCase):
    SLOW, FAST, PUMP = "wiper-motor", "wiper-motor-fast", "washer-pump"

    def test_wipers_park_by_themselves(self) -> None:
        car = self.written("wipers")
        rows = [
            ("off", "parked", set()),
            ("off", "away", {self.SLOW}),
            ("slow", "parked", {self.SLOW}),
            ("slow", "away", {self.SLOW}),
            ("fast", "parked", {self.FAST}),
            ("fast", "away", {self.FAST}),
            ("wash", "parked", {self.SLOW, self.PUMP}),
            ("wash", "away", {self.SLOW, self.PUMP}),
        ]
        for key in KEYS:
            for at, blades, expected in rows:
                alive = self.alive(car, key, wiper_switch=at, wiper_park_contact=blades)
                self.assertEqual(alive, expected if key in WITH_RUN else set(), (key, at, blades))

    def test_blower_runs_faster_at_each_step(self) -> None:
        for row, steps in (
            ("Two-speed switch", ("slow", "fast")),
            ("Three-speed switch", ("1", "2", "3")),
            ("Four-speed switch", ("1", "2", "3", "4")),
        ):
            car = self.written("blower", (("switch", a(row, "dash")),))
            speeds = [
                car.solve(State("run", {"speed-switch": step})).loads["blower"].output_percent
                for step in ("off", *steps)
            ]
            self.assertAlmostEqual(speeds[0], 0.0, delta=0.1)
            for slower, faster in pairwise(speeds):
                self.assertGreater(faster, slower + 8, row)
            self.assertGreater(speeds[-1], 85)
            self.assertEqual(self.alive(car, "accessory", speed_switch=steps[-1]), set())

    def test_fan_by_thermostat_or_override(self) -> None:
        for control in ("feeds the coil", "grounds the coil"):
            override = frozenset({"row": "Switch, off and on", "place": "dash"}.items())
            car = self.written("fan", (("control", control), ("override", override)))
            for key in KEYS:
                for hot in ("cold", "hot"):
                    for over in ("off", "on"):
                        alive = self.alive(car, key, thermostat_switch=hot, override_switch=over)
                        wanted = key in WITH_RUN and (hot == "hot" or over == "on")
                        self.assertEqual(alive, {"fan"} if wanted else set())

    def test_pump_by_prime_button_and_oil_pressure(self) -> None:
        car = self.written("fuel-pump")
        for key in KEYS:
            for oil in ("none", "pressure"):
                for prime in ("released", "held"):
                    for crash in ("normal", "tripped"):
                        alive = self.alive(
                            car,
                            key,
                            oil_pressure_safety_switch=oil,
                            prime_button=prime,
                            inertia_switch=crash,
                        )
                        asked = oil == "pressure" or prime == "held"
                        runs = key in WITH_RUN and asked and crash == "normal"
                        self.assertEqual(alive, {"fuel-pump"} if runs else set())

    def test_pump_held_by_the_control_box_while_the_engine_turns(self) -> None:
        car = self.written("fuel-pump", (("held_by", "control box"),))
        for rpm, prime, runs in (
            (0, "released", False),
            (0, "held", True),
            (250, "released", True),
        ):
            alive = self.alive(car, "run", rpm, prime_button=prime)
            self.assertEqual("fuel-pump" in alive, runs, (rpm, prime))
        self.assertEqual(self.alive(car, "run", 250, inertia_switch="tripped"), set())

    def test_motor_reversed_by_a_switch_and_by_two_relays(self) -> None:
        rows = {"rest": set(), "up": {"motor"}, "down": {"motor reverse"}}
        for recipe, switch, keys in (
            ("reversed-by-switch", "reversing_switch", WITH_RUN),
            ("reversed-by-relays", "up_and_down_switch", KEYS),
        ):
            car = self.written(recipe)
            for key in KEYS:
                for at, expected in rows.items():
                    alive = self.alive(car, key, **{switch: at})
                    self.assertEqual(alive, expected if key in keys else set(), (recipe, key, at))

    def test_horn(self) -> None:
        for push in ("feeds the coil", "grounds the coil"):
            car = self.written("horn", (("push_does", push),))
            for key in KEYS:
                self.assertEqual(self.alive(car, key), set())
                self.assertEqual(self.alive(car, key, horn_push="held"), {"horn"})


class OnModules:
    """The same functions on two modules that no bus joins: each led to the one that feeds it."""

    def written(self, recipe: str, answers: tuple[tuple[str, Any], ...] = ()) -> Network:
        given = {name: _thawed(value) for name, value in (*answers, ("fed_by", BY_MODULES))}
        build = write_recipe(car_with_modules(), RECIPES[recipe], given)
        check(build)
        self.assertFalse([row.name for row in build.parts_of_kind("relay", "flasher")])
        return network_of(build)


class LampTruthOnModulesTest(OnModules, LampTruthTest):
    test_headlamps_straight_through_their_switches = None
    test_a_fuse_for_each_side_keeps_the_other_side = None


class TurnTruthOnModulesTest(OnModules, TurnTruthTest):
    test_turn_and_stop_in_one_filament_in_all_eight_combinations = None
    test_led_lamps_flash_fast_until_they_are_cured = None


class MotorTruthOnModulesTest(OnModules, MotorTruthTest):
    test_blower_runs_faster_at_each_step = None

    def test_fan_by_thermostat_or_override(self) -> None:
        """A fan of 21 A is more than any channel bears for ever."""
        with self.assertRaisesRegex(UnusableInput, "Leave it on a fuse and a relay"):
            self.written("fan")

    def test_motor_reversed_by_a_switch_and_by_two_relays(self) -> None:
        rows = {"rest": set(), "up": {"motor"}, "down": {"motor reverse"}}
        car = self.written("reversed-by-relays")
        for key, (at, expected) in product(KEYS, rows.items()):
            self.assertEqual(self.alive(car, key, up_and_down_switch=at), expected, (key, at))


class CabinTruthTest(TruthCase):
    def test_interior_lamp_by_any_door_or_its_switch(self) -> None:
        car = written("interior")
        for at in ("door", "off", "on"):
            for left in ("closed", "open"):
                for right in ("closed", "open"):
                    alive = self.alive(
                        car,
                        "off",
                        interior_lamp_switch=at,
                        door_switch_left=left,
                        door_switch_right=right,
                    )
                    lit = at == "on" or (at == "door" and "open" in (left, right))
                    self.assertEqual(alive, {"interior-lamp"} if lit else set())

    def test_radio_keeps_its_memory(self) -> None:
        car = written("radio")
        for key in KEYS:
            played = {"radio"} if key in ("accessory", "run") else set()
            self.assertEqual(self.alive(car, key), played | {"radio-memory"}, key)

    def test_cluster_warns_of_oil(self) -> None:
        car = written("cluster")
        always = {"instrument-cluster-memory"}
        for key in KEYS:
            run = {"instrument-cluster"} if key in WITH_RUN else set()
            oil = {"oil-telltale"} if key in WITH_RUN else set()
            self.assertEqual(self.alive(car, key), always | run, key)
            no_oil = self.alive(car, key, oil_pressure_switch="none")
            self.assertEqual(no_oil, always | run | oil, key)
            lit = self.alive(car, key, light_switch="side")
            self.assertEqual(lit, always | run | {"instrument-lamp"}, key)

    def test_gauges_of_the_cluster_go_with_their_senders(self) -> None:
        """13.5 V drive 0.15 A in a gauge by itself, and so a half of it in series with 90 Ω."""
        at = {"fuel-level-sender": ("Fuel-level sender", "rear-left", 90.0)}
        at |= {"coolant-sender": ("Temperature sender", "engine", 810.0)}
        senders = {
            name: Part(name, "sensor", name, place, row, figures={"resistance_ohm": ohm})
            for name, (row, place, ohm) in at.items()
        }
        listed = replace(bare_car(), parts={**bare_car().parts, **senders})
        car = network_of(write_recipe(listed, RECIPES["cluster"], {}))
        supply = Supply(13.5, 1e-4)
        for key in KEYS:
            loads = car.solve(State(key, supply=supply)).loads
            for gauge, percent in (("fuel-gauge", 50.0), ("temperature-gauge", 10.0)):
                self.assertEqual(output_word(car.build.parts[gauge]), "current")
                shown = loads[gauge].output_percent
                self.assertAlmostEqual(shown, percent if key in WITH_RUN else 0.0, delta=0.5)
        again = {"cluster": {"row": "Instrument cluster", "place": "dash"}, "oil_switch": None}
        again["fuel_sender"] = {"part": "fuel-level-sender"}
        with self.assertRaisesRegex(UnusableInput, "fuel-level-sender is wired already"):
            write_recipe(car.build, RECIPES["cluster"], again)
        new = {"row": "Fuel-level sender", "place": "rear-left"}
        fresh = write_recipe(bare_car(), RECIPES["cluster"], {"fuel_sender": new})
        self.assertEqual(fresh.parts["fuel-level-sender"].place, "rear-left")

    def test_sockets(self) -> None:
        for asked, live_in in (("always", KEYS), ("accessory", ("accessory", "run"))):
            car = written("sockets", (("key", asked),))
            for key in KEYS:
                self.assertEqual(self.alive(car, key), {"socket"} if key in live_in else set())


class ExtrasTruthTest(TruthCase):
    def test_day_lamps_go_out_with_the_side_lamps(self) -> None:
        car = written("day-lamps")
        lamps = {"day-lamp-left", "day-lamp-right"}
        for key, light in product(KEYS, ("off", "side", "head")):
            expected = lamps if key in WITH_RUN and light == "off" else set()
            self.assertEqual(self.alive(car, key, light_switch=light), expected, (key, light))

    def test_either_button_releases_with_the_key_off_too(self) -> None:
        car = written("release")
        for key, hidden, inside in product(KEYS, ("released", "held"), ("released", "held")):
            expected = {"release"} if "held" in (hidden, inside) else set()
            alive = self.alive(car, key, hidden_button=hidden, button_inside=inside)
            self.assertEqual(alive, expected, (key, hidden, inside))

    def test_the_camera_looks_while_the_gear_is_in(self) -> None:
        car = written("camera")
        for key, gear in product(KEYS, ("out", "in gear")):
            expected = {"camera-screen"} if key in WITH_RUN else set()
            if gear == "in gear" and expected:
                expected = {"camera-screen", "reversing-camera"}
            self.assertEqual(self.alive(car, key, gear_switch=gear), expected, (key, gear))


class ControlTruthTest(TruthCase):
    def test_plain_load(self) -> None:
        for through in ("direct", "relay"):
            switch = frozenset({"row": "Switch, off and on", "place": "dash"}.items())
            car = written("plain-load", (("through", through), ("switch", switch)))
            for key in KEYS:
                self.assertEqual(self.alive(car, key), set())
                alive = self.alive(car, key, switch="on")
                self.assertEqual(alive, {"load"} if key in WITH_RUN else set())

    def test_solenoid_with_two_limit_switches(self) -> None:
        car = written("solenoid")
        for key in KEYS:
            for on in ("off", "on"):
                for first in ("free", "at limit"):
                    for second in ("free", "at limit"):
                        alive = self.alive(
                            car,
                            key,
                            switch=on,
                            first_limit_switch=first,
                            second_limit_switch=second,
                        )
                        free = (first, second) == ("free", "free")
                        held = key in WITH_RUN and on == "on" and free
                        self.assertEqual(alive, {"solenoid"} if held else set())

    def test_crossed_pair_passes_straight_and_crosses_while_held(self) -> None:
        car = written("crossed-pair")
        for first in ("off", "on"):
            for second in ("off", "on"):
                called = {"calls_the_first_line": first, "calls_the_second_line": second}
                lines = [at == "on" for at in (first, second)]
                for button, order in (("released", lines), ("held", lines[::-1])):
                    alive = self.alive(car, crossing_button=button, **called)
                    loads = ("first-load", "second-load")
                    expected = {load for load, on in zip(loads, order, strict=True) if on}
                    self.assertEqual(alive, expected, (first, second, button))

    def test_a_four_pin_relay_cannot_cross(self) -> None:
        build = written("crossed-pair").build
        relay = next(part for part in build.parts_of_kind("relay") if "Cross" in part.name)
        parts = {**build.parts, relay.id: replace(relay, catalogue="mini 4-pin")}
        with self.assertRaisesRegex(Exception, "has four pins. Choose a changeover five-pin relay"):
            check(replace(build, parts=parts))

    def test_diode_logic_feeds_nothing_back(self) -> None:
        build, _ = sample("diode-logic")
        car = Network(size_build(build).build)
        self.assertEqual(self.alive(car, "off"), {"socket", "load"})
        self.assertEqual(self.alive(car, "run"), {"socket", "socket-2", "load"})

    def test_control_box_outputs_follow_their_inputs(self) -> None:
        pins = "1: supply\n2: ground\nclutch: input\nfan: high side when clutch and coolant_c > 92"
        build = written("control-box", (("pins", pins), ("name", "Box"))).build
        draft = Draft(build)
        circuit = build.circuits["control-box"]
        fan = draft.add_part("load", "Fan", "engine", catalogue="Horn", circuit=circuit.id)
        draft.feed(Terminal("box", "fan"), Terminal(fan.id, "+"), circuit)
        draft.ground(Terminal(fan.id, "-"), circuit)
        draft.feed(Terminal("panel", "accessory"), Terminal("box", "clutch"), circuit)
        check(draft.build)
        car = Network(size_build(draft.build).build)
        for key, coolant_c, runs in (
            ("run", 80.0, False),
            ("run", 95.0, True),
            ("crank", 95.0, False),
        ):
            solution = car.solve(State(key, values={"coolant_c": coolant_c}))
            self.assertEqual(solution.loads["fan"].volts > 6, runs, (key, coolant_c))

    def test_module_channel_by_a_switch_on_its_input(self) -> None:
        car = written("module-channel", (("module", "module"),))
        for key in KEYS:
            self.assertEqual(self.alive(car, key), set())
            self.assertEqual(self.alive(car, key, by_the_switch="on"), {"load"})


class SupplyTruthTest(TruthCase):
    def test_starter_with_neutral_interlock(self) -> None:
        car = written("starter")
        for key in KEYS:
            self.assertEqual(
                self.alive(car, key), {"starter-motor"} if key == "crank" else set(), key
            )
            self.assertEqual(self.alive(car, key, neutral_switch="in gear"), set())

    def test_start_button_gives_accessory_without_the_brake_and_cranks_with_it(self) -> None:
        answers = (
            ("button", frozenset({"place": "dash"}.items())),
            ("brake", frozenset({"place": "dash"}.items())),
            ("accessory", a("Telltale LED", "dash")),
        )
        car = written("starter", answers)
        brake = "brake_switch_for_starting"
        self.assertEqual(self.alive(car, "off"), set())
        self.assertEqual(self.alive(car, "run", start_button="held"), {"on-without-the-brake"})
        pressed = {"start_button": "held", brake: "pressed"}
        self.assertEqual(self.alive(car, "run", **pressed), {"starter-motor"})
        self.assertEqual(self.alive(car, "off", **pressed), set())
        in_gear = {**pressed, "neutral_switch": "in gear"}
        self.assertEqual(self.alive(car, "run", **in_gear), set())

    def test_charge_lamp_goes_out_when_it_charges(self) -> None:
        car = written("charging")
        for key in KEYS:
            lit = {"charge-telltale"} if key in WITH_RUN else set()
            self.assertEqual(self.alive(car, key), lit, key)
        self.assertEqual(self.alive(car, "run", rpm=2500), set())
        charging = car.solve(State("run", values={"engine_rpm": 2500.0}))
        self.assertLess(charging.battery_a, -1)

    def test_nothing_charges_without_its_lamp(self) -> None:
        build = written("charging").build
        wires = {k: w for k, w in build.wires.items() if w.to_terminal.name != "D+"}
        car = Network(replace(build, wires=wires))
        self.assertGreaterEqual(car.solve(State("run", values={"engine_rpm": 2500.0})).battery_a, 0)

    def test_relay_fed_panel_is_live_while_cranking(self) -> None:
        build = write_recipe(bare_car(), RECIPES["sub-panel"], {})
        answers = {"key": "run", "load": {"row": "Fuel pump injection", "place": "rear-left"}}
        build = write_recipe(build, RECIPES["plain-load"], {**answers, "fuse": None})
        panel = next(part for part in build.parts_of_kind("panel") if part.id != "panel")
        build = move_circuit(build, "one-load", panel.id, None, None)
        car = Network(size_build(build).build)
        for key in KEYS:
            self.assertEqual(self.alive(car, key), {"load"} if key in WITH_RUN else set(), key)

    def test_a_panel_beside_the_battery_is_fed_from_it_and_not_by_way_of_the_dash(self) -> None:
        bare = bare_car()
        moved = {
            name: replace(bare.parts[name], place="rear-left") for name in ("battery", "main-fuse")
        }
        rear = replace(bare, parts={**bare.parts, **moved})
        for build, place, source in (
            (rear, "rear-left", "battery"),
            (rear, "dash", "stud"),
            (bare, "rear-left", "stud"),
        ):
            answers = {"panel": None, "place": place}
            written_to = write_recipe(build, RECIPES["sub-panel"], answers)
            (fuse,) = (p for p in written_to.parts.values() if p.name == "Second panel fuse")
            (lead,) = (
                w for w in written_to.wires.values() if str(w.to_terminal) == f"{fuse.id}.in"
            )
            self.assertEqual(lead.from_terminal.part, source, place)
            self.assertEqual(fuse.place, written_to.parts[source].place)
            key = paths_of(written_to).key_needed(
                Terminal(
                    next(p.id for p in written_to.parts_of_kind("panel") if p.id != "panel"), "main"
                )
            )
            self.assertEqual(key, "run")

    def test_the_fuse_of_a_heavy_feed_is_where_the_feed_begins(self) -> None:
        """What lies before a fuse is guarded for more: by the main fuse, or by nothing."""
        bare = bare_car()
        far = replace(
            bare,
            parts={
                name: replace(part, place="rear-left") if name == "panel" else part
                for name, part in bare.parts.items()
            },
        )
        for recipe, fuse_name in (("engine", "Engine fuse"), ("glow-plugs", "Glow plug fuse")):
            build = write_recipe(far, RECIPES[recipe], {})
            (fuse,) = (part for part in build.parts.values() if part.name == fuse_name)
            self.assertEqual(fuse.place, "panel", recipe)  # where the stud is

    def test_a_bar_of_ground_is_not_taken_for_the_live_stud(self) -> None:
        bare = bare_car()
        bar = Part("ground-bar", "bus bar", "Ground bar", "panel")
        ends = Terminal("ground-bar", "stud"), Terminal("ground", "stud")
        grounding = Wire("w90", "W90", *ends, circuit="feed")
        build = replace(
            bare,
            parts={bar.id: bar, **bare.parts},
            wires={**bare.wires, grounding.id: grounding},
        )
        written_to = write_recipe(build, RECIPES["engine"], {})
        (lead,) = (w for w in written_to.wires.values() if str(w.to_terminal) == "engine-fuse.in")
        self.assertEqual(lead.from_terminal.part, "stud")

    def test_no_second_bar_is_put_where_one_is(self) -> None:
        build = bare_car()
        for recipe in ("sub-panel", "far-panel"):
            answers = {"place": "rear-left", **({"panel": None} if recipe == "sub-panel" else {})}
            build = write_recipe(build, RECIPES[recipe], answers)
            self.assertEqual(len(build.parts_of_kind("bus bar")), 1, recipe)

    def test_what_is_beside_a_ground_strip_returns_to_it(self) -> None:
        build = write_recipe(
            bare_car(), RECIPES["sub-panel"], {"panel": None, "place": "rear-left"}
        )
        (strip,) = build.parts_of_kind("bus bar")
        load = {"row": "Side lamp 5 W", "place": "rear-left"}
        build = write_recipe(build, RECIPES["plain-load"], {"load": load})
        (back,) = (w for w in build.wires.values() if str(w.from_terminal) == "load.-")
        self.assertEqual(back.to_terminal.part, strip.id)

    def test_written_again_under_another_name_it_keeps_the_strip_that_others_return_to(
        self,
    ) -> None:
        build = write_recipe(
            bare_car(), RECIPES["sub-panel"], {"panel": None, "place": "rear-left"}
        )
        strip = next(part for part in build.parts_of_kind("bus bar"))
        load = {"row": "Side lamp 5 W", "place": "rear-left"}
        build = write_recipe(build, RECIPES["plain-load"], {"load": load})
        (back,) = (w for w in build.wires.values() if str(w.from_terminal) == "load.-")
        moved = replace(back, to_terminal=Terminal(strip.id, "stud"), way=None)
        panel = next(part for part in build.parts_of_kind("panel") if part.id != "panel")
        parts = {**build.parts, panel.id: replace(panel, name="Rear panel")}
        build = replace(build, wires={**build.wires, back.id: moved}, parts=parts)
        circuit = next(
            c for c in build.circuits.values() if c.written and c.written.recipe == "sub-panel"
        )
        again = write_recipe(
            build, RECIPES["sub-panel"], circuit.written.answers, circuit=circuit.id
        )
        self.assertEqual([part.id for part in again.parts_of_kind("bus bar")], [strip.id])
        self.assertIn("load", self.alive(Network(size_build(again).build), "run"))

    def test_engine_lives_behind_one_main_relay_with_a_fuse_for_each(self) -> None:
        car = written("engine")
        all_of_it = {"control-box", "ignition-coils", "injectors", "lambda-heater", "idle-valve"}
        for key in KEYS:
            self.assertEqual(self.alive(car, key), all_of_it if key in WITH_RUN else set(), key)
        build = car.build
        relays = build.parts_of_kind("relay")
        self.assertEqual(len(relays), 1)
        one_dead = {k: p for k, p in build.parts.items() if p.name != "E3 Injectors"}
        parted = Network(replace(build, parts=one_dead))
        self.assertEqual(self.alive(parted, "run"), all_of_it - {"injectors"})

    def test_engine_with_a_carburettor_has_its_coil_alone(self) -> None:
        left_out = tuple(
            (name, None) for name in ("box", "injectors", "lambda_heater", "idle_valve")
        )
        car = written("engine", (("coils", a("Ignition coil single", "engine")), *left_out))
        self.assertEqual(self.alive(car, "run"), {"ignition-coils"})
        self.assertEqual(self.alive(car, "crank"), {"ignition-coils"})
        self.assertEqual(self.alive(car, "accessory"), set())

    def test_ignition_feed_carries_the_load_past_the_key(self) -> None:
        build = write_recipe(
            bare_car(), RECIPES["ignition-feed"], {"panel": None, "place": "panel"}
        )
        panel = next(part for part in build.parts_of_kind("panel") if part.id != "panel")
        self.assertEqual(paths_of(build).key_needed(Terminal(panel.id, "main")), "run")

    def test_isolator_stops_the_engine_though_the_alternator_turns(self) -> None:
        build = write_recipe(bare_car(), RECIPES["charging"], {})
        coils = {"row": "Ignition coils set of four", "place": "engine"}
        build = write_recipe(build, RECIPES["plain-load"], {"load": coils})
        build = write_recipe(build, RECIPES["main-feed"], {})
        car = Network(size_build(build).build)
        self.assertIn("load", self.alive(car, "run", rpm=2500))
        self.assertEqual(self.alive(car, "run", rpm=2500, isolator_inside="off"), set())

    def test_either_of_two_isolators_cuts_the_car_off(self) -> None:
        build = write_recipe(bare_car(), RECIPES["sockets"], {"key": "always"})
        outside = {"outside": {"place": "rear-left"}, "stops_engine": False}
        car = Network(size_build(write_recipe(build, RECIPES["main-feed"], outside)).build)
        self.assertEqual(self.alive(car, "off"), {"socket"})
        for isolator in ("isolator_inside", "isolator_outside"):
            self.assertEqual(self.alive(car, "off", **{isolator: "off"}), set())


class TruthTableTest(TestCase):
    """The table on the screen says what solving each state says."""

    def test_rows_cover_every_combination_once_and_agree_with_the_solver(self) -> None:
        for recipe in ("turn-and-hazard", "fogs", "wipers", "starter"):
            build, circuit = sample(recipe)
            network = Network(size_build(build).build)
            loads = tuple(network.build.loads_of(circuit))
            table = truth_table(network, loads)
            self.assertFalse(table.held)
            count = 1
            for lever in table.levers:
                count *= len(lever.positions)
            covered = 0
            for row in table.rows:
                size = 1
                for choices in row.positions:
                    size *= len(choices)
                covered += size
                moved = {
                    lever.part.replace("-", "_"): choices[0]
                    for lever, choices in zip(table.levers, row.positions, strict=True)
                }
                key = moved.pop("key", "off")
                for load, outcome in zip(table.loads, row.outcomes, strict=True):
                    word = does(network, load, key, **moved)
                    self.assertEqual(outcome.word, word, (recipe, moved, load))
            self.assertEqual(covered, count, recipe)

    def test_what_every_recipe_writes_is_read_back_and_can_be_asked_for(self) -> None:
        """Answers of several lines too, such as the pins of a control box."""
        for recipe in RECIPES.values():
            build, circuit = sample(recipe.id)
            self.assertEqual(read(write(build)), build, recipe.id)
            answers = build.circuits[circuit].written.answers
            asked = {"op": "write_recipe", "recipe": recipe.id, "circuit": circuit}
            apply_operations(build, [{**asked, "answers": json.loads(json.dumps(dict(answers)))}])

    def test_every_recipe_has_a_sample_with_help_and_no_stop(self) -> None:
        for recipe in RECIPES.values():
            build, circuit = sample(recipe.id)
            check(build)
            stops = [row.title for row in size_build(build).findings if row.severity == "stop"]
            self.assertEqual(stops, [], recipe.id)
            self.assertTrue(recipe.caution and recipe.wrong and recipe.summary)
            self.assertIn(circuit, build.circuits)


class TrailerTruthTest(TruthCase):
    """The socket as ISO 1724 has it: each lamp of the trailer does what the car's does."""

    def test_each_lamp_follows_that_of_the_car(self) -> None:
        build, _ = sample("trailer")
        network = Network(size_build(build).build)
        follows = {
            "trailer-turn-lamp-left": "turn-lamp-rear-left",
            "trailer-turn-lamp-right": "turn-lamp-rear-right",
            "trailer-tail-lamps": "tail-lamp-left",
            "trailer-stop-lamps": "stop-lamp-left",
        }
        for moved in (
            {"turn_switch": "left"},
            {"turn_switch": "right"},
            {"hazard_switch": "on"},
            {"light_switch": "side"},
            {"brake_switch": "pressed"},
            {},
        ):
            for ours, its in follows.items():
                self.assertEqual(
                    does(network, ours, **moved), does(network, its, **moved), (ours, moved)
                )
        self.assertEqual(does(network, "trailer-turn-lamp-left", turn_switch="left"), "flashing")

    def test_its_lamps_lose_what_is_lost_at_the_car_s_and_yet_no_more_than_they_may(self) -> None:
        sizing = size_build(sample("trailer")[0])
        for ours, its in (
            ("trailer-turn-lamp-left", "turn-lamp-rear-left"),
            ("trailer-stop-lamps", "stop-lamp-left"),
        ):
            self.assertGreater(sizing.loads[ours].drop_v, sizing.loads[its].drop_v)
            self.assertLessEqual(sizing.loads[ours].drop_v, sizing.loads[ours].limit_v)
        self.assertFalse([row.title for row in sizing.findings if "share" in row.code])

    def test_contacts_are_those_of_the_standard(self) -> None:
        build, circuit = sample("trailer")
        lands = {
            wire.from_terminal.name: wire.to_terminal.part
            for wire in build.wires.values()
            if wire.circuit == circuit and wire.from_terminal.part == "trailer-socket"
        }
        self.assertEqual(lands["1b"], "trailer-turn-lamp-left")
        self.assertEqual(lands["4b"], "trailer-turn-lamp-right")
        self.assertEqual(lands["6b"], "trailer-stop-lamps")
        self.assertEqual(lands["7b"], "trailer-tail-lamps")

    def test_without_lamps_to_follow_it_says_so(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "no turn lamp"):
            write_recipe(bare_car(), RECIPES["trailer"], {})


class GlowPlugTruthTest(TruthCase):
    def test_plugs_glow_while_the_button_is_held_with_the_key_on_run(self) -> None:
        build, _ = sample("glow-plugs")
        network = Network(size_build(build).build)
        plugs = {f"glow-plug-{number}" for number in range(1, 5)}
        self.assertEqual(self.alive(network, preheat_button="held"), plugs)
        self.assertEqual(self.alive(network, "off", preheat_button="held"), set())
        self.assertEqual(self.alive(network), set())
        fuse = next(row for row in network.build.parts.values() if row.name == "Glow plug fuse")
        self.assertGreaterEqual(fuse.number("rating_a", 0), 4 * 12)


class HeavyLoadTruthTest(TruthCase):
    def test_a_winch_has_its_own_way_from_the_battery_and_back(self) -> None:
        build, _ = sample("heavy-load")
        network = Network(size_build(build).build)
        self.assertEqual(self.alive(network, winch_switch="on"), {"winch"})
        self.assertEqual(self.alive(network, "off", winch_switch="on"), set())
        self.assertEqual(self.alive(network), set())
        path = paths_of(build).to_load(build.parts["winch"])
        assert path is not None
        owners = [build.parts[step.owner].name for step in path.steps if step.kind != "wire"]
        self.assertEqual(owners, ["Winch fuse", "Winch relay"])
        self.assertEqual([step.to_terminal for step in path.back], [Terminal("battery", "-")])

    def test_what_no_contactor_bears_is_refused(self) -> None:
        build, _ = sample("heavy-load")
        winch = build.parts["winch"]
        heavy = replace(winch, circuit=None, figures={"rated_a": 400.0})
        car = bare_car()
        car = replace(car, parts={**car.parts, "winch": heavy})
        with self.assertRaisesRegex(UnusableInput, "contactor of its own"):
            write_recipe(car, RECIPES["heavy-load"], {})


class SourceTruthTest(TruthCase):
    """What feeds the car beside its battery."""

    def test_a_second_battery_keeps_what_is_on_it_alive_and_is_charged_with_the_first(self) -> None:
        build, _ = sample("second-battery")
        network = Network(size_build(build).build)
        standing = network.solve(State("off", supply=Supply(12.0, 0.007)))
        self.assertGreater(standing.part_a["second-battery"], -11.0)
        self.assertLess(standing.part_a["second-battery"], -9.0)  # it feeds its socket of 10 A
        self.assertAlmostEqual(standing.battery_a, 0.0, delta=0.05)
        driving = network.solve(State("run", supply=Supply(14.4, 1e-4)))
        self.assertGreater(driving.part_a["second-battery"], 5.0)
        # no more than a quarter of its capacity an hour, whatever the voltage
        self.assertLessEqual(driving.part_a["second-battery"], 15.0)

    def test_between_the_two_voltages_a_split_charge_relay_stays_as_it_is(self) -> None:
        build, _ = sample("second-battery")
        network = Network(size_build(build).build)
        joined = {
            volts: ("split-charge-relay", "joined")
            in network.solve(State("off", supply=Supply(volts, 1e-4))).closed
            for volts in (12.7, 13.0, 13.4)
        }
        self.assertEqual(joined, {12.7: False, 13.0: False, 13.4: True})

    def test_solar_cells_give_by_the_light_until_the_battery_is_full(self) -> None:
        build, _ = sample("solar")
        network = Network(size_build(build).build)

        def given_a(percent: float, volts: float) -> float:
            light = {"daylight_percent": percent}
            return network.solve(State("off", values=light, supply=Supply(volts, 1e-4))).battery_a

        self.assertAlmostEqual(given_a(100, 12.5), -20 / 17, delta=0.01)
        self.assertAlmostEqual(given_a(50, 12.5), -10 / 17, delta=0.01)
        self.assertAlmostEqual(given_a(0, 12.5), 0.0, delta=0.001)
        self.assertAlmostEqual(given_a(100, 14.3), 0.0, delta=0.001)

    def test_a_solar_panel_stays_on_the_battery_when_isolators_come(self) -> None:
        build, _ = sample("solar")
        build = write_recipe(build, RECIPES["main-feed"], {"stops_engine": False})
        (lead,) = (w for w in build.wires.values() if str(w.to_terminal) == "solar-fuse.in")
        self.assertEqual(lead.from_terminal, Terminal("battery", "+"))

    def test_an_isolator_is_not_blamed_for_cells_on_the_battery(self) -> None:
        build, _ = sample("solar")
        build = write_recipe(build, RECIPES["main-feed"], {"stops_engine": False})
        self.assertNotIn("live-past-isolator", {row.code for row in size_build(build).findings})

    def test_what_a_second_battery_feeds_loses_nothing_rather_than_less(self) -> None:
        build, _ = sample("second-battery")
        self.assertGreaterEqual(size_build(build).loads["on-it"].drop_v, 0.0)

    def test_an_isolator_is_not_blamed_for_the_second_battery(self) -> None:
        build, circuit = sample("second-battery")
        build = write_recipe(build, RECIPES["main-feed"], {"stops_engine": False})
        live = [row for row in size_build(build).findings if row.code == "live-past-isolator"]
        self.assertEqual(live, [])
        # what else stays live beside it is
        wires = {
            k: replace(w, from_terminal=Terminal("second-battery-stud", "stud"))
            if str(w.to_terminal) == "stud.stud"
            else w
            for k, w in build.wires.items()
        }
        fed = replace(build, wires=wires)
        live = [row for row in size_build(fed).findings if row.code == "live-past-isolator"]
        self.assertTrue(live)
        self.assertNotIn(circuit, {fed.wires[part].circuit for part in live[0].parts[1:]})

    def test_a_converter_feeds_the_car_while_the_key_enables_it(self) -> None:
        build, _ = sample("converter")
        network = Network(size_build(build).build)
        low = Supply(12.0, 0.02)
        for key, given in (("off", False), ("accessory", False), ("run", True)):
            solution = network.solve(State(key, supply=low))
            self.assertEqual(solution.part_a["d-c-converter"] < -1, given, key)

    def test_an_ammeter_tells_of_everything_and_leaves_no_trace(self) -> None:
        car = bare_car()
        build = write_recipe(car, RECIPES["sockets"], {"key": "always"})
        metered = write_recipe(build, RECIPES["ammeter"], {})
        solution = Network(size_build(metered).build).solve(State("off"))
        self.assertAlmostEqual(solution.part_a["ammeter"], solution.battery_a, places=6)
        self.assertGreater(solution.battery_a, 9.0)
        found = next(r for r in size_build(metered).findings if r.code == "ammeter-in-feed")
        mended = apply_operations(metered, list(found.mends[0].operations))
        ends = {(str(w.from_terminal), str(w.to_terminal)) for w in mended.wires.values()}
        self.assertIn(("main-fuse.out", "stud.stud"), ends)
        self.assertEqual(self.alive(Network(size_build(mended).build), "off"), {"socket"})


class EngineRoomTruthTest(TruthCase):
    def test_a_ballast_is_bridged_while_the_starter_turns(self) -> None:
        build, _ = sample("ballast-coil")
        network = Network(size_build(build).build)
        solved = {key: network.solve(State(key, supply=Supply(12.0, 1e-4))) for key in KEYS}
        volts = {key: row.loads["ignition-coil"].volts for key, row in solved.items()}
        self.assertAlmostEqual(solved["run"].part_a["ballast-resistor"], 3.0, delta=0.01)
        self.assertAlmostEqual(volts["run"], 12.0 - 3.0 * 1.5, delta=0.5)  # and what wires lose
        self.assertGreater(volts["crank"], 11.5)
        self.assertLess(abs(volts["off"]) + abs(volts["accessory"]), 0.01)

    def test_gauges_live_with_the_key_over_their_senders(self) -> None:
        car = written("old-gauges")
        for key in KEYS:
            live = {"fuel-gauge", "temperature-gauge", "stabiliser-heater"}
            gauges = live if key in WITH_RUN else set()
            alive = {row.removesuffix(" dim") for row in self.alive(car, key)}
            self.assertEqual(alive, gauges, key)

    def test_an_interval_wipes_now_and_then_and_the_rest_is_as_before(self) -> None:
        rows = {"row": "Wiper switch with park, interval and wash", "place": "dash"}
        for build in (bare_car(), car_with_modules()):
            by = {} if build is bare_car() else {"fed_by": BY_MODULES}
            wiped = write_recipe(build, RECIPES["wipers"], {"switch": rows, **by})
            car = Network(size_build(wiped).build)
            (switch,) = (p.id.replace("-", "_") for p in car.build.parts_of_kind("switch"))

            for at, cam, key, expected in (
                ("interval", "parked", "run", {"wiper-motor flashing"}),
                ("interval", "away", "run", {"wiper-motor"}),
                ("interval", "parked", "off", set()),
                ("off", "away", "run", {"wiper-motor"}),
                ("off", "parked", "run", set()),
                ("slow", "parked", "run", {"wiper-motor"}),
                ("fast", "parked", "run", {"wiper-motor-fast"}),
            ):
                moved = {switch: at, "wiper_park_contact": cam}
                self.assertEqual(self.alive(car, key, **moved), expected, (by, moved))


class DrivetrainTruthTest(TruthCase):
    """Which contactor coils are fed, by key, charge plug, loop and precharge."""

    def test_contactors_close_in_order_and_let_go_when_the_loop_opens(self) -> None:
        car = written("drivetrain")
        at_rest = {"service_plug": "in place", "inertia_switch": "normal"}

        def closed(key: str, **moved: str) -> set[str]:
            alive = self.alive(car, key, **{**at_rest, **moved})
            return {row.split("-")[0] for row in alive if "contactor" in row}

        charged = {"says_that_it_is_charged": "done"}
        plugged = {"charge_plug": "plugged in"}
        self.assertEqual(closed("off"), set())
        self.assertEqual(closed("run"), {"minus", "precharge"})
        self.assertEqual(closed("run", **charged), {"minus", "plus"})
        self.assertEqual(closed("off", **plugged), {"minus", "precharge"})
        self.assertEqual(closed("off", **plugged, **charged), {"minus", "plus"})
        for opened in ({"service_plug": "pulled"}, {"inertia_switch": "tripped"}):
            self.assertEqual(closed("run", **charged, **opened), set(), opened)

    def test_the_coolant_pump_runs_while_anything_is_live(self) -> None:
        car = written("drivetrain")
        self.assertIn("coolant-pump", self.alive(car, "run"))
        self.assertIn("coolant-pump", self.alive(car, "off", charge_plug="plugged in"))
        self.assertNotIn("coolant-pump", self.alive(car, "off"))
        low = self.alive(car, "run", coolant_level_switch="low")
        self.assertIn("coolant-level-telltale", low)
