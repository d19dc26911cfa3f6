"""Making over the API: ticks, cut and changed, lists as files, all of it in the archive."""

import csv
import io

from oilstone.builds import archive, models
from tests.api.base import ApiTest


class MakeApiTest(ApiTest):
    def tick(self, *wires: str, step: str = "cut", done: bool = True, expect: int = 200) -> dict:
        body = {"wires": list(wires), "step": step, "done": done}
        return self.post("/made", body, expect)

    def test_a_tick_takes_the_steps_before_it_along_and_back_those_after(self) -> None:
        self.assertEqual(
            self.tick("w20", "w21", step="labelled")["done"]["w20"], ["cut", "ended", "labelled"]
        )
        self.assertEqual(self.tick("w20", step="labelled")["done"]["w21"][-1], "labelled")
        self.assertEqual(self.tick("w20", step="ended", done=False)["done"]["w20"], ["cut"])
        self.assertEqual(
            self.get("/made"),
            {"wires": len(self.get("/make")["workshop"]["wires"]), "cut": 2, "changed": 0},
        )
        self.assertEqual(self.tick("w999", expect=422)["code"], "unknown-wire")
        self.assertEqual(self.tick("w20", step="sung", expect=422)["code"], "unknown-step")

    def test_an_edit_that_makes_a_cut_wire_too_short_is_told(self) -> None:
        self.tick("w20")
        line = next(row for row in self.get("/make")["workshop"]["wires"] if row["id"] == "w20")
        fields = {"length_m": line["cut_m"] + 1.0}
        self.edit({"op": "change", "collection": "wires", "id": "w20", "fields": fields})
        (changed,) = self.get("/make")["workshop"]["changed"]
        self.assertIn(f"is cut: {line['cut_m']:.2f} m, now", changed["says"])
        self.assertEqual(self.get("/made")["changed"], 1)
        self.assertEqual(self.tick("w20", done=False)["workshop"]["changed"], [])

    def test_lists_come_as_files(self) -> None:
        answer = self.client.get(f"{self.url}/make/wires.csv")
        rows = list(csv.reader(io.StringIO(answer.content.decode("utf-8-sig"))))
        self.assertEqual(rows[0][0], "Label")
        self.assertEqual(len(rows) - 1, len(self.get("/make")["workshop"]["wires"]))
        self.assertEqual(self.client.get(f"{self.url}/make/shopping.xlsx").content[:2], b"PK")
        self.assertEqual(self.client.get(f"{self.url}/make/songs.csv").status_code, 422)
        stage = self.client.get(f"{self.url}/make/labels.csv?stage=99").content.decode("utf-8-sig")
        self.assertEqual(len(stage.splitlines()), 1)

    def test_what_was_made_is_in_the_archive(self) -> None:
        self.tick("w20", step="laid")
        packed = archive.pack(models.Build.objects.get(pk=self.build.pk))
        again = archive.unpack(packed, "car.zip")
        self.assertEqual(
            list(again.made.values_list("wire", "step", "length_m")),
            list(self.build.made.values_list("wire", "step", "length_m")),
        )
