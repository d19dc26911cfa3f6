"""Find a fault over HTTP: from what was seen to suspects, tests and what they leave."""

from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile

from tests.api.base import ApiTest


class DiagnosisTest(ApiTest):
    def step(self, title: str) -> dict[str, Any]:
        return next(row for row in self.get("/plan")["steps"] if row["title"] == title)

    def ask(self, expect: int = 200, **known: Any) -> Any:
        return self.post("/diagnosis", known, expect)

    def dead_lamp(self) -> list[dict[str, str]]:
        step = self.step("Dipped beam: Light switch to head")["id"]
        return [
            {"step": step, "load": "dipped-beam-left", "word": "dead"},
            {"step": step, "load": "dipped-beam-right", "word": "works"},
        ]

    def test_nothing_amiss_asks_for_what_is(self) -> None:
        found = self.ask()
        self.assertTrue(found["nothing"])
        self.assertEqual((found["suspects"], found["tests"]), ([], []))

    def test_suspects_a_test_and_what_its_outcome_leaves(self) -> None:
        seen = self.dead_lamp()
        found = self.ask(seen=seen)
        self.assertEqual(found["suspects"][0]["of"], "dipped-beam-left")
        self.assertEqual(found["suspects"][0]["circuit"], "dipped-beam-left")
        self.assertGreater(found["left"], 2)
        test = found["tests"][0]
        look = next(row for row in test["outcomes"] if row["words"] == "as it should be")
        self.assertTrue(test["title"] and test["place"] and test["minutes"] > 0)
        self.assertAlmostEqual(sum(row["share"] for row in test["outcomes"]), 1.0, places=2)
        made = [{"id": test["id"], "word": look["words"]}]
        after = self.ask(seen=seen, tests=made)
        self.assertNotEqual(after["suspects"][0]["of"], "dipped-beam-left")
        self.assertIn(test["title"], after["made"][0])
        self.assertNotIn(test["id"], [row["id"] for row in after["tests"]])
        self.assertEqual(self.ask(seen=seen, tests=made), after)
        skipped = self.ask(seen=seen, tests=[{"id": test["id"]}])
        self.assertEqual(skipped["suspects"], found["suspects"])
        self.assertNotEqual(skipped["tests"][0]["id"], test["id"])

    def test_what_power_up_has_recorded_is_known(self) -> None:
        self.failed()
        found = self.ask()
        self.assertEqual([row["word"] for row in found["observed"] if row["amiss"]], ["dead"])
        self.assertTrue(self.ask(by_proofs=False)["nothing"])

    def failed(self, **fields: Any) -> dict[str, Any]:
        step = self.step("Dipped beam: Light switch to head")
        sent = {
            "step": step["id"],
            "token": step["token"],
            "passed": False,
            "looks": {"look/dipped-beam-left": "dead", "look/dipped-beam-right": ""},
            "mark": "of-the-dipped-beam",
        }
        self.post("/proofs", sent | fields, 201)
        return step

    def test_what_should_be_off_and_is_not_may_be_anything(self) -> None:
        step = self.step("Dipped beam: Light switch to head")["id"]
        found = self.ask(seen=[{"step": step, "load": "horn", "word": "does not go off"}])
        likely = [row["of"] for row in found["suspects"]]
        self.assertTrue({"horn-relay", "horn-push"} & set(likely[:3]), likely)

    def test_what_was_changed_since_it_worked_is_likelier(self) -> None:
        self.failed(passed=True, looks={}, mark="when-it-worked")
        change = {
            "op": "change",
            "collection": "wires",
            "id": "w49",
            "fields": {"colour": "violet"},
        }
        self.edit(change, label="Another colour")
        self.failed()
        found = self.ask()
        self.assertEqual(found["since"], "Another colour")
        shares = {row["of"]: row["share"] for row in found["suspects"]}
        self.assertGreater(shares["w49"], 3 * shares["w50"])

    def test_a_fault_that_is_mended_is_kept_once_and_what_was_amiss_is_asked_anew(self) -> None:
        self.failed()
        (amiss,) = (row for row in self.ask()["observed"] if row["amiss"])
        self.assertEqual(amiss["step"], self.step(amiss["title"])["id"])
        fault = {
            "of": "w50",
            "words": "open wire: W50",
            "seen": ["Dipped beam left dead"],
            "tests": ["Volts: 12.3 V"],
            "minutes": 3.6,
            "note": "crimped anew",
            "who": "Jo",
            "mark": "fault-1",
        }
        kept = self.post("/faults", fault, 201)
        self.assertEqual(self.post("/faults", fault | {"words": "again"}, 201), kept)
        self.assertEqual(self.get("/faults"), [kept])
        self.assertTrue(self.ask()["nothing"])
        self.failed(mark="after-the-mend")
        self.assertFalse(self.ask()["nothing"])
        archive = SimpleUploadedFile("car.zip", self.client.get(f"{self.url}/archive").content)
        opened = self._answer(self.client.post("/api/archives", {"file": archive}), 201)
        (again,) = self.client.get(f"/api/builds/{opened['id']}/faults").json()
        self.assertEqual(again | {"id": 0}, kept | {"id": 0})

    def test_what_cannot_be_is_refused_with_the_way_out(self) -> None:
        seen = self.dead_lamp()
        gone = [{"step": "works/wings", "load": "horn", "word": "dead"}]
        self.assertIn("not in the plan", self.ask(422, seen=gone)["message"])
        wings = [{**seen[0], "load": "wings"}]
        self.assertIn("no such load", self.ask(422, seen=wings)["message"])
        unknown = [{"id": "look/wings", "word": "off"}]
        self.assertIn("cannot be made", self.ask(422, seen=seen, tests=unknown)["message"])
        tests = self.ask(seen=seen)["tests"]
        volts = next(row for row in tests if row["unit"] == "V")
        loud = [{"id": volts["id"], "reading": "loud"}]
        self.assertIn("no reading", self.ask(422, seen=seen, tests=loud)["message"])
