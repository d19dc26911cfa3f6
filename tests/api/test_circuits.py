"""Recipes, truth tables, drawings, feeds and finding, as the screen asks for them."""

from tests.api.base import ApiTest


class CircuitsApiTest(ApiTest):
    def write(self, recipe: str, **answers: object) -> dict:
        operation = {"op": "write_recipe", "recipe": recipe, "answers": answers}
        return self.edit(operation, label=f"Write {recipe}")

    def test_every_recipe_tells_what_it_asks_and_what_it_takes(self) -> None:
        rows = {row["id"]: row for row in self.get("/recipes")}
        self.assertGreaterEqual(len(rows), 30)
        turn = {row["name"]: row for row in rows["turn-and-hazard"]["questions"]}
        self.assertEqual(turn["front_left"]["usual"], {"part": "turn-lamp-front-left"})
        self.assertEqual(turn["turn_switch"]["usual"], {"part": "turn-switch"})
        self.assertEqual(turn["hazard_switch"]["usual"]["place"], "dash")

    def test_a_recipe_written_drawn_and_solved(self) -> None:
        changes = self.write("turn-and-hazard")["changes"]
        circuit = next(
            row["id"] for row in changes if row["collection"] == "circuits" and not row["before"]
        )
        drawing = self.get(f"/circuits/{circuit}/schematic")
        wires = {row["id"] for row in changes if row["collection"] == "wires"}
        self.assertLessEqual(wires, {line["wire"] for line in drawing["lines"]})
        table = self.get(f"/circuits/{circuit}/truth")
        self.assertEqual(
            {row["name"] for row in table["levers"]}, {"Key", "Turn switch", "Hazard switch"}
        )
        held = self.get(f"/circuits/{circuit}/truth?vary=turn-switch")
        self.assertEqual([row["part"] for row in held["levers"]], [])
        self.assertEqual(len(held["rows"]), 1)
        file = self.client.get(f"{self.url}/circuits/{circuit}/schematic.svg")
        self.assertEqual(file["Content-Type"], "image/svg+xml")

    def test_feeds_and_what_is_found(self) -> None:
        told = self.get("/feeds")
        self.assertEqual(told["root"]["kind"], "battery")
        self.assertEqual(
            {row["id"] for row in told["grounds"]}, {"ground-front", "ground-panel", "ground-rear"}
        )
        found = self.get("/search?text=horn%20relay")
        self.assertEqual(found[0]["id"], "horn-relay")

    def test_what_is_not_there_is_named(self) -> None:
        for path, words in (
            ("/circuits/ghost/truth", "no circuit “ghost”"),
            ("/circuits/ghost/schematic", "no circuit “ghost”"),
        ):
            self.assertIn(words, self.get(path, expect=422)["message"])
        answer = self.client.get("/api/recipes/ghost/schematic")
        self.assertEqual(answer.json()["code"], "unknown-recipe")

    def test_a_bench_with_the_engine_running_charges(self) -> None:
        self.write("charging", rated_a=55)
        for rpm, charging in ((0, False), (3000, True)):
            body = {"key": "run", "switches": {}, "meters": [], "values": {"engine_rpm": rpm}}
            self.assertEqual(self.post("/bench", body)["battery_a"] < 0, charging)
