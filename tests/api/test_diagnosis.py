"""Find a fault over HTTP: from what was seen to suspects, tests and what they leave."""

from typing import Any

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
        step = self.step("Dipped beam: Light switch to head")
        self.post(
            "/proofs",
            {
                "step": step["id"],
                "token": step["token"],
                "passed": False,
                "looks": {"look/dipped-beam-left": "dead", "look/dipped-beam-right": ""},
                "mark": "of-the-dipped-beam",
            },
            201,
        )
        found = self.ask()
        self.assertEqual([row["word"] for row in found["observed"] if row["amiss"]], ["dead"])
        self.assertTrue(self.ask(by_proofs=False)["nothing"])

    def test_what_cannot_be_is_refused_with_the_way_out(self) -> None:
        seen = self.dead_lamp()
        gone = [{"step": "works/wings", "load": "horn", "word": "dead"}]
        self.assertIn("not in the plan", self.ask(422, seen=gone)["message"])
        horn = [{**seen[0], "load": "horn"}]
        self.assertIn("not looked at", self.ask(422, seen=horn)["message"])
        unknown = [{"id": "look/wings", "word": "off"}]
        self.assertIn("cannot be made", self.ask(422, seen=seen, tests=unknown)["message"])
        tests = self.ask(seen=seen)["tests"]
        volts = next(row for row in tests if row["unit"] == "V")
        loud = [{"id": volts["id"], "reading": "loud"}]
        self.assertIn("no reading", self.ask(422, seen=seen, tests=loud)["message"])
