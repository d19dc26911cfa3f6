"""The third demo car: on modules, with two buses, kill switches and service buttons."""

from functools import cache
from unittest import TestCase

from circuitry.devices.hearing import buses_of
from circuitry.document.reading import read
from circuitry.network import Network, State
from circuitry.sizing import Sizing, size_build
from tests.core.cars import ROOT

RUNNING = {"engine_rpm": 3000.0}
WARM_OIL = {"oil-pressure-safety-switch": "pressure"}


@cache
def rally() -> Sizing:
    return size_build(read((ROOT / "demo" / "quarrel-hill-rally-coupe.json").read_bytes()))


class RallyTest(TestCase):
    def on(self, key: str, *lost: str, rpm: float = 0.0, coolant_c: float = 20.0, **at: str) -> set:
        switches = {name.replace("_", "-"): position for name, position in at.items()}
        values = {"engine_rpm": rpm, "coolant_c": coolant_c}
        state = State(key, switches, values=values, lost=frozenset(lost))
        solution = Network(rally().build).solve(state)
        return {load for load, row in solution.loads.items() if row.is_on}

    def test_it_has_no_stop_and_little_to_look_at(self) -> None:
        rows = rally().findings
        self.assertEqual([row.title for row in rows if row.severity == "stop"], [])
        self.assertLessEqual(sum(row.severity == "look" for row in rows), 2)

    def test_its_two_buses_are_ended_and_share_one_module(self) -> None:
        engine, chassis = sorted(buses_of(rally().build), key=lambda bus: len(bus.members))
        self.assertEqual(len(set(engine.members) & set(chassis.members)), 1)
        self.assertEqual([len(engine.terminators), len(chassis.terminators)], [2, 2])

    def test_either_kill_switch_stops_the_engine_while_the_alternator_turns(self) -> None:
        engine = {"engine-control-box", "ignition-coils", "injectors", "fuel-pump"}
        running = self.on("run", rpm=3000, oil_pressure_safety_switch="pressure")
        self.assertLessEqual(engine, running)
        for isolator in ("isolator_inside", "isolator_outside"):
            killed = {"oil_pressure_safety_switch": "pressure", isolator: "off"}
            self.assertEqual(self.on("run", rpm=3000, **killed) & engine, set(), isolator)

    def test_the_pump_can_be_run_from_the_rear_with_the_key_off_only(self) -> None:
        self.assertIn("fuel-pump", self.on("off", pump_service_button="held"))
        self.assertNotIn("fuel-pump", self.on("run", pump_service_button="held"))
        self.assertNotIn("radiator-fan", self.on("run", rpm=900, fan_service_button="held"))
        self.assertIn("radiator-fan", self.on("off", fan_service_button="held"))

    def test_the_fan_follows_the_engine_bus_and_its_thermostat_without_it(self) -> None:
        bus = next(b.id for b in buses_of(rally().build) if b.name == "Engine bus")
        self.assertIn("radiator-fan", self.on("run", coolant_c=95))
        self.assertNotIn("radiator-fan", self.on("run", bus, coolant_c=95))
        self.assertIn("radiator-fan", self.on("run", bus, radiator_thermostat="hot"))
