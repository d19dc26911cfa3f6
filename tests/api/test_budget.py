"""The budget over the API, and scenarios as edits."""

from circuitry.budget import USUAL_SCENARIOS
from oilstone.builds import models, results, storage
from tests.api.base import ApiTest


class BudgetApiTest(ApiTest):
    def test_an_edit_of_a_scenario_is_stored_felt_and_undone(self) -> None:
        before = {row["id"]: row for row in self.get("/budget")["scenarios"]}
        self.assertEqual(list(before), list(USUAL_SCENARIOS))
        value = {"id": "rain-town", "name": "Town", "road": "night", "pace": "town", "charge": 0.5}
        value |= {"engine_rpm": 2000.0, "outside_c": -5.0, "on": {"horn": 0.5}, "shed": []}
        self.edit({"op": "add", "collection": "scenarios", "value": value})
        results.forget()
        stored = storage.load(models.Build.objects.get(pk=self.build.pk)).scenarios["rain-town"]
        self.assertEqual((stored.on, stored.charge, stored.key), ({"horn": 0.5}, 0.5, "run"))
        after = {row["id"]: row for row in self.get("/budget")["scenarios"]}
        self.assertEqual(after["rain-town"]["outside_c"], -5.0)
        self.assertEqual(after["rain-idle"], before["rain-idle"])
        self.post("/undo", {"base": 1})
        self.assertEqual(self.get("/budget")["scenarios"][3], before["rain-town"])

    def test_led_lamps_are_tried_without_being_fitted(self) -> None:
        before = self.get("/budget")["scenarios"]
        lit = self.get("/budget/led-lamps")["scenarios"]
        self.assertLess(lit[3]["draws_a"], before[3]["draws_a"])
        self.assertEqual(self.get("/budget")["scenarios"], before)

    def test_a_scenario_that_cannot_be_is_refused(self) -> None:
        for field, value in (
            ("charge", 1.5),
            ("key", "start"),
            ("pace", "racing"),
            ("on", {"a": 2}),
        ):
            row = {"id": "own", "name": "Own", field: value}
            answer = self.edit({"op": "add", "collection": "scenarios", "value": row}, expect=422)
            self.assertIn(field, answer["message"] + answer["where"])
        self.assertEqual(self.get("")["scenarios"], [])
