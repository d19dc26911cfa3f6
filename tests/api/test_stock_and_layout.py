"""Stock, tables, photos and layout over HTTP: shapes, refusals, and what is kept."""

import io
import subprocess
import sys
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image
from PIL.Image import Exif

from circuitry.formats.tables import read_table
from oilstone.api import schemas
from oilstone.builds import models, photos, results
from tests.api.base import ApiTest

ORIENTATION, MAKER = 0x0112, 0x010F


def picture(kind: str = "JPEG", size: tuple[int, int] = (400, 200), turned: bool = False) -> bytes:
    exif = Exif()
    exif[MAKER] = "A camera"
    if turned:
        exif[ORIENTATION] = 6
    out = io.BytesIO()
    Image.new("RGB", size, "teal").save(out, kind, exif=exif)
    return out.getvalue()


class StockTest(ApiTest):
    def test_the_list_has_its_rows_columns_and_kinds(self) -> None:
        stock = self.get("/stock")
        self.assertEqual(schemas.StockView.model_validate(stock).model_dump(mode="json"), stock)
        horn = next(row for row in stock["rows"] if row["part"] == "horn")
        self.assertEqual(horn["cells"]["switch"], "Horn push")
        self.assertEqual((horn["wiring"], horn["yours"]), ("wired", []))
        self.assertIn("Two-speed switch", stock["kinds"]["switches"])

    def test_cells_are_judged_without_being_set(self) -> None:
        rows = [{"part": "horn", "cells": {"rating": "loud"}}, {"cells": {"name": "Horn"}}]
        found = self.post("/stock/check", {"rows": rows, "by_name": True})
        self.assertEqual([(row["row"], row["column"]) for row in found], [(0, "rating")])
        self.assertEqual(self.get()["revision"], 0)

    def test_an_import_is_one_revision_or_none(self) -> None:
        rows = [{"cells": {"name": f"Lamp {n}", "what": "Courtesy lamp 5 W"}} for n in range(200)]
        bad = [*rows, {"cells": {"name": "Gizmo"}}]
        problem = self.edit({"op": "set_cells", "rows": bad}, expect=422)
        self.assertIn("Row 201, What it is", problem["message"])
        self.assertEqual(self.get()["revision"], 0)
        with mock.patch.object(results, "size_build", wraps=results.size_build) as sizing:
            self.get("/results")
            answer = self.edit({"op": "set_cells", "rows": rows})
        self.assertEqual((answer["revision"], sizing.call_count), (1, 1))
        self.assertEqual(len(self.get("/stock")["rows"]), 59 + 200)
        self.move("undo", 1)
        self.assertEqual(len(self.get("/stock")["rows"]), 59)

    def test_the_list_goes_out_and_comes_back_the_same(self) -> None:
        for ending in ("csv", "xlsx"):
            answer = self.client.get(f"{self.url}/stock.{ending}")
            self.assertIn("attachment", answer["Content-Disposition"])
            file = SimpleUploadedFile(f"stock.{ending}", answer.content)
            table = self.client.post("/api/tables", {"file": file}).json()
            self.assertEqual(table["columns"][:4], ["name", "what", "where", "rating"])
            columns = table["columns"]
            rows = [{"cells": dict(zip(columns, row, strict=True))} for row in table["rows"]]
            self.assertEqual(self.post("/stock/check", {"rows": rows, "by_name": True}), [])
            operation = {"op": "set_cells", "rows": rows, "by_name": True}
            before = self.document()
            self.edit(operation)
            self.assertEqual(self.document()["wires"], before["wires"])
            self.assertEqual(len(self.document()["parts"]), len(before["parts"]))

    def test_a_bad_table_is_refused_and_named(self) -> None:
        file = SimpleUploadedFile("loads.csv", b"Name\n")
        answer = self.client.post("/api/tables", {"file": file})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("loads.csv has headings, but no rows", answer.json()["message"])

    def test_text_that_looks_like_a_formula_leaves_as_text(self) -> None:
        cells = {"note": "=HYPERLINK(1)"}
        self.edit({"op": "set_cells", "rows": [{"part": "horn", "cells": cells}]})
        csv = self.client.get(f"{self.url}/stock.csv").content
        self.assertIn(b"'=HYPERLINK(1)", csv)
        row = next(row for row in read_table(csv, "x").rows if row[0] == "Horn")
        self.assertEqual(row[-1], "=HYPERLINK(1)")

    def test_a_build_from_a_kind_of_car(self) -> None:
        kinds = self.client.get("/api/kinds-of-car").json()
        body = {
            "name": "Fen buggy",
            "style": kinds["styles"][-1],
            "shell": kinds["shells"][0],
            "seats": 2,
            "doors": 0,
            "engine": "rear",
            "battery": "luggage",
            "road_lamps": True,
            "options": kinds["options"],
        }
        send = {"content_type": "application/json"}
        made = self.client.post("/api/kinds-of-car", body, **send)
        self.assertEqual(made.status_code, 201, made.content)
        self.assertEqual(models.Build.objects.get(pk=made.json()["id"]).name, "Fen buggy")
        refused = self.client.post("/api/kinds-of-car", {**body, "engine": "roof"}, **send)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("engine: “roof” is not one of front", refused.json()["message"])
        self.assertEqual(models.Build.objects.count(), 2)

    def test_old_looms_are_stored_and_judged(self) -> None:
        found = {"id": "horn", "name": "Horn", "stretches": [{"colour": "BU/GN", "size": "1 mm2"}]}
        pair = {"id": "p", "function": "Coil", "old_plug": "A", "old_pin": "1"}
        self.edit(
            {"op": "add", "collection": "found_circuits", "value": found},
            {"op": "add", "collection": "pin_pairs", "value": pair},
            {"op": "set_harness", "cells": {"name": "Horn", "size": "16 AWG", "length": "9 ft"}},
        )
        results.forget()
        self.assertEqual(self.document()["found_circuits"], [found])
        audit = self.get("/audit")
        self.assertIn("No fuse", audit["found_circuits"]["horn"][0]["text"])
        self.assertEqual(audit["harness_circuits"]["horn"]["verdict"], "served")
        bad = {**found, "id": "x", "stretches": [{"colour": "blue"}]}
        problem = self.edit({"op": "add", "collection": "found_circuits", "value": bad}, expect=422)
        self.assertIn("colour", problem["message"])


class LayoutTest(ApiTest):
    def test_runs_wires_and_the_loom(self) -> None:
        layout = self.get("/layout")
        self.assertEqual(schemas.LayoutView.model_validate(layout).model_dump(mode="json"), layout)
        self.assertEqual(len(layout["runs"]["rear-to-rear-left"]["wires"]), 4)
        self.assertEqual(layout["wires"]["w61"]["runs"], ["panel-shelf-to-dash"])

    def test_a_place_moved_on_the_plan_changes_no_length_and_sizes_nothing_anew(self) -> None:
        before = self.get("/layout")
        move = {"op": "change", "collection": "places", "id": "tank", "fields": {"x_m": 2.2}}
        with mock.patch.object(results, "size_build", side_effect=AssertionError):
            self.edit(move)
            after = self.get("/layout")
        self.assertEqual(after["wires"], before["wires"])
        tank = "luggage-to-tank"
        self.assertNotEqual(after["runs"][tank]["drawn_m"], before["runs"][tank]["drawn_m"])

    def test_a_placement_is_answered_before_and_after_and_saved_only_when_asked(self) -> None:
        asked = {"part": "battery", "place": "panel-shelf"}
        answer = self.post("/placement", asked)
        self.assertLess(answer["after"]["copper_kg"], answer["before"]["copper_kg"])
        self.assertEqual(self.get()["revision"], 0)
        self.edit({"op": "move_part", **asked})
        self.assertEqual(self.get("/layout")["loom"], answer["after"])
        problem = self.post("/placement", {"part": "battery", "place": "moon"}, 422)
        self.assertIn("moon", problem["message"])


class PhotoTest(ApiTest):
    def upload(self, data: bytes, name: str = "horn.jpg", identity: str = "horn") -> object:
        form = {"collection": "parts", "identity": identity, "file": SimpleUploadedFile(name, data)}
        return self.client.post(f"{self.url}/photos", form)

    def test_a_photo_is_turned_upright_made_bare_and_kept(self) -> None:
        for kind in photos.FORMATS:
            answer = self.upload(picture(kind, turned=True))
            self.assertEqual(answer.status_code, 201, answer.content)
            photo = answer.json()
            self.assertEqual((photo["width"], photo["height"]), (200, 400))
            kept = self.client.get(f"{self.url}/photos/{photo['id']}").content
            self.assertEqual(dict(Image.open(io.BytesIO(kept)).getexif()), {})
            small = self.client.get(f"{self.url}/photos/{photo['id']}?small=true").content
            self.assertLessEqual(max(Image.open(io.BytesIO(small)).size), photos.THUMBNAIL_SIDE)
        self.assertEqual(len(self.get("/photos")), 3)
        first = self.get("/photos")[0]["id"]
        self.assertEqual(self.client.delete(f"{self.url}/photos/{first}").status_code, 204)
        self.get(f"/photos/{first}", 404)

    def test_what_is_no_picture_is_refused(self) -> None:
        svg = b"<svg xmlns='http://www.w3.org/2000/svg'><script/></svg>"
        gif = picture("GIF")
        bomb = picture("PNG", (9000, 9000))
        for data, words in (
            (b"", "not a picture"),
            (svg, "not a picture"),
            (gif, "not a picture"),
            (picture()[:200], "not a picture"),
            (bomb, "pixels"),
            (b"\xff\xd8" + b"x" * 20_000_001, "larger than 20 MB"),
        ):
            answer = self.upload(data)
            self.assertEqual(answer.status_code, 422, words)
            self.assertIn(words, answer.json()["message"])
        self.assertEqual(self.upload(picture(), identity="gone").status_code, 422)
        self.assertEqual(models.Photo.objects.count(), 0)

    def test_a_large_photo_is_never_unpacked_whole(self) -> None:
        out = io.BytesIO()
        Image.new("RGB", (9000, 6555), "teal").save(out, "JPEG")
        progressive = io.BytesIO()
        Image.new("RGB", (9000, 6555), "teal").save(progressive, "JPEG", progressive=True)
        took_mb = [int(unpacked_mb(data.getvalue())) for data in (out, progressive)]
        whole_mb = 9000 * 6555 * 3 / 1e6
        self.assertLess(max(took_mb), whole_mb / 2, took_mb)


MEASURE = """
import sys
from oilstone.builds.photos import picture
def most_mb():
    with open("/proc/self/status") as said:
        return int(next(line for line in said if line.startswith("VmHWM")).split()[1]) / 1024
data = sys.stdin.buffer.read()
before = most_mb()
try:
    picture(data, "photo.jpg")
except Exception as problem:
    assert "pixels" in str(problem)
print(most_mb() - before)
"""


def unpacked_mb(data: bytes) -> float:
    """The memory that a process of its own takes to read a picture, in MB."""
    done = subprocess.run([sys.executable, "-c", MEASURE], input=data, capture_output=True)
    return float(done.stdout)


class DraftApiTest(ApiTest):
    def test_a_draft_is_told_before_it_is_written_and_is_one_edit(self) -> None:
        kind = {
            "name": "Coupé",
            "style": "coupé",
            "shell": "steel",
            "seats": 2,
            "doors": 2,
            "engine": "front",
            "battery": "engine bay",
            "road_lamps": True,
            "options": ["wipers"],
            "conductors": "metric",
        }
        answer = self.client.post("/api/kinds-of-car", kind, content_type="application/json")
        self.url = f"/api/builds/{answer.json()['id']}"
        told = self.post("/draft", {"left_out": ["horn"], "sized": True})
        read = schemas.DraftView.model_validate(told).model_dump(mode="json")
        self.assertEqual(read, told)
        self.assertIsNone(self.post("/draft", {})["bill"])
        self.assertEqual(self.get()["revision"], 0)
        body = {"base": 0, "label": "Draft", "operations": [{"op": "draft_wiring"}]}
        self.post("/edits", body)
        build = self.get()
        self.assertEqual(build["revision"], 1)
        written = {row["written"]["recipe"] for row in build["circuits"] if row["written"]}
        self.assertLessEqual({"headlamps", "starter", "wipers"}, written)
        self.assertEqual(self.post("/draft", {"sized": True})["steps"], [])
        self.post("/draft", {"spare_ways": 21}, 422)
