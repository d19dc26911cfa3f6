"""After any edit that is accepted, odd ones too, export, import and undo give the same build."""

import random
from unittest import TestCase

from circuitry.document.reading import read, write
from circuitry.edits import apply_changes, apply_operations, differences, inverse
from circuitry.errors import UnusableInput
from tests.core.cars import roadster
from tests.core.odd_edits import odd_edits

EDITS, FRESH_EVERY = 600, 40


class OddEditsTest(TestCase):
    def test_what_is_accepted_reads_back_and_is_undone(self) -> None:
        draw, build, made, refused = random.Random(15), roadster(), 0, 0
        for number in range(EDITS):
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
        self.assertGreater(made, EDITS / 10)
        self.assertGreater(refused, EDITS / 4)

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
