"""Readings of a state, fall lines, and the record of proof."""

from server.builds import models
from tests.api.base import ApiTest, rename

MAIN = {"light-switch": "head", "dip-switch": "main"}


class BenchTest(ApiTest):
    def test_key_and_switches_give_readings(self) -> None:
        answer = self.post("/bench", {"key": "run", "switches": MAIN})
        self.assertTrue(answer["relays"]["main-beam-left-relay"]["pulled_in"])
        self.assertGreater(answer["loads"]["main-beam-left"]["output_percent"], 60)
        lit = {load for load, reading in answer["loads"].items() if reading["is_on"]}
        self.assertIn("main-beam-left", lit)
        self.assertNotIn("dipped-beam-left", lit)
        self.assertAlmostEqual(answer["loads"]["dipped-beam-left"]["amps"], 0)
        self.assertGreater(answer["battery_a"], 20)

    def test_a_voltmeter_between_any_two_terminals(self) -> None:
        meters = [["main-beam-right.+", "main-beam-right.-"], ["battery.+", "key.50"]]
        answer = self.post("/bench", {"switches": MAIN, "meters": meters})
        reading = answer["loads"]["main-beam-right"]["volts"]
        self.assertAlmostEqual(answer["meters_v"][0], reading, places=4)
        self.assertAlmostEqual(answer["meters_v"][1], 0, places=4)

    def test_live_fall_lines_only_for_what_has_a_way(self) -> None:
        body = {"switches": MAIN, "circuit": "main-beam-left"}
        lines = self.post("/bench", body)["fall_lines"]
        self.assertEqual([row["load"] for row in lines], ["main-beam-left", "main-beam-right"])
        self.assertEqual(self.post("/bench", body | {"switches": {}})["fall_lines"], [])

    def test_design_fall_lines_add_up(self) -> None:
        for line in self.get("/circuits/main-beam-left/fall-lines"):
            total = line["feed_loss_v"] + line["return_loss_v"] + line["load_v"]
            self.assertAlmostEqual(total, line["battery_v"], places=6)

    def test_what_the_car_does_not_have(self) -> None:
        for body, code in (
            ({"key": "start"}, "bad-request"),
            ({"switches": {"horn": "on"}}, "unknown-switch"),
            ({"switches": {"horn-push": "hard"}}, "unknown-position"),
            ({"meters": [["horn.+", "horn.9"]]}, "missing-terminal"),
            ({"meters": [["horn", "horn.+"]]}, "bad-terminal"),
        ):
            self.assertEqual(self.post("/bench", body, 422)["code"], code)


class ProofTest(ApiTest):
    path = "/circuits/main-beam-left"

    def record(self, expect: int = 201, base: int = 0, **fields: object) -> dict:
        return self.post(f"{self.path}/proofs", {"base": base, "passed": True} | fields, expect)

    def test_the_sheet_says_what_to_do_and_expect(self) -> None:
        sheet = self.get(f"{self.path}/proof")
        self.assertEqual([row["name"] for row in sheet["operate"]], ["Light switch", "Dip switch"])
        volts = sheet["loads"][0]["volts"]
        self.assertLess(volts["low"], volts["expected"])
        self.assertLess(volts["expected"], volts["high"])
        self.assertEqual(sheet["proofs"], [])

    def test_a_proof_is_kept_with_readings_verdicts_and_time(self) -> None:
        readings = {
            "main-beam-left": {"volts": 12.2, "amps": 4.7},
            "main-beam-right": {"volts": 10.1},
        }
        sheet = self.record(readings=readings, note="right one dim")
        kept = sheet["proofs"][0]
        self.assertEqual(
            (kept["passed"], kept["note"], kept["stale"]), (True, "right one dim", False)
        )
        verdicts = [(row["volts_verdict"], row["amps_verdict"]) for row in kept["readings"]]
        self.assertEqual(verdicts, [("in band", "in band"), ("too low", None)])
        self.assertEqual(kept["readings"][0]["volts"], 12.2)
        self.assertTrue(kept["at"])
        self.assertEqual(self.get(f"{self.path}/proof"), sheet)

    def test_a_change_that_matters_marks_the_proof(self) -> None:
        self.record()
        self.edit(rename("Hooter"))
        self.assertFalse(self.get("/proofs")[0]["stale"])
        figures = {
            "op": "change",
            "collection": "parts",
            "id": "main-beam-left",
            "fields": {"figures": {"rated_w": 100}},
        }
        self.edit(figures)
        self.assertTrue(self.get("/proofs")[0]["stale"])
        self.assertTrue(self.get(f"{self.path}/proof")["proofs"][0]["stale"])

    def test_the_newest_proof_counts_and_a_removed_circuit_does_not(self) -> None:
        self.record(passed=True)
        self.record(passed=False)
        self.assertEqual([row["passed"] for row in self.get("/proofs")], [False])
        self.edit(
            {"op": "remove_load", "load": "main-beam-left"},
            {"op": "remove_load", "load": "main-beam-right"},
        )
        self.assertEqual(self.get("/proofs"), [])

    def test_a_circuit_that_died_is_stale_and_does_not_hide_the_others(self) -> None:
        self.record()
        coil = next(
            row["id"]
            for row in self.get()["wires"]
            if row["to_terminal"] == "main-beam-left-relay.30"
        )
        self.edit({"op": "remove", "collection": "wires", "id": coil})
        self.assertEqual([row["stale"] for row in self.get("/proofs")], [True])
        self.assertEqual(self.get(f"{self.path}/proof", 422)["code"], "load-dead")

    def test_a_proof_against_an_older_build_is_refused(self) -> None:
        self.edit(rename("Hooter"), label="Rename")
        problem = self.record(409)
        self.assertEqual(problem["since"][0]["label"], "Rename")
        self.assertEqual(models.Proof.objects.count(), 0)

    def test_readings_that_cannot_be(self) -> None:
        self.record(422, readings={"main-beam-left": {"volts": 1e9}})
        self.record(422, readings={"main-beam-left": {"volts": "much"}})
        self.record(422, note="x" * 501)
        self.assertEqual(self.get("/circuits/grounds/proof", 422)["code"], "no-loads")
