"""Documents that earlier versions of this program wrote are read, and are then like any other."""

import json
from pathlib import Path
from unittest import TestCase

from circuitry.design.model import VERSION
from circuitry.document.reading import hold, read, write
from circuitry.sizing import size_build
from tests.core.cars import lamp_document

WRITTEN = sorted((Path(__file__).parents[1] / "data" / "versions").glob("*.json"))


class VersionsTest(TestCase):
    def test_each_document_is_read_written_and_sized(self) -> None:
        self.assertEqual(len(WRITTEN), 4)
        for file in WRITTEN:
            with self.subTest(file.name):
                build = read(file.read_bytes())
                hold(build)
                self.assertEqual(json.loads(write(build))["version"], VERSION)
                self.assertEqual(read(write(build)), build)
                self.assertIn("horn", size_build(build).loads)

    def test_what_pins_did_in_free_words_is_one_of_the_list(self) -> None:
        pins = read(WRITTEN[1].read_bytes()).parts["cluster"].pins
        functions = ["input", "supply", "ground", "bus", ""]
        self.assertEqual([pin.function for pin in pins], functions)

    def test_what_could_be_stored_beyond_its_range_is_brought_within(self) -> None:
        for file in WRITTEN[1:]:
            build = read(file.read_bytes())
            self.assertEqual(build.runs["bay-to-dash"].hole_mm, 200)
            self.assertEqual(build.runs["dash-to-tail"].fixings_mm, 20)
            self.assertEqual(build.parts["horn"].note, "chrome  one")

    def test_figures_beyond_belief_and_twin_runs(self) -> None:
        old = lamp_document() | {"version": 1}
        old["parts"][3]["figures"] = {"rated_w": 1e50, "test_v": 13.0}
        old["places"] += [{**old["places"][0], "id": "tail", "name": "Tail"}]
        run = {"from_place": "bench", "to_place": "tail", "length_m": 0}
        back = {"from_place": "tail", "to_place": "bench", "length_m": 9}
        old["runs"] = [{"id": "first", **run}, {"id": "second", **back}]
        build = read(json.dumps(old))
        self.assertEqual(dict(build.parts["lamp"].figures), {"test_v": 13.0})
        self.assertEqual([(row.id, row.length_m) for row in build.runs.values()], [("first", 0.01)])
