"""Databases that earlier versions of this program left: migrated, read, undone and redone."""

import gzip
import json
import os
import shutil
import tempfile
from pathlib import Path
from unittest import TestCase

from tests.commands import ROOT, run

LEFT = sorted((ROOT / "tests" / "data" / "versions").glob("*.sqlite3.gz"))
LOOK = """
import json, os
import django
django.setup()
from django.test import Client
from circuitry.document.reading import hold, read
client = Client(SERVER_NAME="localhost")
[row] = client.get("/api/builds").json()
url = f"/api/builds/{row['id']}"
def exported():
    text = client.get(url + "/document").content.decode()
    hold(read(text))
    return text
def move(word):
    revision = client.get(url).json()["revision"]
    answer = client.post(url + "/" + word, json.dumps({"base": revision}), "application/json")
    assert answer.status_code in (200, 409), answer.content
    return answer.status_code == 200
newest = exported()
undone = 0
while move("undo"):
    exported()
    undone += 1
oldest = exported()
redone = 0
while move("redo"):
    exported()
    redone += 1
assert exported() == newest, "undo and redo did not lead back"
assert oldest != newest
proofs = client.get(url + "/proofs").json()["states"]
photos = client.get(url + "/photos").json()
print(json.dumps([undone, redone, len(proofs), len(photos), "Twin horn" in newest]))
"""


class VersionsTest(TestCase):
    def test_each_database_opens_with_its_whole_history(self) -> None:
        self.assertEqual(len(LEFT), 4)
        for number, file in enumerate(LEFT):
            with self.subTest(file.name):
                data = Path(tempfile.mkdtemp(prefix="oilstone-old-"))
                self.addCleanup(shutil.rmtree, data, ignore_errors=True)
                (data / "oilstone.sqlite3").write_bytes(gzip.decompress(file.read_bytes()))
                self.run_in(data, "manage.py", "migrate", "-v0")
                said = self.run_in(data, "-c", LOOK)
                edits, photos = ((5, 0), (9, 1), (9, 1), (11, 1))[number]
                self.assertEqual(json.loads(said.splitlines()[-1]), [edits, edits, 1, photos, True])

    def run_in(self, data: Path, *arguments: str) -> str:
        environment = {
            **os.environ,
            "OILSTONE_DATA": str(data),
            "DJANGO_SETTINGS_MODULE": "oilstone.settings",
        }
        done = run(arguments, environment)
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])
        return done.stdout
