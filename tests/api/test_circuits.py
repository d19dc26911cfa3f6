"""Recipes, truth tables, drawings, feeds and finding, as the screen asks for them."""

from oilstone.api import schemas
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
        sheet = self.client.get(f"{self.url}/circuits/{circuit}/schematic.pdf?paper=A3")
        self.assertTrue(sheet.content.startswith(b"%PDF"))
        self.assertIn(b"/MediaBox [ 0 0 1190", sheet.content)
        self.assertEqual(
            self.client.get(f"{self.url}/circuits/{circuit}/schematic.pdf?paper=A9").status_code,
            422,
        )

    def test_the_whole_car_on_one_sheet(self) -> None:
        whole = self.get("/overview")
        folded = self.get("/overview?level=feeds")
        self.assertGreater(len(whole["symbols"]), len(folded["symbols"]))
        svg = self.client.get(f"{self.url}/overview.svg?level=fuses")
        self.assertEqual(svg["Content-Type"], "image/svg+xml")
        pdf = self.client.get(f"{self.url}/overview.pdf")
        self.assertIn(b"/MediaBox [ 0 0 1190", pdf.content)
        wrong = self.client.get(f"{self.url}/overview?level=wires")
        self.assertEqual(wrong.status_code, 422)
        self.assertIn("feeds, fuses, functions, loads", wrong.json()["message"])

    def test_feeds_and_what_is_found(self) -> None:
        told = self.get("/feeds")
        self.assertEqual(told["root"]["kind"], "battery")
        self.assertEqual(
            {row["id"] for row in told["grounds"]}, {"ground-front", "ground-panel", "ground-rear"}
        )
        found = self.get("/search?text=horn%20relay")
        self.assertEqual(found[0]["id"], "horn-relay")

    def test_every_wire_tells_how_warm_it_gets_along_its_way_and_under_an_overload(self) -> None:
        for wire in self.document()["wires"]:
            with self.subTest(wire=wire["id"]):
                told = schemas.WireHeatView(**self.get(f"/wires/{wire['id']}/heat"))
                along = [spot.at_m for spot in told.spots]
                self.assertEqual(along, sorted(along))
                for spot in told.spots:
                    self.assertGreaterEqual(spot.conductor_c, spot.ambient_c)
                hotter = told.overload.celsius
                self.assertEqual(list(hotter), sorted(hotter))
                self.assertEqual(len(hotter), len(told.overload.seconds))

    def test_a_wire_is_asked_about_the_current_that_was_typed(self) -> None:
        wire = self.document()["wires"][0]["id"]
        told = self.get(f"/wires/{wire}/heat?amps=150")
        self.assertEqual(told["overload"]["amps"], 150)
        for amps in ("0", "-5", "nan", "inf", str(2 * told["most_a"])):
            said = self.get(f"/wires/{wire}/heat?amps={amps}", expect=422)["message"]
            self.assertIn("more than 0 and at most", said)

    def test_every_fuse_has_its_curves_and_its_hardest_start(self) -> None:
        fuses = [row["id"] for row in self.document()["parts"] if row["kind"] == "fuse"]
        told = {
            fuse: schemas.TimeCurrentView(**self.get(f"/fuses/{fuse}/time-current"))
            for fuse in fuses
        }
        starts = [row for row in told.values() if row.start is not None]
        self.assertGreater(len(starts), len(fuses) / 2)
        for row in starts:
            self.assertTrue(row.survives, row.name)

    def test_what_is_not_there_is_named(self) -> None:
        for path, words in (
            ("/circuits/ghost/truth", "no circuit “ghost”"),
            ("/circuits/ghost/schematic", "no circuit “ghost”"),
            ("/wires/ghost/heat", "no wire “ghost”"),
            ("/fuses/ghost/time-current", "no fuse “ghost”"),
        ):
            self.assertIn(words, self.get(path, expect=422)["message"])
        answer = self.client.get("/api/recipes/ghost/schematic")
        self.assertEqual(answer.json()["code"], "unknown-recipe")

    def test_a_bench_with_the_engine_running_charges(self) -> None:
        self.write("charging", rated_a=55)
        for rpm, charging in ((0, False), (3000, True)):
            self.do({"do": "key", "to": "run"}, {"do": "value", "of": "engine_rpm", "to": rpm})
            frame = self.post("/bench/time", {"rate": 0, "step_s": 2.0})["frame"]
            self.assertEqual((frame["battery_a"] < 0, frame["alternator_a"] > 0), (charging,) * 2)
