"""After any edit that is accepted, odd ones too, export, import and undo give the same build."""

import json
import random
import time
from unittest import TestCase

from circuitry.document.reading import read, write
from circuitry.edits import apply_changes, apply_operations, differences, inverse
from circuitry.errors import UnusableInput
from oilstone.builds import models, storage
from tests.api.base import ApiTest
from tests.core.cars import ROOT, roadster
from tests.fuzz import FUZZ, SEED
from tests.fuzz.odd_edits import odd_edits

EDITS, FRESH_EVERY = 600, 40
POSTED = 30
LONGEST_S = 30.0
"""On a machine that is busy with other tests; how long edits take is measured by ``make bench``."""
LIVING = ("demo/quarrel-hill-rally-coupe.json", "demo/fernhill-half-ton-van.json")


class OddEditsTest(TestCase):
    def test_what_is_accepted_reads_back_and_is_undone(self) -> None:
        draw, build, made, refused = random.Random(14 + SEED), roadster(), 0, 0
        for number in range(EDITS * FUZZ):
            if number % FRESH_EVERY == 0:
                build = roadster()
            edit = next(odd_edits(build, draw))
            with self.subTest(number=number, edit=edit):
                try:
                    after = apply_operations(build, [edit])
                except UnusableInput as problem:
                    self.assertGreater(len(problem.message), 15)
                    refused += 1
                    continue
                text = write(after)
                self.assertEqual(read(text.encode()), after)
                changes = differences(build, after)
                self.assertEqual(apply_changes(build, changes), after)
                self.assertEqual(write(apply_changes(after, inverse(changes))), write(build))
                build = after
                made += 1
        self.assertGreater(made, EDITS * FUZZ / 10)
        self.assertGreater(refused, EDITS * FUZZ / 4)

    def test_the_edits_that_used_to_be_stored_are_refused(self) -> None:
        build = roadster()
        run, load = next(iter(build.runs)), "horn"
        cells = {"op": "set_cells", "rows": [{"part": load, "cells": {"note": "bell \x07"}}]}
        for edit, words in (
            ({"op": "set_run", "run": run, "cells": {"hole": "250 mm"}}, "at most 200"),
            ({"op": "set_run", "run": run, "cells": {"fixings": "10 mm"}}, "at least 20"),
            ({"op": "set_figures", "part": load, "cells": {"rated_a": "1" + "0" * 50}}, "Horn"),
            (cells, "not written as expected"),
        ):
            with self.assertRaisesRegex(UnusableInput, words):
                apply_operations(build, [edit])

    def test_a_line_feed_at_the_end_is_no_name(self) -> None:
        edit = {"op": "change", "collection": "parts", "id": "horn", "fields": {"name": "Horn\n"}}
        with self.assertRaisesRegex(UnusableInput, "not written as expected"):
            apply_operations(roadster(), [edit])


class PostedEditsTest(ApiTest):
    def test_several_at_once_are_one_edit_or_refused_in_words(self) -> None:
        draw = random.Random(SEED)
        builds = [storage.create(read((ROOT / car).read_bytes())) for car in LIVING]
        made = 0
        for number in range(POSTED * FUZZ):
            row = models.Build.objects.get(pk=draw.choice(builds).pk)
            build = read(self.client.get(f"/api/builds/{row.pk}/document").content)
            edits = odd_edits(build, draw)
            sent = [next(edits) for _ in range(draw.choice((1, 1, 2, 4)))]
            try:
                body = json.dumps({"base": row.revision, "label": "Odd", "operations": sent})
            except (TypeError, ValueError):
                continue
            began = time.perf_counter()
            url = f"/api/builds/{row.pk}"
            answer = self.client.post(f"{url}/edits", body, content_type="application/json")
            said = (number, sent, answer.content[:300])
            self.assertIn(answer.status_code, (200, 400, 422), said)
            self.assertLess(time.perf_counter() - began, LONGEST_S, said)
            if answer.status_code != 200:
                self.assertGreater(len(answer.json()["message"]), 15, said)
                continue
            after = self.client.get(f"{url}/document").content
            read(after)
            self.assertEqual(self.client.get(f"{url}/results").status_code, 200, said)
            revision = answer.json()["revision"]
            if revision == row.revision:
                continue
            made += 1
            for word, wanted in (("undo", write(build).encode()), ("redo", after)):
                moved = json.dumps({"base": revision})
                kept = self.client.post(f"{url}/{word}", moved, content_type="application/json")
                self.assertEqual(kept.status_code, 200, (said, kept.content[:300]))
                revision = kept.json()["revision"]
                self.assertEqual(self.client.get(f"{url}/document").content, wanted, said)
        self.assertGreater(made, 0)
