"""The journal, revisions compared and gone back to, the book; all of it in the archive."""

import io
import zipfile
from datetime import timedelta

from django.utils import timezone
from pypdf import PdfReader

from circuitry.document.reading import to_document
from circuitry.workshop.lists import LISTS
from oilstone.builds import archive, models
from oilstone.builds.results import build_at
from tests.api.base import ApiTest


class HandOverTest(ApiTest):
    def rename(self, name: str) -> None:
        fields = {"name": name}
        change = {"op": "change", "collection": "parts", "id": "horn", "fields": fields}
        self.edit(change, label=f"Called {name}")

    def row(self) -> models.Build:
        return models.Build.objects.get(pk=self.build.pk)

    def test_the_journal_writes_itself_by_evening(self) -> None:
        self.assertEqual(self.get("/journal")["evenings"], [])
        self.rename("Hooter")
        self.post("/made", {"wires": ["w20", "w21"], "step": "ended"})
        self.post("/journal", {"words": " Hole too small. ", "stage": "lay-out", "minutes": 90})
        (evening,) = self.get("/journal")["evenings"]
        self.assertEqual(evening["edits"], ["Called Hooter"])
        self.assertEqual(evening["made"], ["2 cut", "2 ended"])
        self.assertEqual(evening["lines"][0]["words"], "Hole too small.")
        self.assertEqual(self.get("/journal")["minutes"], {"lay-out": 90})
        earlier = timezone.now() - timedelta(days=21)
        models.Made.objects.update(at=earlier)
        self.assertEqual([len(e["made"]) for e in self.get("/journal")["evenings"]], [0, 2])
        self.assertEqual(self.post("/journal", {"words": "  "}, 422)["code"], "empty-line")
        line = evening["lines"][0]["id"]
        self.assertEqual(self.client.delete(f"{self.url}/journal/{line}").status_code, 200)
        self.assertEqual(self.get("/journal")["minutes"], {})

    def test_what_is_done_after_midnight_is_of_the_evening_before(self) -> None:
        self.post("/journal", {"words": "Late."})
        late = timezone.localtime().replace(hour=1, minute=30)
        models.JournalLine.objects.update(at=late)
        (evening,) = self.get("/journal")["evenings"]
        self.assertEqual(evening["day"], (late.date() - timedelta(days=1)).isoformat())

    def test_the_next_hour_is_about_an_hour_of_wires_not_cut(self) -> None:
        first = self.get("/journal")["next"]
        self.assertLessEqual(first["minutes"], 60)
        self.assertFalse(first["at_hand"])
        made = self.get("/make")["workshop"]["wires"]
        mine = [row["id"] for row in made if row["circuit_name"] in first["circuits"]]
        self.assertEqual(len(mine), first["wires"])
        self.post("/made", {"wires": mine, "step": "cut"})
        second = self.get("/journal")["next"]
        self.assertFalse(set(first["circuits"]) & set(second["circuits"]))
        self.post("/made", {"wires": [row["id"] for row in made], "step": "cut"})
        self.assertIsNone(self.get("/journal")["next"])

    def test_revisions_are_named_compared_and_gone_back_to(self) -> None:
        begun = to_document(build_at(self.row()))
        self.rename("Hooter")
        self.post("/undo", {"base": 1})
        self.post("/redo", {"base": 2})
        self.rename("Trumpet")
        self.post("/history/1/name", {"name": "before the trumpet"})
        history = self.get("/history")
        self.assertEqual([row["revision"] for row in history], [4, 3, 2, 1])
        self.assertEqual(history[-1]["name"], "before the trumpet")
        told = self.get("/history/compare?before=0&after=4")
        self.assertEqual([row["id"] for row in told["changes"]], ["horn"])
        self.assertEqual(told["figures"]["wires"], [])
        self.assertEqual(self.get("/history/compare?before=2&after=0")["changes"], [])
        answer = self.post("/history/0/back", {"base": 4})
        self.assertEqual(answer["revision"], 5)
        self.assertEqual(to_document(build_at(self.row())), begun)
        self.post("/undo", {"base": 5})
        self.assertEqual(build_at(self.row()).parts["horn"].name, "Trumpet")
        self.assertEqual(
            self.get("/history/compare?before=0&after=99", 422)["code"], "unknown-revision"
        )
        self.assertEqual(self.post("/history/2/back", {"base": 3}, 409)["code"], "stale-base")

    def test_the_book_is_a_pdf_of_the_car_or_of_a_circuit(self) -> None:
        answer = self.client.get(f"{self.url}/book?builder=Nobody%20in%20particular")
        whole = PdfReader(io.BytesIO(answer.content))
        self.assertIn("Nobody in particular", whole.pages[0].extract_text())
        circuit = next(iter(build_at(self.row()).circuits))
        one = PdfReader(io.BytesIO(self.client.get(f"{self.url}/book?circuit={circuit}").content))
        self.assertLess(len(one.pages), len(whole.pages))
        self.assertEqual(self.get("/book?circuit=songs", 422)["code"], "unknown-circuit")

    def test_everything_is_one_archive_that_is_read_back(self) -> None:
        self.rename("Hooter")
        data = self.client.get(f"{self.url}/everything?builder=Nobody").content
        names = zipfile.ZipFile(io.BytesIO(data)).namelist()
        build = build_at(self.row())
        wanted = {f"drawings/{circuit}.svg" for circuit in build.circuits}
        wanted |= {f"tables/{name}.csv" for name in LISTS}
        self.assertLessEqual({*wanted, "drawings/loom-board.svg", "book.pdf"}, set(names))
        again = archive.unpack(data, "car.zip")
        self.assertEqual(to_document(build_at(again)), to_document(build))

    def test_journal_and_names_are_in_the_archive(self) -> None:
        self.rename("Hooter")
        self.post("/history/1/name", {"name": "named"})
        self.post("/journal", {"words": "A line.", "minutes": 5})
        again = archive.unpack(archive.pack(self.row()), "car.zip")
        self.assertEqual(again.edits.get(revision=1).name, "named")
        self.assertEqual(list(again.journal.values_list("words", "minutes")), [("A line.", 5)])
