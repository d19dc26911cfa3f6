"""Scenarios against alternator and battery, held to hand, to the plain solver and to the bench."""

from dataclasses import replace
from functools import cache
from typing import Any
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from circuitry.budget import Budget, budget, with_led_lamps
from circuitry.budget.lasting import bears_a, days_until, hours_until, load_test_v, share_in_heat
from circuitry.budget.mixture import Means, mixture, schedule
from circuitry.budget.result import ScenarioBudget
from circuitry.budget.scenarios import USUAL_SCENARIOS, uses
from circuitry.design.model import Part, Scenario
from circuitry.design.state import State
from circuitry.devices.battery import supply_at
from circuitry.document.reading import from_document, read, write
from circuitry.edits import apply_operations
from circuitry.network import Network
from circuitry.sizing import Sizing, size_build
from tests.core.benches import COUPE, ROADSTER, VAN, bench_of, demo, do
from tests.core.cars import document, part, roadster, wire

SIXTY_AH = Part("battery", "battery", "battery", "here", figures={"capacity_ah": 60.0})


@cache
def network(name: str) -> Network:
    return Network(demo(name).build)


@cache
def of_demo(name: str) -> Budget:
    return budget(demo(name), network(name))


def row(made: Budget, name: str) -> ScenarioBudget:
    return next(scenario for scenario in made.scenarios if scenario.id == name)


def said(sizing: Sizing, *scenarios: Scenario, **fields: Any) -> Sizing:
    """The car with scenarios of the builder's, and other fields of its build."""
    rows = {scenario.id: scenario for scenario in scenarios}
    return replace(sizing, build=replace(sizing.build, scenarios=rows, **fields))


def usual(name: str, **fields: Any) -> Scenario:
    return replace(USUAL_SCENARIOS[name], **fields)


class LastingTest(TestCase):
    def test_hours_at_the_rated_current_and_above_it_by_hand(self) -> None:
        """3 A from 60 Ah last 20 h; 30 A last 20 · 0.1^1.15 = 1.42 h, and half of that to half."""
        self.assertAlmostEqual(hours_until(SIXTY_AH, 3.0, 1.0, 0.0), 20.0)
        self.assertAlmostEqual(hours_until(SIXTY_AH, 30.0, 1.0, 0.0), 20 * 0.1**1.15)
        self.assertAlmostEqual(hours_until(SIXTY_AH, 30.0, 1.0, 0.5), 10 * 0.1**1.15)
        self.assertEqual(hours_until(SIXTY_AH, 30.0, 0.4, 0.5), 0.0)

    def test_days_parked_by_hand(self) -> None:
        """30 Ah at 25 mA and a loss of 4 % a month, 3.33 mA: 44.1 days."""
        self.assertAlmostEqual(days_until(SIXTY_AH, 0.025, 1.0, 0.5, 20.0), 44.1, delta=0.05)
        self.assertAlmostEqual(days_until(SIXTY_AH, 0.0, 1.0, 0.96, 20.0), 30.0, delta=0.01)
        self.assertLess(days_until(SIXTY_AH, 0.0, 1.0, 0.96, 30.0), 15.1)

    @given(st.floats(0.2, 40.0), st.floats(0.55, 1.0))
    def test_what_a_battery_bears_for_an_hour_takes_an_hour(
        self, hours: float, full: float
    ) -> None:
        amps = bears_a(SIXTY_AH, full, 0.5, hours)
        self.assertAlmostEqual(hours_until(SIXTY_AH, amps, full, 0.5) / hours, 1.0, places=6)

    def test_the_load_test_is_the_published_table(self) -> None:
        for celsius, volts in ((21, 9.6), (10, 9.4), (-1, 9.1), (-18, 8.5), (-40, 8.5)):
            self.assertAlmostEqual(load_test_v(celsius), volts)

    def test_an_alternator_gives_less_in_heat(self) -> None:
        self.assertAlmostEqual(share_in_heat(20.0), 1.0)
        self.assertAlmostEqual(share_in_heat(40.0), 0.95)


class ScheduleTest(TestCase):
    @given(st.lists(st.floats(0.001, 0.999), max_size=12))
    def test_everything_is_on_for_its_share_and_the_parts_fill_the_time(
        self, shares: list[float]
    ) -> None:
        turns: list[Any] = [(share, {f"load-{n}": None}) for n, share in enumerate(shares)]
        parts = list(schedule(turns))
        self.assertAlmostEqual(sum(weight for weight, _ in parts), 1.0)
        self.assertTrue(all(weight > 0 for weight, _ in parts))
        for n, share in enumerate(shares):
            on = sum(weight for weight, loads in parts if f"load-{n}" in loads)
            self.assertAlmostEqual(on, share)

    def test_as_few_as_can_be_are_on_at_once(self) -> None:
        turns: list[Any] = [(0.25, {str(n): None}) for n in range(4)]
        self.assertEqual({len(loads) for _, loads in schedule(turns)}, {1})


class ScenarioTest(TestCase):
    def test_parked_is_the_plain_solver_at_rest(self) -> None:
        car = demo(ROADSTER).build
        supply = supply_at(car.parts_of_kind("battery")[0], 1.0, 20.0)
        (rest,) = network(ROADSTER).solve_many([State("off", supply=supply)])
        self.assertAlmostEqual(row(of_demo(ROADSTER), "parked-with-alarm").draws_a, rest.battery_a)
        self.assertAlmostEqual(
            row(of_demo(ROADSTER), "parked").draws_a + rest.loads["immobiliser"].amps,
            rest.battery_a,
            places=5,
        )

    def test_amps_of_battery_and_alternator_are_those_of_the_loads(self) -> None:
        """Charge is kept: what is given goes through loads, coils and electronics."""
        for name in (ROADSTER, VAN, COUPE):
            for scenario in of_demo(name).scenarios:
                taken_a = sum(load.amps for load in scenario.loads if not load.shed)
                taken_a += sum(other.amps for other in scenario.others)
                given_a = scenario.battery_a + scenario.alternator_a
                self.assertAlmostEqual(given_a, scenario.draws_a)
                self.assertLess(abs(given_a - taken_a), 0.002 + 0.02 * given_a, (name, scenario.id))

    def test_no_alternator_gives_more_than_it_can(self) -> None:
        for name in (ROADSTER, VAN, COUPE):
            for scenario in of_demo(name).scenarios:
                most_a = scenario.alternator_most_a
                self.assertLessEqual(scenario.alternator_a, most_a + 0.01, (name, scenario.id))

    def test_a_mean_is_that_of_moments_solved_one_by_one(self) -> None:
        sizing, scenario = demo(VAN), USUAL_SCENARIOS["rain-town"]
        mixed = mixture(sizing, scenario, uses(sizing.build, scenario))
        means = Means(network(VAN))
        (whole,) = means.of([mixed])
        each = [
            means.of([replace(mixed, moments=(replace(moment, weight=1.0),))])[0]
            for moment in mixed.moments
        ]
        self.assertGreater(len(each), 4)
        for load in ("stop-lamp-left", "turn-lamp-front-left", "dipped-beam-left"):
            by_hand = sum(
                moment.weight * mean.load_a[load]  # type: ignore[union-attr]
                for moment, mean in zip(mixed.moments, each, strict=True)
            )
            self.assertAlmostEqual(whole.load_a[load], by_hand, places=4)  # type: ignore[union-attr]

    def test_a_turn_lamp_is_lit_for_half_of_its_share(self) -> None:
        town = row(of_demo(VAN), "rain-town")
        lamp = next(load for load in town.loads if load.load == "turn-lamp-front-left")
        stop = next(load for load in town.loads if load.load == "stop-lamp-left")
        self.assertEqual((lamp.share, stop.share), (0.1, 0.25))
        self.assertAlmostEqual(lamp.amps / 0.05, stop.amps / 0.25, delta=0.1)

    def test_what_the_builder_says_takes_the_place_of_what_is_usual(self) -> None:
        told = usual("rain-town", on={"horn": 1.0, "heater-blower": 0.0, "gone": 1.0})
        made = budget(said(demo(ROADSTER), told), network(ROADSTER))
        loads = {load.load: load for load in row(made, "rain-town").loads}
        self.assertGreater(loads["horn"].amps, 3.0)
        self.assertEqual(loads["heater-blower"].amps, 0.0)
        self.assertEqual(loads["horn"].why, "as you say")
        self.assertFalse(row(made, "rain-town").usual)
        self.assertTrue(row(made, "rain-idle").usual)

    def test_what_nothing_feeds_in_that_position_is_named(self) -> None:
        told = Scenario("own-radio", "Wipers in the yard", "accessory", on={"wiper-motor": 1.0})
        own = row(budget(said(demo(ROADSTER), told), network(ROADSTER)), "own-radio")
        self.assertEqual(own.not_fed, ("Wiper motor",))
        self.assertTrue(own.own)

    def test_what_could_be_shed_does(self) -> None:
        before = row(of_demo(ROADSTER), "rain-town")
        self.assertEqual(before.verdict, "look")
        told = usual("rain-town", shed=before.could_shed)
        after = row(budget(said(demo(ROADSTER), told), network(ROADSTER)), "rain-town")
        self.assertEqual(after.verdict, "fine", after.says)
        self.assertAlmostEqual(after.shed_a, before.draws_a - after.draws_a, delta=0.5)
        self.assertGreater(after.shed_a, 1.0)

    def test_led_lamps_take_less_at_night_and_the_same_by_day(self) -> None:
        lit = with_led_lamps(demo(COUPE))
        for name, saves_a in (("rain-town", 5.0), ("hot-queue", -0.05)):
            saved_a = row(of_demo(COUPE), name).draws_a - row(lit, name).draws_a
            self.assertGreater(saved_a, saves_a, name)
        self.assertLess(
            abs(row(of_demo(COUPE), "parked").draws_a - row(lit, "parked").draws_a), 1e-4
        )


class AnswersTest(TestCase):
    def test_the_least_alternator_carries_what_the_one_below_does_not(self) -> None:
        """Fitted, it leaves nothing to look at; the next smaller one of the list does."""
        least = of_demo(ROADSTER).alternator.least
        self.assertEqual(least, 80.0)
        for rated_a, expected in ((80.0, 0.0), (70.0, 75.0)):
            change = {
                "op": "change",
                "collection": "parts",
                "id": "alternator",
                "fields": {"figures": {"rated_a": rated_a}},
            }
            car = apply_operations(demo(ROADSTER).build, [change])
            made = budget(replace(demo(ROADSTER), build=car), Network(car))
            needs = max(scenario.needs_a or 0.0 for scenario in made.scenarios)
            self.assertAlmostEqual(needs, 74.0, delta=2.0)
            running = [scenario for scenario in made.scenarios if scenario.needs_a]
            if not expected:
                self.assertEqual({scenario.verdict for scenario in running}, {"fine"})
            self.assertEqual(bool(made.alternator.mends), bool(expected))

    def test_measured_amps_take_the_place_of_those_worked_out(self) -> None:
        told = usual("parked", measured_a=0.5)
        made = budget(said(demo(ROADSTER), told), network(ROADSTER))
        assert made.parked is not None
        self.assertEqual((made.parked.draw_a, made.parked.measured), (0.5, True))
        self.assertAlmostEqual(made.parked.to_half_days, 30 / 0.503333 / 24, delta=0.01)
        self.assertEqual(row(made, "parked").verdict, "look")
        self.assertIn("21 days are wanted", row(made, "parked").says)
        self.assertEqual(made.battery.least, None)

    def test_the_first_dip_is_that_of_the_bench(self) -> None:
        """The bench steps through the start with every law over time; the budget solves the instant
        at which the starter is fed and stands."""
        for name in (ROADSTER, VAN):
            sizing = demo(name)
            battery = sizing.build.parts_of_kind("battery")[0]
            told = usual("cranking", outside_c=25.0, charge=battery.number("state_of_charge", 1.0))
            cranked = budget(said(sizing, told), network(name)).cranking
            assert cranked is not None
            assert cranked.first_v is not None
            bench = bench_of(sizing)
            (moment, *_) = mixture(sizing, told, uses(sizing.build, told)).moments
            for switch, position in moment.state.switches.items():
                if switch != "start-button":
                    do(bench, 0.0, "switch", switch, position)
            do(bench, 0.0, "key", to="run")
            bench.run(1.0)
            do(bench, 1.0, "key", to="crank")
            if "start-button" in moment.state.switches:
                do(bench, 1.0, "switch", "start-button", "held")
            lowest = 99.0
            for step in range(1, 150):
                bench.run(1.0 + 0.004 * step)
                lowest = min(lowest, bench.frame(1.0 + 0.004 * step).battery_v)
            self.assertAlmostEqual(cranked.first_v, lowest, delta=0.15, msg=name)

    def test_a_colder_battery_must_be_fuller_to_start(self) -> None:
        told = [usual("show", outside_c=celsius, id=f"own-{celsius}") for celsius in (-25.0, 30.0)]
        cranked = budget(said(demo(ROADSTER), *told), network(ROADSTER)).cranking
        assert cranked is not None
        cold, warm = cranked.starts_at(-25.0), cranked.starts_at(30.0)
        assert cold is not None
        assert warm is not None
        self.assertGreater(cold, warm)

    def test_a_box_that_sags_too_low_is_named(self) -> None:
        """A battery of ten times the resistance: the control box sleeps as the starter begins."""
        car = demo(ROADSTER)
        battery = car.build.parts_of_kind("battery")[0]
        tired = replace(battery, figures={**battery.figures, "resistance_mohm": 40.0})
        build = replace(car.build, parts={**car.build.parts, battery.id: tired})
        made = budget(replace(car, build=build), Network(build))
        assert made.cranking is not None
        self.assertNotEqual(row(made, "cranking").verdict, "fine")

    def test_a_car_without_alternator_starter_or_charge_says_so(self) -> None:
        parts = [
            part("lamp", "load", catalogue="Tail lamp 5 W"),
            part("fuse", "fuse", catalogue="regular blade", figures={"rating_a": 5.0}),
        ]
        wires = [
            wire(1, "battery.+", "fuse.in"),
            wire(2, "fuse.out", "lamp.+"),
            wire(3, "lamp.-", "battery.-"),
        ]
        rows = document(parts, wires)
        rows["parts"] = [
            entry | {"figures": {"capacity_ah": 0.0}} if entry["id"] == "battery" else entry
            for entry in rows["parts"]
        ]
        sizing = size_build(from_document(rows))
        made = budget(sizing, Network(sizing.build))
        self.assertIsNone(made.cranking)
        self.assertIsNone(made.alternator.has)
        self.assertIn("No alternator", row(made, "rain-town").says)
        self.assertEqual(row(made, "cranking").says, "Nothing turns the engine in this scenario.")
        self.assertEqual(row(made, "parked").verdict, "look")


class ScenarioInTheBuildTest(TestCase):
    def test_scenarios_are_read_back_and_sizes_do_not_feel_them(self) -> None:
        told = usual("rain-town", on={"horn": 0.5}, shed=("horn",), measured_a=3.0)
        add = {"op": "add", "collection": "scenarios", "value": _written(told)}
        car = apply_operations(roadster(), [add])
        self.assertEqual(read(write(car)), car)
        self.assertEqual(car.scenarios["rain-town"], told)


def _written(scenario: Scenario) -> dict[str, Any]:
    return {**vars(scenario), "on": dict(scenario.on), "shed": list(scenario.shed)}
