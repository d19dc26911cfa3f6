"""What to expect of each circuit is what the solver says, with a band around it."""

from unittest import TestCase

from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.network import Network
from circuitry.proving import outdated, prove_circuit
from circuitry.proving.expected import Band
from circuitry.sizing import size_build
from tests.core.cars import roadster, roadster_sizing


class ProvingTest(TestCase):
    build = roadster_sizing().build

    def test_expected_readings_are_the_solvers_in_that_state(self) -> None:
        proof = prove_circuit(self.build, "main-beam-left")
        solution = Network(self.build).solve(proof.state)
        for load in proof.loads:
            self.assertAlmostEqual(load.volts.expected, solution.loads[load.load].volts)
            self.assertAlmostEqual(load.amps.expected, solution.loads[load.load].amps)

    def test_every_circuit_can_be_proved_and_expects_to_pass(self) -> None:
        for circuit in self.build.circuits.values():
            if not self.build.loads_of(circuit.id):
                continue
            for load in prove_circuit(self.build, circuit.id).loads:
                for band in (load.volts, load.amps):
                    self.assertEqual(band.verdict(band.expected), "in band", load)
                self.assertGreater(load.volts.low, 10.5)
                self.assertLess(load.volts.high, 13)
                self.assertIsNotNone(load.clamp)

    def test_operations_say_key_first_then_switches_and_what_to_hold(self) -> None:
        fan = prove_circuit(self.build, "radiator-fan")
        self.assertEqual(
            [(row.name, row.position) for row in fan.operate],
            [("Key", "run"), ("Radiator thermostat", "hot")],
        )
        horn = prove_circuit(self.build, "horn")
        self.assertEqual([row.held for row in horn.operate], [True])

    def test_cautions_stand_at_the_step(self) -> None:
        pump = " ".join(prove_circuit(self.build, "fuel-pump").cautions)
        self.assertIn("fuel leaks", pump)
        fan = " ".join(prove_circuit(self.build, "radiator-fan").cautions)
        self.assertIn("Hands, hair", fan)
        self.assertIn("Battery negative goes on last", fan)

    def test_verdicts(self) -> None:
        band = Band(12.0, 11.5, 12.5)
        self.assertEqual(
            [band.verdict(v) for v in (11.4, 11.5, 12.5, 12.6)],
            ["too low", "in band", "in band", "too high"],
        )

    def test_a_change_that_matters_outdates_a_record(self) -> None:
        proof = prove_circuit(self.build, "main-beam-left")
        recorded = {load.load: (load.volts, load.amps) for load in proof.loads}
        self.assertFalse(outdated(proof, recorded))
        stronger = apply_operations(
            roadster(),
            [
                {
                    "op": "change",
                    "collection": "parts",
                    "id": "main-beam-left",
                    "fields": {"figures": {"rated_w": 100}},
                }
            ],
        )
        self.assertTrue(
            outdated(prove_circuit(size_build(stronger).build, "main-beam-left"), recorded)
        )
        fewer = dict(list(recorded.items())[:1])
        self.assertTrue(outdated(proof, fewer))

    def test_a_circuit_without_loads_has_no_proof(self) -> None:
        with self.assertRaisesRegex(UnusableInput, "no loads to prove"):
            prove_circuit(self.build, "grounds")
