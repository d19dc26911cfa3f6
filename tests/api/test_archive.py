"""One file for everything of a build, copies of builds, and deletion with a way back."""

import io
import json
import zipfile
from datetime import timedelta
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from PIL import Image

from oilstone.builds import deletion, models
from tests.api.base import ApiTest, add_fog, rename


def jpeg() -> SimpleUploadedFile:
    out = io.BytesIO()
    Image.effect_noise((300, 200), 40).convert("RGB").save(out, "JPEG")
    return SimpleUploadedFile("horn.jpg", out.getvalue(), "image/jpeg")


class ArchiveTest(ApiTest):
    def setUp(self) -> None:
        super().setUp()
        self.edit(rename("Twin horn"), label="Rename")
        self.edit(add_fog(), label="Fog")
        self.move("undo", 2)
        self.client.post(
            f"{self.url}/photos", {"collection": "parts", "identity": "horn", "file": jpeg()}
        )
        steps = self.get("/plan")["steps"]
        horn = next(row for row in steps if row["id"].startswith("works/horn"))
        proof = {"step": horn["id"], "token": horn["token"], "passed": True, "mark": "of-the-horn"}
        told = {"readings": {"volts/horn": "12.1"}, "looks": {"look/horn": "dim"}}
        self.post("/proofs", proof | told | {"note": "loud", "who": "Jo"}, 201)
        self.client.put(
            f"{self.url}/today",
            {"battery": "12.4", "missing": ["radio"]},
            content_type="application/json",
        )
        sent = {"collection": "proofs", "identity": horn["id"], "file": jpeg()}
        self.client.post(f"{self.url}/photos", sent)
        self.step = horn["id"]

    def packed(self) -> bytes:
        return self.client.get(f"{self.url}/archive").content

    def open(self, data: bytes, expect: int = 201) -> Any:
        file = SimpleUploadedFile("car.zip", data, "application/zip")
        return self._answer(self.client.post("/api/archives", {"file": file}), expect)

    def everything(self, build_id: int) -> dict[str, Any]:
        """All that the API tells of a build but its own numbers."""
        url = f"/api/builds/{build_id}"
        photos = self.client.get(f"{url}/photos").json()
        pixels = [self.client.get(f"{url}/photos/{row['id']}").content for row in photos]
        proof = self.client.get(f"{url}/proofs/record?step={self.step}").json()
        view = self.client.get(url).json()
        return {
            "document": self.client.get(f"{url}/document").content,
            "pixels": pixels,
            "photos": [{**row, "id": 0} for row in photos],
            "proofs": [{**row, "id": 0} for row in proof],
            "today": self.client.get(f"{url}/plan").json()["today"],
            "moves": (view["revision"], view["undo"], view["redo"], view["changed"]),
        }

    def test_everything_comes_back(self) -> None:
        opened = self.open(self.packed())
        self.assertNotEqual(opened["id"], self.build.pk)
        self.assertEqual(self.everything(opened["id"]), self.everything(self.build.pk))
        self.url = f"/api/builds/{opened['id']}"
        answer = self.move("redo", 3)
        self.assertEqual(answer["revision"], 4)
        for revision in (4, 5):
            self.move("undo", revision)
        before = json.loads(self.client.get(f"{self.url}/document").content)
        self.assertIn("Horn", [part["name"] for part in before["parts"]])

    def test_a_copy_is_a_build_of_its_own(self) -> None:
        copy = self._answer(self.client.post(f"{self.url}/copies"), 201)["id"]
        names = [row["name"] for row in self.client.get("/api/builds").json()]
        self.assertEqual(names, ["Saltmarsh Roadster", "Saltmarsh Roadster, copy"])
        self.edit(rename("Klaxon"))
        other = self.client.get(f"/api/builds/{copy}/document").json()
        self.assertIn("Twin horn", [part["name"] for part in other["parts"]])

    def test_spoiled_archives_are_refused_whole(self) -> None:
        for words, spoil in (
            ("no archive", lambda files: b"PK\x03\x04 no"),
            ("does not hold build.json", lambda files: files.pop("build.json")),
            ("does not hold photos/", lambda files: files.pop(next(f for f in files if "/" in f))),
            ("misses a revision", lambda files: _drop_first(files, "history.json")),
            ("does not lead", lambda files: _spoil_change(files)),
            (
                "archive.json: format",
                lambda files: files.update({"archive.json": b'{"version":9}'}),
            ),
            ("proofs.json is no list", lambda files: files.update({"proofs.json": b"{}"})),
            ("JSON", lambda files: files.update({"proofs.json": b"["})),
            ("versions 1 to 3", lambda files: _version(files)),
            ("no picture|not a picture", lambda files: _no_photo(files)),
        ):
            with self.subTest(words):
                files = _files(self.packed())
                data = spoil(files)
                problem = self.open(
                    data if isinstance(data, bytes) and data[:2] == b"PK" else _zip(files), 422
                )
                self.assertRegex(problem["message"], words)
        self.assertEqual(models.Build.objects.count(), 1)
        self.assertEqual(models.Photo.objects.count(), 2)

    def test_deleted_is_out_of_sight_and_comes_back_whole(self) -> None:
        before = self.everything(self.build.pk)
        self.assertEqual(self.client.delete(self.url).status_code, 204)
        for path in ("", "/document", "/results", "/archive", "/photos", "/proofs"):
            self.get(path, expect=404)
        self.post("/undo", {"base": 3}, 404)
        self.assertEqual(self.client.get("/api/builds").json(), [])
        [row] = self.client.get("/api/builds?deleted=true").json()
        self.assertEqual((row["id"], row["loads"]), (self.build.pk, 35))
        self.assertEqual(self.client.post(f"{self.url}/bring-back").status_code, 204)
        self.assertEqual(self.everything(self.build.pk), before)

    def test_after_thirty_days_it_is_gone(self) -> None:
        for days, left in ((29, 1), (31, 0)):
            at = timezone.now() - timedelta(days=days)
            models.Build.with_deleted.filter(pk=self.build.pk).update(deleted=at)
            deletion.purge()
            self.assertEqual(models.Build.with_deleted.count(), left)
        self.assertEqual(models.Part.objects.count() + models.Photo.objects.count(), 0)


def _files(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        return {name: packed.read(name) for name in packed.namelist()}


def _zip(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        for name, data in files.items():
            packed.writestr(name, data)
    return out.getvalue()


def _drop_first(files: dict[str, bytes], name: str) -> None:
    files[name] = json.dumps(json.loads(files[name])[1:]).encode()


def _spoil_change(files: dict[str, bytes]) -> None:
    edits = json.loads(files["history.json"])
    edits[0]["changes"][0]["before"] = {"id": "horn", "ghost": 1}
    files["history.json"] = json.dumps(edits).encode()


def _version(files: dict[str, bytes]) -> None:
    files["build.json"] = files["build.json"].replace(b'"version": 3', b'"version": 99')


def _no_photo(files: dict[str, bytes]) -> None:
    files.update({name: b"no pixels" for name in files if name.startswith("photos/")})
