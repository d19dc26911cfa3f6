"""Modules, buses and the change-over through the API, on the van that has both."""

from circuitry.document.reading import read
from oilstone.builds import results, storage
from tests.api.base import ApiTest
from tests.core.cars import ROOT


class ModulesTest(ApiTest):
    def setUp(self) -> None:
        super().setUp()
        results.forget()
        van = read((ROOT / "demo" / "fernhill-half-ton-van.json").read_bytes())
        self.build = storage.create(van)
        self.url = f"/api/builds/{self.build.pk}"

    def test_channels_keypads_buses_and_losses(self) -> None:
        told = self.get("/modules")
        rear = next(row for row in told["modules"] if row["id"] == "rear-module")
        stop = next(row for row in rear["channels"] if "Stop lamp left" in row["loads"])
        self.assertEqual(stop["says"], "while brake pedal is on")
        self.assertLess(stop["most_a"], stop["limit_a"])
        self.assertEqual([row["ends"] for row in told["buses"]], [2])
        keypad = next(row for row in told["losses"] if row["kind"] == "keypad")
        self.assertEqual(len(keypad["dead"]), 3)

    def test_a_condition_is_looked_at_and_written(self) -> None:
        asked = {"part": "front-module", "when": "front_fogs_button and ghost"}
        keypad = next(p for p in self.get()["parts"] if p["kind"] == "button")
        self.assertIn("called", self.post("/conditions", asked)["problem"])
        name = keypad["id"].replace("-", "_")
        tried = self.post("/conditions", {"part": "front-module", "when": f"not {name}"})
        self.assertEqual(tried["says"], f"while {keypad['name']} is off")
        self.post("/conditions", {"part": "horn", "when": "x"}, expect=422)
        setting = {"op": "set_condition", "part": "front-module", "output": "C4"}
        self.edit({**setting, "when": name, "limit_a": 5.0})
        front = next(p for p in self.get()["parts"] if p["id"] == "front-module")
        self.assertEqual(front["ways"][3]["when"], name)
        self.edit({**setting, "output": "C99", "when": name}, expect=422)

    def test_the_change_over_is_planned_and_taken(self) -> None:
        before = self.get("/change-over")
        rear = before["steps"][0]
        self.assertEqual(rear["dead"], [])
        self.edit(
            *(
                {"op": "feed_by", "circuit": row, "by": "module channels"}
                for row in rear["circuits"]
            )
        )
        after = self.get("/change-over")["steps"][0]
        self.assertEqual(after["circuits"], [])
        self.assertLessEqual(set(rear["names"]), set(after["done"]))
        plan = self.get("/plan")
        self.assertEqual(plan["changes"][0], rear["title"])
        proved = {row["circuit"] for row in plan["steps"] if row["change"] == rear["title"]}
        self.assertLessEqual(set(rear["circuits"]), proved)
        self.assertNotIn("horn", proved)

    def test_what_is_lost_on_the_bench_does_nothing(self) -> None:
        self.do({"do": "switch", "of": "brake-pedal", "to": "pressed"})
        lit = self.post("/bench/time", {"rate": 0, "step_s": 1.0})
        lamp = lit["loads"].index("stop-lamp-left")
        self.assertGreater(lit["frame"]["load_percent"][lamp], 40)
        self.assertIn("rear-module", [row["id"] for row in lit["can_be_lost"]])
        self.do({"do": "lose", "of": "rear-module"})
        dark = self.post("/bench/time", {"step_s": 1.0})
        self.assertEqual(dark["lost"], ["rear-module"])
        self.assertLess(dark["frame"]["load_percent"][lamp], 1)

    def test_a_car_without_modules_has_nothing_to_change_over_to(self) -> None:
        super().setUp()
        problem = self.get("/change-over", expect=422)
        self.assertIn("no module to change over to", problem["message"])
        self.assertEqual(self.get("/modules")["modules"], [])
